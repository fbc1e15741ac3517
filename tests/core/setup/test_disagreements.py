"""Where players disagree: both sides of every point can be had, in the window and by command, with their reasons."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.cli.main import main
from dromic.core.plan.write_back import POSITIONS
from dromic.core.search.planner import plan
from dromic.core.setup.choices import Choices
from dromic.core.setup.disagreements import DISAGREEMENTS
from dromic.core.setup.player_settings import HABITS, NUMBERS
from dromic.plan_requests import request_for
from tests.broken import DEMO
from tests.build import EIGHTH, phrase

FLUENT = presets.players()["fluent"]
SKIPPING = phrase([(5, 3), (3, 5), (1, 3), (3, 5)], EIGHTH, tempo=90)


def test_every_point_has_two_sides_or_more_each_with_a_reason():
    assert len(DISAGREEMENTS) >= 15
    for one in DISAGREEMENTS:
        assert len(one.sides) >= 2 and one.where
        assert all(side.why.endswith(".") and len(side.why) > 20 for side in one.sides), one.point


@pytest.mark.parametrize("one", [d for d in DISAGREEMENTS if d.habit], ids=lambda d: d.habit)
def test_a_side_that_a_habit_holds_can_be_set_and_is_the_one_taken(one):
    habit = next(h for h in HABITS if h.name == one.habit)
    assert {option.value for option in habit.options} == {side.value for side in one.sides}
    for side in one.sides:
        player = replace(FLUENT, habits=replace(FLUENT.habits, **{one.habit: side.value}))
        assert one.taken(player) is side


def test_every_habit_of_a_player_can_be_set_on_the_page_of_the_hands():
    from dataclasses import fields

    assert {h.name for h in HABITS} == {f.name for f in fields(FLUENT.habits)}
    assert {"dial", "inside", "alternate_over"} <= {n.name for n in NUMBERS}


def test_over_a_skipped_string_both_sides_are_planned():
    kinds = []
    for on in (True, False):
        player = replace(FLUENT, name="mine", habits=replace(FLUENT.habits, skip_through=on))
        asked = request_for(SKIPPING, Choices(school="economy", player="mine", tempo=90), {"mine": player})
        assert asked.skip_through is on and POSITIONS in asked.keep
        kinds.append({m.pick_kind for m in plan(asked).moves})
    assert "skip-through" in kinds[0] and "skip-through" not in kinds[1]


def test_they_are_read_on_the_page_of_the_hands_with_the_side_taken(qtbot, demo_window):
    QTest.keyClick(demo_window, Qt.Key.Key_F7)
    place = demo_window.pages.hands
    place.tabs.setCurrentWidget(place.sides)
    text = place.sides.toPlainText()
    for one in DISAGREEMENTS:
        assert one.point in text and all(side.why in text for side in one.sides)
    assert "with the next note (yours)" in text
    place._set_habit("hold", "ring")
    assert "late, it rings (yours)" in place.sides.toPlainText()


def test_they_are_listed_by_command(capsys):
    assert main(["disagreements", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)["disagreements"]
    assert len(rows) == sum(len(d.sides) for d in DISAGREEMENTS) and all(r["why"] for r in rows)
    assert main(["plan", str(DEMO), "--tune", "4", "--school", "economy", "--skip-through", "off", "--json"]) == 0
    moves = json.loads(capsys.readouterr().out)["plans"][0]["moves"]
    assert not any(m["pick_kind"] == "skip-through" for m in moves)
