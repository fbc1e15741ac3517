"""What is made of a second onset after a note: struck again, the string's own pulse, or one stroke's noise and sound."""

from __future__ import annotations

import numpy as np
import pytest

from dromic import presets
from dromic.core.listening.due import due_notes, turns_of
from dromic.core.listening.judging import Heard, found_in, judged
from dromic.core.listening.verdicts import CLEAN, DRIVEN, Manner
from tests.core.drills.test_drills import material_of

SETTINGS = presets.listening()
NOTE = 4


def told_of(after_ms: float, click_db: float, rise_db: float, signal: str = CLEAN) -> tuple[str, int]:
    """(the verdict on a note, onsets too many) for a take as planned with a second onset of the same pitch after one note."""
    due = due_notes(material_of(2).plan)
    turns = turns_of(due)
    pitches = tuple(sorted({one.pitch for one in due}))
    onsets = [(turn[0].start_s, turn[0].pitch, 30.0, 30.0) for turn in turns]
    onsets.append((onsets[NOTE][0] + after_ms / 1000, onsets[NOTE][1], click_db, rise_db))
    onsets.sort()
    count = len(onsets)
    speaks = np.array([[float(pitch == p) for p in pitches] for _, pitch, _, _ in onsets])
    times, clicks, rises = (np.array([onset[n] for onset in onsets]) for n in (0, 2, 3))
    strength = np.where(clicks == 30.0, 1.0, 0.3)
    heard = Heard(times, strength, np.zeros(count), speaks, pitches, rises, clicks)
    report = judged(found_in(due, heard, SETTINGS), SETTINGS, 100.0, manner=Manner(signal=signal))
    return report.notes[turns[NOTE][0].place].verdict, len(report.extra)


@pytest.mark.parametrize(
    ("after_ms", "click_db", "rise_db", "signal", "verdict"),
    [
        (70.0, 8.0, 1.0, CLEAN, "doubled"),  # a pick is heard
        (70.0, 0.0, 1.0, CLEAN, "ok"),  # a low string beats with itself
        (70.0, 0.0, 9.0, CLEAN, "doubled"),  # hiss covers the pick, but there is much more sound
        (30.0, 8.0, 9.0, CLEAN, "ok"),  # no hand strikes twice so soon
        (70.0, 8.0, 1.0, DRIVEN, "ok"),  # overdrive makes clicks of its own
        (70.0, 8.0, 9.0, DRIVEN, "doubled"),
    ],
)
def test_a_second_front_is_a_stroke_only_where_it_is_heard_to_be_one(after_ms, click_db, rise_db, signal, verdict):
    assert told_of(after_ms, click_db, rise_db, signal) == (verdict, 0)


@pytest.mark.parametrize(("click_db", "signal", "extra"), [(8.0, CLEAN, 1), (0.0, CLEAN, 0), (8.0, DRIVEN, 0)])
def test_a_front_of_its_own_is_too_many_only_where_it_was_struck(click_db, signal, extra):
    due = turns_of(due_notes(material_of(2).plan))
    gap_ms = 1000 * (due[NOTE + 1][0].start_s - due[NOTE][0].start_s)
    assert gap_ms > 150  # or there is no room beside the note
    assert told_of(0.5 * gap_ms + 30, click_db, 1.0, signal)[1] == extra
