"""Takes as files: sound through soundfile, MIDI through mido; a file that is none is told in a sentence."""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from dromic import presets
from dromic.core.listening.due import Due
from dromic.core.listening.judging import Heard
from dromic.core.values.errors import DromicError
from dromic.sound.hearing.rate import RATE, Resampler
from dromic.sound.string import Samples

if TYPE_CHECKING:
    import mido
    import soundfile

    from dromic.core.values.arrays import Ints as Places

SOUNDS = (".wav", ".flac", ".ogg")
"""Endings of recordings that are read."""
MIDI = (".mid", ".midi")
"""Endings of MIDI files that are read."""
_BLOCK = 1 << 16
"""frames that are read at once"""
_SILENT_DB = -60.0
_LOUD = 0.98
"""Peak, of full scale, up to which a take is not clipped."""
_CLIPPED = 0.999
"""Share of the peak from which on a sample may be clipped."""
_CLIPPED_RUN = 3
"""Clipped samples in a row that make it so."""
_TOGETHER_S = 0.012
"""MIDI notes nearer than this are one onset"""
_USUAL_TEMPO = 500_000
"""microseconds of a quarter note until a MIDI file says otherwise (Standard MIDI Files 1.0)"""
_OCTAVES = (0, 12, -12)
"""a take may be played back an octave off what is written"""


@dataclass(frozen=True)
class Recording:
    """[frames, channels] of a recording, its rate, and what is to be said of it."""

    samples: Samples
    rate: int
    clipped: int = 0
    """in how many places it is clipped"""

    @property
    def said(self) -> tuple[str, ...]:
        """What is to be said of it."""
        if not self.clipped:
            return ()
        where = "one place" if self.clipped == 1 else f"{self.clipped} places"
        return (f"It is clipped in {where}: loudness is judged mildly; lower the input.",)


def check_size(path: Path) -> None:
    """DromicError where a file cannot be reached, or is larger than any take; nothing of it is read."""
    most = presets.data("limits.toml")["file_mb" if path.suffix.lower() in MIDI else "take_mb"]
    try:
        size = path.stat().st_size
    except OSError as error:
        raise DromicError(f"cannot be read ({error.strerror}); choose another take", path=path.name) from error
    if size > most * 1_000_000:
        raise DromicError(f"is {size / 1e6:.0f} MB; takes of up to {most} MB are heard", path=path.name)


def recording(source: bytes | Path, name: str, skip_s: float = 0.0) -> Recording:
    """The sound of a file from a second on, read block by block and brought to the rate that is heard at: one channel, or two where
    they are not too long. DromicError where it is none, too long, or silent."""
    import soundfile

    limits = presets.data("limits.toml")
    try:
        with soundfile.SoundFile(source if isinstance(source, Path) else io.BytesIO(source)) as file:
            seconds, size = file.frames / max(1, file.samplerate), file.frames * file.channels
            if seconds > limits["take_minutes"] * 60:
                raise DromicError(
                    f"lasts {seconds / 60:.0f} minutes; takes of up to {limits['take_minutes']} are heard", path=name
                )
            if size > limits["take_msamples"] * 1_000_000:
                raise DromicError(
                    f"holds {size / 1e6:.0f} million samples; takes of up to {limits['take_msamples']} are heard: fewer channels, or "
                    "a lower rate", path=name,
                )  # fmt: skip
            kept = file.channels if file.channels * seconds <= limits["take_minutes"] * 60 and file.channels <= 2 else 1
            return _read(file, kept, name, skip_s)
    except (RuntimeError, OSError, ValueError, TypeError) as error:
        raise DromicError("is no sound file that can be read; give a WAV, FLAC or OGG", path=name) from error


def _read(file: soundfile.SoundFile, kept: int, name: str, skip_s: float) -> Recording:
    """The rest of an open file with so many channels, or mixed down to one."""
    rate = int(file.samplerate)
    file.seek(min(file.frames, max(0, round(skip_s * rate))))
    frames = file.frames - file.tell()
    whole = np.zeros((-(-frames * RATE // rate) + 1, kept), np.float32)
    resampler, loudness, done = Resampler(rate, kept), _Loudness(), 0
    for block in file.blocks(_BLOCK, dtype="float32", always_2d=True):
        loudness.hear(block, name)
        out = resampler.feed(block if kept == file.channels else block.mean(axis=1, keepdims=True))
        whole[done : done + len(out)] = out
        done += len(out)
    out = resampler.end()
    whole[done : done + len(out)] = out
    return Recording(whole[: done + len(out)], RATE, loudness.clipped(name))


class _Loudness:
    """What is heard of how loud a recording is, block by block."""

    def __init__(self) -> None:
        self.peak, self.frames = 0.0, 0
        self._full: list[tuple[Places, Samples]] = []
        """frames as loud as the loudest so far, and how loud"""

    def hear(self, block: Samples, name: str) -> None:
        """So much more; DromicError where it is no sound."""
        if not len(block):
            return
        loud = np.maximum(block.max(axis=1), -block.min(axis=1))
        top = float(loud.max())
        if not math.isfinite(top):
            raise DromicError("holds no sound; record it again", path=name)
        self.peak = max(self.peak, top)
        full = np.flatnonzero(loud >= _CLIPPED * max(self.peak, _LOUD))
        if len(full):
            self._full.append((full + self.frames, loud[full]))
        self.frames += len(block)

    def clipped(self, name: str) -> int:
        """In how many places it is clipped; DromicError where it is silent or nothing."""
        if not self.frames:
            raise DromicError("holds no sound; record it again", path=name)
        if self.peak < 10 ** (_SILENT_DB / 20):
            raise DromicError("is silent; check the input and its level", path=name)
        if self.peak <= _LOUD:
            return 0
        limit = _CLIPPED * max(self.peak, _LOUD)
        full = np.concatenate([frames[loud >= limit] for frames, loud in self._full])
        runs = np.split(full, np.flatnonzero(np.diff(full) > 1) + 1)
        return sum(len(run) >= _CLIPPED_RUN for run in runs)


def flac_bytes(take: Recording) -> bytes:
    """A recording as FLAC, which loses nothing of 16 bits and takes half the room."""
    import soundfile

    out = io.BytesIO()
    soundfile.write(out, np.clip(take.samples, -1.0, 1.0), take.rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def checked(samples: Samples, rate: int, name: str) -> Recording:
    """A recording of these samples [frames, channels], with what is to be said of it; DromicError where it is silent or no sound."""
    loudness = _Loudness()
    loudness.hear(samples, name)
    return Recording(samples, rate, loudness.clipped(name))


def _midi_notes(file: mido.MidiFile) -> list[tuple[float, float, int, int]]:
    """(start, end, pitch, velocity) of every note of a file, in seconds (Standard MIDI Files 1.0: a tempo holds for all tracks from
    its tick on)."""
    events = []
    for track in file.tracks:
        tick = 0
        for message in track:
            tick += message.time
            if message.type in ("note_on", "note_off", "set_tempo"):
                events.append((tick, message))
    events.sort(key=lambda one: one[0])
    now, last, tempo = 0.0, 0, _USUAL_TEMPO
    open_notes: dict[int, tuple[float, int]] = {}
    notes = []
    for tick, message in events:
        now, last = now + (tick - last) * tempo * 1e-6 / file.ticks_per_beat, tick
        if message.type == "set_tempo":
            tempo = message.tempo
        elif message.type == "note_on" and message.velocity > 0:
            open_notes[message.note] = (now, message.velocity)
        elif message.note in open_notes:
            start, velocity = open_notes.pop(message.note)
            notes.append((start, now, message.note, velocity))
    return notes


def midi_heard(source: bytes | Path, name: str, due: Sequence[Due]) -> tuple[Heard, list[tuple[float, float, int]]]:
    """(what was heard, (start, end, pitch) of every note) of a MIDI performance; DromicError where it is none."""
    import mido

    try:
        data = source.read_bytes() if isinstance(source, Path) else source
        notes = _midi_notes(mido.MidiFile(file=io.BytesIO(data)))
    except (OSError, ValueError, EOFError, KeyError, IndexError, TypeError) as error:
        raise DromicError("is no MIDI file that can be read", path=name) from error
    if not notes:
        raise DromicError("holds no notes", path=name)
    most = presets.data("limits.toml")["take_notes"]
    if len(notes) > most:
        raise DromicError(f"holds {len(notes)} notes; takes of up to {most} are heard", path=name)
    notes.sort()
    pitches = sorted({one.pitch for one in due})
    held = Counter(n[2] for n in notes)
    shift = max(_OCTAVES, key=lambda by: sum(held[pitch - by] for pitch in pitches))
    groups: list[list[tuple[float, float, int, int]]] = []
    for note in notes:
        if groups and note[0] - groups[-1][0][0] <= _TOGETHER_S:
            groups[-1].append(note)
        else:
            groups.append([note])
    speaks = np.zeros((len(groups), len(pitches)))
    for row, group in enumerate(groups):
        for note in group:
            if note[2] + shift in pitches:
                speaks[row, pitches.index(note[2] + shift)] = 1.0
    db = np.array([40 * np.log10(max(n[3] for n in group) / 127) for group in groups])
    seconds = np.array([float(np.mean([n[0] for n in group])) for group in groups])
    heard = Heard(
        seconds,
        np.ones(len(groups)),
        db,
        speaks,
        tuple(pitches),
        np.full(len(groups), np.inf),
        np.full(len(groups), np.inf),
    )
    return heard, [(n[0], n[1], n[2] + shift) for n in notes]
