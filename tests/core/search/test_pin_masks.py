"""Pins: what is pinned stays, never makes a plan cheaper, and impossible pins are named."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.search.planner import judge, plan, solve, solve_beside
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from tests.build import SIXTEENTH, phrase, planned, request, strokes
from tests.examples import examples

SCHOOLS = tuple(presets.schools())
PITCHES = st.lists(st.integers(45, 64), min_size=3, max_size=6)
FREE = frozenset({"attacks"})
FIELDS = {
    "string": st.integers(1, 6),
    "fret": st.integers(0, 12),
    "finger": st.sampled_from("01234"),
    "position": st.integers(1, 10),
    "stroke": st.sampled_from(["down", "up", "m", "i", "none"]),
    "attack": st.sampled_from(["pick", "pluck", "hammer", "pull", "slide"]),
    "lean": st.sampled_from(["up-clear", "down-clear"]),
}
PIN = st.sampled_from(sorted(FIELDS)).flatmap(
    lambda field: st.builds(Pin, st.integers(0, 2), st.just(0), st.just(field), FIELDS[field])
)


def holds(found, pin):
    note = next(n for n in found.notes if n.event == pin.event)
    return getattr(note, pin.field) == pin.value


@examples(80)
@given(PITCHES, st.lists(PIN, min_size=1, max_size=3), st.sampled_from(SCHOOLS), st.sampled_from(["never", "anywhere"]))
def test_pins_hold_and_never_make_a_plan_cheaper(pitches, pins, school, legato):
    legato = "never" if school == "pattern" else legato
    free = solve(request(phrase(pitches), school, keep=FREE, legato=legato))
    try:
        pinned = judge(solve(request(phrase(pitches), school, keep=FREE, legato=legato, pins=tuple(pins))))
    except DromicError as error:
        assert "let go" in str(error)
        return
    assert all(holds(pinned, pin) for pin in pins)
    assert pinned.cost >= free.route.cost - 1e-9


@examples(60)
@given(PITCHES, PIN, st.sampled_from(SCHOOLS))
def test_one_more_pin_is_searched_from_the_passes_at_hand_and_comes_out_the_same(pitches, pin, school):
    before = solve(request(phrase(pitches), school, keep=FREE, player="flying"))
    _ = before.metrics
    try:
        anew = plan(request(phrase(pitches), school, keep=FREE, player="flying", pins=(pin,)))
    except DromicError:
        with pytest.raises(DromicError):
            before.pinned(pin)
        return
    found = judge(before.pinned(pin))
    assert found.cost == pytest.approx(anew.cost)
    assert holds(found, pin)
    again = solve(request(phrase(pitches), school, keep=FREE, player="flying", pins=(pin,)))
    if again.route.states == before.pinned(pin).route.states:
        assert found.moves == judge(again).moves and found.notes == judge(again).notes


def test_the_smallest_set_to_let_go_is_named():
    line = phrase([(5, 5), (5, 7), (4, 5)])
    pins = (Pin(0, 0, "stroke", "down"), Pin(1, 0, "stroke", "up"), Pin(2, 0, "stroke", "up"))
    with pytest.raises(DromicError, match=r"let go of note 3: stroke up$"):
        planned(line, "alternate", pins=pins)
    with pytest.raises(DromicError, match="let go of note 1: string 2"):
        planned(line, "free", pins=(Pin(0, 0, "string", 2),))


def test_a_pin_checks_what_it_pins():
    with pytest.raises(DromicError, match="finger is '9'"):
        Pin(0, 0, "finger", "9")
    with pytest.raises(DromicError, match="must be one of: string"):
        Pin(0, 0, "hat", 1)
    with pytest.raises(DromicError, match="no note 9"):
        planned(phrase([60, 62]), pins=(Pin(8, 0, "string", 2),))


def test_a_passage_can_be_pinned_as_it_is():
    line = phrase([52, 55, 57, 60, 57, 55, 52, 50], SIXTEENTH)
    solved = solve(request(line, "economy", keep=FREE))
    kept = [n for n in judge(solved).notes if n.event < 4]
    pins = [Pin(n.event, 0, f, getattr(n, f)) for n in kept for f in ("string", "finger", "position", "stroke")]
    moved = judge(solved.pinned(*pins, Pin(6, 0, "finger", "2")))
    assert strokes(moved)[:4] == strokes(judge(solved))[:4]
    assert [(n.string, n.finger) for n in moved.notes[:4]] == [(n.string, n.finger) for n in kept]
    assert moved.notes[6].finger == "2"


@examples(25)
@given(PITCHES, PIN, PIN, st.sampled_from(SCHOOLS))
def test_a_plan_with_other_pins_is_found_on_the_layers_at_hand_and_comes_out_the_same(pitches, pin, other, school):
    """From one pin to another, and to none, as if each were planned anew."""
    asked = [request(phrase(pitches), school, keep=FREE, pins=pins) for pins in ((), (pin,), (other,), ())]
    before = None
    for one in asked:
        try:
            anew = solve(one)
        except DromicError as error:
            with pytest.raises(DromicError) as told:
                solve(one) if before is None else solve_beside(one, before)
            assert str(told.value) == str(error)
            continue
        beside = anew if before is None else solve_beside(one, before)
        assert (beside.route.states, beside.route.cost, beside.pace) == (anew.route.states, anew.route.cost, anew.pace)
        assert judge(beside) == judge(anew)
        before = beside
