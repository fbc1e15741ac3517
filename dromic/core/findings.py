"""Findings: the places of a plan where it hurts, one small rule each, with evidence and a sentence.

A rule looks at a finished plan and yields what it saw; what to call severe is decided once, here, from the load.
Add a rule by adding an entry to RULES.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from dromic.core.phrase import UNSTRUCK
from dromic.core.plan import Finding, Move, Plan, PlanNote

PICKING, FRETTING, BOTH = "picking", "fretting", "both"


@dataclass(frozen=True, slots=True)
class Evidence:
    """A finished plan, with the leading note of every event at hand."""

    plan: Plan
    leads: dict[int, PlanNote]

    def worth(self, load: float) -> bool:
        """Whether a load is large enough to be told."""
        return load >= self.plan.request.player.judging.report_load


@dataclass(frozen=True, slots=True)
class Seen:
    """What a rule saw: events by number, the load there, and the sentence."""

    events: tuple[int, ...]
    load: float
    text: str


@dataclass(frozen=True, slots=True)
class Rule:
    """`name` is stable and appears in the JSON; `label` on screens; `meaning` in help."""

    name: str
    label: str
    hand: str
    meaning: str
    look: Callable[[Evidence], Iterator[Seen]]


def find(plan: Plan) -> tuple[Finding, ...]:
    """All findings of a plan, dearest first."""
    judging = plan.request.player.judging
    evidence = Evidence(plan, {n.chord: n for n in reversed(plan.notes)})
    found = []
    for rule in RULES:
        for seen in rule.look(evidence):
            severity = "severe" if seen.load >= judging.severe_load else "major" if seen.load > 1 else "minor"
            notes = tuple(evidence.leads[e].index for e in seen.events)
            found.append(Finding(rule.name, notes, severity, seen.load, rule.hand, seen.text))
    return tuple(sorted(found, key=lambda f: (-f.load, f.notes)))


def _ms(move: Move) -> str:
    return f"needs about {move.pick_ms:.0f} ms, has {move.pick_has_ms:.0f} ms"


def _fret_ms(move: Move) -> str:
    return f"needs about {move.fret_ms:.0f} ms, has {move.fret_gap_ms:.0f} ms"


def _beats_not_down(seen: Evidence) -> Iterator[Seen]:
    if seen.plan.request.school.name in ("economy", "free", "sweep"):
        return
    wrong = []
    for event, note in seen.leads.items():
        bar = seen.plan.request.phrase.bars[seen.plan.request.phrase.events[event].bar]
        offset = bar.offset_of(note.onset)
        if note.stroke == "up" and offset == bar.metre.beat_at(offset)[1]:
            wrong.append(event)
    if wrong:
        wrong.sort()
        first = seen.leads[wrong[0]]
        count = "1 beat falls" if len(wrong) == 1 else f"{len(wrong)} beats fall"
        yield Seen(
            tuple(wrong),
            0.0,
            f"{count} on an up-stroke, first in bar {first.bar}: the hand no longer swings with the beat",
        )


def _pick_moves(seen: Evidence, kinds: tuple[str, ...]) -> Iterator[tuple[Move, float]]:
    for move in seen.plan.moves:
        if move.pick_kind in kinds and move.pick_load is not None and seen.worth(move.pick_load):
            yield move, move.pick_load


def _strings(seen: Evidence, move: Move) -> str:
    a, b = seen.leads[move.pick_from].string, seen.leads[move.to].string
    return f"string {a} to {b}"


def _inside(seen: Evidence) -> Iterator[Seen]:
    for move, load in _pick_moves(seen, ("inside", "skip-inside")):
        stroke = seen.leads[move.to].stroke
        yield Seen(
            (move.pick_from, move.to), load,
            f"The inside change from {_strings(seen, move)} {_ms(move)}; its {stroke}-stroke starts in the gap between "
            "the strings",
        )  # fmt: skip


def _buried(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        if move.buried and move.pick_load is not None and seen.worth(move.pick_load):
            before = seen.leads[move.pick_from]
            lift = seen.plan.request.player.picking.lift_out_ms
            over = "a string" if move.hops == 1 else f"{move.hops} strings"
            yield Seen(
                (move.pick_from, move.to), move.pick_load,
                f"Getting from string {before.string} {_ms(move)}: its {before.stroke}-stroke ends buried, lifting out takes about "
                f"{lift:.0f} ms, and the pick passes over {over}",
            )  # fmt: skip


def _skip(seen: Evidence) -> Iterator[Seen]:
    for move, load in _pick_moves(seen, ("skip-outside", "skip-inside", "skip-through")):
        yield Seen(
            (move.pick_from, move.to), load,
            f"The skip from {_strings(seen, move)} {_ms(move)}; the pick passes over {move.hops} "
            f"{'string' if move.hops == 1 else 'strings'}",
        )  # fmt: skip


def _repeat(seen: Evidence) -> Iterator[Seen]:
    for move, load in _pick_moves(seen, ("repeat", "back")):
        stroke = seen.leads[move.to].stroke
        yield Seen(
            (move.pick_from, move.to), load, f"The {stroke}-stroke again {_ms(move)}, the silent return included"
        )


def _count(seen: Evidence) -> Iterator[Seen]:
    """Stays on a string whose count of strokes makes the change after them dear, where strokes are bound to turns."""
    name = seen.plan.request.school.name
    if name not in ("alternate", "economy"):
        return
    stay = 0
    for move in seen.plan.moves:
        if move.pick_kind in ("same-string", "repeat"):
            stay += 1
            continue
        if move.pick_kind in ("legato", "pluck"):
            continue
        count, stay = stay + 1, 0
        dear = move.buried if name == "alternate" else move.pick_kind in ("inside", "skip-inside")
        if not dear or move.pick_load is None or not seen.worth(move.pick_load):
            continue
        before = seen.leads[move.pick_from]
        times = f"{count} {'stroke' if count == 1 else 'strokes'}"
        why = (
            f"so the last is a {before.stroke}-stroke, which ends buried here; one stroke more or fewer would leave clear"
            if name == "alternate"
            else f"so the last is a {before.stroke}-stroke, away from the next string, and it cannot carry through"
        )
        yield Seen((move.pick_from, move.to), move.pick_load, f"{times} on string {before.string}, {why}")


def _stretch(seen: Evidence) -> Iterator[Seen]:
    hand = seen.plan.request.player.fretting
    mm = seen.plan.request.instrument.fret_mm
    for note in seen.plan.notes:
        if note.finger not in ("1", "2", "3", "4"):
            continue
        past = float(mm(note.fret) - mm(note.position)) - hand.offsets_mm[int(note.finger) - 1]
        past = abs(past) if note.finger == "1" else past
        reach = hand.reach_mm[int(note.finger) - 1]
        if past > hand.stretch_from_mm and seen.worth(past / reach):
            yield Seen(
                (note.chord,), past / reach,
                f"Finger {note.finger} reaches about {past:.0f} mm past its relaxed place, fret {note.fret} from "
                f"position {note.position}; this hand's limit is set at {reach:.0f} mm",
            )  # fmt: skip


def _shift(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        if move.fret_kind == "shift" and seen.worth(move.fret_load):
            a, b = seen.leads[move.start].position, seen.leads[move.to].position
            yield Seen(
                (move.start, move.to), move.fret_load,
                f"The shift from position {a} to {b}, {move.shift_mm:.0f} mm, {_fret_ms(move)}; no rest or open string hides it",
            )  # fmt: skip


def _same_finger(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        if move.fret_kind == "jump" and seen.worth(move.fret_load):
            finger = seen.leads[move.to].finger
            yield Seen(
                (move.start, move.to), move.fret_load,
                f"Finger {finger} again on another fret {_fret_ms(move)}",
            )  # fmt: skip


def _knot(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        if move.knot and seen.worth(move.load):
            yield Seen(
                (move.start, move.to), move.load,
                f"Both hands move in {move.gap_ms:.0f} ms: {move.pick_kind} in the picking hand, {move.fret_kind} in the "
                f"fretting hand; together a load of about {move.load:.2f}",
            )  # fmt: skip


def _no_fit(seen: Evidence) -> Iterator[Seen]:
    """Loads over 1 that no rule above names."""
    for move in seen.plan.moves:
        if (
            move.pick_load is not None
            and move.pick_load > 1
            and move.pick_kind in ("same-string", "outside", "carry-through")
        ):
            if not move.buried:
                yield Seen((max(move.pick_from, 0), move.to), move.pick_load, f"The picking hand's move {_ms(move)}")
        elif move.pick_load is not None and move.pick_load > 1 and move.pick_kind == "pluck":
            yield Seen((move.start, move.to), move.pick_load, "The plucking finger has no time to come back")
        if move.fret_load > 1 and move.fret_kind not in ("shift", "jump"):
            yield Seen((move.start, move.to), move.fret_load, f"The fretting hand's {move.fret_kind} {_fret_ms(move)}")


def _hammer_new(seen: Evidence) -> Iterator[Seen]:
    for note in seen.plan.notes:
        if note.attack in UNSTRUCK and note.attack == "hammer-new" and note.finger in ("3", "4"):
            yield Seen(
                (note.chord,), 0.0,
                f"Finger {note.finger} must sound string {note.string} from nowhere; fingers 1 and 2 are stronger",
            )  # fmt: skip


RULES: tuple[Rule, ...] = (
    Rule("beat-not-down", "Beat on an up-stroke", PICKING, "A note on the beat is not played with a down-stroke.", _beats_not_down),
    Rule("inside-change", "Inside change", PICKING, "A string change in the gap between two strings.", _inside),
    Rule("buried-hop", "Buried hop", PICKING, "The pick must lift out from between the strings before it passes over one.", _buried),
    Rule("string-skip", "Skip", PICKING, "The pick passes over a string it does not play.", _skip),
    Rule("same-stroke-repeat", "Same stroke again", PICKING, "The same stroke twice, with a silent return between.", _repeat),
    Rule("count-on-string", "Count on a string", PICKING, "The number of strokes on a string makes the next change dearer.", _count),
    Rule("stretch", "Stretch", FRETTING, "A finger leaves its relaxed place while the hand stays.", _stretch),
    Rule("shift", "Shift", FRETTING, "The hand moves along the neck with little time.", _shift),
    Rule("same-finger-twice", "Same finger twice", FRETTING, "One finger must jump to another fret with little time.", _same_finger),
    Rule("weak-hammer", "Hammer from nowhere", FRETTING, "A weak finger sounds a silent string on its own.", _hammer_new),
    Rule("knot", "Knot", BOTH, "Both hands make a non-trivial move in one gap.", _knot),
    Rule("does-not-fit", "Too fast", BOTH, "A move needs more time than the music gives.", _no_fit),
)  # fmt: skip
