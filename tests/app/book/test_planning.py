"""What is planned, without any widget: one plan that every page shares, and everything that may be done to it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.app.book import planning as plannings
from dromic.app.book.open_book import OpenBook, Opened
from dromic.app.book.planning import NO_NOTES, OF_BEFORE, Planning
from dromic.core.editing.edit import Span, erase
from dromic.core.music.songbook import Songbook
from dromic.core.plan.finding import Change
from dromic.core.setup.pin import Pin
from dromic.store.roster import Roster
from tests.build import EIGHTH, phrase

LINE = phrase([(5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 8)], EIGHTH, tempo=140)
WAIT = 20000


@pytest.fixture
def planning(qtbot, tmp_path):
    book = OpenBook()
    made = Planning(book, Roster(tmp_path / "players"))
    book.phrase_changed.connect(made.edited)
    book.choices_changed.connect(made.edited)
    book.open(Opened(None, Songbook.of("x", (LINE,))))
    made.open_phrase()
    made.replan()
    qtbot.waitUntil(lambda: made.plan is not None, timeout=WAIT)
    yield made
    made.stop()


def planned_again(qtbot, planning):
    planning.catch_up()
    qtbot.waitUntil(lambda: not planning.planner.running, timeout=WAIT)
    return planning.plan


def test_a_pin_is_a_step_back_and_holds(qtbot, planning):
    was = planning.plan.events[3][0]
    other = {"up": "down", "down": "up"}[was.stroke]
    planning.pin([3], "stroke", other)
    assert planning.choices.pins == (Pin(3, 0, "stroke", other),) and not planning.up_to_date
    planning.choose(replace(planning.choices, school="free"))
    assert planned_again(qtbot, planning).events[3][0].stroke == other and planning.up_to_date
    planning.pin([3], "stroke", other)  # the same again lifts it
    assert planning.choices.pins == ()
    planning.open_book.undo.undo()
    assert planning.choices.pins == (Pin(3, 0, "stroke", other),)
    planning.lift(planning.choices.pins[0])
    assert planning.choices.pins == ()


def test_what_a_plan_notes_is_told_until_it_was_read(qtbot, planning, monkeypatch):
    told: list[str] = []
    planning.noticed.connect(lambda sentence, _calm: told.append(sentence))
    planning.open_book.edit(replace(LINE, notices=("two slurs were read as one",)), "as read")
    planned_again(qtbot, planning)
    planning.pin([3], "finger", "2")
    planned_again(qtbot, planning)
    assert [one for one in told if "two slurs" in one] == ["Note: two slurs were read as one"] * 2
    monkeypatch.setattr(plannings, "READ_MS", 1)
    qtbot.wait(10)
    planning.pin([3], "finger", "3")
    planned_again(qtbot, planning)
    planning.pin([4], "finger", "3")
    planned_again(qtbot, planning)
    assert [one for one in told if "two slurs" in one] == ["Note: two slurs were read as one"] * 2
    planning.open_phrase()
    planned_again(qtbot, planning)
    assert [one for one in told if "two slurs" in one] == ["Note: two slurs were read as one"] * 3


def test_pins_of_a_passage_count_events_of_the_whole(qtbot, planning):
    planning.take_passage(Span(LINE.events[4].onset, LINE.end))
    plan = planned_again(qtbot, planning)
    assert len(plan.events) == 4 and planning.first_event == 4
    planning.pin([0], "string", "")
    assert planning.choices.pins == (Pin(4, 0, "string", plan.events[0][0].string),)
    planned_again(qtbot, planning)
    planning.make(Change("an up second", override=(1, "up")))
    assert planning.choices.overrides == ((5, "up"),)


def test_nothing_is_done_to_a_plan_of_the_phrase_as_it_was(qtbot, planning):
    told = []
    planning.noticed.connect(lambda sentence, calm: told.append(sentence))
    planning.open_book.edit(erase(LINE, Span(LINE.events[2].onset, LINE.end)), "erased")
    planning.pin([6], "place", "")
    planning.make(Change("a start", start="up"))
    assert told == [OF_BEFORE, OF_BEFORE] and planning.choices.pins == () and planning.to_play(LINE, 3) == (LINE, None)
    assert len(planned_again(qtbot, planning).events) == 2


def test_a_change_of_the_phrase_is_written_into_it(qtbot, planning):
    planning.make(Change("hammer note 2", attacks=((1, "hammer"),)))
    assert planning.open_book.phrase.events[1].attack == "hammer" and planning.stale
    planning.open_book.undo.undo()
    assert planning.open_book.phrase == LINE


def test_a_phrase_without_notes_or_plan_leaves_none(qtbot, planning):
    said = []
    planning.emptied.connect(said.append)
    planning.open_book.edit(erase(LINE, Span(LINE.events[0].onset, LINE.end)), "erased")
    assert planned_again(qtbot, planning) is None and said == [NO_NOTES]
    planning.open_book.undo.undo()
    assert planned_again(qtbot, planning) is not None


def test_what_would_help_and_what_else_there_is(qtbot, planning):
    planning.choose(replace(planning.choices, tempo=260.0, school="alternate"))
    planned_again(qtbot, planning)
    with qtbot.waitSignal(planning.advised, timeout=WAIT):
        pass
    assert planning.plan.findings and planning.plan.request.phrase.tempo == 260
    with qtbot.waitSignal(planning.supposed, timeout=WAIT) as found:
        planning.suppose(3)
    assert found.args[0]
