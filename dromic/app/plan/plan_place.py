"""The Plan place: chart, overview, choices, verdict and findings of one phrase, planned off the interface thread."""

from __future__ import annotations

from bisect import bisect_right
from fractions import Fraction

from PyQt6.QtWidgets import QHBoxLayout, QTabWidget, QVBoxLayout, QWidget

from dromic.app.book.planning import Planning
from dromic.app.chart.chart_view import ChartView
from dromic.app.chart.neck_view import NeckView
from dromic.app.chart.overview import Overview
from dromic.app.kit.theme import Theme
from dromic.app.plan.choices_panel import ChoicesPanel
from dromic.app.plan.counts_page import CountsPage
from dromic.app.plan.findings_list import FindingsList
from dromic.app.plan.note_words import NoteWords
from dromic.app.plan.pins_list import PinsList
from dromic.app.plan.verdict import Verdict
from dromic.app.plan.what_if_list import WhatIfList
from dromic.core.plan.finding import Finding, Remedy
from dromic.core.reports.chart import Chart
from dromic.core.reports.explain import dear_words, explain_event
from dromic.core.search.meant_pins import stated
from dromic.core.search.row_costs import row_costs

SIDE_WIDTH = 330


class PlanPlace(QWidget):
    """Shows the plan of the phrase that stands open under what is chosen for it."""

    def __init__(self, planning: Planning, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.planning = planning
        self.chart, self.overview, self.neck = ChartView(), Overview(), NeckView()
        self.panel, self.verdict, self.findings = ChoicesPanel(), Verdict(), FindingsList()
        self.what_if, self.pins, self.counts, self.tabs = WhatIfList(), PinsList(), CountsPage(), QTabWidget()
        self.why = NoteWords()
        self._build()
        self._connect()
        self.show_players()

    def _build(self) -> None:
        self.why.setAccessibleName("why and how much")
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.panel)
        left.addWidget(self.chart, 1)
        left.addWidget(self.overview)
        below = QHBoxLayout()
        below.setSpacing(0)
        below.addWidget(self.why, 1)
        below.addWidget(self.neck, 1)
        left.addLayout(below)
        side = QWidget()
        side.setObjectName("side")
        side.setFixedWidth(SIDE_WIDTH)
        column = QVBoxLayout(side)
        column.setContentsMargins(12, 4, 12, 8)
        column.addWidget(self.verdict)
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
        self.counts.asked.connect(self.chart.select)
        planning = self.planning
        planning.begun.connect(self._show_choices)
        planning.planned.connect(self._show_plan)
        planning.advised.connect(self._show_advice)
        planning.emptied.connect(self._show_none)
        planning.players_changed.connect(self.show_players)
        planning.busy.connect(lambda on: self.verdict.setEnabled(not on))
        planning.supposed.connect(self.what_if.show_choices)
        planning.nothing_supposed.connect(self.what_if.say)
        self.panel.changed.connect(planning.choose)
        self.verdict.kept_asked.connect(planning.choose)
        self.verdict.help_asked.connect(self._try_most)
        self.verdict.let_go_asked.connect(planning.open_book.let_go_of)
        self.chart.selected_changed.connect(self._explain)
        self.chart.pin_asked.connect(self.pin)
        self.chart.window_changed.connect(self.overview.set_window)
        self.overview.pointed.connect(self.chart.centre_on)
        self.findings.chosen.connect(self._jump)
        self.chart.what_if_asked.connect(self.ask_what_if)
        self.chart.words_asked.connect(self.ask_words)
        self.chart.neck_asked.connect(self.toggle_neck)
        self.chart.selected_changed.connect(lambda _: self._suppose())
        self.tabs.currentChanged.connect(lambda _: self._fill_tab())
        self.what_if.tried.connect(planning.make)
        self.pins.lifted.connect(planning.lift)
        self.pins.all_lifted.connect(lambda: self.pin("none", "all"))
        self.pins.chosen.connect(lambda event: self.chart.select(event - planning.first_event))

    def show_players(self) -> None:
        """The players at hand have changed."""
        self.panel.show_players(self.planning.roster.players)

    def pin(self, what: str, value: str) -> None:
        """Pin something of the chosen notes, or lift pins."""
        self.planning.pin(self.chart.span, what, value)

    def ask_what_if(self) -> None:
        """Show every other way to play the chosen note."""
        self.tabs.setCurrentWidget(self.what_if)
        self.what_if.setFocus()
        self._suppose()

    def ask_words(self) -> None:
        """Ask what the player has to say at the chosen note."""
        planning = self.planning
        if self.chart.selected is None or planning.whole is None or not planning.up_to_date:
            return
        event = planning.whole.events[self.chart.selected + planning.first_event]
        from dromic.app.book.note_dialog import ask_words

        ask_words(planning.open_book, event.onset, event.notes[0], self)

    def _suppose(self) -> None:
        """Work out what else the chosen note could be, while that is looked at."""
        event = self.chart.selected
        if self.tabs.currentWidget() is not self.what_if or self.planning.solved is None:
            return
        if event is None:
            self.what_if.say("Choose a note in the chart to see every other way to play it.")
            return
        self.what_if.say("Trying every other way to play this note\u2026")
        self.planning.suppose(event)

    def _fill_tab(self) -> None:
        """What only one tab needs is worked out while it is looked at."""
        self._suppose()
        if self.tabs.currentWidget() is self.counts:
            self.counts.show_plan(self.planning.plan)

    def next_finding(self, by: int) -> None:
        """Go to the next finding, or the one before."""
        self.tabs.setCurrentWidget(self.findings)
        self.findings.step(by)

    def apply_remedy(self) -> None:
        """Do what the chosen finding says would help most."""
        finding = self.findings.current()
        remedy = finding.remedy if finding is not None else None
        self._try(remedy)

    def _try_most(self, finding: Finding) -> None:
        """Do what would help the whole most; its place stays chosen."""
        self._jump(finding)
        self._try(finding.remedy)

    def _try(self, remedy: Remedy | None) -> None:
        if remedy is None:
            self.planning.noticed.emit("Choose a finding that says what to try, with F8", False)
        else:
            self.planning.make(remedy.change)

    def _show_choices(self) -> None:
        """What is chosen for the phrase; the old chart stays until the new one is there."""
        book, choices = self.planning.open_book, self.planning.choices
        self.panel.show_choices(choices)
        self.panel.show_stated(stated(book.phrase))
        self.pins.show_choices(choices)
        self.verdict.show_decisions(book.entry.decisions, choices)
        count = len(choices.pins) + len(choices.overrides)
        self.tabs.setTabText(self.tabs.indexOf(self.pins), f"Pins: {count}" if count else "Pins")

    def _show_plan(self, drawn: Chart, another: bool) -> None:
        plan = self.planning.plan
        assert plan is not None
        self.chart.show_plan(plan, not another, drawn)
        self.overview.set_chart(drawn)
        player = self.planning.roster.named(self.planning.choices.player)
        self.panel.draw_leans(player, plan.request.instrument)
        self.verdict.show_plan(plan)
        self.what_if.set_tempo(plan.request.phrase.tempo)
        self.neck.show_plan(plan, self.chart.selected or 0)
        self._show_findings()
        self._explain(self.chart.selected)
        self._fill_tab()

    def _show_none(self, why: str) -> None:
        """There is no plan of this phrase."""
        self.neck.show_plan(None, 0)
        self.chart.show_message(why)
        self.overview.set_chart(None)
        self.verdict.show_plan(None)
        self.findings.set_plan(None)
        self.tabs.setTabText(self.tabs.indexOf(self.findings), "No findings")
        self.counts.show_plan(None)
        self.what_if.say("There is no plan to ask about.")
        self._explain(None)

    def _show_findings(self) -> None:
        """The findings of the plan; the one chosen stays chosen."""
        plan = self.planning.plan
        assert plan is not None
        self.findings.set_plan(plan)
        count = len(plan.findings)
        self.tabs.setTabText(self.tabs.indexOf(self.findings), f"Findings: {count}" if count else "No findings")
        self.tabs.setTabToolTip(self.tabs.indexOf(self.findings), f"In {len(self.findings.rows())} places")

    def _show_advice(self) -> None:
        """What would help, and what strokes set by the player do to the rest, is known now."""
        self._show_findings()
        self.verdict.show_help(self.planning.plan)
        self._explain(self.chart.selected)

    def toggle_neck(self) -> None:
        """Show or hide the neck."""
        self.neck.setVisible(not self.neck.isVisible())

    def _explain(self, event: int | None) -> None:
        plan = self.planning.plan
        self.neck.show_event(event or 0)
        self.findings.show_event(event)
        self.overview.show_event(event)
        if event is None or plan is None or self.chart.chart is None:
            self.why.say((
                "Click a note, or press F6 and use the arrow keys, to see what each hand does to get there.\n"
                "F8 steps through the findings, F9 does what the chosen one says would help. On a note: D, U pin its "
                "stroke, 0 to 4 its finger, S its string, P all of it (Shift selects a passage); Delete lifts. "
                "W asks what if, M shows what is damped, N the neck.",
            ))  # fmt: skip
        else:
            words = list(explain_event(plan, event, self.chart.chart.muting))
            if self.planning.solved is not None:
                words += [told for told in [dear_words(row_costs(self.planning.solved.path, event))] if told]
            pins = [f"{k.field} {k.value}" for k in plan.request.pins if k.event == event]
            if pins:
                words = [words[0] + f"  –  pinned: {', '.join(pins)}", *words[1:]]
            self.why.say(words)

    def _jump(self, finding: Finding) -> None:
        if self.planning.plan is not None:
            self.chart.select(self.planning.plan.notes[finding.at].event)

    def show_playing(self, at: Fraction | None) -> None:
        """Mark the written time that sounds."""
        if self.planning.plan is not None:
            phrase = self.planning.plan.request.phrase
            self.chart.show_playing(None if at is None else phrase.seconds_at(at))
            if at is not None:
                self.neck.show_event(max(0, bisect_right(phrase.events, at, key=lambda e: e.onset) - 1))

    def set_way_up(self, low_on_top: bool) -> None:
        """Which string is on top, wherever strings are drawn."""
        for part in (self.chart, self.neck):
            part.set_way_up(low_on_top)

    def set_theme(self, theme: Theme) -> None:
        for part in (
            self.chart,
            self.overview,
            self.neck,
            self.panel,
            self.verdict,
            self.why,
            self.findings,
            self.what_if,
        ):
            part.set_theme(theme)
