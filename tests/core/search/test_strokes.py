"""Strokes by place, by turn and by travel. Common practice, with no published source."""

from fractions import Fraction as F

import pytest

from dromic.core.values.metre import Metre, default_unit
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned, strokes

LOW, NEXT = (6, 0), (5, 2)
SCALE = [(6, 5), (6, 7), (6, 9), (5, 5), (5, 7), (5, 9), (4, 6), (4, 7), (4, 9), (3, 6), (3, 7), (3, 9)]


def test_economy_three_notes_a_string():
    assert strokes(planned(phrase(SCALE), "economy", start="down")) == "DUD" * 4
    assert strokes(planned(phrase(SCALE[::-1]), "economy", start="up")) == "UDU" * 4


def test_one_note_each_string_up_and_back_outer_notes_doubled():
    """Strings 1, 2, 3 and back, the outer ones twice: three ups, three downs."""
    line = phrase([(1, 5), (2, 5), (3, 5), (3, 7), (2, 5), (1, 5)])
    assert strokes(planned(line, "economy", start="up")) == "UUUDDD"


def test_eighth_pulse_puts_every_beat_down_whatever_came_before():
    durations = [QUARTER, EIGHTH, EIGHTH, F(3, 2), EIGHTH, QUARTER, QUARTER, QUARTER, QUARTER]
    assert strokes(planned(phrase([LOW] * 9, durations), "pulse", pulse="eighth")) == "DDUDUDDDD"


def test_gallops_on_a_sixteenth_pulse():
    assert (
        strokes(planned(phrase([LOW] * 6, [EIGHTH, SIXTEENTH, SIXTEENTH] * 2), "pulse", pulse="sixteenth")) == "DDUDDU"
    )
    reverse = phrase([NEXT, NEXT, LOW] * 2, [SIXTEENTH, SIXTEENTH, EIGHTH] * 2)
    assert strokes(planned(reverse, "pulse", pulse="sixteenth")) == "DUDDUD"


def test_free_keeps_the_downs_of_a_gallop_on_the_eighths():
    """The hand that swings in sixteenths does not alternate through a gallop."""
    line = phrase([LOW] * 12, [EIGHTH, SIXTEENTH, SIXTEENTH] * 4, tempo=140)
    assert strokes(planned(line, "free")) == "DDU" * 4
    assert strokes(planned(line, "alternate")) == "DUD" + "UDU" + "DUD" + "UDU"


def test_triplets_and_compound_time_both_ways():
    triplets = phrase([LOW] * 6, [F(1, 3)] * 6)
    assert strokes(planned(triplets, "pulse", pulse="triplet")) == "DUDDUD"
    jig = phrase([LOW] * 6, EIGHTH, metre=Metre(6, 8))
    assert strokes(planned(jig, "pulse")) == "DUDDUD"
    assert strokes(planned(jig, "pulse", pulse="compound-alternate")) == "DUDUDU"


def test_uneven_metres_start_each_group_down():
    assert strokes(planned(phrase([LOW] * 5, EIGHTH, metre=Metre(5, 8)), "pulse")) == "DUDUD"
    assert strokes(planned(phrase([LOW] * 7, EIGHTH, metre=Metre(7, 8)), "pulse")) == "DUDUDUD"
    assert strokes(planned(phrase([LOW] * 7, EIGHTH, metre=Metre(7, 8, (3, 2, 2))), "pulse")) == "DUDDUDU"


def test_pickup_counts_back_from_the_bar():
    line = phrase([LOW] * 5, [EIGHTH] * 3 + [QUARTER] * 2, pickup=F(3, 2))
    assert strokes(planned(line, "pulse", pulse="eighth")) == "UDUDD"


def test_turning_the_swing_over():
    assert strokes(planned(phrase([LOW] * 4, EIGHTH), "pulse", pulse="eighth", start="up")) == "UDUD"


def test_downs_allow_ups_only_between_the_places():
    slow = phrase([LOW] * 6, [EIGHTH] * 2 + [SIXTEENTH] * 4, tempo=150)
    found = strokes(planned(slow, "downs"))
    assert found[:2] == "DD" and found[2] == "D" and found[4] == "D"
    assert found[3] == found[5] == "U"


def test_alternate_reverses_whatever_the_strings_do_and_slurs_use_no_stroke():
    line = phrase([(3, 5), (3, 7), (2, 5), (3, 5), (1, 5)], attacks={1: "hammer"})
    assert strokes(planned(line, "alternate")) == "D.UDU"


def test_skip_through_can_be_switched_off():
    line = phrase([(5, 5), (3, 5)], EIGHTH)
    assert strokes(planned(line, "economy", start="down")) == "DD"
    assert strokes(planned(line, "economy", start="down", skip_through=False)) == "DU"


def test_five_strings_up_and_back_without_a_hop():
    up = [(5, 11), (4, 10), (3, 8), (2, 9), (1, 8)]
    line = phrase([*up, (1, 11), (1, 8), *up[3::-1]], F(1, 6), attacks={6: "pull"})
    found = planned(line, "economy")
    assert len(found.notes) == 11
    assert found.totals.picked == 10 and found.totals.hops == 0
    assert strokes(found).count("D") == 5 and strokes(found).count("U") == 5
    assert found.totals.turnarounds == 1


def test_pair_cells_low_high_high_low():
    """Two notes a string, low high high low: down down up up."""
    line = phrase([(3, 5), (2, 5), (2, 7), (3, 7)] * 2)
    assert strokes(planned(line, "economy", start="down")) == "DDUUDDUU"


@pytest.mark.parametrize(("strings", "spacings"), [(6, 10), (5, 8), (4, 6)])
def test_travel_of_downs_below_and_ups_from_the_top(strings, spacings):
    """Three downs on the low strings, three ups from string 1, looped: 10, 8, 6 spacings; the loop's return left out here."""
    low = [(strings, 5), (strings - 1, 5), (strings - 2, 5)]
    found = planned(phrase([*low, (1, 5), (2, 5), (3, 5)]), "economy", start="down")
    back = abs(strings - 3)
    spacing = found.request.instrument.pick_spacing_mm
    assert found.totals.pick_travel_mm / spacing + back == pytest.approx(spacings)


def test_default_units():
    assert default_unit(Metre(6, 8), []) == "compound"
    assert default_unit(Metre(4, 4), [SIXTEENTH] * 3 + [EIGHTH]) == "sixteenth"
    assert default_unit(Metre(4, 4), [SIXTEENTH, EIGHTH]) == "eighth"
    assert default_unit(Metre(7, 8), [EIGHTH]) == "eighth"


def test_strokes_kept_from_the_phrase():
    line = phrase([LOW] * 4, EIGHTH, strokes={0: "up", 1: "down", 2: "down"})
    keep = frozenset({"positions", "attacks", "strokes"})
    assert strokes(planned(line, "free", keep=keep))[:3] == "UDD"
