"""Which stopped notes go on sounding while later ones are played, so that their fingers must stay where they are.

A note goes on by its length, or to the end of its bar where it is marked to ring; it ends when its string sounds again. Notes that
are pinned to lie under one flat finger go on while it lies.
Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from fractions import Fraction

from dromic.core.music.phrase import Event, Note, Phrase
from dromic.core.values.vocabulary import TAP

Place = tuple[int, int]
"""string and fret"""
_MOST = Fraction(1, 2)
"""a note goes on through an event if it sounds for at least this share of it: files overlap by chance"""


def notes_held(phrase: Phrase, before: Sequence[int], flat: Collection[int] = ()) -> list[tuple[Place, ...]]:
    """For every event what goes on sounding under it, by string; `before` is the event played before each, -1 for none; `flat`
    are the events that lie under a flat finger, each as long as the next is one of them at its fret.

    Only notes whose string and fret are stated are told.
    """
    sounding: list[dict[int, tuple[int, Fraction]]] = []
    found: list[tuple[Place, ...]] = []
    for i, event in enumerate(phrase.events):
        earlier = sounding[before[i]] if before[i] >= 0 else {}
        strings = {n.string for n in event.notes}
        after = min([event.end, *(e.onset for e in phrase.events[i + 1 : i + 2])])
        needed = event.onset + _MOST * (after - event.onset)
        frets = {n.fret for n in event.notes} if i in flat and before[i] in flat else set()
        going_on = {
            s: (f, end) for s, (f, end) in earlier.items() if s not in strings and (end >= needed or f in frets)
        }
        found.append(tuple(sorted((s, f) for s, (f, _) in going_on.items())))
        sounding.append(going_on | {s: (f, end) for n in event.notes for s, f, end in _goes_on(phrase, event, n)})
    return found


def _goes_on(phrase: Phrase, event: Event, note: Note) -> list[tuple[int, int, Fraction]]:
    if not note.string or not note.fret or note.attack == TAP or "dead" in note.marks:
        return []
    end = event.onset + note.duration
    if "let-ring" in note.marks:
        end = max(end, phrase.bars[event.bar].end)
    return [(note.string, note.fret, end)]
