"""The fretting hand: what players finger without thinking must come out of the millimetres. Common practice."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.hands.hand_geometry import hand_geometry
from dromic.core.line.first_position import is_low
from dromic.core.plan.request import Request
from dromic.core.search.planner import plan, solve
from tests.build import EIGHTH, QUARTER, fingers, phrase, planned, request

GUITAR, BASS = presets.instruments()["guitar"], presets.instruments()["bass4"]
HAND = presets.players()["fluent"].fretting
ARPEGGIO = [(5, 16), (4, 15), (3, 13), (2, 14), (1, 13)]


def test_two_octave_arpeggio_high_and_low_on_the_neck():
    assert fingers(planned(phrase(ARPEGGIO), "economy")) == "43121"
    lower = [(s, f - 7) for s, f in ARPEGGIO]
    assert fingers(planned(phrase(lower), "economy")) == "43121"


def test_first_position_puts_finger_n_on_fret_n():
    line = phrase([(5, 0), (5, 2), (5, 3), (4, 0), (4, 2), (4, 3), (3, 0), (3, 2), (2, 0), (2, 1), (2, 3)], EIGHTH)
    found = planned(line, "pulse")
    assert all(n.finger == str(n.fret) for n in found.notes)


def bass_scale(start):
    places = [(4, 1), (4, 3), (3, 0), (3, 1), (3, 3), (2, 0), (2, 2), (2, 3)]
    pitches = [BASS.pitch_at(s, f + start) for s, f in places]
    line = phrase(pitches, EIGHTH, tempo=100)
    for event, (string, fret) in zip(line.events, places, strict=True):
        object.__setattr__(event.notes[0], "string", string)
        object.__setattr__(event.notes[0], "fret", fret + start)
    return line


def test_major_scale_over_three_bass_strings():
    high = planned(bass_scale(12), "pulse", instrument="bass4")
    assert fingers(high) == "24" + "124" + "134"
    assert high.totals.shifts == 0
    low = planned(bass_scale(1), "pulse", instrument="bass4")
    assert fingers(low) == "24124134" and low.totals.shifts == 0


def test_open_strings_give_a_shift_the_whole_gap():
    with_open = planned(phrase([(1, 1), (1, 0), (1, 12)]), "alternate")
    without = planned(phrase([(1, 1), (1, 1), (1, 12)]), "alternate")
    assert with_open.moves[-1].fret_kind == without.moves[-1].fret_kind == "shift"
    assert (with_open.moves[-1].fret_gap_ms, without.moves[-1].fret_gap_ms) == (250.0, 125.0)
    assert with_open.moves[-1].fret_load < without.moves[-1].fret_load


def test_pull_off_needs_a_lower_finger_and_a_hammer_a_higher_one():
    line = phrase([(2, 5), (2, 8), (2, 5)], attacks={1: "hammer", 2: "pull"})
    first, second, third = fingers(planned(line, "alternate"))
    assert second > first and third < second


def test_a_slide_keeps_its_finger():
    found = planned(phrase([(2, 5), (2, 9)], attacks={1: "slide"}), "alternate")
    assert found.moves[0].fret_kind == "slide"
    assert found.notes[0].finger == found.notes[1].finger


def test_an_impossible_slur_is_planned_another_way_and_said():
    found = planned(phrase([(2, 5), (2, 9)], attacks={1: "pull"}), "alternate")
    assert found.notes[1].attack in ("hammer", "slide")
    assert "pull" in found.notices[0] and "does not go down" in found.notices[0] and "bar 1" in found.notices[0]


def test_a_hammer_out_of_reach_is_told_and_stays_a_slur_of_its_string():
    found = planned(phrase([(6, 3), (6, 5), (6, 13)], attacks={1: "hammer", 2: "hammer"}), "alternate")
    assert [n.attack for n in found.notes] == ["pick", "hammer", "slide"]
    assert "out of the reach" in found.notices[0] and "fret 13" in found.notices[0]


def test_taps_leave_the_fretting_hand_alone():
    found = planned(phrase([(3, 5), (3, 12), (3, 5)], attacks={1: "tap", 2: "pull"}), "alternate")
    assert found.notes[1].finger == "0" and found.moves[0].fret_kind == "open"
    assert found.notes[2].attack == "pull"


def test_power_chord_and_barre_shapes():
    power = planned(phrase([[(6, 5), (5, 7), (4, 7)]], [1]), "downs")
    assert fingers(power)[0] == "1"
    barre = planned(phrase([[(6, 3), (5, 5), (4, 5), (3, 4), (2, 3), (1, 3)]], [1]), "downs")
    by_string = {n.string: n.finger for n in barre.notes}
    assert by_string[6] == by_string[2] == by_string[1] == "1"
    assert len({(n.string) for n in barre.notes}) == 6


@given(st.integers(1, 4), st.integers(1, 10), st.integers(0, 3))
def test_twelve_frets_up_never_reaches_further(finger, position, above):
    hand = hand_geometry(GUITAR, HAND)
    low = hand.deviation_mm(finger, position + above, position)
    high = hand.deviation_mm(finger, position + above + 12, position + 12)
    assert max(high, 0.0) <= max(low, 0.0) + 1e-9


@given(st.lists(st.integers(45, 76), min_size=2, max_size=6))
def test_every_node_sounds_the_wanted_pitch_within_the_hands_reach(pitches):
    found = planned(phrase(pitches, EIGHTH), "free")
    for note in found.notes:
        assert GUITAR.pitch_at(note.string, note.fret) == note.pitch
        if note.finger != "0":
            deviation = hand_geometry(GUITAR, HAND).deviation_mm(int(note.finger), note.fret, note.position)
            at = int(note.finger) - 1
            closed_up = at > 0 and note.fret == note.position + at - 1  # by a fret, which every hand can
            assert closed_up or -HAND.crowd_mm[at] <= deviation
            assert deviation <= HAND.reach_mm[at]
    assert np.isfinite(found.cost)


def test_1_2_4_low_on_a_bass_is_a_habit():
    """Common practice: over three frets index, middle and little; the ring finger helps."""
    places = [(4, 1), (4, 2), (4, 3), (3, 1), (3, 2), (3, 3)]
    line = phrase([BASS.pitch_at(s, f) for s, f in places], EIGHTH)
    for event, (string, fret) in zip(line.events, places, strict=True):
        object.__setattr__(event.notes[0], "string", string)
        object.__setattr__(event.notes[0], "fret", fret)
    player = presets.players()["fluent"]
    three = replace(player, habits=replace(player.habits, bass_hand="124"))
    asked = Request(line, BASS, three, presets.schools()["fingers"])
    assert fingers(plan(asked)) == "124124"
    assert "3" in fingers(plan(replace(asked, player=player)))


def test_a_tune_that_can_be_had_low_lies_low_and_one_that_cannot_goes_where_it_must():
    """By the pitches alone, so that a place that is kept costs what it would cost if it were chosen."""
    low = ["G4", "B4", "A4", "G4", "D4", "G4", "B4", "A4", "G4", "A4", "B4", "D4", "G4", "F#4", "G4", "B4"]
    assert is_low(request(phrase(low, EIGHTH), "economy"))
    assert not is_low(request(phrase([*low, "C5"], EIGHTH), "economy"))  # fret 8
    found = planned(phrase(low, EIGHTH, tempo=200), "economy", keep=frozenset({"attacks"}))
    assert max(n.fret for n in found.notes) <= 9
    high = planned(phrase(["E5", "G5", "A5", "E5"], EIGHTH), "economy", keep=frozenset({"attacks"}))
    assert max(n.fret for n in high.notes) > 9


def test_no_open_string_stands_in_the_middle_of_a_position():
    line = phrase(["C5", "B4", "A4", "G4", "E4", "G4", "A4", "C5"], QUARTER, tempo=80)
    found = planned(line, "alternate", keep=frozenset({"attacks"}))
    assert all(n.fret for n in found.notes)


def test_figures_that_differ_by_one_fret_are_not_taken_for_one():
    """The hashes of -1 and -2 are one in this language."""
    thirds = [[(2, 5), (1, 3)], [(2, 6), (1, 5)]]
    layers = solve(request(phrase(thirds, QUARTER), "downs")).layers.layers
    figures = [set(layer.fretting.figure[0].tolist()) - {0} for layer in layers]
    assert figures[0] and figures[1] and not figures[0] & figures[1]


def test_a_chord_takes_the_whole_hand_and_a_figure_goes_as_a_block():
    hand = presets.players()["fluent"].fretting
    g, c = [(6, 3), (5, 2), (4, 0), (3, 0), (2, 0), (1, 3)], [(5, 3), (4, 2), (3, 0), (2, 1), (1, 0)]
    fives = [[(6, 5), (5, 7), (4, 7)], [(6, 8), (5, 10), (4, 10)]]
    change = planned(phrase([g, c], QUARTER, tempo=90), "downs").moves[0]
    assert change.fret_ms == pytest.approx(hand.finger_ms + 2 * hand.form_ms)
    carried = planned(phrase(fives, QUARTER, tempo=90), "downs").moves[0]
    along = hand.shift_ms_per_mm * carried.shift_mm
    assert carried.fret_ms == pytest.approx(hand.shift_ms + along + 2 * hand.grip_ms)


def test_a_finger_meets_its_stroke_and_a_hammer_meets_none():
    hand = presets.players()["fluent"].fretting
    struck, hammered = (
        planned(phrase([(3, 5), (3, 7)], attacks=how), "alternate").moves[0].fret_ms for how in ({}, {1: "hammer"})
    )
    assert struck == hand.finger_ms + hand.meet_ms and hammered == hand.finger_ms
