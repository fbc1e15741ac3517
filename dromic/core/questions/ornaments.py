"""Ornaments in one stroke, in two, or with every note struck, and pairs of strokes on neighbour beats: what each way does to the
ceiling and to the strokes around it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from dromic.core.music.phrase import Event, Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.reports.ceiling_words import about
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import HAMMER, PULL, SIGN, UNSTRUCK

MOST_ORNAMENTS = 3
MOST_PAIRS = 2
"""paired up-strokes that are told"""
_MOST_TRIED = 6
"""of those that may be, so many are planned"""
_FEWEST = 3
"""Notes of a run that may be an ornament, at least."""
_MOST = 9
"""And at most."""
_QUICK = Fraction(1, 4)
"""quarters: notes no longer than this can belong to an ornament"""
_TURN = 5
"""Notes of a turn: its note, a neighbour, the note, the other neighbour, the note."""
_NEIGHBOUR = 2
"""Semitones to a neighbour note at most."""


@dataclass(frozen=True, slots=True)
class Way:
    """One way to strike an ornament: in words, the events of it that are struck, the plan with it, and how many strokes elsewhere are
    then others than now; no plan where none is possible, and why."""

    words: str
    struck: tuple[int, ...]
    plan: Plan | None
    others: int = 0
    refused: str = ""


def ornaments(phrase: Phrase) -> Iterator[range]:
    """Runs of quick notes, single and on one string as far as strings are stated, of which all but the first are slurred, or that are
    marked as turns or graces; and five notes that make a turn, however they are struck."""
    events = phrase.events
    start = 0
    while start < len(events):
        end = start + 1
        while end < len(events) and _goes_on(events, end) and end - start < _MOST:
            end += 1
        if end - start < _FEWEST and _is_turn(events[start : start + _TURN]):
            end = start + _TURN
            yield range(start, end)
            start = end
            continue
        run = range(start, end)
        if len(run) >= _FEWEST and any(
            events[e].attack in UNSTRUCK or events[e].grace or events[e].marked("turn") for e in run[1:]
        ):
            yield run
        start = end


def _is_turn(events: Sequence[Event]) -> bool:
    """Whether quick notes of one length go to one neighbour and back, then to the other and back."""
    if len(events) < _TURN or any(len(event.notes) != 1 for event in events):
        return False
    steps = {b.onset - a.onset for a, b in pairwise(events)}
    strings = {event.notes[0].string for event in events}
    first, one, middle, other, last = (event.notes[0].pitch for event in events)
    round_it = first == middle == last and (one - first) * (other - first) < 0
    near = max(abs(one - first), abs(other - first)) <= _NEIGHBOUR
    return len(steps) == 1 and max(steps) <= _QUICK and len(strings) == 1 and round_it and near


def _goes_on(events: tuple[Event, ...], at: int) -> bool:
    """Whether an event is a quick note right after the one before, on its string, and slurred or an ornament."""
    before, now = events[at - 1], events[at]
    quick = now.onset - before.onset <= _QUICK
    single = len(before.notes) == len(now.notes) == 1
    same = single and before.notes[0].string == now.notes[0].string
    return quick and same and (now.attack in UNSTRUCK or now.grace or now.marked("turn"))


def ways_of(solved: Solved, run: range) -> Iterator[Way]:
    """The ornament in one stroke, in two (the second an up-stroke's pair, on the note in its middle), and every note struck."""
    middle = run[len(run) // 2]
    for words, struck in (
        ("in one stroke", (run[0],)),
        ("in two strokes", (run[0], middle)),
        ("every note struck", tuple(run)),
    ):
        try:
            found = judge(solve(struck_only(solved.request, run, struck), rough=True))
        except DromicError as error:
            yield Way(words, struck, None, refused=str(error))
            continue
        yield Way(words, struck, found, _others(judge(solved), found, run))


def struck_only(request: Request, run: range, struck: tuple[int, ...]) -> Request:
    """The request with only these notes of an ornament struck."""
    attacks: dict[int, str | None] = {}
    for event in run:
        before = request.phrase.events[event - 1].notes[0].pitch if event else 0
        rises = request.phrase.events[event].notes[0].pitch > before
        attacks[event] = None if event in struck else HAMMER if rises else PULL
    overrides = tuple(o for o in request.overrides if o[0] not in run)
    return replace(request, phrase=_attacked(request.phrase, attacks), overrides=overrides)


def _attacked(phrase: Phrase, attacks: Mapping[int, str | None]) -> Phrase:
    events = [
        replace(e, notes=tuple(replace(n, attack=attacks[k], stroke=None) for n in e.notes)) if k in attacks else e
        for k, e in enumerate(phrase.events)
    ]
    return phrase.with_events(events)


def _others(now: Plan, other: Plan, run: range) -> int:
    """Strokes outside an ornament that are others than now."""
    pairs = ((a, b) for a, b in zip(now.leads, other.leads, strict=True) if a.event not in run)
    return sum(a.stroke != b.stroke for a, b in pairs if a.stroke in SIGN or b.stroke in SIGN)


def paired_strokes(solved: Solved, progress: Progress) -> Iterator[Way]:
    """Up-strokes on a beat beside the down-stroke of the beat before it, where that is the one stroke which differs."""
    plan, tried = judge(solved), 0
    for at in _pairs(plan):
        if tried == _MOST_TRIED:
            return
        tried += 1
        if not progress(tried / _MOST_TRIED):
            raise Cancelled
        request = solved.request
        try:
            found = judge(solve(replace(request, overrides=(*request.overrides, (at, "up"))), rough=True))
        except DromicError:
            continue
        if not _others(plan, found, range(at, at + 1)):
            note = plan.leads[at]
            yield Way(f"Note {note.index + 1} in bar {note.bar_number} on the up-stroke", (at - 1, at), found)


def _pairs(plan: Plan) -> Iterator[int]:
    """Events struck down on a beat, right after one that is struck down and fills the beat before."""
    phrase, set_by_hand = plan.request.phrase, dict(plan.request.overrides)
    for at, (before, now) in enumerate(pairwise(plan.leads), start=1):
        bar = phrase.bars[phrase.events[at].bar]
        offset = bar.offset_of(now.onset)
        start, beat = bar.metre.beat_at(offset)[1], bar.metre.beat_at(max(offset - _QUICK, Fraction(0)))[1]
        fills = offset == start and offset > 0 and before.bar_number == now.bar_number
        fills = fills and bar.offset_of(before.onset) == beat
        if fills and before.stroke == now.stroke == "down" and at not in set_by_hand:
            yield at


def told_of_ornaments(solved: Solved, progress: Progress) -> tuple[str, ...]:
    """A sentence for each way of each ornament, those that are now so marked."""
    plan = judge(solved)
    runs = list(ornaments(solved.request.phrase))
    lines = []
    for number, run in enumerate(runs[:MOST_ORNAMENTS]):
        if not progress(number / len(runs[:MOST_ORNAMENTS])):
            raise Cancelled
        first, last = plan.leads[run[0]], plan.leads[run[-1]]
        now = tuple(e for e in run if plan.leads[e].stroke in SIGN)
        for way in ways_of(solved, run):
            where = f"Notes {first.index + 1} to {last.index + 1} in bar {first.bar_number}, {way.words}"
            if way.plan is None:
                lines.append(f"{where}: not possible here, {way.refused}.")
                continue
            strokes = " ".join({"down": "D", "up": "U"}.get(way.plan.leads[e].stroke, "\N{MIDDLE DOT}") for e in run)
            differ = "no other stroke differs" if not way.others else (
                "exactly one other stroke differs" if way.others == 1 else f"{way.others} other strokes differ"
            )  # fmt: skip
            here = ", as it is now" if way.struck == now else ""
            lines.append(f"{where}{here}: {strokes}; ceiling {about(way.plan.ceiling)}, {differ}.")
    if not runs:
        lines.append("No ornament is written here: quick notes on one string, slurred after the first.")
    for way, _ in zip(paired_strokes(solved, progress), range(MOST_PAIRS), strict=False):
        if way.plan is not None:
            lines.append(
                f"{way.words}, a pair with the down before it: exactly one stroke differs; ceiling "
                f"{about(way.plan.ceiling)}."
            )
    more = len(runs) - MOST_ORNAMENTS
    return (*lines, f"{more} more ornaments like these.") if more > 0 else tuple(lines)
