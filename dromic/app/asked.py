"""From what the player chose to what is asked of the planner."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from dromic import presets
from dromic.core.choices import OWN, Choices
from dromic.core.lock import Lock
from dromic.core.phrase import Phrase
from dromic.core.plan import Request
from dromic.core.player import Player
from dromic.core.settle import placed_freely, settled


def choices_for(phrase: Phrase, before: Choices, players: Mapping[str, Player]) -> Choices:
    """The choices for a newly opened phrase: those kept with it; else its own school and tempo, the player as before."""
    if phrase.decision is not None:
        kept = phrase.decision.choices
        return kept if kept.player in players else replace(kept, player=before.player)
    school = phrase.school if phrase.school in presets.schools() else before.school
    return replace(
        before, school=school, tempo=phrase.tempo, instrument=OWN, unit=OWN, start=OWN, repeat=False, locks=(), overrides=()
    )  # fmt: skip


def request_for(phrase: Phrase, choices: Choices, players: Mapping[str, Player]) -> Request:
    """What to plan for a phrase under some choices, `players` being those at hand by name."""
    named = presets.instruments()[choices.instrument] if choices.instrument else phrase.instrument
    instrument = named or presets.instruments()["guitar"]
    player = players.get(choices.player) or presets.players()["fluent"]
    if choices.lean:
        player = player.with_leans(presets.leans()[choices.lean])
    # a pin of the player's goes before the place a file states
    moved = {lock.event for lock in choices.locks if lock.field in ("string", "fret") and not _stands(phrase, lock)}
    return Request(
        phrase=placed_freely(settled(phrase.at_tempo(choices.tempo), instrument), moved),
        instrument=instrument,
        player=player,
        school=presets.schools()[choices.school],
        pulse=choices.unit or None,
        keep=frozenset({"positions", "attacks"} if choices.positions else {"attacks"}),
        start=choices.start or None,
        legato=choices.legato if presets.schools()[choices.school].places != "pattern" else "never",
        pattern=choices.pattern,
        repeat=choices.repeat,
        rest_through=player.habits.rest_through,
        locks=choices.locks,
        overrides=choices.overrides,
    )


def _stands(phrase: Phrase, lock: Lock) -> bool:
    """Whether a phrase states what a lock pins, or leaves it open."""
    if lock.event >= len(phrase.events):
        return True
    notes = sorted(phrase.events[lock.event].notes, key=lambda n: n.pitch)
    stated = getattr(notes[lock.note], lock.field) if lock.note < len(notes) else None
    return stated in (None, lock.value)
