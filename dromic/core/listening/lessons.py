"""What a take says to the log: runs of notes that were clean at its tempo, and the moves that were not, each a pass."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from dromic.core.drills.drill_kinds import TAKE
from dromic.core.listening.due import Due, turns_of
from dromic.core.listening.passes import MISSES
from dromic.core.listening.report import TakeReport
from dromic.core.practice.log_pass import Pass, PhraseName

_LEAST = 2
"""turns that make a move"""


def passes_of(
    report: TakeReport, due: Sequence[Due], of: PhraseName, at: datetime, player: str, plan: str, hard: float
) -> list[Pass]:
    """Passes of a take on its plan, in the order they were played. `hard` is the load from which on a hand is blamed."""
    turns = [[(one, report.notes[one.place]) for one in turn] for turn in turns_of(due)]
    found: list[Pass] = []

    def passed(first: int, last: int, clean: bool, hand: str | None = None, fault: str | None = None) -> None:
        notes = [one for turn in turns[first : last + 1] for one, _ in turn]
        events = [one.note.event for one in notes]
        seconds = max(one.end_s for one in notes) - notes[0].start_s
        name = f"{TAKE}:{min(events)}-{max(events)}"
        found.append(Pass(at.replace(microsecond=0), of.title, name, round(report.tempo, 2), clean,
                          tuple(sorted({one.note.index for one in notes})), hand, fault, seconds=round(seconds, 1),
                          player=player, plan=plan, phrase_id=of.id))  # fmt: skip

    begin = 0
    for number, turn in enumerate(turns):
        wrong = [(one, note) for one, note in turn if note.verdict in MISSES]
        if not wrong:
            continue
        if number - begin >= _LEAST:
            passed(begin, number - 1, True)
        one, note = wrong[0]
        passed(max(0, number - 1), number, False, one.hand if one.load > hard else None, MISSES[note.verdict])
        begin = number + 1
    if len(turns) - begin >= _LEAST:
        passed(begin, len(turns) - 1, True)
    return found
