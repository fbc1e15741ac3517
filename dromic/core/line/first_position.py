"""Where the neck's lower end is the habit: bars in first position, and tunes that can be had low. Common practice.

A bar is in first position that lies whole under fret 4 with an open string among it; a tune is low whose every pitch can
be had up to fret 7. Both are told from the pitches alone: were they told from kept positions, keeping one could make a plan cheaper.
"""

from __future__ import annotations

from dromic.core.music.phrase import Phrase
from dromic.core.plan.request import Request

NOT, HABIT, LEFT = range(3)
"""first position: the bar does not fit it; it is the habit; it would fit, but the places stated lie elsewhere, which
costs the same whichever fingers play them, so that keeping a place never makes a plan cheaper"""
_TOP = 4
"""fret up to which first position reaches"""
_LOW = 7
"""fret up to which a tune can be had that is not looked for high on the neck"""


def first_positions(request: Request) -> list[int]:
    """NOT, HABIT or LEFT for every bar of a request."""
    fit = _fitting(request)
    left = _elsewhere(request.phrase) if "positions" in request.keep else set()
    return [NOT if bar not in fit else LEFT if bar in left else HABIT for bar in range(len(request.phrase.bars))]


def is_low(request: Request) -> bool:
    """Whether every pitch of a request can be had low on its instrument's neck."""
    pitches = {note.pitch for event in request.phrase.events for note in event.notes}
    return all(min((f for _, f in request.instrument.places_of(p)), default=99) <= _LOW for p in pitches)


def _fitting(request: Request) -> set[int]:
    fits: dict[int, list[tuple[bool, bool]]] = {}
    known: dict[int, tuple[bool, bool]] = {}
    for event in request.phrase.events:
        for note in event.notes:
            if note.pitch not in known:
                frets = [f for s, f in request.instrument.places_of(note.pitch)]
                known[note.pitch] = min(frets, default=99) <= _TOP, 0 in frets
            fits.setdefault(event.bar, []).append(known[note.pitch])
    return {bar for bar, pairs in fits.items() if all(low for low, _ in pairs) and any(zero for _, zero in pairs)}


def _elsewhere(phrase: Phrase) -> set[int]:
    """Bars whose stated places lie out of first position: beyond it, or all stated and without an open string."""
    frets: dict[int, list[int | None]] = {}
    for event in phrase.events:
        frets.setdefault(event.bar, []).extend(n.fret if n.string is not None else None for n in event.notes)
    return {
        bar
        for bar, stated in frets.items()
        if any(f is not None and f > _TOP for f in stated) or (None not in stated and 0 not in stated)
    }
