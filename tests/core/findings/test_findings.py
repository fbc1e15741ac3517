"""Findings: each rule sees what it is for, says its number, and a clean plan has none."""

from dataclasses import replace

import pytest

from dromic.core.findings.findings import RULES
from tests.build import EIGHTH, SIXTEENTH, phrase, planned


def rules(found):
    return {f.rule for f in found.findings}


def one(found, rule):
    return next(f for f in found.findings if f.rule == rule)


def test_names_are_stable_and_unique():
    names = [r.name for r in RULES]
    assert len(set(names)) == len(names)
    assert {
        "beat-not-down",
        "inside-change",
        "buried-hop",
        "string-skip",
        "count-on-string",
        "stretch",
        "shift",
        "knot",
    } <= set(names)


def test_a_clean_plan_has_none():
    assert planned(phrase([(5, 5), (5, 7), (5, 5), (5, 7)], EIGHTH, tempo=80), "pulse").findings == ()


def test_buried_hop_and_odd_count_say_the_numbers():
    line = phrase([(3, 5), (3, 7), (3, 8), (4, 5), (4, 7)], SIXTEENTH, tempo=140)
    found = planned(line, "alternate", lean="up-clear")
    buried = one(found, "count-on-string")
    assert buried.notes == (2, 3) and buried.severity == "severe"
    assert buried.text.startswith("Fits up to about 111: 3 strokes on string 3 end with the down-stroke")
    assert "135 ms, has 107 ms" in buried.detail
    assert "buried-hop" not in rules(found)  # the place is told once
    clear = planned(line, "alternate", lean="down-clear")
    assert "buried-hop" not in rules(clear) and "inside-change" in rules(clear)


def test_even_count_forbids_the_carry_through():
    found = planned(phrase([(4, 5), (4, 7), (3, 5)], SIXTEENTH, tempo=140), "economy", start="down")
    assert "cannot carry on to it" in one(found, "count-on-string").text


def test_skip():
    found = planned(phrase([(5, 5), (2, 5)], SIXTEENTH, tempo=140), "alternate")
    assert one(found, "string-skip").notes == (0, 1)


def test_beats_on_ups_are_one_finding():
    found = planned(phrase([(5, 5)] * 9, [EIGHTH] * 7 + [SIXTEENTH] * 2), "pulse", pulse="eighth", start="up")
    beats = [f for f in found.findings if f.rule == "beat-not-down"]
    assert len(beats) == 1 and "4 beats" in beats[0].text


def test_shift_stretch_and_knot():
    shift = planned(phrase([(3, 3), (3, 12)], SIXTEENTH), "alternate")
    assert one(shift, "shift").hand == "fretting"
    knot = planned(phrase([(5, 12), (4, 3)], SIXTEENTH, tempo=68), "alternate", start="up")
    move = knot.moves[0]
    assert move.knot == pytest.approx(12.0 / move.gap_ms)
    assert "knot" not in rules(knot)  # it fits
    parts = max(move.pick_load, move.fret_load)
    faster = planned(
        phrase([(5, 12), (4, 3)], SIXTEENTH, tempo=68 / (parts + 0.5 * move.knot)), "alternate", start="up"
    )
    assert "knot" in rules(faster)  # each hand alone would
    reach = planned(phrase([[(6, 1), (5, 6)]], [1]), "downs")
    assert one(reach, "stretch").load > 0.8


def test_whatever_does_not_fit_is_found():
    """Every move with a load over 1 is named by some finding."""
    line = phrase([(3, 5), (3, 7), (2, 5), (4, 7), (1, 9), (6, 3), (3, 5), (3, 5)], SIXTEENTH, tempo=260)
    for school in ("alternate", "pulse", "economy", "downs", "free"):
        found = planned(line, school)
        first = {n.event: n.index for n in reversed(found.notes)}
        named = {n for f in found.findings for n in f.notes}
        assert all(first[m.to] in named for m in found.moves if max(m.pick_load or 0, m.fret_load) > 1)


def test_thresholds_are_settings():
    line = phrase([(5, 5), (2, 5)], EIGHTH, tempo=100)
    quiet = planned(line, "alternate")
    assert "string-skip" not in rules(quiet)
    player = replace(quiet.request.player, judging=replace(quiet.request.player.judging, report_load=0.1))
    from dromic.core.search.planner import plan

    assert "string-skip" in rules(plan(replace(quiet.request, player=player)))


def test_techniques_that_no_plan_knows_are_said_once_each():
    line = phrase([(3, 5), (3, 7), (2, 5), (2, 7)], SIXTEENTH)
    marks = ({"harmonic"}, {"trill"}, {"trill"}, {"vibrato"})
    events = [
        replace(e, notes=tuple(replace(n, marks=frozenset(m)) for n in e.notes))
        for e, m in zip(line.events, marks, strict=True)
    ]
    told = [f for f in planned(line.with_events(events)).findings if f.rule == "planned-plain"]
    assert sorted((f.at, f.text.split(":")[0]) for f in told) == [
        (0, "1 note is marked harmonic, first note 1 in bar 1"),
        (1, "2 notes are marked trill, first note 2 in bar 1"),
    ]
