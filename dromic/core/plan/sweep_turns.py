"""Where a sweep turns: one chain of carry-throughs is followed by one the other way, and at most the turning string is
played between them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from dromic.core.plan.plan import Move

_ON_THE_STRING = ("same-string", "repeat", "legato")
_NEXT_STRING = ("inside", "outside")


def sweep_turns(moves: Sequence[Move], stroke_of: Callable[[int], object]) -> tuple[int, ...]:
    """The events first struck the other way, in order; `stroke_of` tells how an event is struck. The turn may lie on the
    string, between two strokes, or at the one string change that leads on to the turning note or off it."""
    found: list[int] = []
    way: object = None
    changed, turned = False, -1
    for move in moves:
        now = stroke_of(move.to)
        if move.pick_kind == "carry-through":
            if way is not None and now != way:
                found.append(turned if turned >= 0 else move.to)
            way, changed, turned = now, False, -1
        elif move.pick_kind in _ON_THE_STRING or (move.pick_kind in _NEXT_STRING and not changed):
            changed = changed or move.pick_kind in _NEXT_STRING
            if move.pick_kind != "legato" and now != way and turned < 0:
                turned = move.to
        else:
            way = None
    return tuple(found)
