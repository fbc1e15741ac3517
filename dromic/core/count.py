"""Counting words under the notes: 1 e & a, 1 trip let, and eighths of compound beats. Common practice."""

from __future__ import annotations

from fractions import Fraction

from dromic.core.phrase import Phrase

_IN_QUARTER = {
    Fraction(1, 4): "e", Fraction(1, 2): "&", Fraction(3, 4): "a", Fraction(1, 3): "trip", Fraction(2, 3): "let",
}  # fmt: skip


def count(phrase: Phrase, event: int) -> str:
    """What a player counts at an event; empty between the counted places."""
    bar = phrase.bars[phrase.events[event].bar]
    offset = bar.offset_of(phrase.events[event].onset)
    if bar.metre.lower >= 8:
        eighth, rest = divmod(offset, Fraction(4, bar.metre.lower))
        return str(int(eighth) + 1) if not rest else "&" if rest == Fraction(2, bar.metre.lower) else ""
    index, start, _ = bar.metre.beat_at(offset)
    inside = offset - start
    return str(index + 1) if not inside else _IN_QUARTER.get(inside, "")
