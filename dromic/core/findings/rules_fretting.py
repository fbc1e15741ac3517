"""Rules about the fretting hand."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby, pairwise

from dromic.core.findings.evidence import FRETTING, Evidence, Rule, Seen, fret_ms, fret_need
from dromic.core.hands.hand_geometry import geometry_of
from dromic.core.line.held_notes import notes_held
from dromic.core.plan.plan import Move, PlanNote
from dromic.core.plan.write_back import phrase_with_plan
from dromic.core.timing.playback_order import playback_of
from dromic.core.values.vocabulary import UNSTRUCK

_MOST_NAMED = 4
"""Places that a sentence names, at most."""


def _stretch(seen: Evidence) -> Iterator[Seen]:
    hand = seen.plan.request.player.fretting
    geometry = geometry_of(seen.plan.request.instrument, seen.plan.request.player)
    for note in seen.plan.notes:
        if note.finger not in ("1", "2", "3", "4") or (note.finger == "1" and note.fret > note.position):
            continue  # the index ahead of its fret is no stretch
        past = geometry.deviation_mm(int(note.finger), note.fret, note.position)
        reach = hand.reach_mm[int(note.finger) - 1]
        if past > hand.stretch_from_mm and past / reach >= seen.plan.request.player.judging.report_reach:
            care = "; mind wrist and arm" if past >= seen.plan.request.player.judging.caution_share * reach else ""
            yield Seen(
                (note.event,), past / reach,
                f"Finger {note.finger} stretches to fret {note.fret} while the hand stays at fret {note.position}{care}",
                detail=f"about {past:.0f} mm past its relaxed place; this hand's limit is set at {reach:.0f} mm",
            )  # fmt: skip


def _shift(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        if move.fret_kind == "shift" and seen.worth(move.fret_load):
            a, b = seen.leads[move.start].position, seen.leads[move.to].position
            yield Seen(
                (move.start, move.to), move.fret_load,
                f"the hand shifts from fret {a} to {b}, with no rest or open string to do it in",
                need=fret_need(move), detail=f"{move.shift_mm:.0f} mm; {fret_ms(move)}",
            )  # fmt: skip


def _same_finger(seen: Evidence) -> Iterator[Seen]:
    for move in seen.plan.moves:
        if move.fret_kind == "jump" and seen.worth(move.fret_load):
            finger = seen.leads[move.to].finger
            yield Seen(
                (move.start, move.to), move.fret_load,
                f"finger {finger} jumps to another fret", need=fret_need(move), detail=fret_ms(move),
            )  # fmt: skip


def _roll(seen: Evidence) -> Iterator[Seen]:
    """A finger that rocks to the next string stops neither cleanly: under a ringing habit both sound."""
    rings = seen.plan.request.player.habits.hold != "lift"
    for move in seen.plan.moves:
        if move.fret_kind == "roll" and (
            seen.worth(move.fret_load) or (rings and move.gap_ms < seen.plan.request.player.judging.roll_ring_ms)
        ):
            finger = seen.leads[move.to].finger
            a, b = seen.leads[move.start].string, seen.leads[move.to].string
            yield Seen(
                (move.start, move.to), move.fret_load,
                f"finger {finger} rolls from string {a} to {b}, and "
                + ("both will ring together, since fingers are held until the next note" if rings else "the notes may smear"),
                need=fret_need(move), detail=fret_ms(move),
            )  # fmt: skip


def _weak_pair(seen: Evidence) -> Iterator[Seen]:
    """Fingers 3 and 4, or 2 and 4, in turn at speed: one finding a run."""
    player = seen.plan.request.player
    longest_ms = player.fretting.finger_ms / player.judging.weak_load

    def pair(move: Move) -> str:
        fingers = "".join(sorted((seen.leads[move.start].finger, seen.leads[move.to].finger)))
        return fingers if fingers in ("34", "24") and move.gap_ms <= longest_ms else ""

    for fingers, run in groupby(seen.plan.onward, pair):
        moves = list(run)
        if fingers and len(moves) >= player.judging.weak_turns:
            load = player.fretting.finger_ms / min(m.gap_ms for m in moves)
            yield Seen(
                (moves[0].start, moves[-1].to), load,
                f"Fingers {fingers[0]} and {fingers[1]} change over {len(moves)} times running, a weak pair at this speed",
                cost=0.05 * len(moves), whole=True,
            )  # fmt: skip


def _weak_hammer(seen: Evidence) -> Iterator[Seen]:
    for event, note in enumerate(seen.leads):
        if note.attack == "hammer-new" and note.finger in ("3", "4"):
            yield Seen(
                (event,), 0.0,
                f"Finger {note.finger} must sound string {note.string} from nowhere; fingers 1 and 2 are stronger",
                cost=0.2,
            )  # fmt: skip


def _late(seen: Evidence) -> Iterator[Seen]:
    for press in seen.schedule.presses:
        event = press.events[0]
        if press.late and not _free_before(seen, event):
            yield Seen(
                (event,), 0.0,
                f"Finger {press.finger} must be down on fret {press.fret} before the pull-off and comes from elsewhere, so it is "
                "one motion more",
                cost=0.1,
            )  # fmt: skip


def _free_before(seen: Evidence, event: int) -> bool:
    """Whether the slur that an event ends begins after a rest or at the start, where every finger can be placed beforehand."""
    first = event
    while first and seen.leads[first].attack in UNSTRUCK:
        first -= 1
    if not first:
        return True
    rest_s = seen.leads[first].start_s - max(n.end_s for n in seen.plan.events[first - 1])
    return rest_s > seen.plan.request.player.fretting.finger_ms / 1000


def _avoidable(seen: Evidence) -> Iterator[Seen]:
    again = [p for p in seen.schedule.presses if p.again]
    if len(again) >= seen.plan.request.player.judging.avoidable_from:
        events = tuple(p.events[0] for p in again)
        places = [f"finger {p.finger} at note {seen.leads[p.events[0]].index + 1}" for p in again[:_MOST_NAMED]]
        more = f" and {len(again) - _MOST_NAMED} more" if len(again) > _MOST_NAMED else ""
        yield Seen(
            events, 0.0,
            f"A finger comes down again where it could have stayed: {', '.join(places)}{more}",
            cost=0.01 * len(again), whole=True,
        )  # fmt: skip


def _cut_short(seen: Evidence) -> Iterator[Seen]:
    """Notes that the shift after them takes most of: one finding of all."""
    cut = []
    for press in seen.schedule.presses:
        note = seen.leads[press.events[-1]]
        length = note.end_s - note.start_s
        if press.cut_s > seen.plan.request.player.judging.cut_share * length:
            cut.append((press.events[-1], press.cut_s / length))
    if cut:
        names = [str(seen.leads[event].index + 1) for event, _ in cut[:_MOST_NAMED]]
        more = f" and {len(cut) - _MOST_NAMED} more" if len(cut) > _MOST_NAMED else ""
        share = max(share for _, share in cut)
        yield Seen(
            tuple(event for event, _ in cut), 0.0,
            f"The shift that follows takes most of note{'s' if len(cut) > 1 else ''} {', '.join(names)}{more}",
            cost=0.1 * sum(share for _, share in cut), whole=True, detail=f"up to {share:.0%} of a note's length",
        )  # fmt: skip


def _cannot_ring(seen: Evidence) -> Iterator[Seen]:
    """A note that goes on sounding, by its length or to the end of its bar, whose finger is wanted elsewhere before."""
    request, events = seen.plan.request, seen.plan.events
    overlaps = (n.onset + n.duration > after[0].onset for now, after in pairwise(events) for n in now)
    if not any("let-ring" in n.marks for n in seen.plan.notes) and not any(overlaps):
        return  # as nearly always
    phrase = phrase_with_plan(request.phrase, seen.plan)
    told: set[int] = set()
    sounded: dict[int, PlanNote] = {}
    for notes, places in zip(
        seen.plan.events, notes_held(phrase, playback_of(phrase, request.repeat).predecessor), strict=True
    ):
        for string, fret in places:
            held = sounded[string]
            wanted = any(n.finger == held.finger and n.fret != fret for n in notes)
            if wanted and held.fret == fret and held.index not in told:
                told.add(held.index)
                yield Seen(
                    (held.event, notes[0].event), 0.0,
                    f"Note {held.index + 1} is to sound on, but its finger {held.finger} is wanted at note {notes[0].index + 1}",
                    cost=0.3,
                )  # fmt: skip
        sounded.update({n.string: n for n in notes})


RULES: tuple[Rule, ...] = (
    Rule("stretch", "Stretch", FRETTING, "A finger leaves its relaxed place while the hand stays.", _stretch,
         timed=False, advice="open the hand slowly before the passage, thumb low behind the neck, and rest when it tires"),
    Rule("shift", "Shift", FRETTING, "The hand moves along the neck with little time.", _shift),
    Rule("same-finger-twice", "Same finger twice", FRETTING, "One finger must jump to another fret with little time.", _same_finger),
    Rule("roll", "Roll", FRETTING, "One finger rocks to the next string, and both may ring.", _roll),
    Rule("weak-pair", "Weak pair", FRETTING, "Fingers 3 and 4, or 2 and 4, alternate at speed.", _weak_pair, timed=False, own=True,
         advice="practise the two fingers alone, slower"),
    Rule("weak-hammer", "Hammer from nowhere", FRETTING, "A weak finger sounds a silent string on its own.", _weak_hammer, own=True,
         advice="strike the string, or practise the hammer alone for loudness"),
    Rule("late-finger", "Late finger", FRETTING, "A pull-off's lower finger is not down yet.", _late, own=True,
         advice="put both fingers down together with the note that is pulled off"),
    Rule("avoidable-press", "Avoidable press", FRETTING, "A finger comes down again where it could have stayed.", _avoidable, own=True,
         advice="leave these fingers down until then", changes=False),
    Rule("cannot-ring", "Cannot ring", FRETTING, "A note is to sound on, and its finger is wanted elsewhere.", _cannot_ring,
         own=True, advice="let it end early on purpose, or play one of the notes elsewhere"),
    Rule("cut-short", "Note cut short", FRETTING, "A shift takes most of a note.", _cut_short, own=True,
         advice="end the note early on purpose, in time, or slow down"),
)  # fmt: skip
