"""What if: every other way to play a note, each held to a plan made anew; and the list of them in the window."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.plan.what_if_list import BETTER, SAME, WORSE, details_of, sign_of, verdict_of
from dromic.core.editing.differences import followed
from dromic.core.music.stated_positions import placed_freely
from dromic.core.plan.finding import Change
from dromic.core.questions.whatif import Choice, what_if
from dromic.core.search.planner import judge, plan, solve
from dromic.core.setup.choices import Choices
from dromic.core.setup.pin import Pin
from tests.build import EIGHTH, phrase, planned, request

LINE = phrase([(3, 5), (3, 7), (2, 5), (2, 8), (3, 7), (4, 7), (4, 5), (3, 5)], tempo=150)
K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


def as_planned_anew(asked, choice: Choice, event: int):
    change = choice.change
    made = replace(asked, pins=(*asked.pins, *change.pins))
    if any(pin.field == "string" for pin in change.pins) and "positions" in asked.keep:
        made = replace(made, phrase=placed_freely(asked.phrase, {event}))
    if change.override is not None:
        made = replace(made, overrides=(*made.overrides, change.override))
    return plan(made)


@pytest.mark.parametrize("school", ["free", "alternate", "pulse", "economy"])
@pytest.mark.parametrize("event", [1, 3, 5])
def test_every_choice_is_what_a_plan_made_anew_comes_to(school, event):
    asked = request(LINE, school)
    solved = solve(asked)
    found = what_if(solved, event)
    assert found and [c.ceiling for c in found] == sorted((c.ceiling for c in found), reverse=True)
    for choice in found:
        if choice.change.attacks:
            continue
        anew = as_planned_anew(asked, choice, event)
        assert choice.ceiling == pytest.approx(anew.ceiling), choice.change.text
        assert choice.whole == pytest.approx(anew.cost - judge(solved).cost, abs=1e-6)
        assert choice.whole == pytest.approx(choice.picking + choice.fretting + choice.strain)
        assert choice.gain == pytest.approx(anew.ceiling - judge(solved).ceiling)
        lead = anew.events[event][0]
        for pin in (k for k in choice.change.pins if k.field != "barre"):
            assert getattr(lead, pin.field) == pin.value
        if choice.change.override is not None:
            assert lead.stroke == choice.change.override[1]


def test_other_strings_are_offered_where_positions_are_kept():
    found = what_if(solve(request(LINE, "free")), 2)
    strings = {pin.value for c in found for pin in c.change.pins if pin.field == "string" and "string" in c.change.text}
    places = presets.instruments()["guitar"].places_of(LINE.events[2].notes[0].pitch)
    assert strings == {string for string, _ in places} - {2}


def test_strokes_after_an_override_are_told():
    line = phrase([(3, 5)] * 8, EIGHTH)
    against = [c for c in what_if(solve(request(line, "alternate")), 3) if c.change.override is not None]
    assert [c.after for c in against] == ["every stroke after it is turned around, to the end"]
    pulse = [c for c in what_if(solve(request(line, "pulse")), 3) if c.change.override is not None]
    assert pulse and not pulse[0].after  # the pulse goes on as if nothing had been


def test_words_for_a_choice():
    made = Choice(Change("play note 4 on string 2"), 132.4, 12.0, -0.5, 0.01, 2)
    assert verdict_of(made) == "ceiling up 12 to about 132" and sign_of(made) == BETTER
    strained = replace(made, gain=0.0, whole=0.31)
    told = details_of(strained)
    assert (
        told == ("on the whole +0.31 (picking -0.50, fretting as now, strain and prices +0.80); 2 more notes change")
        and sign_of(strained) == WORSE
    )  # easier for a hand, dearer in all
    assert sign_of(replace(strained, whole=0.0)) == SAME and sign_of(replace(strained, whole=-0.2)) == BETTER
    assert verdict_of(replace(made, gain=-3.0)) == "ceiling down 3 to about 132"
    assert (
        verdict_of(replace(made, gain=0.1)) == "ceiling stays at about 132"
        and verdict_of(replace(made, ceiling=None)) == "no limit"
    )


def test_pins_follow_their_notes_through_edits():
    pins = (Pin(1, 0, "stroke", "up"), Pin(6, 0, "string", 4))
    made = Choices(pins=pins, overrides=((3, "down"),))
    before = phrase([60, 62, 64, 65, 67, 69, 71, 72])
    inserted = phrase([60, 62, 64, 65, 66, 67, 69, 71, 72])
    moved = followed(made, before, inserted)
    assert moved.pins == (pins[0], pins[1].moved(1)) and moved.overrides == made.overrides
    erased = followed(made, before, phrase([60, 64, 65, 67, 69, 71, 72]))
    assert erased.pins == (pins[1].moved(-1),) and erased.overrides == ((2, "down"),)
    changed = followed(made, before, phrase([60, 61, 64, 65, 67, 69, 71, 72]))
    assert changed.pins == (pins[1],)
    assert made.within(3, 4).pins == (pins[1].moved(-3),) and made.within(3, 4).overrides == ((0, "down"),)


def test_the_list_is_read_tried_and_taken_back(qtbot, demo_window):
    place, chart = demo_window.plan_place, demo_window.plan_place.chart
    before = place.planning.plan
    chart.setFocus()
    chart.select(4)
    QTest.keyClicks(chart, "w")
    qtbot.waitUntil(lambda: place.what_if.count() > 0, timeout=20000)
    choice = next(c for c in place.what_if.choices() if c.change.override is not None)
    row = place.what_if.choices().index(choice)
    place.what_if.setCurrentRow(row)
    QTest.keyClick(place.what_if, K.Key_Return)
    qtbot.waitUntil(lambda: bool(place.planning.plan.request.overrides), timeout=20000)
    assert place.planning.plan.events[4][0].stroke == choice.change.override[1]
    assert place.planning.plan.ceiling == pytest.approx(choice.ceiling) and place.tabs.tabText(2) == "Pins: 1"
    place.tabs.setCurrentWidget(place.pins)
    place.pins.list.setCurrentRow(0)
    assert "against the school" in place.pins.list.currentItem().text()
    QTest.keyClick(place.pins.list, K.Key_Delete)
    qtbot.waitUntil(lambda: not place.planning.plan.request.overrides, timeout=20000)
    assert place.planning.plan.cost == pytest.approx(before.cost)
    QTest.keyClick(demo_window, K.Key_Z, CTRL)
    qtbot.waitUntil(lambda: bool(place.planning.plan.request.overrides), timeout=20000)


def test_a_passage_is_pinned_at_once_and_by_the_menu(qtbot, demo_window):
    place, chart = demo_window.plan_place, demo_window.plan_place.chart
    chart.select(3)
    for _ in range(2):
        QTest.keyClick(chart, K.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert list(chart.span) == [3, 4, 5]
    menu = chart.pin_menu()
    next(a for a in menu.actions() if a.text().startswith("Pin string, finger and stroke")).trigger()
    qtbot.waitUntil(lambda: len({k.event for k in place.planning.plan.request.pins}) == 3, timeout=20000)
    assert {k.event for k in place.planning.plan.request.pins} == {3, 4, 5} and place.pins.list.count() == 9
    place.pins.button.click()
    qtbot.waitUntil(lambda: not place.planning.plan.request.pins, timeout=20000)


def test_pins_hold_in_a_passage_planned_alone(qtbot, demo_window):
    place = demo_window.plan_place
    whole = place.planning.plan
    place.planning.choose(
        place.planning.choices.pinned(Pin(14, 0, "string", whole.events[14][0].string)).overridden(16, "up")
    )
    qtbot.waitUntil(lambda: bool(place.planning.plan.request.overrides), timeout=20000)
    from dromic.core.editing.edit import Span

    events = demo_window.open_book.phrase.events
    place.planning.take_passage(Span(events[12].onset, events[20].onset))
    place.planning.catch_up()
    qtbot.waitUntil(lambda: place.planning.plan.notes[-1].event < 12, timeout=20000)
    assert place.planning.plan.request.pins == (Pin(2, 0, "string", whole.events[14][0].string),)
    assert place.planning.plan.request.overrides == ((4, "up"),)


def test_a_pin_goes_before_the_place_a_file_states(qtbot, demo_window):
    place = demo_window.plan_place
    event = next(
        e
        for e in range(1, 30)
        if place.planning.plan.events[e][0].fret >= 5
        or (place.planning.plan.events[e][0].string < 6 and place.planning.plan.events[e][0].fret)
    )
    before = place.planning.plan.events[event][0]
    place.planning.make(Change("lower string", (Pin(event, 0, "string", before.string + 1),)))
    qtbot.waitUntil(lambda: place.planning.plan.events[event][0].string == before.string + 1, timeout=20000)
    assert place.planning.plan.events[event][0].pitch == before.pitch


def test_a_swept_line_shows_its_turn_and_a_switching_player_the_leans():
    from dromic.core.reports.chart import chart

    arpeggio = phrase([(5, 12), (4, 12), (3, 12), (2, 12), (1, 12), (1, 15), (2, 12), (3, 12), (4, 12)])
    turned = [t for t in chart(planned(arpeggio, "sweep")).turns if not t.lean]
    assert len(turned) == planned(arpeggio, "sweep").totals.turnarounds == 1
    wide = phrase([(6, 3), (4, 5), (6, 3), (4, 5), (1, 3), (3, 5), (1, 3), (3, 5)], tempo=100)
    found = planned(wide, "alternate", lean="switching")
    leans = [found.events[e][0].lean for e in range(8)]
    changes = [t.event for t in chart(found).turns if t.lean]
    assert changes == [e for e in range(1, 8) if leans[e] != leans[e - 1]]


@pytest.mark.parametrize("school", ["free", "pulse", "alternate"])
def test_over_a_repeat_no_choice_is_told_cheaper_than_its_own_best_plan(school):
    """What the seam costs is part of the whole, with the choice as without it."""
    solved = solve(
        replace(
            request(phrase([(4, 5), (3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7), (1, 8)], EIGHTH), school),
            repeat=True,
        )
    )
    seam = sum(move.load for move in judge(solved).moves if move.start > move.to)
    assert seam > 0 and not any("starts afresh" in notice for notice in judge(solved).notices)
    for event in range(len(judge(solved).events)):
        for choice in what_if(solved, event):
            if not choice.change.attacks:
                anew = as_planned_anew(solved.request, choice, event)
                assert choice.whole >= anew.cost - judge(solved).cost - 1e-6, (event, choice.change.text)
