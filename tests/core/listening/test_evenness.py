"""Evenness heard apart: hand-made errors at the turns, couplets and gallops of known ratios, a tempo that runs away."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dromic.core.listening.due import due_notes
from dromic.core.listening.evenness import evenness, ratios, smeared, steadiness
from dromic.core.listening.report import NoteReport
from dromic.core.music.phrase import Swing
from dromic.core.values.metre import Metre
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned

ZIGZAG = [(2, 5), (1, 5), (2, 5), (3, 5), (2, 5), (1, 5), (2, 5), (3, 5)]


def report(one, error: float = 0.0, db: float = 0.0, verdict: str = "ok") -> NoteReport:
    return NoteReport(
        one.note.index, one.note.event, one.start_s, one.start_s, error, error, 0.0, db, None, verdict, 1.0, one.load
    )


def turns_of(due):
    return [[one.place for one in due if one.turn == turn] for turn in range(due[-1].turn + 1)]


def test_what_is_late_at_the_turns_is_told_there():
    due = due_notes(planned(phrase(ZIGZAG, EIGHTH), "alternate"))
    assert [one.turns for one in due] == [False, True, False, True, False, True, False, False]
    notes = [report(one, 12.0 if one.turns else -1.0, -3.0 if one.note.stroke == "up" else 1.0) for one in due]
    rows = {(row.group, row.kind): row for row in evenness(due, notes)}
    assert rows["turn", "turning"].late_ms == pytest.approx(12.0)
    assert rows["turn", "going on"].timing_ms == pytest.approx(1.0)
    assert rows["stroke", "up"].db == pytest.approx(-3.0) and rows["stroke", "down"].db == pytest.approx(1.0)
    assert rows["place in the beat", "half way"].count == 4
    assert not any(row.group == "technique" for row in rows.values())  # one kind alone tells nothing apart


def test_places_in_the_beat_follow_the_metre():
    """In 6/8 a beat is three eighths."""
    due = due_notes(planned(phrase([(1, 3)] * 6, EIGHTH, metre=Metre(6, 8)), "free"))
    assert [float(one.place_in_beat) for one in due] == pytest.approx([0, 1 / 3, 2 / 3] * 2)
    assert [one.beat for one in due] == [0, 0, 0, 1, 1, 1]


@pytest.mark.parametrize(
    ("lengths", "kind", "meant"),
    [
        ([QUARTER * 2 / 3, QUARTER / 3], "couplets", 2.0),
        ([SIXTEENTH, SIXTEENTH * 3], "couplets, short first", 3.0),
        ([EIGHTH, SIXTEENTH, SIXTEENTH], "gallops", 2.0),
        ([SIXTEENTH, SIXTEENTH, EIGHTH], "gallops, short first", 2.0),
    ],
)
def test_long_against_short_is_told_as_it_is_played(lengths, kind, meant):
    """Thirty-two beats played at 1.6 to 1 with errors of 3 ms: the ratio is found within 0.03."""
    plan = planned(phrase([(6, 3)] * (32 * len(lengths) + 1), [*lengths * 32, QUARTER], tempo=100.0), "free")
    due, chance = due_notes(plan), np.random.default_rng(5)
    beat, long = 0.6, max(lengths)
    shares = np.array([1.6 if length == long else 1.0 for length in lengths])
    inside = np.concatenate([[0.0], np.cumsum(shares / shares.sum())[:-1]])
    heard = np.concatenate([beat * (n + inside) for n in range(32)] + [[32 * beat]])
    (found,) = ratios(due, turns_of(due), heard + chance.normal(0, 0.003, len(heard)))
    assert found.kind == kind and found.meant == pytest.approx(meant) and found.count == 32
    assert found.played == pytest.approx(1.6, abs=0.03)


def test_swing_is_meant_where_it_is_written_and_even_notes_have_no_ratio():
    straight = phrase([(6, 3)] * 9, EIGHTH)
    due = due_notes(planned(straight, "free"))
    times = np.array([one.start_s for one in due])
    assert ratios(due, turns_of(due), times) == ()
    swung = due_notes(planned(replace(straight, swing=Swing(EIGHTH, Fraction(2))), "free"))
    (found,) = ratios(swung, turns_of(swung), np.array([one.start_s for one in swung]))
    assert found.kind == "couplets" and found.meant == pytest.approx(found.played) and found.meant > 1.5


def test_a_sweep_unclear_between_clear_ends_is_smeared():
    due = due_notes(planned(phrase([(5, 7), (4, 7), (3, 7), (2, 7), (1, 7)], SIXTEENTH), "sweep"))
    assert [one.change for one in due[1:]] == ["carry-through"] * 4
    muddy = [report(one, verdict="missed" if 0 < n < 4 else "ok") for n, one in enumerate(due)]
    assert "notes 1 to 5" in smeared(due, muddy)[0]
    assert not smeared(due, [report(one) for one in due])
    assert not smeared(due, [report(one, verdict="missed") for one in due])  # nothing of it was there


def test_a_tempo_that_runs_away_is_told():
    due = np.arange(40) * 0.25
    assert steadiness(due, 3.0 + due, 120.0).drift == pytest.approx(0.0)
    runs = np.cumsum(np.concatenate([[0.0], 0.25 / np.linspace(1.0, 1.2, 39)]))
    found = steadiness(due, runs, 120.0)
    assert found.slowest == pytest.approx(122, abs=1.5) and found.fastest == pytest.approx(142, abs=1.5)
    assert 0.10 < found.drift < 0.15
