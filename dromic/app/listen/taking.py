"""The take that is looked at: opened or simulated, heard and judged off the interface's thread, and played back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from dromic import presets
from dromic.app.audio.input import GONE
from dromic.app.audio.sync import Sync
from dromic.app.audio.tape_worker import TapeWorker
from dromic.app.kit.worker import Worker
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.core.listening.report import TakeReport
from dromic.core.listening.verdicts import Manner
from dromic.core.plan.plan import Plan
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.store.takes import KeptTake

if TYPE_CHECKING:
    from dromic.app.audio.input import Input
    from dromic.app.audio.output import Output
    from dromic.app.book.planning import Planning
    from dromic.sound.hearing.take_file import Recording
    from dromic.sound.string import Samples
    from dromic.sound.tape import Tape
    from dromic.store.recorder import Recorder
    from dromic.store.takes import Takes

NO_PLAN = "There is no plan to listen for yet: write a phrase, then see it planned"
BEFORE_COUNTED_S = 0.12
"""of a recording kept before the bar counted in is over: a first note may come early"""
BEFORE_S, AFTER_S = 0.4, 0.6
"""of the take, heard about a note"""
EARLY_S = 0.05
"""before a bar's first note, heard with it"""
NOTE, BAR, BARS, ALL = "note", "bar", "bars", "all"
SPEEDS = (1.0, 0.75, 0.5, 0.35)


@dataclass(frozen=True)
class Take:
    """A take that was heard: its name, its sound (None for MIDI), the plan it is set against, what is said of it."""

    name: str
    sound: Recording | None
    plan: Plan
    report: TakeReport
    midi: bytes = b""
    """of a performance that has no sound"""
    recorded: KeptTake | None = None
    """what stands for it on disk, not kept yet, where it was recorded here"""

    def passage(self, event: int | None, reach: str) -> tuple[float, float] | None:
        """From when to when in the take an event is heard, or its bar, that and the next, or all; None where there is no such note. Of
        what is played more than once, the first time."""
        notes = self.report.notes
        first = next((n for n, note in enumerate(notes) if event is None or note.event == event), None)
        if first is None:
            return None
        at = [note.heard_s if note.heard_s is not None else note.due_s for note in notes]
        if reach == NOTE:
            return at[first] - BEFORE_S, at[first] + AFTER_S
        if reach == ALL:
            return at[0] - BEFORE_S, at[-1] + AFTER_S
        bars = {note.index: note.bar_number for note in self.plan.notes}
        of = [bars[note.index] for note in notes]
        begin = next(n for n in range(first, -1, -1) if n == 0 or of[n - 1] != of[first])
        end, left = first, 1 if reach == BAR else 2
        while end < len(of) and left:
            end += 1
            left -= end == len(of) or of[end] != of[end - 1]
        until = at[end] if end < len(at) else at[-1] + AFTER_S
        return at[begin] - EARLY_S, until - EARLY_S


class Taking(QObject):
    """Holds one take at a time."""

    heard = pyqtSignal()
    """there is another take, or another judgement of it"""
    working = pyqtSignal(bool)
    level = pyqtSignal(float)
    """of the input, 0 to 1"""
    noticed = pyqtSignal(str, bool)

    def __init__(
        self, planning: Planning, way_s: Callable[[str], float | None] = lambda _: None, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._way_s = way_s
        self.planning = planning
        self.take: Take | None = None
        self.manner = Manner()
        self.output: Output | None = None
        self.input: Input | None = None
        self.recording, self.counted_s = False, 0.0
        self.takes: Takes | None = None
        """where a recording is written while it runs"""
        self.changed_on_disk: Callable[[], None] = lambda: None
        self._recorder: Recorder | None = None
        self._recorded: KeptTake | None = None
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_heard)
        self.worker.refused.connect(self._was_refused)
        self._sync = Sync(self)
        self._player = TapeWorker(self)
        self._player.begun.connect(self._sounds)

    def open(self, path: Path) -> None:
        """Hear a take in a file."""
        manner = self.manner
        self._start(lambda plan, go_on: _read(plan, path, manner, go_on))

    def simulate(self, level: float, seed: int) -> None:
        """Hear what the simulated player plays of the plan."""
        manner = self.manner
        self._start(lambda plan, go_on: _simulated(plan, level, seed, manner, go_on))

    def record(self) -> bool:
        """Record from the input, a bar counted in first; whether there is one."""
        from dromic.app.audio.input import best_input
        from dromic.app.audio.output import best_output
        from dromic.sound.render import RenderRequest, render
        from dromic.sound.tape import Tape

        plan = self.planning.plan
        if plan is None:
            self.noticed.emit(NO_PLAN, False)
            return False
        if self.input is None:
            self.input = best_input(self)
        if self.input is None:
            self.noticed.emit("There is no input to record from: plug one in, or open a take from a file", False)
            return False
        self.stop_sound()
        self.input.level.connect(self.level)
        self.input.gone.connect(self._gone)
        counted = render(plan.request.phrase, RenderRequest(count_in=True, notes=False, tail=False))
        self.counted_s = counted.seconds[0]
        if self.output is None:
            self.output = best_output(self)
        self.recording = True
        self._sync.begin(self.input, self.output)
        self._write_down(plan)
        self.input.start()
        length = int(self.counted_s * counted.rate)
        self.output.start(Tape(length, counted.rate, counted.pieces()).put_down(), False)
        return True

    def _write_down(self, plan: Plan) -> None:
        """What comes from the input goes to disk as it comes."""
        from dromic.app.audio.input import RATE

        self._recorder, self._recorded = None, None
        if self.takes is None or self.input is None:
            return
        begun = KeptTake(
            datetime.now(), plan.request.phrase.title, "not kept yet", plan.request.phrase.tempo, 0.0, 0.0, (), ".flac"
        )
        try:
            self._recorder = self.takes.begin(begun, RATE)
        except DromicError as error:
            self.noticed.emit(f"Recorded in memory alone: {error}", False)
            return
        self._recorded, self.input.sink = begun, self._took

    def _took(self, part: Samples) -> None:
        try:
            if self._recorder is not None:
                self._recorder.write(part)
        except DromicError as error:
            self._recorder = None
            self.noticed.emit(str(error), False)

    def _finish(self) -> KeptTake | None:
        """The recording on disk is whole."""
        recorder, recorded, self._recorder, self._recorded = self._recorder, self._recorded, None, None
        if self.input is not None:
            self.input.sink = None
        if recorded is None or self.takes is None:
            return None
        try:
            if recorder is not None:
                recorder.close()
            return self.takes.ended(recorded)
        except DromicError as error:
            self.noticed.emit(str(error), False)
            return None

    def keep(self) -> None:
        """Stop recording, and hear what was recorded after the count-in."""
        from dromic.app.audio.input import RATE

        if self.input is None or not self.recording:
            return
        self.recording = False
        self.input.level.disconnect(self.level)
        self.input.gone.disconnect(self._gone)
        self._sync.stop()
        samples = self.input.stop()
        recorded = self._finish()
        self.changed_on_disk()
        counted_s = self.counted_s + (self._way_s(self.input.label) or 0.0) - BEFORE_COUNTED_S
        samples = samples[max(0, self._sync.start + int(counted_s * RATE)) :]  # without the clicks that were heard
        manner = self.manner
        self._start(lambda plan, go_on: replace(_recorded(plan, samples, manner, go_on), recorded=recorded))

    def _gone(self) -> None:
        self.noticed.emit(f"{GONE}; what was recorded until then is heard", False)
        self.keep()

    def open_kept(self, kept: KeptTake, takes: Takes) -> None:
        """Hear a take again that was kept."""
        manner, recorded = self.manner, None if kept.kept else kept
        self._start(
            lambda plan, go_on: replace(
                _of_data(plan, takes.sound(kept), kept.name, kept.suffix, manner, go_on), recorded=recorded
            )
        )

    def judge_as(self, manner: Manner) -> None:
        """The same take, judged otherwise."""
        self.manner = manner
        take = self.take
        if take is not None and take.sound is not None:
            sound = take.sound
            self._start(
                lambda plan, go_on: replace(_heard(plan, take.name, sound, manner, go_on), recorded=take.recorded)
            )

    def _start(self, work: Callable[[Plan, Progress], Take]) -> None:
        plan = self.planning.plan
        if plan is None:
            self.noticed.emit(NO_PLAN, False)
            return
        self.working.emit(True)
        self.worker.start(lambda progress: work(plan, progress))

    def cancel(self) -> None:
        """Stop hearing what is being heard."""
        self.worker.cancel()
        self.working.emit(False)

    def _was_heard(self, answer: object) -> None:
        assert isinstance(answer, Take)
        plan = self.planning.plan
        if plan is None or plan.request.phrase != answer.plan.request.phrase:
            self.working.emit(False)
            if answer.recorded is not None:
                self.noticed.emit("The page was turned: the recording stands among the takes, not kept yet", True)
            return
        self.take = answer
        self.working.emit(False)  # the page shows what there is
        self.heard.emit()

    def _was_refused(self, sentence: str) -> None:
        self.working.emit(False)
        self.noticed.emit(sentence, False)

    def forget(self) -> None:
        """Throw the take away."""
        self.stop_sound()
        self.take = None
        self.heard.emit()

    def play(self, start_s: float, end_s: float, share: float = 1.0, loop: bool = False) -> None:
        """Hear a piece of the take, slowed at its pitch where asked."""
        from dromic.sound.stretch import slowed
        from dromic.sound.tape import Tape

        take = self.take
        if take is None or take.sound is None:
            self.noticed.emit("This take has no sound of its own to hear", False)
            return
        rate = take.sound.rate
        piece = take.sound.samples[max(0, int(start_s * rate)) : max(1, int(end_s * rate))]
        mono = piece.mean(axis=1) if piece.ndim == 2 else piece
        self._player.begin(lambda: (loop, Tape(int(len(mono) / share), rate, slowed(mono, rate, share))))

    def _sounds(self, loop: bool, tape: Tape) -> None:
        from dromic.app.audio.output import best_output

        if self.output is None:
            self.output = best_output(self)
        self.output.start(tape, loop)

    def stop_sound(self) -> None:
        """Silence."""
        self._player.cancel()
        if self.output is not None:
            self.output.stop()

    def close(self) -> None:
        """The window closes."""
        if self.input is not None and self.recording:
            self.input.stop()
            self._finish()
        self.stop_sound()
        self.worker.close()
        self._player.close()


def _read(plan: Plan, path: Path, manner: Manner, go_on: Progress) -> Take:
    try:
        data = path.read_bytes()
    except OSError as error:
        raise DromicError(f"cannot be read ({error.strerror}); choose another take", path=path.name) from error
    return _of_data(plan, data, path.name, path.suffix, manner, go_on)


def _of_data(plan: Plan, data: bytes, name: str, suffix: str, manner: Manner, go_on: Progress) -> Take:
    from dromic.sound.hearing.listening import check
    from dromic.sound.hearing.take_file import MIDI, recording

    if suffix.lower() in MIDI:
        return Take(name, None, plan, check(plan, data, f"take{suffix}", manner, go_on), data)
    return _heard(plan, name, recording(data, name), manner, go_on)


def _heard(plan: Plan, name: str, sound: Recording, manner: Manner, go_on: Progress) -> Take:
    from dromic.sound.hearing.listening import check_sound

    return Take(name, sound, plan, check_sound(plan, sound, manner, go_on))


def _recorded(plan: Plan, samples: Samples, manner: Manner, go_on: Progress) -> Take:
    from dromic.app.audio.input import RATE
    from dromic.sound.hearing.take_file import checked

    name = "the take just recorded"
    return _heard(plan, name, checked(samples[:, None], RATE, name), manner, go_on)


def _simulated(plan: Plan, level: float, seed: int, manner: Manner, go_on: Progress) -> Take:
    from dromic.sound.hearing.take_file import Recording
    from dromic.sound.take_render import take_sound

    played = perform(due_notes(plan), presets.listening(), level, seed)
    samples, rate = take_sound(played, plan.request.phrase, seed, go_on)
    return _heard(
        plan, f"a simulated player's take (level {level:.0%}, number {seed})", Recording(samples, rate), manner, go_on
    )
