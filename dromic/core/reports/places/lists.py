"""All lists of places, by name. A list is one entry of its hand's table."""

from __future__ import annotations

from dromic.core.plan.plan import Plan
from dromic.core.reports.places.both_places import BOTH
from dromic.core.reports.places.fretting_places import FRETTING
from dromic.core.reports.places.picking_places import PICKING
from dromic.core.reports.places.place import Place, PlaceList

LISTS: tuple[PlaceList, ...] = (*PICKING, *FRETTING, *BOTH)
BY_NAME = {one.name: one for one in LISTS}


def places_of(plan: Plan, name: str) -> tuple[Place, ...]:
    """The places of one list."""
    return tuple(BY_NAME[name].of(plan))
