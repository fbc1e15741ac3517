"""Habits of the picking hand on which players disagree: each can be had, and changes what is planned or told. Common
practice, no published source."""

from dataclasses import replace

import pytest

from dromic import presets
from dromic.core.search.planner import plan
from dromic.core.setup.player_settings import HABITS, NUMBERS
from tests.build import EIGHTH, SIXTEENTH, phrase, request, strokes

FLUENT = presets.players()["fluent"]
SLURRED = phrase(
    [(4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 7), (1, 5), (1, 7)],
    EIGHTH,
    tempo=90,
    attacks=dict.fromkeys((1, 3, 5, 7), "hammer"),
)


def with_habit(name, value):
    return next(h for h in HABITS if h.name == name).set(FLUENT, value)


def with_number(name, value):
    return next(n for n in NUMBERS if n.name == name).set(FLUENT, value)


def played(player, line, school="free", **options):
    return plan(replace(request(line, school, **options), player=player))


@pytest.mark.parametrize(("wanted", "found"), [("down", "D.D.D.D."), ("up", "U.U.U.U.")])
def test_the_first_of_slurred_notes_is_struck_as_the_player_means_it(wanted, found):
    made = played(with_habit("first_attack", wanted), SLURRED)
    assert strokes(made) == found
    assert (made.totals.first_attacks, made.totals.uneven_first_attacks) == (4, 0)


def test_a_finger_may_sound_it_where_the_school_plucks():
    made = played(with_habit("first_attack", "finger"), SLURRED, "hybrid")
    assert {n.stroke for n in made.leads[2::2]} <= set("imac")
    assert made.totals.uneven_first_attacks <= 1  # the lowest string is the pick's


def test_uneven_first_attacks_are_counted_whatever_is_meant():
    made = played(FLUENT, SLURRED, overrides=((0, "down"), (2, "up"), (4, "down"), (6, "down")))
    assert (made.totals.first_attacks, made.totals.uneven_first_attacks) == (4, 1)


def test_the_pick_waits_where_it_strikes_next():
    """Its string is told while other notes sound; after the last stroke it stays where that ended."""
    made = played(FLUENT, SLURRED, "alternate")
    assert [n.waits_at for n in made.leads] == [None, 3, None, 2, None, 1, None, 1]


def test_schools_of_downs_alternate_above_a_tempo_of_the_players():
    line = phrase([(6, 0)] * 8, EIGHTH, tempo=200)
    player = with_number("alternate_over", 180)
    slow, fast = (presets.school_at("downs", player, tempo) for tempo in (180, 200))
    assert slow.strokes == (("grid", "down"),) and fast.name == "downs" and "alternating" in fast.label
    assert strokes(plan(replace(request(line), player=player, school=fast))) == "DU" * 4
    assert presets.school_at("downstart", player, 200).kinds == presets.schools()["alternate"].kinds
    assert presets.school_at("downs", FLUENT, 400) == presets.schools()["downs"]


@pytest.mark.parametrize("contact", ["palm", "heel", "little", "thumb"])
def test_a_hand_that_touches_somewhere_must_let_go_for_strings_far_apart(contact):
    wide = phrase([(6, 3), (1, 3)], EIGHTH)
    told = [f for f in played(with_habit("contact", contact), wide).findings if f.rule == "lets-go"]
    assert len(told) == 1


def test_a_motion_kept_small_has_to_travel_over_many_strings():
    wide, near = phrase([(6, 3), (1, 3)], EIGHTH), phrase([(6, 3), (4, 5)], EIGHTH)
    small = with_habit("motion", "small")
    rules = {f.rule: f.text for f in played(small, wide).findings}
    assert "reaches over 3 strings" in rules["must-travel"]
    assert "must-travel" not in {f.rule for f in played(small, near).findings}
    assert "must-travel" not in {f.rule for f in played(FLUENT, wide).findings}


def test_players_say_which_change_is_awkward_for_them():
    """Two notes a string from a down: with the lean that clears both ways, outside or inside is what the number says."""
    line = phrase([(3, 5), (3, 7), (2, 5), (2, 7), (3, 5), (3, 7)], SIXTEENTH)
    loads = [
        max(m.pick_load for m in played(with_number("inside", factor), line, "alternate", start="down").moves)
        for factor in (0.8, 1.5)
    ]
    assert loads[0] < loads[1]


def test_every_down_may_rest():
    made = played(with_habit("rest_downs", True), phrase([(3, 5), (3, 7)] * 2, SIXTEENTH), "alternate")
    assert [n.rest_on for n in made.leads] == [2, None, 2, None]


def test_a_figure_moved_along_the_neck_keeps_its_fingers():
    """One that fits under the hand need not."""
    walked = played(FLUENT, phrase([(6, 3), (4, 5), (6, 5), (4, 7), (6, 8), (4, 10)], EIGHTH))
    found = "".join(n.finger for n in walked.notes)
    assert found == found[:2] * 3
    under = played(FLUENT, phrase([(6, 5), (5, 7), (6, 6), (5, 8)] * 2, EIGHTH))
    assert "".join(n.finger for n in under.notes) == "1324" * 2


def test_a_barre_held_for_long_has_a_lower_limit():
    """Like strokes in one direction: over half a minute a hand that holds a barre tires sooner."""
    line = phrase([[(3, 2), (2, 2)], [(3, 12), (2, 12)]] * 4, EIGHTH, tempo=60)
    barre = played(FLUENT, line)
    tired = played(replace(FLUENT, fretting=replace(FLUENT.fretting, sustained_hold_factor=1.6)), line)
    assert tired.ceiling == barre.ceiling and tired.ceiling_sustained < barre.ceiling_sustained


@pytest.mark.parametrize(
    ("value", "school", "told"),
    [
        ("finger", "legato", ["a finger", "does nothing in Legato"]),
        ("finger", "alternate", ["a finger", "does nothing in Alternate"]),
        ("up", "pulse", ["an up-stroke", "does nothing in Pulse"]),
        ("up", "alternate", []),
        ("finger", "hybrid", []),
        ("either", "pulse", []),
    ],
)
def test_a_habit_that_a_school_leaves_nothing_to_do_is_told(value, school, told):
    notices = [n for n in played(with_habit("first_attack", value), SLURRED, school).notices if "habit" in n]
    assert len(notices) == bool(told) and all(words in notice for notice in notices for words in told)


def test_habits_know_in_which_schools_they_do_anything():
    """Held to the plans: where a habit is said to do nothing no side of it changes a plan."""
    line = phrase(
        [(5, 7), (4, 7), (2, 8), (4, 9), (1, 5), (3, 5), (3, 7)], attacks={3: "hammer"}, strokes={}, tempo=140
    )
    for habit in HABITS:
        for school in presets.schools().values():
            if habit.works_in(school) or habit.name in ("left_handed", "hold"):
                continue
            sides = [habit.set(FLUENT, option.value).habits for option in habit.options]
            plans = [
                plan(replace(request(line, school.name), player=replace(FLUENT, habits=side), rest_through=side.rest_through,
                             skip_through=side.skip_through))
                for side in sides
            ]  # fmt: skip
            played_so = {tuple((n.string, n.finger, n.stroke, n.attack) for n in one.notes) for one in plans}
            assert len(played_so) == 1, (habit.name, school.name)
