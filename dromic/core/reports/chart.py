"""The two-hand chart as data: where every stroke, finger bar, shift and knot lies, in seconds and millimetres.

Time is in seconds from the start of the phrase. The picking lane measures mm across the strings at the picking place,
0 on the lowest string, growing towards string 1, so a down-stroke grows. The fretting lane measures mm along the neck
from the nut. Painting only scales these numbers.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass

from dromic.core.hands.hand_geometry import geometry_of
from dromic.core.music.phrase import Phrase
from dromic.core.plan.damping import NOBODY, SOUNDS, Muting, muting
from dromic.core.plan.finger_schedule import Press, Schedule, schedule
from dromic.core.plan.plan import Move, Plan
from dromic.core.plan.sweep_turns import sweep_turns
from dromic.core.timing.beat_counting import count
from dromic.core.values.pitch import note_name
from dromic.core.values.vocabulary import DOWN, PLUCK, SLID_TO, SLIDE, TAP, UP

STROKE_S = 0.030
"""time drawn for the pick to cross one string; for looking at, not measured"""


@dataclass(frozen=True, slots=True)
class Stroke:
    """The pick sounding: from one side of its strings to the other."""

    event: int
    start_s: float
    end_s: float
    start_mm: float
    end_mm: float
    down: bool
    marks: frozenset[str]
    rests: bool = False
    """whether the pick comes to rest on the next string"""


@dataclass(frozen=True, slots=True)
class Travel:
    """The pick between two strokes; lifted where it passes over strings, buried where it had to climb out first."""

    move: int
    start_s: float
    end_s: float
    start_mm: float
    end_mm: float
    hops: int
    buried: bool
    load: float


@dataclass(frozen=True, slots=True)
class Pluck:
    """A bare finger plucking a string."""

    event: int
    at_s: float
    mm: float
    finger: str


@dataclass(frozen=True, slots=True)
class Damped:
    """A stretch of time in which something damps an idle string, or in which it rings on though it should not."""

    string: int
    start_s: float
    end_s: float
    mm: float
    by: str
    rings: bool


BEND, RELEASE, VIBRATO = "bend", "release", "vibrato"
HOLDS = (BEND, RELEASE, VIBRATO)
"""marks of a note that are something its finger does while it is down"""


@dataclass(frozen=True, slots=True)
class Hold:
    """What a finger does while it is down, over the note it does it on; `semitones` a bend rises, 0 if not said."""

    kind: str
    start_s: float
    end_s: float
    semitones: float = 0.0


@dataclass(frozen=True, slots=True)
class FingerBar:
    """A finger down from press to lift, at its place along the neck. `again` marks a press that could be saved."""

    event: int
    finger: str
    """1 to 4, or t for a finger of the picking hand"""
    string: int
    fret: int
    start_s: float
    end_s: float
    mm: float
    kind: str
    attack: str
    again: bool = False
    load: float = 0.0
    """of the move that brings it"""
    slide_from_mm: float | None = None
    """where along the neck it slides in from"""
    holds: tuple[Hold, ...] = ()


@dataclass(frozen=True, slots=True)
class Band:
    """The hand at one position: from the index finger's place to the little finger's relaxed place."""

    position: int
    start_s: float
    end_s: float
    low_mm: float
    high_mm: float


@dataclass(frozen=True, slots=True)
class Label:
    """What stands on the middle line at an event."""

    event: int
    at_s: float
    frets: tuple[str, ...]
    stroke: str
    attack: str
    count: str
    beat: bool
    words: str = ""
    """the player's own at this note"""
    doubt: str = ""
    """the fret of its other reading"""


@dataclass(frozen=True, slots=True)
class PartLabel:
    """A named part of the phrase, or an ending played at some passes, over its time."""

    name: str
    start_s: float
    end_s: float
    ending: bool = False


@dataclass(frozen=True, slots=True)
class RepeatSign:
    """Where a repeated stretch begins (`times` 0) or ends and how often it is played."""

    at_s: float
    times: int


@dataclass(frozen=True, slots=True)
class Palm:
    """A stretch of time in which the palm lies on the strings to dampen what is played."""

    start_s: float
    end_s: float


@dataclass(frozen=True, slots=True)
class Turn:
    """A note at which the picking hand changes its lean, or turns a chain of carry-throughs around."""

    event: int
    at_s: float
    lean: str
    """the lean from here on, empty where it is a turnaround"""
    tilt_deg: float = 0.0


@dataclass(frozen=True, slots=True)
class Chart:
    """Everything the chart draws: times in seconds from the start, places in mm across the strings or along the neck."""

    strokes: tuple[Stroke, ...]
    travels: tuple[Travel, ...]
    plucks: tuple[Pluck, ...]
    damped: tuple[Damped, ...]
    muting: Muting
    fingers: tuple[FingerBar, ...]
    bands: tuple[Band, ...]
    labels: tuple[Label, ...]
    moves: tuple[Move, ...]
    """the move to every event but the first"""
    seams: tuple[Move, ...]
    event_s: tuple[float, ...]
    bars: tuple[tuple[float, int], ...]
    """start in seconds and number of every bar"""
    beats: tuple[float, ...]
    parts: tuple[PartLabel, ...]
    repeats: tuple[RepeatSign, ...]
    turns: tuple[Turn, ...]
    palms: tuple[Palm, ...]
    end_s: float
    string_mm: tuple[float, ...]
    """place of string 1..N across the picking lane"""
    string_names: tuple[str, ...]
    fret_mm: tuple[float, ...]
    """place of fret 0..n along the neck"""
    lowest_fret: int
    highest_fret: int
    left_handed: bool = False


def chart(plan: Plan) -> Chart:
    """The chart of a plan."""
    phrase, instrument = plan.request.phrase, plan.request.instrument
    spacing = instrument.pick_spacing_mm
    strokes = _strokes(plan, spacing)
    pressed = schedule(plan)
    muted = muting(plan, pressed)
    last = phrase.bars[-1]
    frets = [n.fret for n in plan.notes if n.fret] or [1]
    positions = [n.position for n in plan.notes if n.position] or [1]
    beats = []
    for bar in phrase.bars:
        at = bar.start - bar.lead
        for length in bar.metre.beats():
            if bar.start <= at < bar.end:
                beats.append(phrase.seconds_at(at))
            at += length
    return Chart(
        strokes=strokes,
        travels=_travels(plan, strokes),
        plucks=_plucks(plan, spacing),
        damped=_damped(plan, muted, spacing),
        muting=muted,
        fingers=_fingers(plan, pressed),
        bands=_bands(plan),
        labels=_labels(plan),
        moves=plan.onward,
        seams=plan.seams,
        event_s=tuple(phrase.seconds_at(e.onset) for e in phrase.events),
        bars=tuple((phrase.seconds_at(b.start), b.number) for b in phrase.bars),
        beats=tuple(beats),
        parts=_parts(phrase),
        repeats=_repeats(phrase),
        turns=_turns(plan),
        palms=_palms(plan),
        end_s=max(phrase.seconds_at(last.end), *(n.end_s for n in plan.notes)),
        string_mm=tuple((instrument.strings - s) * spacing for s in range(1, instrument.strings + 1)),
        string_names=tuple(_open_name(plan, s) for s in range(1, instrument.strings + 1)),
        fret_mm=tuple(float(instrument.fret_mm(f)) for f in range(instrument.highest_fret + 1)),
        lowest_fret=max(0, min(*frets, *positions) - 1),
        highest_fret=min(instrument.highest_fret, max(*frets, max(positions) + 3)),
        left_handed=plan.request.player.habits.left_handed,
    )


def _parts(phrase: Phrase) -> tuple[PartLabel, ...]:
    """The sections, then the endings, each over its bars."""
    bars = phrase.bars
    found = [
        PartLabel(s.name, phrase.seconds_at(bars[s.first].start), phrase.seconds_at(bars[s.last].end))
        for s in phrase.sections
    ]
    for endings, run in itertools.groupby(bars, lambda b: b.endings):
        stretch = list(run)
        if endings:
            name = ", ".join(f"{n}." for n in endings)
            found.append(PartLabel(name, phrase.seconds_at(stretch[0].start), phrase.seconds_at(stretch[-1].end), True))
    return tuple(found)


def _repeats(phrase: Phrase) -> tuple[RepeatSign, ...]:
    found = [RepeatSign(phrase.seconds_at(b.start), 0) for b in phrase.bars if b.repeat_start]
    found += [RepeatSign(phrase.seconds_at(b.end), b.repeat_times) for b in phrase.bars if b.repeat_times]
    return tuple(sorted(found, key=lambda r: r.at_s))


def _turns(plan: Plan) -> tuple[Turn, ...]:
    """Where the lean changes from one picked note to the next, and where a sweep turns around."""
    tilts = {lean.name: lean.tilt_deg for lean in plan.request.player.leans}
    found: list[Turn] = []
    lean = ""
    for event in range(len(plan.events)):
        note = plan.events[event][0]
        if note.stroke not in (DOWN, UP):
            continue
        if lean and note.lean != lean:
            found.append(Turn(event, note.start_s, note.lean, tilts[note.lean]))
        lean = note.lean
    turned = sweep_turns(plan.onward, lambda event: plan.leads[event].stroke)
    found += [Turn(event, plan.leads[event].start_s, "") for event in turned]
    return tuple(sorted(found, key=lambda t: (t.event, t.lean)))


def _palms(plan: Plan) -> tuple[Palm, ...]:
    """From the note at which the palm comes down to the one at which it is off again."""
    leads = plan.leads
    found = []
    for on, run in itertools.groupby(range(len(leads)), lambda event: "palm-mute" in leads[event].marks):
        events = list(run)
        if on:
            after = events[-1] + 1
            end = leads[after].start_s if after < len(leads) else leads[-1].end_s
            found.append(Palm(leads[events[0]].start_s, end))
    return tuple(found)


def _open_name(plan: Plan, string: int) -> str:
    return note_name(plan.request.instrument.open_pitch(string))[:-1]


def _strokes(plan: Plan, spacing: float) -> tuple[Stroke, ...]:
    strings = plan.request.instrument.strings
    found = []
    starts = sorted(notes[0].start_s for notes in plan.events)
    gaps = [b - a for a, b in itertools.pairwise(starts)]
    half = min([STROKE_S, *(g / 3 for g in gaps)]) / 2
    for event, notes in enumerate(plan.events):
        if notes[0].stroke not in (DOWN, UP):
            continue
        down = notes[0].stroke == DOWN
        places = [strings - n.string for n in notes if n.attack != PLUCK]
        low, high = (min(places) - 0.5) * spacing, (max(places) + 0.5) * spacing
        marks = frozenset().union(*(n.marks for n in notes))
        at = notes[0].start_s
        found.append(
            Stroke(
                event,
                at - half,
                at + half,
                low if down else high,
                high if down else low,
                down,
                marks,
                notes[0].rest_on is not None,
            )
        )
    return tuple(found)


def _travels(plan: Plan, strokes: tuple[Stroke, ...]) -> tuple[Travel, ...]:
    onward = plan.onward
    found = []
    for a, b in itertools.pairwise(strokes):
        index, move = b.event - 1, onward[b.event - 1]
        found.append(
            Travel(index, a.end_s, b.start_s, a.end_mm, b.start_mm, move.hops, move.buried, move.pick_load or 0.0)
        )
    return tuple(found)


def _plucks(plan: Plan, spacing: float) -> tuple[Pluck, ...]:
    strings = plan.request.instrument.strings
    return tuple(
        Pluck(n.event, n.start_s, (strings - n.string) * spacing, n.stroke) for n in plan.notes if n.attack == PLUCK
    )


def _damped(plan: Plan, found: Muting, spacing: float) -> tuple[Damped, ...]:
    """What damps each string from event to event, runs of the same joined."""
    strings = plan.request.instrument.strings
    starts = [plan.events[e][0].start_s for e in range(len(found.by))]
    ends = [*starts[1:], max(n.end_s for n in plan.notes)]
    made: list[Damped] = []
    for string in range(1, strings + 1):
        rows = [(row[string - 1], string in left) for row, left in zip(found.by, found.ringing, strict=True)]
        for (by, rings), run in itertools.groupby(range(len(rows)), lambda e, rows=rows: rows[e]):  # type: ignore[misc]
            events = list(run)
            if by != SOUNDS and (rings or by != NOBODY):
                place = (strings - string) * spacing
                made.append(Damped(string, starts[events[0]], ends[events[-1]], place, by, rings))
    return tuple(sorted(made, key=lambda d: d.start_s))


def _fingers(plan: Plan, pressed: Schedule) -> tuple[FingerBar, ...]:
    """The finger schedule, and the tapping fingers of the other hand."""
    instrument, hand = plan.request.instrument, plan.request.player.fretting
    kinds = {m.to: m.fret_kind for m in plan.onward}
    loads = {m.to: m.fret_load for m in plan.onward}
    attacks = {n.event: n.attack for n in plan.notes}

    def place(fret: int) -> float:
        return float(instrument.fret_mm(fret)) - hand.behind_fret_mm

    found = [
        FingerBar(
            p.events[0], p.finger, p.string, p.fret, p.start_s, p.end_s, place(p.fret),
            kinds.get(p.events[0], "finger"), attacks[p.events[0]], p.again, loads.get(p.events[0], 0.0),
            _slid_from(plan, p, place), _holds(plan, p),
        )
        for p in pressed.presses
    ] + [
        FingerBar(n.event, "t", n.string, n.fret, n.start_s, n.end_s, place(n.fret), kinds.get(n.event, "finger"), TAP)
        for n in plan.notes
        if n.attack == TAP
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda b: (b.start_s, b.finger)))


def _slid_from(plan: Plan, press: Press, place: Callable[[int], float]) -> float | None:
    """Where a press slides in from: its string's place in the event before it."""
    event = press.events[0]
    note = next(n for n in plan.events[event] if n.string == press.string)
    if (note.attack != SLIDE and SLID_TO not in note.marks) or not event:
        return None
    before = next((n for n in plan.events[event - 1] if n.string == press.string and n.fret), None)
    return place(before.fret) if before is not None and before.fret != press.fret else None


def _holds(plan: Plan, press: Press) -> tuple[Hold, ...]:
    """What a finger does on each note it holds down."""
    found = []
    for event in press.events:
        note = next(n for n in plan.events[event] if n.string == press.string)
        stated = next((n for n in plan.request.phrase.events[event].notes if n.pitch == note.pitch), None)
        for kind in HOLDS:
            if kind in note.marks:
                bend = stated.bend if stated is not None and kind == BEND else 0.0
                found.append(Hold(kind, note.start_s, note.end_s, bend))
    return tuple(found)


def _bands(plan: Plan) -> tuple[Band, ...]:
    instrument, hand = plan.request.instrument, plan.request.player.fretting
    geometry = geometry_of(instrument, plan.request.player)
    found: list[Band] = []
    for notes in plan.events:
        position, start, end = notes[0].position, notes[0].start_s, max(n.end_s for n in notes)
        if not position:
            continue
        if found and found[-1].position == position:
            found[-1] = Band(position, found[-1].start_s, end, found[-1].low_mm, found[-1].high_mm)
            continue
        low = float(instrument.fret_mm(position)) - hand.behind_fret_mm
        found.append(Band(position, start, end, low, low + geometry.offset_mm(4, position)))
    return tuple(found)


def _labels(plan: Plan) -> tuple[Label, ...]:
    found = []
    for event, notes in enumerate(plan.events):
        lead = notes[0]
        frets = tuple("x" if "dead" in n.marks else str(n.fret) for n in reversed(notes))
        text = count(plan.request.phrase, event)
        written = plan.request.phrase.events[event]
        doubts = [n for n in reversed(written.notes) if n.doubt]
        other = " ".join(str((n.fret if n.fret is not None else lead.fret) + n.doubt) for n in doubts)
        found.append(
            Label(event, lead.start_s, frets, lead.stroke, lead.attack, text, text.isdecimal(), written.words, other)
        )
    return tuple(found)
