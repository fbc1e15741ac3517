"""The place of every event in the beat, which decides strokes where the hand swings with the pulse.

Common practice, no published source.
"""

from __future__ import annotations

from collections import Counter
from fractions import Fraction
from functools import lru_cache

from dromic.core.music.graces import written_onset
from dromic.core.music.phrase import Phrase
from dromic.core.setup.school import School
from dromic.core.values.metre import default_unit, division, place


def pulse_unit(phrase: Phrase, chosen: str | None, school: School) -> str:
    """The unit asked for, else the school's, else the one the phrase suggests."""
    if chosen or school.unit:
        return chosen or school.unit
    metre = Counter(phrase.bars[e.bar].metre for e in phrase.events).most_common(1)[0][0]
    return default_unit(metre, [n.duration for _, _, _, n in phrase.numbered_notes() if "grace" not in n.marks])


@lru_cache(maxsize=16)
def places(phrase: Phrase, unit: str) -> tuple[int, ...]:
    """The place of every event in its bar: even for down, odd for up. Grace notes do not divide the beat."""
    in_beat: dict[tuple[int, int], list[Fraction]] = {}
    where: list[tuple[int, int]] = []
    offsets: list[Fraction] = []
    for i, event in enumerate(phrase.events):
        bar = phrase.bars[event.bar]
        offset = bar.offset_of(written_onset(phrase, i))
        beat, start, _ = bar.metre.beat_at(offset)
        where.append((event.bar, beat))
        offsets.append(offset)
        inside = in_beat.setdefault((event.bar, beat), [])
        if not event.grace:
            inside.append(offset - start)
    grids: dict[tuple[int, int], Fraction] = {}
    found = []
    for key, offset in zip(where, offsets, strict=True):
        metre = phrase.bars[key[0]].metre
        if key not in grids:
            grids[key] = division(metre, unit, offset, in_beat[key])
        found.append(place(metre, unit, offset, grids[key]))
    return tuple(found)
