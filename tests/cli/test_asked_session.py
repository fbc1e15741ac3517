"""`dromic practise FILE --ask`: lines out and in as published, every answered pass in the log, bad lines asked again."""

from __future__ import annotations

import io
import json
from itertools import groupby, pairwise

import pytest

from dromic.cli.main import main
from dromic.presets import DATA
from dromic.store.log.logbook import Logbook

BOOK = DATA / "songs" / "copper-wren.dromic"
FIELDS = {"ask", "drill", "kind", "hand", "bars", "notes", "figure", "tempo", "target", "ceiling", "load", "round_s", "rest_s",
          "burst", "cold", "minute", "of", "reason"}  # fmt: skip


@pytest.fixture
def asked(tmp_path, monkeypatch, capsys):
    """A session with these answers: the lines, what went to standard error, and the log."""

    def run(answers, *options, files=(BOOK,)):
        words = "".join((a if isinstance(a, str) else json.dumps(a)) + "\n" for a in answers)
        monkeypatch.setattr("sys.stdin", io.StringIO(words))
        log = tmp_path / "log.sqlite"
        assert main(["practise", *map(str, files), "--ask", "--db", str(log), "--day", "2026-03-01", *options]) == 0
        out, err = capsys.readouterr()
        return [json.loads(line) for line in out.splitlines()], err, Logbook(log)

    return run


def test_who_never_misses_has_the_whole_at_its_target_in_a_first_session(asked):
    lines, err, log = asked([{"clean": True}] * 400)
    passes, end = lines[:-1], lines[-1]
    assert not err and all(set(line) >= FIELDS for line in passes) and end["ask"] == "end"
    whole = [line for line in passes if line["kind"] == "whole"]
    assert [line["tempo"] for line in whole[-3:]] == [whole[0]["target"]] * 3
    assert end["minutes"] <= 30 and end["passes"] == end["clean"] == len(passes) == len(log.passes())
    assert whole[0]["cold"] and whole[0]["tempo"] <= 0.5 * whole[0]["target"]
    assert "clean at the target" in end["tomorrow"]


def test_every_answered_pass_is_in_the_log_as_it_was_asked(asked):
    answers = [{"clean": True}, {"clean": False, "hand": "picking", "fault": "late", "seconds": 9.5}, {"end": True}]
    lines, _, log = asked(answers)
    first, second = log.passes()
    assert (first.drill, first.tempo, first.clean) == (lines[0]["drill"], lines[0]["tempo"], True)
    assert (second.clean, second.hand, second.fault, second.seconds) == (False, "picking", "late", 9.5)
    assert list(first.notes) == lines[0]["notes"] and first.at.date().isoformat() == "2026-03-01"
    assert len(lines) == 4 and lines[-1]["passes"] == 2  # the third was asked for, and not answered


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("yes", "a line of JSON"),
        ("[1]", "an object"),
        ({"clean": "yes"}, "clean must be true or false"),
        ({"clean": True, "speed": 3}, "speed"),
        ({"clean": True, "seconds": -1}, "seconds"),
        ({"clean": False, "hand": "third"}, "hand"),
        ({"clean": True, "soreness": 9}, "soreness"),
    ],
)
def test_a_line_that_cannot_be_meant_is_told_and_the_pass_is_asked_again(asked, line, told):
    lines, err, log = asked([line, {"clean": True}, {"end": True}])
    assert told in err and len(err.splitlines()) == 1 and "asked again" in err
    assert len(log.passes()) == 1 and lines[-1]["passes"] == 1


def test_strong_soreness_ends_it_kindly_and_holds_all_day(asked):
    lines, _, _ = asked([{"clean": True}, {"clean": True, "soreness": 3}, {"clean": True}])
    assert len(lines) == 3 and "no playing today" in lines[-1]["said"]
    again, _, _ = asked([{"clean": True}])
    assert [line["ask"] for line in again] == ["end"] and "no playing today" in again[0]["said"]


def test_a_little_soreness_lets_nothing_climb(asked):
    lines, _, _ = asked([{"clean": True, "soreness": 1}] + [{"clean": True}] * 20 + [{"end": True}])
    for _, of in groupby(sorted(lines[1:-1], key=lambda x: x["drill"]), key=lambda x: x["drill"]):
        tempos = [line["tempo"] for line in of]
        assert max(tempos) <= tempos[0] * 1.001


def test_another_day_begins_with_a_cold_take_and_warms_up_on_the_piece(asked):
    asked([{"clean": True}] * 12 + [{"end": True}])
    lines, _, _ = asked([{"clean": True}] * 12 + [{"end": True}], "--day", "2026-03-02")
    cold, *rest = lines[:-1]
    assert cold["cold"] and cold["kind"] == "whole" and not any(line["cold"] for line in rest)
    warm = [line for line in rest if "warm-up" in line["reason"]]
    assert warm and all(line["kind"] == "whole" and line["minute"] < 3.0 for line in warm)
    none, _, _ = asked([{"end": True}], "--day", "2026-03-03", "--cold", "off")
    assert not none[0]["cold"]


def test_several_files_make_one_session_by_turns(asked, tmp_path):
    other = tmp_path / "other.abc"
    other.write_text("X:1\nT:Other\nM:4/4\nL:1/8\nQ:1/4=120\nK:C\nCDEF GABc|cBAG FEDC|\n", "utf-8")
    lines, _, log = asked([{"clean": n % 2 == 0} for n in range(60)] + [{"end": True}], files=(BOOK, other))
    named = [line["source"] for line in lines[:-1]]
    assert set(named) == {BOOK.name, "other.abc"} and all(line["tune"] == 1 for line in lines[:-1])
    assert sum(a != b for a, b in pairwise(named)) > 4  # by turns, not one after the other
    assert len({one.phrase for one in log.passes()}) == 2
