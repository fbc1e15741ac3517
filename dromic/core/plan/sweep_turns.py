"""Where a sweep turns: one chain of carry-throughs is followed by one the other way, and at most the turning string is
played between them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from dromic.core.plan.plan import Move

_ON_THE_STRING = ("same-string", "repeat", "legato")
_NEXT_STRING = ("inside", "outside")


def sweep_turns(moves: Sequence[Move], stroke_of: Callable[[int], object]) -> tuple[int, ...]:
    """The events at which the chains the other way begin, in order; `stroke_of` tells how an event is struck. The turn may
    lie on the string, between two strokes, or at the one string change that leads on to the turning note or off it."""
    found: list[int] = []
    way: object = None
    changed = False
    for move in moves:
        now = stroke_of(move.to)
        if move.pick_kind == "carry-through":
            if way is not None and now != way:
                found.append(move.pick_from)
            way, changed = now, False
        elif move.pick_kind in _ON_THE_STRING or (move.pick_kind in _NEXT_STRING and not changed):
            changed = changed or move.pick_kind in _NEXT_STRING
        else:
            way = None
    return tuple(found)
