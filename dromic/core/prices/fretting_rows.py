"""Rows of the fretting hand: what a shape strains, what a move takes and asks, what a slur needs.

Common practice where no source is named. A row's parameters are facts of its set (`facts.py`) and numbers of the player.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.core.prices.facts import FIGURE, FRET_STEP, MOVE, PAIRS, SHAPE, SLIDING, SLURRING
from dromic.core.prices.load_price import load_price
from dromic.core.prices.row import HURRIED, PERMIT, PRICE, TIME, Row
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.vocabulary import HAMMER, HAMMER_NEW, PULL, SILENT, SLIDE, SLURS, STAY

Bools = NDArray[np.bool_]
Costs = NDArray[np.floating[Any]]
_HABIT = 1
"""First position is the habit, see `core.line.first_position`."""
_LEFT = 2
"""It would fit, but stated places lie elsewhere."""
_LITTLE = 3
"""the column of the little finger"""
_HIGH = 9
"""The fret past which a low tune does not go by habit, see `core.line.first_position`."""
_OF_PAIR = np.array([[low - 1 <= gap < high - 1 for gap in range(3)] for low, high in PAIRS], dtype=float)
"""[6, 3]: which of the gaps 1-2, 2-3, 3-4 each pair of fingers has between it"""
_LEAST_PRICE = 1e-6


def _reach(past_mm: Floats, stretch_price: float, stretch_unit_mm: float) -> Costs:
    return stretch_price * ((np.maximum(past_mm, 0.0) / stretch_unit_mm) ** 2).sum(axis=1)


def _crowd(past_mm: Floats, crowd_price: float, stretch_unit_mm: float) -> Costs:
    return crowd_price * ((np.minimum(past_mm, 0.0) / stretch_unit_mm) ** 2).sum(axis=1)


def _thumb(fret: Ints, thumb_price: float) -> Costs:
    return thumb_price * (fret[:, 4] > 0)


def _support(fret: Ints, three_frets: Bools, support_price: float) -> Costs:
    return support_price * ((fret[:, 2] > 0) & three_frets)


def _index_off(past_fret: Ints, index_off_price: float) -> Costs:
    return index_off_price * np.abs(past_fret[:, 0])


def _one_a_fret(past_fret: Ints, one_per_fret_price: float, closed_share: float) -> Costs:
    others = past_fret[:, 1:4]
    return one_per_fret_price * np.where(others > 0, others, -closed_share * others).sum(axis=1)


def _little(fret: Ints, little_price: float) -> Costs:
    return little_price * (fret[:, _LITTLE] > 0)


def _up_the_neck(fret: Ints, neck_price: float) -> Costs:
    return neck_price * np.maximum(fret - 1, 0).sum(axis=1)


def _past_body(past_body: Ints, body_price: float) -> Costs:
    return body_price * past_body.sum(axis=1)


def _barre(under: Ints, touching: bool, barre_prices: Floats, touch_share: float) -> Costs:
    return (touch_share if touching else 1.0) * ((under[:, :4] > 1) @ barre_prices)


def _barre_strings(under: Ints, touching: bool, barre_string_price: float, touch_share: float) -> Costs:
    more = np.maximum(under[:, 1:4] - 2, 0).sum(axis=1)
    return (touch_share if touching else 1.0) * barre_string_price * more


def _off_line(off_line: Floats, off_line_price: float) -> Costs:
    return off_line_price * off_line


def _spare(bridged: Bools, spare_price: float) -> Costs:
    return spare_price * bridged


def _arch(arched: Ints | float, arch_price: float) -> Costs | float:
    return arch_price * arched


def _spreads(spread_mm: Floats, spread_prices: Floats) -> tuple[Floats, Floats]:
    """[6] each: how far the fingers of a pair lie apart at ease, and the price of more. Neighbours give way like springs in a row."""
    return _OF_PAIR @ spread_mm, 1.0 / (_OF_PAIR @ (1.0 / np.maximum(spread_prices, _LEAST_PRICE)))


def _spread(apart_mm: Floats, spread_mm: Floats, spread_prices: Floats, stretch_unit_mm: float) -> Costs:
    rest, price = _spreads(spread_mm, spread_prices)
    return ((np.maximum(apart_mm - rest, 0.0) / stretch_unit_mm) ** 2) @ price


def _bend(bend: Floats, bend_prices: Floats) -> Costs:
    return bend[:, :4] @ bend_prices


def _vibrato(shaken: Ints, vibrato_prices: Floats) -> Costs:
    return shaken[:, :4] @ vibrato_prices


def _thumb_bends_nothing(bend: Floats, shaken: Ints) -> Bools:
    return np.asarray((bend[:, 4] == 0.0) & (shaken[:, 4] == 0))


def _let_go(let_go: Ints, cut_price: float) -> Costs:
    return cut_price * let_go


def _first_position(first_position: int, stray: Bools, stopped: Ints, open_position_price: float) -> Costs | float:
    if first_position == _HABIT:
        return open_position_price * stray.sum(axis=1)
    return open_position_price * stopped if first_position == _LEFT else 0.0


def _low_tune(low_tune: bool, fret: Ints, high_price: float) -> Costs | float:
    return high_price * np.maximum(fret - _HIGH, 0).sum(axis=1) if low_tune else 0.0


def _cell(unusual: Ints | float, cell_price: float) -> Costs | float:
    return cell_price * unusual


def _side_by_side(side_by_side: Ints | float, side_price: float) -> Costs | float:
    return side_price * side_by_side


SHAPES = (
    Row("reach", SHAPE, PRICE, _reach, "a finger reaches past its relaxed place"),
    Row("crowd", SHAPE, PRICE, _crowd, "a finger squeezes towards its neighbours"),
    Row("thumb", SHAPE, PRICE, _thumb, "the thumb comes over the neck"),
    Row("unsupported ring", SHAPE, PRICE, _support, "the ring finger stops a note where it supports the little one"),
    Row("index off its fret", SHAPE, PRICE, _index_off, "the index is off the hand's own fret"),
    Row("finger off its fret", SHAPE, PRICE, _one_a_fret, "a finger is off the fret it has by nature"),
    Row("little finger", SHAPE, PRICE, _little, "the little finger is used"),
    Row("up the neck", SHAPE, PRICE, _up_the_neck, "the hand is away from first position"),
    Row("past the body", SHAPE, PRICE, _past_body, "frets lie past the neck's joint with the body"),
    Row("barre", SHAPE, PRICE, _barre, "a finger lies flat over several strings"),
    Row("wide barre", SHAPE, PRICE, _barre_strings, "another finger than the index lies flat over more than two strings"),
    Row("fingers off the line", SHAPE, PRICE, _off_line, "fingertips leave the line in which the hand lies across the strings"),
    Row("needless barre", SHAPE, PRICE, _spare, "a finger lies flat over a string it does not sound, and others are left"),
    Row("arched barre", SHAPE, PRICE, _arch, "a finger lies flat and arches over open strings that sound"),
    Row("fingers side by side", SHAPE, PRICE, _side_by_side, "fingers stand side by side where one could lie flat"),
    Row("spread", SHAPE, PRICE, _spread, "two fingers down at once are spread"),
    Row("bend", SHAPE, PRICE, _bend, "a finger bends the string"),
    Row("vibrato", SHAPE, PRICE, _vibrato, "a finger gives vibrato"),
    Row("the thumb bends nothing", SHAPE, PERMIT, _thumb_bends_nothing, "the thumb can neither bend nor give vibrato"),
    Row("let go", SHAPE, PRICE, _let_go, "a note is let go before its end"),
    Row("first position", FIGURE, PRICE, _first_position, "a bar that lies in first position is fingered otherwise"),
    Row("low tune", FIGURE, PRICE, _low_tune, "a tune that can be had low on the neck goes past the ninth fret"),
    Row("cell", FIGURE, PRICE, _cell, "a cell that comes again changes its fingers"),
)  # fmt: skip


def _shift(shifted: Bools, guided: Bools, shift_price: float, guide_share: float) -> Costs:
    return np.where(shifted, np.where(guided, guide_share * shift_price, shift_price), 0.0)


def _aim(shifted: Bools, shift_mm: Floats, guided: Bools, shift_price_per_mm: float, guide_share: float) -> Costs:
    aim = shift_price_per_mm * shift_mm
    return np.where(shifted, np.where(guided, guide_share * aim, aim), 0.0)


def _roll(rolled: Ints | float, roll_prices: Floats) -> Costs | float:
    return 0.0 if isinstance(rolled, float) else rolled @ roll_prices


def _habit_of_fingers(rolled: Ints | float, same_fret: str, roll_habit_price: float) -> Costs | float:
    return 0.0 if isinstance(rolled, float) or same_fret != "separate" else roll_habit_price * rolled.sum(axis=2)


def _habit_of_rolls(separate: Bools, same_fret: str, roll_habit_price: float) -> Costs | float:
    return roll_habit_price * separate if same_fret == "roll" else 0.0


def _in_a_row(apart_in_row: Bools | bool, side_price: float) -> Costs | float:
    return side_price * apart_in_row


def _lay(laid: Ints | float, barre_prices: Floats) -> Costs | float:
    return 0.0 if isinstance(laid, float) else laid @ barre_prices


def _jump(jumped: Bools, jump_price: float) -> Costs:
    return jump_price * jumped


def _walk(walked: Bools, jump_price: float) -> Costs:
    return jump_price * walked


def _amid(amid: Bools, amid_price: float) -> Costs:
    return amid_price * amid


def _stay(changed: Ints | float, stay_price: float) -> Costs | float:
    return stay_price * changed


def _travel(travel_mm: Floats | float, travel_price_per_mm: float) -> Costs | float:
    return travel_price_per_mm * travel_mm


def _arrive(arrived: Ints | float, arrive_price: float) -> Costs | float:
    return arrive_price * arrived


def _refinger(refingered: Ints | float, reshape_price: float) -> Costs | float:
    return reshape_price * refingered


def _hold_fast(refingered_held: Bools | bool) -> Bools | bool:
    return True if isinstance(refingered_held, bool) else ~refingered_held


def _cross(crossed: Bools, cross_price: float) -> Costs:
    return cross_price * crossed


def _turn(turned: Bools, order_price: float) -> Costs:
    return order_price * turned


def _step_apart(
    pair: Ints, pair_mm: Floats, spread_mm: Floats, spread_prices: Floats, stretch_unit_mm: float, step_share: float
) -> Costs:
    rest, price = _spreads(spread_mm, spread_prices)
    excess = np.maximum(pair_mm - rest[pair], 0.0) / stretch_unit_mm
    return np.where(pair >= 0, step_share * price[pair] * excess**2, 0.0)


def _weak(pair: Ints, weak_34_price: float, weak_24_price: float) -> Costs:
    return weak_34_price * (pair == PAIRS.index((3, 4))) + weak_24_price * (pair == PAIRS.index((2, 4)))


def _shift_ms(shifted: Bools, shift_mm: Floats, shift_ms: float, shift_ms_per_mm: float) -> Costs:
    return np.where(shifted, shift_ms + shift_ms_per_mm * shift_mm, 0.0)


def _finger_ms(fresh: Bools, planted: Bools, finger_ms: float, planted_share: float) -> Costs:
    return np.where(planted, planted_share * finger_ms, finger_ms * fresh)


def _meet_ms(fresh: Bools, planted: Bools, struck: bool, finger_ms: float, meet_ms: float) -> Costs | float:
    return np.where(fresh & ~planted, finger_ms + meet_ms, 0.0) if struck else 0.0


def _form_ms(formed: Ints | float, finger_ms: float, form_ms: float) -> Costs | float:
    return 0.0 if isinstance(formed, float) else np.where(formed > 1, finger_ms + form_ms * (formed - 1), 0.0)


def _grip_ms(
    shifted: Bools, shift_mm: Floats, gripped: Ints, shift_ms: float, shift_ms_per_mm: float, grip_ms: float
) -> Costs:
    more = grip_ms * np.maximum(gripped - 1, 0)
    return np.where(shifted & (gripped > 1), shift_ms + shift_ms_per_mm * shift_mm + more, 0.0)


def _travel_ms(longest_mm: Floats | float, finger_ms: float, travel_ms_per_mm: float) -> Costs | float:
    if isinstance(longest_mm, float):
        return 0.0
    return np.where(longest_mm >= 0, finger_ms + travel_ms_per_mm * longest_mm, 0.0)


def _roll_ms(rolled: Ints | float, roll_ms: float) -> Costs | float:
    return 0.0 if isinstance(rolled, float) else roll_ms * rolled.any(axis=2)


def _barre_ms(laid: Ints | float, barre_ms: float) -> Costs | float:
    return 0.0 if isinstance(laid, float) else barre_ms * laid.any(axis=2)


def _jump_ms(jumped: Bools, jump_ms: float) -> Costs:
    return jump_ms * jumped


MOVES = (
    Row("shift", MOVE, PRICE, _shift, "the hand moves along the neck"),
    Row("aim", MOVE, PRICE, _aim, "a long shift must be aimed"),
    Row("roll", MOVE, PRICE, _roll, "a finger rocks to the neighbour string"),
    Row("habit of a finger a string", MOVE, PRICE, _habit_of_fingers, "a roll, where this player sets a finger on each string"),
    Row("habit of rolls", MOVE, PRICE, _habit_of_rolls, "separate fingers on one fret, where this player rolls"),
    Row("a finger each in a row", MOVE, PRICE, _in_a_row, "fingers take turns in a row of strings at one fret"),
    Row("finger laid", MOVE, PRICE, _lay, "a finger is laid flat to reach a farther string"),
    Row("jump", MOVE, PRICE, _jump, "a finger leaves its fret for another while the hand stays"),
    Row("walk", MOVE, PRICE, _walk, "one finger walks along its string"),
    Row("open amid a position", MOVE, PRICE, _amid, "a note is open that lies under the hand up the neck"),
    Row("stay", MOVE, PRICE, _stay, "a note that stays, or comes again, changes its finger"),
    Row("travel", MOVE, PRICE, _travel, "fingers travel from chord to chord"),
    Row("arrival", MOVE, PRICE, _arrive, "a finger of a chord was not down in the chord before"),
    Row("refingered chord", MOVE, PRICE, _refinger, "a chord of the same shape is fingered otherwise"),
    Row("held notes keep their finger", MOVE, PERMIT, _hold_fast, "a note that goes on sounding keeps its finger"),
    Row("crossing", MOVE, PRICE, _cross, "fingers cross"),
    Row("order on a fret", MOVE, PRICE, _turn, "on one fret the higher finger is on the lower string"),
    Row("step apart", MOVE, PRICE, _step_apart, "two fingers in turn are spread"),
    Row("weak pair", MOVE, HURRIED, _weak, "the ring or middle finger and the little one take turns at speed"),
    Row("shifting", MOVE, TIME, _shift_ms, "the hand moves along the neck"),
    Row("coming down", MOVE, TIME, _finger_ms, "a finger comes down"),
    Row("meeting the stroke", MOVE, TIME, _meet_ms, "a finger must be down when the stroke comes"),
    Row("forming a chord", MOVE, TIME, _form_ms, "several fingers are put down anew at once"),
    Row("gripping", MOVE, TIME, _grip_ms, "a chord is let go, carried along the neck and pressed again"),
    Row("travelling", MOVE, TIME, _travel_ms, "a finger goes from chord to chord"),
    Row("rolling", MOVE, TIME, _roll_ms, "a finger rocks to the neighbour string"),
    Row("lying down", MOVE, TIME, _barre_ms, "a finger is laid flat"),
    Row("jumping", MOVE, TIME, _jump_ms, "a finger jumps"),
)  # fmt: skip


def _slide(slide_mm: Floats, slide_price: float) -> Costs:
    return slide_price * np.ones_like(slide_mm)


def _slide_ms(slide_mm: Floats, slide_ms: float, slide_ms_per_mm: float) -> Costs:
    return slide_ms + slide_ms_per_mm * slide_mm


def _possible(attack: str, hammered: Bools | bool, pulled: Bools | bool, slid: Bools | bool) -> Bools | bool:
    if attack not in SLURS:
        return True
    return {HAMMER: hammered, PULL: pulled, SLIDE: slid}.get(attack, hammered | pulled | slid)


def _from_nowhere(attack: str, finger: Ints, hammer_new_prices: Floats) -> Costs | float:
    return np.array([0.0, *hammer_new_prices, 0.0])[finger] if attack in (HAMMER_NEW, SILENT) else 0.0


def _with_a_finger(attack: str, finger: Ints) -> Bools | bool:
    return (finger > 0) & (finger < 5) if attack in (HAMMER_NEW, SILENT) else True


def _silent(attack: str, one_string: Bools) -> Bools | bool:
    return ~one_string if attack == SILENT else True


def _one_stroke(attack: str, one_string: Bools, moved: Bools) -> Bools | bool:
    return ~(one_string & moved) if attack == STAY else True


BOUND = (
    Row("slide", SLIDING, PRICE, _slide, "a slide smears where a hammer or a pull would be clean"),
    Row("sliding", SLIDING, TIME, _slide_ms, "a finger slides along the string"),
    Row("slur", SLURRING, PERMIT, _possible, "a slur needs its string, and a finger that comes down, leaves or slides"),
    Row("hammer from nowhere", SLURRING, PRICE, _from_nowhere, "a finger sounds a string on its own"),
    Row("hammer needs a finger", SLURRING, PERMIT, _with_a_finger, "an open string cannot be hammered"),
    Row(
        "hammer on a silent string",
        SLURRING,
        PERMIT,
        _silent,
        "a hammer from nowhere is not chosen where its string sounds",
    ),
    Row(
        "one stroke a string",
        SLURRING,
        PERMIT,
        _one_stroke,
        "a school of one stroke a string strikes no second note there",
    ),
)


def _load(fret_load: Floats, dial: float, over_price: float, fretting_weight: float) -> Costs:
    return fretting_weight * load_price(fret_load, dial, over_price)


def _strain(strain: Floats, fretting_weight: float) -> Costs:
    return fretting_weight * strain


def _hurried(weak: Floats, hurry: Floats, fretting_weight: float) -> Costs:
    return fretting_weight * (weak * hurry)


STEPS = (
    Row("fretting load", FRET_STEP, PRICE, _load, "the time of the fretting hand's move"),
    Row("strain", FRET_STEP, PRICE, _strain, "what shape and move come to"),
    Row("hurried fingers", FRET_STEP, PRICE, _hurried, "weak pairs of fingers at speed"),
)
ROWS = (*SHAPES, *MOVES, *BOUND, *STEPS)
