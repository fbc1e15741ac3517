"""One note as it is sounded: its string plucked, hammered or slid to, muted, bent, let go."""

from __future__ import annotations

import numpy as np

from dromic.core.music.phrase import Note, Phrase
from dromic.core.setup.sound_settings import BendNumbers, SoundSettings
from dromic.core.values.pitch import frequency_hz
from dromic.sound.string import Samples, pluck, warped


def note_sound(
    note: Note, length: int, rate: int, setting: SoundSettings, slide: tuple[float, float], phrase: Phrase
) -> Samples:
    """So many samples of one note as it is sounded; `slide` are semitones off its pitch where it begins and ends."""
    string, manner, mute = setting.string, setting.manner, setting.mute
    loud, soft = manner[note.attack or "pick"]
    for mark in ("accent", "grace"):
        if mark in note.marks:
            loud, soft = loud * manner[mark][0], soft * manner[mark][1]
    bass = phrase.instrument is not None and phrase.instrument.bass
    bright = string.bass_bright if bass else string.bright
    decay = string.decay_s * string.decay_slope ** (note.pitch - 52)
    if "palm-mute" in note.marks:
        decay, bright = decay * mute.palm_decay, bright * mute.palm_bright
    if "dead" in note.marks:
        decay = mute.dead_decay_ms / 1000
    moves = _moves(note, length, rate, setting.bend, slide)
    highest = float(moves.max()) if moves is not None else 0.0
    need = int(length * 2 ** (max(highest, 0.0) / 12)) + 2
    made = pluck(
        frequency_hz(note.pitch), need, rate, decay, bright, 1.0 / max(soft, 0.05), string.pluck_at,
        seed=note.pitch * 16 + (note.string or 0),
    )  # fmt: skip
    made = made[:length] if moves is None else warped(made, moves)
    fade = min(length, int(rate * string.fade_ms / 1000))
    if fade:
        made[-fade:] *= np.linspace(1.0, 0.0, fade)
    return np.asarray(loud * made)


def _moves(note: Note, length: int, rate: int, bend: BendNumbers, slide: tuple[float, float]) -> Samples | None:
    """Semitones off the note's own pitch at each sample, None where it holds still."""
    moves = np.zeros(length)
    time = np.arange(length) / rate
    if note.bend:
        rise = max(min(bend.rise_ms / 1000, 0.5 * length / rate), 1 / rate)
        moves += note.bend * (1.0 if "prebend" in note.marks else np.clip(time / rise, 0.0, 1.0))
        if "release" in note.marks:
            moves -= note.bend * np.clip((time - 0.6 * length / rate) / rise, 0.0, 1.0)
    if "vibrato" in note.marks:
        moves += bend.vibrato_semitones * np.sin(2 * np.pi * bend.vibrato_hz * time)
    way = max(min(bend.slide_ms / 1000, 0.5 * length / rate), 1 / rate)
    moves += slide[0] * (1.0 - np.clip(time / way, 0.0, 1.0)) + slide[1] * np.clip(
        1.0 - (length / rate - time) / way, 0.0, 1.0
    )
    return moves if moves.any() else None
