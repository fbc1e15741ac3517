"""What is practised: today's work on the plan that stands open, the session that runs, and its passes, each logged at once."""

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
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.log_summary import Goal
from dromic.core.practice.session import DRILL, Schedule, Slot
from dromic.core.practice.todays_work import Work, todays_work
from dromic.core.practice.wishes import Wishes
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import parse

if TYPE_CHECKING:
    from dromic.app.book.log_keeper import LogKeeper
    from dromic.app.book.planning import Planning
    from dromic.app.session.courses import Course

MOST_SECONDS = 86400.0
"""that a pass can have taken"""
NO_PLAN = "There is no plan to practise yet: write a phrase, then see it planned"


@dataclass(frozen=True)
class PlayedPass:
    """A pass that was marked: the drill in hand, the pass, and what it is known by in the log."""

    drill: int
    one: Pass
    uid: str


@dataclass
class Session:
    """A session that runs: what it goes through, where it is, and what was played of the drill in hand."""

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
    paused: float | None = None
    """since when it stands still"""

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
    """Today's work follows the plan; a session goes on with the work it began with."""

    worked = pyqtSignal()
    """there is other work for today, or none"""
    moved = pyqtSignal()
    """the session is at another part, or another pass"""
    begun = pyqtSignal()
    """a session begins that was laid out off the interface's thread"""
    ended = pyqtSignal()
    measured = pyqtSignal(object)
    """the hands were measured with these figures, to the end or not"""
    wished = pyqtSignal(object)
    """the player asks something else of practice"""
    noticed = pyqtSignal(str, bool)

    def __init__(
        self, planning: Planning, keeper: LogKeeper, now: Callable[[], datetime] = datetime.now,
        parent: QObject | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.planning, self.keeper, self.now = planning, keeper, now
        self.of = PhraseName("")
        """whose passes today's work is of"""
        self.origin = ""
        """where a copy that was not practised yet came from, in a sentence"""
        self.clock: Callable[[], float] = time.monotonic
        """seconds of a clock that only goes forward, whatever is done to the time of day"""
        self.wishes = Wishes()
        self.work: Work | None = None
        self.session: Session | None = None
        self.why_none = NO_PLAN
        self.attentive = True
        """whether passes are played with attention: those in the background are logged apart and lead no tempo"""
        self.worker, self.measurer = Worker(self), Worker(self)
        self.worker.answered.connect(self._was_worked)
        self.worker.refused.connect(self._was_refused)
        self.measurer.answered.connect(self._was_laid_out)
        self.measurer.refused.connect(lambda words: self.noticed.emit(words, False))

    def wish(self, **wishes: object) -> None:
        """Ask something else of the session."""
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
        self.keeper.set_goal(self.of, goal)
        self.refresh()

    def refresh(self) -> None:
        """Work out today's work anew, off the interface's thread."""
        plan = self.planning.plan
        if plan is None:
            self._was_refused(NO_PLAN)
            return
        wishes, keeper, today = self.wishes, self.keeper, self.now().date()
        of, copy_of = self.planning.name, self.planning.open_book.entry.copy_of

        def job(_progress: object) -> tuple[Work, PhraseName, str]:
            book = keeper.settle()
            history = book.history(of, today)
            origin = book.origin_words(copy_of) if copy_of and not history.record.drills else ""
            return todays_work(plan, presets.practice(), wishes, history, today), of, origin

        self.worker.start(job)

    def _was_worked(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        (self.work, self.of, self.origin), self.why_none = answer, ""
        self.worked.emit()

    def _was_refused(self, sentence: str) -> None:
        self.work, self.why_none = None, sentence
        self.worked.emit()

    # the session

    def begin(self, drill: int | None = None) -> None:
        """Begin today's session; or one drill alone, for as long as its kind has."""
        if self.work is None:
            self.noticed.emit(self.why_none, False)
            return
        from dromic.app.session.courses import WorkCourse

        schedule = self.work.schedule
        if drill is not None:
            schedule = Schedule((Slot(DRILL, presets.practice().session.drill_min, drill),))
        self._begin(WorkCourse(self.work, self.of), schedule)

    def measure(self) -> None:
        """Measure the hands of the player planned for: lay out the figures, then begin with what limits the plan."""
        work = self.work
        if work is None:
            self.noticed.emit(self.why_none, False)
            return
        request, keeper, today = work.plan.request, self.keeper, self.now().date()

        def job(_progress: object) -> object:
            from dromic.app.session.measure_course import measured_lately
            from dromic.core.learning.measuring import figures

            def parsed(line: str) -> Phrase:
                return parse(line, empty_phrase("Measuring", request.instrument), request.instrument).phrase

            found = figures(request.player, request.instrument, presets.schools()["free"], parsed, work.plan)
            return found, measured_lately(keeper.settle(), today)

        self.measurer.start(job)

    def _was_laid_out(self, found: object) -> None:
        from dromic.app.session.measure_course import MEASURE_MIN, MeasureCourse

        assert isinstance(found, tuple)
        laid_out, before = found
        slots = tuple(Slot(DRILL, MEASURE_MIN, number) for number in range(len(laid_out)))
        self._begin(MeasureCourse(laid_out, before), Schedule(slots))
        if self.session is not None:
            self.begun.emit()

    def _begin(self, course: Course, schedule: Schedule) -> None:
        if not schedule.slots:
            self.noticed.emit("There is nothing to play in this session", False)
            return
        self.keeper.start()
        now = self.clock()
        self.session = Session(course, schedule, 0, now, now, schedule.slots[0].drill)
        self._go()

    @property
    def drill(self) -> Drill | None:
        """The drill in hand, None in a warm-up or a break."""
        session = self.session
        return None if session is None or session.drill is None else session.course.drill(session.drill)

    @property
    def seconds_left(self) -> float:
        """Of the part that runs; below 0 when its time is over."""
        if self.session is None:
            return 0.0
        now = self.clock() if self.session.paused is None else self.session.paused
        return self.session.slot.minutes * 60 - (now - self.session.began)

    def pause(self) -> None:
        """Nothing runs on: neither the minutes of the part nor the pass that is being played."""
        if self.session is not None and self.session.paused is None:
            self.session.paused = self.clock()
            self.moved.emit()

    def resume(self) -> None:
        """On with the same drill and what it had left; the time away counts in no pass."""
        session = self.session
        if session is not None and session.paused is not None:
            away = self.clock() - session.paused
            session.began, session.last, session.paused = session.began + away, session.last + away, None
            self.moved.emit()

    def mark(self, clean: bool, hand: str | None = None, fault: str | None = None, heard: bool = False) -> None:
        """A pass is over: keep it, and say what is next. When the time of the drill is over, the next part begins. A clean one that is
        too short to have been played is none, unless it was heard."""
        session, drill = self.session, self.drill
        if session is None or session.rung is None or session.drill is None or drill is None or self.work is None:
            return
        if session.paused is not None:
            return
        now, request = self.clock(), self.work.plan.request
        seconds = round(min(MOST_SECONDS, max(0.0, now - session.last)), 1)
        round_s = float(drill.phrase.end) * 60 / session.rung.tempo
        if clean and not heard and seconds < presets.practice().passes.clean_share * round_s:
            self.noticed.emit(f"Not counted: {seconds:.1f} s is no pass of {round_s:.1f} s", True)
            return
        of = session.course.of
        try:
            one = Pass(
                self.now().replace(microsecond=0), of.title, drill.name, round(session.rung.tempo, 2), clean,
                session.course.notes(session.drill), hand, fault, self.attentive, seconds,
                self.wishes.soreness, session.rung.burst, request.player.name, request.school.name, phrase_id=of.id,
            )  # fmt: skip
        except DromicError as error:
            self.noticed.emit(f"This pass could not be kept: {error}", False)
            return
        [uid] = self.keeper.keep([one])
        session.course.played.append(one)
        session.last = now
        session.clean, session.missed = session.clean + clean, session.missed + (not clean)
        session.played.append(PlayedPass(session.drill, one, uid))
        session.drill = session.course.after(session.drill, clean)
        if self.seconds_left <= 0:
            self.go_on()
        else:
            self._go()

    def note(self, words: str) -> None:
        """Put a note on the last pass of this part."""
        if self.session is None or not self.session.played or not words.strip():
            return
        self.keeper.note(self.session.played[-1].uid, words.strip())
        self.noticed.emit("Noted on the last pass", True)

    def keep(self, passes: Sequence[Pass]) -> None:
        """Take passes into the log that were played elsewhere."""
        self.keeper.keep(passes)
        self.refresh()

    def take_back(self) -> None:
        """The last pass was marked by mistake: take it out of the log."""
        session = self.session
        if session is None or not session.played:
            return
        gone = session.played.pop()
        self.keeper.take_back([gone.uid])
        session.course.played.remove(gone.one)
        session.clean, session.missed = session.clean - gone.one.clean, session.missed - (not gone.one.clean)
        session.drill = gone.drill
        session.last -= gone.one.seconds  # its time belongs to what is marked instead
        self._go()

    def overrule(self) -> None:
        """The last pass was taken for the other kind: mark it anew."""
        session = self.session
        if session is None or not session.played:
            self.noticed.emit("There is no pass of this drill to overrule", False)
            return
        was = session.played[-1]
        self.take_back()
        self.mark(not was.one.clean, heard=True)

    def retempo(self, tempo: float) -> None:
        """The player sets another tempo."""
        if self.session is not None and self.session.rung is not None:
            self.session.rung = replace(self.session.rung, tempo=max(10.0, min(1000.0, tempo)), reason="set by hand")
            self.moved.emit()

    def go_on(self, by: int = 1) -> None:
        """To the next part of the session, or the one before; after the last it ends."""
        was = self.session
        if was is None:
            return
        number = max(0, was.number + by)
        if number >= len(was.schedule.slots):
            self.end()
            return
        now = self.clock()
        self.session = Session(was.course, was.schedule, number, now, now, was.schedule.slots[number].drill)
        self._go()

    def end(self) -> None:
        """The session is over."""
        was, self.session = self.session, None
        self.ended.emit()
        figures = was.course.figures if was is not None else ()
        if figures:
            self.measured.emit(figures)
        self.refresh()

    def measured_passes(self) -> tuple[Pass, ...]:
        """What was played lately to measure the hands, off the interface's thread."""
        from dromic.app.session.measure_course import measured_lately

        return measured_lately(self.keeper.settle(), self.now().date())

    def _go(self) -> None:
        """Say the next tempo of the drill in hand; a drill that has no more to say gives way to the next part."""
        session = self.session
        assert session is not None
        if session.drill is not None:
            session.rung = session.course.rung(session.drill, self.now().date())
            if session.rung is None:
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
