"""What the parts of the window know of it: what it holds and what it can be told, without the window itself."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QComboBox

from dromic.app.audio.transport import Transport
from dromic.app.book.claims import Claims
from dromic.app.book.files import Files
from dromic.app.book.log_keeper import LogKeeper
from dromic.app.book.open_book import OpenBook
from dromic.app.book.planning import Planning
from dromic.app.frame.handing_on import HandingOn
from dromic.app.frame.looks import Looks
from dromic.app.frame.notice import Notice
from dromic.app.frame.pages import Pages
from dromic.app.frame.papers import Papers
from dromic.app.frame.top_bar import TopBar
from dromic.app.plan.plan_place import PlanPlace
from dromic.core.plan.plan import Plan
from dromic.store.roster import Roster


class Guiding(Protocol):
    """What leads through the first phrase."""

    def begin(self) -> None: ...
    def begin_again(self) -> None: ...


class Shell(Protocol):
    """A window as its keys, its menu and its pages see it."""

    settings: QSettings
    open_book: OpenBook
    files: Files
    roster: Roster
    transport: Transport
    looks: Looks
    planning: Planning
    plan_place: PlanPlace
    log_keeper: LogKeeper
    claims: Claims
    notice: Notice
    top_bar: TopBar
    tunes: QComboBox
    pages: Pages
    handing_on: HandingOn
    papers: Papers

    @property
    def hints(self) -> Guiding: ...
    @property
    def plan(self) -> Plan | None: ...
    def notify(self, sentence: str, calm: bool) -> None: ...
    def new_book(self) -> None: ...
    def paste_new(self) -> None: ...
    def open_file(self, path: Path, tune: int = 1) -> None: ...
    def turn_page(self, by: int) -> None: ...
    def ask_differences(self) -> None: ...
    def show_what_failed(self) -> None: ...
    def show_guide(self) -> None: ...
    def close(self) -> bool: ...
