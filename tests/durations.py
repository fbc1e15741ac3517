"""How long test cases take, kept in durations.json: what is slow there is marked so, and left out between commits.

`./run durations` renews the file, `./run durations PATH` what lies there. It is read and never measured by the tests themselves, so
that no clock decides one.
"""

from __future__ import annotations

import json
from pathlib import Path

import pytest

KEPT = Path(__file__).with_name("durations.json")
SLOW_S = 0.5
"""Seconds, of its set-up and end too, from which a case is slow; shorter ones are not kept."""
RENEW = "--renew-durations"
COLLECTED = pytest.StashKey[list[str]]()
"""the cases of this run, before any is left out"""


def kept() -> dict[str, float]:
    """Seconds by case, of the slow ones."""
    return json.loads(KEPT.read_text())


def mark(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Mark what the file calls slow."""
    slow = kept()
    config.stash[COLLECTED] = [item.nodeid for item in items]
    for item in items:
        if item.nodeid in slow:
            item.add_marker(pytest.mark.slow)


class Renewal:
    """Takes the time of every case of a run, and writes the slow ones down at its end; what did not run stays as it was."""

    def __init__(self) -> None:
        self.seconds: dict[str, float] = {}

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        self.seconds[report.nodeid] = self.seconds.get(report.nodeid, 0.0) + report.duration

    def pytest_sessionfinish(self) -> None:
        others = {case: s for case, s in kept().items() if case not in self.seconds}
        slow = {case: round(s, 1) for case, s in self.seconds.items() if s >= SLOW_S}
        KEPT.write_text(json.dumps(dict(sorted({**others, **slow}.items())), indent=1, ensure_ascii=False) + "\n")
