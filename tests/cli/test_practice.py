"""`dromic drills`, `log` and `practise`, as they are published."""

from __future__ import annotations

import json
from datetime import datetime

import pytest

from dromic.cli.main import main
from dromic.core.drills.drill_kinds import BY_NAME
from dromic.core.music.songbook import empty_phrase
from dromic.formats.table import read_entry
from dromic.formats.text.quick_line import parse
from tests.broken import DEMO
from tests.phrases import GUITAR


def told(capsys, *words: object) -> str:
    assert main([str(w) for w in words]) == 0
    return capsys.readouterr().out


def test_the_practice_list_as_json(capsys):
    found = json.loads(told(capsys, "drills", DEMO, "--tune", 2, "--minutes", 20, "--json"))
    assert found["dromic"] == 1 and found["minutes"] <= 20.0
    assert set(found["order"]) <= set(range(len(found["drills"]))) and found["order"]
    for drill in found["drills"]:
        assert {"kind", "hand", "notes", "bars", "reason", "tempo", "target", "minutes", "figure", "load"} <= set(drill)
        assert drill["kind"] in BY_NAME and drill["hand"] in ("picking", "fretting", "both")
        assert 0 < drill["tempo"] <= drill["target"] == 164
        assert parse(drill["figure"], empty_phrase("x", GUITAR), GUITAR).phrase.events
    assert sum(found["drills"][n]["minutes"] for n in found["order"]) < 20


def test_kinds_are_listed_with_their_meaning(capsys):
    assert {k["kind"] for k in json.loads(told(capsys, "drills", "--kinds", "--json"))["kinds"]} == set(BY_NAME)
    assert len(told(capsys, "drills", "--kinds").splitlines()) == len(BY_NAME)


def test_the_log_goes_out_and_in_again(capsys, tmp_path):
    log = ("--db", tmp_path / "log.sqlite")
    told(capsys, "log", "add", *log, "--phrase", "Reel", "--drill", "move:3-6", "--tempo", 74, "--seconds", 20)
    told(capsys, "log", "add", *log, "--phrase", "Reel", "--drill", "move:3-6", "--tempo", 78, "--missed", "--hand", "picking",
         "--at", "2020-01-01T10:00:00")  # fmt: skip
    listed = json.loads(told(capsys, "log", "list", *log, "--json"))["passes"]
    assert [(p["tempo"], p["clean"], p["hand"]) for p in listed] == [(78.0, False, "picking"), (74.0, True, None)]
    for name in ("out.csv", "out.json"):
        told(capsys, "log", "export", *log, "--file", tmp_path / name)
        other = ("--db", tmp_path / f"{name}.sqlite")
        assert "2 passes" in told(capsys, "log", "import", *other, "--file", tmp_path / name)
        assert json.loads(told(capsys, "log", *other, "--json"))["passes"] == listed
    told(capsys, "log", "backup", *log, "--file", tmp_path / "copy.sqlite")
    assert json.loads(told(capsys, "log", "--db", tmp_path / "copy.sqlite", "--json"))["passes"] == listed
    summary = json.loads(told(capsys, "log", "summary", *log, "--json"))["phrases"]["Reel"]
    assert summary["next"] == "move:3-6" and "74" in summary["why"]


def test_drills_go_on_from_the_log(capsys, tmp_path):
    log = tmp_path / "log.sqlite"
    first = json.loads(told(capsys, "drills", DEMO, "--tune", 2, "--json"))
    move = next(d for d in first["drills"] if d["kind"] == "move")
    told(capsys, "log", "add", "--db", log, "--phrase", "Quayside Reel", "--drill", move["name"], "--tempo", 120)
    again = json.loads(told(capsys, "drills", DEMO, "--tune", 2, "--json", "--log", log))
    same = next(d for d in again["drills"] if d["name"] == move["name"])
    assert same["tempo"] > move["tempo"] == pytest.approx(0.45 * 164, abs=0.1)


def test_a_pass_hangs_on_the_id_of_its_phrase(capsys, tmp_path):
    log, name = (
        ("--db", tmp_path / "log.sqlite"),
        json.loads(told(capsys, "drills", DEMO, "--tune", 2, "--json"))["drills"][0]["name"],
    )
    id_ = read_entry(DEMO, 2).id
    given = ("--drill", name, "--tempo", 120, "--at", "2026-11-25T20:41:00")
    told(capsys, "log", "add", *log, "--phrase", "called otherwise", "--id", id_, *given)
    told(capsys, "log", "add", *log, "--phrase", "Quayside Reel", *given)
    told(capsys, "log", "add", *log, "--phrase", "Quayside Reel", "--id", "another", *given)
    [one] = json.loads(told(capsys, "log", "list", *log, "--id", id_, "--json"))["passes"]
    assert one["phrase_id"] == id_ and one["at"] == "2026-11-25T20:41:00" and one["phrase"] == "called otherwise"
    assert one["utc_offset_min"] == datetime(2026, 11, 25, 20, 41).astimezone().utcoffset().total_seconds() / 60
    assert main(["drills", str(DEMO), "--tune", "2", "--json", "--log", str(log[1])]) == 0
    out = capsys.readouterr()
    assert "1 pass stands under the title alone and is counted" in out.err
    assert next(d for d in json.loads(out.out)["drills"] if d["name"] == name)["tempo"] > 80  # it was 120, days ago
    summary = json.loads(told(capsys, "log", "summary", *log, "--json"))["phrases"]
    assert {p["phrase_id"] for p in summary.values()} == {id_, "another", ""} and len(summary) == 3


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (("drills",), "needs a file"),
        (("drills", DEMO, "--minutes", 0), "between 1 and 600"),
        (("drills", DEMO, "--without", "humming"), "no kind of drill"),
        (("drills", DEMO, "--school", "all"), "one school"),
        (("log", "add", "--phrase", "x"), "needs --drill"),
        (("log", "import"), "needs a file"),
        (("log", "import", "--file", "/nowhere/x.csv"), "cannot be read"),
        (("log", "add", "--phrase", "x", "--drill", "y", "--tempo", "60", "--at", "noon"), "write it as"),
        (("practise", DEMO, "--simulate", 1, "--days", 0), "between 1 and"),
    ],
)
def test_bad_words_end_in_one_sentence(capsys, words, sentence):
    assert main([str(w) for w in words]) == 2
    err = capsys.readouterr().err
    assert sentence in err and len(err.splitlines()) == 1


def test_a_month_of_a_simulated_player_brings_its_hands_near_the_truth(capsys, tmp_path):
    words = ["practise", DEMO, "--tune", 3, "--school", "sweep", "--simulate", 5, "--days", 30, "--minutes", 30,
             "--true", "flying", "--target", 190, "--db", tmp_path / "log.sqlite", "--json"]  # fmt: skip
    found = json.loads(told(capsys, *words))
    assert found["ceiling"]["learned"] == pytest.approx(found["ceiling"]["true"], rel=0.05)
    assert abs(found["ceiling"]["start"] / found["ceiling"]["true"] - 1) > 0.1  # there was something to learn
    known = [r for r in found["rates"] if r["known"]]
    assert known and all(r["learned"] == pytest.approx(r["true"], rel=0.1) for r in known)
    assert any(not r["known"] for r in found["rates"])
    assert len(json.loads(told(capsys, "log", "--db", tmp_path / "log.sqlite", "--json"))["passes"]) == found["passes"]


def test_the_same_seed_is_the_same_month(capsys):
    words = ["practise", DEMO, "--tune", 1, "--simulate", 3, "--days", 2, "--minutes", 10]
    assert told(capsys, *words) == told(capsys, *words)
