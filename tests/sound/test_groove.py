"""The plain groove: on the grid to the sample, in every metre; and clicks that do not drift."""

from __future__ import annotations

import numpy as np
import pytest

from dromic import presets
from dromic.core.music.songbook import empty_phrase
from dromic.formats.text.quick_line import parse
from dromic.sound.groove import CYMBAL, LOW, SNARE, strokes
from dromic.sound.render import RenderRequest, render
from tests.phrases import GUITAR


def line(text: str):
    return parse(text, empty_phrase("x", GUITAR), GUITAR).phrase


@pytest.mark.parametrize(
    ("text", "low", "snare", "cymbals"),
    [("5.3:w", [0, 2], [1, 3], 8), ("3/4 5.3:h.", [0, 2], [1], 6), ("6/8 5.3:h.", [0], [1.5], 6)],
)
def test_where_the_drums_fall(text, low, snare, cymbals):
    found = list(strokes(line(text).at_tempo(60), 0.0))
    assert [s for s, d in found if d == LOW] == low and [s for s, d in found if d == SNARE] == snare
    assert sum(d == CYMBAL for _, d in found) == cymbals


def test_an_hour_of_clicks_is_exact_to_the_sample():
    """Beats at 137 a minute through an hour: every click begins where its beat does, to the sample, however far on."""
    bars = " | ".join(["5.3:w"] * 2055)  # 2055 bars of four at 137 a minute: 3600 s
    phrase = line(bars).at_tempo(137)
    assert phrase.seconds_at(phrase.end) == pytest.approx(3600.0)
    for bar in (0, 1, 700, 2054):
        part = phrase.passage(phrase.bars[bar].number, min(phrase.bars[bar].number + 1, 2055))
        made = render(part, RenderRequest(137, click=True, notes=False, tail=False))
        loud = np.flatnonzero(np.abs(made.samples()) > 0)
        quarter = made.rate * 60 / 137
        for beat in range(4):
            due = round(beat * quarter)
            first = loud[loud >= due - 2][0]
            assert first - due in (0, 1)  # a sine begins with a zero
        whole = round(phrase.seconds_at(phrase.bars[bar].start) * made.rate)
        assert whole == round(bar * 4 * 60 / 137 * made.rate)  # where its first sample lies in the hour


def test_a_groove_takes_the_place_of_the_clicks():
    phrase = line("5.3:w | 5.3:w")
    setting = presets.sound()
    made = render(phrase, RenderRequest(120, click=True, groove=True, notes=False, tail=False))
    again = render(phrase, RenderRequest(120, click=False, groove=True, notes=False, tail=False))
    assert np.array_equal(made.samples(), again.samples()) and np.abs(made.samples()).max() > 0.1
    assert {"low", "snare", "cymbal"} == set(setting.groove)
