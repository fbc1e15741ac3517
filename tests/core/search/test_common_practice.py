"""Sayings of working players that any plan must agree with. Common practice, with no published source."""

from dataclasses import replace
from fractions import Fraction as F

import pytest

from dromic import presets
from dromic.core.plan.request import Request
from dromic.core.search.planner import plan
from dromic.core.values.errors import DromicError
from tests.build import EIGHTH, QUARTER, SIXTEENTH, fingers, phrase, planned, request, strokes


@pytest.mark.parametrize(("tempo", "ms"), [(140, 107.1), (60, 250.0), (70, 214.3)])
def test_what_sixteenths_leave(tempo, ms):
    assert planned(phrase([(3, 5)] * 3, tempo=tempo)).moves[0].gap_ms == pytest.approx(ms, abs=0.05)


@pytest.mark.parametrize(("strings", "spacings"), [(6, 10), (5, 8), (4, 6)])
def test_travel_of_three_downs_and_three_ups_a_loop(strings, spacings):
    """Three downs on the low strings and three ups from string 1, over six, five and four strings, hardest first."""
    low = [(strings, 5), (strings - 1, 5), (strings - 2, 5)]
    found = planned(phrase([*low, (1, 5), (2, 5), (3, 5)]), "pattern", pattern="ddduuu", repeat=True)
    assert found.totals.pick_travel_mm / found.request.instrument.pick_spacing_mm == pytest.approx(spacings)


def test_odd_counts_on_a_string_turn_the_stroke_around():
    three = phrase([(5, 5), (5, 7), (5, 8), (4, 5), (4, 7), (4, 8)])
    assert strokes(planned(three, "alternate"))[3] == "U"
    four = phrase([(5, 5), (5, 7), (5, 8), (5, 10), (4, 5), (4, 7)])
    assert strokes(planned(four, "alternate"))[4] == "D"


@pytest.mark.parametrize(("count", "first"), [(1, "U"), (2, "D"), (3, "U"), (4, "D")])
def test_counts_before_an_up_sweep(count, first):
    """An up-sweep leaves string 2 for the lower ones: an even count struck there, the last included, starts down."""
    stay = [(2, 5), (2, 7), (2, 8), (2, 10)][:count]
    line = phrase([*stay, (3, 7), (4, 7), (5, 7)], SIXTEENTH, tempo=150)
    found = strokes(planned(line, "economy", lean="down-clear"))
    assert found[0] == first and found[count - 1 :] == "UUUU"


def test_legato_inside_a_stay_leaves_the_alternation_to_the_struck_notes():
    line = phrase(
        [(4, 5), (4, 7), (4, 9), (3, 5), (3, 7), (3, 9)], attacks={1: "hammer", 2: "hammer", 4: "hammer", 5: "hammer"}
    )
    assert strokes(planned(line, "alternate")) == "D..U.."
    assert strokes(planned(line, "pulse", pulse="sixteenth")) == "D..U.."


def test_the_two_ways_of_counting_first_differ_after_a_long_note():
    """By place in the beat and by running alternation: the same until a quarter, turned around after it."""
    line = phrase([(6, 0)] * 5, [EIGHTH, EIGHTH, QUARTER, EIGHTH, EIGHTH])
    by_place, running = strokes(planned(line, "pulse", pulse="eighth")), strokes(planned(line, "alternate"))
    assert (by_place, running) == ("DUDDU", "DUDUD")
    assert next(i for i, (a, b) in enumerate(zip(by_place, running, strict=True)) if a != b) == 3


def test_sixteenth_riffs_keep_everything_down_but_the_notes_in_between():
    riff = phrase([(6, 0)] * 9, [EIGHTH, EIGHTH, SIXTEENTH, SIXTEENTH, EIGHTH, EIGHTH, SIXTEENTH, SIXTEENTH, QUARTER])
    assert strokes(planned(riff, "downs", pulse="eighth"))[:3] == "DDD"
    pulsed = strokes(planned(riff, "pulse", pulse="sixteenth"))
    assert pulsed == "DDDUDDDUD"


def test_rest_strokes_land_on_the_next_string_and_quick_ones_do_not():
    line = phrase([(5, 3), (5, 5), (4, 5), (1, 5)], [QUARTER, EIGHTH, EIGHTH, QUARTER])
    rests = [n.rest_on for n in planned(line, "downs", pulse="sixteenth").notes]
    assert rests == [4, None, None, None]  # nothing to land on beyond string 1
    player = presets.players()["fluent"]
    resting = replace(player, habits=replace(player.habits, rest_downs=True))
    found = plan(replace(request(line, "downs", pulse="sixteenth"), player=resting))
    assert [n.rest_on for n in found.notes] == [4, 4, 3, None]


def test_a_rake_of_one_finger_over_open_strings():
    """Down the open strings of a bass one finger rakes; up them the fingers take turns."""
    bass = presets.instruments()["bass4"]
    player = presets.players()["fluent"]

    def played(pitches):
        line = phrase(pitches, SIXTEENTH, tempo=120)
        wanted = Request(line, bass, player, presets.schools()["fingers"], keep=frozenset({"attacks"}))
        found = plan(wanted)
        return [n.string for n in found.notes], strokes(found)

    strings, word = played([43, 38, 33, 28])
    assert strings == [1, 2, 3, 4] and len(set(word)) == 1
    _, word = played([28, 33, 38, 43])
    assert word in ("imim", "mimi")


def test_the_bass_scale_comes_back_the_way_it_went():
    bass = {"instrument": "bass4", "keep": frozenset({"attacks"})}
    up = [36, 38, 40, 41, 43, 45, 47, 48]
    there, back = planned(phrase(up, EIGHTH, tempo=80), **bass), planned(phrase(up[::-1], EIGHTH, tempo=80), **bass)
    if [n.string for n in there.notes] == [n.string for n in back.notes][::-1]:
        assert fingers(there) == fingers(back)[::-1]


def test_double_stops_by_one_finger_lying_flat():
    found = planned(phrase([[(3, 7), (2, 7)]] * 2, QUARTER), "free")
    assert {len({n.finger for n in found.events[e]}) for e in (0, 1)} <= {1, 2}
    assert found.moves[0].fret_kind == "hold"


def test_drop_tunings_take_their_frets_along():
    drop = presets.instruments()["guitar-drop-d"]
    line = phrase([[38, 45, 50], [41, 48, 53]], QUARTER)  # the low three strings open, then across the third fret
    found = plan(
        Request(line, drop, presets.players()["fluent"], presets.schools()["downs"], keep=frozenset({"attacks"}))
    )
    assert [(n.string, n.fret) for n in found.events[0]] == [(6, 0), (5, 0), (4, 0)]
    assert [(n.string, n.fret) for n in found.events[1]] == [(6, 3), (5, 3), (4, 3)]
    assert len({n.finger for n in found.events[1]}) == 1


def test_an_eight_string_riff_plans_in_every_school():
    line = phrase([30, 30, 35, 30, 37, 30], [SIXTEENTH, SIXTEENTH, EIGHTH] * 2)
    for school in presets.schools():
        found = planned(line, school, instrument="guitar8", keep=frozenset())
        assert len(found.notes) == 6 and found.ceiling


def test_what_no_string_reaches_is_said():
    with pytest.raises(DromicError, match="outside the range"):
        planned(phrase([20, 40]), "free")


def test_triplets_over_a_bar_line_keep_their_downs():
    line = phrase([(6, 0)] * 12, F(1, 3))
    assert strokes(planned(line, "pulse", pulse="triplet")) == "DUD" * 4
