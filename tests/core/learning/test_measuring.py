"""Measuring hands: simulated hands of known numbers are found in few passes."""

from __future__ import annotations

from datetime import datetime

import numpy as np
import pytest

from dromic import presets
from dromic.core.learning.learned_rates import loads_under
from dromic.core.learning.measuring import ABILITIES, BY_NAME, PHRASE, Figure, belief, done, figures, measured
from dromic.core.music.songbook import empty_phrase
from dromic.core.practice.log_pass import Pass
from dromic.formats.text.quick_line import parse
from tests.core.drills.test_drills import material_of
from tests.phrases import GUITAR

NUMBERS = presets.practice().learning
FLUENT, SETTLED = presets.players()["fluent"], presets.players()["settled"]


@pytest.fixture(scope="module")
def found() -> tuple[Figure, ...]:
    return figures(FLUENT, GUITAR, presets.schools()["free"],
                   lambda line: parse(line, empty_phrase("m", GUITAR), GUITAR).phrase, material_of(3, "alternate").plan)  # fmt: skip


def limit_of(figure: Figure, player) -> float:
    return figure.plan.request.phrase.tempo / loads_under(figure.plan, player).max()


def played(figure: Figure, true, seed: int) -> list[Pass]:
    chance, limit = np.random.default_rng(seed), limit_of(figure, true)
    passes: list[Pass] = []
    while True:
        held = belief(figure, passes, NUMBERS)
        if done(held, passes, figure, NUMBERS):
            return passes
        clean = chance.random() < 1 / (1 + np.exp(-NUMBERS.steepness * (1 - held.middle / limit)))
        passes.append(Pass(datetime(2026, 11, 25), PHRASE, figure.name, held.middle, bool(clean)))


def test_what_limits_the_plan_comes_first_and_every_figure_tells_of_its_number(found):
    assert [f.effect for f in found] == sorted((f.effect for f in found), reverse=True) and found[0].effect > 0
    assert {f.ability.name for f in found} == {a.name for a in ABILITIES}
    numbers = {f.ability.name: f.number.name for f in found}
    assert (
        numbers["outside after an up"] == numbers["skip after an up"] == "hop"
    )  # a down-stroke leaves this pick buried
    assert numbers["outside after a down"] == "lift" and numbers["inside after an up"] == "inside"
    assert sum(number == "finger" for number in numbers.values()) == 7  # six pairs and a slur
    for figure in found:
        assert figure.ceiling == pytest.approx(limit_of(figure, FLUENT))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_limits_are_found_within_a_tenth_in_at_most_fourteen_passes(found, seed):
    errors = []
    for figure in found:
        passes = played(figure, SETTLED, seed)
        assert 4 <= len(passes) <= NUMBERS.measure_most
        held = belief(figure, passes, NUMBERS)
        errors.append(abs(held.middle / limit_of(figure, SETTLED) - 1))
    assert max(errors) < 0.12 and np.median(errors) < 0.05


def test_the_numbers_come_near_the_true_ones(found):
    passes = [p for figure in found for p in played(figure, SETTLED, 1)]
    results, player = measured(found, FLUENT, passes, NUMBERS)
    for name, near in (
        ("sixteenths", 0.08),
        ("downs", 0.08),
        ("finger", 0.1),
        ("pluck", 0.1),
        ("shift", 0.15),
        ("roll", 0.25),
    ):
        number = BY_NAME[name]
        assert number.get(player) == pytest.approx(number.get(SETTLED), rel=near), name
    assert all(one.after is not None for one in results)
    sure = {one.number.name: one.sure for one in results}
    assert (
        sure["finger"] < sure["sixteenths"] < 0.05 < sure["hop"]
    )  # seven figures, one, three that hardly move with it
    for one in results:
        truth = one.number.get(SETTLED)
        assert abs(np.log(one.after / truth)) < 4 * one.sure + 0.05, one.number.name


def test_what_was_not_tried_stays_as_it_was(found):
    only = next(f for f in found if f.ability.name == "sixteenths")
    results, player = measured(found, FLUENT, played(only, SETTLED, 1), NUMBERS)
    assert [one.number.name for one in results if one.after is not None] == ["sixteenths"]
    assert BY_NAME["finger"].get(player) == BY_NAME["finger"].get(FLUENT)


def test_clean_passes_raise_what_is_believed_and_misses_lower_it(found):
    figure = found[0]
    at = belief(figure, [], NUMBERS).middle
    assert at == pytest.approx(figure.ceiling, rel=0.01)
    one = Pass(datetime(2026, 11, 25), PHRASE, figure.name, at, True)
    up, down = (
        belief(figure, [Pass(one.at, PHRASE, figure.name, at, clean)], NUMBERS).middle for clean in (True, False)
    )
    assert down < at < up
