"""Players, schools and their data: every number has a unit, a range and a meaning, and players can be written by hand."""

from dataclasses import fields, replace

import pytest

from dromic import presets
from dromic.core.setup.player import FrettingHand, Habits, Judging, PickingHand
from dromic.core.setup.school import pattern_signs
from dromic.core.values.errors import DromicError


@pytest.mark.parametrize("group", [PickingHand, FrettingHand, Judging])
def test_every_number_of_a_hand_says_its_unit_range_and_meaning(group):
    for spec in fields(group):
        assert spec.metadata["low"] < spec.metadata["high"] and spec.metadata["what"], spec.name
        for ending, unit in (
            ("_bit_ms", "ms/bit"),
            ("_ms_per_mm", "ms/mm"),
            ("_price_per_mm", "1/mm"),
            ("_ms", "ms"),
            ("_mm", "mm"),
        ):
            if spec.name.endswith(ending):
                assert spec.metadata["unit"] == unit, spec.name
                break
    parts = {PickingHand: "picking", FrettingHand: "fretting", Judging: "judging"}
    stated = presets.data("players.toml")["players"]["fluent"][parts[group]]
    assert set(stated) == {f.name for f in fields(group)}


def test_the_first_values_stand():
    """The starting numbers of a fluent player, estimates from memory."""
    hand = presets.players()["fluent"].picking
    assert (hand.alternate_ms, hand.repeat_ms, hand.carry_ms, hand.hop_bit_ms) == (83, 150, 50, 12)
    assert (hand.lift_out_ms, hand.lean_change_ms, hand.phase_ms, hand.inside_factor) == (25, 15, 90, 1.08)
    assert (hand.pluck_after_pick_ms, hand.pluck_other_ms, hand.pluck_same_ms, hand.pick_after_pluck_ms) == (
        50, 115, 170, 55,
    )  # fmt: skip
    assert presets.players()["fluent"].judging.memory_ms == 400 and hand.pluck_memory_ms == 170
    assert presets.players()["fluent"].leans == presets.players()["settled"].leans == presets.leans()["up-clear"]


def test_a_player_file_changes_habits_and_times(tmp_path):
    path = tmp_path / "me.toml"
    path.write_text(
        'label = "Me"\nlike = "settled"\n[habits]\nfree_fingers = true\nhold = "ring"\n[picking]\nalternate_ms = 90.0\n'
    )
    me = presets.player_from_file(path)
    assert me.habits.free_fingers and me.habits.hold == "ring" and me.name == "me"
    assert me.picking.alternate_ms == pytest.approx(90.0 * 1.35)  # a settled player's times grow by as much
    path.write_text("[picking]\nalternate_ms = -5.0\n")
    with pytest.raises(DromicError, match=r"me\.toml.*alternate_ms is"):
        presets.player_from_file(path)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"hold": "never"}, "until-next"),
        ({"same_fret": "both"}, "roll"),
        ({"hybrid_fingers": "am"}, "in this order"),
        ({"bare_fingers": ""}, "must hold some of"),
        ({"bare_fingers": "xy"}, "must hold some of"),
    ],
)
def test_habits_are_checked(change, words):
    with pytest.raises(DromicError, match=words):
        replace(presets.players()["fluent"].habits, **change)
    assert {f.name for f in fields(Habits)} >= set(change)


def test_prices_come_one_for_each_finger():
    fluent = presets.players()["fluent"]
    with pytest.raises(DromicError, match="finger_prices has 2"):
        replace(fluent.picking, finger_prices=(0.0, 0.0))
    with pytest.raises(DromicError, match="barre_prices has 1"):
        replace(fluent.fretting, barre_prices=(0.1,))


def test_patterns_are_letters_of_strokes():
    assert pattern_signs("ddU") == (1, 1, -1)
    for wrong in ("", "x", "d" * 65):
        with pytest.raises(DromicError, match="pattern"):
            pattern_signs(wrong)


def test_every_school_says_what_it_does_and_economy_can_leave_skips_alone():
    for school in presets.schools().values():
        assert school.label and school.text.endswith(".")
    economy = presets.schools()["economy"]
    assert "skip-through" in economy.allowed(True) and "skip-through" not in economy.allowed(False)
    assert presets.schools()["legato"].legato == "anywhere" and presets.schools()["hybrid"].plucks == "hybrid"


def test_leans_worth_trying_are_named_by_what_they_do():
    assert list(presets.other_leans()) == ["up-strokes end clear", "down-strokes end clear"]
