"""What a player chose for a phrase, as one frozen value: names of presets, settings, pins. Requests are made from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from dromic.core.setup.instrument import Instrument
from dromic.core.setup.pin import Pin

OWN = ""
"""the value that leaves a choice to the file, the school or the player"""


@dataclass(frozen=True, slots=True)
class Choices:
    """Pins and strokes set against the school count the events of the whole phrase from 0."""

    school: str = "free"
    unit: str = OWN
    player: str = "fluent"
    lean: str = OWN
    tempo: float = 120.0
    instrument: str = OWN
    positions: bool = True
    """whether the strings and frets a phrase states are kept, and so for the strokes and the fingers"""
    strokes: bool = True
    fingers: bool = True
    start: str = OWN
    legato: str = "never"
    graces: str = OWN
    """how unmarked grace notes are sounded, and whose time they take; else as the player does"""
    grace_time: str = OWN
    pattern: str = ""
    repeat: bool = False
    pins: tuple[Pin, ...] = ()
    """what is pinned, the latest last"""
    overrides: tuple[tuple[int, str], ...] = ()
    """(event, stroke) set against the school, which goes on from them"""

    def pinned(self, *pins: Pin) -> Choices:
        """With more pinned; what was pinned of the same thing before gives way."""
        places = {(pin.event, pin.note, pin.field) for pin in pins}
        kept = tuple(pin for pin in self.pins if (pin.event, pin.note, pin.field) not in places)
        return replace(self, pins=(*kept, *pins))

    def toggled(self, *pins: Pin) -> Choices:
        """With these pinned, or no more if they all were."""
        if set(pins) <= set(self.pins):
            return replace(self, pins=tuple(pin for pin in self.pins if pin not in pins))
        return self.pinned(*pins)

    def overridden(self, event: int, stroke: str) -> Choices:
        """With a stroke set against the school; a pinned stroke of that event gives way."""
        pins = tuple(pin for pin in self.pins if (pin.event, pin.field) != (event, "stroke"))
        overrides = (*(o for o in self.overrides if o[0] != event), (event, stroke))
        return replace(self, pins=pins, overrides=overrides)

    def fitting(self, instrument: Instrument) -> tuple[Choices, tuple[Pin, ...]]:
        """What can be chosen on an instrument, and the pins that have to go: strings and frets that it has not."""
        most = {"string": instrument.strings, "fret": instrument.highest_fret, "position": instrument.frets}
        gone = tuple(k for k in self.pins if k.field in most and int(k.value) > most[k.field])
        return (replace(self, pins=tuple(k for k in self.pins if k not in gone)), gone) if gone else (self, ())

    def freed(self, event: int | None) -> Choices:
        """Without the pins and set strokes of an event, or without any."""
        pins = tuple(pin for pin in self.pins if event is not None and pin.event != event)
        return replace(self, pins=pins, overrides=tuple(o for o in self.overrides if event not in (None, o[0])))

    def without(self, pin: Pin | tuple[int, str]) -> Choices:
        """Without one pin, or one stroke set against the school."""
        overrides = tuple(o for o in self.overrides if o != pin)
        return replace(self, pins=tuple(k for k in self.pins if k != pin), overrides=overrides)

    def within(self, first: int, count: int) -> Choices:
        """For a passage of so many events: its pins, counted from its first event."""
        return self.renumbered({first + n: n for n in range(count)})

    def renumbered(self, places: Mapping[int, int]) -> Choices:
        """With every pin at its event's new place; those of events that have none are gone."""
        pins = tuple(k.moved(places[k.event] - k.event) for k in self.pins if k.event in places)
        overrides = tuple((places[e], stroke) for e, stroke in self.overrides if e in places)
        return replace(self, pins=pins, overrides=overrides)
