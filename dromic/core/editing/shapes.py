"""Shapes moved to other strings and other places on the neck, their frets or their pitches kept, and what breaks on the way."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

from dromic.core.editing.edit import Span, change, restrung, shifted, sounds_of
from dromic.core.music.phrase import Note, Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_name

FRETS, PITCHES = "frets", "pitches"
KEEPS = (FRETS, PITCHES)
"""what stays of a shape that goes to other strings"""


@dataclass(frozen=True, slots=True)
class Moved:
    """A phrase with a span's shape somewhere else: how many strings on (towards string 1 if less than 0), how many frets up,
    what was kept, and what breaks, in words."""

    phrase: Phrase
    strings: int
    frets: int
    keep: str
    breaks: tuple[str, ...]

    @property
    def words(self) -> str:
        """Where it is now."""
        parts = []
        if self.strings:
            count, way = abs(self.strings), "higher" if self.strings < 0 else "lower"
            parts.append(f"{count} {'string' if count == 1 else 'strings'} {way}, the {self.keep} kept")
        if self.frets:
            parts.append(
                f"{abs(self.frets)} {'fret' if abs(self.frets) == 1 else 'frets'} {'up' if self.frets > 0 else 'down'}"
            )
        return ", ".join(parts) or "where it is"


def moved(phrase: Phrase, span: Span, strings: int, frets: int, keep: str, instrument: Instrument) -> Moved:
    """A span's shape on other strings, then along the neck; DromicError where a string or a fret is not there. Keeping pitches, the
    frets follow from the strings and none can be asked for."""
    if keep == PITCHES:
        if frets:
            raise DromicError(
                "pitches that are kept stay where they are; ask for other strings alone, or keep the frets"
            )
        made = restrung(phrase, span, strings, instrument) if strings else phrase
    else:
        made = _other_strings(phrase, span, strings, instrument) if strings else phrase
        made = shifted(made, span, frets, instrument) if frets else made
    return Moved(made, strings, frets, keep, tuple(_breaks(phrase, made, span, strings, instrument)))


def _other_strings(phrase: Phrase, span: Span, by: int, instrument: Instrument) -> Phrase:
    def how(note: Note) -> Note:
        if note.string is None or note.fret is None:
            raise DromicError(f"{note_name(note.pitch)} has no string yet; let the planner place it, or give it one")
        string = note.string + by
        if not 1 <= string <= instrument.strings:
            raise DromicError(f"there is no string {string} on the {instrument.label}; move it less far")
        return replace(note, string=string, pitch=instrument.pitch_at(string, note.fret))

    return change(phrase, span, how)


def _breaks(before: Phrase, after: Phrase, span: Span, strings: int, instrument: Instrument) -> Iterator[str]:
    there = {(at, new.string): new for at, new in sounds_of(after)}  # notes of a chord may change their order
    pairs = [
        (old, there[at, None if old.string is None else old.string + strings])
        for at, old in sounds_of(before)
        if span.holds(at, old)
    ]
    fretted = sum(old.fret == 0 and bool(new.fret) for old, new in pairs)
    opened = sum(bool(old.fret) and new.fret == 0 for old, new in pairs)
    for count, what in (
        (fretted, "fretted now: the shape needs a finger more there"),
        (opened, "open now: no finger holds it"),
    ):
        if count:
            yield f"{count} {'note is' if count == 1 else 'notes are'} {what}"
    steps = {new.pitch - old.pitch for old, new in pairs}
    if strings and len(steps) > 1:
        yield "it sounds otherwise, not only higher or lower: " + "; ".join(
            _tuned_otherwise(pairs, strings, instrument)
        )
    if any(new.fret is not None and new.fret > instrument.highest_fret - _NEAR_END for _, new in pairs):
        yield "it lies at the end of the neck"
    reach = [_spread([n.fret for n in side if n.fret]) for side in ([o for o, _ in pairs], [n for _, n in pairs])]
    if reach[1] > reach[0]:
        yield f"it spans {reach[1]} frets instead of {reach[0]}"


_NEAR_END = 1


def _spread(frets: list[int]) -> int:
    return max(frets) - min(frets) if frets else 0


def _tuned_otherwise(pairs: list[tuple[Note, Note]], by: int, instrument: Instrument) -> list[str]:
    """The pairs of neighbouring strings that lie another interval apart where the shape goes."""
    used = sorted({old.string for old, _ in pairs if old.string is not None})
    told = []
    for low, high in pairwise(used):
        was = instrument.open_pitch(low) - instrument.open_pitch(high)
        now = instrument.open_pitch(low + by) - instrument.open_pitch(high + by)
        if was != now:
            told.append(f"strings {high + by} and {low + by} lie {now} semitones apart, {high} and {low} {was}")
    return told or ["its notes move by different intervals"]


def everywhere(phrase: Phrase, span: Span, keep: str, instrument: Instrument) -> Iterator[Moved]:
    """A span's shape on every set of strings it fits, where it is first; keeping pitches, those it can be played on."""
    for strings in sorted(range(1 - instrument.strings, instrument.strings), key=abs):
        try:
            yield moved(phrase, span, strings, 0, keep, instrument)
        except DromicError:
            continue
