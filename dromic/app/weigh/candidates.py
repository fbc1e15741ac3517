"""What is weighed against what: from the schools, leans, alternatives and own way chosen to requests, and their answers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.questions.own_way import is_stated, own_request
from dromic.core.reports.comparison import compared, differing
from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.decision import Decision, Rejected
from dromic.core.setup.pin import Pin
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from dromic.plan_requests import request_for

SCHOOL, LEAN, ALTERNATIVE, OWN_WAY, KEPT = "school", "lean", "alternative", "own way", "kept"


@dataclass(frozen=True, slots=True)
class WeighScope:
    """Which plans to weigh: every chosen school with every chosen lean (OWN for the one chosen on Plan), so many
    alternatives of the plan on Plan, and the player's own way."""

    schools: tuple[str, ...]
    leans: tuple[str, ...] = (OWN,)
    alternatives: int = 0
    own: bool = True


@dataclass(frozen=True, eq=False)
class Candidate:
    """One plan that is weighed, or why there is none; `choices` are what makes it on Plan, `why` is why it was kept."""

    label: str
    kind: str
    choices: Choices
    plan: Plan | None = None
    refused: str = ""
    why: str = ""


def entries_of(
    phrase: Phrase, choices: Choices, players: Mapping[str, Player], wanted: WeighScope, kept: Sequence[Decision] = ()
) -> list[tuple[Candidate, Request]]:
    """The entries to plan, each with its request; alternatives come later, from the plan itself."""
    found: list[tuple[Candidate, Request]] = []

    def add(label: str, kind: str, chosen: Choices, request: Request) -> None:
        found.append((Candidate(label, kind, chosen), request))

    for school in wanted.schools:
        for lean in wanted.leans:
            start = choices.start if school == choices.school else OWN
            # what is pinned or written is the player's own way, and weighed as that
            chosen = replace(
                choices, school=school, lean=lean or choices.lean, start=start, strokes=False, fingers=False, pins=(),
                overrides=(),
            )  # fmt: skip
            label = presets.schools()[school].label
            if lean:
                label += f", {presets.lean_labels()[lean].lower()}"
            add(label, LEAN if lean else SCHOOL, chosen, request_for(phrase, chosen, players))
    request = request_for(phrase, choices, players)
    if wanted.own and is_stated(request):
        mine = own_request(request)
        add("My way", OWN_WAY, replace(choices, pins=mine.pins, overrides=mine.overrides), mine)
    for decision in kept:
        label = f"Kept: {decision.label}" + (", current" if decision is kept[-1] and len(kept) > 1 else "")
        why = f"{decision.day}: {decision.why or 'no reason given'}"
        # at the tempo that stands on Plan: all are weighed at the same
        chosen = replace(decision.choices, tempo=choices.tempo)
        found.append((Candidate(label, KEPT, chosen, why=why), request_for(phrase, chosen, players)))
    return found


def alternative_entries(choices: Choices, best: Plan, plans: Sequence[Plan]) -> list[Candidate]:
    """The alternatives of a plan; each is made on Plan by pinning what it plays otherwise."""
    found = []
    for number, plan in enumerate(plans, start=1):
        pins: list[Pin] = []
        for event in differing(plan, best):
            lead = plan.events[event][0]
            place = plan.place_in_chord(lead)
            pins += [Pin(event, place, "string", lead.string), Pin(event, place, "finger", lead.finger)]
            if lead.stroke != "none":
                pins.append(Pin(event, 0, "stroke", lead.stroke))
        label = f"{best.request.school.label}, another way {number}"
        found.append(Candidate(label, ALTERNATIVE, choices.pinned(*pins), plan))
    return found


def decision_for(entries: Sequence[Candidate], at: int, why: str, day: str) -> Decision:
    """The decision for one of the entries against all the others; DromicError where it has no plan."""
    chosen = entries[at]
    if chosen.plan is None:
        raise DromicError(f"{chosen.label} has no plan here; choose another to keep")
    rejected = []
    for n, entry in enumerate(entries):
        if n != at:
            words = compared(chosen.plan, entry.plan) if entry.plan is not None else entry.refused
            rejected.append(Rejected(entry.label, entry.plan.ceiling if entry.plan else None, words))
    label = chosen.label.removeprefix("Kept: ").removesuffix(", current")
    return Decision(label, chosen.choices, chosen.plan.ceiling, why, day, tuple(rejected))
