"""The hands in a player's words: numbers there and back, habits, players of one's own, the page with its drawing."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.drawing.lean_icon import ICON, path_of
from dromic.app.drawing.pick_drawing import PickDrawing, told
from dromic.core.search.planner import plan
from dromic.core.setup.pin import Pin
from dromic.core.setup.player import Lean
from dromic.core.setup.player_settings import HABITS, NUMBERS, able_to_switch
from dromic.store.roster import Roster, player_bytes
from tests.build import EIGHTH, SIXTEENTH, phrase, planned, request

FLUENT = presets.players()["fluent"]
GUITAR = presets.instruments()["guitar"]
BY_NAME = {n.name: n for n in NUMBERS}
K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


@pytest.mark.parametrize("number", NUMBERS, ids=lambda n: n.name)
@given(share=st.floats(0.02, 1))
def test_a_number_set_is_the_number_read(number, share):
    value = number.low + share * (number.high - number.low)
    made = number.set(FLUENT, value)
    assert number.get(made) == pytest.approx(value)
    assert number.low <= number.get(FLUENT) <= number.high
    assert all(abs(other.get(made) - other.get(FLUENT)) < 1e-9 for other in NUMBERS if other.name != number.name)


def test_tempos_are_the_note_lengths_they_name():
    """Sixteenths at 180 leave 83.3 ms a note, eighths at 200 leave 150 ms: arithmetic."""
    assert BY_NAME["sixteenths"].get(BY_NAME["sixteenths"].set(FLUENT, 180)) == pytest.approx(180)
    assert BY_NAME["sixteenths"].set(FLUENT, 180).picking.alternate_ms == pytest.approx(60000 / 180 / 4)
    assert BY_NAME["downs"].set(FLUENT, 200).picking.repeat_ms == pytest.approx(150)


@pytest.mark.parametrize("school", ["alternate", "economy", "free"])
@pytest.mark.parametrize("number", [n for n in NUMBERS if n.better], ids=lambda n: n.name)
def test_a_better_hand_never_has_a_lower_ceiling_for_the_same_plan(number, school):
    """With the plan held fixed by its strokes and fingers the ceiling can only rise."""
    line = phrase([(3, 5), (3, 7), (2, 5), (2, 8), (4, 7), (3, 5), (5, 7), (2, 5)] * 2, tempo=140)
    before = planned(line, school)
    better = number.improved(FLUENT)
    pins = tuple(
        Pin(n.event, 0, field, value)
        for n in before.notes
        for field, value in (("finger", n.finger), ("position", n.position), ("stroke", n.stroke))
        if not (field == "position" and not n.position)
    )
    asked = replace(request(line, school), player=better, pins=pins)
    assert plan(asked).ceiling >= before.ceiling * (1 - 1e-9)


def test_every_side_of_every_habit_makes_a_player_that_plans():
    line = phrase([(6, 3), (4, 5), (2, 5), (5, 5)], EIGHTH)
    for habit in HABITS:
        assert habit.get(FLUENT) in [o.value for o in habit.options]
        for option in habit.options:
            made = habit.set(FLUENT, option.value)
            assert habit.get(made) == option.value
            assert plan(replace(request(line), player=made)).notes


def test_a_hand_that_touches_must_let_go_where_it_does_not_reach():
    line = phrase([(6, 3), (5, 5), (2, 5), (1, 5)], EIGHTH, tempo=60)
    for contact, lets_go in (("floating", 0), ("heel", 1), ("little", 1)):
        player = next(h for h in HABITS if h.name == "contact").set(FLUENT, contact)
        found = [f for f in plan(replace(request(line), player=player)).findings if f.rule == "lets-go"]
        assert len(found) == lets_go
    near = phrase([(6, 3), (5, 5), (4, 5), (3, 5)], EIGHTH, tempo=60)
    player = next(h for h in HABITS if h.name == "contact").set(FLUENT, "little")
    assert not [f for f in plan(replace(request(near), player=player)).findings if f.rule == "lets-go"]


def test_players_are_kept_in_files_and_come_back_the_same(tmp_path):
    roster = Roster(tmp_path / "players")
    mine = replace(
        BY_NAME["sixteenths"].set(able_to_switch(FLUENT, True), 211), name=roster.fresh_name("Own hands"), label="Mine"
    )
    roster.put(mine)
    roster.flush()
    again = Roster(tmp_path / "players")
    assert again.own == {"own-hands": mine} and again.named("own-hands") == mine and not again.notices
    assert again.named("nobody") == FLUENT and again.fresh_name("Own hands") == "own-hands-2"
    again.drop("own-hands")
    again.flush()
    assert not Roster(tmp_path / "players").own
    (tmp_path / "players" / "bad.toml").write_text("picking = 3")
    broken = Roster(tmp_path / "players")
    assert not broken.own and len(broken.notices) == 1 and "bad.toml" in broken.notices[0]


def test_an_exported_player_is_a_player_file(tmp_path):
    path = tmp_path / "flying.toml"
    path.write_bytes(player_bytes(presets.players()["flying"]))
    found = presets.player_from_file(path)
    assert found == presets.players()["flying"]


def test_the_drawing_is_to_scale_and_says_clear_and_buried(qtbot):
    drawing = PickDrawing()
    qtbot.addWidget(drawing)
    drawing.resize(520, 210)
    drawing.show_player(FLUENT, GUITAR)
    spacing = GUITAR.pick_spacing_mm
    a, b = drawing.place(0, 0), drawing.place(spacing, 1.0)
    assert b.x() - a.x() == pytest.approx(spacing * drawing.scale()) and a.y() - b.y() == pytest.approx(drawing.scale())
    assert drawing.toolTip() == "Down-strokes end buried; Up-strokes end clear"
    # h(u) = -p + u tan t + u^2 / 2R at the neighbour string, by hand
    lean = Lean("l", 20.0, 40.0)
    high = -2.0 + spacing * math.tan(math.radians(20)) + spacing**2 / 80
    assert lean.height_mm(spacing, 2.0) == pytest.approx(high)
    assert "Down-strokes end clear" in told(FLUENT.with_leans((lean,)), GUITAR)
    assert "clear with one lean" in told(able_to_switch(FLUENT, True), GUITAR)


def test_a_slider_moves_the_ceiling_and_the_starting_player_stays(qtbot, demo_window, tmp_path):
    window = demo_window
    before = window.plan.ceiling
    QTest.keyClick(window, K.Key_F7)
    page = window.pages.hands
    assert window.pages.place == "Hands" and not page.buttons["Delete"].isEnabled()
    for value in (210, 220, 230):
        page.numbers["sixteenths"].value.setValue(value)
    qtbot.waitUntil(
        lambda: window.plan.request.player.name == "own-hands" and window.plan.ceiling > before, timeout=20000
    )
    assert BY_NAME["sixteenths"].get(window.plan.request.player) == pytest.approx(230)
    assert presets.players()["fluent"] == FLUENT and page.ceiling.text() == f"{window.plan.ceiling:.0f}"
    qtbot.waitUntil(lambda: page.numbers["lift"].effect.text() != "", timeout=20000)
    page.flush()
    assert Roster(window.roster.folder).own["own-hands"] == window.plan.request.player
    assert window.plan_place.panel.player.currentText() == "Own hands"
    QTest.keyClick(window, K.Key_Z, CTRL)  # the three steps of one slider are one
    qtbot.waitUntil(lambda: window.plan.request.player.name == "fluent", timeout=20000)
    assert window.plan.ceiling == pytest.approx(before) and not window.roster.own
    page.flush()
    assert not Roster(window.roster.folder).own


def test_habits_leans_copies_and_files_on_the_page(qtbot, demo_window, tmp_path):
    window, page = demo_window, demo_window.pages.hands
    window.pages.go_to("Hands")
    page.habits["left_handed"].combo.setCurrentIndex(0)
    qtbot.waitUntil(lambda: window.plan.request.player.habits.left_handed, timeout=20000)
    assert window.plan_place.neck.mirrored
    page.numbers["tilt"].slider.setValue(page.numbers["tilt"].slider.maximum() - 20)
    qtbot.waitUntil(lambda: window.plan.request.player.leans[0].tilt_deg == 20, timeout=20000)
    assert "Down-strokes end clear" in page.drawing.toolTip()
    page.switching.setChecked(True)
    qtbot.waitUntil(lambda: len(window.plan.request.player.leans) == 2, timeout=20000)
    page.copy()
    assert window.planning.choices.player == "own-hands-again" and len(window.roster.own) == 2
    path = tmp_path / "out.toml"
    page.export_file(path)
    assert presets.player_from_file(path).leans == window.roster.named("own-hands").leans
    page.delete()
    assert list(window.roster.own) == ["own-hands"] and window.planning.choices.player == "fluent"
    page.import_file(path)
    assert window.planning.choices.player == "own-hands-again" and page.who.currentText() == "Own hands, again"
    (tmp_path / "wrong.toml").write_text("like = 'nobody'")
    page.import_file(tmp_path / "wrong.toml")
    assert "must be one of" in window.notice.text() and len(window.roster.own) == 2
    page.numbers["downs"].value.setValue(40)  # slow downs, fast sixteenths: the price of phase follows
    qtbot.waitUntil(lambda: window.plan.request.player.picking.repeat_ms == pytest.approx(750), timeout=20000)


def test_separate_attacks_make_sweeps_dearer():
    line = phrase([(5, 12), (4, 12), (3, 12), (2, 12), (1, 12)], SIXTEENTH)
    through, separate = (plan(replace(request(line, "sweep"), rest_through=on)) for on in (True, False))
    assert separate.ceiling < through.ceiling


def test_a_lean_is_drawn_to_scale_wherever_it_is_named(qtbot, demo_window):
    """Where the tip is over the neighbour string by the model, it is in the drawing; mirrored for the left-handed."""
    spacing = GUITAR.pick_spacing_mm
    lefty = next(h for h in HABITS if h.name == "left_handed").set(FLUENT, True)
    for leans in presets.leans().values():
        for lean in leans:
            path, strings = path_of(lean, FLUENT, GUITAR)
            scale = (strings[2].x() - strings[0].x()) / (2 * spacing)
            plane = strings[0].y()
            for point in path:
                across = (point.x() - strings[1].x()) / scale
                assert (plane - point.y()) / scale == pytest.approx(lean.height_mm(across, FLUENT.depth_mm), abs=1e-6)
            mirrored, _ = path_of(lean, lefty, GUITAR)
            middle = strings[1].x()
            assert [p.x() - middle for p in mirrored] == pytest.approx([middle - p.x() for p in path])
    panel = demo_window.plan_place.panel
    drawn = [panel.lean.itemIcon(n).pixmap(ICON).toImage() for n in range(panel.lean.count())]
    for n, one in enumerate(drawn):
        names = [i for i, other in enumerate(drawn) if other == one]
        # "the player's own" is one of the leans by name; no other two look alike
        assert names == [n] or panel.lean.itemData(min(names)) == "", names
    corner = demo_window.plan_place.chart.viewport().grab().toImage().copy(8, 2, 50, 22)
    demo_window.plan_place.panel.lean.setCurrentIndex(panel.lean.findData("both-clear"))
    qtbot.waitUntil(lambda: demo_window.plan.request.player.leans[0].name == "both-clear", timeout=20000)
    assert demo_window.plan_place.chart.viewport().grab().toImage().copy(8, 2, 50, 22) != corner
