"""The kept durations and the marks are of one mind, and every case that is kept is still there."""

from __future__ import annotations

import pytest

from tests.durations import COLLECTED, SLOW_S, kept


def test_what_is_kept_is_slow_and_marked_and_nothing_else_is(request):
    slow = kept()
    assert slow and all(seconds >= SLOW_S for seconds in slow.values())
    for item in request.session.items:
        assert (item.nodeid in slow) == (item.get_closest_marker("slow") is not None), item.nodeid


def test_every_case_that_is_kept_is_there(request):
    """Renamed or taken out, it is to be renewed: `./run durations`."""
    if request.config.args_source is not pytest.Config.ArgsSource.TESTPATHS:
        pytest.skip("only a part of the suite was asked for")
    assert set(kept()) <= set(request.config.stash[COLLECTED])
