"""What is practised: today's work on the plan that stands open, the sitting that runs, and its passes, each logged at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from dromic import presets
from dromic.app.kit.worker import Worker
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import empty_phrase
from dromic.core.practice.drill import FRETTING, Drill
from dromic.core.practice.ladder import SLOW, Rung, next_rung
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.sitting import DRILL, Schedule, Slot
from dromic.core.practice.todays_work import Work, todays_work
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import parse
from dromic.store.logbook import Logbook

if TYPE_CHECKING:
    from dromic.app.book.planning import Planning
    from dromic.core.learning.measuring import Figure

MINUTES = 30
MEASURE, MEASURE_MIN, MEASURED_DAYS = "measure", 10.0, 30
"""the kind of what is played when hands are measured; minutes a figure has; days for which its passes count"""
NO_PLAN = "There is no plan to practise yet: write a phrase, then see it planned"


@dataclass(frozen=True, slots=True)
class Wishes:
    """What the player asks of a sitting."""

    minutes: float = MINUTES
    first_hand: str = FRETTING
    soreness: int = 0
    ladder: str = SLOW
    without: tuple[str, ...] = ()


@dataclass
class Sitting:
    """A sitting that runs: where it is, and what was played of the drill in hand."""

    schedule: Schedule
    number: int = 0
    began: datetime = field(default_factory=datetime.now)
    """when this part began"""
    last: datetime = field(default_factory=datetime.now)
    """when the last pass ended"""
    rung: Rung | None = None
    clean: int = 0
    missed: int = 0

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
    noticed = pyqtSignal(str, bool)

    def __init__(
        self, planning: Planning, logbook: Logbook, now: Callable[[], datetime] = datetime.now,
        parent: QObject | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.planning, self.logbook, self.now = planning, logbook, now
        self.wishes = Wishes()
        self.work: Work | None = None
        self.sitting: Sitting | None = None
        self.why_none = NO_PLAN
        self.attentive = True
        """whether passes are played with attention: those in the background are logged apart and lead no tempo"""
        self.worker = Worker(self)
        self.figures: tuple[Figure, ...] = ()
        """what is measured, while the hands are"""
        self.measurer = Worker(self)
        self.measurer.answered.connect(self._was_laid_out)
        self.measurer.refused.connect(lambda words: self.noticed.emit(words, False))
        self.worker.answered.connect(self._was_worked)
        self.worker.refused.connect(self._was_refused)

    def wish(self, **wishes: object) -> None:
        """Ask something else of the sitting."""
        self.wishes = replace(self.wishes, **wishes)  # type: ignore[arg-type]
        self.refresh()

    def refresh(self) -> None:
        """Work out today's work anew, off the interface's thread."""
        plan = self.planning.plan
        if plan is None:
            self._was_refused(NO_PLAN)
            return
        wishes, logbook, today = self.wishes, self.logbook, self.now().date()

        def job(_progress: object) -> Work:
            return todays_work(
                plan, presets.practice(), wishes.minutes, logbook.passes(plan.request.phrase.title), today,
                first_hand=wishes.first_hand, without=wishes.without, school=wishes.ladder, soreness=wishes.soreness,
            )  # fmt: skip

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
        schedule = self.work.schedule
        if drill is not None:
            schedule = Schedule((Slot(DRILL, presets.practice().sitting["drill_min"], drill),))
        now = self.now()
        self.sitting = Sitting(schedule, 0, now, now)
        self._enter()

    @property
    def drill(self) -> Drill | None:
        """The drill in hand, None in a warm-up or a break."""
        if self.sitting is None or self.sitting.slot.drill is None:
            return None
        return self.drill_at(self.sitting.slot.drill)

    def drill_at(self, number: int) -> Drill:
        """A drill of today's work; of the figures, while the hands are measured."""
        if not self.figures:
            assert self.work is not None
            return self.work.drills[number]
        figure = self.figures[number]
        own = figure.plan.request.phrase
        return Drill(MEASURE, figure.ability.hand, (), figure.ability.words, own, 1.0, figure.ability.number)

    @property
    def seconds_left(self) -> float:
        """Of the part that runs; below 0 when its time is over."""
        if self.sitting is None:
            return 0.0
        return self.sitting.slot.minutes * 60 - (self.now() - self.sitting.began).total_seconds()

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
        assert isinstance(found, tuple)
        self.figures = found
        slots = tuple(Slot(DRILL, MEASURE_MIN, number) for number in range(len(found)))
        now = self.now()
        self.sitting = Sitting(Schedule(slots), 0, now, now)
        self._enter()
        if self.sitting is not None:
            self.begun.emit()

    def measured_passes(self) -> list[Pass]:
        """What was played of the figures lately."""
        from dromic.core.learning.measuring import PHRASE

        return self.logbook.passes(PHRASE, since=self.now().date() - timedelta(days=MEASURED_DAYS))

    def _next_try(self) -> None:
        """The next tempo of the figure in hand; when its limit is known, the next figure."""
        from dromic.core.learning.measuring import belief, done

        sitting = self.sitting
        assert sitting is not None and sitting.slot.drill is not None
        figure, numbers = self.figures[sitting.slot.drill], presets.data("practice.toml")["learning"]
        passes = self.measured_passes()
        held = belief(figure, passes, numbers)
        if done(held, passes, figure, numbers):
            self.go_on()
            return
        low, high = (held.middle * (1 + sign * held.spread) for sign in (-1, 1))
        sitting.rung = Rung(
            held.middle, f"your limit lies between about {low:.0f} and {high:.0f}: play it once, then say"
        )
        self.moved.emit()

    def mark(self, clean: bool, hand: str | None = None, fault: str | None = None) -> None:
        """A pass is over: keep it, and say what is next. When the time of the drill is over, the next part begins."""
        sitting, drill, work = self.sitting, self.drill, self.work
        if sitting is None or sitting.rung is None or drill is None or work is None:
            return
        now = self.now()
        one = Pass(
            now.replace(microsecond=0), self._title(work), drill.name, round(sitting.rung.tempo, 2), clean,
            work.notes_of(drill), hand, fault, self.attentive, round((now - sitting.last).total_seconds(), 1), self.wishes.soreness,
            sitting.rung.burst, work.plan.request.player.name, work.plan.request.school.name,
        )  # fmt: skip
        try:
            self.logbook.add([one])
        except DromicError as error:
            self.noticed.emit(f"This pass could not be kept: {error}", False)
        sitting.last = now
        sitting.clean, sitting.missed = sitting.clean + clean, sitting.missed + (not clean)
        if self.figures:
            self._next_try()
        elif self.seconds_left <= 0:
            self.go_on()
        else:
            self._next_rung()

    def _title(self, work: Work) -> str:
        """The phrase that passes are logged under."""
        from dromic.core.learning.measuring import PHRASE

        return PHRASE if self.figures else work.plan.request.phrase.title

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
        if sitting is None or self.drill is None or not sitting.clean + sitting.missed:
            return
        gone = self.logbook.undo_last()
        if gone is not None:
            sitting.clean, sitting.missed = sitting.clean - gone.clean, sitting.missed - (not gone.clean)
            self._enter()

    def retempo(self, tempo: float) -> None:
        """The player sets another tempo."""
        if self.sitting is not None and self.sitting.rung is not None:
            self.sitting.rung = replace(self.sitting.rung, tempo=max(10.0, min(1000.0, tempo)), reason="set by hand")
            self.moved.emit()

    def go_on(self, by: int = 1) -> None:
        """To the next part of the sitting, or the one before; after the last it ends."""
        if self.sitting is None:
            return
        number = self.sitting.number + by
        if number >= len(self.sitting.schedule.slots):
            self.end()
            return
        now = self.now()
        self.sitting = Sitting(self.sitting.schedule, max(0, number), now, now)
        self._enter()

    def end(self) -> None:
        """The sitting is over."""
        was = self.figures
        self.sitting, self.figures = None, ()
        self.ended.emit()
        if was:
            self.measured.emit(was)
        self.refresh()

    def _enter(self) -> None:
        if self.drill is None:
            self.moved.emit()
        elif self.figures:
            self._next_try()
        else:
            self._next_rung()

    def _next_rung(self) -> None:
        sitting, drill, work = self.sitting, self.drill, self.work
        assert sitting is not None and drill is not None and work is not None
        passes = self.logbook.passes(work.plan.request.phrase.title, drill.name)
        sitting.rung = next_rung(
            passes,
            self.now().date(),
            work.target,
            work.ceiling_of(drill),
            presets.practice().ladder,
            self.wishes.ladder,
        )
        self.moved.emit()

    def stop(self) -> None:
        """The window closes."""
        self.worker.close()
        self.measurer.close()
