"""Lists players make by hand, on lines small enough to make them by hand; each in the window and on the command line."""

from __future__ import annotations

import json

import pytest
from PyQt6.QtCore import Qt

from dromic.cli.main import main
from dromic.core.plan.plan import Plan
from dromic.core.reports.places.lists import LISTS, places_of
from tests.broken import DEMO
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned


def said(plan: Plan, name: str) -> list[tuple[int, str]]:
    return [(place.note, place.words) for place in places_of(plan, name)]


def test_string_changes_in_order_with_their_kind():
    plan = planned(phrase([(3, 5), (3, 7), (2, 5), (4, 5), (4, 7)], EIGHTH), "alternate", start="down")
    changes = said(plan, "changes")
    assert [note for note, _ in changes] == [3, 4]
    assert changes[0][1].startswith("string 3 to 2: ") and changes[1][1].startswith("string 2 to 4: skip")
    assert said(plan, "skips") == [(4, "string 2 to 4: one string skipped")]


def test_sweeps_are_found_in_the_notes_whatever_the_school_does():
    notes = [(5, 7), (4, 7), (3, 7), (2, 7), (1, 7), (1, 10), (2, 7), (3, 7), (4, 7)]
    for school, strokes in (("sweep", "D D D D D"), ("alternate", "D U D U D")):
        plan = planned(phrase(notes, SIXTEENTH), school, start="down")
        down, up = said(plan, "sweeps")
        assert down == (1, f"5 notes down the strings, 5 to 1: {strokes}; turns on string 1")
        assert up[0] == 6 and up[1].startswith("4 notes up the strings, 1 to 4") and "turns" not in up[1]
    assert not said(planned(phrase([(3, 5), (2, 5), (3, 5)], EIGHTH), "free"), "sweeps")


def test_what_meets_in_one_gap_is_named():
    plan = planned(phrase([(3, 2), (3, 4), (2, 15)], EIGHTH), "alternate", start="down")
    meetings = dict(said(plan, "gaps"))
    assert meetings[3].startswith("a new stroke, a new string, a shift in 250 ms")
    slurred = planned(phrase([(3, 5), (3, 7), (3, 9)], EIGHTH, attacks={1: "hammer"}), "free")
    (slur,) = said(slurred, "slurs")  # the third finger comes down, the first one stays
    assert slur == (2, "hammer to string 3, fret 7: 1 motion")


def test_a_shift_tells_how_far_and_how_long_there_is():
    plan = planned(phrase([(3, 2), (3, 0), (3, 9)], QUARTER, tempo=60.0), "free")
    (shift,) = said(plan, "shifts")
    mm = abs(float(plan.request.instrument.fret_mm(9) - plan.request.instrument.fret_mm(2)))
    assert (shift[0] == 3 and f"{mm:.0f} mm" in shift[1]) or "ms to prepare" in shift[1]
    assert "1 of them open" in shift[1]


def test_chord_to_chord_every_finger_is_told():
    e_minor = [(6, 0), (5, 2), (4, 2), (3, 0), (2, 0), (1, 0)]
    a_minor = [(5, 0), (4, 2), (3, 2), (2, 1), (1, 0)]
    plan = planned(phrase([e_minor, a_minor], QUARTER), "free")
    ((note, words),) = said(plan, "chords")
    fingers = {n.finger for n in plan.events[1]} - {"0"}
    assert note == 7 and all(finger in words for finger in fingers)
    assert any(told in words for told in ("stays", "over", "comes down"))


def test_the_palm_on_and_off_with_the_time_for_it():
    line = phrase([(6, 0)] * 4, EIGHTH)
    from dataclasses import replace

    events = [
        replace(e, notes=tuple(replace(n, marks=frozenset({"palm-mute"})) for n in e.notes)) if i in (1, 2) else e
        for i, e in enumerate(line.events)
    ]
    plan = planned(replace(line, events=tuple(events)), "downs")
    assert said(plan, "palm") == [(2, "the palm comes down, 250 ms for it"), (4, "the palm lifts, 250 ms for it")]


def test_every_list_on_the_command_line(capsys):
    asked = ["places", str(DEMO), "--tune", "2"]
    assert main([*asked, "--json"]) == 0
    found = {one["name"]: one for one in json.loads(capsys.readouterr().out)["lists"]}
    assert list(found) == [one.name for one in LISTS]
    assert main(asked) == 0
    counted = dict(line.split()[:2] for line in capsys.readouterr().out.splitlines())
    assert counted == {name: str(len(one["places"])) for name, one in found.items()}


@pytest.mark.parametrize("name", ["changes", "shifts", "gaps"])
def test_one_list_on_the_command_line(name, capsys):
    assert main(["places", str(DEMO), "--tune", "2", "--of", name, "--json"]) == 0
    (found,) = json.loads(capsys.readouterr().out)["lists"]
    assert found["name"] == name
    assert main(["places", str(DEMO), "--tune", "2", "--of", name]) == 0
    assert f": {len(found['places'])}\n" in capsys.readouterr().out


def test_an_unknown_list_is_told(capsys):
    assert main(["places", str(DEMO), "--of", "nothing"]) == 2
    assert "choose one of" in capsys.readouterr().err


def test_lists_are_gone_through_in_the_window(qtbot, demo_window):
    place = demo_window.plan_place
    place.tabs.setCurrentWidget(place.counts)
    counts = place.counts
    changes = counts.what.findData("changes")
    assert changes > 0
    counts.what.setCurrentIndex(changes)
    assert counts.places.count() == len(places_of(demo_window.plan, "changes")) > 2
    counts.places.setFocus()
    qtbot.keyClick(counts.places, Qt.Key.Key_Down)
    qtbot.keyClick(counts.places, Qt.Key.Key_Down)
    chosen = counts.places.currentItem().data(Qt.ItemDataRole.UserRole)
    assert place.chart.selected == chosen
    counts.what.setCurrentIndex(counts.what.findData("palm"))
    assert counts.places.count() >= 1
