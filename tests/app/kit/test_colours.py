"""The themes' colours: legible, and told apart with the common deficiencies of colour vision.

Contrast: WCAG 2.1, relative luminance and ratio; 4.5 for text, 3 for graphics. Simulation: the matrices of Machado,
Oliveira and Fernandes (2009), severity 1.0, on linear RGB; values from memory, checked by each row's sum of 1.
Differences: CIE 1976, white point D65.
"""

from __future__ import annotations

from itertools import combinations, pairwise

import numpy as np
import pytest
from PyQt6.QtGui import QImage

from dromic.app.kit.theme import DARK, LIGHT, Theme

SIMULATED = {
    "none": np.eye(3),
    "protan": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "deutan": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
    ),
    "tritan": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
    ),
}
XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
THEMES = [LIGHT, DARK]


def linear(colour: str) -> np.ndarray:
    values = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def seen(colour: str, sight: str) -> np.ndarray:
    return np.clip(SIMULATED[sight] @ linear(colour), 0, 1)


def contrast(one: np.ndarray, other: np.ndarray) -> float:
    light = sorted(float(XYZ[1] @ c) for c in (one, other))
    return (light[1] + 0.05) / (light[0] + 0.05)


def lab(rgb: np.ndarray) -> np.ndarray:
    ratio = XYZ @ rgb / np.array([0.9505, 1.0, 1.089])
    f = np.where(ratio > 216 / 24389, np.cbrt(ratio), (24389 / 27 * ratio + 16) / 116)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


def test_the_matrices_keep_white_white():
    for matrix in SIMULATED.values():
        assert matrix.sum(axis=1) == pytest.approx(1, abs=2e-6)


def test_contrast_is_the_published_one():
    assert contrast(linear("#000000"), linear("#ffffff")) == pytest.approx(21)
    assert contrast(linear("#777777"), linear("#ffffff")) == pytest.approx(4.48, abs=0.01)


@pytest.mark.parametrize("theme", THEMES, ids=lambda t: t.name)
@pytest.mark.parametrize("sight", SIMULATED)
def test_colours_stand_out_and_apart(theme: Theme, sight: str):
    for ground in ("paper", "panel", "raised"):
        under = seen(getattr(theme, ground), sight)
        assert contrast(seen(theme.ink, sight), under) >= 7
        assert contrast(seen(theme.soft, sight), under) >= 4.5
        for name in ("pick", "fret", "hurt"):
            assert contrast(seen(getattr(theme, name), sight), under) >= 4.5
    for one, other in combinations(("pick", "fret", "ink"), 2):
        apart = np.linalg.norm(lab(seen(getattr(theme, one), sight)) - lab(seen(getattr(theme, other), sight)))
        assert apart > 20, (one, other)


def test_what_does_not_fit_is_told_without_colour(qtbot, demo_window):
    """Beside its colour a load over 1 is hatched: in shades of grey the chart still shows stripes there."""
    chart = demo_window.plan_place.chart
    lanes = chart.lanes()
    worst = max(chart.chart.moves, key=lambda m: m.pick_load or 0.0)
    assert worst.pick_load > 1
    chart.select(worst.to)
    lanes = chart.lanes()
    image = chart.viewport().grab().toImage().convertToFormat(QImage.Format.Format_Grayscale8)
    x = round((lanes.x(chart.chart.event_s[worst.to - 1]) + lanes.x(chart.chart.event_s[worst.to])) / 2)
    column = [image.pixelColor(x, y).red() for y in range(round(lanes.middle_top) - 24, round(lanes.middle_top) - 2)]
    turns = sum(abs(a - b) > 40 for a, b in pairwise(column))
    assert turns >= 2
