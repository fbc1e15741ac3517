"""Rows of the picking hand, of both together, and what a school permits.

Common practice where no source is named. A row's parameters are facts of its set (`facts.py`) and numbers of the player. Passing over
strings: Fitts' law in Shannon's form (Fitts 1954; MacKenzie 1992) with our own estimated slope.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.core.prices.facts import BEAT, EVENT, FIRST, KNOT, LIMIT, PLACE, PLUCK, STRIKE, STROKE, SWING
from dromic.core.prices.load_price import load_price
from dromic.core.prices.row import LOAD, PERMIT, PRICE, TIME, Row
from dromic.core.setup.school import KIND_CODE
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.vocabulary import SIGN

Bools = NDArray[np.bool_]
Costs = NDArray[np.floating[Any]]
ANYHOW, FROM_INSIDE, IN_SWEEP = range(3)
"""how the string under the pick was come to, as far as a sweep asks: from inside, so that no sweep may go on from it
(it would not have begun on its first string); in a sweep, which may turn here"""
_STAYING = tuple(KIND_CODE[k] for k in ("same-string", "repeat", "rest"))
"""moves that leave the pick at its string"""


KINDS_OF_CHANGE, SWEEPS = "kinds of change", "sweeps"


def _gaps(gaps: Ints, gap_price: float) -> Costs:
    return gap_price * gaps


def _fingers(plucking: Bools, finger_prices: Floats) -> Costs:
    return plucking @ finger_prices


def _away(away: Ints, away_price: float) -> Costs:
    return away_price * away


def _unpicked(unpicked: bool, legato_price: float) -> float:
    return legato_price if unpicked else 0.0


def _again(again: Bools, grace_price: float) -> Costs:
    return grace_price * again


def _somebody(alone: Bools) -> Bools:
    return ~alone


def _accent(sign: Ints, accent: bool, accents_down: bool, accent_price: float) -> Costs | float:
    return accent_price * (sign < 0) if accent and accents_down else 0.0


def _leads(sign: Ints, leads: bool, first_attack: str, first_attack_price: float) -> Costs | float:
    if not leads or first_attack == "either":
        return 0.0
    return first_attack_price * ((sign != 0) & (sign != SIGN.get(first_attack, 0)))


PLACES = (
    Row("crossed strings", PLACE, PRICE, _gaps, "a stroke crosses damped strings inside a chord"),
    Row("dear fingers", PLACE, PRICE, _fingers, "a finger plucks"),
    Row("away from its string", PLACE, PRICE, _away, "a finger plucks away from its natural string"),
    Row("left unpicked", PLACE, PRICE, _unpicked, "a note is left unpicked that might be picked"),
    Row("grace plucked again", PLACE, PRICE, _again, "a finger plucks where a grace of the group has been struck"),
    Row("one of the graces", PLACE, PERMIT, _somebody, "of graces and their note one must be struck"),
    Row("accent", PLACE, PRICE, _accent, "an accent falls on an up-stroke, which this player wants down"),
    Row(
        "first of slurred notes",
        PLACE,
        PRICE,
        _leads,
        "the first of slurred notes is struck otherwise than this player does",
    ),
)


def _swing_ms(swung: Bools, alternate_ms: float) -> Costs:
    return alternate_ms * swung


def _repeat_ms(repeated: Bools, repeat_ms: float) -> Costs:
    return repeat_ms * repeated


def _carry_ms(carried: Bools, through: Bools, carry_ms: float) -> Costs:
    return carry_ms * (carried | through)


def _drop_in_ms(carried: Bools, from_clear: Bools, carry_from_clear_ms: float) -> Costs:
    return carry_from_clear_ms * (carried & from_clear)


def _outer_ms(carried: Bools, outermost: Bools, turn_outer_ms: float) -> Costs:
    return turn_outer_ms * (carried & outermost)


def _separate_ms(carried: Bools, separated: bool, separate_ms: float) -> Costs | float:
    return separate_ms * carried if separated else 0.0


def _hop_ms(hop_bits: Floats, hop_bit_ms: float) -> Costs:
    return hop_bit_ms * hop_bits


def _aim_ms(left_out: Ints, aim_ms: float) -> Costs:
    return aim_ms * left_out


def _inside_ms(inside: Bools, hop_bits: Floats, alternate_ms: float, hop_bit_ms: float, inside_factor: float) -> Costs:
    return np.where(inside, (inside_factor - 1.0) * (alternate_ms + hop_bit_ms * hop_bits), 0.0)


def _lift_ms(buried: Bools, lift_out_ms: float) -> Costs:
    return lift_out_ms * buried


def _lean_ms(leaned: Bools, lean_change_ms: float) -> Costs:
    return lean_change_ms * leaned


STROKES = (
    Row("half a swing", STROKE, TIME, _swing_ms, "the pick goes the other way"),
    Row("silent return", STROKE, TIME, _repeat_ms, "the same stroke again, with its silent return"),
    Row("carrying on", STROKE, TIME, _carry_ms, "the pick carries on to the next string"),
    Row("dropping in", STROKE, TIME, _drop_in_ms, "the pick must drop in between the strings first"),
    Row("outermost string", STROKE, TIME, _outer_ms, "it carries on to the outermost string"),
    Row("an attack a string", STROKE, TIME, _separate_ms, "each string gets an attack of its own"),
    Row("passing over strings", STROKE, TIME, _hop_ms, "the pick passes over strings"),
    Row("aiming over strings", STROKE, TIME, _aim_ms, "the pick must find a string beyond others that it leaves out"),
    Row("inside change", STROKE, TIME, _inside_ms, "the stroke starts in the gap between the strings"),
    Row("lifting out", STROKE, TIME, _lift_ms, "the pick must get out from between the strings"),
    Row("changing the lean", STROKE, TIME, _lean_ms, "the lean of the pick's path changes"),
)


def _start_up(first_sign: Ints, free: bool, beside_pick: bool, start_up_price: float) -> Costs | float:
    return start_up_price * (first_sign < 0) if free and not beside_pick else 0.0


def _start_beside(first_sign: Ints, beside_pick: bool, up_after_pluck_price: float) -> Costs | float:
    return up_after_pluck_price * (first_sign < 0) if beside_pick else 0.0


def _start_finger(not_leading: Bools | float, start_up_price: float) -> Costs | float:
    return start_up_price * not_leading


FIRSTS = (
    Row("starting up", FIRST, PRICE, _start_up, "it starts on an up-stroke where the choice is free"),
    Row(
        "starting up beside fingers",
        FIRST,
        PRICE,
        _start_beside,
        "it starts on an up-stroke, where fingers pluck beside the pick",
    ),
    Row("starting finger", FIRST, PRICE, _start_finger, "fingers that take turns begin with another than the first"),
)


def _tap_load(since_tap_ms: float, pick_after_tap_ms: float) -> float:
    return pick_after_tap_ms / since_tap_ms


def _palm_load(palm_moved: bool, gap_ms: float, palm_ms: float) -> float:
    return palm_ms / gap_ms if palm_moved else 0.0


def _tremolo_load(tremolo_ms: float, alternate_ms: float) -> float:
    return alternate_ms / tremolo_ms


EVENTS = (
    Row("back from a tap", EVENT, LOAD, _tap_load, "the picking hand comes back from the fretboard"),
    Row("palm", EVENT, LOAD, _palm_load, "the palm is laid on the strings, or lifted"),
    Row("tremolo", EVENT, LOAD, _tremolo_load, "tremolo before this note"),
)


def _stroke_ms(stroke_ms: Floats) -> Costs:
    return stroke_ms


def _phase_ms(against_swing: Bools | bool, phase_ms: float) -> Costs | float:
    return 0.0 if isinstance(against_swing, bool) else phase_ms * against_swing


def _stroke_load(swing_ms: Floats, pick_gap_ms: Floats | float) -> Costs:
    return swing_ms / pick_gap_ms


def _after_pluck_load(since_pluck_ms: Floats, pick_after_pluck_ms: float) -> Costs:
    return pick_after_pluck_ms / since_pluck_ms


def _pinch_load(since_own_ms: Floats | float, pluck_same_ms: float) -> Costs | float:
    return pluck_same_ms / since_own_ms


def _pick_load(pick_load: Floats, dial: float, over_price: float, picking_weight: float) -> Costs:
    return picking_weight * load_price(pick_load, dial, over_price)


def _twice(twice: Bools | bool, grace_price: float) -> Costs | float:
    return 0.0 if isinstance(twice, bool) else grace_price * twice


def _against_beat(against_beat: Bools, beat_load: Floats, limit_load: float, beats: float, beat_price: float) -> Costs:
    room = np.maximum(0.0, 1.0 - beat_load / limit_load)
    return np.where(against_beat, beat_price * beats * room, 0.0)


def _up_after_pluck(stroke_sign: Ints, after_pluck: bool, up_after_pluck_price: float) -> Costs | float:
    return up_after_pluck_price * (stroke_sign < 0) if after_pluck else 0.0


def _kinds(kind: Ints, allowed: Bools) -> Bools:
    return np.asarray(allowed[kind])


def _new_string(kind: Ints, stroke_sign: Ints, new_string: int) -> Bools | bool:
    if not new_string:
        return True
    same = (kind == KIND_CODE["same-string"]) | (kind == KIND_CODE["rest"])
    return np.asarray(same | (stroke_sign == new_string))


def _sweeps(kind: Ints, come_to: Ints, comes_to: Ints, sweeps: bool) -> Bools | bool:
    """A sweep begins on its first string: whoever came from inside may not carry on, unless a sweep turns there."""
    if not sweeps:
        return True
    carry = kind == KIND_CODE["carry-through"]
    swept = carry | (kind == KIND_CODE["skip-through"]) | (np.isin(kind, _STAYING) & (come_to == IN_SWEEP))
    barred = (kind == KIND_CODE["inside"]) & (come_to != IN_SWEEP)
    arrival = np.where(swept, IN_SWEEP, np.where(barred, FROM_INSIDE, ANYHOW))
    return np.asarray((arrival == comes_to) & ~(carry & (come_to == FROM_INSIDE)))


STRIKES = (
    Row("stroke", SWING, TIME, _stroke_ms, "the pick moves to its next stroke"),
    Row("against the swing", SWING, TIME, _phase_ms, "the stroke goes against the swing of the hand: stop and restart"),
    Row("against the beat", BEAT, PRICE, _against_beat, "the stroke goes against its place in the beat"),
    Row("time for the stroke", STRIKE, LOAD, _stroke_load, "the pick moves to its next stroke in the time there is"),
    Row("pick after a finger", STRIKE, LOAD, _after_pluck_load, "the pick strikes after a plucking finger"),
    Row("pinch again", STRIKE, LOAD, _pinch_load, "a finger plucks again beside the pick"),
    Row("picking load", STRIKE, PRICE, _pick_load, "the time of the picking hand's move"),
    Row("grace struck again", STRIKE, PRICE, _twice, "more than one of a group of graces and their note is struck"),
    Row("up after a finger", STRIKE, PRICE, _up_after_pluck, "the pick comes back from a pluck on an up-stroke"),
    Row(KINDS_OF_CHANGE, STRIKE, PERMIT, _kinds, "the school takes only some changes of string"),
    Row("new string", STRIKE, PERMIT, _new_string, "the school starts every string with one stroke"),
    Row(SWEEPS, STRIKE, PERMIT, _sweeps, "a sweep begins on its first string"),
)


def _finger_after_pick(since_pick_ms: Floats, pluck_after_pick_ms: float) -> Costs:
    return pluck_after_pick_ms / since_pick_ms


def _other_finger(since_last_ms: Floats, same: Bools, pluck_other_ms: float) -> Costs:
    return np.where(same, 0.0, pluck_other_ms / since_last_ms)


def _same_finger(same_finger_ms: Floats, raked: Bools | bool, pluck_same_ms: float) -> Costs:
    return np.where(raked, 0.0, pluck_same_ms / same_finger_ms)


def _rake(since_last_ms: Floats, raked: Bools | bool, rake_ms: float) -> Costs | float:
    return 0.0 if isinstance(raked, bool) else np.where(raked, rake_ms / since_last_ms, 0.0)


def _pluck_load(pluck_load: Floats, dial: float, over_price: float, picking_weight: float) -> Costs:
    return picking_weight * load_price(pluck_load, dial, over_price)


def _below_pick(above_pick: Bools, in_turn: bool, below_pick_price: float) -> Costs | float:
    return 0.0 if in_turn else below_pick_price * ~above_pick


def _take_turns(same: Bools, raked: Bools | bool, unplucked: Bools, single: Bools, in_turn: bool) -> Bools | bool:
    return ~same | raked | unplucked | ~single if in_turn else True


def _above_pick(above_pick: Bools, in_turn: bool, only_plucked: bool) -> Bools | bool:
    return True if in_turn or only_plucked else above_pick


def _in_order(in_order: Bools, unplucked: Bools, single: Bools, in_turn: bool, ordered: bool) -> Bools | bool:
    return in_order | unplucked | ~single if ordered and not in_turn else True


PLUCKS = (
    Row("finger after the pick", PLUCK, LOAD, _finger_after_pick, "a finger plucks after the pick"),
    Row("another finger", PLUCK, LOAD, _other_finger, "another finger plucks"),
    Row("same finger", PLUCK, LOAD, _same_finger, "the same finger plucks again"),
    Row("rake", PLUCK, LOAD, _rake, "a finger rakes on to the next lower string"),
    Row("plucking load", PLUCK, PRICE, _pluck_load, "the time of the pluck"),
    Row("below the pick", PLUCK, PRICE, _below_pick, "a finger plucks the pick's string or a lower one"),
    Row("fingers take turns", PLUCK, PERMIT, _take_turns, "fingers that take turns do not pluck twice, but for a rake"),
    Row("above the pick", PLUCK, PERMIT, _above_pick, "fingers pluck above the pick's string"),
    Row("order of fingers", PLUCK, PERMIT, _in_order, "fingers keep their order across the strings"),
)


def _knot(knot_load: float, knot_price: float) -> float:
    return knot_price * knot_load


def _past_limit(any_load: Floats, limit_load: float, beat_over_price: float) -> Costs:
    return beat_over_price * np.maximum(0.0, any_load / limit_load - 1.0)


TOGETHER = (
    Row("knot", KNOT, PRICE, _knot, "both hands move in one gap"),
    Row("past the ceiling", LIMIT, PRICE, _past_limit, "strokes with the beat take from the ceiling"),
)
ROWS = (*PLACES, *STROKES, *FIRSTS, *EVENTS, *STRIKES, *PLUCKS, *TOGETHER)
