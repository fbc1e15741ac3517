"""The plan in a terminal: rows below the tablature where they have something to tell, repeats, endings, sections, marks."""

from __future__ import annotations

from dataclasses import replace

from dromic.cli.as_table import table
from dromic.core.music.phrase import Section
from tests.build import EIGHTH, QUARTER, phrase, planned


def rows(plan) -> dict[str, str]:
    lines = table(plan).splitlines()
    return {line.split()[0]: line[7:] for line in lines if line[:7].strip() and len(line) > 7 and line[7] in " |"}


def marked(line, marks: dict[int, str]):
    events = [
        replace(e, notes=tuple(replace(n, marks=frozenset({marks[i]}), bend=2.0 if marks[i] == "bend" else 0.0) for n in e.notes))
        if i in marks else e
        for i, e in enumerate(line.events)
    ]  # fmt: skip
    return replace(line, events=tuple(events))


def test_the_string_a_stroke_rests_on_stands_below_it():
    plan = planned(phrase([(5, 7), (4, 7), (3, 7)], QUARTER), "sweep", start="down")
    assert rows(plan)["rest"].split()[:2] == [str(n.rest_on) for n in plan.notes][:2] == ["4", "3"]
    assert "f where it is free" in table(plan)


def test_the_palm_and_marks_are_shown_and_silent_rows_left_out():
    plain = planned(phrase([(2, 5)] * 4, EIGHTH), "alternate")
    assert "palm" not in rows(plain) and "waits" not in rows(plain) and "lean" not in rows(plain)
    line = marked(
        phrase([(6, 0), (6, 0), (3, 7), (3, 7)], EIGHTH), {0: "palm-mute", 1: "palm-mute", 2: "bend", 3: "vibrato"}
    )
    told = rows(planned(line, "alternate"))
    assert told["palm"].split() == ["x", "x"] and "7b" in told["G"] and "7~" in told["G"]


def test_repeats_endings_and_sections_are_drawn():
    line = phrase([(1, 3)] * 12, QUARTER)
    bars = [replace(line.bars[0], repeat_start=True), replace(line.bars[1], endings=(1,), repeat_times=2),
            replace(line.bars[2], endings=(2,))]  # fmt: skip
    told = rows(planned(replace(line, bars=tuple(bars), sections=(Section("Verse", 0, 1),)), "free"))
    assert told["E"].startswith("|:") and "|1." in told["E"] and ":|2." in told["E"] and "Verse" in told["part"]


def test_the_string_where_the_pick_waits():
    plan = planned(phrase([(3, 5), (3, 7), (3, 8), (2, 5)], EIGHTH, attacks={1: "hammer", 2: "hammer"}), "alternate")
    waits = [str(n.waits_at) for n in plan.notes if n.waits_at]
    assert waits and rows(plan)["waits"].split() == waits
