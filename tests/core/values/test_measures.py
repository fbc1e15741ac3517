"""Measures against published tables: frets, note numbers, frequencies, the law behind the hop surcharge."""

import numpy as np
import pytest

from dromic import presets
from dromic.core.hands.pick_moves import hop_bits
from dromic.core.values.pitch import frequency_hz, note_name, note_number

GUITAR = presets.instruments()["guitar"]
# distance from the nut in inches, frets 1 to 12 of a 25.5 in scale; values as printed in builders' tables, from memory
INCHES = (1.431, 2.782, 4.057, 5.261, 6.397, 7.469, 8.481, 9.436, 10.338, 11.189, 11.992, 12.750)


def test_frets_agree_with_a_builders_table():
    measured = np.array([GUITAR.fret_mm(n) for n in range(1, 13)]) * (25.5 / 648.0)
    assert np.allclose(measured, INCHES, atol=0.001)


def test_frets_agree_with_the_rule_of_17_817():
    """The builders' rule: each fret takes 1/17.817 of the string that is left (17.817 = 1 / (1 - 2^(-1/12)))."""
    left = 648.0
    for fret in range(1, 25):
        left -= left / 17.817154
        assert GUITAR.fret_mm(fret) == pytest.approx(648.0 - left, abs=0.001)


def test_twelfth_fret_halves_the_string_and_a_capo_moves_all():
    assert GUITAR.fret_mm(12) == pytest.approx(324.0)
    assert GUITAR.with_capo(2).fret_mm(10) == pytest.approx(324.0)


@pytest.mark.parametrize(
    ("number", "name", "hz"),
    # MIDI 1.0 (middle C = 60) with ISO 16 (A4 = 440 Hz); frequencies of the equal-tempered scale
    [
        (60, "C4", 261.6256),
        (69, "A4", 440.0),
        (21, "A0", 27.5),
        (108, "C8", 4186.009),
        (40, "E2", 82.4069),
        (28, "E1", 41.2034),
    ],
)
def test_note_numbers_and_frequencies(number, name, hz):
    assert note_number(name) == number
    assert note_name(number) == name
    assert frequency_hz(number) == pytest.approx(hz, rel=1e-5)


def test_open_strings_sound_what_players_call_them():
    assert [round(frequency_hz(p), 2) for p in GUITAR.tuning] == [82.41, 110.0, 146.83, 196.0, 246.94, 329.63]


def test_hop_surcharge_is_fitts_law_in_shannons_form():
    """MacKenzie (1992): MT = a + b log2(D/W + 1). With the slope of Fitts' (1954) tapping data, 94.7 ms a bit (as given
    by MacKenzie, from memory), distances of 1, 3 and 7 widths take 1, 2 and 3 bits. A hop is two widths far."""
    widths = np.array([1.0, 3.0, 7.0])
    assert np.allclose(94.7 * hop_bits(widths / 2), [94.7, 189.4, 284.1])
    # our own slope is an estimate and not derived from theirs
    assert presets.players()["fluent"].picking.hop_bit_ms == 12.0


def test_string_spacing_lies_between_nut_and_bridge():
    for instrument in presets.instruments().values():
        assert instrument.nut_spacing_mm < instrument.pick_spacing_mm < instrument.bridge_spacing_mm
