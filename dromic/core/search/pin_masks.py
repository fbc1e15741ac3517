"""What pins leave open in the layers of a request, and which of them to let go when nothing is left."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.fretting_nodes import FINGER_NAMES, Shape
from dromic.core.hands.picking_states import PickingStates
from dromic.core.plan.request import Request
from dromic.core.search.lattice import Layers, MaskedLattice
from dromic.core.search.loop_search import best_route
from dromic.core.setup.pin import BARRE, Pin
from dromic.core.values.arrays import Floats
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import PICK, PINCH, PLUCK, PLUCKERS, SIGN

_BROKEN = 1e6
"""price of breaking a pin while looking for the fewest to break; over any plan's cost"""


def masks_of(layers: Layers, pins: Sequence[Pin]) -> dict[int, NDArray[np.bool_]]:
    """For every event with a pin, which of its states do what all its pins say, [K, R]."""
    found: dict[int, NDArray[np.bool_]] = {}
    for pin in pins:
        mask = _mask(layers, pin, pins)
        found[pin.event] = found[pin.event] & mask if pin.event in found else mask
    return found


def _mask(layers: Layers, pin: Pin, pins: Sequence[Pin]) -> NDArray[np.bool_]:
    """[K, R]: which states of its event do what a pin says, one of some; DromicError for a note that is not there."""
    if pin.event >= len(layers.layers):
        raise DromicError(f"there is no note {pin.event + 1} to pin; the phrase has {len(layers.layers)}")
    layer = layers.layers[pin.event]
    if pin.note >= len(layer.fretting.shapes[0].notes):
        raise DromicError(
            f"note {pin.event + 1} holds only {len(layer.fretting.shapes[0].notes)} at once; pin one of them"
        )
    wish = layers.wishes[pin.event]
    if pin.field == BARRE and pin.value == "yes" and len(wish.pitches) == 1 and not wish.held:
        if pin.event + 1 not in {other.event for other in pins if other.field == BARRE} or not wish.frets[0]:
            raise DromicError(
                f"note {pin.event + 1} cannot lie under a barre alone; keep its place and pin its neighbour, at its fret on "
                "another string, to the barre as well"
            )
        return np.ones((len(layer.fretting.shapes), layer.ways), dtype=bool)
    if pin.field in LEFT:
        nodes = np.array([LEFT[pin.field](shape, pin.note) == pin.value for shape in layer.fretting.shapes])
        return np.broadcast_to(nodes[:, None], (len(nodes), layer.ways))
    columns = []
    for part in layer.parts:
        fits = RIGHT[pin.field](part, pin.note, pin.value, layers.request)
        columns.append(fits[layer.fretting.group if part.grouped else np.zeros_like(layer.fretting.group)])
    return np.concatenate(columns, axis=1)


LEFT: dict[str, Callable[[Shape, int], int | str]] = {
    "string": lambda shape, note: shape.notes[note].string,
    "fret": lambda shape, note: shape.notes[note].fret,
    "finger": lambda shape, note: FINGER_NAMES[shape.notes[note].finger],
    "position": lambda shape, note: shape.position,
    BARRE: lambda shape, note: "yes" if _is_flat(shape, note) else "no",
}


def _is_flat(shape: Shape, note: int) -> bool:
    """Whether the finger of a note lies over another string as well."""
    finger = shape.notes[note].finger
    return bool(finger) and sum(n.finger == finger for n in (*shape.notes, *shape.held)) > 1


def _stroke(part: PickingStates, note: int, value: int | str, request: Request) -> NDArray[np.bool_]:
    """[G, R]: which ways of a part sound a note with this stroke or finger."""
    shape = part.places.sign.shape
    if value in SIGN:
        return part.places.sign == SIGN[str(value)] if part.attack in (PICK, PINCH) else np.zeros(shape, dtype=bool)
    if value == "none":
        return np.full(shape, part.attack not in (PICK, PINCH, PLUCK))
    if not any(part.fingers):
        return np.zeros(shape, dtype=bool)
    at = note - 1 if part.attack == PINCH else note
    finger = PLUCKERS.index(str(value))
    return np.broadcast_to([0 <= at < len(f) and f[at] == finger for f in part.fingers], shape)


def _attack(part: PickingStates, note: int, value: int | str, request: Request) -> NDArray[np.bool_]:
    """[G, R]: which ways of a part sound a note so."""
    sounded = part.attack
    if sounded == PINCH:
        sounded = PLUCK if note else PICK
    return np.full(part.places.sign.shape, sounded == value)


def _lean(part: PickingStates, note: int, value: int | str, request: Request) -> NDArray[np.bool_]:
    """[G, R]: which ways of a part lean so."""
    numbers = [n for n, lean in enumerate(request.player.leans) if lean.name == value]
    return np.isin(part.places.lean, numbers)


RIGHT: dict[str, Callable[[PickingStates, int, int | str, Request], NDArray[np.bool_]]] = {
    "stroke": _stroke,
    "attack": _attack,
    "lean": _lean,
}


def impossible(layers: Layers, pins: Sequence[Pin]) -> DromicError:
    """An error that names, note by note, the smallest set of pins to let go for any plan to exist."""
    go = fewest_broken(layers, pins)
    if go is None:
        return DromicError(f"the school {layers.request.school.name} allows no plan at all here; choose another school")
    if not go:
        return DromicError("what is pinned cannot be played with the attacks written; let go of a pinned attack")
    return DromicError(f"what is pinned cannot all hold; let go of {'; '.join(map(str, go))}")


def fewest_broken(layers: Layers, pins: Sequence[Pin], held: Sequence[Pin] = ()) -> tuple[Pin, ...] | None:
    """The smallest set of pins to let go for any plan to exist in which all that is `held` holds; None where there is
    none even without them. Leaving a pin costs more than any plan."""
    prices: dict[int, Floats] = {e: np.where(mask, 0.0, np.inf) for e, mask in masks_of(layers, held).items()}
    masks = [_mask(layers, pin, pins) for pin in pins]
    for pin, mask in zip(pins, masks, strict=True):
        prices[pin.event] = prices.get(pin.event, 0.0) + np.where(mask, 0.0, _BROKEN)
    route = best_route(MaskedLattice(layers, prices, free_seams=True))
    if route is None:
        return None
    return tuple(k for k, mask in zip(pins, masks, strict=True) if not mask[route.states[k.event]])
