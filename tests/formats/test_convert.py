"""Every kind of file into every other, through the command line; sheets and tables say what the plan says."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import replace
from pathlib import Path
from xml.etree.ElementTree import fromstring

import pytest

from dromic import presets
from dromic.app.window.window import demo_songbook
from dromic.cli.main import main
from dromic.core.plan.write_back import phrase_with_plan
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.planner import plan, solve
from dromic.formats.document.document import read_songbook
from dromic.formats.sheet.sheet import MARGIN, PAGE_H, PAGE_W, Line, Ring, Words, sheet, wrapped
from dromic.formats.table import FORMATS, read, readable, writable
from tests.build import phrase, planned, request

BOOK = demo_songbook()


@pytest.mark.parametrize("ending", writable())
def test_the_demo_goes_out_as_every_kind(tmp_path, capsys, ending):
    out = tmp_path / f"out{ending}"
    assert main(["convert", str(BOOK), str(out), "--tune", "3"]) == 0
    assert out.stat().st_size > 50 and capsys.readouterr().out == ""
    if ending in readable():
        again, source = read(out), read(BOOK, 3)
        heard = [(e.onset, [n.pitch for n in e.notes]) for e in again.events]
        assert heard == [(e.onset, [n.pitch for n in e.notes]) for e in source.unrolled().events] or heard == [
            (e.onset, [n.pitch for n in e.notes]) for e in source.events
        ]


def test_what_is_left_out_is_said(tmp_path, capsys):
    assert main(["convert", str(BOOK), str(tmp_path / "a.mid")]) == 0
    out, err = capsys.readouterr()
    assert out == "" and "not carried over" in err and "techniques" in err
    assert main(["convert", str(BOOK), str(tmp_path / "a.mid"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["lost"]


def test_strings_nobody_chose_are_planned_for_tablature(tmp_path, capsys):
    tune = tmp_path / "tune.abc"
    tune.write_text("X:1\nT:Heron Step\nM:4/4\nL:1/8\nK:D\nD2FA d2fd|e2ce A4|\n")
    assert main(["convert", str(tune), str(tmp_path / "a.txt")]) == 0
    assert "planner's" in capsys.readouterr().err
    tab = read(tmp_path / "a.txt")
    assert [n.pitch for e in tab.events for n in e.notes] == [n.pitch for e in read(tune).events for n in e.notes]
    assert main(["convert", str(tune), str(tmp_path / "b.musicxml"), "--planned", "--school", "alternate"]) == 0
    strokes = [e.stroke for e in read(tmp_path / "b.musicxml").events]
    assert strokes == ["down", "up"] * (len(strokes) // 2) + ["down"] * (len(strokes) % 2)


@pytest.mark.parametrize(
    "out, words", [("a.xyz", "cannot|not a kind"), ("a.abc", "not a kind"), ("no/such/a.mid", "no such folder")]
)
def test_what_cannot_be_written_is_one_sentence(tmp_path, capsys, out, words):
    import re

    assert main(["convert", str(BOOK), str(tmp_path / out)]) == 2
    notices = capsys.readouterr().err
    assert notices.count("\n") == 1 and re.search(words, notices)


def test_the_docs_list_every_kind():
    text = Path("docs/formats.md").read_text()
    for kind in FORMATS:
        assert all(f"`{e}`" in text for e in kind.extensions) and kind.label in text and kind.cannot in text


def test_a_plan_written_into_its_phrase_plans_the_same():
    line = phrase([64, 66, 67, 69, 71, 72, 74, 76] * 2)
    first = planned(line, "economy")
    filled = phrase_with_plan(line, first)
    again = plan(request(filled, "economy", keep=frozenset({"positions", "fingers", "strokes", "attacks"})))
    # why a stroke goes against the beat is another thing where it is set
    assert [replace(n, against=None) for n in again.notes] == [replace(n, against=None) for n in first.notes]
    assert again.ceiling == first.ceiling


def test_the_table_holds_every_note_and_load(tmp_path):
    out = tmp_path / "a.csv"
    assert main(["convert", str(BOOK), str(out)]) == 0
    rows = list(csv.DictReader(io.StringIO(out.read_text())))
    source = read(BOOK)
    assert len(rows) == sum(len(e.notes) for e in source.events)
    assert rows[0]["pick_load_estimate"] == "" and float(rows[1]["pick_load_estimate"]) > 0
    assert any(row["findings"] for row in rows)


def demo_plan(tune):
    book = read_songbook(BOOK.read_bytes())
    line = book.phrases[tune]
    school = line.school or "free"
    asked = request(line, school, instrument=line.instrument.name)
    return with_remedies(solve(asked), presets.other_leans())


@pytest.mark.parametrize("tune", range(7))
def test_a_sheet_shows_everything_and_stays_on_the_paper(tune):
    made = demo_plan(tune)
    pages = sheet(made)
    words = [m for page in pages for m in page.marks if isinstance(m, Words)]
    frets = sorted(m.text for m in words if m.patch)
    assert len(frets) == len(made.notes)
    rings = [m for page in pages for m in page.marks if isinstance(m, Ring) and m.radius == 1.7]
    assert len(rings) == len({made.notes[f.at].event for f in made.findings})
    for page in pages:
        for mark in page.marks:
            ends = [(mark.x1, mark.y1), (mark.x2, mark.y2)] if isinstance(mark, Line) else [(mark.x, mark.y)]
            assert all(MARGIN - 4 <= x <= PAGE_W - MARGIN + 2 and 0 < y < PAGE_H for x, y in ends), mark
    if made.findings:
        assert any(m.text.startswith(wrapped(made.findings[0].text, 112)[0][:40]) for m in words)


def test_pictures_and_pages_are_what_they_say(tmp_path):
    for ending, start in ((".png", b"\x89PNG"), (".pdf", b"%PDF"), (".svg", b"<?xml")):
        out = tmp_path / f"a{ending}"
        assert main(["convert", str(BOOK), str(out), "--tune", "2"]) == 0
        assert out.read_bytes().startswith(start)
    assert fromstring((tmp_path / "a.svg").read_text()).tag.endswith("svg")
    from PyQt6.QtGui import QImage

    image = QImage(str(tmp_path / "a.png"))
    dark = sum(image.pixelColor(x, y).lightness() < 80 for x in range(0, image.width(), 5) for y in range(0, 1700, 5))
    assert image.width() == 1260 and dark > 300
