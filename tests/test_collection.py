"""A collection ranked: every tune the same as planned alone, refused ones told, stopped and taken up again, changed files anew."""

from __future__ import annotations

import json
import shutil
from dataclasses import replace

import pytest

from dromic import presets
from dromic.cli.main import main
from dromic.collection import Tune, Wanted, rank, ranked, tunes_of
from dromic.core.reports.ranking import ranking, summary_words
from dromic.core.search.planner import plan as planned
from dromic.core.setup.choices import Choices
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled
from dromic.formats.table import read
from dromic.plan_requests import first_choices, request_for
from tests.broken import DEMO

EASY = "X:1\nT:Easy\nM:4/4\nL:1/4\nQ:1/4=60\nK:C\nE E E E|E E E E|]\n\nX:2\nT:Run\nM:4/4\nL:1/16\nQ:1/4=120\nK:C\n"
TUNES = EASY + "CEGceGEC DFAdfAFD CEGceGEC DFAdfAFD|]\n"


def wanted(target: float | None = None) -> Wanted:
    return Wanted(Choices(school="alternate"), presets.players()["fluent"], target)


@pytest.fixture
def folder(tmp_path):
    place = tmp_path / "tunes"
    (place / "more").mkdir(parents=True)
    (place / "book.abc").write_text(TUNES)
    shutil.copy(DEMO, place / "more" / "demo.dromic")
    (place / "broken.abc").write_text("nothing of the kind")
    (place / "notes.md").write_text("not music")
    return place


def test_every_tune_of_a_folder_is_found_books_taken_apart(folder):
    found = tunes_of(folder)
    assert [(t.path.name, t.number) for t in found[:3]] == [("book.abc", 1), ("book.abc", 2), ("broken.abc", 1)]
    assert len(found) > 8 and found[1].title == "Run"
    assert [t.number for t in tunes_of(folder / "book.abc")] == [1, 2]
    (folder / "empty").mkdir()
    with pytest.raises(DromicError, match="no tunes"):
        tunes_of(folder / "empty")


def test_a_tune_is_ranked_as_it_is_planned_alone(folder):
    path = folder / "book.abc"
    one = ranked(Tune(path, 2, "Run"), wanted(150.0))
    phrase = read(path, 2)
    choices = replace(first_choices(phrase, Choices(school="alternate")), school="alternate", tempo=150.0)
    alone = planned(request_for(phrase, choices, presets.players()))
    assert one.ceiling == pytest.approx(alone.ceiling) and one.notes == len(alone.notes) and one.tempo == 120
    worst = max(alone.moves, key=lambda m: m.load)
    assert one.load == pytest.approx(worst.load) and one.hand == worst.hand
    assert ranked(Tune(folder / "broken.abc", 1, "broken"), wanted()).refused


def test_one_ability_away_is_true_when_it_is_acquired(folder):
    """The player with that ability so much better plays it at the tempo asked for."""
    path = folder / "book.abc"
    slow = ranked(Tune(path, 2, "Run"), wanted())
    target = 1.05 * slow.ceiling
    one = ranked(Tune(path, 2, "Run"), wanted(target))
    assert not one.plays(target) and one.away is not None and 1.0 < one.away.factor < 1.6
    from dromic.core.setup.player_settings import NUMBERS

    number = next(n for n in NUMBERS if n.label == one.away.ability)
    better = replace(wanted(target), player=number.improved(wanted().player, one.away.factor))
    assert ranked(Tune(path, 2, "Run"), better).plays(target)
    assert ranked(Tune(path, 2, "Run"), wanted(3 * slow.ceiling)).away is None  # not near: not looked for


def test_stopped_it_goes_on_where_it_was_and_a_changed_file_is_planned_anew(folder, tmp_path, monkeypatch):
    kept = tmp_path / "cache" / "ranked.jsonl"
    tunes = tunes_of(folder / "book.abc")
    monkeypatch.setattr("dromic.collection._PIECE", 1)
    with pytest.raises(Cancelled):
        rank(tunes, wanted(), kept, lambda share: share < 0.5, 1)
    assert len(kept.read_text().splitlines()) == 1
    kept.write_text(kept.read_text() + '{"sign": "cut of')  # killed while it wrote
    shares: list[float] = []
    found = rank(tunes, wanted(), kept, lambda share: not shares.append(share), 1)
    assert shares[0] >= 0.5 and [one.title for one in found] == ["Easy", "Run"]
    assert rank(tunes, wanted(), kept, lambda share: True, 1) == found
    assert [one.title for one in ranking(found, "ceiling")] == ["Easy", "Run"]
    assert ranking(found, "work")[0].work < ranking(found, "work")[1].work
    (folder / "book.abc").write_text(TUNES.replace("T:Run", "T:Ran").replace("Q:1/4=120", "Q:1/4=100"))
    again = rank(tunes_of(folder / "book.abc"), wanted(), kept, lambda share: True, 1)
    assert again[1].title == "Ran" and again[1].tempo == 100
    assert "2 go" in summary_words(found, 40.0) or "go at 40" in summary_words(found, 40.0)


def test_the_command_ranks_and_says_what_cannot_be_planned(folder, capsys, tmp_path, monkeypatch):
    monkeypatch.setattr("dromic.cli.commands.rank_command.ranking_file", lambda: tmp_path / "r.jsonl")
    (folder / "more" / "demo.dromic").unlink()
    words = ["rank", str(folder), "--tempo", "100", "--workers", "1"]
    assert main([*words, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["count"] == 3 and [t["title"] for t in found["tunes"]] == ["Easy", "Run"]
    assert found["tunes"][0]["plays"] and found["refused"][0]["file"] == "broken.abc" and found["refused"][0]["why"]
    assert main([*words, "--top", "1", "--by", "work"]) == 0
    out = capsys.readouterr().out
    assert "go at 100" in out and "Easy" in out and "2 more" in out
    for wrong, told in ((["--top", "0"], "1 or more"), (["--tempo", "5"], "between"), (["--school", "x"], "no school")):
        assert main([*words, *wrong]) == 2
        assert told in capsys.readouterr().err
    assert main(["rank", str(folder / "nowhere")]) == 2
    assert "does not exist" in capsys.readouterr().err


def test_the_hands_asked_about_plan_with_their_own_habits(folder):
    """Downs that alternate above a tempo are a habit: the school takes it from the player wanted, not from the usual one."""
    player = presets.players()["fluent"]
    path = folder / "book.abc"
    for through in (True, False):
        habits = replace(player.habits, rest_through=through)
        one = ranked(Tune(path, 2, "Run"), Wanted(Choices(school="economy"), replace(player, name="me", habits=habits)))
        phrase = read(path, 2)
        mine = {"me": replace(player, name="me", habits=habits)}
        alone = planned(request_for(phrase, replace(first_choices(phrase, Choices(school="economy")), school="economy",
                                                    player="me", tempo=phrase.tempo), mine))  # fmt: skip
        assert alone.request.rest_through is through
        assert one.ceiling == pytest.approx(alone.ceiling) and one.work > 0


def test_what_is_kept_between_runs_does_not_grow_without_end(folder, tmp_path, monkeypatch):
    kept = tmp_path / "ranked.jsonl"
    tunes = tunes_of(folder / "book.abc")
    rank(tunes, wanted(), kept, lambda share: True, 1)
    size = kept.stat().st_size
    monkeypatch.setattr("dromic.collection._MOST_KEPT", size - 1)
    rank(tunes, wanted(90.0), kept, lambda share: True, 1)
    assert kept.stat().st_size < 2 * size  # begun anew, not added to
