"""What a player chose for a phrase, and the plans that were kept, between their values and the shape of the file."""

from __future__ import annotations

from dataclasses import fields

from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.decision import Decision, Rejected
from dromic.core.setup.pin import Pin
from dromic.core.setup.school import LEGATO
from dromic.core.values.checks import check_choice, check_range, check_whole
from dromic.core.values.metre import UNITS
from dromic.core.values.vocabulary import DOWN, GRACE_TIMES, GRACE_WAYS, UP
from dromic.formats.document.shape import ChoicesShape, DecisionShape, PinShape, RejectedShape, SetShape

_PLAIN = tuple(f.name for f in fields(Choices) if f.name not in ("pins", "overrides"))
_USUAL = Choices()
MOST_EVENT = 1_000_000
"""a number of an event over any a phrase can have"""


def choices_shape(choices: Choices) -> ChoicesShape:
    """Choices as they stand in a file."""
    return ChoicesShape(
        **{name: value for name in _PLAIN if (value := getattr(choices, name)) != getattr(_USUAL, name)},
        pins=[PinShape(event=k.event, note=k.note, field=k.field, value=k.value) for k in choices.pins],
        set=[SetShape(event=event, stroke=stroke) for event, stroke in choices.overrides],
    )


def choices_of(shape: ChoicesShape) -> Choices:
    """The choices of a file; DromicError for what cannot be chosen. Names of presets are not looked up: a player or a
    school may be one of another machine's or a later Dromic's."""
    check_range("tempo", shape.tempo, 10, 1000, "quarter notes a minute")
    check_choice("legato", shape.legato, LEGATO)
    check_choice("unit", shape.unit, (OWN, *UNITS))
    check_choice("graces", shape.graces, (OWN, *GRACE_WAYS))
    check_choice("time of graces", shape.grace_time, (OWN, *GRACE_TIMES))
    check_choice("start", shape.start, (OWN, DOWN, UP, "either"))
    return Choices(
        **{name: getattr(shape, name) for name in _PLAIN},
        pins=tuple(_pin(pin) for pin in shape.pins),
        overrides=tuple(_override(one) for one in shape.set),
    )


def _pin(shape: PinShape) -> Pin:
    check_whole("event of a pin", shape.event, 0, MOST_EVENT)
    check_whole("note of a pin", shape.note, 0, 8)
    return Pin(shape.event, shape.note, shape.field, shape.value)


def _override(shape: SetShape) -> tuple[int, str]:
    check_whole("event of a stroke set", shape.event, 0, MOST_EVENT)
    check_choice("stroke set", shape.stroke, (DOWN, UP))
    return shape.event, shape.stroke


def decision_shape(decision: Decision) -> DecisionShape:
    """A decision as it stands in a file."""
    return DecisionShape(
        label=decision.label,
        day=decision.day,
        why=decision.why,
        ceiling=decision.ceiling,
        choices=choices_shape(decision.choices),
        rejected=[RejectedShape(label=r.label, ceiling=r.ceiling, why=r.why) for r in decision.rejected],
    )


def decision_of(shape: DecisionShape) -> Decision:
    """The decision of a file; DromicError for what cannot be chosen."""
    rejected = tuple(Rejected(r.label, r.ceiling, r.why) for r in shape.rejected)
    return Decision(shape.label, choices_of(shape.choices), shape.ceiling, shape.why, shape.day, rejected)
