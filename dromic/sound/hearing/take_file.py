"""Takes as files: sound through soundfile, MIDI through mido; a file that is none is told in a sentence."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic import presets
from dromic.core.listening.due import Due
from dromic.core.listening.judging import Heard
from dromic.core.values.errors import DromicError
from dromic.sound.string import Samples

SOUNDS, MIDI = (".wav", ".flac", ".ogg"), (".mid", ".midi")
_SILENT_DB = -60.0
_LOUD, _CLIPPED, _CLIPPED_RUN = 0.98, 0.999, 3
"""of the whole scale, of the peak, and samples in a row"""
_TOGETHER_S = 0.012
"""MIDI notes nearer than this are one front"""
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


def recording(data: bytes, name: str) -> Recording:
    """The sound of a file; DromicError where it is none, too long, or silent."""
    import soundfile

    try:
        with soundfile.SoundFile(io.BytesIO(data)) as file:
            seconds = file.frames / max(1, file.samplerate)
            longest = presets.data("limits.toml")["take_minutes"] * 60
            if seconds > longest:
                raise DromicError(
                    f"lasts {seconds / 60:.0f} minutes; takes of up to {longest / 60:.0f} are heard", path=name
                )
            samples, rate = file.read(dtype="float32", always_2d=True), int(file.samplerate)
    except (RuntimeError, OSError, ValueError, TypeError) as error:
        raise DromicError("is no sound file that can be read; give a WAV, FLAC or OGG", path=name) from error
    return checked(samples, rate, name)


def flac_bytes(take: Recording) -> bytes:
    """A recording as FLAC, which loses nothing of 16 bits and takes half the room."""
    import soundfile

    out = io.BytesIO()
    soundfile.write(out, np.clip(take.samples, -1.0, 1.0), take.rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def checked(samples: Samples, rate: int, name: str) -> Recording:
    """A recording of these samples, with what is to be said of it; DromicError where it is silent or no sound."""
    if not len(samples) or not np.isfinite(samples.sum()):
        raise DromicError("holds no sound; record it again", path=name)
    peak = max(float(samples.max()), -float(samples.min()))
    if peak < 10 ** (_SILENT_DB / 20):
        raise DromicError("is silent; check the input and its level", path=name)
    limit = _CLIPPED * max(peak, _LOUD)
    full = np.unique(np.flatnonzero((samples >= limit) | (samples <= -limit)) // samples.shape[1])
    runs = np.split(full, np.flatnonzero(np.diff(full) > 1) + 1)
    clipped = sum(len(run) >= _CLIPPED_RUN for run in runs)
    return Recording(samples, rate, clipped if peak > _LOUD else 0)


def midi_heard(data: bytes, name: str, due: Sequence[Due]) -> tuple[Heard, list[tuple[float, float, int]]]:
    """(what was heard, (start, end, pitch) of every note) of a MIDI performance; DromicError where it is none."""
    import mido

    try:
        file = mido.MidiFile(file=io.BytesIO(data))
        now, open_notes, notes = 0.0, {}, []
        for message in file:
            now += message.time
            if message.type == "note_on" and message.velocity > 0:
                open_notes[message.note] = (now, message.velocity)
            elif message.type in ("note_off", "note_on") and message.note in open_notes:
                start, velocity = open_notes.pop(message.note)
                notes.append((start, now, message.note, velocity))
    except (OSError, ValueError, EOFError, KeyError, IndexError, TypeError) as error:
        raise DromicError("is no MIDI file that can be read", path=name) from error
    if not notes:
        raise DromicError("holds no notes", path=name)
    notes.sort()
    pitches = sorted({one.pitch for one in due})
    shift = max(_OCTAVES, key=lambda by: sum(n[2] + by in set(pitches) for n in notes))
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
