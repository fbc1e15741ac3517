"""Several requests on worker processes: the same plans as one after the other, refusals kept apart, and a cancel."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import pytest

from dromic import presets
from dromic.core.layers import Cancelled
from dromic.core.planner import plan
from dromic.together import Workers
from tests.build import phrase, request


@pytest.fixture(scope="module")
def workers() -> Iterator[Workers]:
    made = Workers(2)
    yield made
    made.close()


LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7)] * 3)


def test_every_school_is_planned_as_it_would_be_alone(workers: Workers) -> None:
    requests = [request(LINE, school) for school in presets.schools()]
    heard: list[float] = []
    answers = workers.plan(requests, progress=lambda share: heard.append(share) is None)
    assert heard == sorted(heard) and len(heard) > 1
    for answer, one in zip(answers, requests, strict=True):
        assert answer.plan is not None and answer.plan.request is one
        alone = plan(one)
        assert answer.plan.cost == alone.cost and answer.plan.notes == alone.notes


def test_one_that_cannot_be_planned_spoils_no_other(workers: Workers) -> None:
    low = phrase([20, 22])
    answers = workers.plan([request(LINE), request(low), request(LINE, "alternate")])
    assert [a.plan is None for a in answers] == [False, True, False]
    assert "E2" in answers[1].refused


def test_a_cancel_stops_the_work_and_leaves_the_workers_usable(workers: Workers) -> None:
    long = replace(request(phrase([(3, 5), (2, 5), (1, 8)] * 400)), legato="anywhere")
    with pytest.raises(Cancelled):
        workers.plan([long] * 4, progress=lambda share: False)
    assert workers.plan([request(LINE)])[0].plan is not None
