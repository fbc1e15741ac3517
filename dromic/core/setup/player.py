"""The player: what one pair of hands can do, in millimetres and milliseconds.

Every number is an estimate until the player's own takes replace it; the starting values, with a note on where each
comes from, live in a data file outside the core. Ranges here only keep out what no hand can mean.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, fields, replace

from dromic.core.values.checks import check_choice, check_range, check_ranged_fields, check_text, ranged
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import GRACE_TIMES, GRACE_WAYS

BASS_HANDS = ("each", "124")
HOLDS = ("lift", "until-next", "overlap", "ring")
SAME_FRET = ("either", "roll", "separate")
MOST_LETTERS = 80
"""Letters of a player's label."""
MOST_LEANS = 8
"""Ways of leaning: each makes the search larger."""
CONTACTS = ("floating", "heel", "palm", "little", "thumb")
MOTIONS = ("travels", "small")
FIRST_ATTACKS = ("either", "down", "up", "finger")


@dataclass(frozen=True, slots=True)
class Lean:
    """One way of holding the plane of the pick's path; several make a player who can switch."""

    name: str
    tilt_deg: float = ranged(
        "deg", -60, 60, "over 0 lifts the pick at the end of a down-stroke, under 0 of an up-stroke"
    )
    radius_mm: float = ranged("mm", 10, 200, "radius of the arc of the pick's tip")

    def __post_init__(self) -> None:
        check_text("name of a lean", self.name, MOST_LETTERS)
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
    aim_ms: float = ranged("ms", 0, 200, "added per string left out between two that are struck one after the other")
    hop_bit_ms: float = ranged("ms/bit", 0, 100, "added per bit of log2(1 + 2 hops)")
    inside_factor: float = ranged("", 0.5, 2, "how much dearer a change in the gap is than one around the strings")
    lift_out_ms: float = ranged("ms", 0, 300, "getting out from between the strings before a hop")
    lean_change_ms: float = ranged("ms", 0, 500, "changing the lean between two strokes")
    phase_ms: float = ranged("ms", 0, 800, "a stroke against the swing of the hand: stop and restart")
    pick_after_pluck_ms: float = ranged("ms", 0, 500, "a pick stroke after a plucking finger")
    pluck_after_pick_ms: float = ranged("ms", 0, 500, "a plucking finger after the pick")
    pluck_other_ms: float = ranged("ms", 0, 500, "another plucking finger after one")
    pluck_same_ms: float = ranged("ms", 0, 800, "the same plucking finger again")
    rake_ms: float = ranged("ms", 0, 800, "one plucking finger raking on to the next lower string")
    pluck_memory_ms: float = ranged("ms", 0, 2000, "time after which a plucking finger has come to rest")
    separate_ms: float = ranged("ms", 0, 300, "added to a carry-through when each string gets an attack of its own")
    palm_ms: float = ranged("ms", 0, 800, "laying the palm on the strings, or lifting it")
    pick_after_tap_ms: float = ranged("ms", 0, 800, "back from the fretboard to the strings' picking place")
    sustained_factor: float = ranged("", 1, 3, "how much slower half a minute of repeats is")
    sustained_repeat_factor: float = ranged("", 1, 3, "the same for strokes repeated in one direction")
    heel_reach_mm: float = ranged("mm", 5, 150, "across the strings with the heel of the hand on the bridge")
    palm_reach_mm: float = ranged("mm", 5, 150, "across the strings with the palm lying on the lower ones")
    little_reach_mm: float = ranged("mm", 5, 150, "across the strings with the little finger planted on the body")
    thumb_reach_mm: float = ranged(
        "mm", 5, 150, "across the strings with the plucking hand's thumb leaning on one place"
    )
    small_strings: float = ranged(
        "strings", 1, 10, "how many strings a motion kept small reaches over before the hand must travel"
    )
    first_attack_price: float = ranged(
        "", 0, 20, "the first note of a slurred group struck louder than the notes slurred to"
    )
    finger_prices: tuple[float, ...] = ranged("", 0, 20, "plucking with p, i, m, a, c")
    below_pick_price: float = ranged("", 0, 20, "a finger plucking the pick's string or a lower one, where it must")
    away_price: float = ranged("", 0, 20, "each string a plucking finger is away from its natural one")
    up_after_pluck_price: float = ranged("", 0, 20, "the pick coming back from a pluck on an up-stroke")

    def __post_init__(self) -> None:
        check_ranged_fields(self)
        if len(self.finger_prices) != 5:
            raise DromicError(f"finger_prices has {len(self.finger_prices)} values; it needs one for each of p i m a c")
        if self.phase_ms <= self.repeat_ms - self.alternate_ms:
            raise DromicError(
                f"phase_ms is {self.phase_ms:g}; it must exceed repeat_ms less alternate_ms, "
                f"{self.repeat_ms - self.alternate_ms:g} ms"
            )


@dataclass(frozen=True, slots=True)
class FrettingHand:
    """Reach, times and prices of the fretting hand. Prices are in units of the objective (a load of 1 costs 1)."""

    offsets_mm: tuple[float, ...] = ranged(
        "mm", -10, 200, "how far each finger 1..4 lies from the index at ease, the hand opened over a finger a fret"
    )
    closed_mm: tuple[float, ...] = ranged("mm", -10, 200, "the same with the fingers beside each other")
    free_share: float = ranged(
        "", 0, 1, "share of a fret's width, behind its wire, where a finger presses without effort"
    )
    spread_mm: tuple[float, ...] = ranged("mm", 0, 100, "how far fingers 1-2, 2-3 and 3-4 lie apart at ease at most")
    spread_prices: tuple[float, ...] = ranged("", 0, 20, "spreading 1-2, 2-3, 3-4 past that, grows with the square")
    step_share: float = ranged(
        "", 0, 2, "how much of that is left where the two play in turn, and the hand can turn towards each"
    )
    reach_mm: tuple[float, ...] = ranged("mm", 0, 150, "how far past its relaxed place each finger can go")
    crowd_mm: tuple[float, ...] = ranged("mm", 0, 150, "how far short of its relaxed place each finger can squeeze")
    crowd_chord_mm: tuple[float, ...] = ranged("mm", 0, 150, "the same in a chord, where fingers stand on one fret")
    behind_fret_mm: float = ranged("mm", 0, 20, "a finger is placed this far behind its fret")
    finger_ms: float = ranged("ms", 5, 400, "a ready finger coming down")
    meet_ms: float = ranged("ms", 0, 400, "how much sooner than its stroke a finger must be down")
    form_ms: float = ranged("ms", 0, 800, "each note past the first of a chord for which the hand is formed anew")
    grip_ms: float = ranged("ms", 0, 800, "each note past the first of a chord carried along the neck")
    roll_ms: float = ranged("ms", 5, 500, "rocking one finger to the neighbour string")
    barre_ms: float = ranged("ms", 5, 500, "one finger lying flat over several strings")
    jump_ms: float = ranged("ms", 5, 800, "the same finger to another fret or a far string")
    shift_ms: float = ranged("ms", 5, 800, "fixed part of moving the hand along the neck")
    shift_ms_per_mm: float = ranged("ms/mm", 0, 10, "part of a shift that grows with its length")
    string_mm: float = ranged("mm", 3, 20, "from string to string under the fingers, as far as their travel goes")
    travel_ms_per_mm: float = ranged("ms/mm", 0, 10, "a finger's way from one chord to the next, beside coming down")
    travel_price_per_mm: float = ranged("1/mm", 0, 1, "the same as a price")
    slide_ms: float = ranged("ms", 5, 500, "fixed part of a slide")
    slide_ms_per_mm: float = ranged("ms/mm", 0, 10, "part of a slide that grows with its length")
    slide_price: float = ranged("", 0, 20, "sliding: it smears where a hammer or a pull would be clean")
    sustained_factor: float = ranged("", 1, 3, "how much slower half a minute of repeats is")
    sustained_hold_factor: float = ranged(
        "", 1, 3, "the same where a barre or a stretch is held: it tires the hand while nothing moves"
    )
    planted_share: float = ranged(
        "", 0, 1, "how much of a ready finger's time is left for the lower one on its string, which can be down already"
    )
    touch_share: float = ranged(
        "", 0, 1, "how much of a barre's price is left where the finger only touches the strings"
    )
    stretch_unit_mm: float = ranged("mm", 1, 100, "a stretch this far past the relaxed place costs the stretch price")
    stretch_price: float = ranged("", 0, 20, "reaching out, grows with the square")
    crowd_price: float = ranged("", 0, 20, "squeezing together, grows with the square")
    one_per_fret_price: float = ranged("", 0, 20, "habit: leaving one finger a fret, per fret")
    closed_share: float = ranged(
        "", 0, 2, "how much of that it costs to be closer to the index, instead of reaching out"
    )
    index_off_price: float = ranged("", 0, 20, "the same for the index, whose fret is the hand's position")
    open_position_price: float = ranged(
        "", 0, 20, "habit: leaving finger n on fret n where a bar fits first position, open strings among it"
    )
    little_price: float = ranged("", 0, 20, "using the little finger")
    roll_prices: tuple[float, ...] = ranged("", 0, 20, "rocking finger 1..4")
    barre_prices: tuple[float, ...] = ranged("", 0, 20, "laying finger 1..4 flat over several strings")
    barre_string_price: float = ranged("", 0, 20, "middle, ring or little laid flat: each string past the second")
    spare_price: float = ranged(
        "", 0, 20, "a finger flat over a string it does not sound, where the fingers left could press one by one"
    )
    jump_price: float = ranged("", 0, 20, "the same finger jumping")
    shift_price: float = ranged("", 0, 20, "any shift, however much time it has")
    shift_price_per_mm: float = ranged("1/mm", 0, 1, "part of a shift's price that grows with its length: aim")
    guide_share: float = ranged(
        "", 0, 1, "how much of a shift's price is left with a finger to guide it along its string"
    )
    cross_price: float = ranged("", 0, 20, "a finger crossing over another")
    order_price: float = ranged("", 0, 20, "on one fret, the higher-numbered finger on the lower string")
    tip_step_strings: float = ranged(
        "strings", 0, 3, "how far towards string 1 each finger's tip lies from the one before it"
    )
    off_line_price: float = ranged("", 0, 5, "fingers of a chord off that line, grows with the square of the strings")
    reshape_price: float = ranged("", 0, 20, "each finger changed between two chords of one shape")
    cell_price: float = ranged("", 0, 20, "each note of a cell that comes again under another finger than usual")
    side_price: float = ranged(
        "", 0, 20, "each finger past two side by side on one fret where one could lie flat, or after another in a row"
    )
    arch_price: float = ranged("", 0, 20, "each finger lying flat that arches over open strings which sound")
    stay_price: float = ranged("", 0, 20, "each note that stays, or comes again at once, under another finger")
    amid_price: float = ranged("", 0, 20, "habit: each open note that lies under a hand up the neck")
    arrive_price: float = ranged("", 0, 20, "each finger of a chord that was not down in the chord before")
    cut_price: float = ranged("", 0, 20, "each note let go before its end")
    weak_34_price: float = ranged("", 0, 20, "fingers 3 and 4 in turn, at speed")
    weak_24_price: float = ranged("", 0, 20, "fingers 2 and 4 in turn, at speed")
    neck_price: float = ranged("", 0, 1, "habit: each fret away from first position")
    high_price: float = ranged("", 0, 1, "habit: each fret past the ninth of a tune that can be had low on the neck")
    body_price: float = ranged("", 0, 20, "each fret beyond the neck's joint with the body")
    stretch_from_mm: float = ranged("mm", 0, 100, "a finger this far past its relaxed place counts as a stretch")
    underside_strings: float = ranged(
        "strings", 0, 8, "strings above the stopped one that a finger's underside touches"
    )
    roll_habit_price: float = ranged("", 0, 20, "a roll, for players who set a finger on each string, or the reverse")
    hammer_new_prices: tuple[float, ...] = ranged("", 0, 20, "finger 1..4 sounding a silent string on its own")
    bend_prices: tuple[float, ...] = ranged("", 0, 20, "finger 1..4 bending by a semitone")
    bend_ms: float = ranged("ms", 0, 500, "bending or letting down by a semitone")
    vibrato_prices: tuple[float, ...] = ranged("", 0, 20, "vibrato with finger 1..4")
    three_frets_below: float = ranged(
        "frets", 0, 24, "on a bass, for players of 1-2-4: below this position the hand spans three frets"
    )
    support_price: float = ranged(
        "", 0, 20, "the ring finger stopping a note alone there, where it supports the little one"
    )
    thumb_price: float = ranged("", 0, 20, "the thumb over the neck")
    thumb_reach_mm: float = ranged("mm", 0, 60, "how far from the index the thumb can fret, either way")

    def __post_init__(self) -> None:
        check_ranged_fields(self)
        for name in (
            "offsets_mm", "closed_mm", "reach_mm", "crowd_mm", "crowd_chord_mm", "roll_prices", "barre_prices", "hammer_new_prices",
            "bend_prices", "vibrato_prices",
        ):  # fmt: skip
            if len(getattr(self, name)) != 4:
                raise DromicError(f"{name} has {len(getattr(self, name))} values; it needs one for each finger 1 to 4")
        for name in ("spread_mm", "spread_prices"):
            if len(getattr(self, name)) != 3:
                raise DromicError(
                    f"{name} has {len(getattr(self, name))} values; it needs one each for 1-2, 2-3 and 3-4"
                )


@dataclass(frozen=True, slots=True)
class Habits:
    """Choices on which players differ."""

    hold: str
    """when a finger leaves its note: lift (at the note's end, before the next where there is a gap), until-next (exactly
    with the next note), overlap (after it has sounded), or ring (held on)"""
    rest_downs: bool
    """every down-stroke comes to rest on the next string"""
    same_fret: str
    """one fret on neighbouring strings in turn: roll one finger, or separate fingers, or either"""
    accents_down: bool
    """accents want the down-stroke"""
    free_fingers: bool
    """in the school free, bare fingers may pluck"""
    hybrid_fingers: str
    """the plucking fingers beside the pick, from the lowest string up"""
    bare_fingers: str
    """the plucking fingers that take turns without a pick, on a bass"""
    guitar_fingers: str
    """the plucking fingers without a pick on a guitar, the thumb on the low strings, the others on a string each"""
    hybrid_beats: bool
    """in the school hybrid, the pick also takes the beats"""
    thumb: bool
    """the fretting thumb may reach over the neck"""
    bass_hand: str
    """the fretting hand on a bass: a finger a fret everywhere (each), or low on the neck 1-2-4 over three frets (124)"""
    rest_through: bool
    """a carried stroke rests on the next string; otherwise each string gets an attack of its own"""
    skip_through: bool
    """over a skipped string a stroke carries on; otherwise the next one alternates"""
    contact: str
    """where the picking hand touches: floating, heel (on the bridge), palm (on the lower strings), little (finger planted on
    the body), or thumb (leaning on a string or on the pickup, as bassists do)"""
    motion: str
    """the picking hand travels across the strings with the pick (travels), or moves as little as it can (small)"""
    graces: str
    """how grace notes of which nothing is stated are sounded: slurred to their note or from the one before, or picked"""
    grace_time: str
    """whose time they take: that of the note before (before), or of the one they lead to (on)"""
    first_attack: str
    """what strikes a note that others are slurred to, so that it is no louder than they are: either, down, up, finger (where
    the school plucks)"""
    left_handed: bool
    """the neck lies the other way round on screens"""

    def __post_init__(self) -> None:
        for spec in fields(self):
            wanted = bool if spec.type == "bool" else str
            if not isinstance(getattr(self, spec.name), wanted):
                kind = "true or false" if wanted is bool else "a text"
                raise DromicError(f"{spec.name} must be {kind}, not {getattr(self, spec.name)!r:.40}")
        check_choice("hold", self.hold, HOLDS)
        check_choice("same_fret", self.same_fret, SAME_FRET)
        check_choice("bass_hand", self.bass_hand, BASS_HANDS)
        check_choice("contact", self.contact, CONTACTS)
        check_choice("motion", self.motion, MOTIONS)
        check_choice("first_attack", self.first_attack, FIRST_ATTACKS)
        check_choice("graces", self.graces, GRACE_WAYS)
        check_choice("grace_time", self.grace_time, GRACE_TIMES)
        for name in ("hybrid_fingers", "bare_fingers", "guitar_fingers"):
            held = getattr(self, name)
            order = ["pimac".find(f) for f in held]
            if not held or -1 in order or order != sorted(set(order)):
                raise DromicError(f"{name} is {held!r}; it must hold some of p i m a c, in this order")


@dataclass(frozen=True, slots=True)
class Judging:
    """How plans are weighed: the dial, the steep price past a load of 1, knots and the spread of the estimates."""

    figure_beats: float = ranged("beats", 0.5, 16, "a figure of pick and fingers reaches so far either side of a note")
    dial: float = ranged("", 1, 8, "power of a load: 1 for least work, high for the highest ceiling")
    over_price: float = ranged("", 0, 1000, "price of each load past 1")
    knot_ms: float = ranged("ms", 0, 300, "both hands moving in one gap: added to the larger load")
    knot_price: float = ranged("", 0, 20, "price of a knot, times its added load")
    gap_price: float = ranged("", 0, 20, "each damped string that a stroke must cross inside a chord")
    spread: float = ranged("", 0, 0.9, "how far an estimated ceiling may be off, as a share")
    start_up_price: float = ranged("", 0, 1, "starting on an up-stroke where the choice is free")
    beat_price: float = ranged(
        "", 0, 20, "a stroke against its place in the beat, where there is time and the school leaves it open"
    )
    beat_share: float = ranged("", 0, 0.5, "the share of the ceiling that strokes with the beat may take")
    beat_room: float = ranged(
        "", 1, 100, "times the tempo asked for: strokes with the beat need keep no higher ceiling"
    )
    beat_over_price: float = ranged("", 0, 1000, "a move past that, for each time as long as may be")
    accent_price: float = ranged("", 0, 20, "an accent on an up-stroke, for players who want it down")
    alternate_over: float = ranged(
        "quarters a minute", 0, 1000, "schools of down-strokes go over to alternating above this tempo; 0: never"
    )
    grace_price: float = ranged("", 0, 100, "a stroke more than one in a group of graces and their note")
    legato_price: float = ranged("", 0, 20, "each note left unpicked where it might be picked")
    picking_weight: float = ranged("", 0.01, 100, "weight of the picking hand's loads in the objective")
    fretting_weight: float = ranged("", 0.01, 100, "weight of the fretting hand's loads and strain in the objective")
    overlap_ms: float = ranged("ms", 0, 500, "how long a finger that overlaps stays when the next note has sounded")
    roll_ring_ms: float = ranged("ms", 0, 1000, "a roll faster than this lets both strings ring where fingers are held")
    weak_load: float = ranged("", 0, 2, "a weak pair is told from this share of the time a finger needs on")
    weak_turns: float = ranged("changes", 1, 50, "and from so many changes in a row on")
    avoidable_from: float = ranged("presses", 1, 100, "avoidable presses are told from so many on")
    caution_share: float = ranged(
        "", 0, 1, "a reach over this share of the hand's limit is told with care for wrist and arm"
    )
    arm_mm: float = ranged("mm", 0, 1000, "shifts from this far on take the arm along; shorter ones wrist and thumb")
    cut_share: float = ranged("", 0, 1, "a note is told as cut short when a shift takes more than this share of it")
    far_frets: float = ranged("frets", 0, 24, "the hand is somewhere else when it is farther away than this")
    min_difference: float = ranged("", 0, 1, "plans really differ from this share of their events on")
    memory_ms: float = ranged("ms", 50, 2000, "time after which a hand has come to rest")
    report_load: float = ranged("", 0, 2, "a move is worth a finding from this load on")
    report_reach: float = ranged("", 0, 2, "a stretch is told from this share of the finger's reach on")
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
        check_text("label", self.label, MOST_LETTERS)
        check_ranged_fields(self)
        if not 1 <= len(self.leans) <= MOST_LEANS:
            raise DromicError(f"leans is empty or too long ({len(self.leans)}); a player has 1 to {MOST_LEANS}")

    def with_leans(self, leans: tuple[Lean, ...]) -> Player:
        """The same hands with other leans."""
        return replace(self, leans=leans)

    @property
    def anchor_reach_mm(self) -> float | None:
        """How far across the strings the picking hand gets without letting go of where it touches; None for floating."""
        touching = self.habits.contact
        return None if touching == "floating" else float(getattr(self.picking, f"{touching}_reach_mm"))

    def clears(self, lean: Lean, stroke_sign: int, spacing_mm: float) -> bool:
        """Whether a stroke (+1 down, -1 up) ends clear of the neighbour string."""
        check_range("string spacing", spacing_mm, 2, 40, "mm")
        return lean.height_mm(stroke_sign * spacing_mm, self.depth_mm) > self.clearance_mm
