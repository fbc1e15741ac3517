"""What a take says to the log, and a pass made of stretches: hand-worked on eight notes."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime

import pytest

from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.lessons import passes_of
from dromic.core.listening.passes import StretchHeard, pass_heard, stretches
from dromic.core.listening.report import TakeReport
from dromic.core.practice.log_pass import PhraseName
from dromic.core.practice.log_summary import next_words, record_of
from tests.build import EIGHTH, phrase, planned
from tests.core.listening.test_evenness import ZIGZAG, report

LIVE = presets.listening().live
AT = datetime(2026, 11, 26, 20)


@pytest.fixture
def due():
    return due_notes(planned(phrase(ZIGZAG, EIGHTH), "alternate"))


def take_of(due, verdicts: dict[int, str]) -> TakeReport:
    notes = tuple(report(one, verdict=verdicts.get(n, "ok")) for n, one in enumerate(due))
    return TakeReport(100.0, 0.0, 1.0, notes, (), 0.0, 0.0, None, (), ())


def test_a_take_is_clean_runs_and_the_moves_that_were_not(due):
    hard = replace(due[3], load=0.9, hand="fretting")
    due = (*due[:3], hard, *due[4:])
    found = passes_of(take_of(due, {3: "late"}), due, PhraseName("test"), AT, "me", "alternate", 0.6)
    assert [(p.drill, p.clean, p.notes) for p in found] == [
        ("take:0-2", True, (0, 1, 2)), ("take:2-3", False, (2, 3)), ("take:4-7", True, (4, 5, 6, 7)),
    ]  # fmt: skip
    assert (found[1].hand, found[1].fault, found[1].tempo) == ("fretting", "late", 100.0)
    weak = passes_of(take_of(due, {5: "weak"}), due, PhraseName("test"), AT, "me", "alternate", 0.6)
    assert [p.clean for p in weak] == [True]  # a weak note is told, and no miss


def test_the_skyline_takes_it_and_what_to_do_next_does_not(due):
    record = record_of("test", passes_of(take_of(due, {}), due, PhraseName("test"), AT, "me", "alternate", 0.6))
    assert record.clean_by_note == dict.fromkeys(range(8), 100.0)
    assert next_words(record, date(2026, 11, 27))[0] is None and not record.slipping


def test_stretches_cover_every_note_once_with_neighbours_to_align_by():
    long = due_notes(planned(phrase(ZIGZAG * 6, EIGHTH, tempo=100.0), "alternate"))
    made = stretches(long, LIVE)
    assert len(made) > 2
    judged = [one.note.index for stretch in made for one in stretch.judged]
    assert judged == [one.note.index for one in long]
    for stretch in made:
        assert [one.place for one in stretch.due] == list(range(len(stretch.due)))
        assert stretch.due[0].turn == 0 and stretch.end_s - stretch.start_s < 2 * LIVE.stretch_s
    assert made[1].first == int(LIVE.before) and len(made[1].due) - made[1].last == int(LIVE.after)


def heard(due, verdicts=None, extra: int = 0, ratio: float = 1.0, silent: bool = False) -> list[StretchHeard]:
    (stretch,) = stretches(due, replace(LIVE, stretch_s=60.0))
    notes = () if silent else take_of(due, verdicts or {}).notes
    return [StretchHeard(stretch, notes, extra, ratio)]


def test_a_pass_is_what_its_stretches_come_to(due):
    def said(**options):
        return pass_heard(heard(due, **options), LIVE, 0.6)

    clean = said()
    assert clean.clean and clean.words == "8 of 8 notes"
    assert said(silent=True) is None
    missed = said(verdicts={4: "missed", 6: "late"})
    assert (missed.clean, missed.fault) == (False, "late") and missed.words.startswith("6 of 8 notes; note 5 missed")
    assert said(extra=2).fault == "noise" and said(ratio=1.08).fault == "uneven" and said(ratio=1.03).clean
    assert said(verdicts={1: "weak"}).words == "8 of 8 notes; 1 weak"
    lost = said(verdicts=dict.fromkeys(range(6), "wrong"))
    assert "another drill" in lost.words
    few = said(verdicts=dict.fromkeys(range(1, 8), "missed"))
    assert not few.judged and few.words == "1 of 8 notes heard"  # a noise in the room
    assert said(verdicts=dict.fromkeys(range(1, 8), "missed"), extra=3).judged
    half = [*heard(due), *heard(due, silent=True)]
    assert pass_heard(half, LIVE, 0.6).fault == "missed"  # stopped on the way
