"""What a player writes is meant: written strokes and fingers are kept, and where they cannot all be, the fewest are let go
and named; held to trying every subset."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.questions.whatif import what_if
from dromic.core.search.meant_pins import solve_meant, stated
from dromic.core.search.planner import judge, solve
from dromic.core.setup.choices import Choices
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from dromic.plan_requests import request_for
from tests.build import EIGHTH, phrase, request
from tests.examples import examples

KEEP = frozenset({"positions", "attacks", "strokes", "fingers"})
CELL = [(3, 5), (3, 7), (2, 5), (2, 8), (1, 5)]


def written(strokes, fingers=None):
    line = phrase(CELL[: len(strokes)], EIGHTH, strokes={i: s for i, s in enumerate(strokes) if s})
    if fingers:
        events = [
            replace(e, notes=tuple(replace(n, finger=f) for n in e.notes))
            for e, f in zip(line.events, fingers, strict=True)
        ]
        line = line.with_events(events)
    return line


def strokes_of(solved):
    return [n.stroke for n in judge(solved).notes]


def test_written_strokes_and_fingers_are_kept_and_counted():
    line = written(["down", None, "up", None, "down"], [None, "3", None, None, "1"])
    found = solve_meant(request(line, "free", keep=KEEP))
    assert strokes_of(found)[0::2] == ["down", "up", "down"]
    assert [judge(found).notes[i].finger for i in (1, 4)] == ["3", "1"]
    assert "all 3 written strokes and all 2 written fingers are kept" in judge(found).notices
    assert stated(line).strokes == 3 and stated(line).fingers == 2


def test_what_is_not_kept_is_left_to_the_planner():
    line = written(["up", "up", "up", "up"])
    asked = request(line, "alternate", keep=frozenset({"positions", "attacks"}))
    assert judge(solve_meant(asked)) == judge(solve(asked))


@given(
    st.lists(st.sampled_from(["down", "up", None]), min_size=3, max_size=5), st.sampled_from(["alternate", "economy"])
)
@examples(40)
def test_the_fewest_are_let_go(strokes, school):
    """Every subset of the written strokes is tried, the largest first."""
    line = written(strokes)
    numbers = [i for i, s in enumerate(strokes) if s]
    found = solve_meant(request(line, school, keep=KEEP))
    kept = [i for i in numbers if strokes_of(found)[i] == strokes[i]]

    def possible(held):
        try:
            solve(request(written([s if i in held else None for i, s in enumerate(strokes)]), school, keep=KEEP))
        except DromicError:
            return False
        return True

    most = next(
        size
        for size in range(len(numbers), -1, -1)
        if any(possible(held) for held in itertools.combinations(numbers, size))
    )
    assert len(kept) >= most
    named = [int(n) - 1 for notices in judge(found).notices for n in re.findall(r"note (\d+): stroke", notices)]
    assert len(named) == len(numbers) - most


def test_fingers_no_hand_has_there_are_let_go_and_named():
    line = phrase([[(3, 5), (2, 8)], (3, 7)], EIGHTH, strokes={0: "down"})
    chord = line.events[0]
    crossed = tuple(replace(n, finger=f) for n, f in zip(chord.notes, "41", strict=True))  # the little finger below
    found = solve_meant(request(line.with_events([replace(chord, notes=crossed), line.events[1]]), "free", keep=KEEP))
    (notices,) = [s for s in judge(found).notices if "written" in s]
    assert "the written stroke and 0 of 2 written fingers are kept" in notices and "note 1: finger 4" in notices


def test_what_is_pinned_goes_before_what_is_written():
    line = written(["down", None, None, None, None], ["1", None, None, None, None])
    pins = (Pin(0, 0, "stroke", "up"), Pin(0, 0, "finger", "2"))
    asked = request_for(line, Choices(pins=pins), presets.players())
    found = solve_meant(asked)
    assert (judge(found).notes[0].stroke, judge(found).notes[0].finger) == ("up", "2")
    against = request_for(line, Choices(overrides=((0, "up"),)), presets.players())
    assert judge(solve_meant(against)).notes[0].stroke == "up"


def test_where_nothing_written_is_in_the_way_the_refusal_stays():
    far = phrase([[(6, 1), (5, 20)]], EIGHTH, strokes={0: "down"})
    with pytest.raises(DromicError):
        solve_meant(request(far, keep=KEEP))


def test_what_if_looks_past_what_is_written_at_its_note():
    line = written(["down", "up", "down", "up", "down"], [None, "3", None, None, None])
    found = solve_meant(request(line, "free", keep=KEEP))
    pins = {(k.field, k.value) for c in what_if(found, 1) for k in c.change.pins}
    assert ("stroke", "down") in pins and any(f == "finger" and v != "3" for f, v in pins)


def test_in_the_window_they_hold_and_can_be_let_go(qtbot, bare_window):
    window = bare_window
    window.open_book.begin_new()
    window.open_book.edit(written(["up", None, "down", None, None], ["2", None, None, None, None]), "all of it")
    window.pages.go_to("Plan")
    qtbot.waitUntil(lambda: window.plan is not None, timeout=20000)
    panel = window.plan_place.panel
    panel.more.click()
    assert panel.strokes.isVisible() and panel.strokes.text() == "2 strokes" and panel.fingers.text() == "1 finger"
    assert [n.stroke for n in window.plan.notes][:3:2] == ["up", "down"] and window.plan.notes[0].finger == "2"
    assert "all 2 written strokes and the written finger are kept" in window.notice.text()
    panel.strokes.click()
    qtbot.waitUntil(lambda: "strokes" not in window.plan.request.keep, timeout=20000)
    assert window.open_book.choices.strokes is False and "strokes let go" in panel.more.toolTip()
    window.turn_page(1)
    window.open_book.add_phrase()
    assert not panel.kept_words.isVisible()  # nothing is written there


def test_on_weigh_schools_let_them_go_and_my_way_keeps_them(qtbot, bare_window):
    window = bare_window
    window.open_book.begin_new()
    window.open_book.edit(written(["up", "up", "up", "up", "up"]), "all of it")
    window.pages.go_to("Weigh")
    place = window.pages.weigh
    qtbot.waitUntil(lambda: bool(place.entries) and not place.weighing.worker.running, timeout=60000)
    by_label = {e.label: e for e in place.entries}
    assert [n.stroke for n in by_label["My way"].plan.notes] == ["up"] * 5
    assert [n.stroke for n in by_label["Alternate"].plan.notes] == ["down", "up", "down", "up", "down"]


def test_the_command_line_says_what_it_did_not_keep(capsys, tmp_path):
    from dromic.cli.main import main
    from dromic.core.music.songbook import Entry, Songbook
    from dromic.formats.document.document import songbook_bytes

    line = written(["up", "up", None, None, None], ["2", None, None, None, None])
    path = tmp_path / "x.dromic"
    path.write_bytes(songbook_bytes(Songbook("x", (Entry(line), Entry(line, Choices(school="alternate"))))))

    def notices(*words):
        assert main(["plan", str(path), *words]) == 0
        return capsys.readouterr().out

    assert "2 strokes and 1 fingers written in the file are not kept" in notices()
    assert "not kept" not in notices("--keep", "positions,attacks,strokes,fingers")
    assert "1 of 2 written strokes" in notices("--tune", "2")  # the player's own choices keep what can be kept
