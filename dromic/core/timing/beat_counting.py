"""Counting words under the notes: 1 e & a, 1 trip let, and eighths of compound beats. Common practice."""

from __future__ import annotations

from fractions import Fraction

from dromic.core.music.graces import written_onset
from dromic.core.music.phrase import Phrase

_EVEN = {Fraction(1, 4): "e", Fraction(1, 2): "&", Fraction(3, 4): "a"}
_TRIPLET = {Fraction(1, 3): "trip", Fraction(2, 3): "let"}


def count(phrase: Phrase, event: int) -> str:
    """What a player counts at an event; empty between the counted places."""
    if phrase.events[event].grace:
        return ""
    bar = phrase.bars[phrase.events[event].bar]
    offset = bar.offset_of(written_onset(phrase, event))
    if bar.metre.lower >= 8:
        eighth, rest = divmod(offset, Fraction(4, bar.metre.lower))
        return str(int(eighth) + 1) if not rest else "&" if rest == Fraction(2, bar.metre.lower) else ""
    index, start, _ = bar.metre.beat_at(offset)
    inside = offset - start
    if not inside:
        return str(index + 1)
    if inside not in _EVEN and inside not in _TRIPLET:
        return ""  # whatever the beat is divided into, which takes a look at all of it
    words = _TRIPLET if _in_three(phrase, event, bar.start - bar.lead + start) else _EVEN
    return words.get(inside, "")


def _in_three(phrase: Phrase, event: int, beat: Fraction) -> bool:
    """Whether any note of the beat lies on a division by three."""
    first = event
    while first > 0 and phrase.events[first - 1].onset >= beat:
        first -= 1
    for e in phrase.events[first:]:
        if e.onset >= beat + 1:
            return False
        if (e.onset - beat).denominator % 3 == 0:
            return True
    return False
