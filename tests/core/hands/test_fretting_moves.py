"""The fretting hand's moves against a plain rewriting of the rules, one move at a time."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from dromic import presets
from dromic.core.hands.fretting_moves import FRET_KINDS, IMPOSSIBLE, fretting_moves
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.prices.price_list import PRICES
from dromic.core.values.vocabulary import HAMMER, HAMMER_NEW, PULL, SLIDE, SLUR

GUITAR = presets.instruments()["guitar"]
FLUENT = presets.players()["fluent"].fretting
MOVES = fretting_moves(GUITAR, presets.players()["fluent"], PRICES)
PLACES = st.tuples(st.integers(1, 6), st.integers(1, 14))


def nodes(*places):
    """The node set of notes at (string, fret)."""
    wanted = FrettingTask(
        pitches=tuple(GUITAR.pitch_at(s, f) for s, f in places),
        strings=tuple(s for s, _ in places),
        frets=tuple(f for _, f in places),
        fingers=(None,) * len(places),
    )
    found = MOVES.fretting.whole(wanted)
    return MOVES.fretting.carrying(wanted, found, tuple(range(20)))


def by_the_book(a, b):
    """(kind, ms) of a struck move between two single notes held as shapes, written out from the rules."""
    (one,), (other,) = a.notes, b.notes
    mm = MOVES.fretting.geometry.mm
    kinds = []
    down = FLUENT.finger_ms + FLUENT.meet_ms  # a finger that must be there for the stroke
    if a.position != b.position:
        kinds.append(("shift", FLUENT.shift_ms + FLUENT.shift_ms_per_mm * abs(mm[a.position] - mm[b.position])))
    if one.finger != other.finger:
        stretched = b.stretch_mm > FLUENT.stretch_from_mm
        kinds.append(("stretch" if stretched else "finger", down))
    elif one.fret != other.fret:
        kinds.append(("finger", down) if a.position != b.position else ("jump", FLUENT.jump_ms))
    elif one.string != other.string:
        near = abs(one.string - other.string) == 1
        kinds.append(("roll", FLUENT.roll_ms) if near else ("barre", FLUENT.barre_ms))
    if not kinds:
        return "hold", 0.0
    return kinds[0][0], max(ms for _, ms in kinds)


@given(PLACES, PLACES, st.integers(0, 400), st.integers(0, 400))
def test_every_move_between_single_notes_agrees_with_the_rules(place_a, place_b, pick_a, pick_b):
    a, b = nodes(place_a), nodes(place_b)
    k, m = pick_a % len(a), pick_b % len(b)
    moves = MOVES.between(a, b, "pick")
    kind, ms = by_the_book(a.shapes[k], b.shapes[m])
    assert (FRET_KINDS[moves.kind[k, m]], pytest.approx(float(moves.time_ms[k, m]))) == (kind, ms)


def slur_of(a, b):
    """What a slur between two shapes on one string is, or None."""
    (one,), (other,) = a.notes, b.notes
    if one.string != other.string or one.fret == other.fret:
        return None
    if one.finger == other.finger:
        return SLIDE
    if a.position != b.position:
        return None
    if other.fret > one.fret:
        return HAMMER
    return PULL if other.finger < one.finger else None


@given(PLACES, PLACES, st.integers(0, 400), st.integers(0, 400))
def test_slurs_are_possible_where_one_string_and_the_fingers_allow(place_a, place_b, pick_a, pick_b):
    a, b = nodes(place_a), nodes(place_b)
    k, m = pick_a % len(a), pick_b % len(b)
    what = slur_of(a.shapes[k], b.shapes[m])
    for attack in (HAMMER, PULL, SLIDE):
        possible = MOVES.between(a, b, attack).strain[k, m] < IMPOSSIBLE
        assert possible == (what == attack), (attack, what)
    assert (MOVES.between(a, b, SLUR).strain[k, m] < IMPOSSIBLE) == (what is not None)


@given(PLACES, PLACES)
def test_a_hammer_from_nowhere_wants_a_strong_finger(place_a, place_b):
    a, b = nodes(place_a), nodes(place_b)
    extra = MOVES.between(a, b, HAMMER_NEW).strain - MOVES.between(a, b, "pick").strain
    for m, shape in enumerate(b.shapes):
        assert extra[0, m] == pytest.approx(FLUENT.hammer_new_prices[shape.notes[0].finger - 1])


@given(st.lists(st.integers(1, 9), min_size=2, max_size=3), st.integers(0, 3))
def test_chords_that_slide_keep_their_fingers_and_their_distance(frets, up):
    low = [(6 - i, f) for i, f in enumerate(frets)]
    assume(max(frets) - min(frets) <= 3)
    high = [(s, f + up) for s, f in low]
    a, b = nodes(*low), nodes(*high)
    moves = MOVES.between(a, b, SLIDE)
    for k, m in zip(*(moves.strain < IMPOSSIBLE).nonzero(), strict=True):
        assert up and [n.finger for n in a.shapes[k].notes] == [n.finger for n in b.shapes[m].notes]
    if up == 0:
        assert not (moves.strain < IMPOSSIBLE).any()


def test_fingers_that_stay_in_a_chord_take_no_time():
    chord = nodes((5, 3), (4, 2), (2, 1))
    moves = MOVES.between(chord, chord, "pick")
    for k in range(len(chord)):
        assert moves.time_ms[k, k] == 0 and FRET_KINDS[moves.kind[k, k]] == "hold"
    assert (moves.time_ms >= 0).all()


ONE_NOTE = st.lists(st.tuples(st.integers(1, 6), st.integers(0, 22)), min_size=2, max_size=6)
LOOKED_UP = fretting_moves(GUITAR, presets.players()["settled"], PRICES)


@settings(max_examples=25, deadline=None)
@given(ONE_NOTE, st.integers(0, 3), st.booleans())
def test_moves_that_are_looked_up_are_those_worked_out(places, first_position, free):
    """Whatever the strings: the table holds them by how far strings lie apart, and only for what is single notes."""
    LOOKED_UP.lone.asked_enough()
    sets = [LOOKED_UP.fretting.whole(one_note(*place, first_position, free)) for place in places]
    for a, b in pairwise(sets):
        looked_up, worked_out = LOOKED_UP.lone.between(a, b), LOOKED_UP.worked_out(a, b)
        strain = LOOKED_UP.with_positions(b.strain[None, :] + looked_up.strain, a, b)
        assert np.array_equal(looked_up.kind, worked_out.kind)
        assert np.array_equal(looked_up.time_ms, worked_out.time_ms)
        assert np.array_equal(strain, worked_out.strain)
        assert np.array_equal(looked_up.speed_strain, worked_out.speed_strain)


def one_note(string, fret, first_position, free):
    """What one note asks of the hand, its place stated or not."""
    return FrettingTask(
        (GUITAR.pitch_at(string, fret),), (None if free else string,), (None if free else fret,), (None,),
        first_position=first_position,
    )  # fmt: skip


def test_chords_and_notes_that_must_not_be_let_go_are_never_looked_up():
    LOOKED_UP.lone.asked_enough()
    one, chord = LOOKED_UP.fretting.whole(one_note(3, 5, 0, False)), nodes((5, 3), (4, 2))
    held = FrettingTask((62,), (2,), (3,), (None,), held=((4, 5),))
    row = replace(one_note(2, 5, 0, False), in_row=True)
    assert LOOKED_UP.lone.between(one, one) is not None
    assert LOOKED_UP.lone.between(one, chord) is None
    assert LOOKED_UP.lone.between(one, LOOKED_UP.fretting.whole(held)) is None
    assert LOOKED_UP.lone.between(one, LOOKED_UP.fretting.whole(row)) is None
