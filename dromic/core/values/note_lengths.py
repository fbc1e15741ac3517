"""Words for lengths of time: w h q e s t z for whole to sixty-fourth, a dot or more, a number for a tuplet.

`e.` is a dotted eighth, `s3` a sixteenth of a triplet (three in the time of two), `s5` one of five in the time of four.
What has no word is a fraction of a quarter: 5/8.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache

from dromic.core.values.errors import DromicError

BASES = {
    "w": Fraction(4),
    "h": Fraction(2),
    "q": Fraction(1),
    "e": Fraction(1, 2),
    "s": Fraction(1, 4),
    "t": Fraction(1, 8),
    "z": Fraction(1, 16),
}
BASE_NAMES = {
    "w": "whole", "h": "half", "q": "quarter", "e": "eighth", "s": "sixteenth", "t": "thirty-second", "z": "sixty-fourth",
}  # fmt: skip
IN_TIME_OF = {3: 2, 5: 4, 6: 4, 7: 4, 9: 8, 10: 8, 11: 8}
"""for each tuplet, how many plain notes take the same time"""
MOST_DOTS = 2
_WORD = re.compile(r"([whqestz])(\.{0,2})(\d{0,2})")
_FRACTION = re.compile(r"(\d{1,4})(?:/(\d{1,4}))?")


@dataclass(frozen=True, slots=True)
class Sign:
    """How a length is written: a base with dots, perhaps in a tuplet; no base where there is no sign for it."""

    length: Fraction
    base: str | None = None
    dots: int = 0
    tuplet: int = 0


def dotted(base: Fraction, dots: int) -> Fraction:
    """A length with dots, each adding half of what the one before added."""
    return base * (2 - Fraction(1, 2**dots))


def length_of(word: str) -> Fraction:
    """The length a word stands for; DromicError if it stands for none."""
    if match := _WORD.fullmatch(word):
        base, dots, tuplet = match.groups()
        length = dotted(BASES[base], len(dots))
        if not tuplet:
            return length
        if int(tuplet) in IN_TIME_OF:
            return length * Fraction(IN_TIME_OF[int(tuplet)], int(tuplet))
        raise DromicError(f"there is no tuplet of {tuplet}; choose one of {', '.join(map(str, IN_TIME_OF))}")
    if (match := _FRACTION.fullmatch(word)) and int(match[1]) and match[2] != "0":
        return Fraction(int(match[1]), int(match[2] or 1))
    raise DromicError(
        f"{word!r} is not a length; write one of {' '.join(BASES)} with dots or a tuplet's number (e. or s3), or a "
        "fraction of a quarter such as 5/8"
    )


def length_words(length: Fraction) -> str:
    """A length as it is said."""
    sign = next((s for s in _signs() if s.length == length and s.base), None)
    if sign is None or sign.base is None:
        return f"{length} of a quarter"
    dots = ("", "dotted ", "double-dotted ")[sign.dots]
    return f"{dots}{BASE_NAMES[sign.base]}" + (f" in {sign.tuplet}s" if sign.tuplet else "")


@lru_cache(maxsize=512)
def word_of(length: Fraction) -> str:
    """The shortest word for a length."""
    return next((word for word, value in _words().items() if value == length), str(length))


@lru_cache(maxsize=1)
def _words() -> dict[str, Fraction]:
    plain = {b + "." * d: dotted(v, d) for d in range(MOST_DOTS + 1) for b, v in BASES.items()}
    tuplets = {
        f"{b}{n}": v * Fraction(of, n)
        for n, of in IN_TIME_OF.items()
        if n in (3, 5, 7, 9, 11)
        for b, v in BASES.items()
    }
    return {**plain, **tuplets}


def signs_of(length: Fraction) -> Iterator[Sign]:
    """A length as signs to be tied together, the longest first; one without a base where no sum of signs makes it."""
    left = length
    found: list[Sign] = []
    while left > 0:
        exact = next((s for s in _signs() if s.length == left), None)
        plain = exact or next((s for s in _signs() if not s.tuplet and s.length < left), None)
        if plain is None or (exact is None and left.denominator & (left.denominator - 1)):
            yield Sign(length)
            return
        found.append(plain)
        left -= plain.length
    yield from found


@lru_cache(maxsize=1)
def _signs() -> list[Sign]:
    plain = [Sign(dotted(v, d), b, d) for b, v in BASES.items() for d in range(MOST_DOTS + 1)]
    tuplets = [
        replace(s, length=s.length * Fraction(of, n), tuplet=n)
        for s in plain
        for n, of in IN_TIME_OF.items()
        if not s.dots
    ]
    return [*sorted(plain, key=lambda s: -s.length), *tuplets]
