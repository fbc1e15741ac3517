"""The two ways of holding a step's costs, and passes both ways, on random numbers against plain loops."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.core.hands.fretting_moves import columns
from dromic.core.search import minplus
from dromic.core.search.minplus import Leg, Plain, Step, leg
from tests.build import expanded
from tests.examples import examples

SIZES = st.tuples(*[st.integers(1, 4)] * 5, st.integers(0, 10_000))


def made(sizes, most):
    """A leg from random costs: source nodes and ways, target nodes and ways, groups on either side, with a knot."""
    before, sources, after, ways, groups, seed = sizes
    maker = np.random.default_rng(seed)
    groups = min(groups, after)
    target = np.sort(np.concatenate([np.arange(groups), maker.integers(0, groups, after - groups)]))
    fret = maker.random((before, after))
    knotted = maker.integers(0, 2, (before, after))
    pick = maker.random((sources, before, 2 * groups, ways))
    starts = np.searchsorted(target, np.arange(groups))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(minplus, "MOST_PLAIN", most)
        found = leg(0, fret, columns(knotted, target, groups, 2), starts, pick)
    plain = np.array(
        [
            [
                [
                    [fret[k, m] + pick[s, k, groups * knotted[k, m] + target[m], w] for w in range(ways)]
                    for m in range(after)
                ]
                for s in range(sources)
            ]
            for k in range(before)
        ]
    )
    return found, plain, maker


@examples(60)
@given(SIZES, st.sampled_from([0, 10**9]))
def test_both_ways_of_holding_costs_are_their_definition(sizes, most):
    found, plain, maker = made(sizes, most)
    assert isinstance(found, Plain if most else Leg)
    before, sources, after, ways = plain.shape
    reached, behind = maker.random((before, sources)), maker.random((after, ways))
    assert np.allclose(found.relax(reached), (plain + reached[:, :, None, None]).min(axis=(0, 1)))
    assert np.allclose(found.onward(behind, sources), (plain + behind[None, None]).min(axis=(2, 3)))
    for k in range(before):
        for s in range(sources):
            assert np.allclose(found.ahead(k, s, sources), plain[k, s])
    for m in range(after):
        for w in range(ways):
            cost, k, s = found.back(reached, m, w)
            assert cost == pytest.approx((plain[:, :, m, w] + reached).min())
            assert plain[k, s, m, w] + reached[k, s] == pytest.approx(cost)


@examples(30)
@given(SIZES)
def test_a_step_of_several_legs_joins_them(sizes):
    first, plain, maker = made(sizes, 10**9)
    before, sources, after, ways = plain.shape
    second = Plain(ways, ways, first.cost + 1.0)
    step = Step((first, second), before, sources)
    reached = maker.random((before, sources))
    both = step.relax(reached)
    assert both.shape == (after, 2 * ways) and np.allclose(both[:, ways:], both[:, :ways] + 1.0)
    assert np.allclose(expanded(step, sources)[..., :ways], plain)
    behind = np.concatenate([np.full((after, ways), np.inf), np.zeros((after, ways))], axis=1)
    assert np.allclose(step.onward(behind), plain.min(axis=(2, 3)) + 1.0)
    cost, state = step.back(reached, 0, 2 * ways - 1)
    assert cost == pytest.approx(float(both[0, -1])) and state[0] < before
