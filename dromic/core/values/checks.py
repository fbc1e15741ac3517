"""Small named checks for the fields of values; the message names the field, the value and the range."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import Field, field, fields
from typing import Any

from dromic.core.values.errors import DromicError


def check_range(name: str, value: object, low: float, high: float, unit: str = "") -> None:
    """Refuse anything but a real number in [low, high]."""
    if isinstance(value, bool) or (not isinstance(value, (int, float)) and not hasattr(value, "numerator")):
        raise DromicError(f"{name} must be a number, not {value!r:.40}")
    try:
        number = float(value)  # type: ignore[arg-type]
    except OverflowError as error:
        raise DromicError(f"{name} is a number beyond all bounds; it must lie between {low:g} and {high:g}") from error
    if not low <= number <= high:
        of = f" {unit}" if unit else ""
        raise DromicError(f"{name} is {number:g}; it must lie between {low:g} and {high:g}{of}")


def check_whole(name: str, value: object, low: int, high: int, unit: str = "") -> None:
    """Refuse anything but a whole number in [low, high]."""
    if isinstance(value, bool) or not isinstance(value, int):
        raise DromicError(f"{name} must be a whole number, not {value!r:.40}")
    check_range(name, value, low, high, unit)


def check_choice(name: str, value: object, choices: Collection[object]) -> None:
    """Refuse anything outside a set of words."""
    try:
        known = value in choices
    except TypeError:  # a list, say
        known = False
    if not known:
        listed = ", ".join(str(c) for c in choices)
        raise DromicError(f"{name} is {value!r:.40}; it must be one of: {listed}")


def check_text(name: str, value: object, most: int) -> None:
    """Refuse anything but a text of 1 to so many letters, all of which can be written down."""
    if not isinstance(value, str):
        raise DromicError(f"{name} must be a text, not {value!r:.40}")
    if not 1 <= len(value) <= most or not value.isprintable():
        raise DromicError(f"{name} must be a line of 1 to {most} letters")


def ranged(unit: str, low: float, high: float, what: str) -> Any:
    """A dataclass field for a number with its unit, its allowed range and what it means, kept in one place."""
    return field(metadata={"unit": unit, "low": low, "high": high, "what": what})


def check_ranged_fields(value: Any) -> None:
    """Check every field of a dataclass that was declared with `ranged` (tuples item by item)."""
    for spec in ranged_fields(value):
        held = getattr(value, spec.name)
        if isinstance(held, tuple) != str(spec.type).startswith("tuple"):
            wanted = "one number, not several" if isinstance(held, tuple) else "several numbers, not one"
            raise DromicError(f"{spec.name} must be {wanted}")
        for item in held if isinstance(held, tuple) else (held,):
            low, high = spec.metadata["low"], spec.metadata["high"]
            if spec.type == "int":
                check_whole(spec.name, item, low, high, spec.metadata["unit"])
            else:
                check_range(spec.name, item, low, high, spec.metadata["unit"])


def ranged_fields(value: Any) -> list[Field[Any]]:
    """The fields of a dataclass (or of an instance) that carry a unit and a range."""
    return [f for f in fields(value) if "unit" in f.metadata]
