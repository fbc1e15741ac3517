"""What a player chose for a phrase, and the plans that were kept, as they stand in Dromic's own document."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.decision import Decision, Rejected
from dromic.core.setup.pin import Pin
from dromic.core.setup.school import LEGATO
from dromic.core.values.checks import check_choice, check_range, check_whole
from dromic.core.values.metre import UNITS
from dromic.core.values.vocabulary import DOWN, UP

_PLAIN = {f.name: f.default for f in fields(Choices) if f.name not in ("pins", "overrides")}
MOST_EVENT = 1_000_000
"""a number of an event over any a phrase can have"""


def choices_entry(choices: Choices) -> dict[str, Any]:
    """Choices as plain JSON values; those that are as by default are left out."""
    chosen: dict[str, Any] = {n: v for n, default in _PLAIN.items() if (v := getattr(choices, n)) != default}
    if choices.pins:
        chosen["pins"] = [{"event": k.event, "note": k.note, "field": k.field, "value": k.value} for k in choices.pins]
    if choices.overrides:
        chosen["set"] = [{"event": event, "stroke": stroke} for event, stroke in choices.overrides]
    return chosen


def read_choices(entry: dict[str, Any]) -> Choices:
    """The choices of an entry; KeyError, TypeError or DromicError for what does not belong there. Names of presets are
    not looked up: a player or a school may be one of another machine's or a later Dromic's."""
    chosen = dict(entry)
    _only(chosen, *_PLAIN, "pins", "set")
    pins = tuple(_pin(pin) for pin in chosen.pop("pins", ()))
    overrides = tuple(_override(one) for one in chosen.pop("set", ()))
    for name, value in chosen.items():
        kind = type(_PLAIN[name])
        if not isinstance(value, (kind, int) if kind is float else kind) or (kind is float and isinstance(value, bool)):
            raise TypeError(f"{name} is {value!r}")
    check_range("tempo", chosen.get("tempo", 120.0), 10, 1000, "quarter notes a minute")
    check_choice("legato", chosen.get("legato", "never"), LEGATO)
    check_choice("unit", chosen.get("unit", OWN), (OWN, *UNITS))
    check_choice("start", chosen.get("start", OWN), (OWN, DOWN, UP, "either"))
    return Choices(**chosen, pins=pins, overrides=overrides)


def _pin(entry: dict[str, Any]) -> Pin:
    pin = Pin(**entry)
    check_whole("event of a pin", pin.event, 0, MOST_EVENT)
    check_whole("note of a pin", pin.note, 0, 8)
    return pin


def _override(entry: dict[str, Any]) -> tuple[int, str]:
    _only(entry, "event", "stroke")
    check_whole("event of a stroke set", entry["event"], 0, MOST_EVENT)
    check_choice("stroke set", entry["stroke"], (DOWN, UP))
    return entry["event"], entry["stroke"]


def decision_entry(decision: Decision) -> dict[str, Any]:
    """A decision as plain JSON values."""
    return {
        "label": decision.label,
        "day": decision.day,
        "why": decision.why,
        "ceiling": decision.ceiling,
        "choices": choices_entry(decision.choices),
        "rejected": [{"label": r.label, "ceiling": r.ceiling, "why": r.why} for r in decision.rejected],
    }


def read_decision(entry: dict[str, Any]) -> Decision:
    """The decision of an entry; KeyError, TypeError or DromicError for what does not belong there."""
    _only(entry, "label", "day", "why", "ceiling", "choices", "rejected")
    rejected = tuple(Rejected(_text(r, "label"), _tempo(r["ceiling"]), _text(r, "why")) for r in entry["rejected"])
    label, why, day = (_text(entry, name) for name in ("label", "why", "day"))
    return Decision(label, read_choices(entry["choices"]), _tempo(entry["ceiling"]), why, day, rejected)


def _tempo(value: Any) -> float | None:
    if value is not None and (isinstance(value, bool) or not isinstance(value, int | float)):
        raise TypeError(f"ceiling is {value!r}")
    return None if value is None else float(value)


def _text(entry: dict[str, Any], name: str) -> str:
    if not isinstance(entry[name], str):
        raise TypeError(f"{name} is {entry[name]!r}")
    return str(entry[name])


def _only(entry: dict[str, Any], *names: str) -> None:
    for name in entry:
        if name not in names:
            raise KeyError(name)
