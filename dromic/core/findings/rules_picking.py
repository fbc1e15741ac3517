"""Rules about the picking hand."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from dromic.core.findings.evidence import PICKING, Evidence, Rule, Seen, pick_ms, pick_need
from dromic.core.plan.finding import COUNTED, SET_STROKE
from dromic.core.timing.beat_positions import places
from dromic.core.values.vocabulary import SIGN, UNSTRUCK

_SWEPT = 3
"""Strings one by one that make a sweep."""


def _beats_not_down(seen: Evidence) -> Iterator[Seen]:
    if not seen.plan.request.school.turns:
        return
    phrase = seen.plan.request.phrase
    wrong = []
    natural = _odd_beats(seen) | seen.set_by_hand
    for event, note in enumerate(seen.leads):
        bar = phrase.bars[phrase.events[event].bar]
        offset = bar.offset_of(note.onset)
        on_beat = offset == bar.metre.beat_at(offset)[1]
        if note.stroke == "up" and "grace" not in note.marks and on_beat and event not in natural:
            wrong.append(event)
    if wrong:
        first = seen.leads[wrong[0]]
        count = "1 beat falls" if len(wrong) == 1 else f"{len(wrong)} beats fall"
        yield Seen(
            tuple(wrong), 0.0,
            f"{count} on an up-stroke, first in bar {first.bar_number}: the hand no longer swings with the beat",
            cost=0.1 * len(wrong), whole=True,
        )  # fmt: skip


def _odd_beats(seen: Evidence) -> set[int]:
    """Events on a beat after one that an odd number of equal struck notes fills, as in triplets: there strict alternation
    meets every other beat with an up-stroke by nature."""
    if seen.plan.request.school.swings:
        return set()
    phrase, leads = seen.plan.request.phrase, seen.leads
    found: set[int] = set()
    inside: list[int] = []
    for event, note in enumerate(leads):
        bar = phrase.bars[phrase.events[event].bar]
        offset = bar.offset_of(note.onset)
        if offset == bar.metre.beat_at(offset)[1]:
            lengths = {b.onset - a.onset for a, b in pairwise([*(leads[e] for e in inside), note])}
            if len(inside) % 2 and len(inside) > 1 and len(lengths) == 1:
                found.add(event)
            inside = []
        if note.stroke != "none":
            inside.append(event)
    return found


def _turned_around(seen: Evidence) -> Iterator[Seen]:
    """Runs of strokes all against their places in the beat: one finding each, however long."""
    plan = seen.plan
    school = plan.request.school
    if not school.turns or (school.strokes and not school.swings):
        return
    phrase = plan.request.phrase
    by_place = places(phrase, plan.pulse)
    turned: list[int] = []
    for event in (*range(len(seen.leads)), -1):
        stroke = seen.leads[event].stroke if event >= 0 else "down"
        sign = 0 if event >= 0 and "grace" in seen.leads[event].marks else SIGN.get(stroke, 0)
        against = event >= 0 and sign and sign != (1 if by_place[event] % 2 == 0 else -1)
        if against:
            turned.append(event)
        elif event < 0 or sign:
            if len(turned) > 1:
                yield _turned(seen, turned, to_the_end=event < 0)
            turned = []


def _turned(seen: Evidence, turned: list[int], to_the_end: bool) -> Seen:
    first, last = seen.leads[turned[0]], seen.leads[turned[-1]]
    until = (
        "to the end"
        if to_the_end
        else f"until note {last.index + 1} in bar {last.bar_number}, after which the line is restored"
    )
    return Seen(
        (turned[0], turned[-1]), 0.0,
        f"From note {first.index + 1} in bar {first.bar_number} on every stroke is turned around, {len(turned)} of them, {until}",
        cost=0.05 * len(turned), whole=True,
    )  # fmt: skip


def _inside(seen: Evidence) -> Iterator[Seen]:
    for move, load in seen.moves(("inside", "skip-inside")):
        stroke = seen.leads[move.to].stroke
        yield Seen(
            (move.pick_from, move.to), load,
            f"the pick turns back between the strings, from {seen.strings(move)} on the {stroke}-stroke, where there is least room",
            need=pick_need(move), detail=pick_ms(move),
        )  # fmt: skip


def _buried(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        if move.buried and move.pick_load is not None and seen.worth(move.pick_load):
            before = seen.leads[move.pick_from]
            lift = seen.plan.request.player.picking.lift_out_ms
            other = "the next" if move.hops == 1 else "others"
            yield Seen(
                (move.pick_from, move.to), move.pick_load,
                f"after the {before.stroke}-stroke on string {before.string} the pick is stuck between the strings, and must get "
                f"out over {other} in time",
                need=pick_need(move), detail=f"{pick_ms(move)}, about {lift:.0f} ms of it to get out",
            )  # fmt: skip


def _skip(seen: Evidence) -> Iterator[Seen]:
    for move, load in seen.moves(("skip-outside", "skip-inside", "skip-through")):
        yield Seen(
            (move.pick_from, move.to), load,
            f"the pick skips from {seen.strings(move)}, and must find it beyond what lies between",
            need=pick_need(move), detail=pick_ms(move),
        )  # fmt: skip


def _repeat(seen: Evidence) -> Iterator[Seen]:
    for move, load in seen.moves(("repeat", "back")):
        stroke = seen.leads[move.to].stroke
        yield Seen(
            (move.pick_from, move.to),
            load,
            f"the {stroke}-stroke comes twice running, and the pick must come back between them without a sound",
            need=pick_need(move),
            detail=pick_ms(move),
        )


def _count(seen: Evidence) -> Iterator[Seen]:
    """Stays on a string whose count of strokes makes the change after them dear, where strokes are bound to turns."""
    kinds = seen.plan.request.school.kinds
    if {"carry-through", "outside"} <= kinds:
        return
    turning = "carry-through" not in kinds
    stay = 0
    for move in seen.plan.moves:
        if move.pick_kind in ("same-string", "repeat"):
            stay += 1
            continue
        if move.pick_kind in ("legato", "pluck"):
            continue
        count, stay = stay + 1, 0
        dear = move.buried if turning else move.pick_kind in ("inside", "skip-inside")
        if not dear or move.pick_load is None or not seen.worth(move.pick_load):
            continue
        before = seen.leads[move.pick_from]
        stroke = f"the {before.stroke}-stroke"
        ends = (
            f"{count} strokes on string {before.string} end with {stroke}"
            if count > 1
            else f"the one note on string {before.string} has {stroke}"
        )
        more = "; one stroke more or fewer would leave it free" if count > 1 else ""
        why = (
            f"after which the pick is stuck between the strings{more}"
            if turning
            else "which goes away from the next string, so that it cannot carry on to it"
        )
        yield Seen(
            (move.pick_from, move.to), move.pick_load, f"{ends}, {why}", need=pick_need(move), detail=pick_ms(move),
        )  # fmt: skip


def _dear_change(seen: Evidence) -> Iterator[Seen]:
    for move, load in seen.moves(("outside", "carry-through")):
        if not move.buried and load <= 1:
            yield Seen(
                (move.pick_from, move.to), load,
                f"the change from {seen.strings(move)} takes nearly all the time there is",
                need=pick_need(move), detail=pick_ms(move),
            )  # fmt: skip


def _accent(seen: Evidence) -> Iterator[Seen]:
    request = seen.plan.request
    for event, note in enumerate(seen.leads):
        if "accent" not in note.marks or not request.player.habits.accents_down:
            continue
        if note.stroke == "up":
            yield Seen(
                (event,), 0.0, "This accent falls on the up-stroke; this player's accents want the down", cost=0.1
            )
        elif note.attack in UNSTRUCK and note.attack != "tap":
            yield Seen(
                (event,), 0.0, "This accent falls on a note that is not struck, and will not stand out", cost=0.1
            )


def _sweep_arrival(seen: Evidence) -> Iterator[Seen]:
    """A chain of carry-throughs whose first stroke must be fetched by a repeat, a step back or from inside."""
    if not seen.plan.request.school.rests:
        return
    against = list(_begun_against(seen))
    yield from against
    for move, after in pairwise(seen.plan.moves[2 if against else 0 :]):
        fetched = move.pick_kind in ("repeat", "back", "inside", "skip-inside")
        if fetched and after.pick_kind == "carry-through" and move.pick_load is not None and seen.worth(move.pick_load):
            stroke = seen.leads[move.to].stroke
            yield Seen(
                (move.pick_from, move.to), move.pick_load,
                f"the sweep that follows begins on the {stroke}-stroke, which must be fetched first",
                need=pick_need(move), detail=pick_ms(move),
            )  # fmt: skip


def _begun_against(seen: Evidence) -> Iterator[Seen]:
    """A stroke asked for at the start that goes against the sweep which the first notes would make, a note a string."""
    asked, first = seen.plan.request.start, seen.leads[:_SWEPT]
    if asked not in SIGN or len(first) < _SWEPT or any(n.stroke not in SIGN for n in first):
        return
    strings = [n.string for n in first]
    steps = {b - a for a, b in pairwise(strings)}
    for stroke, towards, step in (("down", "string 1", -1), ("up", "the lowest string", 1)):
        if steps == {step} and asked != stroke:
            yield Seen(
                tuple(range(_SWEPT)), 0.0,
                f"These strings lie one by one towards {towards}, as a {stroke}-stroke sweeps them; the {asked}-stroke asked "
                "for at the start goes against it",
                cost=0.1,
            )  # fmt: skip


def _turnaround(seen: Evidence) -> Iterator[Seen]:
    """The stroke that turns a chain of carry-throughs, when it has no time."""
    if not seen.plan.request.school.rests:
        return
    direction = ""
    for move in seen.plan.moves:
        stroke = seen.leads[move.to].stroke
        if move.pick_kind == "carry-through":
            direction = stroke
        elif move.pick_kind != "legato":
            turns = direction and stroke not in ("none", direction) and move.pick_kind in ("same-string", "inside")
            if turns and move.pick_load is not None and seen.worth(move.pick_load):
                yield Seen(
                    (move.pick_from, move.to), move.pick_load,
                    "the sweep turns around here; a slur at the turn would give the pick time",
                    need=pick_need(move), detail=pick_ms(move),
                )  # fmt: skip
            direction = ""


def _pluck_twice(seen: Evidence) -> Iterator[Seen]:
    hand = seen.plan.request.player.picking
    for move, load in seen.moves(("pluck",)):
        if load > 1 and abs(move.pick_ms - hand.pluck_same_ms) < 1e-6:
            finger = seen.leads[move.to].stroke
            ready = "another finger" if seen.plan.request.school.plucks == "fingers" else "another finger or the pick"
            yield Seen(
                (move.start, move.to), load,
                f"finger {finger} plucks twice running; {ready} would be ready", need=pick_need(move), detail=pick_ms(move),
            )  # fmt: skip


def _palm(seen: Evidence) -> Iterator[Seen]:
    hand = seen.plan.request.player.picking
    for move in seen.plan.onward:
        before, now = seen.leads[move.start], seen.leads[move.to]
        on, was = "palm-mute" in now.marks, "palm-mute" in before.marks
        load = hand.palm_ms / move.gap_ms
        if on != was and seen.worth(load):
            how = "laid on" if on else "lifted"
            yield Seen(
                (move.start, move.to), load,
                f"the palm must be {how} between these notes",
                detail=f"needs about {hand.palm_ms:.0f} ms, has {move.gap_ms:.0f} ms",
            )  # fmt: skip


def _lets_go(seen: Evidence) -> Iterator[Seen]:
    """Where a hand that touches somewhere runs out of reach across the strings and must let go."""
    reach = seen.plan.request.player.anchor_reach_mm
    if reach is not None:
        where = _TOUCHING[seen.plan.request.player.habits.contact]
        yield from _beyond(seen, reach, f"With {where} the pick reaches about {reach:.0f} mm across", "let go")


def _must_travel(seen: Evidence) -> Iterator[Seen]:
    """Where a motion kept as small as possible does not reach, and the hand must go along."""
    player, spacing = seen.plan.request.player, seen.plan.request.instrument.pick_spacing_mm
    if player.habits.motion == "small":
        strings = player.picking.small_strings
        yield from _beyond(seen, strings * spacing, f"Kept small the motion reaches over {strings:g} strings", "travel")


_TOUCHING = {
    "heel": "the heel on the bridge", "palm": "the palm on the strings", "little": "the little finger planted",
    "thumb": "the thumb leaning",
}  # fmt: skip


def _beyond(seen: Evidence, reach: float, limit: str, then: str) -> Iterator[Seen]:
    """Where the strings played since the hand came to lie somewhere are farther apart than it reaches, in mm."""
    spacing = seen.plan.request.instrument.pick_spacing_mm
    low = high = 0
    since = -1
    for event, note in enumerate(seen.leads):
        if note.stroke == "none":
            continue
        strings = [n.string for n in seen.plan.events[event]]
        wide_low, wide_high = min(low, *strings), max(high, *strings)
        if since >= 0 and (wide_high - wide_low) * spacing > reach:
            yield Seen(
                (since, event), 0.0,
                f"{limit}; strings {wide_low} to {wide_high} lie "
                f"{(wide_high - wide_low) * spacing:.0f} mm apart, so the hand must {then} before this note",
                cost=0.1,
            )  # fmt: skip
            since = -1
        if since < 0:
            wide_low, wide_high = min(strings), max(strings)
        low, high, since = wide_low, wide_high, event


def _elsewhere(seen: Evidence) -> Iterator[Seen]:
    """What takes other plans to tell is found with the remedies."""
    return iter(())


RULES: tuple[Rule, ...] = (
    Rule(SET_STROKE, "A stroke of yours", PICKING, "What a stroke set or pinned does to the strokes after it.", _elsewhere, own=True),
    Rule("beat-not-down", "Beat on an up-stroke", PICKING,
         "A note on the beat is not played with a down-stroke.", _beats_not_down, own=True,
         advice="a slur or a doubled stroke before it would bring the beat back on a down-stroke"),
    Rule("turned-around", "Turned around", PICKING,
         "From here on every stroke is the opposite of its place.", _turned_around, own=True,
         advice="a slur or a doubled stroke just before would turn the line back"),
    Rule("string-skip", "Skip", PICKING, "The pick passes over a string it does not play.", _skip),
    Rule("turnaround", "Turnaround", PICKING, "A sweep turns around with too little time.", _turnaround),
    Rule("sweep-arrival", "Wrong way into a sweep", PICKING, "A sweep is reached on the wrong stroke.", _sweep_arrival),
    Rule(COUNTED, "Count on a string", PICKING, "The number of strokes on a string makes the next change dearer.", _count),
    Rule("buried-hop", "Buried hop", PICKING, "The pick must lift out from between the strings before it passes over one.", _buried),
    Rule("inside-change", "Inside change", PICKING, "A string change in the gap between two strings.", _inside),
    Rule("same-stroke-repeat", "Same stroke again", PICKING, "The same stroke twice, with a silent return between.", _repeat),
    Rule("dear-change", "Dear change", PICKING, "A string change that takes nearly all the time there is.", _dear_change),
    Rule("accent-weak", "Weak accent", PICKING, "An accent on the weaker stroke, or on an unstruck note.", _accent, own=True,
         advice="strike it, or practise the accent on this stroke"),
    Rule("pluck-twice", "One finger twice", PICKING, "One plucking finger plucks twice in a row.", _pluck_twice),
    Rule("palm", "Palm on or off", PICKING, "The palm is laid on or lifted in less than the hand needs.", _palm, own=True),
    Rule("lets-go", "Hand must let go", PICKING,
         "A hand that touches somewhere runs out of reach across the strings.", _lets_go, own=True,
         advice="let go at a rest or a long note, or play the passage with a floating hand"),
    Rule("must-travel", "Hand must go along", PICKING,
         "A motion kept as small as possible does not reach all the strings.", _must_travel, own=True,
         advice="let the hand go along here, or keep the passage on fewer strings"),
)  # fmt: skip
