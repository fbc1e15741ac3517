"""The logbook: what is kept is there after kills, in two windows, through CSV and JSON; its sums are those of its passes."""

from __future__ import annotations

import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from dataclasses import replace
from datetime import date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.core.practice.log_pass import FAULTS, HANDS, Pass
from dromic.core.practice.log_summary import Goal, record_of
from dromic.core.values.errors import DromicError
from dromic.store.log_exchange import as_csv, from_text, pass_entry
from dromic.store.logbook import Logbook
from tests.examples import examples

START = datetime(2026, 10, 1, 18)
WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), max_size=8)
PASSES = st.lists(
    st.builds(
        Pass, st.integers(0, 40 * 24).map(lambda h: START + timedelta(hours=h)), st.sampled_from(["a", "b"]),
        st.sampled_from(["move:1-4", "bar:0-9", "trill:12"]), st.integers(40, 200).map(float), st.booleans(),
        st.lists(st.integers(0, 20), max_size=4).map(tuple), st.none() | st.sampled_from(HANDS),
        st.none() | st.sampled_from(FAULTS), st.booleans(), st.integers(0, 300).map(float), st.integers(0, 3), st.booleans(),
        WORDS, WORDS, WORDS,
    ), max_size=25,
)  # fmt: skip


@given(PASSES)
@examples(40)
def test_what_is_kept_comes_back_and_its_sums_are_right(tmp_path_factory, passes):
    book = Logbook(tmp_path_factory.mktemp("log") / "log.sqlite")
    passes = sorted(passes, key=lambda p: p.at)
    book.add(passes)
    assert book.passes() == passes
    assert from_text(as_csv(passes)) == passes
    for phrase in ("a", "b"):
        mine = [p for p in passes if p.phrase == phrase]
        assert book.passes(phrase) == mine
        kept, counted = book.record(phrase), record_of(phrase, mine)
        assert {d.drill: (d.best_clean, d.passes, d.clean, d.newest_clean, d.last_at) for d in kept.drills} == {
            d.drill: (d.best_clean, d.passes, d.clean, d.newest_clean, d.last_at) for d in counted.drills
        }
        assert kept.minutes == pytest.approx(dict(counted.minutes))


def test_a_pass_is_taken_back_by_its_number_whatever_came_since(tmp_path):
    book = Logbook(tmp_path / "log.sqlite")
    made = [Pass(START + timedelta(minutes=n), "a", "move:1-4", 60.0 + n, True, (1,), seconds=10) for n in range(3)]
    numbers = book.add(made)
    [other] = Logbook(book.path).add([replace(made[0], phrase="b", tempo=200.0)])  # another window's
    assert book.take_back([numbers[2]]) == [made[2]]
    assert book.record("a").drills[0].best_clean == 61 and book.record("a").drills[0].passes == 2
    assert book.note(numbers[0], "tired") and not book.note(numbers[2], "gone")
    assert [one.note for one in book.passes("a")] == ["tired", ""] and book.passes("b")[0].note == ""
    assert book.take_back(numbers) == [replace(made[0], note="tired"), made[1]]
    assert book.take_back(numbers) == [] and len(book.passes()) == 1
    assert book.take_back([other]) and book.passes() == []


def test_a_log_that_is_none_is_said_and_left_alone(tmp_path):
    file = tmp_path / "log.sqlite"
    file.write_bytes(b"this is no database" * 100)
    with pytest.raises(DromicError, match="damaged or no log"):
        Logbook(file).passes()
    assert file.read_bytes().startswith(b"this is no")
    other = tmp_path / "other.sqlite"
    with sqlite3.connect(other) as base:
        base.execute("CREATE TABLE x (y)")
    base.close()
    with pytest.raises(DromicError, match="something else"):
        Logbook(other).add([Pass(START, "a", "b", 60.0, True)])
    newer = tmp_path / "newer.sqlite"
    Logbook(newer).add([Pass(START, "a", "b", 60.0, True)])
    with sqlite3.connect(newer) as base:
        base.execute("PRAGMA user_version = 99")
    base.close()
    with pytest.raises(DromicError, match="newer Dromic"):
        Logbook(newer).passes()
    assert Logbook(tmp_path / "none.sqlite").passes() == [] and not (tmp_path / "none.sqlite").exists()


@pytest.mark.parametrize(
    ("text", "words"),
    [("[{}]", "a pass needs"), ("[1]", "a pass needs"), ("{", "no sound JSON"),
     ('[{"at": "x", "phrase": "a", "drill": "b", "tempo": 60, "clean": true}]', "cannot be understood"),
     ('[{"at": "2026-01-01", "phrase": "a", "drill": "b", "tempo": 0, "clean": true}]', "tempo"),
     ("at,phrase,drill,tempo,clean\n2026-01-01,a,b,sixty,True\n", "cannot be understood")],
)  # fmt: skip
def test_a_file_that_holds_no_passes(text, words):
    with pytest.raises(DromicError, match=words):
        from_text(text)


def test_json_of_a_pass_is_as_published():
    entry = pass_entry(Pass(START, "a", "b", 62.0, True, (3, 4), seconds=12.0))
    published = {
        "at",
        "phrase",
        "drill",
        "notes",
        "tempo",
        "clean",
        "hand",
        "fault",
        "attentive",
        "seconds",
        "soreness",
    }
    assert published <= set(entry) and entry["at"] == "2026-10-01T18:00:00" and entry["notes"] == [3, 4]


WRITER = """
import sys
from datetime import datetime, timedelta
from pathlib import Path
from dromic.core.practice.log_pass import Pass
from dromic.store.logbook import Logbook
from tests.examples import examples
book = Logbook(Path(sys.argv[1]))
for n in range(100000):
    book.add([Pass(datetime(2026, 1, 1) + timedelta(seconds=n), "a", "move:1-4", 60.0, True, (1,), note=sys.argv[2])])
    print(n, flush=True)
"""


def test_two_writers_killed_at_work_lose_nothing_that_was_told(tmp_path):
    file = tmp_path / "log.sqlite"
    for round_ in range(3):
        both = [
            subprocess.Popen(
                [sys.executable, "-c", WRITER, str(file), f"{round_}{n}"], stdout=subprocess.PIPE, text=True
            )
            for n in range(2)
        ]
        for process in both:
            assert process.stdout is not None
            process.stdout.readline()
        time.sleep(0.15 + 0.1 * round_)
        for process in both:
            process.send_signal(signal.SIGKILL)
        told = [len(process.communicate()[0].split()) + 1 for process in both]
        notes = [p.note for p in Logbook(file).passes()]
        for n in range(2):
            assert told[n] <= notes.count(f"{round_}{n}") <= told[n] + 1
    book = Logbook(file)
    assert book.record("a").drills[0].passes == len(book.passes())


def test_days_and_what_is_next_in_the_summary(tmp_path):
    book = Logbook(tmp_path / "log.sqlite")
    book.add([Pass(START, "a", "move:1-4", 60.0, True, (1, 2), seconds=90)])
    found = book.summary(date(2026, 10, 2))["a"]
    assert found["clean_tempo"] == {"1": 60.0, "2": 60.0} and found["minutes"] == {"2026-10-01": 1.5}
    assert found["next"] == "move:1-4" and found["why"]
    copy = tmp_path / "copy.sqlite"
    book.copy_to(copy)
    assert Logbook(copy).passes() == book.passes()


def test_a_log_of_an_older_dromic_is_taken_on_with_its_passes(tmp_path):
    """The first form of the log: no goals, and what was played in the background counted as the best."""
    file = tmp_path / "old.sqlite"
    with closing(sqlite3.connect(file)) as base:
        base.execute(
            "CREATE TABLE pass (id INTEGER PRIMARY KEY, at TEXT NOT NULL, phrase TEXT NOT NULL, drill TEXT NOT NULL, "
            "tempo REAL NOT NULL, clean INTEGER NOT NULL, notes TEXT NOT NULL, hand TEXT, fault TEXT, attentive INTEGER NOT NULL, "
            "seconds REAL NOT NULL, soreness INTEGER NOT NULL, burst INTEGER NOT NULL, player TEXT NOT NULL, plan TEXT NOT NULL, "
            "note TEXT NOT NULL)"
        )
        base.execute(
            "CREATE TABLE drill (phrase TEXT, drill TEXT, notes TEXT, best REAL, best_at TEXT, last_day TEXT, newest REAL, "
            "passes INTEGER, clean INTEGER, PRIMARY KEY (phrase, drill))"
        )
        base.execute(
            "CREATE TABLE day (phrase TEXT, day TEXT, kind TEXT, seconds REAL, passes INTEGER, clean INTEGER, picking INTEGER, "
            "fretting INTEGER, PRIMARY KEY (phrase, day, kind))"
        )
        row = "INSERT INTO pass VALUES (?, ?, 'a', 'move:1-4', ?, 1, '1 2', NULL, NULL, ?, 30, 0, 0, '', '', '')"
        base.execute(row, (1, "2026-11-20T20:00:00", 80.0, 1))
        base.execute(row, (2, "2026-11-20T20:01:00", 120.0, 0))
        base.execute("INSERT INTO drill VALUES ('a', 'move:1-4', '1 2', 120, '2026-11-20', '2026-11-20', 120, 2, 2)")
        base.execute("PRAGMA user_version = 1")
        base.commit()
    book = Logbook(file)
    assert len(book.passes()) == 2 and book.goal("a") == Goal()
    record = book.record("a")
    assert record.clean_by_note == {1: 80.0, 2: 80.0} and record.background == 0.5
    book.set_goal("a", Goal(100.0, date(2026, 12, 24)))
    assert Logbook(file).history("a").goal == Goal(100.0, date(2026, 12, 24))


def test_taking_the_last_pass_back_leaves_the_sums_of_what_is_left(tmp_path):
    book = Logbook(tmp_path / "log.sqlite")
    one = Pass(datetime(2026, 11, 20, 20), "a", "move:1-4", 80.0, True, (1,), seconds=10)
    kept = [one, replace(one, drill="join:0-9"), replace(one, at=datetime(2026, 11, 21, 20))]
    numbers = book.add([*kept, replace(one, at=datetime(2026, 11, 21, 21), tempo=99.0)])
    book.take_back(numbers[-1:])
    told, counted = book.record("a"), record_of("a", kept)
    assert {d.drill: d for d in told.drills} == {d.drill: d for d in counted.drills} and told.minutes == counted.minutes


def test_the_passes_of_a_take_can_be_taken_out_whatever_came_since(tmp_path):
    log = Logbook(tmp_path / "log.sqlite")
    first = Pass(START, "x", "move:1-4", 80.0, True, (1, 2), seconds=5)
    take = [Pass(START + timedelta(1), "x", f"take:{n}-{n + 3}", 90.0, n > 0, (n,), seconds=2) for n in range(3)]
    log.add([first])
    numbers = log.add(take)
    other = replace(first, tempo=99.0)
    log.add([other])
    assert log.take_back(numbers) == take and log.passes() == [first, other]
    record = log.history("x").record
    assert [d.drill for d in record.drills] == ["move:1-4"] and sum(record.minutes.values()) == pytest.approx(10 / 60)
