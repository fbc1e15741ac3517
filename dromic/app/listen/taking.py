"""The take that is looked at: opened or simulated, heard and judged off the interface's thread, and played back."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from dromic import presets
from dromic.app.audio.input import GONE
from dromic.app.audio.sync import Sync
from dromic.app.audio.tape_worker import TapeWorker
from dromic.app.kit.worker import Worker
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.core.listening.report import TakeReport
from dromic.core.listening.verdicts import Manner
from dromic.core.music.songbook import Songbook
from dromic.core.plan.plan import Plan
from dromic.core.practice.log_pass import PhraseName
from dromic.core.reports.as_json import plan_json
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.formats.document.document import songbook_bytes
from dromic.store.takes import KeptTake

if TYPE_CHECKING:
    from dromic.app.audio.input import Input
    from dromic.app.audio.output import Output
    from dromic.app.book.planning import Planning
    from dromic.sound.hearing.take_file import Recording
    from dromic.sound.hearing.take_sound import FileSound, HeldSound
    from dromic.sound.string import Samples
    from dromic.sound.tape import Tape
    from dromic.store.recorder import Recorder, RecordingBounds
    from dromic.store.takes import Takes

NO_PLAN = "There is no plan to listen for yet: write a phrase, then see it planned"
BEFORE_COUNTED_S = 0.12
"""of a recording kept before the bar counted in is over: a first note may come early"""
BEFORE_S = 0.4
"""What of the take is heard before a note, s."""
AFTER_S = 0.6
"""What is heard after its onset, s."""
EARLY_S = 0.05
"""before a bar's first note, heard with it"""
JUST = "the take just recorded"
_IN_MEMORY_S = 30
"""of a recording that is held on to while it is written to the disk"""
NOTE, BAR, BARS, ALL = "note", "bar", "bars", "all"
SPEEDS = (1.0, 0.75, 0.5, 0.35)


NOBODY = PhraseName("")


@dataclass(frozen=True)
class Take:
    """A take that was heard: its name, its sound (None for MIDI), the plan it is set against, what is said of it."""

    name: str
    sound: FileSound | HeldSound | None
    plan: Plan
    report: TakeReport
    midi: bytes = b""
    """of a performance that has no sound"""
    recorded: KeptTake | None = None
    """what stands for it on disk, not kept yet, where it was recorded here"""
    of: PhraseName = NOBODY
    """the phrase it is a take of"""

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
        self,
        planning: Planning,
        latency_s: Callable[[str], float | None] = lambda _: None,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._latency_s = latency_s
        self.planning = planning
        self.take: Take | None = None
        self.manner = Manner()
        self.output: Output | None = None
        self.input: Input | None = None
        self.recording, self.counted_s = False, 0.0
        self.takes: Takes | None = None
        """where a recording is written while it runs"""
        self.changed_on_disk: Callable[[], None] = lambda: None
        self.recorded: dict[str, KeptTake] = {}
        """what was recorded in this session and neither kept nor thrown away, by its number"""
        self._bounds: RecordingBounds | None = None
        self._recorder: Recorder | None = None
        self._recorded: KeptTake | None = None
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_heard)
        self.worker.refused.connect(self._was_refused)
        self._sync = Sync(self)
        self._player = TapeWorker(self)
        self._player.begun.connect(self._sounds)
        self._player.refused.connect(lambda words: self.noticed.emit(words, False))

    def open(self, path: Path) -> None:
        """Hear a take in a file."""
        manner = self.manner
        self._start(lambda plan, go_on: _of_file(plan, path, path.name, manner, go_on))

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
        from dromic.store.recorder import RecordingBounds

        self._recorder, self._recorded = None, None
        if self.takes is None or self.input is None:
            return
        of = self.planning.name
        begun = KeptTake(
            datetime.now(),
            of.title,
            "not kept yet",
            plan.request.phrase.tempo,
            0.0,
            0.0,
            (),
            ".flac",
            phrase_id=of.id,
            skip_s=self._before_s(),
        )
        try:
            self._recorder = self.takes.begin(begun, RATE, self._played(plan))
        except DromicError as error:
            self.noticed.emit(f"Recorded in memory alone: {error}", False)
            return
        self._recorded, self.input.sink = begun, self._took
        self._bounds = RecordingBounds(presets.data("limits.toml"))
        self.recorded[begun.number] = begun

    def _played(self, plan: Plan) -> bytes:
        """What is played: the songbook of the phrase with what is chosen for it, and the plan, as JSON."""
        book = Songbook(self.planning.open_book.book.title, (self.planning.open_book.entry,))
        return json.dumps({"songbook": json.loads(songbook_bytes(book)), "plan": plan_json(plan, 0.0, 1)}).encode()

    def _took(self, part: Samples) -> None:
        from dromic.app.audio.input import RATE

        recorder, takes = self._recorder, self.takes
        if recorder is None or takes is None or self.input is None or self._bounds is None:
            return
        try:
            recorder.write(part)
        except DromicError as error:
            self._recorder = None
            self.noticed.emit(str(error), False)
            return
        self.input.forget(self.input.position() - _IN_MEMORY_S * RATE)  # the rest is on the disk
        words, over = self._bounds.look(recorder.frames / RATE, takes.folder)
        if words:
            self.noticed.emit(words, False)
        if over:
            QTimer.singleShot(0, self.keep)

    def _finish(self, skip_s: float) -> KeptTake | None:
        """The recording on disk is whole; so much of it comes before the take itself."""
        recorder, recorded, self._recorder, self._recorded = self._recorder, self._recorded, None, None
        if self.input is not None:
            self.input.sink = None
        if recorded is None or self.takes is None:
            return None
        try:
            if recorder is not None:
                recorder.close()
            ended = self.recorded[recorded.number] = self.takes.ended(replace(recorded, skip_s=skip_s))
        except DromicError as error:
            self.noticed.emit(str(error), False)
            return None
        return ended

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
        skip_s = max(0.0, self._sync.start / RATE + self._before_s())  # without the clicks that were heard
        recorded, takes, manner = self._finish(skip_s), self.takes, self.manner
        self.changed_on_disk()
        if recorded is not None and takes is not None:
            path = takes.path(recorded)
            self._start(
                lambda plan, go_on: replace(_of_file(plan, path, JUST, manner, go_on, skip_s), recorded=recorded)
            )
            return
        part = samples[int(skip_s * RATE) :]
        self._start(lambda plan, go_on: _recorded(plan, part, manner, go_on))

    def _before_s(self) -> float:
        """How long the bar counted in is heard, less what a first note may come early."""
        assert self.input is not None
        return self.counted_s + (self._latency_s(self.input.label) or 0.0) - BEFORE_COUNTED_S

    def _gone(self) -> None:
        self.noticed.emit(f"{GONE}; what was recorded until then is heard", False)
        self.keep()

    def open_kept(self, kept: KeptTake, takes: Takes) -> None:
        """Hear a take again that was kept."""
        manner, recorded = self.manner, None if kept.kept else kept
        self._start(
            lambda plan, go_on: replace(
                _of_file(plan, takes.path(kept), kept.name, manner, go_on, kept.skip_s), recorded=recorded
            )
        )

    def judge_as(self, manner: Manner) -> None:
        """The same take, judged otherwise."""
        self.manner = manner
        take = self.take
        if take is not None and take.sound is not None:
            self._start(lambda plan, go_on: replace(take, plan=plan, report=_judged(plan, take, manner, go_on)))

    def _start(self, work: Callable[[Plan, Progress], Take]) -> None:
        plan = self.planning.plan
        if plan is None:
            self.noticed.emit(NO_PLAN, False)
            return
        self.working.emit(True)
        of = self.planning.name
        self.worker.start(lambda progress: replace(work(plan, progress), of=of))

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
        sound = take.sound

        def make() -> tuple[bool, Tape]:
            mono, rate = sound.piece(start_s, end_s)
            return loop, Tape(int(len(mono) / share), rate, slowed(mono, rate, share))

        self._player.begin(make)

    def _sounds(self, loop: bool, tape: Tape) -> None:
        from dromic.app.audio.output import best_output

        if self.output is None:
            self.output = best_output(self)
        self.output.start(tape, loop)

    def break_off(self) -> None:
        """Stop recording; what there is of it is on disk, and is not heard."""
        from dromic.app.audio.input import RATE

        if self.input is not None and self.recording:
            self.recording = False
            self._sync.stop()
            self.input.stop()
            self._finish(max(0.0, self._sync.start / RATE + self._before_s()))

    def stop_sound(self) -> None:
        """Silence."""
        self._player.cancel()
        if self.output is not None:
            self.output.stop()

    def close(self) -> None:
        """The window closes."""
        self.break_off()
        self.stop_sound()
        self.worker.close()
        self._player.close()


def _of_file(plan: Plan, path: Path, name: str, manner: Manner, go_on: Progress, skip_s: float = 0.0) -> Take:
    from dromic.sound.hearing.take_file import MIDI
    from dromic.sound.hearing.take_sound import FileSound
    from dromic.store.reading import hear_file

    report = hear_file(plan, path, name, manner, go_on, skip_s)
    if path.suffix.lower() in MIDI:
        return Take(name, None, plan, report, path.read_bytes())
    return Take(name, FileSound(path, skip_s), plan, report)


def _judged(plan: Plan, take: Take, manner: Manner, go_on: Progress) -> TakeReport:
    """What is said of the sound of a take in another manner."""
    from dromic.sound.hearing.take_sound import FileSound, HeldSound
    from dromic.store.reading import hear_file

    if isinstance(take.sound, FileSound):
        return hear_file(plan, take.sound.path, take.name, manner, go_on, take.sound.skip_s)
    assert isinstance(take.sound, HeldSound)
    return _heard(plan, take.name, take.sound.held, manner, go_on).report


def _heard(plan: Plan, name: str, sound: Recording, manner: Manner, go_on: Progress) -> Take:
    from dromic.sound.hearing.listening import check_sound
    from dromic.sound.hearing.take_sound import HeldSound

    return Take(name, HeldSound(sound), plan, check_sound(plan, sound, manner, go_on))


def _recorded(plan: Plan, samples: Samples, manner: Manner, go_on: Progress) -> Take:
    from dromic.app.audio.input import RATE
    from dromic.sound.hearing.take_file import checked

    return _heard(plan, JUST, checked(samples[:, None], RATE, JUST), manner, go_on)


def _simulated(plan: Plan, level: float, seed: int, manner: Manner, go_on: Progress) -> Take:
    from dromic.sound.hearing.take_file import Recording
    from dromic.sound.take_render import take_sound

    played = perform(due_notes(plan), presets.listening(), level, seed)
    samples, rate = take_sound(played, plan.request.phrase, seed, go_on)
    return _heard(
        plan, f"a simulated player's take (level {level:.0%}, number {seed})", Recording(samples, rate), manner, go_on
    )
