"""Questions, other ways, one's own way and differences on the command line: the same as the window tells."""

from __future__ import annotations

import json

import pytest

from dromic import presets
from dromic.cli.main import main
from dromic.core.editing.differences import differences
from dromic.core.questions.own_way import judge_own_way
from dromic.core.questions.questions import QUESTIONS
from dromic.core.questions.whatif import what_if
from dromic.core.search.planner import judge, solve
from dromic.core.setup.pin import Pin
from dromic.formats.table import read
from tests.broken import DEMO
from tests.build import request


def told(capsys, *words) -> str:
    assert main([str(w) for w in words]) == 0
    return capsys.readouterr().out


@pytest.fixture
def line(tmp_path):
    path = tmp_path / "line.txt"
    path.write_text(
        "e|------------------|\nB|------------------|\nG|------------2-4-5-|\n"
        "D|------2-3-5-------|\nA|--3-5-------------|\nE|------------------|\n"
    )
    return path


def asked(path, school: str = "free", **options):
    return request(read(path), school, **options)


@pytest.mark.parametrize("name", [q.name for q in QUESTIONS])
def test_every_question_is_answered(name, capsys, line):
    found = json.loads(told(capsys, "ask", line, "--question", name, "--tempo", 400, "--json"))
    assert found["question"] == name and found["answer"] and all(isinstance(words, str) for words in found["answer"])
    if name == "abilities":
        assert "400" in found["answer"][0] or "ability" in " ".join(found["answer"])
    if name == "fastest":
        named = {school.label for school in presets.schools().values()}
        first = found["answer"][0]
        assert first.split(":")[0] in named or "ways are equally fast" in first


def test_every_other_way_to_play_a_note(capsys, line):
    found = json.loads(told(capsys, "ask", line, "--note", 3, "--json"))
    solved = solve(asked(line))
    ways = what_if(solved, 2)
    assert [c["change"] for c in found["choices"]] == [w.change.text for w in ways] and ways
    assert found["ceiling"] == pytest.approx(judge(solved).ceiling, abs=0.01)
    text = told(capsys, "ask", line, "--note", 3)
    assert f"{len(ways)} other ways" in text and ways[0].change.text in text


def test_ones_own_way_against_the_best(capsys, line):
    words = ["ask", line, "--school", "pulse", "--pin", "2:stroke=down", "--question", "way"]
    found = json.loads(told(capsys, *words, "--json"))
    own = judge_own_way(asked(line, "pulse", pins=(Pin(1, 0, "stroke", "down"),)))
    assert found["ceiling"] == pytest.approx(own.plan.ceiling, abs=0.01)
    assert found["best"] == pytest.approx(own.best.ceiling, abs=0.01) and found["breaks"] == list(own.breaks)
    assert "your way" in told(capsys, *words)


def test_what_differs_between_tunes_and_between_passages(capsys):
    found = json.loads(told(capsys, "differ", DEMO, "--tune", 1, "--other-tune", 2, "--json"))
    assert found["differences"] == differences(read(DEMO, 1), read(DEMO, 2)) and found["first"] != found["second"]
    assert json.loads(told(capsys, "differ", DEMO, DEMO, "--tune", 2, "--other-tune", 2, "--json"))["differences"] == []
    parts = told(capsys, "differ", DEMO, "--tune", 2, "--bars", "1-2", "--other-bars", "3-4")
    assert parts.startswith("bars 1-2 against 3-4: ") and "bar 1" in parts


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (["ask", DEMO], "ask --question"),
        (["ask", DEMO, "--question", "why"], "no question 'why'"),
        (["ask", DEMO, "--note", "999"], "no note 999"),
        (["ask", DEMO, "--question", "way"], "no way of your own"),
        (["differ", DEMO, "--bars", "1-2"], "go together"),
        (["differ", DEMO, "--bars", "1-2", "--other-bars", "90-91"], "no bars 90-91"),
    ],
)
def test_what_cannot_be_asked_is_said(words, sentence, capsys):
    assert main([str(w) for w in words]) == 2
    assert sentence in capsys.readouterr().err
