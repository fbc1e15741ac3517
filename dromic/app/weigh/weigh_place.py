"""The Weigh place: plans of one phrase made together on worker processes, and every way of telling them apart."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMenu,
    QProgressBar,
    QPushButton,
    QSpinBox,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from dromic import presets
from dromic.app.drawing.lean_icon import lean_icon
from dromic.app.kit.theme import LIGHT, Theme
from dromic.app.weigh.answers_view import QuestionsView
from dromic.app.weigh.candidates import (
    ALTERNATIVE,
    Candidate,
    decision_for,
)
from dromic.app.weigh.side_by_side import SideBySide
from dromic.app.weigh.ways_page import WORK, WaysPage
from dromic.app.weigh.weighing import Weighing
from dromic.core.music.phrase import Phrase
from dromic.core.plan.request import Request
from dromic.core.questions.alternatives import Balance
from dromic.core.questions.questions import Subject
from dromic.core.reports.ceiling_words import about
from dromic.core.reports.comparison import fastest, fastest_words
from dromic.core.search.meant_pins import solve_meant
from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.decision import Decision
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.plan_requests import instrument_for, request_for
from dromic.store.roster import Roster

MOST_ALTERNATIVES = 4


_SHOW_MS = 100
_FASTEST = "against the fastest"
"""The reference where none is chosen."""
_AGAINST_PX = 170
"""Width of the list of references, px."""


class WeighPlace(QWidget):
    """Weighs plans against each other; one can be taken to Plan, and one kept as the decision."""

    noticed = pyqtSignal(str, bool)
    taken = pyqtSignal(object)
    """the choices that make a plan"""
    kept = pyqtSignal(object)
    """a decision"""

    def __init__(self, roster: Roster, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.weighing = Weighing(roster, self)
        self.entries: list[Candidate] = []
        self.current = 0
        self.theme: Theme = LIGHT
        self._stale: set[QWidget | None] = set()
        """pages that do not show the latest entries yet"""
        self.words, self.legend, self.tabs = QLabel(), QLabel(), QTabWidget()
        self.ways, self.side, self.questions = WaysPage(), SideBySide(), QuestionsView(self._asked_about)
        self.bar, self.cancel_button = QProgressBar(), QPushButton("Cancel")
        self.take_button, self.keep_button = QPushButton("Take it to Plan"), QPushButton("Keep this one…")
        self.schools_button, self.leans_button = QPushButton(), QPushButton()
        self.alternatives, self.own = QSpinBox(), QCheckBox("My &way")
        self.against = QComboBox()
        self._build()
        self._tick = QTimer(self)
        self._tick.setInterval(_SHOW_MS)
        self._tick.timeout.connect(lambda: self.bar.setValue(round(100 * self.weighing.worker.share)))
        self._connect()
        self._busy(False)

    def _build(self) -> None:
        self.words.setWordWrap(True)
        self.words.setAccessibleName("what the comparison says")
        self.words.setObjectName("section")
        self.legend.setObjectName("soft")
        self.legend.setAccessibleName("what the marks of this page mean")
        top = QHBoxLayout()
        top.setContentsMargins(10, 2, 10, 0)
        top.addWidget(self.words, 1)
        self._menu(self.schools_button, "&Schools", [(n, s.label) for n, s in presets.schools().items()], "schools")
        leans = [(OWN, "As on Plan"), *presets.lean_labels().items()]
        self._menu(self.leans_button, "&Leans", leans, "leans")
        self.alternatives.setRange(0, MOST_ALTERNATIVES)
        self.alternatives.setPrefix("other ways: ")
        self.alternatives.setToolTip("Plans of the school on Plan that really differ from its best one")
        self.alternatives.setAccessibleName("how many other ways")
        self.own.setChecked(True)
        self.own.setToolTip("Your own strokes and fingers, written or pinned, as one more plan")
        self.against.addItem(_FASTEST, None)
        self.against.setAccessibleName("what the others are held against")
        self.against.setToolTip("What plays otherwise is marked, and counted, against this one")
        self.against.setFixedWidth(_AGAINST_PX)
        for widget in (self.schools_button, self.leans_button, self.alternatives, self.own, self.against):
            top.addWidget(widget)
        for page, text, legend in (
            (self.ways, "Ways", ""),
            (self.side, "Side by side", "wedge and band: played otherwise than in the plan on top; hatched: does not fit"),
            (self.questions, "Questions", "about the plan on Plan; every number is an estimate"),
        ):  # fmt: skip
            self.tabs.addTab(page, text)
            self.tabs.setTabToolTip(self.tabs.count() - 1, legend)
        self.tabs.setDocumentMode(True)
        self.bar.setAccessibleName("share planned")
        row = QHBoxLayout()
        row.setContentsMargins(10, 0, 10, 0)
        row.addWidget(self.bar, 1)
        for button in (self.cancel_button, self.take_button, self.keep_button):
            row.addWidget(button)
        row.addSpacing(14)
        row.addWidget(self.legend, 1)
        self.take_button.setToolTip("Or double-click it, or press Enter on it")
        self.keep_button.setToolTip("Write down that this plan is the one, and why (Ctrl+D)")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(top)
        column.addWidget(self.tabs, 1)
        column.addLayout(row)
        # whoever comes here has the keyboard on what is compared, so that Enter takes it
        self.tabs.currentChanged.connect(lambda _: self.setFocusProxy(self.tabs.currentWidget()))
        self.setFocusProxy(self.tabs.currentWidget())

    def _menu(self, button: QPushButton, text: str, entries: Sequence[tuple[str, str]], field: str) -> None:
        """A menu of things to tick; `field` of Wanted holds what is."""
        menu = QMenu(button)
        menu.aboutToShow.connect(self._draw_leans)
        for name, label in entries:
            action = QAction(label, menu)
            action.setCheckable(True)
            action.setChecked(name in getattr(self.weighing.wanted, field))
            action.setData(name)
            action.toggled.connect(lambda _: self._ticked(menu, field))
            menu.addAction(action)
        button.setObjectName("menu")
        button.setMenu(menu)
        button.setText(text)

    def _connect(self) -> None:
        weighing = self.weighing
        weighing.begun.connect(self._begun)
        weighing.weighed.connect(self._was_weighed)
        weighing.some_weighed.connect(self._show_some)
        weighing.emptied.connect(self._show_none)
        weighing.refused.connect(self.words.setText)
        weighing.busy.connect(self._busy)
        weighing.balanced.connect(self._show_frontier)
        weighing.unbalanced.connect(lambda sentence: self.noticed.emit(sentence, False))
        self.cancel_button.clicked.connect(weighing.cancel)
        self.take_button.clicked.connect(self._take)
        self.keep_button.clicked.connect(self.ask_keep)
        self.ways.taken.connect(self._take)
        self.ways.arranged.connect(lambda _: self._show_page())
        self.ways.balanced.connect(self._tell_balance)
        self.questions.own_asked.connect(self._judge_own)
        for view in (self.ways, self.side):
            view.chosen.connect(self.choose)
        self.alternatives.valueChanged.connect(lambda n: weighing.want(replace(weighing.wanted, alternatives=n)))
        self.own.toggled.connect(lambda on: weighing.want(replace(weighing.wanted, own=bool(on))))
        self.tabs.currentChanged.connect(lambda _: self._show_page())
        self.against.activated.connect(lambda _: self._hold_against())

    def _ticked(self, menu: QMenu, field: str) -> None:
        names = tuple(action.data() for action in menu.actions() if action.isChecked())
        ticked: dict[str, Any] = {field: names}
        self.weighing.want(replace(self.weighing.wanted, **ticked))

    def _draw_leans(self) -> None:
        """Every lean of the menu as a drawing, to scale for the hands and the instrument that are weighed."""
        weighing, menu = self.weighing, self.leans_button.menu()
        if weighing.phrase is None or menu is None:
            return
        player = weighing.roster.named(weighing.choices.player)
        instrument = instrument_for(weighing.phrase, weighing.choices)
        for action in menu.actions():
            leans = presets.leans().get(action.data(), player.leans)
            action.setIcon(lean_icon(leans, player, instrument, self.theme))

    # weighing

    def weigh(self, phrase: Phrase, choices: Choices, kept: Sequence[Decision] = ()) -> None:
        """Plan the phrase in every way wanted, and as it was kept, as far as that has not been done just so."""
        self.weighing.weigh(phrase, choices, kept)

    def _busy(self, on: bool) -> None:
        self.bar.setVisible(on)
        self.cancel_button.setVisible(on)
        self.legend.setVisible(not on)
        for button in (self.take_button, self.keep_button):
            button.setVisible(not on)
            button.setEnabled(bool(self.entries))
        (self._tick.start if on else self._tick.stop)()

    def _begun(self) -> None:
        self.questions.forget()
        self.current = -1
        self.words.setText("Planning the phrase in every way…")

    def _show_none(self, why: str) -> None:
        self._show([])
        self.words.setText(why)

    def _was_weighed(self, entries: list[Candidate]) -> None:
        self._show(entries)
        self.words.setText(self._verdict())

    def _show_some(self, entries: list[Candidate]) -> None:
        """Those that are planned so far, in the picture alone: what is said of all of them waits for the last."""
        self.entries, there = entries, [e.plan for e in entries]
        self._stale = {self.ways, self.side}
        if not (0 <= self.current < len(there)) or there[self.current] is None:  # what a player chose meanwhile stays
            self.current = fastest(there) or 0
        self._fill(self.tabs.currentWidget())
        planned = len(there) - there.count(None)
        self.words.setText(f"Planning the phrase in every way… {planned} of {len(there)} so far")

    def _show(self, entries: list[Candidate]) -> None:
        """Other candidates on every page."""
        self.entries = entries
        self._stale = {self.ways, self.side}
        held = self.against.currentText()
        self.against.clear()
        self.against.addItem(_FASTEST, None)
        for number, entry in enumerate(entries):
            if entry.plan is not None:
                self.against.addItem(f"against {entry.label}", number)
        self.against.setCurrentIndex(max(0, self.against.findText(held)))
        self._fill(self.tabs.currentWidget())
        self.choose(fastest([e.plan for e in entries]) or 0)
        self._busy(False)
        self._show_page()

    def _verdict(self) -> str:
        refused = [e.label for e in self.entries if e.plan is None]
        if len(refused) == len(self.entries):
            return "No way chosen can play this phrase: " + self.entries[0].refused
        words = fastest_words([e.label for e in self.entries], [e.plan for e in self.entries])
        if self.weighing.wanted.alternatives and not any(e.kind == ALTERNATIVE for e in self.entries):
            words += " No other way of the school on Plan differs enough to show."
        return words + (f" Not possible here: {', '.join(refused)}." if refused else "")

    # what is shown

    @property
    def reference(self) -> int | None:
        """The entry that the others are held against; None where there is none."""
        chosen = self.against.currentData()
        return chosen if isinstance(chosen, int) else fastest([e.plan for e in self.entries])

    def _hold_against(self) -> None:
        """Another entry to hold the others against."""
        self._stale |= {self.ways, self.side}
        self._fill(self.tabs.currentWidget())

    def choose(self, number: int) -> None:
        """Make an entry the current one, in every view."""
        self.current = number
        for view in (self.ways, self.side):
            if view not in self._stale:
                view.set_current(number)
        planned = 0 <= number < len(self.entries) and self.entries[number].plan is not None
        label = self.entries[number].label if planned else ""
        if planned and self.entries[number].why:
            self.words.setText(f"{label}. {self.entries[number].why}")
        self.take_button.setText(f"Take {label} to Plan" if planned else "Take it to Plan")
        self.keep_button.setText(f"Keep {label}…" if planned else "Keep this one…")
        for button in (self.take_button, self.keep_button):
            button.setEnabled(planned)

    def _fill(self, page: QWidget | None) -> None:
        """Show the entries on a page that does not show them yet; pages not looked at wait, so that none is held up."""
        if page not in self._stale:
            return
        self._stale.discard(page)
        for view in (self.ways, self.side):
            if view is page:
                view.show_entries(self.entries, self.reference)
                view.set_current(self.current)

    def _show_page(self) -> None:
        """What only one page needs is worked out when it is looked at."""
        page = self.tabs.currentWidget()
        self.legend.setText(self.ways.legend if page is self.ways else self.tabs.tabToolTip(self.tabs.currentIndex()))
        self._fill(page)
        if page is self.ways and self.ways.arrangement == WORK:
            request = self._asked()
            if request is not None:
                self.weighing.balance(request)
        elif page is self.questions and self.questions.on_own_way:
            self._judge_own()

    def _asked(self) -> Request | None:
        """What is asked for on Plan; None where nothing can be."""
        weighing = self.weighing
        if weighing.phrase is None or not weighing.phrase.events or not self.entries:
            self.questions.own_way.forget("This phrase has no notes yet.")
            return None
        try:
            return weighing.request()
        except DromicError as error:  # no plan can be asked for, on this instrument say
            self.questions.own_way.forget(str(error))
            return None

    def _judge_own(self) -> None:
        request = self._asked()
        if request is not None:
            self.questions.own_way.judge(request)

    def _show_frontier(self, found: object) -> None:
        self.ways.plot().show_frontier(found)  # type: ignore[arg-type]

    def _tell_balance(self, one: Balance) -> None:
        self.noticed.emit(
            f"Picking work {one.picking_work:.1f}, fretting work {one.fretting_work:.1f}, {one.unpicked} notes unpicked, "
            f"ceiling {about(one.plan.ceiling)}: no other plan of this school is better at all three",
            True,
        )

    def _asked_about(self) -> Callable[[Progress], Subject] | None:
        weighing = self.weighing
        if weighing.phrase is None or not weighing.phrase.events:
            return None
        phrase, choices, players = weighing.phrase, weighing.choices, weighing.roster.players
        weighed = [(e.label, e.plan) for e in self.entries]
        tempo, leans = choices.tempo, presets.other_leans()

        def asked(progress: Progress) -> Subject:
            return Subject(solve_meant(request_for(phrase, choices, players), progress), tempo, weighed, leans)

        return asked

    # what is done

    def _take(self) -> None:
        if 0 <= self.current < len(self.entries) and self.entries[self.current].plan is not None:
            self.taken.emit(self.entries[self.current].choices)

    def ask_keep(self) -> None:
        """Ask why, then keep the current plan as the decision; nothing is asked while plans are made."""
        if not (self.keep_button.isVisible() and self.keep_button.isEnabled()):
            return
        label = self.entries[self.current].label
        why, sure = QInputDialog.getText(
            self, f"Keep {label}", "Why this one? (It is kept with the phrase and on its sheet.)"
        )
        if sure:
            self.keep(why.strip())

    def keep(self, why: str) -> None:
        try:
            decision = decision_for(self.entries, self.current, why, date.today().isoformat())
        except DromicError as error:
            self.noticed.emit(str(error), False)
        else:
            self.kept.emit(decision)

    def set_way_up(self, low_on_top: bool) -> None:
        """Which string is on top, wherever strings are drawn."""
        for part in (self.side, self.questions.own_way.strips):
            part.set_way_up(low_on_top)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        for view in (self.ways, self.side, self.questions):
            view.set_theme(theme)

    def stop(self) -> None:
        """The window closes."""
        self.weighing.stop()
        for worker in (self.questions.worker, self.questions.own_way.worker):
            worker.close()
