"""A place of a list, and a list of them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from dromic.core.plan.plan import Plan


@dataclass(frozen=True, slots=True)
class Place:
    """A place of a list: its event, the number of its first note counted from 1, its bar, what is said of it."""

    event: int
    note: int
    bar: int
    words: str


@dataclass(frozen=True, slots=True)
class PlaceList:
    """A list: its name, its title, what it holds, and how it is made."""

    name: str
    title: str
    why: str
    of: Callable[[Plan], Iterator[Place]]


def place_at(plan: Plan, event: int, words: str) -> Place:
    """A place at an event."""
    lead = plan.events[event][0]
    return Place(event, lead.index + 1, lead.bar_number, words)


def counted(count: int, word: str) -> str:
    """A number of things: 1 fret, 2 frets."""
    return f"{count} {word}" if count == 1 else f"{count} {word}s"
