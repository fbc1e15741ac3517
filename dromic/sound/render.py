"""A phrase, or a passage of it, as sound: every note where it is written, to the sample, with clicks and a count-in. It is
laid out at once and made piece by piece as it is wanted, so that the longest begins to sound as soon as the shortest."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import partial

import numpy as np

from dromic import presets
from dromic.core.editing.edit import Span, cut
from dromic.core.music.phrase import Note, Phrase
from dromic.core.setup.sound_settings import ClickNumbers
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import SLIDE
from dromic.sound.groove import drum, strokes
from dromic.sound.note_sound import note_sound
from dromic.sound.string import Samples

_TAIL_S = 0.6
_PIECE_S = 1.0


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


@dataclass(frozen=True, slots=True)
class Sound:
    """Something that begins to sound at a sample; `make` gives its samples."""

    at: int
    make: Callable[[], Samples]
    level: float = 1.0


@dataclass(frozen=True, eq=False)
class Rendering:
    """What sounds when, in `length` samples of one channel. `seconds` and `written` are where bars begin, in the sound and in
    the phrase as written; `ends` where they end in the sound, `lengths` how long they are as written."""

    rate: int
    length: int
    sounds: tuple[Sound, ...]
    """the first to sound first"""
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

    def pieces(self) -> Iterator[Samples]:
        """The sound from its beginning, -1 to 1, a second at a time."""
        size = round(_PIECE_S * self.rate)
        mix = presets.sound().mix
        held: Samples = np.zeros(0)
        """the piece, and what rings on past its end"""
        waiting = iter(self.sounds)
        coming = next(waiting, None)
        for start in range(0, self.length, size):
            end = min(start + size, self.length)
            while coming is not None and coming.at < end:
                made = coming.make()
                at = coming.at - start
                held = _reaching(held, at + len(made), size)
                held[at : at + len(made)] += made if coming.level == 1.0 else coming.level * made
                coming = next(waiting, None)
            held = _reaching(held, end - start, size)
            yield _limited(mix.level * held[: end - start], mix.knee)
            held = held[end - start :]

    def samples(self, go_on: Progress = lambda share: True) -> Samples:
        """All of it at once."""
        out = np.empty(self.length)
        done = 0
        for piece in self.pieces():
            if not go_on(done / self.length):
                raise Cancelled
            out[done : done + len(piece)] = piece
            done += len(piece)
        return out


def render(phrase: Phrase, asked: RenderRequest) -> Rendering:
    """The sound of a phrase; repeats are played out unless a passage is asked for."""
    passage, origins = _passage(phrase, asked.span)
    if not passage.events:
        raise DromicError("there is nothing to play here; write some notes first")
    passage = passage.at_tempo(asked.tempo or phrase.tempo)
    setting = presets.sound()
    rate = setting.rate
    lead = _count_in_s(passage) if asked.count_in else 0.0
    music = passage.seconds_at(passage.end)
    last = max(passage.seconds_at(o + n.duration) for o, n in ((e.onset, n) for e in passage.events for n in e.notes))
    total = lead + max(music, last if asked.tail else music) + (_TAIL_S if asked.tail else 0.0)
    found = _notes(passage, lead, rate) if asked.notes else []
    if asked.groove:
        found += [
            Sound(round(second * rate), partial(drum, name, rate, setting.groove[name]))
            for second, name in strokes(passage, lead)
        ]
    if asked.click or asked.count_in:
        found += [
            Sound(round(second * rate), partial(click_sound, rate, setting.click, weight))
            for second, weight in _beats(passage, lead, asked.click and not asked.groove, asked.count_in, asked.divide)
        ]
    return Rendering(
        rate,
        max(1, round(total * rate)),
        tuple(sorted(found, key=lambda one: one.at)),
        tuple(lead + passage.seconds_at(b.start) for b in passage.bars),
        origins,
        tuple(lead + passage.seconds_at(b.end) for b in passage.bars),
        tuple(b.length for b in passage.bars),
    )


def _passage(phrase: Phrase, span: Span | None) -> tuple[Phrase, tuple[Fraction, ...]]:
    """What is played and, for each of its bars, the written time it begins at."""
    if span is None:
        order = phrase.playing_order()
        return phrase.unrolled(), tuple(phrase.bars[i].start for i in order)
    passage = cut(phrase, span)
    return passage, tuple(bar.start + span.start for bar in passage.bars)


def _notes(passage: Phrase, lead: float, rate: int) -> list[Sound]:
    """Every note, from where it is written until it ends or, if it may ring, its string sounds again."""
    setting = presets.sound()
    written = [(e.onset, n, len(e.notes)) for e in passage.events for n in e.notes]
    over = max(onset + note.duration for onset, note, _ in written) + 2
    before, after = _neighbours(written, 1), _neighbours(written, -1)
    found = []
    for i, (onset, note, of) in enumerate(written):
        start = round((lead + passage.seconds_at(onset)) * rate)
        preceding, following = before[i], after[i]
        rings = over if following is None else following[0]
        until = passage.seconds_at(rings if "let-ring" in note.marks else onset + note.duration)
        length = max(1, round((lead + until) * rate) - start)
        begins = preceding[1].pitch - note.pitch if preceding is not None and note.attack == SLIDE else 0.0
        ends = following[1].pitch - note.pitch if following is not None and following[1].slid_to else 0.0
        make = partial(note_sound, note, length, rate, setting, (begins, ends), passage)
        found.append(Sound(start, make, of**-setting.mix.chord))
    return found


def _neighbours(written: list[tuple[Fraction, Note, int]], step: int) -> list[tuple[Fraction, Note] | None]:
    """For each note the last one on its string before it, or, going backward with a step of -1, the next one after it."""
    found: list[tuple[Fraction, Note] | None] = [None] * len(written)
    latest: dict[int | None, list[tuple[Fraction, Note]]] = {}
    for i in range(len(written))[::step]:
        onset, note, _ = written[i]
        held = latest.setdefault(note.string, [])
        found[i] = next((one for one in reversed(held) if one[0] != onset), None)
        held.append((onset, note))
        del held[:-2]
    return found


def _reaching(held: Samples, length: int, size: int) -> Samples:
    """At least so long, by whole pieces."""
    return held if len(held) >= length else np.concatenate([held, np.zeros(-(-length // size) * size - len(held))])


def _limited(samples: Samples, knee: float) -> Samples:
    """What is louder than the knee bent back, so that nothing reaches 1; all that is softer as it is."""
    over = np.abs(samples) - knee
    if not (over > 0).any():
        return samples
    bent = knee + (1.0 - knee) * np.tanh(over / (1.0 - knee))
    return np.where(over > 0, np.copysign(bent, samples), samples)


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


def click_sound(rate: int, setting: ClickNumbers, weight: int) -> Samples:
    """One click: 2 for the first of a bar, 1 for a beat, 0 for what lies inside one."""
    time = np.arange(int(rate * setting.length_ms / 1000)) / rate
    tone = np.sin(2 * np.pi * (setting.first_hz if weight == 2 else setting.beat_hz) * time)
    level = setting.level * (setting.inside_level if weight == 0 else 1.0)
    return np.asarray(level * tone * np.exp(-time * 1000 / setting.length_ms * 4))
