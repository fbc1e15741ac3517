"""The ear of a session: it hears the input while a drill goes round, stretch by stretch, and says of each pass whether it was clean.
All its times are counted in the input's own samples."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from dromic import presets
from dromic.app.audio.input import GONE, RATE, Input, best_input
from dromic.app.audio.sync import Sync
from dromic.app.kit.worker import Worker
from dromic.core.listening.due import due_notes
from dromic.core.listening.passes import Stretch, StretchHeard, pass_heard, stretches
from dromic.core.listening.verdicts import Manner
from dromic.core.plan.plan import Plan

if TYPE_CHECKING:
    from dromic.app.audio.output import Output
    from dromic.sound.hearing.bleed import Bleed
    from dromic.sound.render import Rendering
    from dromic.sound.string import Samples
    from dromic.sound.tape import Tape

_LOOK_MS = 20
_LEAD_S = 0.1
"""heard before the first note of a stretch"""
Done = Callable[[], None]
"""what a job of the ear leaves to be done on the interface's thread"""
NO_INPUT = "There is no input to listen to here; mark the passes yourself"


class Ear(QObject):
    """Follows the rounds of one drill at one tempo until it is told of another."""

    heard = pyqtSignal(object)
    """a pass, as it was heard"""
    level = pyqtSignal(float)
    noticed = pyqtSignal(str, bool)

    def __init__(self, latency_s: Callable[[str], float | None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.input: Input | None = None
        self.on = False
        self.manner = Manner()
        self._latency_s = latency_s
        """the latency from playing to hearing for an input by its label, in seconds; None where it was not measured"""
        self._stretches: tuple[Stretch, ...] | None = None
        self._heard: list[StretchHeard] = []
        self._bleed: Bleed | None = None
        self._counted = 0
        """of how many rounds the bar counted in was heard: it tells what the input hears of the loudspeaker, something or nothing"""
        self._loop: Tape | None = None
        self._sync = Sync(self)
        self._start, self._round, self._round_s, self._lead_s, self._tempo = 0, 0, 0.0, 0.0, 0.0
        self._skipped = -1
        self.worker = Worker(self)
        self.worker.answered.connect(lambda done: done())
        self.worker.refused.connect(self._refused)
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self.look)

    def open(self) -> bool:
        """Listen; whether there is something to listen to."""
        if self.input is None:
            self.input = best_input(self)
        if self.input is None:
            self.noticed.emit(NO_INPUT, False)
            return False
        if not self.on:
            self.input.level.connect(self._took)
            self.input.gone.connect(self._gone)
            self.input.start()
            self.on = True
        return True

    def ready(self) -> bool:
        """Whether what sounds now would be heard: an input takes its time to begin."""
        return not self.on or self.input is None or not self.input.live or self.input.position() > 0

    def close(self) -> None:
        """Listen no more."""
        self.rest()
        if self.input is not None and self.on:
            self.input.level.disconnect(self._took)
            self.input.gone.disconnect(self._gone)
            self.input.stop()
        self.on = False

    def _took(self, level: float) -> None:
        """Something came in; between drills nothing of it is wanted."""
        self.level.emit(level)
        if self._stretches is None and not self.worker.running and self.input is not None:
            self.input.forget(self.input.position())

    def _gone(self) -> None:
        self.close()
        self.noticed.emit(f"{GONE}; until then mark the passes yourself", False)

    def rest(self) -> None:
        """Nothing is played now that is to be heard."""
        self._timer.stop()
        self._sync.stop()
        self.worker.cancel()
        self._stretches, self._loop = None, None

    def follow(
        self, plan_of: Callable[[], Plan], tempo: float, rendering: Rendering, loop: Tape, output: Output | None
    ) -> None:
        """A drill sounds from its front, now, and goes round: `rendering` is one round of it, `loop` what goes to the output."""
        if not self.on or self.input is None:
            return
        self.rest()
        self._sync.begin(self.input, output)
        self._start, self._round, self._heard = self._sync.start, 0, []
        self._bleed, self._counted = None, 0
        self._round_s, self._lead_s, self._tempo, self._loop = rendering.music_s, rendering.seconds[0], tempo, loop
        self._skipped = -1
        numbers = presets.listening().live

        def job(_go_on: object) -> Done:
            return partial(self._prepared, stretches(due_notes(plan_of(), tempo), numbers))

        self.worker.start(job)

    def skip(self) -> None:
        """The player has marked the pass that runs: it is not marked again by ear."""
        self._skipped = self._round

    def stop(self) -> None:
        """The window closes."""
        self.close()
        self.worker.close()

    def look(self) -> None:
        """Learn the response to the click while only it sounds, then judge each stretch once all of it was heard."""
        if self._stretches is None or self.worker.running or self.input is None:
            return
        if not self._counted:
            self._start = self._sync.start  # known better and better while it is counted in, and then followed
        begin = self._start + round(self._round * self._round_s * RATE)
        front = begin + round(self._lead_s * RATE)
        if self._counted <= self._round:
            self._count_in(begin, front - round(_LEAD_S * RATE))
            return
        numbers, stretch, latency_s = presets.listening().live, self._stretches[len(self._heard)], self._known_latency_s
        latency, reach = (0.0, numbers.reach_s) if latency_s is None else (latency_s, numbers.reach_measured_s)
        late = numbers.margin_s + (numbers.reach_s if latency_s is None else latency)
        begin = front + round((stretch.start_s - _LEAD_S) * RATE)
        end = front + round((stretch.end_s + late) * RATE)
        if self.input.position() < end:
            return
        samples, bleed, manner, tempo = self.input.between(begin, end), self._bleed, self.manner, self._tempo
        played = self._out(begin - self._way_length + 1, end)

        def job(go_on: Callable[[float], bool]) -> Done:
            from dromic.sound.hearing.pass_listening import hear_stretch

            heard, moved, lost, off = samples, 0, 0, 0.0
            if bleed is not None:
                heard, moved, lost, _, off = bleed.without(samples, played)
            found = hear_stretch(stretch, heard, _LEAD_S + latency, reach, tempo, manner, go_on, off)
            return partial(self._judged, replace(found, lost_s=lost / RATE), moved)

        self.worker.start(job)

    @property
    def _known_latency_s(self) -> float | None:
        """The latency from playing to hearing: what is heard of the loudspeaker tells it better than what was measured once."""
        assert self.input is not None
        return self._latency_s(self.input.label) if self._bleed is None else self._bleed.delay / RATE

    @property
    def _way_length(self) -> int:
        return round(presets.listening().live.bleed_s * RATE)

    def _count_in(self, begin: int, end: int) -> None:
        """Learn what the input hears of the loudspeaker, from samples in which only the bar counted in sounds; in later rounds follow
        it, or learn it anew where the response that was known tells it no more."""
        assert self.input is not None
        if self.input.position() < end:
            return
        self._sync.stop()
        length, known = self._way_length, self._bleed
        recorded, played = self.input.between(begin, end), self._out(begin - length + 1, end)

        def job(_go_on: object) -> Done:
            from dromic.sound.hearing.bleed import counted_in

            return partial(self._was_counted, *counted_in(recorded, played, length, known))

        self.worker.start(job)

    def _out(self, start: int, end: int) -> Samples:
        """What went out to the loudspeaker while the input took these samples."""
        if self._loop is None:
            return np.zeros(end - start)
        numbers = np.arange(start, end) - self._start
        return np.where(numbers < 0, 0.0, self._loop.samples(numbers))

    def _prepared(self, found: tuple[Stretch, ...]) -> None:
        self._stretches = found or None
        self._timer.start()

    def _was_counted(self, bleed: Bleed | None, moved: int) -> None:
        self._bleed, self._counted = bleed, self._round + 1
        self._start += moved

    def _judged(self, heard: StretchHeard, moved: int) -> None:
        """`moved`: how many samples later than looked for the loudspeaker was heard."""
        assert self.input is not None
        self._heard.append(heard)
        self._start += moved
        if self._stretches is None or len(self._heard) < len(self._stretches):
            return
        settings = presets.listening()
        found = pass_heard(self._heard, settings.live, settings.judge.hard, self._known_latency_s is not None)
        skipped, self._heard, self._round = self._round == self._skipped, [], self._round + 1
        self.input.forget(self._start + round((self._round * self._round_s - 1.0) * RATE))
        if found is not None and not skipped:
            self.heard.emit(found)

    def _refused(self, sentence: str) -> None:
        self.rest()
        self.noticed.emit(f"This drill cannot be listened to: {sentence}", False)
