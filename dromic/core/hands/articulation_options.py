"""What each event offers the picking hand: how it may be sounded, with which strokes or fingers.

Settled before the search from the phrase, the school and the player's habits alone. Common practice, no published
source. A school that takes other notes with the pick, or leaves other notes unpicked, gets an entry in TAKES.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import accumulate

from dromic.core.music.graces import graces_before, written_onset
from dromic.core.music.phrase import Event, Phrase
from dromic.core.plan.request import Request
from dromic.core.setup.school import pattern_signs
from dromic.core.timing.beat_positions import places
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import on_grid
from dromic.core.values.vocabulary import (
    DOWN,
    HAMMER,
    HAMMER_NEW,
    PICK,
    PINCH,
    PLUCK,
    PLUCKERS,
    PULL,
    SIGN,
    SLIDE,
    SLUR,
    SLURRED,
    TAP,
    UNSTRUCK,
    UP,
)

BOTH = (1, -1)
_SIGNS = {DOWN: (SIGN[DOWN],), UP: (SIGN[UP],), "either": BOTH}


@dataclass(frozen=True, slots=True)
class EventOptions:
    """How one event may be sounded. `signs` are the strokes allowed where it is picked (+1 down, -1 up), `fingers` the
    plucking fingers where it is plucked, as indices into p i m a c."""

    attacks: tuple[str, ...]
    signs: tuple[int, ...] = ()
    fingers: tuple[int, ...] = ()
    in_turn: bool = False
    """plucking fingers take turns; otherwise they keep their order across the strings"""
    ordered: bool = False
    """the strings are known, so that the order of the fingers is a rule; otherwise each finger has its natural string
    above the pick's, and leaving it has a price"""
    natural: tuple[tuple[int, int], ...] = ()
    """the plucking finger that each string has by nature around here, as an index into p i m a c"""
    accent: bool = False
    leads: bool = False
    """others are slurred to it: struck too hard it stands out from them"""
    grace: bool = False
    graced: int = 0
    """how many graces of its group stand before it, where of these and itself one alone is to be struck"""
    main: bool = False
    """whether it is the note those graces lead to, and is slurred only if one of them is struck"""
    slid: bool = False
    """struck at the end of a slide: the finger comes along the string from the note before"""
    chosen: bool = False
    """whether going unpicked is the planner's choice"""
    priced: bool = True
    """whether it pays for that; where the school lives by one stroke a string it does not"""
    turned: bool = False
    """its tremolo has an even number of strokes: the pick is left as if it had been struck the other way"""
    forced: bool = False
    """the player chose the stroke: the school's rule yields for the move to it"""

    @property
    def picked(self) -> bool:
        """Whether the pick may sound it."""
        return PICK in self.attacks or PINCH in self.attacks

    @property
    def certain(self) -> bool:
        """Whether the pick sounds it in any case, whatever else is pinned."""
        return not self.chosen and all(a in (PICK, PINCH) for a in self.attacks)


def articulation_options(request: Request, unit: str, rhythm: Rhythm) -> tuple[EventOptions, ...]:
    """An offer for every event."""
    phrase = request.phrase
    fingers = _finger_numbers(request)
    take = PICK_OR_PLUCK[request.school.plucks](request, rhythm)
    made = [
        _offer(request, i, event, _attacks(request, i, event, take(i)), fingers)
        for i, event in enumerate(phrase.events)
    ]
    made = _with_first_attacks(request, _with_graces(request, _with_legato(request, _with_own_fingers(request, made))))
    for pin in request.pins:
        if pin.field == "attack" and pin.value in (HAMMER, PULL, SLIDE) and pin.event < len(made):
            pinned = tuple(str(pin.value) if a == SLUR else a for a in made[pin.event].attacks)
            made[pin.event] = replace(made[pin.event], attacks=pinned)
    return tuple(_with_strokes(request, unit, made))


def _with_own_fingers(request: Request, made: list[EventOptions]) -> list[EventOptions]:
    """Offers with the plucking fingers that the player pinned, in a school that plucks: they are among the event's, and pluck it where
    the school would have the pick strike it."""
    found, pinned = list(made), dict[int, dict[int, int]]()
    for pin in request.pins:
        if pin.field == "stroke" and pin.value in PLUCKERS and pin.event < len(made):
            pinned.setdefault(pin.event, {})[pin.note] = PLUCKERS.index(str(pin.value))
    for event, fingers in pinned.items() if request.school.plucks != "stated" else ():
        offer, size = made[event], len(request.phrase.events[event].notes)
        if set(offer.attacks) <= set(UNSTRUCK):
            continue
        attack = PLUCK if size == 1 or 0 in fingers or PLUCK in offer.attacks else PINCH
        own = tuple(sorted({*offer.fingers, *fingers.values()}))
        attacks = tuple(dict.fromkeys((*offer.attacks, attack)))
        found[event] = replace(offer, attacks=attacks, fingers=own, forced=True)
    return found


def _finger_numbers(request: Request) -> tuple[int, ...]:
    habits = request.player.habits
    if request.school.plucks == "fingers":
        held = habits.bare_fingers if request.instrument.bass else habits.guitar_fingers
    else:
        held = habits.hybrid_fingers
    return tuple(PLUCKERS.index(f) for f in held)


def _attacks(request: Request, i: int, event: Event, taken: tuple[str, ...]) -> tuple[str, ...]:
    """The attacks an event states, if they are kept, else what the school takes it with."""
    stated = event.attack if "attacks" in request.keep else None
    if stated in UNSTRUCK:
        return (HAMMER_NEW if i == 0 and stated != TAP else str(stated),)
    if stated is not None and request.school.plucks != "fingers":
        mixed = {n.attack for n in event.notes} >= {PICK, PLUCK} or (stated == PLUCK and _part_plucked(event))
        return (PINCH,) if mixed else (stated,)
    return taken


def _part_plucked(event: Event) -> bool:
    return any(n.attack != PLUCK for n in event.notes)


def _offer(request: Request, i: int, event: Event, attacks: tuple[str, ...], fingers: tuple[int, ...]) -> EventOptions:
    stated = event.stroke if event.stroke in PLUCKERS and "attacks" in request.keep else None
    size = len(event.notes)
    if stated and size == 1:
        fingers = (PLUCKERS.index(stated),)
    elif request.school.plucks == "fingers" and size > 1:
        fingers = tuple(range(min(size, len(PLUCKERS))))
    needs = {PLUCK: size, PINCH: size - 1}
    # a chord of more notes than there are fingers can only be strummed
    attacks = tuple(dict.fromkeys(PICK if needs.get(a, 0) > len(fingers) else a for a in attacks))
    return EventOptions(
        attacks=attacks,
        fingers=fingers if {PLUCK, PINCH} & set(attacks) else (),
        in_turn=request.school.plucks == "fingers" and request.instrument.bass,
        accent=event.marked("accent"),
        grace=event.grace,
        slid=event.slid_to and "attacks" in request.keep,
        turned=_strokes_of(event) % 2 == 0,
    )


def _strokes_of(event: Event) -> int:
    """How many strokes sound an event: those of its tremolo, a beam for each halving of a quarter; else one."""
    beams = max(n.tremolo for n in event.notes)
    return max(1, round(event.notes[0].duration * 2**beams)) if beams else 1


Take = Callable[[int], tuple[str, ...]]


_BACK_STRINGS = 2
"""Strings that a line goes back at least where the pick begins a figure anew."""


def _always_pick(request: Request, rhythm: Rhythm) -> Take:
    return lambda i: (PICK,)


def _always_pluck(request: Request, rhythm: Rhythm) -> Take:
    return lambda i: (PLUCK,)


def _free(request: Request, rhythm: Rhythm) -> Take:
    if not request.player.habits.free_fingers:
        return _always_pick(request, rhythm)
    return lambda i: (PICK, PLUCK) if len(request.phrase.events[i].notes) == 1 else (PICK, PINCH)


def _hybrid(request: Request, rhythm: Rhythm) -> Take:
    """The pick on the lowest string of the figure, where the line goes back over strings to begin upwards anew, and on a bass note on
    the beat: one lower than those beside it. Told from the pitches where strings are free."""
    phrase = request.phrase
    known = "positions" in request.keep and all(n.string is not None for e in phrase.events for n in e.notes)
    # over 0 the lower: a lower string, or a lower pitch
    depth = [[(n.string or 0) if known else -n.pitch for n in e.notes] for e in phrase.events]
    struck = [e.attack not in UNSTRUCK or "attacks" not in request.keep for e in phrase.events]
    beats = request.player.judging.figure_beats

    def bass_note(i: int) -> bool:
        before = next((max(depth[j]) for j in range(i - 1, -1, -1) if struck[j]), None)
        after = next((max(depth[j]) for j in range(i + 1, len(depth)) if struck[j]), None)
        beside = [d for d in (before, after) if d is not None]
        return len(beside) == 2 and max(depth[i]) > max(beside) and _on_beat(phrase, i)

    def begins_anew(i: int) -> bool:
        if not known or i == 0 or i + 1 >= len(depth):
            return False
        return min(depth[i]) - max(depth[i - 1]) >= _BACK_STRINGS and max(depth[i + 1]) < min(depth[i])

    def take(i: int) -> tuple[str, ...]:
        event = phrase.events[i]
        lowest = max(max(depth[j]) for j in rhythm.near(i, beats) if struck[j] or j == i)
        on_beat = request.player.habits.hybrid_beats and _on_beat(phrase, i)
        if max(depth[i]) < lowest and not on_beat and not bass_note(i) and not begins_anew(i):
            return (PLUCK,)
        return (PICK,) if len(event.notes) == 1 else (PINCH,)

    return take


PICK_OR_PLUCK: dict[str, Callable[[Request, Rhythm], Take]] = {
    "stated": _always_pick,
    "fingers": _always_pluck,
    "free": _free,
    "hybrid": _hybrid,
}


def _with_legato(request: Request, made: list[EventOptions]) -> list[EventOptions]:
    """Notes that may go unpicked offer a slur too, and in a school of one stroke a string a hammer from nowhere."""
    mode = request.legato if request.school.legato == "never" else request.school.legato
    if mode == "never":
        return made
    if request.school.pattern:
        raise DromicError(
            "the pattern counts struck notes, so which notes are not struck must stand in the phrase; allow no legato"
        )
    events = request.phrase.events
    turning = _turnings(request) if mode == "turnarounds" else range(len(events))
    more = (SLUR, HAMMER_NEW) if request.school.one_stroke else (SLUR,)
    return [
        replace(offer, attacks=(*offer.attacks, *more), chosen=True, priced=not request.school.one_stroke)
        if i > 0
        and i in turning
        and len(events[i].notes) == 1
        and offer.picked
        and (events[i].attack is None or "attacks" not in request.keep)
        else offer
        for i, offer in enumerate(made)
    ]


def _with_graces(request: Request, made: list[EventOptions]) -> list[EventOptions]:
    """Grace notes of which nothing is stated and their notes offer a slur beside the stroke, so that one of them alone need be
    struck. A pattern counts its strokes, and there all are struck."""
    if request.graces != SLURRED or request.school.pattern or request.school.one_stroke:
        return made
    found, phrase = list(made), request.phrase
    for main, graces in graces_before(phrase).items():
        group = (*graces, main)
        stated = "attacks" in request.keep and any(phrase.events[e].attack is not None for e in group)
        if stated or any(len(phrase.events[e].notes) > 1 for e in group):
            continue
        for n, event in enumerate(group):
            # nothing can be slurred to the first note of all
            more = (SLUR,) if event else ()
            attacks = tuple(dict.fromkeys((*made[event].attacks, *more)))
            found[event] = replace(
                made[event], attacks=attacks, chosen=bool(event), priced=False, graced=n, main=event == main
            )
    return found


def _with_first_attacks(request: Request, made: list[EventOptions]) -> list[EventOptions]:
    """Notes that others are slurred to in any case are told; a player who has a finger sound them may, where the school
    plucks."""
    slurred = [set(o.attacks) <= {HAMMER, PULL, SLIDE} for o in made[1:]]
    plucking = request.player.habits.first_attack == "finger" and request.school.plucks in ("hybrid", "free")
    found = []
    for offer, event, led in zip(made, request.phrase.events, (*slurred, False), strict=True):
        if led and not set(offer.attacks) <= set(UNSTRUCK):
            offer = replace(offer, leads=True)
            if plucking and offer.attacks == (PICK,) and event.attack is None and len(event.notes) == 1:
                offer = replace(offer, attacks=(PICK, PLUCK), fingers=_finger_numbers(request))
        found.append(offer)
    return found


def idle_habit(request: Request, made: Sequence[EventOptions]) -> str | None:
    """A sentence where the player's habit for the first of slurred notes has nothing to do in the school."""
    habit, school = request.player.habits.first_attack, request.school
    slurs = school.legato != "never" or request.legato != "never" or any(o.leads for o in made)
    if habit == "either" or not slurs or school.plucks == "fingers":
        return None
    why = ""
    if habit == "finger" and school.plucks not in ("hybrid", "free"):
        why = "which plucks none"
    elif habit != "finger" and not school.strokes_open:
        why = "whose strokes go by their places"
    meant = "a finger" if habit == "finger" else f"an {habit}-stroke" if habit == UP else f"a {habit}-stroke"
    return (
        f"your habit of {meant} for the first of slurred notes does nothing in {school.label}, {why}" if why else None
    )


def _turnings(request: Request) -> set[int]:
    """Events where a line turns: where strings are kept, the notes after the first on a string that the line leaves
    the way it came; otherwise the highest or lowest note of a turn and the one after it."""
    events = request.phrase.events
    if "positions" in request.keep and all(len(e.notes) == 1 and e.notes[0].string for e in events):
        return _turning_stays([e.notes[0].string or 0 for e in events])
    pitches = [e.notes[0].pitch for e in events]
    return {
        j
        for i in range(1, len(events) - 1)
        if (pitches[i] - pitches[i - 1]) * (pitches[i + 1] - pitches[i]) < 0
        for j in (i, i + 1)
    }


def _turning_stays(strings: list[int]) -> set[int]:
    found: set[int] = set()
    start = 0
    for i in range(1, len(strings) + 1):
        if i < len(strings) and strings[i] == strings[start]:
            continue
        if start and i < len(strings) and (strings[start - 1] - strings[start]) * (strings[i] - strings[start]) > 0:
            found.update(range(start + 1, i))
        start = i
    return found


_BY_PLACE = "place"
"""the first stroke of a school in which every stroke is its place's"""


@dataclass(frozen=True)
class _Bars:
    """A phrase as a school's places look at it: `parity` of every event's place in its bar, worked out once where one is asked for."""

    phrase: Phrase
    unit: str

    @cached_property
    def parity(self) -> tuple[int, ...]:
        return tuple(place % 2 for place in places(self.phrase, self.unit))

    def on_grid(self, at: int) -> bool:
        bar = self.phrase.bars[self.phrase.events[at].bar]
        return on_grid(bar.metre, self.unit, bar.offset_of(written_onset(self.phrase, at)))

    def has_place(self, at: int, event: int) -> bool:
        """A grace note off the beat has no place of its own."""
        return not self.phrase.events[at].grace or _on_beat(self.phrase, event)


_AT: Mapping[str, Callable[[_Bars, int, int], bool]] = {
    "beat": lambda bars, at, _event: _on_beat(bars.phrase, at),
    "grid": lambda bars, at, _event: bars.on_grid(at),
    "even": lambda bars, at, event: bars.has_place(at, event) and bars.parity[at] == 0,
    "odd": lambda bars, at, event: bars.has_place(at, event) and bars.parity[at] == 1,
}
"""whether the stroke of an event lies at a place of a school's: (the bars, the event whose place it takes, the event)"""


def _with_strokes(request: Request, unit: str, made: list[EventOptions]) -> list[EventOptions]:
    """The strokes each picked event may take: by its place, by the pattern, or free for the search to choose."""
    phrase, school = request.phrase, request.school
    first = request.start or school.start
    turned = -1 if school.start == _BY_PLACE and request.start == UP else 1
    pattern = pattern_signs(request.pattern or school.pattern) if school.pattern else ()
    bars = _Bars(phrase, unit)
    forced, stands_for = dict(request.overrides), places_taken(phrase, made)
    found: list[EventOptions] = []
    struck = 0
    for i, offer in enumerate(made):
        event = phrase.events[i]
        if not offer.picked:
            found.append(offer)
            continue
        signs: tuple[int, ...] = BOTH
        at = stands_for[i]
        if pattern:
            signs = (pattern[struck % len(pattern)],)
        else:
            asked = next((stroke for place, stroke in school.strokes if _AT[place](bars, at, i)), None)
            signs = (turned * _SIGNS[asked][0],) if asked else BOTH
        if struck == 0 and school.start != _BY_PLACE:
            signs = tuple(s for s in signs if s in _SIGNS[first]) or _SIGNS[first]
        if "strokes" in request.keep and event.stroke in (DOWN, UP) and event.struck:
            signs = _SIGNS[event.stroke]
        if i in forced:
            signs = _SIGNS[forced[i]]
        struck += 1
        found.append(replace(offer, signs=signs, forced=i in forced))
    for i in forced:
        if i >= len(made) or not made[i].picked:
            raise DromicError(f"a stroke is set for note {i + 1}, which the pick does not sound; set it elsewhere")
    return found


def places_taken(phrase: Phrase, made: Sequence[EventOptions]) -> list[int]:
    """For every event the one whose place in the beat its stroke takes: its own, or for a grace that may be struck in place of its
    note the note's."""
    found = list(range(len(made)))
    for main, graces in graces_before(phrase).items():
        if made[main].main:
            for grace in graces:
                found[grace] = main
    return found


def struck(request: Request, unit: str, made: Sequence[EventOptions], event: int) -> EventOptions:
    """The offer of an event that is struck after all, with the strokes it may then take."""
    picked = [replace(o, attacks=(PICK,)) if i == event else o for i, o in enumerate(made)]
    return _with_strokes(request, unit, picked)[event]


def _on_beat(phrase: Phrase, i: int) -> bool:
    bar = phrase.bars[phrase.events[i].bar]
    offset = bar.offset_of(written_onset(phrase, i))
    return offset == bar.metre.beat_at(offset)[1]


def offers_of(request: Request, unit: str, rhythm: Rhythm) -> tuple[EventOptions, ...]:
    """What a request offers the picking hand at every event, equal offers one and the same."""
    known: dict[EventOptions, EventOptions] = {}
    made = with_natural_fingers(request, articulation_options(request, unit, rhythm), rhythm)
    return tuple(known.setdefault(offer, offer) for offer in made)


def with_natural_fingers(request: Request, made: tuple[EventOptions, ...], rhythm: Rhythm) -> tuple[EventOptions, ...]:
    """Offers with the plucking finger that each string has by nature.

    Without a pick a guitar's low strings are the thumb's, and the upper three have a finger each. Beside the pick the strings
    plucked in a figure take the fingers in their order; told only where the phrase keeps its strings.
    """
    if not any(o.fingers and not o.in_turn for o in made):
        return made
    if request.school.plucks == "fingers":
        natural = _by_string(request)
        return tuple(replace(o, natural=natural) if o.fingers and not o.in_turn else o for o in made)
    phrase = request.phrase
    if "positions" not in request.keep or any(n.string is None for e in phrase.events for n in e.notes):
        return made
    fingers, beats = _finger_numbers(request), request.player.judging.figure_beats
    plucked: list[list[int]] = []
    for event, offer in zip(phrase.events, made, strict=True):
        strings = sorted(n.string for n in event.notes if n.string is not None)
        bare = {PLUCK, PINCH} & set(offer.attacks)
        plucked.append([] if not bare else strings[:-1] if PINCH in offer.attacks else strings)
    found = []
    figures = list(accumulate(int(offer.certain) for offer in made))  # each begins where the pick strikes
    for i, offer in enumerate(made):
        figure = [j for j in rhythm.near(i, beats) if figures[j] == figures[i]]
        strings = sorted({s for j in figure for s in plucked[j]})[::-1]
        if strings and offer.fingers:
            natural = tuple((s, fingers[min(rank, len(fingers) - 1)]) for rank, s in enumerate(strings))
            offer = replace(offer, natural=natural, ordered=True)
        found.append(offer)
    return tuple(found)


def _by_string(request: Request) -> tuple[tuple[int, int], ...]:
    """The finger of each string where nothing but fingers pluck: the highest string has the last one."""
    fingers = _finger_numbers(request)
    strings = range(request.instrument.strings, 0, -1)
    return tuple((s, fingers[max(len(fingers) - s, 0)]) for s in strings)
