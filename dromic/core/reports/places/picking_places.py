"""Lists of what the picking hand does."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby, pairwise

from dromic.core.plan.kind_words import PICK_KINDS
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.reports.occurrences import palm_moves, string_changes, strokes
from dromic.core.reports.places.place import Place, PlaceList, counted, place_at
from dromic.core.values.vocabulary import PLUCK, SIGN, UNSTRUCK

_SWEEP = 3
"""strings that notes must cross one by one, one way, to be a sweep"""


def _changes(plan: Plan) -> Iterator[Place]:
    moves = {m.to: m for m in plan.onward}
    for before, now in string_changes(plan):
        move = moves[now.event]
        over = f"; {move.hops} passed over{', buried' if move.buried else ''}" if move.hops else ""
        yield place_at(
            plan, now.event, f"string {before.string} to {now.string}: {PICK_KINDS[move.pick_kind].listed}{over}"
        )


def _skips(plan: Plan) -> Iterator[Place]:
    for before, now in string_changes(plan):
        apart = abs(before.string - now.string) - 1
        if apart > 0:
            strings = "one string" if apart == 1 else f"{apart} strings"
            yield place_at(plan, now.event, f"string {before.string} to {now.string}: {strings} skipped")


def _runs(leads: Sequence[PlanNote]) -> list[tuple[int, int]]:
    """(first, last) of every longest run of notes that go one string further each, one way."""
    found, begin = [], 0
    for n in range(1, len(leads) + 1):
        step = leads[n].string - leads[n - 1].string if n < len(leads) else 0
        before = leads[begin + 1].string - leads[begin].string if n - begin > 1 else step
        if abs(step) == 1 and step == before:
            continue
        if n - begin >= _SWEEP:
            found.append((begin, n - 1))
        begin = n - 1 if abs(step) == 1 else n
    return found


def _sweeps(plan: Plan) -> Iterator[Place]:
    leads = plan.leads
    runs = _runs(leads)
    for number, (first, last) in enumerate(runs):
        strokes = " ".join({"down": "D", "up": "U"}.get(n.stroke, "·") for n in leads[first : last + 1])
        way = "down" if leads[last].string < leads[first].string else "up"
        after = runs[number + 1][0] if number + 1 < len(runs) else None
        turns = after is not None and all(n.string == leads[last].string for n in leads[last : after + 1])
        turn = f"; turns on string {leads[last].string}" if turns else ""
        ends = f"{leads[first].string} to {leads[last].string}"
        yield place_at(plan, leads[first].event, f"{last - first + 1} notes {way} the strings, {ends}: {strokes}{turn}")


def _palm(plan: Plan) -> Iterator[Place]:
    for before, now in palm_moves(plan):
        moved = "comes down" if "palm-mute" in now.marks else "lifts"
        yield place_at(plan, now.event, f"the palm {moved}, {1000 * (now.start_s - before.start_s):.0f} ms for it")


def _touch(plan: Plan) -> Iterator[Place]:
    """Rest or free for every stroke of the pick."""
    leads = plan.leads
    for note in strokes(plan):
        way = "down" if SIGN[note.stroke] > 0 else "up"
        edge = 1 if way == "down" else plan.request.instrument.strings
        slurred = note.event + 1 < len(leads) and leads[note.event + 1].attack in UNSTRUCK
        why = (
            f"rest stroke, lands on string {note.rest_on}" if note.rest_on is not None
            else f"free: beyond string {edge} there is nothing to land on" if note.string == edge
            else "free: a slur follows" if slurred else "free"
        )  # fmt: skip
        yield place_at(plan, note.event, f"{way} on string {note.string}: {why}")


def _waits(plan: Plan) -> Iterator[Place]:
    """Where the pick stays while the fretting hand plays on, and turning strings struck twice."""
    for string, run in groupby(plan.leads, lambda n: n.waits_at):
        notes = list(run)
        if string is not None:
            ms = 1000 * (notes[-1].end_s - notes[0].start_s)
            yield place_at(
                plan,
                notes[0].event,
                f"the pick waits at string {string} for {counted(len(notes), 'note')}, {ms:.0f} ms",
            )


def _leans(plan: Plan) -> Iterator[Place]:
    tilts = {lean.name: lean.tilt_deg for lean in plan.request.player.leans}
    for before, now in pairwise(strokes(plan)):
        if before.lean != now.lean:
            clear = "down" if tilts[now.lean] > 0 else "up"
            ms = 1000 * (now.start_s - before.start_s)
            yield place_at(
                plan,
                now.event,
                f"the lean changes: from here {clear}-strokes end clear of the strings, {ms:.0f} ms for it",
            )


def _plucks(plan: Plan) -> Iterator[Place]:
    """Strokes among taps and slurs: how many notes each carries, and which string is struck again."""
    leads, last = plan.leads, None
    for note in leads:
        if note.attack in UNSTRUCK:
            continue
        after = 0
        while note.event + after + 1 < len(leads) and leads[note.event + after + 1].attack in UNSTRUCK:
            after += 1
        if after:
            again = f"; string {note.string} again, as the one before" if last == note.string else ""
            one = note.stroke if note.attack != PLUCK else f"plucked {note.stroke}"
            yield place_at(
                plan,
                note.event,
                f"{one} on string {note.string}, then {counted(after, 'note')} without a stroke{again}",
            )
        last = note.string


def _same_plucker(plan: Plan) -> Iterator[Place]:
    for before, now in string_changes(plan):
        if before.attack == now.attack == PLUCK and before.stroke == now.stroke:
            ms = 1000 * (now.start_s - before.start_s)
            yield place_at(
                plan, now.event, f"{now.stroke} on string {before.string}, then on string {now.string}, {ms:.0f} ms"
            )


def _first_attacks(plan: Plan) -> Iterator[Place]:
    leads = plan.leads
    for before, now in pairwise((None, *leads)):
        follows = now is not None and now.event + 1 < len(leads) and leads[now.event + 1].attack in UNSTRUCK
        if (
            now is not None
            and now.attack not in UNSTRUCK
            and follows
            and (before is None or before.string != now.string)
        ):
            yield place_at(plan, now.event, f"string {now.string} begins with {now.stroke}, the rest of it is slurred")


PICKING: tuple[PlaceList, ...] = (
    PlaceList("changes", "Every string change", "from one struck note to the next, with its kind", _changes),
    PlaceList("skips", "Strings skipped", "changes that leave out strings", _skips),
    PlaceList("sweeps", "Sweeps in the notes", "notes that go a string further each, one way, whatever the school does", _sweeps),
    PlaceList("touch", "Rest or free", "for every stroke, the string it lands on, and why not", _touch),
    PlaceList("waits", "Where the pick waits", "and how long, while the fretting hand sounds notes", _waits),
    PlaceList("leans", "Changes of lean", "and what ends clear from there on", _leans),
    PlaceList("palm", "Palm on and off", "and the time there is for it", _palm),
    PlaceList("plucks", "Strokes among slurs and taps", "how many notes each carries, and strings struck twice in a row", _plucks),
    PlaceList("one-finger", "One plucking finger on two strings", "in a row, and the time there is for it", _same_plucker),
    PlaceList("first-attacks", "First attacks", "the stroke that each slurred stay on a string begins with", _first_attacks),
)  # fmt: skip
