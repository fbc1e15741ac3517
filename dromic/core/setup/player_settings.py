"""A player's hands in a player's words: every number and habit that the page of the hands can set, as two tables.

A number is shown in the unit a player thinks in (the tempo at which sixteenths run) and kept in the unit the sums need
(milliseconds a stroke). All are estimates until takes replace them.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from dromic.core.setup.player import Player
from dromic.core.setup.school import School

MINUTE_MS = 60000.0
PICKING, LEANING, FRETTING = "Picking hand", "The pick", "Fretting hand"
_SAMPLE_SHIFT_MM = 100.0
_BITS_A_STRING = math.log2(3)
"""of the way over one string: log2(1 + 2 hops)"""
_NUDGE = 1.1
"""how much better an ability is made to see what it would bring"""
_PHASE_OVER_MS = 1.0
"""a stroke against the swing must cost more than a repeat less an alternate stroke; by so much at least"""


@dataclass(frozen=True, slots=True)
class HandNumber:
    """A number of the hands: how it is read from a player and how a player is made with another one.

    `better` is 1 where more is more able, -1 where less is, 0 where neither is; `low` and `high` bound what can be set.
    """

    name: str
    group: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    better: int
    help: str
    get: Callable[[Player], float]
    set: Callable[[Player, float], Player]
    lowest: str = ""
    """what the lowest value means, where it is no number"""

    def bounded(self, value: float) -> float:
        """A value brought within the bounds."""
        return min(self.high, max(self.low, value))

    def improved(self, player: Player, factor: float = _NUDGE) -> Player | None:
        """The player with this ability a tenth better, or so many times; None where there is no better."""
        if not self.better:
            return None
        return self.set(player, self.get(player) * (factor if self.better > 0 else 1.0 / factor))


@dataclass(frozen=True, slots=True)
class Option:
    """One side of a habit."""

    value: Any
    label: str


@dataclass(frozen=True, slots=True)
class Habit:
    """A choice on which players differ; `name` is the field of Habits."""

    name: str
    group: str
    label: str
    help: str
    options: tuple[Option, ...]
    works_in: Callable[[School], bool] = lambda school: True
    """whether a school leaves it anything to do"""

    def get(self, player: Player) -> Any:
        """What the player does."""
        return getattr(player.habits, self.name)

    def set(self, player: Player, value: Any) -> Player:
        """The player with another habit."""
        return replace(player, habits=replace(player.habits, **{self.name: value}))


def _picking(player: Player, **values: Any) -> Player:
    return replace(player, picking=replace(player.picking, **values))


def _fretting(player: Player, **values: Any) -> Player:
    return replace(player, fretting=replace(player.fretting, **values))


def _strokes(player: Player, alternate_ms: float, repeat_ms: float) -> Player:
    phase = max(player.picking.phase_ms, repeat_ms - alternate_ms + _PHASE_OVER_MS)
    return _picking(player, alternate_ms=alternate_ms, repeat_ms=repeat_ms, phase_ms=phase)


def _rate(name: str, per: float) -> tuple[Callable[[Player], float], Callable[[Player, float], Player]]:
    """A time in ms shown as how often it fits into `per` ms."""
    return (
        lambda player: per / getattr(player.picking, name),
        lambda player, value: _picking(player, **{name: per / value}),
    )


def _time(name: str) -> tuple[Callable[[Player], float], Callable[[Player, float], Player]]:
    return (
        lambda player: getattr(player.picking, name),
        lambda player, value: _picking(player, **{name: value}),
    )


def _finger_time(name: str) -> tuple[Callable[[Player], float], Callable[[Player, float], Player]]:
    return (
        lambda player: getattr(player.fretting, name),
        lambda player, value: _fretting(player, **{name: value}),
    )


def _scaled(name: str) -> tuple[Callable[[Player], float], Callable[[Player, float], Player]]:
    """Four numbers, one a finger, set by the little finger's and kept in proportion."""

    def change(player: Player, value: float) -> Player:
        old = getattr(player.fretting, name)
        return _fretting(player, **{name: tuple(v * value / old[-1] for v in old)})

    return lambda player: getattr(player.fretting, name)[-1], change


def _spread(pair: int) -> tuple[Callable[[Player], float], Callable[[Player, float], Player]]:
    """How far two neighbouring fingers spread at ease, by the number of the pair."""

    def change(player: Player, value: float) -> Player:
        old = player.fretting.spread_mm
        return _fretting(player, spread_mm=(*old[:pair], value, *old[pair + 1 :]))

    return lambda player: player.fretting.spread_mm[pair], change


def _shift_ms(player: Player) -> float:
    hand = player.fretting
    return hand.shift_ms + _SAMPLE_SHIFT_MM * hand.shift_ms_per_mm


def _with_shift(player: Player, value: float) -> Player:
    factor = value / _shift_ms(player)
    hand = player.fretting
    return _fretting(player, shift_ms=hand.shift_ms * factor, shift_ms_per_mm=hand.shift_ms_per_mm * factor)


def _lean(name: str) -> tuple[Callable[[Player], float], Callable[[Player, float], Player]]:
    """Of the player's leans the first; the second of one who can switch mirrors it."""

    def change(player: Player, value: float) -> Player:
        changed: dict[str, Any] = {name: value}
        first = replace(player.leans[0], **changed)
        others = (replace(o, tilt_deg=-first.tilt_deg, radius_mm=first.radius_mm) for o in player.leans[1:])
        return replace(player, leans=(first, *others))

    return lambda player: getattr(player.leans[0], name), change


NUMBERS: tuple[HandNumber, ...] = (
    HandNumber("sixteenths", PICKING, "Sixteenths on one string run to", "quarters a minute", 40, 320, 1, 1,
           "The fastest tempo at which alternate sixteenths on one string stay clean",
           lambda p: MINUTE_MS / 4 / p.picking.alternate_ms,
           lambda p, v: _strokes(p, MINUTE_MS / 4 / v, p.picking.repeat_ms)),
    HandNumber("downs", PICKING, "Eighths, all downs, run to", "quarters a minute", 40, 400, 1, 1,
           "The fastest tempo at which eighths stay clean with down-strokes only",
           lambda p: MINUTE_MS / 2 / p.picking.repeat_ms,
           lambda p, v: _strokes(p, p.picking.alternate_ms, MINUTE_MS / 2 / v)),
    HandNumber("sweep", PICKING, "Sweeping, strings a second", "a second", 4, 50, 0.5, 1,
           "How many neighbouring strings one carried stroke sounds in a second, one clean note each",
           *_rate("carry_ms", 1000.0)),
    HandNumber("hop", PICKING, "Going over a string in the air adds", "ms", 0.5, 100, 0.5, -1,
           "Extra time for the pick on its way over one string to the next, once it is free; over more it grows with the way",
           lambda p: p.picking.hop_bit_ms * _BITS_A_STRING,
           lambda p, v: _picking(p, hop_bit_ms=v / _BITS_A_STRING)),
    HandNumber("aim", PICKING, "Leaving a string out adds", "ms", 0, 100, 1, -1,
           "Extra time to find a string beyond one that is left out, for each of them", *_time("aim_ms")),
    HandNumber("lift", PICKING, "Getting out from between strings", "ms", 0.5, 150, 1, -1,
           "Extra time before the pick can pass over a string when its stroke ended buried", *_time("lift_out_ms")),
    HandNumber("pluck", PICKING, "One finger plucks again", "times a second", 2, 14, 0.1, 1,
           "How often in a second the same bare finger plucks", *_rate("pluck_same_ms", 1000.0)),
    HandNumber("inside", PICKING, "An inside change against an outside one", "times", 0.5, 2, 0.01, 0,
           "Over 1 a change in the gap between two strings is harder for you than one around them, under 1 easier",
           lambda p: p.picking.inside_factor, lambda p, v: _picking(p, inside_factor=v)),
    HandNumber("small", PICKING, "A motion kept small reaches over", "strings", 1, 10, 1, 0,
           "With the motion as small as possible: strings apart before the hand has to travel", *_time("small_strings")),
    HandNumber("alternate_over", PICKING, "Schools of downs alternate above", "quarters a minute", 0, 1000, 1, 0,
           "From this tempo on Downs goes by the pulse and New string down alternates",
           lambda p: p.judging.alternate_over, lambda p, v: replace(p, judging=replace(p.judging, alternate_over=v)), "never"),
    HandNumber("dial", PICKING, "Least work, or the highest ceiling", "", 1, 8, 0.5, 0,
           "1 looks for the least work in all; up to 8 the hardest move counts more and more",
           lambda p: p.judging.dial, lambda p, v: replace(p, judging=replace(p.judging, dial=v))),
    HandNumber("palm", PICKING, "Palm on or off", "ms", 10, 300, 5, -1,
           "Time for laying the palm on the strings, or lifting it", *_time("palm_ms")),
    HandNumber("tilt", LEANING, "Lean of its path", "degrees", -40, 40, 1, 0,
           "Over 0 down-strokes end higher, under 0 up-strokes do", *_lean("tilt_deg")),
    HandNumber("radius", LEANING, "Radius of its path", "mm", 10, 200, 1, 0,
           "A small radius curves the stroke up at both ends, a large one is flat", *_lean("radius_mm")),
    HandNumber("depth", LEANING, "Depth of its tip", "mm", 0.5, 5, 0.1, 0,
           "How far the tip goes below the strings' plane",
           lambda p: p.depth_mm, lambda p, v: replace(p, depth_mm=v)),
    HandNumber("span", FRETTING, "Index to little finger, relaxed", "mm", 40, 120, 1, 1,
           "From the index to the little finger with the hand at ease; fingers between keep their share",
           *_scaled("offsets_mm")),
    HandNumber("reach", FRETTING, "The little finger stretches on by", "mm", 5, 90, 1, 1,
           "How far past its relaxed place the little finger can go; the others keep their share", *_scaled("reach_mm")),
    HandNumber("spread12", FRETTING, "Index to middle, spread at ease", "mm", 10, 70, 1, 1,
           "Both fingertips on a ruler, as far apart as they go without effort", *_spread(0)),
    HandNumber("spread23", FRETTING, "Middle to ring, spread at ease", "mm", 8, 60, 1, 1,
           "Both fingertips on a ruler, as far apart as they go without effort", *_spread(1)),
    HandNumber("spread34", FRETTING, "Ring to little, spread at ease", "mm", 8, 60, 1, 1,
           "Both fingertips on a ruler, as far apart as they go without effort", *_spread(2)),
    HandNumber("caution", FRETTING, "Care for wrist and arm from", "% of the reach", 0, 100, 1, 0,
           "A reach over this share of the hand's limit is told with a word of care",
           lambda p: 100 * p.judging.caution_share,
           lambda p, v: replace(p, judging=replace(p.judging, caution_share=v / 100))),
    HandNumber("arm", FRETTING, "The arm goes along from", "mm", 0, 1000, 5, 0,
           "Shifts shorter than this are made by wrist and thumb",
           lambda p: p.judging.arm_mm, lambda p, v: replace(p, judging=replace(p.judging, arm_mm=v))),
    HandNumber("finger", FRETTING, "A ready finger comes down in", "ms", 20, 200, 1, -1,
           "Time for a finger that hovers over its fret", *_finger_time("finger_ms")),
    HandNumber("roll", FRETTING, "A finger rolls to the next string in", "ms", 20, 250, 1, -1,
           "Rocking one finger to the same fret of the neighbour string", *_finger_time("roll_ms")),
    HandNumber("jump", FRETTING, "The same finger jumps in", "ms", 30, 300, 1, -1,
           "One finger leaving its place for another fret or a far string", *_finger_time("jump_ms")),
    HandNumber("shift", FRETTING, "A shift of 100 mm takes", "ms", 40, 500, 5, -1,
           "Moving the whole hand 100 mm along the neck; shorter and longer ones keep the proportion",
           _shift_ms, _with_shift),
    HandNumber("meet", FRETTING, "Down before its stroke by", "ms", 0, 200, 1, -1,
           "How much sooner than its stroke a finger must be down: both hands together are slower than one", *_finger_time("meet_ms")),
    HandNumber("form", FRETTING, "A new chord, each further note", "ms", 0, 500, 5, -1,
           "Open chords changed each beat: what each note of the new one takes after the first", *_finger_time("form_ms")),
    HandNumber("grip", FRETTING, "A chord carried, each further note", "ms", 0, 300, 5, -1,
           "One shape let go, carried along the neck and pressed again: what each note takes after the first",
           *_finger_time("grip_ms")),
)  # fmt: skip


def _plucking(*ways: str) -> Callable[[School], bool]:
    return lambda school: school.plucks in ways


def _strokes_are_open(school: School) -> bool:
    return school.strokes_open


def _yes_no(yes: str, no: str) -> tuple[Option, ...]:
    return Option(True, yes), Option(False, no)


HABITS: tuple[Habit, ...] = (
    Habit("rest_through", PICKING, "Carried strokes", "Whether a sweep rests on the next string or strikes each anew",
          _yes_no("rest on the next string", "each an attack of its own"), lambda school: school.rests),
    Habit("skip_through", PICKING, "Over a skipped string",
          "Whether a stroke goes on in its direction over a string that is left out, where the school carries through",
          _yes_no("the stroke carries on", "it alternates again"),
          lambda school: school.kinds != school.kinds_without_skip_through),
    Habit("hybrid_beats", PICKING, "Beats in the hybrid school", "Whether the pick also takes the notes on the beat",
          _yes_no("are the pick's", "go to whoever has the string"), _plucking("hybrid")),
    Habit("contact", PICKING, "The hand", "A hand that touches somewhere reaches only so far before it lets go",
          (Option("floating", "floats"), Option("heel", "rests its heel"), Option("palm", "lays its palm on the low strings"),
           Option("little", "plants the little finger"), Option("thumb", "leans its thumb (bass)"))),
    Habit("motion", PICKING, "Across the strings",
          "Small motions are quick and even; letting the hand go along keeps its angle on wide patterns",
          (Option("travels", "the hand goes along"), Option("small", "as small as possible"))),
    Habit("rest_downs", PICKING, "Down-strokes",
          "A down-stroke that rests on the next string is strong and even; a free one is ready sooner",
          _yes_no("always rest on the next string", "rest where there is time")),
    Habit("first_attack", PICKING, "First of slurred notes",
          "What strikes a note that others are slurred to, so that it is not louder than they are",
          (Option("either", "any stroke"), Option("down", "a down-stroke"), Option("up", "an up-stroke"),
           Option("finger", "a finger, where the school plucks")),
          lambda school: _strokes_are_open(school) and school.plucks != "fingers"),
    Habit("graces", FRETTING, "Grace notes", "Whether a grace takes the stroke and its note is slurred from it, or is slurred itself",
          (Option("slurred", "slurred, one stroke for both"), Option("picked", "a stroke each")),
          lambda school: not school.pattern and not school.one_stroke),
    Habit("grace_time", FRETTING, "Their time", "Whose time a grace note takes",
          (Option("before", "before the beat, from the note before"), Option("on", "on the beat, from its own note"))),
    Habit("accents_down", PICKING, "Accents", "Whether an accent wants the down-stroke",
          _yes_no("want the down-stroke", "fall on either stroke"),
          lambda school: _strokes_are_open(school) and school.plucks != "fingers"),
    Habit("free_fingers", PICKING, "Bare fingers in the free school", "Whether fingers may pluck beside the pick there",
          _yes_no("may pluck", "do not pluck"), _plucking("free")),
    Habit("hybrid_fingers", PICKING, "Fingers beside the pick", "Which bare fingers pluck in the hybrid school",
          (Option("mac", "middle, ring, little"), Option("ma", "middle, ring"), Option("m", "middle alone")),
          _plucking("hybrid", "free")),
    Habit("bare_fingers", PICKING, "Fingers on a bass", "Which fingers take turns without a pick",
          (Option("im", "index, middle"), Option("ima", "index, middle, ring")), _plucking("fingers")),
    Habit("guitar_fingers", PICKING, "Fingers on a guitar", "Without a pick: the thumb on the low strings, a finger a string above",
          (Option("pima", "thumb, index, middle, ring"), Option("pim", "thumb, index, middle"),
           Option("pimac", "thumb and all four")), _plucking("fingers")),
    Habit("same_fret", FRETTING, "One fret on neighbour strings", "Roll one finger over, or set a finger on each",
          (Option("either", "either way"), Option("roll", "one finger rolls"), Option("separate", "a finger each"))),
    Habit("hold", FRETTING, "Fingers lift", "When a finger leaves its note",
          (Option("lift", "before the next"), Option("until-next", "with the next note"),
           Option("overlap", "after the next has sounded"), Option("ring", "late, it rings"))),
    Habit("bass_hand", FRETTING, "Low on a bass",
          "A finger a fret reaches four frets; 1-2-4 spares the hand where frets are wide, the ring finger helping the little one",
          (Option("each", "a finger a fret"), Option("124", "1-2-4 over three frets"))),
    Habit("thumb", FRETTING, "The thumb", "Whether it may fret the lowest string over the neck",
          _yes_no("reaches over the neck", "stays behind the neck")),
    Habit("left_handed", FRETTING, "The neck points", "Which way round the neck and the chart are drawn",
          _yes_no("right: left-handed", "left: right-handed")),
)  # fmt: skip


def able_to_switch(player: Player, on: bool) -> Player:
    """The player with one lean, or with it and its mirror image to switch between."""
    first = player.leans[0]
    if not on:
        return replace(player, leans=(first,))
    mirror = replace(first, name=f"{first.name}, mirrored", tilt_deg=-first.tilt_deg)
    return replace(player, leans=(first, mirror))
