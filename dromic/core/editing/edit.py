"""Edits of a phrase: each takes a phrase and answers a new one, bars and order put right.

Conventions: times are fractions of a quarter note from the start of the phrase; a `Span` is what an edit is about. On
one string a note ends where the next begins; notes without a string are a lane of their own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from dromic.core.music.phrase import Event, Note, Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_name
from dromic.core.values.vocabulary import PICK, PLUCK, SLID_TO, SLIDE

ALL_STRINGS: frozenset[int | None] | None = None
_ZERO = Fraction(0)
INSTANT = Fraction(1, 64)
"""quarters: the least time there is between two things written, and what is left of a note that would have none"""


@dataclass(frozen=True, slots=True)
class Span:
    """The time from `start` up to `end`, on some strings (None among them for notes without one) or on all."""

    start: Fraction
    end: Fraction
    strings: frozenset[int | None] | None = ALL_STRINGS

    @property
    def length(self) -> Fraction:
        """In quarters."""
        return self.end - self.start

    def holds(self, onset: Fraction, note: Note) -> bool:
        """Whether a note that begins at `onset` lies in it."""
        return self.start <= onset < self.end and (self.strings is None or note.string in self.strings)


@dataclass(frozen=True, slots=True)
class Clip:
    """Notes copied, with onsets from the start of the copy."""

    length: Fraction
    sounds: tuple[tuple[Fraction, Note], ...]


def sounds_of(phrase: Phrase) -> list[tuple[Fraction, Note]]:
    """Every note with its onset."""
    return [(e.onset, n) for e in phrase.events for n in e.notes]


def with_sounds(phrase: Phrase, sounds: Iterable[tuple[Fraction, Note]]) -> Phrase:
    """The phrase with these notes for its own, bars added where they reach past its end. Events that have not changed are
    the same values still: a long phrase edited a thousand times would fill the memory otherwise."""
    at: dict[tuple[int, int], tuple[Fraction, list[Note]]] = {}
    for onset, note in sounds:
        at.setdefault((onset.numerator, onset.denominator), (onset, []))[1].append(note)
    moments = list(at.values())
    if any(a[0] > b[0] for a, b in pairwise(moments)):
        moments.sort(key=lambda moment: moment[0])
    if moments and moments[0][0] < 0:
        raise DromicError("this would begin before the phrase does; move it less far, or add a bar at the front")
    phrase = with_room(phrase, moments[-1][0] if moments else _ZERO)
    before = {(e.onset.numerator, e.onset.denominator): e for e in phrase.events}
    events, ends, bar = [], [b.end for b in phrase.bars], 0
    for onset, notes in moments:
        while bar < len(ends) - 1 and ends[bar] <= onset:
            bar += 1
        same = before.get((onset.numerator, onset.denominator))
        if same is None or same.bar != bar or same.notes != tuple(notes):
            same = Event(onset, tuple(notes), bar)
        events.append(same)
    return phrase.with_events(events)


def with_room(phrase: Phrase, until: Fraction) -> Phrase:
    """The phrase with bars like its last one added until a time lies inside it."""
    bars = list(phrase.bars)
    while bars[-1].end <= until:
        last = bars[-1]
        bars.append(
            replace(
                last, number=last.number + 1, start=last.end, length=last.metre.length, lead=_ZERO, repeat_start=False,
                repeat_times=0, endings=(),
            )
        )  # fmt: skip
    return phrase if len(bars) == len(phrase.bars) else replace(phrase, bars=tuple(bars))


def put(phrase: Phrase, at: Fraction, note: Note, beside: bool = False) -> Phrase:
    """The phrase with a note put at a time, in place of what its string sounds there; `beside` leaves other notes
    without a string where they are, so that names make a chord. It ends where the next note of its string begins."""
    others = []
    length = note.duration
    for onset, other in sounds_of(phrase):
        same = other.string == note.string
        if same and onset == at and (note.string is not None or not beside or other.pitch == note.pitch):
            continue
        if same and onset < at < onset + other.duration and "let-ring" not in other.marks:
            other = replace(other, duration=at - onset)
        if same and onset > at:
            length = min(length, onset - at)
        others.append((onset, other))
    return with_sounds(phrase, [*others, (at, replace(note, duration=length))])


def erase(phrase: Phrase, span: Span) -> Phrase:
    """The phrase with a span left silent; what began before it ends there."""
    kept = []
    for onset, note in sounds_of(phrase):
        if span.holds(onset, note):
            continue
        inside = onset < span.start < onset + note.duration and (span.strings is None or note.string in span.strings)
        kept.append((onset, replace(note, duration=span.start - onset) if inside else note))
    return with_sounds(phrase, kept)


def change(phrase: Phrase, span: Span, how: Callable[[Note], Note]) -> Phrase:
    """The phrase with every note of a span changed."""
    return with_sounds(phrase, [(o, how(n) if span.holds(o, n) else n) for o, n in sounds_of(phrase)])


def toggled(phrase: Phrase, span: Span, mark: str) -> Phrase:
    """The phrase with a mark on every note of a span, or off if all have it."""
    held = [n for o, n in sounds_of(phrase) if span.holds(o, n)]
    off = bool(held) and all(mark in n.marks for n in held)

    def how(note: Note) -> Note:
        marks = note.marks - {mark} if off else note.marks | {mark}
        bend = 0.0 if off and mark == "bend" else note.bend
        return replace(note, marks=marks, bend=bend, tremolo=0 if off and mark == "tremolo" else note.tremolo)

    return change(phrase, span, how)


def stated(phrase: Phrase, span: Span, field: str, value: str | None) -> Phrase:
    """The phrase with an attack, stroke or finger stated for every note of a span, or no more if all state it.

    A note slid to that is struck as well stays slid to.
    """
    held = [n for o, n in sounds_of(phrase) if span.holds(o, n)]
    same = bool(held) and all(getattr(n, field) == value for n in held)

    def how(note: Note) -> Note:
        marks = note.marks
        if field == "attack":
            slid = not same and value in (PICK, PLUCK) and (note.attack == SLIDE or SLID_TO in marks)
            marks = marks | {SLID_TO} if slid else marks - {SLID_TO}
        return replace(note, marks=marks, **{field: None if same else value})  # type: ignore[arg-type]

    return change(phrase, span, how)


def sounding_at(phrase: Phrase, at: Fraction, string: int | None) -> tuple[Fraction, Note] | None:
    """The note that a string sounds at a time or, if none, last sounded before it."""
    before = [(o, n) for o, n in sounds_of(phrase) if n.string == string and o <= at]
    return before[-1] if before else None


def held_on(phrase: Phrase, at: Fraction, string: int | None, by: Fraction) -> Phrase:
    """The phrase with the last note of a string held on so much longer, up to the string's next note (a tie)."""
    found = sounding_at(phrase, at, string)
    if found is None:
        raise DromicError("there is no note on this string to hold on; write one first")
    onset, note = found
    following = [o for o, n in sounds_of(phrase) if n.string == string and o > onset]
    end = min([onset + note.duration + by, *following])
    return put(phrase, onset, replace(note, duration=end - onset), beside=True)


def copied(phrase: Phrase, span: Span) -> Clip:
    """What a span holds."""
    return Clip(span.length, tuple((o - span.start, n) for o, n in sounds_of(phrase) if span.holds(o, n)))


def cut(phrase: Phrase, span: Span) -> Phrase:
    """A span as a phrase of its own: its bars, as far as they reach in, keep their numbers and places in the beat;
    repeats are left behind."""
    end = min(span.end, phrase.end)
    bars = []
    for bar in phrase.bars:
        low, high = max(bar.start, span.start), min(bar.end, end)
        if low < high:
            lead = bar.lead + low - bar.start
            bars.append(
                replace(
                    bar,
                    start=low - span.start,
                    length=high - low,
                    lead=lead,
                    repeat_start=False,
                    repeat_times=0,
                    endings=(),
                )
            )
    if not bars:
        raise DromicError("there is no time in this passage; select some")
    alone = replace(phrase, bars=tuple(bars), events=(), sections=())
    return with_sounds(alone, copied(phrase, Span(span.start, end)).sounds)


def pasted(phrase: Phrase, at: Fraction, clip: Clip) -> Phrase:
    """The phrase with a copy in place of what there is from a time on, for as long as the copy is."""
    strings = frozenset(n.string for _, n in clip.sounds)
    room = erase(phrase, Span(at, at + clip.length, strings or None))
    return with_sounds(with_room(room, at + clip.length - INSTANT), [
        *sounds_of(room), *((at + o, n) for o, n in clip.sounds),
    ])  # fmt: skip


def open_notes(phrase: Phrase, span: Span) -> int:
    """How many open strings a span sounds: what breaks first where a shape is moved."""
    return sum(n.fret == 0 and n.string is not None for o, n in sounds_of(phrase) if span.holds(o, n))


def shifted(phrase: Phrase, span: Span, frets: int, instrument: Instrument) -> Phrase:
    """The phrase with a span's shape moved along the neck; notes without a position go with it in pitch."""

    def how(note: Note) -> Note:
        if note.string is None or note.fret is None:
            return replace(note, pitch=note.pitch + frets)
        fret = note.fret + frets
        if not 0 <= fret <= instrument.highest_fret:
            raise DromicError(f"fret {fret} is not on the neck of the {instrument.label}; shift less far")
        return replace(note, fret=fret, pitch=note.pitch + frets)

    return change(phrase, span, how)


def transposed(phrase: Phrase, span: Span, semitones: int, instrument: Instrument) -> Phrase:
    """The phrase with a span's pitches moved; DromicError where a note on a string would leave its frets."""

    def how(note: Note) -> Note:
        if note.string is None or note.fret is None:
            return replace(note, pitch=note.pitch + semitones)
        fret = note.fret + semitones
        if not 0 <= fret <= instrument.highest_fret:
            raise DromicError(
                f"string {note.string} has no fret {fret}: move it less far, or to another string first (Alt+Up, Alt+Down)"
            )
        return replace(note, pitch=note.pitch + semitones, fret=fret)

    return change(phrase, span, how)


def _on_string(note: Note, string: int, fret: int, instrument: Instrument) -> Note:
    """A note at a string and fret, or without a position where that fret is not on the neck."""
    there = 0 <= fret <= instrument.highest_fret
    return replace(note, string=string if there else None, fret=fret if there else None)


def restrung(phrase: Phrase, span: Span, by: int, instrument: Instrument) -> Phrase:
    """The phrase with a span's notes on other strings at the same pitch, so many strings on (towards string 1 if less
    than 0); DromicError where a string or fret is not there or two notes would meet."""

    def how(note: Note) -> Note:
        if note.string is None or note.fret is None:
            raise DromicError(f"{note_name(note.pitch)} has no string yet; let the planner place it, or give it one")
        string = note.string + by
        places = dict(instrument.places_of(note.pitch))
        if string not in places:
            raise DromicError(f"{note_name(note.pitch)} is not on string {string} of the {instrument.label}")
        return replace(note, string=string, fret=places[string])

    moved = change(phrase, span, how)
    for event in moved.events:
        taken = [n.string for n in event.notes if n.string is not None]
        if len(taken) > len(set(taken)):
            raise DromicError("two notes of a chord would lie on one string; move the whole chord")
    return moved


def stretched(phrase: Phrase, span: Span, factor: Fraction) -> Phrase:
    """The phrase with a span's lengths multiplied; what follows moves with its end."""
    more = span.length * (factor - 1)
    found = []
    for onset, note in sounds_of(phrase):
        if span.start <= onset < span.end:
            found.append((span.start + (onset - span.start) * factor, replace(note, duration=note.duration * factor)))
        else:
            found.append((onset + more if onset >= span.end else onset, note))
    ends = max((o + n.duration for o, n in found), default=_ZERO)
    return with_sounds(with_room(phrase, ends - INSTANT) if more > 0 else phrase, found)


def turned(phrase: Phrase, span: Span) -> Phrase:
    """The phrase with a span's notes in the opposite order."""
    found = []
    for onset, note in sounds_of(phrase):
        if span.start <= onset < span.end:
            end = min(onset + note.duration, span.end)
            found.append((span.start + span.end - end, replace(note, duration=end - onset)))
        else:
            found.append((onset, note))
    return with_sounds(phrase, found)


def retuned(phrase: Phrase, instrument: Instrument, keep_frets: bool) -> Phrase:
    """The phrase on another instrument or tuning: frets kept (and pitches changed), or pitches kept (and positions
    found again on the same string where they fit, else left to the planner)."""

    def how(note: Note) -> Note:
        if note.string is None or note.fret is None:
            return note
        if note.string > instrument.strings:
            return replace(note, string=None, fret=None)
        if keep_frets:
            return replace(note, pitch=instrument.pitch_at(note.string, note.fret))
        fret = note.pitch - instrument.open_pitch(note.string)
        return _on_string(note, note.string, fret, instrument)

    whole = Span(_ZERO, phrase.end + 1)
    return replace(change(phrase, whole, how), instrument=instrument)
