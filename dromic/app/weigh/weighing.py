"""Weighing: the plans of one phrase in every way wanted, made together on worker processes, without a widget."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import cast

from PyQt6.QtCore import QObject, pyqtSignal

from dromic import presets
from dromic.app.kit.worker import Worker
from dromic.app.weigh.candidates import ALTERNATIVE, Candidate, WeighScope, alternative_entries, entries_of
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.questions.alternatives import Balance, frontier_requests, unbeaten
from dromic.core.search.meant_pins import freely, solve_meant
from dromic.core.search.planner import judge
from dromic.core.setup.choices import Choices
from dromic.core.setup.decision import Decision
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.plan_requests import request_for
from dromic.plan_workers import Answer, Workers, plan_alternatives
from dromic.store.roster import Roster

NO_NOTES = "This phrase has no notes yet: write some on Write"
CANCELLED = "Cancelled. Come back to this place to plan again."
_NOT_YET = Answer(None, "Being planned…", 0.0)


@dataclass(frozen=True)
class Known:
    """What has been planned for one phrase and its players, by the choices that make it; only what was asked for last."""

    answers: Mapping[Choices, Answer] = field(default_factory=dict)
    alternatives: Mapping[Choices, tuple[Plan, ...]] = field(default_factory=dict)


class Weighing(QObject):
    """What is weighed and what has come of it, for the phrase and the choices given last."""

    begun = pyqtSignal()
    weighed = pyqtSignal(list)
    """the candidates, with their plans"""
    some_weighed = pyqtSignal(list)
    """the candidates while some are still being planned: these say so"""
    _came = pyqtSignal(object, list)
    emptied = pyqtSignal(str)
    """there is nothing to weigh, and why"""
    refused = pyqtSignal(str)
    busy = pyqtSignal(bool)
    balanced = pyqtSignal(object)
    """the plans of the school that no other beats at both hands' work and at notes left unpicked"""
    unbalanced = pyqtSignal(str)

    def __init__(self, roster: Roster, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.roster = roster
        self.workers = Workers()
        self.worker, self.frontier_worker = Worker(self), Worker(self)
        self.wanted = WeighScope(tuple(presets.schools()))
        self.phrase: Phrase | None = None
        self.choices = Choices()
        self.kept: tuple[Decision, ...] = ()
        self._known = Known()
        self._for: tuple[object, ...] = ()
        """what the answers known are answers about"""
        self._asked: tuple[object, ...] = ()
        self._came.connect(self._some_came)
        self.worker.answered.connect(self._was_weighed)
        self.worker.refused.connect(self._was_refused)
        self.worker.busy.connect(self.busy)
        self.frontier_worker.answered.connect(self.balanced)
        self.frontier_worker.refused.connect(self.unbalanced)

    def want(self, wanted: WeighScope) -> None:
        """Weigh other plans of the same phrase."""
        self.wanted = wanted
        if self.phrase is not None:
            self.weigh(self.phrase, self.choices, self.kept)

    def weigh(self, phrase: Phrase, choices: Choices, kept: Sequence[Decision] = ()) -> None:
        """Plan the phrase in every way wanted, and in those kept before, as far as that has not been done just so."""
        self.phrase, self.choices, self.kept = phrase, choices, tuple(kept)
        players = self.roster.players
        if self._for != (phrase, players):
            self._for, self._known = (phrase, players), Known()
        if not phrase.events:
            self.worker.cancel()
            self.frontier_worker.cancel()
            self._asked = ()
            self.emptied.emit(NO_NOTES)
            return
        asked = phrase, players, choices, self.wanted, self.kept
        if self._asked == asked:
            return
        self._asked = asked
        self.begun.emit()
        came = partial(self._came.emit, asked)
        self.worker.start(partial(self._plan_all, phrase, choices, players, self.wanted, self.kept, self._known, came))

    def request(self) -> Request:
        """What is on Plan, as a request. Raises DromicError where no plan can be asked for, on this instrument say."""
        assert self.phrase is not None
        return request_for(self.phrase, self.choices, self.roster.players)

    def balance(self, request: Request) -> None:
        """Look for the plans of its school that no other beats."""
        self.frontier_worker.start(partial(self._unbeaten, frontier_requests(freely(request))))

    def cancel(self) -> None:
        self.worker.cancel()
        self._asked = ()
        self.refused.emit(CANCELLED)

    def _was_refused(self, sentence: str) -> None:
        self._asked = ()
        self.refused.emit(sentence[:1].upper() + sentence[1:])

    def _some_came(self, asked: object, entries: list[Candidate]) -> None:
        if asked is self._asked and self.worker.running:
            self.some_weighed.emit(entries)

    def _was_weighed(self, answer: object) -> None:
        entries, self._known = cast("tuple[list[Candidate], Known]", answer)
        self.weighed.emit(entries)

    def stop(self) -> None:
        """The window closes."""
        self.workers.close()  # first: a job that waits for them would be waited for
        for worker in (self.worker, self.frontier_worker):
            worker.close()

    # on a worker's thread; nothing here reads or writes what the interface does

    def _plan_all(
        self, phrase: Phrase, choices: Choices, players: Mapping[str, Player], wanted: WeighScope,
        kept: tuple[Decision, ...], known: Known, came: Callable[[list[Candidate]], None],
        progress: Progress,
    ) -> tuple[list[Candidate], Known]:  # fmt: skip
        """Every candidate with its plan, the alternatives last, and what is known now; `came` hears those there are each time one
        more is planned."""
        asked = entries_of(phrase, choices, players, wanted, kept)
        if not asked:
            raise DromicError("Nothing is chosen to be weighed: tick a school and a lean")
        answers = {e.choices: known.answers[e.choices] for e, _ in asked if e.choices in known.answers}
        fresh = [(e, r) for e, r in asked if e.choices not in answers]

        def entries_so_far() -> list[Candidate]:
            found = [(e, answers.get(e.choices, _NOT_YET)) for e, _ in asked]
            return [replace(e, plan=answer.plan, refused=answer.refused) for e, answer in found]

        def one_more(number: int, answer: Answer) -> None:
            answers[fresh[number][0].choices] = answer
            came(entries_so_far())

        if fresh:
            self.workers.plan([r for _, r in fresh], None, progress, one_more)
        entries = entries_so_far()
        others: tuple[Plan, ...] = ()
        if wanted.alternatives:
            request = request_for(phrase, choices, players)
            others = known.alternatives.get(choices, ())
            if len(others) < wanted.alternatives:
                task = partial(plan_alternatives, request, wanted.alternatives)
                others = tuple(self.workers.run([task], progress)[0])
            same = next((e.plan for e in entries if e.choices == choices and e.plan is not None), None)
            try:
                best = same or judge(solve_meant(request, progress))
            except DromicError as error:
                entries.append(Candidate("Other ways", ALTERNATIVE, choices, None, str(error)))
            else:
                entries += alternative_entries(choices, best, others[: wanted.alternatives])
        return entries, Known(answers, {choices: others} if others else {})

    def _unbeaten(self, requests: Sequence[Request], progress: Progress) -> tuple[Balance, ...]:
        answers = self.workers.plan(requests, None, progress)
        return unbeaten([a.plan for a in answers if a.plan is not None])
