"""What players count by hand: sums that must agree with the notes, rates against the hand's limits, and the list in the window."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.kit import theme
from dromic.core.reports.counts.count_rows import counts
from dromic.core.reports.counts.rates import repeat_rate, stroke_rate
from tests.build import EIGHTH, SIXTEENTH, phrase, planned


def rows(plan):
    return {row.label: row.words for group in counts(plan) for row in group.rows}


def numbers(words):
    """What stands behind the names of a list such as 'down: 3, up: 2'."""
    return {name: int(n) for name, _, n in (part.rpartition(": ") for part in words.split(", "))}


def test_strokes_a_second_stand_beside_what_the_hand_can_do():
    told = rows(planned(phrase([(3, 5)] * 16, tempo=60), "alternate"))
    # sixteen sixteenths at 60: fifteen gaps of 250 ms; strokes of 83 ms each run to 12 a second
    assert told["Strokes"] == "16, 4.3 a second on average, 4 in the busiest second; this hand 12.0 at most"
    assert numbers(told["Downs and ups"]) == {"down": 8, "up": 8}
    assert not {"String changes", "Largest jump", "Shifts", "Palm lifts"} & set(told)
    downs = rows(planned(phrase([(3, 5)] * 9, EIGHTH, tempo=60), "downs"))
    assert downs["Same stroke again"].startswith("8, 2.0 a second") and numbers(downs["Downs and ups"]) == {"down": 9}


def test_a_bass_line_that_goes_up_and_down_is_counted_as_players_count_it():
    line = phrase([(6, 3), (6, 5), (5, 2), (5, 3), (5, 5), (6, 5), (6, 3)], EIGHTH, tempo=60)
    plan = planned(line, "alternate")
    told = rows(plan)
    assert told["Notes on a string"] == "2 + 3 + 2"  # counted per stay
    assert told["String to string"] == "5 to 6: 1, 6 to 5: 1"
    assert told["String changes"].startswith("2, 0.33 for each note")
    assert told["Largest jump"].startswith("1;")
    assert sum(numbers(told["Notes by finger"]).values()) == 7
    assert sum(numbers(told["Changes by kind"]).values()) == 2
    handed = numbers(told["Finger to finger"])
    assert sum(handed.values()) == 2 and not set(handed) & set(told["Never"].split(", "))
    assert sum(int(p.split(": ")[1].rstrip(" %")) for p in told["Work by finger"].split(", ")) in (99, 100, 101)


def test_palm_lifts_slurs_and_meetings_are_counted():
    line = phrase([(6, 3), (6, 5), (6, 3), (5, 5), (5, 7), (4, 12)], EIGHTH, attacks={1: "hammer", 4: "hammer"})
    muted = [
        replace(e, notes=tuple(replace(n, marks=frozenset({"palm-mute"}) if i % 2 == 0 else n.marks) for n in e.notes))
        for i, e in enumerate(line.events)
    ]
    told = rows(planned(line.with_events(muted), "alternate"))
    assert told["Palm lifts"].startswith("3, ")
    assert numbers(told["Unstruck notes"]) == {"hammer": 2}
    assert "three at once" in told["In one gap"]  # stroke, string and shift meet before the last note


@pytest.mark.parametrize("school", sorted(presets.schools()))
def test_every_school_is_counted_and_its_sums_agree(school):
    plan = planned(phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7)] * 3), school)
    told = rows(plan)
    total = plan.totals
    if total.changes:
        assert int(told["String changes"].split(",")[0]) == total.changes
    if total.picked:
        assert int(told["Strokes"].split(",")[0]) == total.picked
    assert sum(numbers(told["Notes by finger"]).values()) == len(plan.notes)
    assert total.legato == sum(numbers(told.get("Unstruck notes", "none: 0")).values())
    for group in counts(plan):
        assert group.rows and all(row.words for row in group.rows)


def test_the_counts_are_listed_beside_the_chart_and_follow_the_plan(qtbot, demo_window):
    place = demo_window.plan_place
    place.tabs.setCurrentWidget(place.counts)
    lines = [place.counts.list.item(n).text() for n in range(place.counts.list.count())]
    told = rows(place.planning.plan)
    assert f"Strokes: {told['Strokes']}" in lines and "Fretting hand" in lines
    place.panel.school.setCurrentIndex(place.panel.school.findData("downs"))
    qtbot.waitUntil(lambda: place.planning.plan.request.school.name == "downs", timeout=20000)
    assert f"Strokes: {rows(place.planning.plan)['Strokes']}" in [
        place.counts.list.item(n).text() for n in range(place.counts.list.count())
    ]
    place.counts.list.setFocus()
    QTest.keyClick(place.counts.list, Qt.Key.Key_Down)
    assert place.counts.list.currentRow() > 0
    bar = place.tabs.tabBar()
    assert bar.tabRect(place.tabs.count() - 1).right() <= place.tabs.width()  # no tab is cut off


def test_the_counts_are_drawn_over_the_words_as_they_are_counted(qtbot, demo_window):
    place = demo_window.plan_place
    place.tabs.setCurrentWidget(place.counts)
    picture, plan = place.counts.list.picture, place.planning.plan
    assert picture is not None and picture.isVisible()
    told = rows(plan)
    assert {rate.name.capitalize(): rate.words for rate in picture.rates}["Strokes"] == told["Strokes"]
    assert {f"{a} to {b}": n for (a, b), n in picture.pairs.items()} == numbers(told["String to string"])
    assert sum(picture.work.values()) == pytest.approx(1.0) and picture.told() in place.counts.list.item(0).toolTip()
    light = picture.grab().toImage()
    demo_window.looks.set_theme(theme.DARK)
    assert picture.grab().toImage() != light  # dressed with the rest
    demo_window.turn_page(1)
    qtbot.waitUntil(lambda: place.planning.plan is not plan and place.counts.list.picture is not picture, timeout=20000)


def test_a_rate_is_over_the_hand_where_its_busiest_second_is():
    fast = planned(phrase([(3, 5)] * 24, SIXTEENTH, tempo=200), "alternate")
    rate = stroke_rate(fast)
    assert rate.busiest == 14 > rate.limit == 1000 / fast.request.player.picking.alternate_ms and rate.count == 24
    assert rate.mean == pytest.approx(24 / (fast.notes[-1].start_s - fast.notes[0].start_s))
    assert repeat_rate(fast).words == ""  # what there is none of is not told
