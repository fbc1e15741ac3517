"""Shapes moved: intervals by hand on a guitar in standard tuning (E A D G B E: fourths, and a third between strings 3 and 2)."""

from __future__ import annotations

import json

import pytest
from PyQt6.QtCore import Qt

from dromic import presets
from dromic.cli.main import main
from dromic.core.editing.edit import Span, sounds_of
from dromic.core.editing.shapes import FRETS, PITCHES, everywhere, moved
from dromic.core.search.planner import plan
from dromic.core.values.errors import DromicError
from dromic.formats.table import read
from tests.broken import DEMO
from tests.build import EIGHTH, phrase, request

GUITAR = presets.instruments()["guitar"]


def shape(*places):
    line = request(phrase(list(places), EIGHTH)).phrase
    return line, Span(line.bars[0].start, line.end)


def places_of(made):
    return [(n.string, n.fret) for _, n in sounds_of(made)]


def test_frets_kept_on_strings_tuned_alike_go_up_by_one_interval_and_break_nothing():
    line, span = shape((5, 7), (4, 7), (4, 9))
    made = moved(line, span, 1, 0, FRETS, GUITAR)
    assert places_of(made.phrase) == [(6, 7), (5, 7), (5, 9)] and made.breaks == ()
    before, after = ([n.pitch for _, n in sounds_of(p)] for p in (line, made.phrase))
    assert {b - a for a, b in zip(before, after, strict=True)} == {-5}
    assert made.words == "1 string lower, the frets kept"


def test_over_the_third_it_sounds_otherwise_and_open_strings_break():
    line, span = shape((4, 7), (3, 7))
    (told,) = moved(line, span, -1, 0, FRETS, GUITAR).breaks
    assert "strings 3 and 2 lie 4 semitones apart, 4 and 3 5" in told
    opened, span = shape((3, 0), (3, 2))
    up = moved(opened, span, 0, 3, FRETS, GUITAR)
    assert (
        places_of(up.phrase) == [(3, 3), (3, 5)]
        and "1 note is fretted now" in up.breaks[0]
        and up.words == "3 frets up"
    )


def test_pitches_kept_take_other_frets():
    line, span = shape((3, 7), (3, 9))
    made = moved(line, span, 1, 0, PITCHES, GUITAR)
    assert places_of(made.phrase) == [(4, 12), (4, 14)]
    assert [n.pitch for _, n in sounds_of(made.phrase)] == [n.pitch for _, n in sounds_of(line)]
    with pytest.raises(DromicError, match="stay where they are"):
        moved(line, span, 1, 2, PITCHES, GUITAR)


@pytest.mark.parametrize(("strings", "frets", "told"), [(-1, 0, "no string 0"), (0, 30, "fret 35"), (0, -6, "fret -1")])
def test_beyond_the_neck_is_refused(strings, frets, told):
    line, span = shape((1, 5))
    with pytest.raises(DromicError, match=told):
        moved(line, span, strings, frets, FRETS, GUITAR)


def test_every_set_of_strings_is_tried():
    line, span = shape((3, 5), (2, 5))
    found = list(everywhere(line, span, FRETS, GUITAR))
    assert sorted(one.strings for one in found) == [-1, 0, 1, 2, 3] and found[0].phrase == line


def test_places_side_by_side_on_the_command_line(capsys, tmp_path):
    words = ["move", str(DEMO), "--tune", "3", "--school", "sweep"]
    assert main([*words, "--everywhere", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    here, lower = found["places"]
    assert here["ceiling"] == found["ceiling"] and lower["strings"] == 1 and lower["breaks"] and lower["playable"]
    out = tmp_path / "moved.dromic"
    assert main([*words, "--strings=1", "--out", str(out)]) == 0
    assert "1 string lower" in capsys.readouterr().out
    again = read(out)
    assert plan(request(again, "sweep")).ceiling == pytest.approx(lower["ceiling"], rel=0.02)
    refused = {
        "no string": ["--strings=-1"],
        "leave out": ["--everywhere", "--frets", "2"],
        "no bars": ["--passage", "90"],
    }
    for told, wrong in refused.items():
        assert main([*words, *wrong]) == 2
        assert told in capsys.readouterr().err


def test_a_shape_moves_with_its_frets_on_write_and_says_what_breaks(qtbot, demo_window):
    demo_window.pages.go_to("Write")
    place = demo_window.pages.write
    place.run("select-all")
    before, told = demo_window.open_book.phrase, []
    place.noticed.connect(lambda words, _: told.append(words))
    place.run("shape-up")
    assert not any("sounds otherwise" in words for words in told)  # low strings are all a fourth apart
    place.run("shape-up")
    after = demo_window.open_book.phrase
    assert (
        sorted(n.fret for _, n in sounds_of(after)) == sorted(n.fret for _, n in sounds_of(before)) and after != before
    )
    assert any("sounds otherwise" in words for words in told)
    qtbot.keyClick(place.grid, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
