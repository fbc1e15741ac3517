"""The Plan place: chart, overview, choices, verdict and findings of one phrase, planned off the interface thread."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import replace
from fractions import Fraction
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QTabWidget, QVBoxLayout, QWidget

from dromic import presets
from dromic.app.book.open_book import OpenBook
from dromic.app.chart.chart_view import ChartView
from dromic.app.chart.neck_view import NeckView
from dromic.app.chart.overview import Overview
from dromic.app.kit.theme import Theme, font
from dromic.app.kit.worker import Worker
from dromic.app.plan.choices_panel import ChoicesPanel
from dromic.app.plan.counts_list import CountsList
from dromic.app.plan.findings_list import FindingsList
from dromic.app.plan.pins_list import PinsList
from dromic.app.plan.verdict import Verdict
from dromic.app.plan.what_if_list import WhatIfList
from dromic.core.music.phrase import Phrase
from dromic.core.plan.finding import Change, Finding
from dromic.core.plan.plan import Plan
from dromic.core.reports.chart import Chart, chart
from dromic.core.reports.explain import explain_event
from dromic.core.search.meant_pins import solve_meant, stated
from dromic.core.search.planner import Solved
from dromic.core.setup.choices import Choices
from dromic.core.setup.pin import Pin
from dromic.core.values.progress import Progress
from dromic.plan_requests import not_here, request_for
from dromic.store.roster import Roster

if TYPE_CHECKING:
    from dromic.core.music.edit import Span

SIDE_WIDTH = 330
ADVISE_AFTER_MS = 150
"""how long a plan stands before remedies are looked for"""


def _pins(plan: Plan, event: int, what: str, value: str) -> list[Pin]:
    """What to pin of an event: a stroke or finger as told, or what the plan has there."""
    lead = plan.events[event][0]
    place = plan.place_in_chord(lead)
    pinned: dict[str, list[tuple[str, int | str]]] = {
        "stroke": [("stroke", value)],
        "finger": [("string", lead.string), ("finger", value)],
        "string": [("string", lead.string)],
        "place": [("string", lead.string), ("finger", lead.finger), ("stroke", lead.stroke)],
    }
    return [Pin(event, 0 if field == "stroke" else place, field, of) for field, of in pinned[what]]


class PlanPlace(QWidget):
    """Shows the plan of the phrase that stands open under what is chosen for it."""

    noticed = pyqtSignal(str, bool)
    """a sentence, and whether it is only a remark"""
    planned = pyqtSignal()
    edit_asked = pyqtSignal(object, str)
    """the phrase with something written into it, and what"""

    def __init__(self, open_book: OpenBook, roster: Roster, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.open_book, self.roster = open_book, roster
        self.whole: Phrase | None = None
        """the phrase that stands open, once there is one"""
        self.passage: Span | None = None
        """what is planned alone, None for the whole phrase"""
        self.plan: Plan | None = None
        self.solved: Solved | None = None
        self._new_phrase = self._stale = False
        self._planned_for: object = None
        """the phrase and the passage that the plan shown was made for"""
        self.advising = False
        self._advise_soon = QTimer(self)
        self._advise_soon.setSingleShot(True)
        self._advise_soon.setInterval(ADVISE_AFTER_MS)
        self._advise_soon.timeout.connect(self._ask_advice)
        self.planner, self.adviser, self.supposer = Worker(self), Worker(self), Worker(self)
        self.chart, self.overview, self.neck = ChartView(), Overview(), NeckView()
        self.panel, self.verdict, self.findings = ChoicesPanel(), Verdict(), FindingsList()
        self.what_if, self.pins, self.counts, self.tabs = WhatIfList(), PinsList(), CountsList(), QTabWidget()
        self.why = QLabel()
        self._build()
        self._connect()
        self.show_players()

    def _build(self) -> None:
        self.why.setMinimumHeight(92)
        self.why.setFont(font(13))
        self.why.setMargin(8)
        self.why.setTextFormat(Qt.TextFormat.PlainText)
        self.why.setAccessibleName("why and how much")
        self.why.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.why.setWordWrap(True)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.chart, 1)
        left.addWidget(self.overview)
        below = QHBoxLayout()
        below.setSpacing(0)
        below.addWidget(self.why, 2)
        below.addWidget(self.neck, 3)
        left.addLayout(below)
        side = QWidget()
        side.setObjectName("side")
        side.setFixedWidth(SIDE_WIDTH)
        column = QVBoxLayout(side)
        column.setContentsMargins(12, 6, 12, 10)
        column.addWidget(self.verdict)
        rule = QFrame()
        rule.setFrameShape(QFrame.Shape.HLine)
        column.addWidget(rule)
        column.addWidget(self.panel)
        self.tabs.setDocumentMode(True)
        for widget, text in (
            (self.findings, "Findings"), (self.what_if, "What if"), (self.pins, "Pins"), (self.counts, "Counts"),
        ):  # fmt: skip
            self.tabs.addTab(widget, text)
        column.addWidget(self.tabs, 1)
        middle = QHBoxLayout(self)
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addLayout(left, 1)
        middle.addWidget(side)
        self._explain(None)

    def _connect(self) -> None:
        self.panel.changed.connect(self._choose)
        self.verdict.kept_asked.connect(self.choose)
        self.planner.answered.connect(self._was_planned)
        self.planner.refused.connect(self._was_refused)
        self.planner.busy.connect(lambda on: self.verdict.setEnabled(not on))
        self.adviser.answered.connect(self._was_advised)
        self.adviser.busy.connect(self._advise)
        self.chart.selected_changed.connect(self._explain)
        self.chart.pin_asked.connect(self.pin)
        self.chart.window_changed.connect(self.overview.set_window)
        self.overview.pointed.connect(self.chart.centre_on)
        self.findings.chosen.connect(self._jump)
        self.chart.what_if_asked.connect(self.ask_what_if)
        self.chart.neck_asked.connect(self.toggle_neck)
        self.chart.selected_changed.connect(lambda _: self._suppose())
        self.tabs.currentChanged.connect(lambda _: self._fill_tab())
        self.supposer.answered.connect(self.what_if.show_choices)
        self.supposer.refused.connect(self.what_if.say)
        self.what_if.tried.connect(self.make)
        self.pins.lifted.connect(self.lift)
        self.pins.all_lifted.connect(lambda: self.pin("none", "all"))
        self.pins.chosen.connect(lambda event: self.chart.select(event - self.first_event))

    @property
    def choices(self) -> Choices:
        return self.open_book.choices

    def open_phrase(self) -> None:
        """Another phrase stands open."""
        self.whole, self.passage = self.open_book.phrase, None
        self._new_phrase = self._stale = True

    @property
    def phrase(self) -> Phrase | None:
        """What is planned."""
        if self.whole is None or self.passage is None:
            return self.whole
        from dromic.core.music.edit import cut

        return cut(self.whole, self.passage)

    @property
    def first_event(self) -> int:
        """The number of the first event planned, among those of the whole phrase."""
        if self.whole is None or self.passage is None:
            return 0
        return bisect_left(self.whole.events, self.passage.start, key=lambda e: e.onset)

    def take_passage(self, span: Span | None) -> None:
        """Plan a passage alone, or the whole phrase again; also where the passage lies behind the phrase's end."""
        if span is not None and span.start >= self.open_book.phrase.end:
            span = None
        if span != self.passage:
            self.passage = span
            self._new_phrase = self._stale = True

    def edited(self) -> None:
        """The phrase, or what is chosen for it, has changed."""
        self.whole = self.open_book.phrase
        self.take_passage(self.passage)
        self._stale = True

    def catch_up(self) -> None:
        """Plan what has changed since the place was last seen."""
        if self._stale:
            self.replan()

    def show_players(self) -> None:
        """The players at hand have changed."""
        self.panel.show_players(self.roster.players)

    def _show_decision(self) -> None:
        """The plan that has been kept for this phrase, and whether it is the one shown."""
        self.verdict.show_decisions(self.open_book.entry.decisions, self.choices)

    def choose(self, choices: Choices) -> None:
        """Other choices, as if made beside the chart."""
        if choices != self.choices:
            self._choose(choices)

    def pin(self, what: str, value: str) -> None:
        """Pin something of the chosen notes (a stroke, a finger, their strings, all of their places), or lift pins."""
        plan, made = self.plan, self.choices
        if what == "none" and value == "all":
            made = made.freed(None)
        elif not self.up_to_date:
            self._say_stale()
        elif what == "none":
            for event in self.chart.span:
                made = made.freed(event + self.first_event)
        elif plan is not None:
            pins = (pin for event in self.chart.span for pin in _pins(plan, event, what, value))
            made = made.toggled(*(pin.moved(self.first_event) for pin in pins))
        if made != self.choices:
            self._choose(made)

    def _say_stale(self) -> None:
        if self.plan is not None:
            self.noticed.emit("The plan shown is of the phrase as it was; the new one is on its way", True)

    def lift(self, pin: Pin | tuple[int, str]) -> None:
        """Lift one pin, or one stroke set against the school."""
        self._choose(self.choices.without(pin))

    def ask_what_if(self) -> None:
        """Show every other way to play the chosen note."""
        self.tabs.setCurrentWidget(self.what_if)
        self.what_if.setFocus()
        self._suppose()

    def _suppose(self) -> None:
        """Work out what else the chosen note could be, while that is looked at."""
        from dromic.core.questions.whatif import what_if

        solved, event = self.solved, self.chart.selected
        if self.tabs.currentWidget() is not self.what_if or solved is None:
            return
        if event is None:
            self.what_if.say("Choose a note in the chart to see every other way to play it.")
            return
        self.what_if.say("Trying every other way to play this note\u2026")
        self.supposer.start(lambda progress: what_if(solved, event, progress))

    def _fill_tab(self) -> None:
        """What only one tab needs is worked out while it is looked at."""
        self._suppose()
        if self.tabs.currentWidget() is self.counts:
            self.counts.show_plan(self.plan)

    def next_finding(self, by: int) -> None:
        """Go to the next finding, or the one before."""
        self.tabs.setCurrentWidget(self.findings)
        self.findings.step(by)

    def apply_remedy(self) -> None:
        """Do what the chosen finding says would help most."""
        finding = self.findings.current()
        remedy = finding.remedy if finding is not None else None
        if remedy is None:
            self.noticed.emit("Choose a finding that says what to try, with F8", False)
        else:
            self.make(remedy.change)

    def make(self, change: Change) -> None:
        """Do one change: pin it, set it, or write it into the phrase where it is the phrase that changes."""
        if not self.up_to_date:
            self._say_stale()
            return
        if change.attack is not None and self.whole is not None and self.phrase is not None:
            from dromic.core.music.edit import INSTANT, Span, stated

            event, attack = change.attack
            at = self.phrase.events[event].onset + (self.passage.start if self.passage is not None else 0)
            self.edit_asked.emit(stated(self.whole, Span(at, at + INSTANT), "attack", attack), change.text)
            self.noticed.emit(f"Written into the phrase: {change.text}. Ctrl+Z takes it back", True)
            return
        first = self.first_event
        made = self.choices.pinned(*(pin.moved(first) for pin in change.pins))
        if change.override is not None:
            event, stroke = change.override
            made = made.overridden(event + first, stroke)
        if change.start is not None:
            made = replace(made, start=change.start)
        if change.lean is not None:
            leans = presets.other_leans()[change.lean]
            made = replace(made, lean=next(n for n, states in presets.leans().items() if states == leans))
        self._choose(made)
        self.noticed.emit(f"Tried: {change.text}. Ctrl+Z takes it back", True)

    def _choose(self, choices: Choices) -> None:
        # the tempo wheel turned on is one step back
        only_tempo = replace(choices, tempo=self.choices.tempo) == self.choices
        self.open_book.choose(choices, merge=("tempo", self.open_book.index) if only_tempo else None)

    def replan(self) -> None:
        """Plan anew under what is chosen; the old chart stays until the new one is there."""
        choices = self.choices
        self.panel.show_choices(choices)
        self.panel.show_stated(stated(self.open_book.phrase))
        self.pins.show_choices(choices)
        self._show_decision()
        count = len(choices.pins) + len(choices.overrides)
        self.tabs.setTabText(self.tabs.indexOf(self.pins), f"Pins: {count}" if count else "Pins")
        phrase = self.phrase
        if phrase is None:
            return
        self._stale = False
        self.noticed.emit("", True)
        self._advise_soon.stop()
        self.adviser.cancel()
        self.supposer.cancel()
        if not phrase.events:
            self.planner.cancel()
            self._show_none("This phrase has no notes yet: write some on Write")
            return

        players = self.roster.players
        missing = "; ".join(not_here(choices, players))
        if missing:
            self.noticed.emit(missing[:1].upper() + missing[1:], True)
        asked = choices.within(self.first_event, len(phrase.events))

        planned_for = self.whole, self.passage

        def job(progress: Progress) -> tuple[Solved, Chart, object]:
            solved = solve_meant(request_for(phrase, asked, players), progress)
            return solved, chart(solved.plan), planned_for  # judged and laid out here, off the interface thread

        self.planner.start(job)

    def _was_planned(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        self.solved, drawn, self._planned_for = answer
        assert isinstance(self.solved, Solved)
        self.plan = self.solved.plan
        self.chart.show_plan(self.plan, not self._new_phrase, drawn)
        self._new_phrase = False
        self.overview.set_chart(self.chart.chart)
        self.panel.draw_leans(self.roster.named(self.choices.player), self.plan.request.instrument)
        self.verdict.show_plan(self.plan)
        self.neck.show_plan(self.plan, self.chart.selected or 0)
        self._show_findings(self.plan)
        self._explain(self.chart.selected)
        if self.passage is not None:
            self.noticed.emit("A passage, planned alone; F3 goes back to the whole phrase", True)
        if self.plan.notices:
            self.noticed.emit("Note: " + "; ".join(self.plan.notices), True)
        self._advise_soon.start()
        self._fill_tab()
        self.planned.emit()

    def _show_none(self, why: str) -> None:
        """There is no plan of this phrase."""
        self.plan = self.solved = None
        self.neck.show_plan(None, 0)
        self.chart.show_message(why)
        self.overview.set_chart(None)
        self.verdict.show_plan(None)
        self.findings.set_plan(None)
        self.tabs.setTabText(self.tabs.indexOf(self.findings), "No findings")
        self.counts.show_plan(None)
        self.what_if.say("There is no plan to ask about.")
        self._explain(None)

    def _was_refused(self, sentence: str) -> None:
        """What was on screen stays, if it is of the phrase as it stands."""
        stroke = any(pin.field == "stroke" for pin in self.choices.pins)
        hint = ". What if (W) sets a stroke against the school" if stroke else ""
        sentence = sentence[:1].upper() + sentence[1:]
        self.noticed.emit(sentence + hint, False)
        if self.plan is None or self._planned_for != (self.whole, self.passage):
            self._show_none(sentence)

    def _ask_advice(self) -> None:
        """Look for remedies, once the player has let a plan stand for a moment."""
        from dromic.core.questions.remedies import with_remedies

        solved = self.solved
        if solved is not None:
            self.adviser.start(lambda progress: with_remedies(solved, presets.other_leans(), progress))

    def _was_advised(self, answer: object) -> None:
        """Findings come back with what to change; the place chosen stays chosen."""
        assert isinstance(answer, Plan)
        if self.plan is not None and answer.request is self.plan.request:
            self.plan = answer
            self._show_findings(answer)

    def _show_findings(self, plan: Plan) -> None:
        self.findings.set_plan(plan)
        count = len(plan.findings)
        self.tabs.setTabText(self.tabs.indexOf(self.findings), f"Findings: {count}" if count else "No findings")
        self.tabs.setTabToolTip(self.tabs.indexOf(self.findings), f"In {len(self.findings.rows())} places")

    @property
    def up_to_date(self) -> bool:
        """Whether the plan shown is of the phrase as it stands, so that its notes are the phrase's: another plan may be
        on its way."""
        return self.plan is not None and not self._stale and self._planned_for == (self.whole, self.passage)

    @property
    def waiting_for_advice(self) -> bool:
        return self.advising or self._advise_soon.isActive()

    def _advise(self, on: bool) -> None:
        self.advising = on

    def toggle_neck(self) -> None:
        """Show or hide the neck."""
        self.neck.setVisible(not self.neck.isVisible())

    def _explain(self, event: int | None) -> None:
        self.neck.show_event(event or 0)
        if event is None or self.plan is None or self.chart.chart is None:
            self.why.setText(
                "Click a note, or press F6 and use the arrow keys, to see what each hand does to get there.\n"
                "F8 steps through the findings, F9 does what the chosen one says would help. On a note: D, U pin its "
                "stroke, 0 to 4 its finger, S its string, P all of it (Shift selects a passage); Delete lifts. "
                "W asks what if, M shows what is damped, N the neck."
            )
        else:
            words = list(explain_event(self.plan, event, self.chart.chart.muting))
            pins = [f"{k.field} {k.value}" for k in self.plan.request.pins if k.event == event]
            if pins:
                words = [words[0] + f"  –  pinned: {', '.join(pins)}", *words[1:]]
            self.why.setText("\n".join(words))

    def _jump(self, finding: Finding) -> None:
        if self.plan is not None:
            self.chart.select(self.plan.notes[finding.at].event)

    def to_play(self, phrase: Phrase) -> tuple[Phrase, Span | None]:
        """The phrase on the plan's strings, from the chosen note on if there is one."""
        if self.plan is None or not self.up_to_date:
            return phrase, None
        from dromic.core.music.edit import Span
        from dromic.core.plan.write_back import POSITIONS, phrase_with_plan

        planned = self.phrase or phrase
        sounding = phrase_with_plan(planned, self.plan, frozenset({POSITIONS})).at_tempo(self.choices.tempo)
        if not self.chart.selected:
            return sounding, None
        return sounding, Span(planned.events[self.chart.selected].onset, planned.end)

    def show_playing(self, at: Fraction | None) -> None:
        """Mark the written time that sounds."""
        if self.plan is not None:
            phrase = self.plan.request.phrase
            self.chart.show_playing(None if at is None else phrase.seconds_at(at))
            if at is not None:
                self.neck.show_event(max(0, bisect_right(phrase.events, at, key=lambda e: e.onset) - 1))

    def set_theme(self, theme: Theme) -> None:
        for part in (self.chart, self.overview, self.neck, self.panel, self.findings, self.what_if):
            part.set_theme(theme)

    def stop(self) -> None:
        """Let running work go; the window closes."""
        self._advise_soon.stop()
        self.planner.close()
        self.adviser.close()
        self.supposer.close()
