"""What of a phrase can be set side by side: its parts, and its shape on other strings and along the neck. A kind is one entry."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from fractions import Fraction

from dromic.core.editing.edit import Span, cut
from dromic.core.editing.shapes import FRETS, PITCHES, everywhere, moved
from dromic.core.music.phrase import Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError

Variants = Iterator[tuple[str, Phrase]]
HERE = "where it is"


def _whole(phrase: Phrase) -> Span:
    return Span(Fraction(0), phrase.end)


def _parts(phrase: Phrase, instrument: Instrument) -> Variants:
    for section in phrase.sections:
        bars = phrase.bars[section.first], phrase.bars[section.last]
        yield section.name, cut(phrase, Span(bars[0].start, bars[1].end))


def _other_strings(keep: str) -> Callable[[Phrase, Instrument], Variants]:
    def of(phrase: Phrase, instrument: Instrument) -> Variants:
        for one in everywhere(phrase, _whole(phrase), keep, instrument):
            yield one.words if one.strings else HERE, one.phrase

    return of


def _along_the_neck(phrase: Phrase, instrument: Instrument) -> Variants:
    for frets in range(-instrument.highest_fret, instrument.highest_fret + 1):
        try:
            one = moved(phrase, _whole(phrase), 0, frets, FRETS, instrument) if frets else None
        except DromicError:
            continue
        yield (one.words, one.phrase) if one is not None else (HERE, phrase)


VARIANTS: dict[str, tuple[str, Callable[[Phrase, Instrument], Variants]]] = {
    "parts": ("Its parts", _parts),
    "strings": ("On other strings, the same frets", _other_strings(FRETS)),
    "pitches": ("On other strings, the same notes", _other_strings(PITCHES)),
    "frets": ("Along the neck", _along_the_neck),
}
"""name: (what it is called, how it is made of a phrase whose notes have strings and frets)"""


def variants_of(phrase: Phrase, kind: str, instrument: Instrument) -> list[tuple[str, Phrase]]:
    """The variants of a kind, each with its name and named by it; DromicError where there are none to compare."""
    found = [(name, replace(made, title=name)) for name, made in VARIANTS[kind][1](phrase, instrument)]
    if not found:
        raise DromicError(
            "this phrase has no parts; name some on Write first" if kind == "parts" else "it fits nowhere else"
        )
    return found
