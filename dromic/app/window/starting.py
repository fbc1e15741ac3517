"""The view to start from, joined to what it begins."""

from __future__ import annotations

from pathlib import Path

from dromic.app.book.school_cards import SETTING
from dromic.app.book.start_view import StartView
from dromic.app.kit import stored
from dromic.app.window.shell import Shell
from dromic.store.glances import Glances


def start_view(shell: Shell, demo: Path) -> StartView:
    """What can be begun with, with recent work as it was saved and with what was lost."""
    view = StartView(demo, shell.looks.theme)
    view.show_choices(
        shell.files.recent,
        shell.files.leftovers(),
        Glances(shell.papers.glances_folder).of,
        stored.text(shell.settings, SETTING),
    )
    view.plays.connect(shell.handing_on.play_kind)
    view.begin.connect(shell.new_book)
    view.begin.connect(shell.hints.begin)
    view.guide.connect(shell.show_guide)
    view.paste.connect(shell.paste_new)
    view.ask_open.connect(shell.files.ask_open)
    view.open_path.connect(shell.open_file)
    view.recover.connect(shell.files.recover)
    return view
