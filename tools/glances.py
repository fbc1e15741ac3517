"""Draws the glances of the demos anew, from the plans that they open with."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from dromic import presets
from dromic.core.plan.plan import Plan
from dromic.core.reports.glance import as_json, glance_of
from dromic.core.search.meant_pins import solve_meant
from dromic.core.search.planner import judge
from dromic.core.setup.choices import Choices
from dromic.formats.table import read
from dromic.plan_requests import first_choices, request_for
from dromic.presets import DATA

SONGS = DATA / "songs"


def demo_plan(tune: int) -> Plan:
    """The plan that a phrase of the shipped songbook opens with."""
    phrase = read(SONGS / "copper-wren.dromic", tune)
    return judge(solve_meant(request_for(phrase, first_choices(phrase, Choices()), presets.players())))


def main() -> int:
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else SONGS
    for demo in presets.data("demos.toml")["demo"]:
        data = json.dumps(as_json(glance_of(demo_plan(demo["tune"]))))
        (folder / f"{demo['player']}.glance.json").write_text(data + "\n", "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
