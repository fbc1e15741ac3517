"""The pen: where the next note goes and how long it is. A value without a toolkit; every stroke makes a new one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

from dromic.core.editing.edit import INSTANT, Span
from dromic.core.music.phrase import Note, Phrase
from dromic.core.values.note_lengths import BASE_NAMES, BASES, IN_TIME_OF, dotted

FREE = 0
"""the lane of notes that have no string yet, above string 1"""


@dataclass(frozen=True, slots=True)
class Pen:
    """`at` is the time and `string` the lane under the pen; `anchor` is where a selection began, if there is one."""

    at: Fraction = Fraction(0)
    string: int = 1
    base: str = "e"
    dots: int = 0
    tuplet: int = 0
    anchor: Fraction | None = None

    @property
    def length(self) -> Fraction:
        plain = dotted(BASES[self.base], self.dots)
        return plain * Fraction(IN_TIME_OF[self.tuplet], self.tuplet) if self.tuplet else plain

    @property
    def length_words(self) -> str:
        """The length as a player says it."""
        dots = ("", "dotted ", "double-dotted ")[self.dots]
        return f"{dots}{BASE_NAMES[self.base]}" + (
            f", {self.tuplet} in the time of {IN_TIME_OF[self.tuplet]}" if self.tuplet else ""
        )

    @property
    def lane(self) -> int | None:
        """The string as a note states it."""
        return self.string or None

    @property
    def selection(self) -> Span | None:
        """The time selected, the step under the pen included."""
        if self.anchor is None:
            return None
        low, high = sorted((self.anchor, self.at))
        return Span(low, high + self.length)

    def under(self, phrase: Phrase) -> Note | None:
        """The note that begins under the pen on its string."""
        event = next((e for e in phrase.events if e.onset == self.at), None)
        return next((n for n in event.notes if n.string == self.lane), None) if event else None

    def span(self, phrase: Phrase) -> Span:
        """What a change is about: the selection, else the note under the pen."""
        return self.selection or Span(self.at, self.at + INSTANT, frozenset({self.lane}))

    def passage(self, phrase: Phrase) -> Span:
        """What a change of order or length is about: the selection, else the bar under the pen."""
        bar = phrase.bars[phrase.bar_at(self.at)]
        return self.selection or Span(bar.start, bar.end)

    def bars(self, phrase: Phrase) -> tuple[int, int]:
        """The bars selected, or the one under the pen."""
        span = self.selection
        if span is None:
            return phrase.bar_at(self.at), phrase.bar_at(self.at)
        return phrase.bar_at(span.start), phrase.bar_at(span.end - INSTANT)

    def moved(self, phrase: Phrase, to: Fraction, extend: bool = False) -> Pen:
        """The pen at another time, inside the phrase or just at its end."""
        anchor = (self.at if self.anchor is None else self.anchor) if extend else None
        return replace(self, at=max(Fraction(0), min(to, phrase.end)), anchor=anchor)

    def stepped(self, phrase: Phrase, forward: bool, extend: bool = False) -> Pen:
        """The pen a step on or back: its length, or to the next note's beginning if that is nearer."""
        onsets = [e.onset for e in phrase.events]
        if forward:
            near = [o for o in onsets if self.at < o < self.at + self.length]
            return self.moved(phrase, min([*near, self.at + self.length]), extend)
        near = [o for o in onsets if self.at - self.length < o < self.at]
        return self.moved(phrase, max([*near, self.at - self.length]), extend)

    def barred(self, phrase: Phrase, forward: bool, extend: bool = False) -> Pen:
        """The pen at the next bar, or at the beginning of this one or the one before."""
        index = phrase.bar_at(self.at)
        bar = phrase.bars[index]
        if forward:
            return self.moved(phrase, bar.end, extend)
        at_start = self.at == bar.start and index > 0
        return self.moved(phrase, phrase.bars[index - 1].start if at_start else bar.start, extend)

    def across(self, lanes: int, by: int) -> Pen:
        """The pen on another lane, 0 to the number of strings."""
        return replace(self, string=max(FREE, min(lanes, self.string + by)))

    def fitted(self, phrase: Phrase, lanes: int) -> Pen:
        """The pen inside a phrase that may have become shorter or have fewer strings."""
        anchor = None if self.anchor is None else min(self.anchor, phrase.end)
        return replace(self, at=min(self.at, phrase.end), string=min(self.string, lanes), anchor=anchor)
