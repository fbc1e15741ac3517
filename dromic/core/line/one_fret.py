"""Single notes in turn at one fret on neighbour strings: a finger rolls over them, or lies flat. Common practice."""

from __future__ import annotations

from dromic.core.music.phrase import Phrase

IN_A_ROW = 3
"""Strings from which on a row is not played with a finger each."""


def row_around(phrase: Phrase, event: int) -> range:
    """The events around one that are single stopped notes at its stated fret, each struck on the string next to the one before; only
    the event itself where no neighbour is."""
    first = last = event
    while first > 0 and _next_to(phrase, first - 1):
        first -= 1
    while last + 1 < len(phrase.events) and _next_to(phrase, last):
        last += 1
    return range(first, last + 1)


def goes_on_in_a_row(phrase: Phrase) -> list[bool]:
    """For every event whether it goes on from the one before at its fret in a row of three strings or more."""
    found = [False] * len(phrase.events)
    event = 0
    while event < len(found):
        row = row_around(phrase, event)
        strings = {phrase.events[e].notes[0].string for e in row} if len(row) > 1 else set()
        if len(strings) >= IN_A_ROW:
            found[row.start + 1 : row.stop] = [True] * (len(row) - 1)
        event = row.stop
    return found


def _next_to(phrase: Phrase, event: int) -> bool:
    """Whether the event after one lies beside it at its fret."""
    one, other = phrase.events[event].notes, phrase.events[event + 1].notes
    if len(one) != 1 or len(other) != 1 or other[0].attack:
        return False
    a, b = one[0], other[0]
    return bool(a.string and b.string and a.fret) and a.fret == b.fret and abs((a.string or 0) - (b.string or 0)) == 1
