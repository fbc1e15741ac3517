"""A phrase, or a passage of it, as sound: every note where it is written, to the sample, with clicks and a count-in."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

from dromic import presets
from dromic.core.music.edit import Span, cut
from dromic.core.music.phrase import Note, Phrase
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import frequency_hz
from dromic.core.values.progress import Cancelled
from dromic.core.values.vocabulary import SLIDE
from dromic.sound.groove import drum, strokes
from dromic.sound.string import Samples, pluck, warped

_LOW_STRING = 40
"""open strings tuned below this note number (E2) sound as bass strings"""
_TAIL_S = 0.6
_PEAK = 0.85
GoOn = Callable[[float], bool]


@dataclass(frozen=True, slots=True)
class RenderRequest:
    """How to render: the tempo (None for the phrase's own), a passage, clicks on the beats, a bar counted in."""

    tempo: float | None = None
    span: Span | None = None
    click: bool = False
    count_in: bool = False
    tail: bool = True
    divide: int = 1
    """clicks to a beat"""
    groove: bool = False
    """drums instead of clicks"""
    notes: bool = True
    """whether the notes are heard, or the click alone"""


@dataclass(frozen=True, eq=False)
class Rendering:
    """Samples of one channel, -1 to 1. `seconds` and `written` are where bars begin, in the sound and in the phrase as
    written; `bars_end` where the last ends."""

    samples: Samples
    rate: int
    seconds: tuple[float, ...]
    written: tuple[Fraction, ...]
    ends: tuple[float, ...]
    lengths: tuple[Fraction, ...]

    @property
    def music_s(self) -> float:
        """Where the last bar ends."""
        return self.ends[-1]

    def at(self, second: float) -> Fraction | None:
        """The written time that sounds at a second; None while it is counted in or rings out."""
        n = bisect_right(self.seconds, second) - 1
        if n < 0 or second >= self.ends[n]:
            return None
        share = (second - self.seconds[n]) / (self.ends[n] - self.seconds[n])
        return self.written[n] + self.lengths[n] * Fraction(share).limit_denominator(1000)


def render(phrase: Phrase, asked: RenderRequest, go_on: GoOn = lambda share: True) -> Rendering:
    """The sound of a phrase; repeats are played out unless a passage is asked for."""
    passage, origins = _passage(phrase, asked.span)
    if not passage.events:
        raise DromicError("there is nothing to play here; write some notes first")
    passage = passage.at_tempo(asked.tempo or phrase.tempo)
    setting = presets.data("sound.toml")
    rate = int(setting["rate"])
    lead = _count_in_s(passage) if asked.count_in else 0.0
    music = passage.seconds_at(passage.end)
    last = max(passage.seconds_at(o + n.duration) for o, n in ((e.onset, n) for e in passage.events for n in e.notes))
    total = lead + max(music, last if asked.tail else music) + (_TAIL_S if asked.tail else 0.0)
    out = np.zeros(round(total * rate) + 1)
    sounds = [(e.onset, n) for e in passage.events for n in e.notes] if asked.notes else []
    following = _next_on_string(sounds) if sounds else []
    for i, (onset, note) in enumerate(sounds):
        if i % 16 == 0 and not go_on(i / len(sounds)):
            raise Cancelled
        start = round((lead + passage.seconds_at(onset)) * rate)
        upto = (
            passage.seconds_at(following[i]) if "let-ring" in note.marks else passage.seconds_at(onset + note.duration)
        )
        length = max(1, round((lead + upto) * rate) - start)
        _mix(out, start, note_sound(note, length, rate, setting, _slide(sounds, i), phrase))
    if asked.groove:
        for second, name in strokes(passage, lead):
            _mix(out, round(second * rate), drum(name, rate, setting["groove"][name]))
    if asked.click or asked.count_in:
        for second, weight in _beats(passage, lead, asked.click and not asked.groove, asked.count_in, asked.divide):
            _mix(out, round(second * rate), click_sound(rate, setting["click"], weight))
    peak = float(np.abs(out).max())
    if peak > _PEAK:
        out *= _PEAK / peak
    starts = [lead + passage.seconds_at(b.start) for b in passage.bars]
    ends = [lead + passage.seconds_at(b.end) for b in passage.bars]
    lengths = tuple(b.length for b in passage.bars)
    return Rendering(out, rate, tuple(starts), origins, tuple(ends), lengths)


def _passage(phrase: Phrase, span: Span | None) -> tuple[Phrase, tuple[Fraction, ...]]:
    """What is played and, for each of its bars, the written time it begins at."""
    if span is None:
        order = phrase.playing_order()
        return phrase.unrolled(), tuple(phrase.bars[i].start for i in order)
    passage = cut(phrase, span)
    return passage, tuple(bar.start + span.start for bar in passage.bars)


def _next_on_string(sounds: list[tuple[Fraction, Note]]) -> list[Fraction]:
    """For each note when its string sounds again, or when all is over."""
    over = max(o + n.duration for o, n in sounds) + 2
    found = [over] * len(sounds)
    following: dict[int | None, Fraction] = {}
    for i in range(len(sounds) - 1, -1, -1):
        onset, note = sounds[i]
        found[i] = following.get(note.string, over)
        if note.string is not None:
            following[note.string] = onset
    return found


def _slide(sounds: list[tuple[Fraction, Note]], i: int) -> tuple[float, float]:
    """Semitones off its own pitch at which a note begins, slid to from the last one on its string, and at which it ends,
    where the next one is slid to and struck."""
    onset, note = sounds[i]
    before = next((n for o, n in reversed(sounds[:i]) if o < onset and n.string == note.string), None)
    after = next((n for o, n in sounds[i + 1 :] if o > onset and n.string == note.string), None)
    begins = before.pitch - note.pitch if before is not None and note.attack == SLIDE else 0.0
    ends = after.pitch - note.pitch if after is not None and after.slid_to else 0.0
    return begins, ends


def note_sound(
    note: Note, length: int, rate: int, setting: dict[str, Any], slide: tuple[float, float], phrase: Phrase
) -> Samples:
    """So many samples of one note as it is sounded; `slide` are semitones off its pitch where it begins and ends."""
    string, manner, mute = setting["string"], setting["manner"], setting["mute"]
    loud, soft = manner[note.attack or "pick"]
    for mark in ("accent", "grace"):
        if mark in note.marks:
            loud, soft = loud * manner[mark][0], soft * manner[mark][1]
    bass = phrase.instrument is not None and phrase.instrument.bass
    bright = string["bass_bright"] if bass else string["bright"]
    decay = string["decay_s"] * string["decay_slope"] ** (note.pitch - 52)
    if "palm-mute" in note.marks:
        decay, bright = decay * mute["palm_decay"], bright * mute["palm_bright"]
    if "dead" in note.marks:
        decay = mute["dead_decay_ms"] / 1000
    moves = _moves(note, length, rate, setting["bend"], slide)
    highest = float(moves.max()) if moves is not None else 0.0
    need = int(length * 2 ** (max(highest, 0.0) / 12)) + 2
    made = pluck(
        frequency_hz(note.pitch), need, rate, decay, bright, 1.0 / max(soft, 0.05), string["pluck_at"],
        seed=note.pitch * 16 + (note.string or 0),
    )  # fmt: skip
    made = made[:length] if moves is None else warped(made, moves)
    fade = min(length, int(rate * string["fade_ms"] / 1000))
    if fade:
        made[-fade:] *= np.linspace(1.0, 0.0, fade)
    return np.asarray(loud * made)


def _moves(note: Note, length: int, rate: int, bend: dict[str, float], slide: tuple[float, float]) -> Samples | None:
    """Semitones off the note's own pitch at each sample, None where it holds still."""
    moves = np.zeros(length)
    time = np.arange(length) / rate
    if note.bend:
        rise = max(min(bend["rise_ms"] / 1000, 0.5 * length / rate), 1 / rate)
        moves += note.bend * (1.0 if "prebend" in note.marks else np.clip(time / rise, 0.0, 1.0))
        if "release" in note.marks:
            moves -= note.bend * np.clip((time - 0.6 * length / rate) / rise, 0.0, 1.0)
    if "vibrato" in note.marks:
        moves += bend["vibrato_semitones"] * np.sin(2 * np.pi * bend["vibrato_hz"] * time)
    way = max(min(bend["slide_ms"] / 1000, 0.5 * length / rate), 1 / rate)
    moves += slide[0] * (1.0 - np.clip(time / way, 0.0, 1.0)) + slide[1] * np.clip(
        1.0 - (length / rate - time) / way, 0.0, 1.0
    )
    return moves if moves.any() else None


def _mix(out: Samples, start: int, sound: Samples) -> None:
    room = min(len(sound), len(out) - start)
    if room > 0:
        out[start : start + room] += sound[:room]


def _count_in_s(passage: Phrase) -> float:
    """A full bar of the first metre, at the passage's tempo."""
    return float(passage.bars[0].metre.length) * 60.0 / passage.tempo_in(0)


def _beats(passage: Phrase, lead: float, through: bool, count_in: bool, divide: int = 1) -> list[tuple[float, int]]:
    """(second, weight) of every click: 2 on a bar's first beat, 1 on the others, 0 inside a beat."""
    found = []
    quarter = 60.0 / passage.tempo_in(0)
    if count_in:
        at = Fraction(0)
        for n, beat in enumerate(passage.bars[0].metre.beats()):
            found.append((float(at) * quarter, 2 if n == 0 else 1))
            at += beat
    if through:
        for bar in passage.bars:
            at = -bar.lead
            for n, beat in enumerate(bar.metre.beats()):
                for part in range(divide):
                    here = at + beat * part / divide
                    if 0 <= here < bar.length:
                        weight = 0 if part else 2 if n == 0 else 1
                        found.append((lead + passage.seconds_at(bar.start + here), weight))
                at += beat
    return found


def click_sound(rate: int, setting: dict[str, float], weight: int) -> Samples:
    """One click: 2 for the first of a bar, 1 for a beat, 0 for what lies inside one."""
    time = np.arange(int(rate * setting["length_ms"] / 1000)) / rate
    tone = np.sin(2 * np.pi * setting["first_hz" if weight == 2 else "beat_hz"] * time)
    level = setting["level"] * (setting["inside_level"] if weight == 0 else 1.0)
    return np.asarray(level * tone * np.exp(-time * 1000 / setting["length_ms"] * 4))
