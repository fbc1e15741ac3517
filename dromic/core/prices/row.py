"""A row of the price list, and the list of them.

A row is a pure function over arrays. The names of its parameters are what it reads: facts of the set it belongs to (`facts.py`), and
numbers and habits of the player. Nothing else reaches it, so an answer may be kept under the facts that the rows read.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, fields, replace
from functools import cached_property, lru_cache
from inspect import signature
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from dromic.core.prices.facts import FACT_SETS, PICKING
from dromic.core.setup.player import FrettingHand, Habits, Judging, PickingHand, Player

PRICE, HURRIED, TIME, LOAD, PERMIT = "price", "hurried price", "time", "load", "permit"
UNITS: Mapping[str, str] = {
    PRICE: "",
    HURRIED: "",
    TIME: "ms",
    LOAD: "",
    PERMIT: "",
}
"""Kinds of rows and their units. Prices add up, in units of the objective, in which a load of 1 costs 1; hurried ones count by the
share of the time there is that a ready finger takes. Of times see the fact set. The largest load counts. Every permit must hold."""


class Facts(Protocol):
    """What rows of one set may read: its facts as attributes, the player's numbers by name."""

    @property
    def numbers(self) -> Mapping[str, Any]:
        """The player's numbers and habits that rows of the set may read."""
        ...


@dataclass(frozen=True, slots=True)
class Row:
    """What one thing costs, takes or forbids.

    `of` returns an array that broadcasts to the shape of the set's facts, or one number for all: a price, a time in ms, a load, or
    for a permit whether it is allowed.
    """

    name: str
    about: str
    """the fact set it belongs to, which names its hand and level"""
    kind: str
    of: Callable[..., Any]
    words: str
    """what a player is told it is"""
    weight: float = 1.0
    """times what `of` says"""
    _args: tuple[tuple[str, bool], ...] = field(init=False, repr=False, compare=False)
    """the names of its parameters, and whether each is a fact"""

    def __post_init__(self) -> None:
        known = FACT_SETS[self.about].facts
        object.__setattr__(self, "_args", tuple((name, name in known) for name in signature(self.of).parameters))

    @property
    def hand(self) -> str:
        """Whose row it is."""
        return FACT_SETS[self.about].hand

    @property
    def level(self) -> str:
        """What it is about: a figure, a shape, a place, a move, the first event or a step."""
        return FACT_SETS[self.about].level

    @property
    def reads(self) -> tuple[str, ...]:
        """The facts it reads."""
        return tuple(name for name, fact in self._args if fact)

    @property
    def numbers(self) -> tuple[str, ...]:
        """The player's numbers and habits that scale it."""
        return tuple(name for name, fact in self._args if not fact)

    def made(self, facts: Facts) -> Any:
        """What it says of facts."""
        said = self.of(*[getattr(facts, name) if fact else facts.numbers[name] for name, fact in self._args])
        return said if self.weight == 1.0 else self.weight * said


@dataclass(frozen=True)
class PriceList:
    """The rows that a search goes by. ValueError where two share a name, or one reads what its set does not hold."""

    rows: tuple[Row, ...]

    def __post_init__(self) -> None:
        if len({row.name for row in self.rows}) < len(self.rows):
            raise ValueError("two rows of a price list share a name")
        for row in self.rows:
            if unknown := set(row.numbers) - NUMBERS[row.hand]:
                raise ValueError(
                    f"the row {row.name!r} reads {', '.join(sorted(unknown))}, which is no fact of a {row.about} and no number"
                )

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash(self.rows)

    def __reduce__(self) -> tuple[Any, tuple[tuple[Row, ...]]]:
        """Its rows alone: a hash is another in each process; and equal lists that come in are one, by which others are kept."""
        return _listed, (self.rows,)

    @cached_property
    def _by_kind(self) -> Mapping[tuple[str, str], tuple[Row, ...]]:
        kinds = dict.fromkeys((row.about, row.kind) for row in self.rows)
        return {one: tuple(row for row in self.rows if (row.about, row.kind) == one) for one in kinds}

    def rows_of(self, about: str, kind: str) -> tuple[Row, ...]:
        """The rows of one kind about one set of facts."""
        return self._by_kind.get((about, kind), ())

    def total(self, about: str, kind: str, facts: Facts) -> Any:
        """The sum of what the rows say; 0.0 where there is none."""
        found: Any = 0.0
        for row in self.rows_of(about, kind):
            said = row.made(facts)
            if not _nothing(said):
                found = found + said
        return found

    def most(self, about: str, kind: str, facts: Facts) -> Any:
        """The largest of what the rows say; 0.0 where there is none."""
        found: Any = 0.0
        for row in self.rows_of(about, kind):
            said = row.made(facts)
            if not _nothing(said):
                found = said if _nothing(found) else np.maximum(found, said)
        return found

    def permitted(self, about: str, facts: Facts) -> NDArray[np.bool_] | bool:
        """What every permit allows, [shape of the set's facts]; True where all is allowed."""
        found: Any = True
        for row in self.rows_of(about, PERMIT):
            allowed = row.made(facts)
            if allowed is not True:
                found = allowed if found is True else found & allowed
        return found  # type: ignore[no-any-return]

    def reads(self, *about: str) -> tuple[str, ...]:
        """The facts that the rows about some sets read."""
        return tuple(dict.fromkeys(name for row in self.rows if row.about in about for name in row.reads))

    def constants(self, player: Player, *about: str) -> tuple[tuple[str, Any], ...]:
        """The player's numbers that the rows about some sets read, by name."""
        return tuple((name, _of(player, hand, name)) for hand, name in self._names(about))

    def _names(self, about: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
        """(hand, number) of all that the rows about some sets read."""
        if about not in self._known_names:
            rows = [row for row in self.rows if row.about in about]
            self._known_names[about] = tuple(dict.fromkeys((row.hand, name) for row in rows for name in row.numbers))
        return self._known_names[about]

    @cached_property
    def _known_names(self) -> dict[tuple[str, ...], tuple[tuple[str, str], ...]]:
        return {}

    def named(self, name: str) -> Row:
        """The row of a name; KeyError if there is none."""
        return {row.name: row for row in self.rows}[name]

    def weighed(self, name: str, weight: float) -> PriceList:
        """The list with one row so many times as dear."""
        return PriceList(tuple(replace(row, weight=weight) if row.name == name else row for row in self.rows))

    def without(self, name: str) -> PriceList:
        """The list without a row."""
        return PriceList(tuple(row for row in self.rows if row.name != name))

    def joined(self, more: Iterable[Row]) -> PriceList:
        """The list with more rows."""
        return PriceList((*self.rows, *more))


@lru_cache(maxsize=8)
def _listed(rows: tuple[Row, ...]) -> PriceList:
    return PriceList(rows)


def _nothing(said: Any) -> bool:
    """Whether a row found nothing to price and said so with a plain 0.0; adding it is spared."""
    return type(said) is float and not said


def _parts(hand: str) -> tuple[Any, ...]:
    return (PickingHand if hand == PICKING else FrettingHand, Judging, Habits)


NUMBERS: Mapping[str, frozenset[str]] = {
    hand: frozenset(spec.name for part in _parts(hand) for spec in fields(part))
    for hand in {one.hand for one in FACT_SETS.values()}
}
"""by hand the names of the player's numbers and habits that its rows may read"""


def _of(player: Player, hand: str, name: str) -> Any:
    own = player.picking if hand == PICKING else player.fretting
    for part in (own, player.judging, player.habits):
        if hasattr(part, name):
            return getattr(part, name)
    raise KeyError(name)


def as_numbers(constants: Iterable[tuple[str, Any]]) -> dict[str, Any]:
    """Numbers and habits of the player as rows read them: those of several fingers as arrays."""
    return {name: np.array(value) if isinstance(value, tuple) else value for name, value in constants}


@lru_cache(maxsize=16)
def numbers_of(player: Player, hand: str) -> Mapping[str, Any]:
    """All numbers and habits of a player that rows of a hand may read."""
    return as_numbers((name, _of(player, hand, name)) for name in NUMBERS[hand])
