"""Windows killed at work: a recording, a log that is brought up, a take that is opened; the benchmark kills many more."""

from __future__ import annotations

import pytest

from bench.kills import PATIENCE, killed
from bench.typist import OPENING, RECORDING, UPGRADING


@pytest.mark.parametrize("kind", [RECORDING, UPGRADING, OPENING])
def test_nothing_older_than_a_second_is_lost(kind):
    wrong, _, _ = killed(kind, 900, PATIENCE)
    assert wrong == ""
