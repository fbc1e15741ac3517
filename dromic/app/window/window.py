"""The main window: the places in the order of the work, the phrases of the songbook in hand, and its files."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import QSettings, QSize, Qt
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QGuiApplication
from PyQt6.QtWidgets import (
    QMainWindow,
)  # fmt: skip

from dromic.app.audio.transport import Transport
from dromic.app.book.files import Files
from dromic.app.book.open_book import OpenBook
from dromic.app.book.planning import Planning
from dromic.app.book.school_cards import SETTING, school_of
from dromic.app.kit import stored
from dromic.app.kit import theme as themes
from dromic.app.kit.focus_ring import FocusRing
from dromic.app.kit.roomy import Roomy
from dromic.app.plan.plan_place import PlanPlace
from dromic.app.window.beside_book import BesideBook
from dromic.app.window.faults import Faults, show_faults
from dromic.app.window.hints import Hints
from dromic.app.window.late_pages import FOLLOW_THE_PLAN, LATE_PAGES, SOUND_OF_THEIR_OWN
from dromic.app.window.looks import Looks
from dromic.app.window.notice import Notice
from dromic.app.window.page_stack import PageStack
from dromic.app.window.top_bar import TopBar
from dromic.app.window.window_actions import book_menu, window_actions
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import Entry
from dromic.core.plan.plan import Plan
from dromic.core.values.errors import DromicError
from dromic.presets import DATA
from dromic.store.roster import Roster

if TYPE_CHECKING:
    from dromic.app.book.export import Exporter
    from dromic.app.chart.stand_view import StandView
    from dromic.app.hands.hands_place import HandsPlace
    from dromic.app.listen.listen_place import ListenPlace
    from dromic.app.shed.shed_place import ShedPlace
    from dromic.app.weigh.weigh_place import WeighPlace
    from dromic.app.write.write_place import WritePlace
    from dromic.core.drills.drill import Drill
    from dromic.core.editing.edit import Span
    from dromic.core.setup.choices import Choices
    from dromic.core.setup.decision import Decision
    from dromic.core.setup.player import Player

SIZE = 1280, 800
MOST_SAID = 3


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
        self.beside = BesideBook(self, self.practice_log)
        self.log_keeper, self.claims = self.beside.log, self.beside.claims
        self.glances_folder = beside / "glances"
        self.roster = Roster(players or beside / "players")
        self.open_book.my_school = school_of(stored.text(settings, SETTING))
        self.open_book.has_player = lambda name: name in self.roster.players
        self.planning = Planning(self.open_book, self.roster, self)
        self.plan_place = PlanPlace(self.planning)
        self.exporter: Exporter | None = None
        self.top_bar = TopBar(lambda name: self.plan_all() if name == "Plan" else self.go_to(name))
        bar = self.top_bar
        self.places, self.tunes, self.theme_button = bar.places, bar.tunes, bar.theme_button
        self.book_button, self.open_button = bar.book_button, bar.open_button
        makers = {name: partial(make, self) for name, make in LATE_PAGES.items()}
        self.hints = Hints(self, settings)
        self.notice, self.stack = Notice(), PageStack("Plan", self.plan_place, makers, self.looks.theme)
        self.transport = Transport(self._to_play)
        self._build()
        self.ring = FocusRing(self)
        self._actions()
        self._connect()
        self.looks.dress(self.stack, self.theme_button)
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

    def _build(self) -> None:
        whole = Roomy()  # on a screen too small for all of it the window scrolls
        self.setCentralWidget(whole)  # before it is filled: what is put elsewhere later is dressed twice
        for part, stretch in (
            (self.top_bar, 0),
            (self.notice, 0),
            (self.hints, 0),
            (self.stack, 1),
            (self.transport, 0),
        ):
            whole.column.addWidget(part, stretch)
        self.plan_place.chart.setFocus()

    def _actions(self) -> None:
        self.book_button.setMenu(book_menu(self, self, window_actions(self, self)))
        self.open_button.setToolTip("Open a file (Ctrl+O), or drop one on the window")
        self.theme_button.setToolTip("Switch between light and dark (Ctrl+T)")

    def _connect(self) -> None:
        self.open_button.clicked.connect(self.files.ask_open)
        self.theme_button.clicked.connect(self.looks.switch_theme)
        self.tunes.activated.connect(lambda index: self._open_tune(index + 1))
        self.files.may_interrupt = self._may_interrupt
        self.files.noticed.connect(self.notify)
        self.files.saved.connect(self._keep_glance)
        self.files.refused.connect(self._was_refused)
        self.planning.noticed.connect(self.notify)
        self.transport.noticed.connect(self.notify)
        self.transport.moved.connect(self._follow)
        plan = self.plan_place
        plan.panel.hands_asked.connect(lambda: self.go_to("Hands"))
        plan.chart.play_asked.connect(self.transport.toggle)
        self.open_book.opened.connect(self._was_opened)
        self.open_book.phrase_changed.connect(self._was_changed)
        self.open_book.choices_changed.connect(self._was_changed)
        self.open_book.listed.connect(self._show_names)
        self.open_book.saved_changed.connect(self._show_title)
        self.open_book.told.connect(lambda sentence: self.notify(sentence, False))

    # the places

    @property
    def write_place(self) -> WritePlace:
        return cast("WritePlace", self.stack.page("Write"))

    @property
    def weigh_place(self) -> WeighPlace:
        return cast("WeighPlace", self.stack.page("Weigh"))

    @property
    def shed_place(self) -> ShedPlace:
        return cast("ShedPlace", self.stack.page("Shed"))

    @property
    def listen_place(self) -> ListenPlace:
        return cast("ListenPlace", self.stack.page("Listen"))

    @property
    def hands_place(self) -> HandsPlace:
        return cast("HandsPlace", self.stack.page("Hands"))

    @property
    def stand_view(self) -> StandView:
        return cast("StandView", self.stack.page("Stand"))

    def toggle_stand(self) -> None:
        """To the large view for the music stand and back; it fills the screen."""
        if self.place == "Stand":
            self.go_to("Plan")
            return
        self.go_to("Stand")
        chart = self.plan_place.chart
        self.stand_view.show_plan(self.plan, chart.selected or 0, chart.chart)

    def take_choices(self, choices: Choices) -> None:
        """What was chosen on Weigh, taken to Plan."""
        self.planning.choose(choices)
        self.go_to("Plan")

    def keep_decision(self, decision: Decision) -> None:
        """The plan decided on, kept with the phrase and taken to Plan."""
        self.open_book.decide(decision)
        self.notify(
            f"Kept: {decision.label}. It is saved with the phrase and stands on its sheet; Ctrl+Z takes it back", True
        )

    def take_drill(self, drill: Drill) -> None:
        """A drill as a phrase of its own, after the one it came from, with its strokes and fingers as they are written."""
        self.open_book.add_phrase(drill.phrase)
        self.go_to("Plan")

    def export_drill(self, drill: Drill) -> None:
        """Write a drill as another kind of file, a sound with its click."""
        self._exporter().ask(Entry(drill.phrase), self.open_book.choices, click=True)

    def practise_event(self, event: int) -> None:
        """To Shed, and the drill for a place that went wrong."""
        self.go_to("Shed")
        self.shed_place.choose(event)

    def take_hands(self, player: Player) -> None:
        """Numbers learned from the log, as a change of the hands like any other."""
        self.hands_place.set_player(player, "")
        self.notify("Your hands are now as your passes have them (F7 shows them); Ctrl+Z takes it back", True)

    def _weigh(self) -> None:
        phrase = self.planning.phrase
        if phrase is not None:
            kept = self.open_book.entry.decisions if self.planning.passage is None else ()
            self.weigh_place.weigh(phrase, self.planning.choices, kept)

    def go_to(self, name: str) -> None:
        """Show a page, caught up with the phrase."""
        if name != self.place:
            self.notice.leave()
        large = name == "Stand"
        if large != (self.place == "Stand"):
            self.top_bar.setVisible(not large)
            self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)
        if name != "Write":
            self._leave_write()
        page = self.stack.show_page(name)
        if name in FOLLOW_THE_PLAN:
            self.planning.catch_up()
        elif name == "Weigh":
            self._weigh()
        if name in SOUND_OF_THEIR_OWN and self.transport.playing:
            self.transport.stop()
        if name == "Shed":
            self.shed_place.practise()
        elif name == "Listen":
            self.listen_place.listen()
        self.transport.setVisible(name not in SOUND_OF_THEIR_OWN and not self.stack.starting)
        (self.plan_place.chart if name == "Plan" else page).setFocus()
        self.places[name if name in self.places else "Plan"].setChecked(True)

    def ask_differences(self) -> None:
        """Tell what differs between this phrase and another of the book."""
        self._leave_write()
        self.beside.differences.ask()

    def show_guide(self) -> None:
        """The guide, in a window of its own."""
        from dromic.app.window.guide import open_guide

        open_guide(self)

    def _keep_glance(self, path: Path) -> None:
        """What was saved, as the next start shows it; the plan on screen serves, and none is made for it."""
        if self.plan is not None and self.planning.up_to_date and self.planning.passage is None:
            from dromic.core.reports.glance import glance_of
            from dromic.store.glances import Glances

            Glances(self.glances_folder).keep(path, glance_of(self.plan))

    def show_what_failed(self) -> None:
        """The log of faults."""
        self.box = show_faults(self.faults.log, self)

    def plan_all(self) -> None:
        """The plan of the whole phrase."""
        self.planning.take_passage(None)
        self.go_to("Plan")

    def plan_selection(self) -> None:
        """The plan of what is selected on Write, alone."""
        self.write_place.catch_up()
        span = self.write_place.pen.selection
        if span is None or span.start >= self.open_book.phrase.end:
            self.notify("Nothing is selected: hold Shift and use the arrow keys on Write, then plan it", False)
            return
        self.planning.take_passage(span)
        self.go_to("Plan")

    def _exporter(self) -> Exporter:
        if self.exporter is None:
            from dromic.app.book.export import Exporter

            self.exporter = Exporter(self, self.roster)
            self.exporter.noticed.connect(self.notify)
        self._leave_write()
        return self.exporter

    def export(self) -> None:
        """Write the phrase as another kind of file."""
        self._exporter().ask(self.open_book.entry, self.open_book.choices)

    def print_sheet(self) -> None:
        """The sheet of the phrase, seen before it is printed."""
        self._exporter().preview(self.open_book.entry, self.open_book.choices)

    def _leave_write(self) -> None:
        if "Write" in self.stack:
            self.write_place.line.flush()

    @property
    def place(self) -> str:
        """The name of the page shown."""
        return self.stack.shown

    def play_kind(self, plays: str) -> None:
        """What the player plays, from now on."""
        self.settings.setValue(SETTING, plays)
        self.open_book.play(school_of(plays))

    def start(self) -> None:
        """Show what can be begun with, for a window opened without a file."""
        from dromic.app.window.starting import start_view

        view = start_view(self, demo_songbook())
        self.tunes.setEnabled(False)
        self.transport.hide()  # there is nothing to play yet
        self.stack.begin_with(view)
        self.top_bar.leave()
        self.beside.begin(view)

    def _end_start(self) -> bool:
        """Whether the start view was showing; it is gone now."""
        if not self.stack.end_start():
            return False
        self.tunes.setEnabled(True)
        self.transport.show()
        return True

    def _to_play(self) -> tuple[Phrase, Span | None]:
        """What the play key plays: the selection on Write; on Plan, with its strings, from the note chosen on."""
        phrase = self.open_book.phrase
        if self.place == "Write":
            return phrase, self.write_place.pen.selection
        return self.planning.to_play(phrase, self.plan_place.chart.selected)

    def _follow(self, at: Fraction | None) -> None:
        self.plan_place.show_playing(at)
        if "Stand" in self.stack and self.plan is not None and at is not None:
            self.stand_view.show_playing(self.plan.request.phrase.seconds_at(at))
        if "Write" in self.stack:
            self.write_place.grid.show_playing(at)

    def find_key(self) -> None:
        self.go_to("Write")
        self.write_place.find_key()

    def to_the_chart(self) -> None:
        (self.write_place.grid if self.place == "Write" else self.plan_place.chart).setFocus()

    def zoom(self, factor: float) -> None:
        if self.place == "Write":
            self.write_place.grid.zoom(factor)
        elif self.place == "Stand":
            self.stand_view.zoom(factor)
        else:
            self.plan_place.chart.zoom(factor)

    # the songbook

    @property
    def plan(self) -> Plan | None:
        return self.planning.plan

    def open_file(self, path: Path, tune: int = 1) -> None:
        """Read a file on the reader's thread; the phrase on screen stays until it is read."""
        self.notify("", True)
        if self.open_book.source is None:
            self.plan_place.chart.show_message(f"Opening {path.name}…")
        self.files.open(path, tune)

    def _was_refused(self) -> None:
        """What was asked for does not stand open: what was there stays, or there is something to begin with."""
        self._show_names()
        if self.open_book.source is None and not self.stack.starting:
            self.start()

    def new_book(self) -> None:
        if self._may_interrupt() and self.files.may_discard():
            self.open_book.begin_new()
            self.go_to("Write")

    def _may_close(self) -> bool:
        """Whether what is not saved and not kept is dealt with; asks the player."""
        return self.files.may_discard() and ("Listen" not in self.stack or self.listen_place.may_close())

    def _may_interrupt(self) -> bool:
        """Whether a session that runs may end; asks the player."""
        return "Shed" not in self.stack or self.shed_place.may_end(self)

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
            self.go_to("Write")
            if phrase.notices:
                self.notify("Note: " + "; ".join(phrase.notices), True)

    def _open_tune(self, tune: int) -> None:
        source = self.open_book.source
        if source is not None and source.tunes and source.path is not None:
            if tune != source.tune:
                self.files.open(source.path, tune)
        else:
            self._leave_write()
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
        if self._end_start():
            self.go_to("Plan")
        self._catch_up()
        if self.open_book.phrase.notices:
            self.notify("Note: " + "; ".join(self.open_book.phrase.notices), True)

    def _was_changed(self) -> None:
        self.planning.edited()
        self._show_title()
        self._catch_up()

    def _catch_up(self) -> None:
        """The place shown follows the phrase."""
        if self.place in FOLLOW_THE_PLAN:
            self.planning.catch_up()
        elif self.place == "Weigh":
            self._weigh()

    def _show_names(self) -> None:
        self.top_bar.show_names(self.open_book.names, self.open_book.number)

    def _show_title(self) -> None:
        self.setWindowTitle(f"{self.open_book.phrase.title} – {self.open_book.name}[*] – Dromic")
        self.setWindowModified(self.open_book.unsaved)

    def notify(self, sentence: str, calm: bool) -> None:
        """Say something above the place shown."""
        self.notice.say(sentence, calm)

    # the window itself

    @property
    def theme(self) -> themes.Theme:
        return self.looks.theme

    def set_theme(self, theme: themes.Theme) -> None:
        self.looks.set_theme(theme)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if data is not None and data.urls():
            self.open_file(Path(data.urls()[0].toLocalFile()))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._leave_write()
        if not self._may_close():
            if event is not None:
                event.ignore()
            return
        self.hide()  # what still runs is waited for out of sight
        self.transport.close_down()
        self.settings.setValue("geometry", self.saveGeometry())
        self.settings.sync()
        self.files.close()
        if self.exporter is not None:
            self.exporter.close()
        self.planning.stop()
        self.stack.stop()
        self.beside.close()
        super().closeEvent(event)
