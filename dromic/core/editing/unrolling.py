"""A phrase written out in the order it is played, its repeats and endings with it: every stretch from one jump to the next is a part,
so that the seams are seen."""

from __future__ import annotations

from dataclasses import replace

from dromic.core.music.phrase import Phrase, Section
from dromic.core.setup.choices import Choices
from dromic.core.values.errors import DromicError


def written_out(phrase: Phrase) -> Phrase:
    """The phrase without repeat signs; DromicError where it has none."""
    order = phrase.playing_order()
    if order == list(range(len(phrase.bars))):
        raise DromicError("this phrase has no repeats and no endings: it is written out already")
    begins = [n for n, bar in enumerate(order) if not n or bar != order[n - 1] + 1]
    ends = [*(n - 1 for n in begins[1:]), len(order) - 1]
    numbers = [phrase.bars[bar].number for bar in order]
    parts = tuple(
        Section(f"bar {numbers[a]}" if a == b else f"bars {numbers[a]} to {numbers[b]}", a, b)
        for a, b in zip(begins, ends, strict=True)
    )
    return replace(phrase.unrolled(), sections=parts)


def choices_written_out(phrase: Phrase, chosen: Choices) -> Choices:
    """Choices for the phrase written out: what is pinned in a repeated bar is pinned every time it comes."""
    inside: dict[int, list[int]] = {}
    for number, event in enumerate(phrase.events):
        inside.setdefault(event.bar, []).append(number)
    played = [e for bar in phrase.playing_order() for e in inside.get(bar, ())]
    pins = tuple(k.moved(at - k.event) for at, e in enumerate(played) for k in chosen.pins if k.event == e)
    overrides = tuple((at, stroke) for at, e in enumerate(played) for number, stroke in chosen.overrides if number == e)
    return replace(chosen, pins=pins, overrides=overrides)
