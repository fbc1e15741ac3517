"""A decision as it stands in Dromic's own document: the choices that make the plan, the reason, what was rejected."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from dromic.core.choices import Choices
from dromic.core.decision import Decision, Rejected
from dromic.core.lock import Lock

_PLAIN = {f.name: f.default for f in fields(Choices) if f.name not in ("locks", "overrides")}


def decision_entry(decision: Decision) -> dict[str, Any]:
    """A decision as plain JSON values; choices that are as by default are left out."""
    choices = decision.choices
    chosen: dict[str, Any] = {n: v for n, default in _PLAIN.items() if (v := getattr(choices, n)) != default}
    if choices.locks:
        chosen["pins"] = [{"event": k.event, "note": k.note, "field": k.field, "value": k.value} for k in choices.locks]
    if choices.overrides:
        chosen["set"] = [{"event": event, "stroke": stroke} for event, stroke in choices.overrides]
    return {
        "label": decision.label,
        "day": decision.day,
        "why": decision.why,
        "ceiling": decision.ceiling,
        "choices": chosen,
        "rejected": [{"label": r.label, "ceiling": r.ceiling, "why": r.why} for r in decision.rejected],
    }


def read_decision(entry: dict[str, Any]) -> Decision:
    """The decision of an entry; KeyError or TypeError for what does not belong there."""
    _only(entry, "label", "day", "why", "ceiling", "choices", "rejected")
    chosen = dict(entry["choices"])
    _only(chosen, *_PLAIN, "pins", "set")
    pins = tuple(Lock(**pin) for pin in chosen.pop("pins", ()))
    overrides = tuple((int(one["event"]), str(one["stroke"])) for one in chosen.pop("set", ()))
    for name, value in chosen.items():
        kind = type(_PLAIN[name])
        if not isinstance(value, (kind, int) if kind is float else kind):
            raise TypeError(f"{name} is {value!r}")
    rejected = tuple(Rejected(_text(r, "label"), _tempo(r["ceiling"]), _text(r, "why")) for r in entry["rejected"])
    choices = Choices(**chosen, locks=pins, overrides=overrides)
    label, why, day = (_text(entry, name) for name in ("label", "why", "day"))
    return Decision(label, choices, _tempo(entry["ceiling"]), why, day, rejected)


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
