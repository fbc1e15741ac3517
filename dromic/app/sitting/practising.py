"""What is practised: today's work on the plan that stands open, the sitting that runs, and its passes, each logged at once."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from dromic import presets
from dromic.app.kit.worker import Worker
from dromic.core.drills.drill import Drill
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import empty_phrase
from dromic.core.practice.ladder import Rung
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.log_summary import Goal
from dromic.core.practice.sitting import DRILL, Schedule, Slot
from dromic.core.practice.todays_work import Work, todays_work
from dromic.core.practice.wishes import Wishes
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import parse
from dromic.store.logbook import Logbook

if TYPE_CHECKING:
    from dromic.app.book.planning import Planning
    from dromic.app.sitting.courses import Course

MOST_SECONDS = 86400.0
"""that a pass can have taken"""
NO_PLAN = "There is no plan to practise yet: write a phrase, then see it planned"


@dataclass(frozen=True)
class PlayedPass:
    """A pass that was marked: the drill in hand, how it went, how long it took, and the number it stands under in the log (None where
    it could not be kept)."""

    drill: int
    clean: bool
    seconds: float
    number: int | None


@dataclass
class Sitting:
    """A sitting that runs: what it goes through, where it is, and what was played of the drill in hand."""

    course: Course
    schedule: Schedule
    number: int
    began: float
    """when this part began, in seconds of a clock that nobody sets"""
    last: float
    """when the last pass ended"""
    drill: int | None = None
    """the drill in hand, by its number: that of the part, or another of its kind whose turn it is"""
    rung: Rung | None = None
    clean: int = 0
    missed: int = 0
    played: list[PlayedPass] = field(default_factory=list)
    """the passes of this part that were marked"""

    @property
    def slot(self) -> Slot:
        """The part that runs."""
        return self.schedule.slots[self.number]

    @property
    def next_slot(self) -> Slot | None:
        """The part after it."""
        after = self.schedule.slots[self.number + 1 :]
        return after[0] if after else None


class Practising(QObject):
    """Today's work follows the plan; a sitting goes on with the work it began with."""

    worked = pyqtSignal()
    """there is other work for today, or none"""
    moved = pyqtSignal()
    """the sitting is at another part, or another pass"""
    begun = pyqtSignal()
    """a sitting begins that was laid out off the interface's thread"""
    ended = pyqtSignal()
    measured = pyqtSignal(object)
    """the hands were measured with these figures, to the end or not"""
    wished = pyqtSignal(object)
    """the player asks something else of practice"""
    noticed = pyqtSignal(str, bool)

    def __init__(
        self, planning: Planning, logbook: Logbook, now: Callable[[], datetime] = datetime.now,
        parent: QObject | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.planning, self.logbook, self.now = planning, logbook, now
        self.clock: Callable[[], float] = time.monotonic
        """seconds of a clock that only goes forward, whatever is done to the time of day"""
        self.wishes = Wishes()
        self.work: Work | None = None
        self.sitting: Sitting | None = None
        self.why_none = NO_PLAN
        self.attentive = True
        """whether passes are played with attention: those in the background are logged apart and lead no tempo"""
        self.worker, self.measurer = Worker(self), Worker(self)
        self.worker.answered.connect(self._was_worked)
        self.worker.refused.connect(self._was_refused)
        self.measurer.answered.connect(self._was_laid_out)
        self.measurer.refused.connect(lambda words: self.noticed.emit(words, False))

    def wish(self, **wishes: object) -> None:
        """Ask something else of the sitting."""
        self.wish_for(replace(self.wishes, **wishes))  # type: ignore[arg-type]

    def wish_for(self, wishes: Wishes) -> None:
        """The same with everything that is wished."""
        self.wishes = wishes
        self.wished.emit(wishes)
        self.refresh()

    def remember(self, **wishes: object) -> None:
        """The same of something that changes nothing of today's work."""
        self.wishes = replace(self.wishes, **wishes)  # type: ignore[arg-type]
        self.wished.emit(self.wishes)

    def set_goal(self, goal: Goal) -> None:
        """Work towards another tempo with this phrase, or another day."""
        if self.work is None or goal == self.work.history.goal:
            return
        try:
            self.logbook.set_goal(self.work.plan.request.phrase.title, goal)
        except DromicError as error:
            self.noticed.emit(f"The goal could not be kept: {error}", False)
        self.refresh()

    def refresh(self) -> None:
        """Work out today's work anew, off the interface's thread."""
        plan = self.planning.plan
        if plan is None:
            self._was_refused(NO_PLAN)
            return
        wishes, logbook, today = self.wishes, self.logbook, self.now().date()

        def job(_progress: object) -> Work:
            return todays_work(plan, presets.practice(), wishes, logbook.history(plan.request.phrase.title), today)

        self.worker.start(job)

    def _was_worked(self, work: object) -> None:
        assert isinstance(work, Work)
        self.work, self.why_none = work, ""
        self.worked.emit()

    def _was_refused(self, sentence: str) -> None:
        self.work, self.why_none = None, sentence
        self.worked.emit()

    # the sitting

    def begin(self, drill: int | None = None) -> None:
        """Begin today's sitting; or one drill alone, for as long as its kind has."""
        if self.work is None:
            self.noticed.emit(self.why_none, False)
            return
        from dromic.app.sitting.courses import WorkCourse

        schedule = self.work.schedule
        if drill is not None:
            schedule = Schedule((Slot(DRILL, presets.practice().sitting["drill_min"], drill),))
        self._begin(WorkCourse(self.work, self.logbook, set()), schedule)

    def measure(self) -> None:
        """Measure the hands of the player planned for: lay out the figures, then begin with what limits the plan."""
        work = self.work
        if work is None:
            self.noticed.emit(self.why_none, False)
            return
        request = work.plan.request

        def job(_progress: object) -> object:
            from dromic.core.learning.measuring import figures

            def parsed(line: str) -> Phrase:
                return parse(line, empty_phrase("Measuring", request.instrument), request.instrument).phrase

            return figures(request.player, request.instrument, presets.schools()["free"], parsed, work.plan)

        self.measurer.start(job)

    def _was_laid_out(self, found: object) -> None:
        from dromic.app.sitting.measure_course import MEASURE_MIN, MeasureCourse

        assert isinstance(found, tuple)
        slots = tuple(Slot(DRILL, MEASURE_MIN, number) for number in range(len(found)))
        self._begin(MeasureCourse(found, self.logbook), Schedule(slots))
        if self.sitting is not None:
            self.begun.emit()

    def _begin(self, course: Course, schedule: Schedule) -> None:
        if not schedule.slots:
            self.noticed.emit("There is nothing to play in this sitting", False)
            return
        now = self.clock()
        self.sitting = Sitting(course, schedule, 0, now, now, schedule.slots[0].drill)
        self._go()

    @property
    def drill(self) -> Drill | None:
        """The drill in hand, None in a warm-up or a break."""
        sitting = self.sitting
        return None if sitting is None or sitting.drill is None else sitting.course.drill(sitting.drill)

    @property
    def seconds_left(self) -> float:
        """Of the part that runs; below 0 when its time is over."""
        if self.sitting is None:
            return 0.0
        return self.sitting.slot.minutes * 60 - (self.clock() - self.sitting.began)

    def mark(self, clean: bool, hand: str | None = None, fault: str | None = None) -> None:
        """A pass is over: keep it, and say what is next. When the time of the drill is over, the next part begins."""
        sitting, drill = self.sitting, self.drill
        if sitting is None or sitting.rung is None or sitting.drill is None or drill is None or self.work is None:
            return
        now, request = self.clock(), self.work.plan.request
        seconds = round(min(MOST_SECONDS, max(0.0, now - sitting.last)), 1)
        number: int | None = None
        try:
            one = Pass(
                self.now().replace(microsecond=0), sitting.course.phrase, drill.name, round(sitting.rung.tempo, 2), clean,
                sitting.course.notes(sitting.drill), hand, fault, self.attentive, seconds,
                self.wishes.soreness, sitting.rung.burst, request.player.name, request.school.name,
            )  # fmt: skip
            [number] = self.logbook.add([one])
        except DromicError as error:
            self.noticed.emit(f"This pass could not be kept: {error}", False)
        sitting.last = now
        sitting.clean, sitting.missed = sitting.clean + clean, sitting.missed + (not clean)
        sitting.played.append(PlayedPass(sitting.drill, clean, seconds, number))
        sitting.drill = sitting.course.after(sitting.drill, clean)
        if self.seconds_left <= 0:
            self.go_on()
        else:
            self._go()

    def note(self, words: str) -> None:
        """Put a note on the last pass of this part."""
        if self.sitting is None or not self.sitting.played or not words.strip():
            return
        number = self.sitting.played[-1].number
        try:
            noted = number is not None and self.logbook.note(number, words.strip())
        except DromicError as error:
            self.noticed.emit(f"The note could not be kept: {error}", False)
            return
        if noted:
            self.noticed.emit("Noted on the last pass", True)
        else:
            self.noticed.emit("The last pass is not in the log: the note has no place", False)

    def keep(self, passes: Sequence[Pass]) -> None:
        """Take passes into the log that were played elsewhere."""
        try:
            self.logbook.add(passes)
        except DromicError as error:
            self.noticed.emit(f"The results could not be kept: {error}", False)
        self.refresh()

    def take_back(self) -> None:
        """The last pass was marked by mistake: take it out of the log."""
        sitting = self.sitting
        if sitting is None or not sitting.played:
            return
        gone = sitting.played[-1]
        try:
            if gone.number is not None:
                self.logbook.take_back([gone.number])
        except DromicError as error:
            self.noticed.emit(f"The pass stays in the log: {error}", False)
            return
        sitting.played.pop()
        sitting.clean, sitting.missed = sitting.clean - gone.clean, sitting.missed - (not gone.clean)
        sitting.drill = gone.drill
        sitting.last -= gone.seconds  # its time belongs to what is marked instead
        self._go()

    def overrule(self) -> None:
        """The last pass was taken for the other kind: mark it anew."""
        sitting = self.sitting
        if sitting is None or not sitting.played:
            self.noticed.emit("There is no pass of this drill to overrule", False)
            return
        was = sitting.played[-1]
        self.take_back()
        if self.sitting is sitting and (not sitting.played or sitting.played[-1] is not was):
            self.mark(not was.clean)

    def retempo(self, tempo: float) -> None:
        """The player sets another tempo."""
        if self.sitting is not None and self.sitting.rung is not None:
            self.sitting.rung = replace(self.sitting.rung, tempo=max(10.0, min(1000.0, tempo)), reason="set by hand")
            self.moved.emit()

    def go_on(self, by: int = 1) -> None:
        """To the next part of the sitting, or the one before; after the last it ends."""
        was = self.sitting
        if was is None:
            return
        number = max(0, was.number + by)
        if number >= len(was.schedule.slots):
            self.end()
            return
        now = self.clock()
        self.sitting = Sitting(was.course, was.schedule, number, now, now, was.schedule.slots[number].drill)
        self._go()

    def end(self) -> None:
        """The sitting is over."""
        was, self.sitting = self.sitting, None
        self.ended.emit()
        figures = was.course.figures if was is not None else ()
        if figures:
            self.measured.emit(figures)
        self.refresh()

    def measured_passes(self) -> list[Pass]:
        """What was played lately to measure the hands."""
        from dromic.app.sitting.measure_course import MeasureCourse

        return MeasureCourse((), self.logbook).passes(self.now().date())

    def _go(self) -> None:
        """Say the next tempo of the drill in hand; a drill that has no more to say gives way to the next part."""
        sitting = self.sitting
        assert sitting is not None
        if sitting.drill is not None:
            sitting.rung = sitting.course.rung(sitting.drill, self.now().date())
            if sitting.rung is None:
                self.go_on()
                return
        self.moved.emit()

    def ready_in(self) -> int:
        """Days to the one by which the phrase is to be ready; 0 where none is set or it is past."""
        ready = self.work.history.goal.ready if self.work is not None else None
        return max(0, (ready - self.now().date()).days) if ready is not None else 0

    def ready_by(self, days: int) -> None:
        """To be ready in so many days; 0 for no day."""
        if self.work is not None and days != self.ready_in():
            ready = self.now().date() + timedelta(days) if days else None
            self.set_goal(replace(self.work.history.goal, ready=ready))

    def stop(self) -> None:
        """The window closes."""
        self.worker.close()
        self.measurer.close()
