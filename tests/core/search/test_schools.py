"""Every school by what players expect of it. Common practice, with no published source."""

import itertools
from dataclasses import replace
from fractions import Fraction as F

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.music.songbook import empty_phrase
from dromic.core.reports.chart import chart
from dromic.core.search.planner import plan
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import parse
from tests.build import EIGHTH, QUARTER, SIXTEENTH, note, phrase, planned, request, strokes
from tests.examples import examples
from tests.phrases import GUITAR

FLUENT = presets.players()["fluent"]
LINES = st.lists(st.tuples(st.integers(1, 6), st.integers(0, 9)), min_size=2, max_size=7)


def habits(**chosen):
    return replace(FLUENT, habits=replace(FLUENT.habits, **chosen))


def test_every_school_is_there():
    assert set(presets.schools()) == {
        "alternate", "pulse", "downs", "downstart", "economy", "sweep", "pattern", "hybrid", "legato", "fingers", "free",
    }  # fmt: skip


def test_new_strings_start_down_whichever_way_they_lie():
    line = phrase([(4, 5), (4, 7), (3, 5), (4, 5), (4, 7), (5, 5), (5, 7)])
    assert strokes(planned(line, "downstart")) == "DUDDUDU"


@examples(30)
@given(LINES)
def test_downstart_holds_on_any_line(places):
    found = planned(phrase(places), "downstart")
    for a, b in zip(found.notes, found.notes[1:], strict=False):
        assert b.stroke == ("down" if a.string != b.string or a.stroke == "up" else "up")


def test_patterns_count_struck_notes_across_bar_lines():
    line = phrase([(6, 0)] * 9, EIGHTH, attacks={2: "hammer"})
    line = line.with_events(
        [replace(e, notes=(note((6, 2), EIGHTH, "hammer"),)) if i == 2 else e for i, e in enumerate(line.events)]
    )
    assert strokes(planned(line, "pattern", pattern="ddu")) == "DD.UDDUDD"
    assert strokes(planned(phrase([(6, 0)] * 6), "pattern", pattern="dddddu")) == "DDDDDU"
    with pytest.raises(DromicError, match="pattern 'dxu'"):
        planned(line, "pattern", pattern="dxu")
    with pytest.raises(DromicError, match="allow no legato"):
        planned(line, "pattern", legato="anywhere")


def test_the_double_up_is_one_motion_over_two_strings():
    """Down, then two ups over the two strings above, going down again: the second up is carried through."""
    line = phrase([(6, 3), (4, 5), (5, 5)] * 2, F(1, 3))
    found = planned(line, "pattern", pattern="duu")
    assert strokes(found) == "DUUDUU"
    assert [m.pick_kind for m in found.moves][1] == "carry-through"


def test_three_downs_three_ups():
    line = phrase([(6, 5), (5, 5), (4, 5), (1, 5), (2, 5), (3, 5)])
    found = planned(line, "pattern", pattern="ddduuu")
    assert strokes(found) == "DDDUUU" and found.totals.carry_through == 4


def test_a_sweep_starts_on_its_first_string():
    """Two strokes on string 5 and a run of single notes to string 1: economy would step in from inside."""
    line = phrase([(5, 5), (5, 7), (4, 5), (3, 5), (2, 5), (1, 5)])
    found = planned(line, "sweep", start="down")
    assert strokes(found)[1:] == "DDDDD"
    assert "inside" not in [m.pick_kind for m in found.moves]
    assert [n.rest_on for n in found.notes][1:5] == [4, 3, 2, 1]
    free = planned(line, "sweep", start="down", rest_through=False)
    assert [n.rest_on for n in free.notes] == [None] * 6
    carried = [(a.pick_load, b.pick_load) for a, b in zip(found.moves, free.moves, strict=True)][2]
    assert carried[1] > carried[0]  # an attack of its own for each string takes longer


@examples(30)
@given(LINES)
def test_no_sweep_is_entered_on_its_second_string(places):
    """But where one turns: there the string it turned on belongs to both."""
    swept = False
    for a, b in itertools.pairwise(planned(phrase(places), "sweep").moves):
        if (a.pick_kind, b.pick_kind) == ("inside", "carry-through"):
            assert swept
        if a.pick_kind not in ("same-string", "repeat"):
            swept = a.pick_kind in ("carry-through", "skip-through")


def test_a_sweep_turns_on_one_note_and_comes_back_in_the_other_stroke():
    """Common practice, with no published source."""
    found = planned(phrase([(4, 9), (3, 9), (2, 10), (1, 9), (2, 10), (3, 9), (4, 9)], SIXTEENTH, tempo=100), "sweep")
    assert strokes(found) == "DDDDUUU"
    assert found.totals.turnarounds == 1 == sum(not t.lean for t in chart(found).turns)


def test_a_sweep_turns_after_slurs_at_the_top():
    places = [(5, 12), (4, 14), (3, 14), (2, 13), (1, 12), (1, 17), (1, 12), (2, 13), (3, 14), (4, 14), (5, 12)]
    attacks = {5: "hammer", 6: "pull"}
    assert strokes(planned(phrase(places, SIXTEENTH, tempo=100, attacks=attacks), "sweep")) == "DDDDD..UUUU"


def test_hybrid_gives_the_lowest_string_of_each_figure_to_the_pick():
    line = phrase([(5, 7), (3, 9), (2, 10), (5, 7), (3, 9), (1, 10)], EIGHTH)
    found = planned(line, "hybrid")
    assert strokes(found).replace("U", "D") == "Dma" + "Dm" + strokes(found)[5]
    assert [n.attack for n in found.notes] == ["pick", "pluck", "pluck"] * 2
    beats = replace(request(line, "hybrid"), player=habits(hybrid_beats=True))
    assert all(n.attack == "pick" for n in plan(beats).notes if n.onset.denominator == 1)


def test_ring_finger_stands_in_for_the_little_finger_when_it_is_free():
    """Three plucked strings want m a c in turn; with the middle one left out the ring finger is free."""
    roll = phrase([(5, 7), (3, 9), (2, 10), (1, 10)], SIXTEENTH, tempo=160)
    assert strokes(planned(roll, "hybrid"))[1:] == "mac"
    apart = phrase([(5, 7), (3, 9), (1, 10)], QUARTER, tempo=100)
    assert "c" not in strokes(planned(apart, "hybrid"))


def test_pinched_chords_are_pick_and_fingers_at_once():
    found = planned(phrase([[(5, 7), (3, 9), (2, 8)], (5, 7), (3, 9)], EIGHTH), "hybrid")
    chord = found.events[0]
    assert [(n.string, n.attack) for n in chord] == [(5, "pick"), (3, "pluck"), (2, "pluck")]
    assert [n.stroke for n in chord][1:] == ["m", "a"]
    assert found.totals.picked == 2 and found.totals.plucked == 1


def test_legato_strikes_once_a_stay_at_most():
    line = phrase([(4, 5), (4, 7), (4, 9), (3, 5), (3, 7), (3, 9), (3, 7)])
    found = planned(line, "legato")
    assert strokes(found)[1:3] == ".." and strokes(found)[4:] == "..."
    assert [n.attack for n in found.notes][1:3] == ["hammer", "hammer"] and found.notes[6].attack == "pull"
    repeated = planned(phrase([(4, 5), (4, 5)]), "legato")
    assert repeated.totals.legato == 0  # the same fret can only be struck again


def test_an_ornament_of_five_takes_one_stroke():
    turn = phrase([(3, 7), (3, 8), (3, 7), (3, 5), (3, 7)], F(1, 6))
    found = planned(turn, "legato")
    assert strokes(found) in ("D....", "U....")
    assert [n.attack for n in found.notes][1:3] == ["hammer", "pull"]


def test_fingers_take_turns_and_rake_on_to_a_lower_string():
    bass = {"instrument": "bass4", "keep": frozenset({"attacks"})}
    line = phrase([33, 33, 33, 33], EIGHTH)
    assert strokes(planned(line, "fingers", **bass)) in ("imim", "mimi")
    down = phrase([43, 38, 33, 28], SIXTEENTH, tempo=120)  # the open strings from 1 to 4
    strings = [Pin(e, 0, "string", e + 1) for e in range(4)]
    raked = strokes(planned(down, "fingers", **bass, pins=tuple(strings)))
    assert len(set(raked)) == 1
    three = replace(request(line, "fingers", **bass), player=habits(bare_fingers="ima"))
    played = strokes(plan(three))
    assert all(a != b for a, b in itertools.pairwise(played))


def test_bare_fingers_join_in_free_only_when_switched_on():
    line = phrase([(6, 3), (2, 5), (6, 3), (1, 5), (6, 3), (2, 5)], SIXTEENTH, tempo=150)
    assert planned(line, "free").totals.plucked == 0
    on = plan(replace(request(line, "free"), player=habits(free_fingers=True)))
    assert on.totals.plucked > 0 and on.ceiling > planned(line, "free").ceiling


def strummed(*frets):
    """Chords by their frets from the lowest string up, x for one left out."""
    line = " ".join("+".join(f"{6 - n}.{f}" for n, f in enumerate(each) if f != "x") for each in frets)
    return parse(line, empty_phrase("x", GUITAR, 1), GUITAR).phrase


@pytest.mark.parametrize("school", ["free", "hybrid"])
def test_chords_too_large_for_the_fingers_are_strummed_and_nothing_else(school):
    chords = strummed("320003", "022100", "320003")
    fingers = plan(replace(request(chords, school), player=habits(free_fingers=True)))
    assert [n.attack for n in fingers.notes] == ["pick"] * 18
    assert fingers.cost == pytest.approx(plan(request(chords, school)).cost)


@examples(40)
@given(
    st.lists(st.text("x01234", min_size=6, max_size=6).filter(lambda each: each != "xxxxxx"), min_size=1, max_size=4),
    st.sampled_from(sorted(presets.schools())),
    st.sampled_from(["never", "anywhere"]),
)
def test_any_chords_after_each_other_have_a_plan_or_a_reason(chords, school, legato):
    asked = replace(request(strummed(*chords), school), player=habits(free_fingers=True, first_attack="finger"))
    asked = replace(asked, school=replace(asked.school, legato=legato))
    try:
        assert len(plan(asked).events) == len(chords)
    except DromicError as reason:
        assert len(str(reason)) <= 300


def test_a_long_note_resets_the_pulse():
    line = phrase([(6, 0)] * 5, [SIXTEENTH, SIXTEENTH, F(3, 2), SIXTEENTH, SIXTEENTH])
    assert strokes(planned(line, "pulse", pulse="sixteenth")) == "DUDDU"


def test_strict_alternation_is_visibly_worse_on_a_riff_of_gallops():
    riff = phrase([(6, 0)] * 12, [EIGHTH, SIXTEENTH, SIXTEENTH] * 4, tempo=178)
    pulse, strict = planned(riff, "pulse", pulse="sixteenth"), planned(riff, "alternate")
    assert strict.ceiling < 178 < pulse.ceiling
    assert {"turned-around", "does-not-fit"} <= {f.rule for f in strict.findings}
    assert not {"turned-around", "does-not-fit"} & {f.rule for f in pulse.findings}


def test_a_stroke_of_ones_own_stands_and_the_rest_is_planned_around_it():
    line = phrase([(6, 0)] * 6, EIGHTH)
    assert strokes(planned(line, "pulse", pulse="eighth", overrides=((2, "up"),))) == "DUUUDU"
    turned = planned(line, "alternate", overrides=((2, "up"),))
    assert strokes(turned) == "DUUDUD"
    (finding,) = [f for f in turned.findings if f.rule == "turned-around"]
    assert "4 of them, to the end" in finding.text
    with pytest.raises(DromicError, match="note 2, which the pick does not sound"):
        planned(phrase([(6, 0), (6, 2)], attacks={1: "hammer"}), "pulse", overrides=((1, "up"),))


@examples(40)
@given(LINES, st.sampled_from(["alternate", "economy", "sweep"]))
def test_mirror_image_costs_the_picking_hand_the_same(places, school):
    """Strings reversed, strokes and start swapped, the lean mirrored, no accents; open strings, so that the fretting hand, which is no
    mirror of itself, has nothing to do."""
    line = phrase([(s, 0) for s, _ in places])
    mirror = phrase([(7 - s, 0) for s, _ in places])
    one = planned(line, school, start="down", lean="up-clear")
    other = planned(mirror, school, start="up", lean="down-clear")
    assert sum((m.pick_load or 0) ** 2 for m in one.moves) == pytest.approx(
        sum((m.pick_load or 0) ** 2 for m in other.moves)
    )
