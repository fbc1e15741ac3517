"""Rules about both hands together."""

from __future__ import annotations

from collections.abc import Iterator

from dromic.core.findings.evidence import BOTH, Evidence, Rule, Seen, fret_ms, fret_need, pick_ms, pick_need
from dromic.core.plan.finding import DOUBTFUL, FASTER_PLACES, GRACE_LIMITS
from dromic.core.plan.kind_words import FRET_KINDS, PICK_KINDS
from dromic.core.plan.plan import Move, Plan
from dromic.core.values.vocabulary import PLAIN


def _knot(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        # told where each hand alone would fit, and the two together do not
        if move.knot and move.load > 1 >= max(move.pick_load or 0.0, move.fret_load):
            yield Seen(
                (move.start, move.to), move.load,
                f"both hands have work here at once: {PICK_KINDS[move.pick_kind].sentence}, and {FRET_KINDS[move.fret_kind]}",
                detail=f"{move.gap_ms:.0f} ms for both; load of both together about {move.load:.2f}",
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
                yield Seen(
                    (max(move.pick_from, 0), move.to),
                    move.pick_load,
                    f"too fast for the picking hand, where {PICK_KINDS[move.pick_kind].sentence}",
                    need=pick_need(move),
                    detail=pick_ms(move),
                )
        elif move.pick_load is not None and move.pick_load > 1 and move.pick_kind == "pluck":
            yield Seen((move.start, move.to), move.pick_load, "the plucking finger has no time to come back")
        if move.fret_load > 1 and move.fret_kind not in ("shift", "jump"):
            yield Seen(
                (move.start, move.to),
                move.fret_load,
                f"too fast for the fretting hand, where {FRET_KINDS[move.fret_kind]}",
                need=fret_need(move),
                detail=fret_ms(move),
            )


def _seam(seen: Evidence) -> Iterator[Seen]:
    """A jump back that is harder than everything else in its part."""
    rest = max((m.load for m in seen.plan.onward), default=0.0)
    for move in seen.plan.seams:
        if move.load > rest and seen.worth(move.load):
            yield Seen(
                (move.start, move.to), move.load,
                f"coming round again is the hardest move, from the last note back to note {seen.leads[move.to].index + 1}",
                detail=f"{move.gap_ms:.0f} ms; load about {move.load:.2f} against {rest:.2f} elsewhere",
            )  # fmt: skip


def _unmuted(seen: Evidence) -> Iterator[Seen]:
    """Open strings left sounding that nothing damps: one finding a string. Where bare fingers pluck, ringing is the point."""
    if seen.plan.request.school.plucks in ("fingers", "hybrid"):
        return
    events: dict[int, list[int]] = {}
    for event, strings in enumerate(seen.muting.ringing):
        for string in strings:
            events.setdefault(string, []).append(event)
    for string, where in sorted(events.items()):
        first = seen.leads[where[0]]
        yield Seen(
            (where[0],), 0.0,
            f"String {string} was left sounding and nobody damps it, first at note {first.index + 1} in bar {first.bar_number}, "
            f"{len(where)} {'note' if len(where) == 1 else 'notes'} in all",
            cost=0.02 * len(where),
        )  # fmt: skip


def _plain(seen: Evidence) -> Iterator[Seen]:
    """Notes whose mark no plan knows: one finding a mark."""
    for mark in PLAIN:
        marked = [n for n in seen.plan.notes if mark in n.marks]
        if marked:
            first = marked[0]
            count = "1 note is" if len(marked) == 1 else f"{len(marked)} notes are"
            yield Seen(
                (first.event,), 0.0,
                f"{count} marked {mark}, first note {first.index + 1} in bar {first.bar_number}: kept, shown and timed, but planned "
                "as plain",
                cost=0.001,
            )  # fmt: skip


_AS_HARD = 0.995
"""share of the largest load from which on a move sets the ceiling too"""


def limiting(plan: Plan) -> list[Move]:
    """The moves that set a plan's ceiling, the first of them first."""
    most = max((m.load for m in plan.moves), default=0.0)
    return [m for m in plan.moves if m.load > most * _AS_HARD] if most else []


def _grace_limits(seen: Evidence) -> Iterator[Seen]:
    """The move that sets the ceiling, where it goes to or from a grace note; where others are as hard without, no grace sets it."""
    hardest, events = limiting(seen.plan), seen.plan.request.phrase.events
    if hardest and all(events[m.start].grace or events[m.to].grace for m in hardest):
        first = hardest[0]
        note = seen.leads[first.to if events[first.to].grace else first.start]
        yield Seen(
            (first.start, first.to), first.load,
            f"a grace note sets the ceiling of the whole, note {note.index + 1} in bar {note.bar_number}",
            detail=f"there is no more than {first.gap_ms:.0f} ms for it",
        )  # fmt: skip


RULES: tuple[Rule, ...] = (
    Rule(GRACE_LIMITS, "A grace sets the limit", BOTH, "A grace note, and nothing else, sets the ceiling of the whole.", _grace_limits,
         own=True, advice="play it as late as you can, or leave it out"),
    Rule("knot", "Knot", BOTH, "Both hands make a non-trivial move in one gap.", _knot),
    Rule("does-not-fit", "Too fast", BOTH, "A move needs more time than the music gives.", _no_fit),
    Rule("seam", "Hard seam", BOTH, "Coming round to the start of a repeat is harder than the rest.", _seam, own=True),
    Rule("unmuted", "Nobody damps it", BOTH, "An idle string was left sounding and nothing damps it.", _unmuted, own=True,
         advice="damp it with the palm, or with the finger that plays beside it", changes=False),
    # what it would do takes another plan, and is found with the remedies
    Rule(FASTER_PLACES, "Faster elsewhere", BOTH, "Too fast as it is, and lying elsewhere on the neck would be faster.",
         lambda seen: iter(()), own=True),
    Rule(DOUBTFUL, "Doubtful", BOTH, "What the other reading of a doubtful note would do.", lambda seen: iter(()), own=True),
    Rule("planned-plain", "Planned as plain", BOTH, "A technique that a plan takes no notice of.", _plain, own=True,
         advice="reckon with more time there than is told"),
)  # fmt: skip
