"""Values refuse what cannot be, and say which field, which value and which range."""

import itertools
from dataclasses import FrozenInstanceError, replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.music.phrase import Event, Note, Swing
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from tests.build import EIGHTH, QUARTER, phrase

GUITAR = presets.instruments()["guitar"]
FLUENT = presets.players()["fluent"]


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: replace(GUITAR, tuning=(40, 45, 50)), ["tuning", "3", "4 to 9"]),
        (lambda: replace(GUITAR, scale_mm=5.0), ["scale_mm", "5", "400", "1000", "mm"]),
        (lambda: replace(GUITAR, capo=1.5), ["capo", "whole", "1.5"]),
        (lambda: GUITAR.pitch_at(7, 0), ["string", "7", "1 and 6"]),
        (lambda: GUITAR.pitch_at(1, 30), ["fret", "30", "24"]),
        (lambda: Note(200, QUARTER), ["pitch", "200", "127"]),
        (lambda: Note(60, Fraction(0)), ["duration", "0"]),
        (lambda: Note(60, QUARTER, attack="strum"), ["attack", "strum", "hammer"]),
        (lambda: Event(Fraction(0), ()), ["event", "at least one note"]),
        (lambda: Metre(4, 3), ["lower", "3"]),
        (lambda: Swing(ratio=Fraction(9)), ["swing ratio", "9", "4"]),
        (lambda: phrase([60]).at_tempo(0), ["tempo", "0", "10"]),
        (lambda: replace(FLUENT.picking, alternate_ms=1.0), ["alternate_ms", "1", "20", "500", "ms"]),
        (lambda: replace(FLUENT.picking, phase_ms=50.0), ["phase_ms", "50", "67"]),
        (lambda: replace(FLUENT.fretting, offsets_mm=(0.0, 24.0)), ["offsets_mm", "2", "each finger"]),
        (lambda: replace(FLUENT, leans=()), ["leans", "empty"]),
    ],
)
def test_a_wrong_value_is_named_with_its_range(make, words):
    with pytest.raises(DromicError) as caught:
        make()
    for word in words:
        assert word in str(caught.value)


def test_values_cannot_be_changed():
    with pytest.raises(FrozenInstanceError):
        GUITAR.scale_mm = 600.0


def test_presets_cover_what_players_hold():
    assert set(presets.instruments()) >= {"guitar", "guitar-drop-d", "guitar7", "guitar8", "bass4", "bass5", "bass6"}
    settled, fluent, flying = (presets.players()[n] for n in ("settled", "fluent", "flying"))
    assert settled.picking.alternate_ms > fluent.picking.alternate_ms > flying.picking.alternate_ms
    assert len(flying.leans) == 2 and len(settled.leans) == 1


def test_leans_clear_the_strokes_they_are_named_for():
    spacing = GUITAR.pick_spacing_mm
    found = {}
    for name in ("up-clear", "down-clear", "both-clear", "none-clear"):
        (lean,) = presets.leans()[name]
        found[name] = (FLUENT.clears(lean, 1, spacing), FLUENT.clears(lean, -1, spacing))
    assert found == {
        "up-clear": (False, True), "down-clear": (True, False), "both-clear": (True, True), "none-clear": (False, False),
    }  # fmt: skip


def test_only_a_tight_arc_clears_both_ways():
    """At 2 mm depth and no tilt, an arc under about 17 mm clears both strokes and a wider one neither."""
    (lean,) = presets.leans()["both-clear"]
    spacing = GUITAR.pick_spacing_mm
    assert FLUENT.clears(replace(lean, radius_mm=16.5), 1, spacing)
    assert not FLUENT.clears(replace(lean, radius_mm=18.0), 1, spacing)


def test_another_tuning_takes_its_measures_from_its_highest_string():
    assert presets.instrument_named("D1,G1,C2,F2").scale_mm == 864.0
    assert presets.instrument_named("C2,G2,C3,F3,A3,D4").scale_mm == 648.0
    assert presets.instrument_named("F#1,B1,E2,A2,D3,G3,B3,E4").scale_mm == 686.0
    with pytest.raises(DromicError, match="banjo"):
        presets.instrument_named("banjo")


@given(st.fractions(0, 40), st.sampled_from([Fraction(1), Fraction(3, 2), Fraction(2), Fraction(3)]))
def test_swing_keeps_order_and_pairs(at, ratio):
    swing = Swing(EIGHTH, ratio)
    assert swing.warp(Fraction(int(at))) == int(at)
    assert swing.warp(at) < swing.warp(at + Fraction(1, 7))
    assert swing.warp(Fraction(1, 2)) == ratio / (ratio + 1)


def test_swung_eighths_sound_long_short_and_start_at_zero():
    line = phrase([60] * 5, EIGHTH, tempo=60, swing=Swing(EIGHTH, Fraction(2)), pickup=EIGHTH)
    seconds = [line.seconds_at(e.onset) for e in line.events]
    gaps = [b - a for a, b in itertools.pairwise(seconds)]
    assert seconds[0] == 0
    assert gaps == pytest.approx([1 / 3, 2 / 3, 1 / 3, 2 / 3])


def test_player_file_changes_what_it_names(tmp_path):
    path = tmp_path / "mine.toml"
    path.write_text('like = "settled"\nlabel = "Mine"\ndepth_mm = 1.5\n[picking]\nalternate_ms = 70.0\n')
    player = presets.player_from_file(path)
    assert player.depth_mm == 1.5
    assert player.picking.alternate_ms == pytest.approx(70.0 * 1.35)
    path.write_text("[picking]\nalternate_ms = 1.0\n")
    with pytest.raises(DromicError, match="alternate_ms"):
        presets.player_from_file(path)


def test_passage_and_playing_order():
    line = phrase([60, 62, 64, 65] * 4, EIGHTH, metre=Metre(2, 4))
    first, second = (replace(line.bars[i], repeat_times=2, endings=(1,)) if i == 1 else line.bars[i] for i in (0, 1))
    repeated = replace(line, bars=(first, second, replace(line.bars[2], endings=(2,)), line.bars[3]))
    assert repeated.playing_order() == [0, 1, 0, 2, 3]
    unrolled = repeated.unrolled()
    assert [b.start for b in unrolled.bars] == [0, 2, 4, 6, 8]
    assert len(unrolled.events) == 20
    passage = line.passage(2, 3)
    assert passage.events[0].onset == 0 and len(passage.events) == 8
    with pytest.raises(DromicError, match="1 to 4"):
        line.passage(9, 12)
