"""The command line and its JSON, whose shape others build on."""

import json
from fractions import Fraction
from pathlib import Path

import pytest

from dromic import presets
from dromic.app.main import demo_songbook
from dromic.cli.main import main
from dromic.core.findings.findings import RULES
from dromic.core.setup.school import KINDS

BOOK = str(demo_songbook())
TOP = {"dromic", "source", "instrument", "tempo", "player", "plans"}
PLAN = {
    "school",
    "rank",
    "cost",
    "ceiling",
    "ceiling_sustained",
    "ceiling_range",
    "seconds",
    "totals",
    "notes",
    "moves",
    "findings",
}
TOTALS = {
    "picked",
    "plucked",
    "legato",
    "hops",
    "outside",
    "inside",
    "carry_through",
    "buried_hops",
    "turnarounds",
    "changes",
    "changes_per_note",
    "changes_per_second",
    "pick_travel_mm",
    "shifts",
    "shift_mm",
    "max_stretch_mm",
    "rolls",
    "knots",
}
NOTE = {
    "index",
    "bar",
    "onset",
    "duration",
    "pitch",
    "string",
    "fret",
    "finger",
    "position",
    "attack",
    "stroke",
    "lean",
    "rest_on",
    "muted",
    "chord",
}
MOVE = [
    "from",
    "to",
    "gap_ms",
    "pick_gap_ms",
    "pick_kind",
    "hops",
    "buried",
    "pick_load",
    "fret_kind",
    "fret_load",
    "knot",
]
FINDING = ["rule", "notes", "severity", "load", "text", "remedy", "advice"]
FRET_KINDS = ["hold", "finger", "roll", "shift", "stretch", "jump", "open", "slide", "barre"]


def answer(capsys, *words):
    assert main(["plan", *words, "--json"]) == 0
    return json.loads(capsys.readouterr().out)


@pytest.mark.parametrize("tune", range(1, 8))
def test_json_has_the_agreed_shape(capsys, tune):
    chosen = ("--school", "all") if tune in (1, 4) else ()
    found = answer(capsys, BOOK, "--tune", str(tune), *chosen)
    assert set(found) >= TOP and found["source"] == Path(BOOK).name
    assert not chosen or [p["school"] for p in found["plans"]] == list(presets.schools())
    for plan in found["plans"]:
        assert set(plan) >= PLAN and set(plan["totals"]) >= TOTALS
        order = [(Fraction(n["onset"]), -n["string"]) for n in plan["notes"]]
        assert order == sorted(order)
        assert [n["index"] for n in plan["notes"]] == list(range(len(order)))
        assert all(set(n) >= NOTE | {"waits_at"} for n in plan["notes"])
        assert all(set(m) == set(MOVE) for m in plan["moves"])
        onward = [m["to"] for m in plan["moves"] if m["to"] > m["from"]]
        events = plan["notes"][-1]["chord"] + 1
        assert onward == list(range(1, events))  # every event is reached once; what is left are jumps back
        assert all(m["pick_kind"] in KINDS and m["fret_kind"] in FRET_KINDS for m in plan["moves"])
        assert all(set(f) >= set(FINDING) and f["rule"] in {r.name for r in RULES} for f in plan["findings"])
        t, moves = plan["totals"], plan["moves"]
        assert t["picked"] + t["plucked"] + t["legato"] == events
        assert t["hops"] == sum(m["hops"] for m in moves)
        assert t["buried_hops"] == sum(m["buried"] for m in moves)
        assert t["changes_per_note"] == pytest.approx(t["changes"] / len(moves), abs=1e-4)
        largest = max(max(m["pick_load"] or 0, m["fret_load"]) + m["knot"] for m in moves)
        assert plan["ceiling"] == pytest.approx(found["tempo"] / largest, rel=1e-3)


def test_options(capsys):
    drop = answer(
        capsys, BOOK, "--instrument", "D2,A2,D3,G3,B3,E4", "--keep", "none", "--tempo", "90", "--player", "flying"
    )
    assert drop["instrument"]["tuning"][0] == "D2" and drop["tempo"] == 90 and drop["player"] == "flying"
    passage = answer(capsys, BOOK, "--bars", "2-3", "--school", "alternate", "--start", "up")["plans"][0]
    assert {n["bar"] for n in passage["notes"]} == {2, 3} and passage["notes"][0]["onset"] == "0"
    assert passage["notes"][0]["stroke"] == "up"
    reel = answer(capsys, BOOK, "--tune", "2", "--unroll")["plans"][0]
    assert len(reel["notes"]) == 2 * len(answer(capsys, BOOK, "--tune", "2")["plans"][0]["notes"])


@pytest.mark.parametrize(
    ("words", "notices"),
    [
        (["--school", "nosuch"], "nosuch"),
        (["--school", "pattern", "--pattern", "dxu"], "pattern"),
        (["--legato", "sometimes"], "--legato"),
        (["--alternatives", "0"], "--alternatives"),
        (["--dial", "99"], "dial"),
        (["--lock", "7=string"], "--pin"),
        (["--lock", "700:string=3"], "no note 700"),
        (["--lock", "1:string=12"], "string is 12"),
        (["--lock", "1:string=1"], "let go of note 1: string 1"),
        (["--override", "7:up"], "--override"),
        (["--habit", "hats=on"], "--habit"),
        (["--habit", "thumb=yes"], "must be on or off"),
        (["--habit", "hold=never"], "until-next"),
        (["--tempo", "0"], "tempo"),
        (["--tempo", "fast"], "--tempo"),
        (["--tune", "99"], "holds 11"),
        (["--bars", "x"], "--bars"),
        (["--bars", "90-99"], "no bars"),
        (["--keep", "hats"], "hats"),
        (["--player", "nobody"], "nobody"),
        (["--instrument", "lute"], "lute"),
        (["--instrument", "bass4"], "string is 6"),
        (["--part", "2"], "one part"),
    ],
)
def test_what_cannot_be_done_is_said_in_one_line(capsys, words, notices):
    status = main(["plan", BOOK, *words])
    out, err = capsys.readouterr()
    assert status == 2 and out == "" and err.count("\n") == 1 and notices in err


def test_pins_overrides_seams_and_alternatives(capsys):
    plain = answer(capsys, BOOK, "--keep", "none", "--school", "economy")["plans"][0]
    pin = ("--lock", "4:string=5,finger=3")
    pinned = answer(capsys, BOOK, "--keep", "none", "--school", "economy", *pin)["plans"][0]
    assert (pinned["notes"][3]["string"], pinned["notes"][3]["finger"]) == (5, "3") != plain["notes"][3]["string"]
    assert pinned["cost"] >= plain["cost"]
    turned = answer(capsys, BOOK, "--override", "5=up")["plans"][0]
    assert turned["notes"][4]["stroke"] == "up"
    looped = answer(capsys, BOOK, "--repeat")["plans"][0]
    assert looped["moves"][-1]["to"] == 0 and looped["moves"][-1]["from"] == looped["notes"][-1]["chord"]
    several = answer(capsys, BOOK, "--tune", "6", "--alternatives", "3")["plans"]
    assert [p["rank"] for p in several] == [1, 2, 3]
    assert [p["cost"] for p in several] == sorted(p["cost"] for p in several)
    assert answer(capsys, BOOK, "--tune", "3", "--legato", "anywhere")["plans"][0]["totals"]["legato"] > 4
    lifted = answer(capsys, BOOK, "--habit", "hold=lift", "--dial", "4")["plans"][0]["presses"]
    assert lifted[0]["lift_s"] <= answer(capsys, BOOK)["plans"][0]["presses"][0]["lift_s"]
    fingers = answer(capsys, BOOK, "--tune", "4", "--school", "free", "--habit", "free-fingers=on")["plans"][0]
    assert fingers["totals"]["plucked"] > 0


def test_frontier(capsys):
    points = answer(capsys, BOOK, "--tune", "3", "--frontier")["frontier"]
    assert [p["unpicked"] for p in points] == sorted(p["unpicked"] for p in points)
    for a in points:
        for b in points:
            better = all(a[k] <= b[k] + 1e-9 for k in ("unpicked", "picking_work", "fretting_work"))
            assert a is b or not better
    assert main(["plan", BOOK, "--tune", "3", "--frontier"]) == 0
    assert len(capsys.readouterr().out.splitlines()) == len(points) + 1


def test_remedies_name_a_change_and_what_it_gains(capsys):
    plan = answer(capsys, BOOK)["plans"][0]
    worst = plan["findings"][0]
    assert worst["load"] > 1.15 and worst["remedy"]["ceiling"] > 1.1 * plan["ceiling"]
    assert "instead of picking it" in worst["remedy"]["text"]
    assert worst["text"].startswith(f"Fits up to about {plan['ceiling']:.0f}: ") and " ms" in worst["detail"]
    assert plan["limited_by"]["note"] in worst["notes"] and "lifting out" in plan["limited_by"]["rows"]


def test_table_shows_tablature_strokes_and_findings(capsys):
    assert main(["plan", BOOK, "--tune", "1"]) == 0
    out = capsys.readouterr().out
    assert (
        "stroke" in out
        and "finger" in out
        and "D D U" in out
        and "estimate" in out
        and "buried-hop; major]" in out
        and "starting guesses" in out
    )


@pytest.mark.parametrize("name", ["instruments", "players", "schools", "rules"])
def test_lists(capsys, name):
    assert main([name]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert main([name, "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)[name]) == len(lines) >= 3
