"""What is planned, under which choices and by which workers; its undo is the open songbook's. Every place shows this one
plan and changes it here."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal

from dromic import presets
from dromic.app.book.open_book import OpenBook
from dromic.app.kit.worker import Worker
from dromic.core.music.phrase import Phrase
from dromic.core.plan.finding import Change
from dromic.core.plan.plan import Plan
from dromic.core.practice.log_pass import PhraseName
from dromic.core.reports.chart import Chart, chart
from dromic.core.search.meant_pins import solve_meant
from dromic.core.search.planner import Solved, judge
from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.pin import Pin
from dromic.core.values.progress import Progress
from dromic.plan_requests import not_here, request_for
from dromic.store.roster import Roster

if TYPE_CHECKING:
    from dromic.core.editing.edit import Span

ADVISE_AFTER_MS = 150
"""How long a plan stands before remedies are looked for, ms."""
READ_MS = 1500
"""A note that stood for so long was read, and is not told again of the same phrase, ms."""
NO_NOTES = "This phrase has no notes yet: write some on Write"
OF_BEFORE = "The plan shown is of the phrase as it was; the new one is on its way"


def pins_of(plan: Plan, event: int, what: str, value: str) -> list[Pin]:
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


class Planning(QObject):
    """The plan of the phrase that stands open, or of a passage of it, under what is chosen for it."""

    noticed = pyqtSignal(str, bool)
    """a sentence, and whether it is only a remark"""
    begun = pyqtSignal()
    """a plan is asked for: the choices or the phrase are others"""
    planned = pyqtSignal(object, bool)
    """a plan is there: its chart, and whether it is of another phrase than the one before"""
    advised = pyqtSignal()
    """the findings of the plan say what would help"""
    emptied = pyqtSignal(str)
    """there is no plan of this phrase, and why"""
    supposed = pyqtSignal(object)
    """every other way to play the note asked about"""
    nothing_supposed = pyqtSignal(str)
    players_changed = pyqtSignal()
    """the players at hand are others"""
    busy = pyqtSignal(bool)

    def __init__(self, open_book: OpenBook, roster: Roster, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.open_book, self.roster = open_book, roster
        self.whole: Phrase | None = None
        """the phrase that stands open, once there is one"""
        self.passage: Span | None = None
        """what is planned alone, None for the whole phrase"""
        self.plan: Plan | None = None
        self.solved: Solved | None = None
        self._new_phrase = self.stale = False
        self.changes_made = 0
        """how many single changes, remedies among them, have been made in this session"""
        self._planned_for: object = None
        """the phrase and the passage that the plan was made for"""
        self._read: frozenset[str] = frozenset()
        """what plans of this phrase noted, once it was there to be read"""
        self._noted = QElapsedTimer()
        self.name = PhraseName("")
        """whose passes and takes are those of the phrase that the plan was made for"""
        self._advise_soon = QTimer(self)
        self._advise_soon.setSingleShot(True)
        self._advise_soon.setInterval(ADVISE_AFTER_MS)
        self._advise_soon.timeout.connect(self._ask_advice)
        self.planner, self.adviser, self.supposer = Worker(self), Worker(self), Worker(self)
        self.planner.answered.connect(self._was_planned)
        self.planner.refused.connect(self._was_refused)
        self.planner.busy.connect(self.busy)
        self.adviser.answered.connect(self._was_advised)
        self.supposer.answered.connect(self.supposed)
        self.supposer.refused.connect(self.nothing_supposed)

    # what is planned

    @property
    def choices(self) -> Choices:
        return self.open_book.choices

    @property
    def phrase(self) -> Phrase | None:
        """What is planned."""
        if self.whole is None or self.passage is None:
            return self.whole
        from dromic.core.editing.edit import cut

        return cut(self.whole, self.passage)

    @property
    def first_event(self) -> int:
        """The number of the first event planned, among those of the whole phrase."""
        if self.whole is None or self.passage is None:
            return 0
        return bisect_left(self.whole.events, self.passage.start, key=lambda e: e.onset)

    @property
    def up_to_date(self) -> bool:
        """Whether the plan is of the phrase as it stands, so that its notes are the phrase's: another plan may be on its
        way."""
        return self.plan is not None and not self.stale and self._planned_for == (self.whole, self.passage)

    def open_phrase(self) -> None:
        """Another phrase stands open."""
        self.whole, self.passage = self.open_book.phrase, None
        self._new_phrase = self.stale = True
        self._read = frozenset()
        self._noted.invalidate()

    def take_passage(self, span: Span | None) -> None:
        """Plan a passage alone, or the whole phrase again; also where the passage lies behind the phrase's end."""
        if span is not None and span.start >= self.open_book.phrase.end:
            span = None
        if span != self.passage:
            self.passage = span
            self._new_phrase = self.stale = True

    def edited(self) -> None:
        """The phrase, or what is chosen for it, has changed."""
        self.whole = self.open_book.phrase
        self.take_passage(self.passage)
        self.stale = True

    # what is chosen

    def choose(self, choices: Choices) -> None:
        """Other choices: a step on the undo stack. The tempo wheel turned on is one step back."""
        if choices == self.choices:
            return
        only_tempo = replace(choices, tempo=self.choices.tempo) == self.choices
        self.open_book.choose(choices, merge=("tempo", self.open_book.index) if only_tempo else None)

    def pin(self, events: Sequence[int], what: str, value: str) -> None:
        """Pin something of some events of the plan (a stroke, a finger, their strings, all of their places), or lift
        pins: theirs, or all."""
        plan, made = self.plan, self.choices
        if what == "none" and value == "all":
            made = made.freed(None)
        elif not self.up_to_date:
            self._say_stale()
        elif what == "none":
            for event in events:
                made = made.freed(event + self.first_event)
        elif plan is not None:
            pins = (pin for event in events for pin in pins_of(plan, event, what, value))
            made = made.toggled(*(pin.moved(self.first_event) for pin in pins))
        self.choose(made)

    def lift(self, pin: Pin | tuple[int, str]) -> None:
        """Lift one pin, or one stroke set against the school."""
        self.choose(self.choices.without(pin))

    def make(self, change: Change) -> None:
        """Do one change: pin it, set it, or write it into the phrase where it is the phrase that changes."""
        if not self.up_to_date:
            self._say_stale()
            return
        self.changes_made += 1
        if (change.attacks or change.ungraced) and self.whole is not None and self.phrase is not None:
            self.open_book.edit(self._rewritten(self.whole, self.phrase, change), change.text)
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
        if change.school is not None:
            made = replace(made, school=change.school, start=OWN, unit=OWN)
        if change.graces is not None:
            made = replace(made, graces=change.graces)
        self.choose(made)
        self.noticed.emit(f"Tried: {change.text}. Ctrl+Z takes it back", True)

    def _rewritten(self, whole: Phrase, planned: Phrase, change: Change) -> Phrase:
        """The whole phrase with a change of the part that is planned written into it."""
        from dromic.core.editing.edit import INSTANT, Span, stated
        from dromic.core.music.graces import without_graces

        start = self.passage.start if self.passage is not None else 0
        for event, attack in change.attacks:
            at = planned.events[event].onset + start
            whole = stated(whole, Span(at, at + INSTANT), "attack", attack)
        return (
            without_graces(whole, {event + self.first_event for event in change.ungraced}) if change.ungraced else whole
        )

    def _say_stale(self) -> None:
        if self.plan is not None:
            self.noticed.emit(OF_BEFORE, True)

    # planning

    def catch_up(self) -> None:
        """Plan what has changed since the plan was last looked at."""
        if self.stale:
            self.replan()

    def replan(self) -> None:
        """Plan anew under what is chosen; the old plan stays until the new one is there."""
        self.begun.emit()
        phrase, choices, players = self.phrase, self.choices, self.roster.players
        if phrase is None:
            return
        self.stale = False
        if self.plan is not None and self._noted.isValid() and self._noted.hasExpired(READ_MS):
            self._read |= set(self.plan.notices)
        self.noticed.emit("", True)
        self._advise_soon.stop()
        self.adviser.cancel()
        self.supposer.cancel()
        if not phrase.events:
            self.planner.cancel()
            self._empty(NO_NOTES)
            return
        missing = "; ".join(not_here(choices, players))
        if missing:
            self.noticed.emit(missing[:1].upper() + missing[1:], True)
        asked = choices.within(self.first_event, len(phrase.events))
        planned_for, before = (self.whole, self.passage), self.solved
        name = PhraseName(phrase.title, self.open_book.entry.id)

        def job(progress: Progress) -> tuple[Solved, Plan, Chart, object, PhraseName]:
            solved = solve_meant(request_for(phrase, asked, players), progress, before)
            plan = judge(solved)
            return solved, plan, chart(plan), planned_for, name

        self.planner.start(job)

    def _was_planned(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        self.solved, self.plan, drawn, self._planned_for, self.name = answer
        another, self._new_phrase = self._new_phrase, False
        self.planned.emit(drawn, another)
        if self.passage is not None:
            self.noticed.emit("A passage, planned alone; F3 goes back to the whole phrase", True)
        if notes := [note for note in self.plan.notices if note not in self._read]:
            self.noticed.emit("Note: " + "; ".join(notes), True)
            self._noted.start()
        self._advise_soon.start()

    def _was_refused(self, sentence: str) -> None:
        """What was planned stays, if it is of the phrase as it stands."""
        stroke = any(pin.field == "stroke" for pin in self.choices.pins)
        hint = ". What if (W) sets a stroke against the school" if stroke else ""
        sentence = sentence[:1].upper() + sentence[1:]
        self.noticed.emit(sentence + hint, False)
        if self.plan is None or self._planned_for != (self.whole, self.passage):
            self._empty(sentence)

    def _empty(self, why: str) -> None:
        self.plan = self.solved = None
        self.emptied.emit(why)

    # what would help, and what else there is

    @property
    def waiting_for_advice(self) -> bool:
        return self.adviser.running or self._advise_soon.isActive()

    def _ask_advice(self) -> None:
        """Look for remedies, once the player has let a plan stand for a moment."""
        from dromic.core.questions.remedies import with_remedies

        solved, leans, schools = self.solved, presets.other_leans(), presets.carrying_schools()
        if solved is not None:
            self.adviser.start(lambda progress: with_remedies(solved, leans, progress, schools))

    def _was_advised(self, answer: object) -> None:
        """Findings come back with what to change."""
        assert isinstance(answer, Plan)
        if self.plan is not None and answer.request is self.plan.request:
            self.plan = answer
            self.advised.emit()

    def suppose(self, event: int) -> None:
        """Work out every other way to play an event of the plan."""
        from dromic.core.questions.whatif import what_if

        solved = self.solved
        if solved is not None:
            self.supposer.start(lambda progress: what_if(solved, event, progress))

    # what is heard

    def to_play(self, phrase: Phrase, event: int | None) -> tuple[Phrase, Span | None]:
        """The phrase on the plan's strings, from an event of the plan on if there is one."""
        if self.plan is None or not self.up_to_date:
            return phrase, None
        from dromic.core.editing.edit import Span
        from dromic.core.music.graces import sounding
        from dromic.core.plan.write_back import POSITIONS, phrase_with_plan

        planned = self.phrase or phrase
        heard = sounding(phrase_with_plan(planned, self.plan, frozenset({POSITIONS})), self.plan.request.grace_time)
        return heard.at_tempo(self.choices.tempo), Span(planned.events[event].onset, planned.end) if event else None

    def stop(self) -> None:
        """The window closes."""
        self._advise_soon.stop()
        for worker in (self.planner, self.adviser, self.supposer):
            worker.close()
