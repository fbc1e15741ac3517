"""Where a school leaves strokes open they go with the beat as far as there is time: on old tunes that nobody here wrote, from the
corpora of music21, and on made-up lines. Downs on the beat are common practice, no published source."""

from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from bench.odd_bars import listed, odd, strokes, tune
from bench.real_tunes import asked_at
from dromic.core.plan.damping import muting
from dromic.core.reports.explain import explain_event
from dromic.core.search.planner import plan, solve
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned, request
from tests.build import strokes as word
from tests.examples import examples

COUNTED = [bars for bars in listed() if bars.use == "count" and "ryansMammoth" in bars.path]
HARD = phrase([(3, 5), (2, 5), (2, 7), (3, 7), (2, 5), (3, 5), (2, 7), (2, 5)] * 3, SIXTEENTH, tempo=100)


def without_price(asked):
    return replace(asked, player=replace(asked.player, judging=replace(asked.player.judging, beat_price=0.0)))


@pytest.mark.parametrize("bars", COUNTED, ids=[bars.path.rpartition("/")[2] for bars in COUNTED])
def test_bars_of_old_tunes_are_stroked_with_the_beat_and_keep_their_ceiling(bars):
    asked = asked_at(tune(bars), "free", 60.0)
    found = plan(asked)
    assert not any(odd(strokes(found, bar)) for bar in bars.bars)
    assert found.ceiling >= 0.96 * plan(without_price(asked)).ceiling


@pytest.mark.parametrize(
    ("line", "wanted"),
    [
        (phrase([(5, 7), (4, 5), (4, 7), (5, 5), (4, 5), (4, 7), (5, 7), (4, 5)], EIGHTH, tempo=60), "DUDUDUDU"),
        (phrase([(4, 5), (4, 7), (3, 5), (3, 7)], QUARTER, tempo=60), "DDDD"),
        (phrase([None, (3, 5), (3, 7), (2, 5), (3, 5), (2, 5), (3, 7), (3, 5)], EIGHTH, tempo=60), "UDUDUDU"),
    ],
    ids=["eighths", "quarters", "off the beat"],
)
def test_slow_lines_are_stroked_by_the_beat_whatever_the_strings(line, wanted):
    assert word(planned(line, "free")) == wanted


def test_near_the_limit_strokes_go_against_the_beat_and_the_note_says_why():
    found = plan(request(HARD))
    against = [n for n in found.notes if n.against]
    assert against
    for note in against:
        [told] = [x for x in explain_event(found, note.event, muting(found)) if x.startswith("Picking hand")]
        assert "against the beat, since " in told
    # the stroke with the beat would not go to as high a tempo at one of its two moves, or the plan would have it
    for note in against:
        assert note.against.load > 0


def test_what_the_player_set_is_told_as_set():
    line = phrase([(3, 5), (3, 7), (3, 5), (3, 7)], QUARTER, tempo=60, strokes={1: "up"})
    found = planned(line, "free", keep=frozenset({"positions", "attacks", "strokes"}))
    told = " | ".join(explain_event(found, 1, muting(found)))
    assert found.notes[1].stroke == "up" and "against the beat, as you set it" in told
    assert "against the beat" not in " | ".join(explain_event(found, 2, muting(found)))


def test_schools_that_name_the_stroke_themselves_ask_nothing_of_the_beat():
    assert not any(n.against for school in ("alternate", "pulse", "downs") for n in planned(HARD, school).notes)


@given(
    st.lists(st.integers(45, 70), min_size=3, max_size=7),
    st.builds(Pin, st.integers(0, 2), st.just(0), st.just("stroke"), st.sampled_from(["down", "up"])),
    st.sampled_from([50.0, 110.0, 190.0]),
)
@examples(30)
def test_a_pinned_stroke_is_never_cheaper(pitches, pin, tempo):
    asked = request(phrase(pitches, SIXTEENTH, tempo=tempo), "free", keep=frozenset({"attacks"}))
    try:
        held = solve(replace(asked, pins=(pin,)))
    except DromicError:
        assume(False)
    assert held.route.cost >= solve(asked).route.cost - 1e-9
    assert held.pace == solve(asked).pace
