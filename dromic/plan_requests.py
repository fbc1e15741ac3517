"""From what a player chose for a phrase to what is asked of the planner."""

from __future__ import annotations

from collections.abc import Container, Mapping
from dataclasses import replace
from functools import partial

from dromic import presets
from dromic.core.music.phrase import Event, Note, Phrase
from dromic.core.music.stated_positions import PLACE, left_open, resolve_positions
from dromic.core.plan.request import Request
from dromic.core.search.meant_pins import FINGERS, STROKES
from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.pin import Pin
from dromic.core.setup.player import Player


def first_choices(phrase: Phrase, before: Choices) -> Choices:
    """The choices for a phrase for which nothing has been chosen: its own school and tempo, the rest as the player had it
    `before`."""
    school = next((s for s in (phrase.school, before.school) if s in presets.schools()), "free")
    lean = before.lean if before.lean in presets.leans() else OWN
    return replace(
        before, school=school, lean=lean, tempo=phrase.tempo, instrument=OWN, unit=OWN, start=OWN, repeat=False, positions=True,
        strokes=True, fingers=True, pins=(), overrides=(),
    )  # fmt: skip


def not_here(choices: Choices, players: Mapping[str, Player]) -> list[str]:
    """What was chosen by a name that this Dromic does not know, and what is taken instead; a sentence each."""
    known: tuple[tuple[str, str, Container[str], str], ...] = (
        ("player", choices.player, players, "Fluent"),
        ("school", choices.school, presets.schools(), "Free"),
        ("lean", choices.lean, ("", *presets.leans()), "the player's own"),
        ("instrument", choices.instrument, ("", *presets.instruments()), "the phrase's own"),
    )
    return [
        f"the {what} {name!r:.60} of this phrase is not on this machine; {instead} is taken"
        for what, name, names, instead in known
        if name not in names
    ]


def instrument_for(phrase: Phrase, choices: Choices) -> Instrument:
    """The instrument chosen, else the phrase's own, else a guitar."""
    named = presets.instruments().get(choices.instrument) or phrase.instrument
    return named or presets.usual_instrument()


def request_for(phrase: Phrase, choices: Choices, players: Mapping[str, Player]) -> Request:
    """What to plan for a phrase under some choices, `players` being those at hand by name. A school or a player of that
    name that is not at hand is taken as free and fluent."""
    instrument = instrument_for(phrase, choices)
    player = players.get(choices.player) or presets.players()["fluent"]
    if choices.lean in presets.leans():
        player = player.with_leans(presets.leans()[choices.lean])
    known = choices.school if choices.school in presets.schools() else "free"
    placed = resolve_positions(phrase.at_tempo(choices.tempo), instrument)
    return request_by(placed, replace(choices, school=known), instrument, player, keep_of(choices))


def request_by(
    phrase: Phrase, choices: Choices, instrument: Instrument, player: Player, keep: frozenset[str], yields: bool = True
) -> Request:
    """The same by a player on an instrument, for a phrase whose positions are resolved; `keep` is what the search must not change.
    Where what is written `yields`, it gives way to pins, and legato is asked of no pattern, which counts struck notes."""
    school = presets.school_at(choices.school, player, phrase.tempo)
    return Request(
        phrase=yielding(phrase, choices) if yields else phrase,
        instrument=instrument,
        player=player,
        school=school,
        pulse=choices.unit or None,
        keep=keep,
        start=choices.start or None,
        legato="never" if yields and school.pattern else choices.legato,
        graces=choices.graces or player.habits.graces,
        grace_time=choices.grace_time or player.habits.grace_time,
        pattern=choices.pattern,
        repeat=choices.repeat,
        rest_through=player.habits.rest_through,
        pins=choices.pins,
        overrides=choices.overrides,
        skip_through=player.habits.skip_through,
    )


def keep_of(choices: Choices) -> frozenset[str]:
    """What of the things a phrase states the search must not change."""
    kept = {"positions": choices.positions, STROKES: choices.strokes, FINGERS: choices.fingers}
    return frozenset({"attacks", *(name for name, on in kept.items() if on)})


def yielding(phrase: Phrase, choices: Choices) -> Phrase:
    """The phrase with all that it states and a pin says otherwise left open: what is pinned goes before what is written."""
    pins: dict[int, list[Pin]] = {}
    for pin in (*choices.pins, *(Pin(event, 0, "stroke", stroke) for event, stroke in choices.overrides)):
        if pin.event < len(phrase.events):
            pins.setdefault(pin.event, []).append(pin)
    against = {event: _against(phrase.events[event], held) for event, held in pins.items()}
    return left_open(phrase, {event: partial(_all_of, fields) for event, fields in against.items()})


def _all_of(fields: set[str], _note: Note) -> set[str]:
    return fields


def _against(event: Event, pins: list[Pin]) -> set[str]:
    """What an event states and its pins say otherwise; a place that gives way takes its fingers along."""
    fields = {pin.field for pin in pins if not _stands(event, pin)}
    return fields | set(PLACE) if fields & {"string", "fret"} else fields


def _stands(event: Event, pin: Pin) -> bool:
    """Whether an event states what a pin pins, or leaves it open."""
    if pin.field not in (*PLACE, "stroke") or pin.note >= len(event.notes):
        return True
    stated = event.stroke if pin.field == "stroke" else getattr(event.notes[pin.note], pin.field)
    return stated in (None, pin.value)
