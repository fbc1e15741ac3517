"""What is judged on a finished plan: finger schedule, muting map, findings, remedies, alternatives, the frontier."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.plan.damping import muting
from dromic.core.plan.finger_schedule import schedule
from dromic.core.questions.alternatives import alternatives, difference, frontier
from dromic.core.questions.remedies import with_remedies
from dromic.core.reports.chart import chart
from dromic.core.reports.explain import remedy_text
from dromic.core.search.planner import judge, plan, solve
from dromic.core.setup.pin import Pin
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned, request
from tests.examples import examples

FLUENT = presets.players()["fluent"]


def rules(found):
    return [f.rule for f in found.findings]


def holding(hold, line, school="alternate"):
    player = replace(FLUENT, habits=replace(FLUENT.habits, hold=hold))
    return plan(replace(request(line, school), player=player))


def test_a_finger_on_a_note_that_is_left_to_ring_is_not_pressed_again():
    """Whatever the habit."""
    line = phrase([(5, 3), (4, 5), (5, 3), (4, 5)], EIGHTH)
    ringing = [replace(e, notes=tuple(replace(n, marks=frozenset({"let-ring"})) for n in e.notes)) for e in line.events]
    made = schedule(holding("lift", line.with_events(ringing)))
    assert [p.events for p in made.presses] == [(0, 2), (1, 3)] and made.avoidable == 0


def test_a_finger_that_rings_on_is_not_pressed_again():
    made = schedule(holding("ring", phrase([(5, 3), (4, 5), (5, 3), (4, 5)], EIGHTH)))
    assert [(p.string, p.events, p.again) for p in made.presses] == [(5, (0, 2), False), (4, (1, 3), False)]
    assert (
        made.avoidable == 0
        and schedule(holding("lift", phrase([(5, 3), (4, 5), (5, 3), (4, 5)], EIGHTH))).avoidable == 2
    )
    away = schedule(holding("ring", phrase([(5, 3), (4, 12), (5, 3)], EIGHTH)))
    assert len(away.presses) == 3  # the hand has moved in between


def test_fingers_lift_as_the_habit_says():
    line = phrase([(3, 5), (3, 7), (2, 5)], [EIGHTH, QUARTER, QUARTER], tempo=120)
    line = replace(
        line,
        events=(
            replace(line.events[0], notes=(replace(line.events[0].notes[0], duration=SIXTEENTH),)),
            *line.events[1:],
        ),
    )
    at_once = schedule(holding("lift", line)).presses[0]
    until_next = schedule(holding("until-next", line)).presses[0]
    ringing = schedule(holding("ring", line)).presses[0]
    assert at_once.end_s == pytest.approx(0.125) and until_next.end_s == pytest.approx(0.25)
    assert ringing.end_s >= until_next.end_s


def test_one_press_sounds_a_note_struck_again_and_motions_are_counted():
    found = schedule(planned(phrase([(3, 5), (3, 5), (3, 7)], EIGHTH), "alternate"))
    assert [p.events for p in found.presses] == [(0, 1), (2,)]
    assert found.motions == (1, 0, 2)  # the first finger lifts as the second comes down


def test_a_finger_that_could_have_stayed_is_told():
    line = phrase([(3, 5), (3, 7), (3, 5), (3, 7), (3, 5), (3, 7), (3, 5)], EIGHTH, tempo=80)
    lifted = holding("lift", line)
    assert schedule(lifted).avoidable == 3 and "avoidable-press" in rules(lifted)
    staying = schedule(planned(line, "alternate"))  # under the higher note, to which it comes back
    assert staying.avoidable == 0 and [p.events for p in staying.presses] == [(0, 2, 4, 6), (1,), (3,), (5,)]
    lower = planned(phrase([(3, 5), (3, 4), (3, 5)], EIGHTH, tempo=80), "alternate")
    assert schedule(lower).avoidable == 0  # the lower fret must sound, so the finger has to lift
    away = schedule(planned(phrase([(3, 5), (3, 7), (2, 5), (3, 5)], EIGHTH, tempo=80), "alternate"))
    assert [p.events for p in away.presses][:2] == [(0,), (1,)]  # the finger is wanted elsewhere before


def test_a_finger_stays_down_under_a_hammer_on():
    """Three notes are three motions of the fingers that come down: the index is there for the pull-off and stays."""
    found = planned(phrase([(3, 7), (3, 5), (3, 7)], EIGHTH, attacks={1: "pull", 2: "hammer"}), "alternate")
    made = schedule(found)
    assert [(p.finger, p.fret, p.late) for p in made.presses] == [("3", 7, False), ("1", 5, False), ("3", 7, False)]
    index = made.presses[1]
    assert index.start_s == 0.0 and index.end_s == pytest.approx(found.notes[2].end_s)
    assert [b.end_s for b in chart(found).fingers if b.fret == 5] == [pytest.approx(index.end_s)]
    assert sum(made.motions) == 4 and "avoidable-press" not in rules(found)


@pytest.mark.parametrize("line", [[(3, 5), (3, 7)], [(3, 5), (2, 7)]], ids=["on one string", "across"])
def test_lifting_and_overlapping_can_be_measured(line):
    made = {
        habit: schedule(holding(habit, phrase(line, EIGHTH))).presses[0] for habit in ("lift", "until-next", "overlap")
    }
    second = 0.25
    assert made["lift"].end_s == pytest.approx(second - 0.04) and made["until-next"].end_s == pytest.approx(second)
    assert made["overlap"].end_s == pytest.approx(second + 0.04)


def test_three_notes_are_four_motions_when_the_lower_finger_comes_late():
    line = [(1, 7), (3, 9), (3, 7)]
    late = planned(phrase(line, SIXTEENTH, tempo=200, attacks={2: "pull"}), "alternate")
    assert "late-finger" in rules(late)
    slower = planned(phrase(line, SIXTEENTH, tempo=100, attacks={2: "pull"}), "alternate")
    assert "late-finger" not in rules(slower)  # it comes down together with the note that is pulled off
    beforehand = planned(phrase(line[1:], SIXTEENTH, tempo=200, attacks={1: "pull"}), "alternate")
    assert "late-finger" not in rules(beforehand)  # at the start both fingers can be placed
    ready = planned(phrase([(3, 7), (3, 9), (3, 7)], SIXTEENTH, attacks={1: "hammer", 2: "pull"}), "alternate")
    assert "late-finger" not in rules(ready)


def test_a_shift_cuts_a_note_short():
    found = planned(phrase([(3, 3), (3, 14)], SIXTEENTH, tempo=140), "alternate")
    assert "cut-short" in rules(found) and schedule(found).presses[0].cut_s > 0.06


def test_who_damps_each_idle_string():
    found = muting(planned(phrase([(3, 5)], QUARTER), "alternate"))
    assert found.by[0] == ("underside", "underside", "sounds", "palm", "palm", "palm")
    plucked = muting(planned(phrase([(3, 5)], QUARTER), "fingers"))
    assert plucked.by[0][3:] == ("thumb",) * 3
    index = (Pin(0, 0, "finger", "1"), Pin(0, 1, "finger", "1"))
    barre = muting(planned(phrase([[(5, 5), (3, 5)]], [1]), "free", pins=index))
    assert barre.by[0][3] == "flat"


def test_an_open_string_left_sounding_is_found():
    line = phrase([(1, 0), (5, 5), (5, 7)], EIGHTH)
    found = planned(line, "alternate")
    assert muting(found).ringing[1] == (1,) and "unmuted" in rules(found)
    ring = replace(
        line,
        events=tuple(
            replace(e, notes=tuple(replace(n, marks=frozenset({"let-ring"})) for n in e.notes)) for e in line.events
        ),
    )
    assert "unmuted" not in rules(planned(ring, "alternate"))


def test_a_free_index_lies_over_a_string_that_would_ring():
    """A barre that only touches. It can't where an open string between sounds on; a finger left down damps too."""
    found = muting(planned(phrase([(1, 0), (5, 7), (5, 5)], EIGHTH), "alternate", **pins("finger", "0", "3", "1")))
    assert found.by[1][0] == "touch" and found.ringing == ((), (), ())
    dead = phrase([[(3, 5), (2, 5), (1, 5)]], [EIGHTH])
    chord = dead.events[0]
    chord = replace(chord, notes=tuple(replace(n, marks=frozenset({"dead"})) for n in chord.notes))
    assert muting(planned(dead.with_events([chord]))).by[0][:3] == ("touch",) * 3
    held = muting(holding("ring", phrase([(4, 7), (6, 5)], EIGHTH), "alternate")).by[1]
    assert held == ("nobody", "underside", "underside", "sounds", "tip", "sounds")


def test_fingers_need_not_press_what_is_to_be_dead():
    """A flat ring finger costs little where it only touches."""
    flat = (Pin(0, 0, "finger", "3"), Pin(0, 1, "finger", "3"), Pin(0, 2, "finger", "3"))
    line = phrase([[(3, 5), (2, 5), (1, 5)]], [EIGHTH])
    dead = [replace(e, notes=tuple(replace(n, marks=frozenset({"dead"})) for n in e.notes)) for e in line.events]
    assert planned(line.with_events(dead), pins=flat).cost < planned(line, pins=flat).cost - 0.5


def pins(field, *values):
    return {"pins": tuple(Pin(i, 0, field, value) for i, value in enumerate(values))}


PLUCKED = phrase([(3, 5)] * 3, attacks=dict.fromkeys(range(3), "pluck"), strokes=dict.fromkeys(range(3), "m"))
UPWARDS = phrase([(3, f) for f in (3, 3, 5, 5, 7, 7, 8, 8, 10, 10, 12, 12, 14, 14, 15, 15)], tempo=90)
AGAINST = {"pulse": "eighth", "overrides": tuple((i, "up" if i % 2 == 0 else "down") for i in range(2, 8))}
ONE_PLACE = (Pin(0, 0, "position", 5), Pin(1, 0, "position", 5), *pins("finger", "1", "1")["pins"])
CASES = [
    ("turned-around", phrase([(6, 0)] * 8, EIGHTH), "pulse", AGAINST),
    ("sweep-arrival", phrase([(5, 5), (5, 7), (4, 5), (3, 5)], tempo=150), "sweep", {"start": "down"}),
    ("sweep-arrival", phrase([(3, 9), (2, 10), (1, 8), (2, 10)]), "economy", {"start": "up"}),
    ("turnaround", phrase([(3, 9), (2, 10), (1, 8), (2, 10), (3, 9)]), "economy", {"start": "down"}),
    ("pluck-twice", PLUCKED, "free", {}),
    ("roll", phrase([(3, 12), (2, 12), (1, 12)], tempo=170), "economy", pins("finger", "3", "3", "3")),
    ("weak-pair", phrase([(3, 12), (3, 13)] * 3, tempo=150), "alternate", pins("finger", *"343434")),
    ("dear-change", phrase([(4, 5), (3, 5)], tempo=140), "alternate", {"lean": "both-clear"}),
    ("same-finger-twice", phrase([(3, 5), (3, 6)], tempo=150), "alternate", {"pins": ONE_PLACE}),
    ("seam", UPWARDS, "alternate", {"repeat": True}),
]


@pytest.mark.parametrize(("rule", "line", "school", "options"), CASES, ids=[c[0] for c in CASES])
def test_every_rule_sees_what_it_is_for(rule, line, school, options):
    assert rule in rules(planned(line, school, **options))


def test_remedies_help_and_say_by_how_much():
    line = phrase([(3, 5), (3, 7), (3, 8), (4, 5), (4, 7)], SIXTEENTH, tempo=140)
    solved = solve(request(line, "alternate"))
    advised = with_remedies(solved, presets.other_leans())
    worst = advised.findings[0]
    assert worst.remedy is not None and worst.remedy.ceiling > 1.3 * advised.ceiling
    assert "ceiling about" in remedy_text(advised, worst.remedy)
    assert [f.text for f in advised.findings] == [f.text for f in judge(solved).findings]


@examples(15)
@given(st.lists(st.integers(48, 66), min_size=4, max_size=8), st.sampled_from(["alternate", "economy", "free"]))
def test_a_pinned_remedy_is_what_planning_anew_with_its_pins_gives(pitches, school):
    wanted = request(phrase(pitches, SIXTEENTH, tempo=180), school)
    advised = with_remedies(solve(wanted), {})
    for finding in advised.findings[:3]:
        if finding.remedy is not None and finding.remedy.change.pins:
            anew = plan(replace(wanted, pins=finding.remedy.change.pins))
            assert anew.ceiling == pytest.approx(finding.remedy.ceiling, rel=0.02) or anew.cost > 0


@examples(15)
@given(st.lists(st.integers(48, 66), min_size=6, max_size=12), st.sampled_from(["alternate", "economy", "free"]))
def test_alternatives_differ_and_come_in_order(pitches, school):
    found = alternatives(solve(request(phrase(pitches), school)), 4)
    costs = [s.route.cost for s in found]
    assert costs == sorted(costs)
    least = max(2.0, FLUENT.judging.min_difference * len(pitches)) / len(pitches)
    for i, a in enumerate(found):
        for b in found[:i]:
            assert difference(a.path, b.path) >= least - 1e-9
    from dromic.core.questions.alternatives import cost_of

    assert all(s.route.cost == pytest.approx(cost_of(s.lattice, s.route.states)) for s in found)


def test_the_frontier_trades_hands_and_unpicked_notes():
    line = phrase([(3, 5), (3, 7), (3, 9), (2, 5), (2, 7), (2, 8)], SIXTEENTH, tempo=140)
    points = frontier(request(line, "economy"))
    assert points[0].unpicked == 0 and points[-1].unpicked > 0
    assert points[-1].picking_work < points[0].picking_work


@examples(25)
@given(st.lists(st.integers(48, 64), min_size=2, max_size=7), st.sampled_from(tuple(presets.schools())))
def test_the_ceiling_is_a_property_of_the_plan_held_fixed(pitches, school):
    """Under it no move of this plan has a load over 1, above it one has: loads grow as the tempo."""
    found = planned(phrase(pitches, SIXTEENTH, tempo=110), school)
    if found.ceiling is None:
        return
    at = {t: max(m.load for m in found.moves) * t / 110 for t in (0.99 * found.ceiling, 1.01 * found.ceiling)}
    low, high = at.values()
    assert low < 1 < high
