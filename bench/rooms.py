"""`./run bench --rooms`: where the time of a plan and of a pin goes, by room of the house: the processor's time, a sample every few
ms, each counted for the innermost of our modules at work."""

from __future__ import annotations

import signal
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from types import FrameType

from bench.lines import forget, lick, line, request, row
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.planner import judge, plan, solve
from dromic.core.setup.pin import Pin

ROOMS = {
    "search": "search", "hands": "tables of the hands", "prices": "price rows", "line": "the line told beforehand",
    "timing": "times", "music": "the phrase", "findings": "findings", "questions": "questions", "plan": "the plan",
    "values": "answers kept", "setup": "settings", "reports": "reports",
}  # fmt: skip
OFTEN_S = 0.001
TURNS = 40
_HOUSE = str(Path(__file__).parents[1] / "dromic" / "core")


def _sampled(act: Callable[[], object], turns: int) -> Counter[str]:
    found: Counter[str] = Counter()

    def hit(_: int, frame: FrameType | None) -> None:
        while frame is not None and not frame.f_code.co_filename.startswith(_HOUSE):
            frame = frame.f_back
        if frame is not None:
            found[Path(frame.f_code.co_filename).relative_to(_HOUSE).parts[0]] += 1

    signal.signal(signal.SIGPROF, hit)
    signal.setitimer(signal.ITIMER_PROF, OFTEN_S, OFTEN_S)
    for _ in range(turns):
        act()
    signal.setitimer(signal.ITIMER_PROF, 0)
    return found


def bench_rooms() -> None:
    of = request(line(64))
    written = request(lick(64), "alternate")
    solved = solve(of)
    other = {"up": "down", "down": "up"}[judge(solved).notes[32].stroke]
    pin = Pin(judge(solved).notes[32].event, 0, "stroke", other)

    def anew() -> None:
        forget()
        plan(of)

    for what, act, turns in (
        ("a plan of 64 free notes", lambda: plan(of), TURNS),
        ("the same, tables built anew", anew, TURNS // 2),
        ("a pin in it", lambda: judge(solved.pinned(pin)), TURNS),
        ("all remedies of a written one", lambda: with_remedies(solve(written), {}), TURNS // 4),
    ):
        act()
        found = _sampled(act, turns)
        whole = sum(found.values())
        shares = ", ".join(
            f"{ROOMS.get(room, room)} {count / whole:.0%}" for room, count in found.most_common() if count > whole / 50
        )
        row(what, shares)
