"""The player: what one pair of hands can do, in millimetres and milliseconds.

Every number is an estimate until the player's own takes replace it; the starting values, with a note on where each
comes from, live in a data file outside the core. Ranges here only keep out what no hand can mean.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from dromic.core.checks import check_choice, check_range, check_ranged_fields, ranged
from dromic.core.errors import DromicError

HOLDS = ("until-next", "lift", "ring")


@dataclass(frozen=True, slots=True)
class Lean:
    """One way of holding the plane of the pick's path; several make a player who can switch."""

    name: str
    tilt_deg: float = ranged(
        "deg", -60, 60, "over 0 lifts the pick at the end of a down-stroke, under 0 of an up-stroke"
    )
    radius_mm: float = ranged("mm", 10, 200, "radius of the arc of the pick's tip")

    def __post_init__(self) -> None:
        check_ranged_fields(self)

    def height_mm(self, across_mm: float, depth_mm: float) -> float:
        """Height of the tip over the strings' plane at a signed distance from the string played.

        h(u) = -p + u tan(t) + u^2 / (2R): a tilted straight path plus the parabola that a circular arc of radius R
        is near its lowest point.
        """
        tilt = math.tan(math.radians(self.tilt_deg))
        return -depth_mm + across_mm * tilt + across_mm**2 / (2 * self.radius_mm)


@dataclass(frozen=True, slots=True)
class PickingHand:
    """Times of the picking hand's moves."""

    alternate_ms: float = ranged("ms", 20, 500, "one half-stroke of alternate picking on a string")
    repeat_ms: float = ranged("ms", 20, 800, "the same stroke again on a string, silent return included")
    carry_ms: float = ranged("ms", 5, 400, "carry-through to the neighbour string")
    carry_from_clear_ms: float = ranged("ms", 0, 200, "added when the pick must drop in first")
    turn_outer_ms: float = ranged("ms", 0, 200, "added when a carry-through ends on the outermost string")
    hop_bit_ms: float = ranged("ms/bit", 0, 100, "added per bit of log2(1 + 2 hops)")
    inside_factor: float = ranged("", 0.5, 2, "how much dearer a change in the gap is than one around the strings")
    lift_out_ms: float = ranged("ms", 0, 300, "getting out from between the strings before a hop")
    lean_change_ms: float = ranged("ms", 0, 500, "changing the lean between two strokes")
    phase_ms: float = ranged("ms", 0, 500, "a stroke against the swing of the hand: stop and restart")
    pick_after_pluck_ms: float = ranged("ms", 0, 500, "a pick stroke after a plucking finger")
    pluck_after_pick_ms: float = ranged("ms", 0, 500, "a plucking finger after the pick")
    pluck_other_ms: float = ranged("ms", 0, 500, "another plucking finger after one")
    pluck_same_ms: float = ranged("ms", 0, 800, "the same plucking finger again")
    pick_after_tap_ms: float = ranged("ms", 0, 800, "back from the fretboard to the strings' picking place")
    sustained_factor: float = ranged("", 1, 3, "how much slower half a minute of repeats is")
    sustained_repeat_factor: float = ranged("", 1, 3, "the same for strokes repeated in one direction")

    def __post_init__(self) -> None:
        check_ranged_fields(self)
        if self.phase_ms <= self.repeat_ms - self.alternate_ms:
            raise DromicError(
                f"phase_ms is {self.phase_ms:g}; it must exceed repeat_ms less alternate_ms, "
                f"{self.repeat_ms - self.alternate_ms:g} ms"
            )


@dataclass(frozen=True, slots=True)
class FrettingHand:
    """Reach, times and prices of the fretting hand. Prices are in units of the objective (a load of 1 costs 1)."""

    offsets_mm: tuple[float, ...] = ranged("mm", -10, 200, "relaxed place of each finger 1..4 from the index")
    reach_mm: tuple[float, ...] = ranged("mm", 0, 150, "how far past its relaxed place each finger can go")
    crowd_mm: tuple[float, ...] = ranged("mm", 0, 150, "how far short of its relaxed place each finger can squeeze")
    behind_fret_mm: float = ranged("mm", 0, 20, "a finger is placed this far behind its fret")
    finger_ms: float = ranged("ms", 5, 400, "a ready finger coming down")
    roll_ms: float = ranged("ms", 5, 500, "rocking one finger to the neighbour string")
    barre_ms: float = ranged("ms", 5, 500, "one finger lying flat over several strings")
    jump_ms: float = ranged("ms", 5, 800, "the same finger to another fret or a far string")
    shift_ms: float = ranged("ms", 5, 800, "fixed part of moving the hand along the neck")
    shift_ms_per_mm: float = ranged("ms/mm", 0, 10, "part of a shift that grows with its length")
    slide_ms: float = ranged("ms", 5, 500, "fixed part of a slide")
    slide_ms_per_mm: float = ranged("ms/mm", 0, 10, "part of a slide that grows with its length")
    sustained_factor: float = ranged("", 1, 3, "how much slower half a minute of repeats is")
    stretch_unit_mm: float = ranged("mm", 1, 100, "a stretch this far past the relaxed place costs the stretch price")
    stretch_price: float = ranged("", 0, 20, "reaching out, grows with the square")
    crowd_price: float = ranged("", 0, 20, "squeezing together, grows with the square")
    one_per_fret_price: float = ranged("", 0, 20, "habit: leaving one finger a fret, per fret")
    open_position_price: float = ranged(
        "", 0, 20, "habit: leaving finger n on fret n where a bar fits first position, open strings among it"
    )
    little_price: float = ranged("", 0, 20, "using the little finger")
    roll_prices: tuple[float, ...] = ranged("", 0, 20, "rocking finger 1..4")
    barre_price: float = ranged("", 0, 20, "laying a finger flat")
    jump_price: float = ranged("", 0, 20, "the same finger jumping")
    shift_price: float = ranged("", 0, 20, "any shift, however much time it has")
    shift_price_per_mm: float = ranged("1/mm", 0, 1, "part of a shift's price that grows with its length: aim")
    cross_price: float = ranged("", 0, 20, "a finger crossing over another")
    weak_34_price: float = ranged("", 0, 20, "fingers 3 and 4 in turn, at speed")
    weak_24_price: float = ranged("", 0, 20, "fingers 2 and 4 in turn, at speed")
    neck_price: float = ranged("", 0, 1, "habit: each fret away from first position")
    body_price: float = ranged("", 0, 20, "each fret beyond the neck's joint with the body")
    stretch_from_mm: float = ranged("mm", 0, 100, "a finger this far past its relaxed place counts as a stretch")

    def __post_init__(self) -> None:
        for name in ("offsets_mm", "reach_mm", "crowd_mm", "roll_prices"):
            if len(getattr(self, name)) != 4:
                raise DromicError(f"{name} has {len(getattr(self, name))} values; it needs one for each finger 1 to 4")
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class Habits:
    """Choices on which players differ."""

    hold: str
    rest_downs: bool

    def __post_init__(self) -> None:
        check_choice("hold", self.hold, HOLDS)


@dataclass(frozen=True, slots=True)
class Judging:
    """How plans are weighed: the dial, the steep price past a load of 1, knots and the spread of the estimates."""

    dial: float = ranged("", 1, 8, "power of a load: 1 for least work, high for the highest ceiling")
    over_price: float = ranged("", 0, 1000, "price of each load past 1")
    knot_ms: float = ranged("ms", 0, 300, "both hands moving in one gap: added to the larger load")
    knot_price: float = ranged("", 0, 20, "price of a knot, times its added load")
    gap_price: float = ranged("", 0, 20, "each damped string that a stroke must cross inside a chord")
    spread: float = ranged("", 0, 0.9, "how far an estimated ceiling may be off, as a share")
    start_up_price: float = ranged("", 0, 1, "starting on an up-stroke where the choice is free")
    memory_ms: float = ranged("ms", 50, 2000, "time after which a hand has come to rest")
    report_load: float = ranged("", 0, 2, "a move is worth a finding from this load on")
    severe_load: float = ranged("", 0, 5, "a finding is severe from this load on")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class Player:
    """One pair of hands. `leans` holds more than one lean for a player who can switch."""

    name: str
    label: str
    picking: PickingHand
    fretting: FrettingHand
    judging: Judging
    habits: Habits
    leans: tuple[Lean, ...]
    depth_mm: float = ranged("mm", 0.2, 10, "how deep the pick's tip goes")
    clearance_mm: float = ranged("mm", 0, 5, "height over the strings' plane that counts as clear")

    def __post_init__(self) -> None:
        check_ranged_fields(self)
        if not self.leans:
            raise DromicError("leans is empty; a player needs at least one lean")

    def with_leans(self, leans: tuple[Lean, ...]) -> Player:
        return replace(self, leans=leans)

    def clears(self, lean: Lean, stroke_sign: int, spacing_mm: float) -> bool:
        """Whether a stroke (+1 down, -1 up) ends clear of the neighbour string."""
        check_range("string spacing", spacing_mm, 2, 40, "mm")
        return lean.height_mm(stroke_sign * spacing_mm, self.depth_mm) > self.clearance_mm
