"""The main window: its parts, the songbook that stands open in it, and what the system tells it."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QSettings, QSize, Qt
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QGuiApplication
from PyQt6.QtWidgets import QMainWindow

from dromic.app.book.files import Files
from dromic.app.book.open_book import OpenBook
from dromic.app.book.planning import Planning
from dromic.app.book.school_cards import SETTING, school_of
from dromic.app.frame.faults import Faults, show_faults
from dromic.app.frame.handing_on import HandingOn
from dromic.app.frame.looks import Looks
from dromic.app.frame.notice import Notice
from dromic.app.frame.pages import Pages
from dromic.app.frame.papers import Papers
from dromic.app.frame.top_bar import TopBar
from dromic.app.kit import stored
from dromic.app.kit import theme as themes
from dromic.app.kit.focus_ring import FocusRing
from dromic.app.kit.roomy import Roomy
from dromic.app.plan.plan_place import PlanPlace
from dromic.app.window.beside_book import BesideBook
from dromic.app.window.hints import Hints
from dromic.app.window.late_pages import LATE_PAGES
from dromic.app.window.window_actions import book_menu, window_actions
from dromic.core.plan.plan import Plan
from dromic.core.values.errors import DromicError
from dromic.presets import DATA
from dromic.store.roster import Roster

SIZE = 1280, 800
"""Width and height of a first window, px."""
MOST_SAID = 3
"""Damaged settings that are named one by one."""


def demo_songbook() -> Path:
    """The songbook that ships with Dromic."""
    return DATA / "songs" / "copper-wren.dromic"


class MainWindow(QMainWindow):
    """One window on one songbook."""

    def __init__(
        self, settings: QSettings, recovery: Path | None = None, players: Path | None = None, log: Path | None = None,
        practice_log: Path | None = None,
    ) -> None:  # fmt: skip
        super().__init__()
        beside = Path(settings.fileName()).parent
        self.settings = settings
        self.setWindowTitle("Dromic")
        self.setAcceptDrops(True)
        self.looks = Looks(settings, self.notify, self)
        self.open_book = OpenBook(self)
        self.files = Files(self.open_book, settings, recovery or beside / "recovery", self)
        self.faults = Faults(
            log or beside / "faults.log", self.files.keep_aside, lambda words: self.notify(words, False), self
        )
        self.practice_log = practice_log or beside / "log.sqlite"
        self.beside = BesideBook(self, self, self.practice_log)
        self.log_keeper, self.claims = self.beside.log, self.beside.claims
        self.roster = Roster(players or beside / "players")
        self.open_book.my_school = school_of(stored.text(settings, SETTING))
        self.open_book.has_player = lambda name: name in self.roster.players
        self.planning = Planning(self.open_book, self.roster, self)
        self.plan_place = PlanPlace(self.planning)
        self.top_bar = TopBar()
        self.tunes = self.top_bar.tunes
        self.hints, self.notice = Hints(self, settings), Notice()
        makers = {name: partial(make, self) for name, make in LATE_PAGES.items()}
        self.pages = Pages(self.plan_place, self.top_bar, self.notice, makers, self.looks.theme, self._fill_screen)
        self.handing_on = HandingOn(self.pages, settings)
        self.papers = Papers(self.pages, self.roster, self, beside / "glances")
        self.transport = self.pages.transport
        self._build()
        self.ring = FocusRing(self)
        self._connect()
        self.looks.dress(self.pages.stack, self.top_bar.theme_button)
        geometry = stored.blob(settings, "geometry")
        if geometry is None or not self.restoreGeometry(geometry):
            self.resize(*SIZE)
        self._fit_screen()
        if left_out := [*stored.damaged(settings), *self.roster.notices]:
            self.notify("Left out: " + "; ".join(left_out[:MOST_SAID]), False)

    def _fit_screen(self) -> None:
        """No larger than the screen it is on."""
        screen = self.screen()
        if screen is not None:
            style, room = self.style(), screen.availableGeometry()
            title = style.pixelMetric(style.PixelMetric.PM_TitleBarHeight) if style is not None else 0
            self.resize(self.size().boundedTo(room.size() - QSize(0, title)))
            if not room.contains(self.geometry()):
                self.move(room.topLeft())

    def _fill_screen(self, whole: bool) -> None:
        """A page takes all of the screen, or gives it back."""
        self.top_bar.setVisible(not whole)
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def _build(self) -> None:
        whole = Roomy()  # on a screen too small for all of it the window scrolls
        self.setCentralWidget(whole)  # before it is filled: what is put elsewhere later is dressed twice
        for part, stretch in (
            (self.top_bar, 0),
            (self.notice, 0),
            (self.hints, 0),
            (self.pages.stack, 1),
            (self.transport, 0),
        ):
            whole.column.addWidget(part, stretch)
        self.plan_place.chart.setFocus()
        bar = self.top_bar
        bar.book_button.setMenu(book_menu(self, self, window_actions(self, self)))
        bar.open_button.setToolTip("Open a file (Ctrl+O), or drop one on the window")
        bar.theme_button.setToolTip("Switch between light and dark (Ctrl+T)")

    def _connect(self) -> None:
        self.top_bar.open_button.clicked.connect(self.files.ask_open)
        self.top_bar.theme_button.clicked.connect(self.looks.switch_theme)
        self.top_bar.chosen.connect(self.pages.choose)
        self.tunes.activated.connect(lambda index: self._open_tune(index + 1))
        self.files.may_interrupt = self._may_interrupt
        for teller in (self.files, self.planning, self.transport):
            teller.noticed.connect(self.notify)
        self.files.saved.connect(self.papers.keep_glance)
        self.files.refused.connect(self._was_refused)
        self.transport.moved.connect(self.pages.follow)
        plan, book = self.plan_place, self.open_book
        plan.panel.hands_asked.connect(lambda: self.pages.go_to("Hands"))
        plan.chart.play_asked.connect(self.transport.toggle)
        book.opened.connect(self._was_opened)
        book.phrase_changed.connect(self._was_changed)
        book.choices_changed.connect(self._was_changed)
        book.listed.connect(self._show_names)
        book.saved_changed.connect(self._show_title)
        book.told.connect(lambda sentence: self.notify(sentence, False))

    @property
    def plan(self) -> Plan | None:
        """The plan on screen."""
        return self.planning.plan

    @property
    def theme(self) -> themes.Theme:
        return self.looks.theme

    def notify(self, sentence: str, calm: bool) -> None:
        """Say something above the place shown."""
        self.notice.say(sentence, calm)

    def ask_differences(self) -> None:
        """Tell what differs between this phrase and another of the book."""
        self.pages.leave_write()
        self.beside.differences.ask()

    def show_guide(self) -> None:
        """The guide, in a window of its own."""
        from dromic.app.frame.guide import open_guide

        open_guide(self)

    def show_what_failed(self) -> None:
        """The log of faults."""
        self.box = show_faults(self.faults.log, self)

    # the songbook

    def start(self) -> None:
        """Show what can be begun with, for a window opened without a file."""
        from dromic.app.window.starting import start_view

        view = start_view(self, demo_songbook())
        self.pages.begin_with(view)
        self.beside.begin(view)

    def open_file(self, path: Path, tune: int = 1) -> None:
        """Read a file on the reader's thread; the phrase on screen stays until it is read."""
        self.notify("", True)
        if self.open_book.source is None:
            self.plan_place.chart.show_message(f"Opening {path.name}…")
        self.files.open(path, tune)

    def _was_refused(self) -> None:
        """What was asked for does not stand open: what was there stays, or there is something to begin with."""
        self._show_names()
        if self.open_book.source is None and not self.pages.stack.starting:
            self.start()

    def new_book(self) -> None:
        if self._may_interrupt() and self.files.may_discard():
            self.open_book.begin_new()
            self.pages.go_to("Write")

    def _may_interrupt(self) -> bool:
        return self.pages.may_interrupt(self)

    def paste_new(self) -> None:
        """Begin with what the clipboard holds, of whatever kind; where it holds nothing to read, what was there stays."""
        from dromic.app.write.write_place import phrase_of_text

        board = QGuiApplication.clipboard()
        assert board is not None
        try:
            phrase = phrase_of_text(board.text())
        except DromicError as error:
            self.notify(f"The clipboard cannot be pasted: {error}", False)
            return
        if self._may_interrupt() and self.files.may_discard():
            self.open_book.begin_new()
            self.open_book.edit(phrase, "paste")
            self.pages.go_to("Write")
            if phrase.notices:
                self.notify("Note: " + "; ".join(phrase.notices), True)

    def _open_tune(self, tune: int) -> None:
        source = self.open_book.source
        if source is not None and source.tunes and source.path is not None:
            if tune != source.tune:
                self.files.open(source.path, tune)
        else:
            self.pages.leave_write()
            self.open_book.turn_to(tune - 1)

    def turn_page(self, by: int) -> None:
        if 1 <= self.open_book.number + by <= len(self.open_book.names):
            self._open_tune(self.open_book.number + by)

    def _was_opened(self) -> None:
        if self.transport.playing:
            self.transport.stop()
        self._show_names()
        self.notify("", True)
        self._show_title()
        self.planning.open_phrase()
        self.claims.look()
        self.pages.end_start()
        self.pages.catch_up()
        if self.open_book.phrase.notices:
            self.notify("Note: " + "; ".join(self.open_book.phrase.notices), True)

    def _was_changed(self) -> None:
        self.planning.edited()
        self._show_title()
        self.pages.catch_up()

    def _show_names(self) -> None:
        self.top_bar.show_names(self.open_book.names, self.open_book.number)

    def _show_title(self) -> None:
        self.setWindowTitle(f"{self.open_book.phrase.title} – {self.open_book.name}[*] – Dromic")
        self.setWindowModified(self.open_book.unsaved)

    # the window itself

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if data is not None and data.urls():
            self.open_file(Path(data.urls()[0].toLocalFile()))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.pages.leave_write()
        if not (self.files.may_discard() and self.pages.may_close()):
            if event is not None:
                event.ignore()
            return
        self.hide()  # what still runs is waited for out of sight
        self.transport.close_down()
        self.settings.setValue("geometry", self.saveGeometry())
        self.settings.sync()
        self.files.close()
        self.papers.close()
        self.planning.stop()
        self.pages.stack.stop()
        self.beside.close()
        super().closeEvent(event)
