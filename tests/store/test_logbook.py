"""The logbook: what is kept is there after kills, in two windows, through CSV and JSON; its sums are those of its passes."""

from __future__ import annotations

import csv
import io
import json
import os
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from dataclasses import replace
from datetime import date, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dromic.core.practice.log_pass import FAULTS, HANDS, Pass, PhraseName
from dromic.core.practice.log_summary import Goal, history_of, record_of
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled
from dromic.store.log.exchange import as_csv, from_text, pass_entry, read_passes, write_passes
from dromic.store.log.logbook import Logbook
from dromic.store.log.rows import placed
from tests.broken_kept import old_log
from tests.examples import examples

START = datetime(2026, 10, 1, 18)
WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), max_size=8)
PASSES = st.lists(
    st.builds(
        Pass, st.integers(0, 40 * 24).map(lambda h: START + timedelta(hours=h)), st.sampled_from(["a", "b"]),
        st.sampled_from(["move:1-4", "bar:0-9", "trill:12"]), st.integers(40, 200).map(float), st.booleans(),
        st.lists(st.integers(0, 20), max_size=4).map(tuple), st.none() | st.sampled_from(HANDS),
        st.none() | st.sampled_from(FAULTS), st.booleans(), st.integers(0, 300).map(float), st.integers(0, 3), st.booleans(),
        WORDS, WORDS, WORDS, st.sampled_from([-300, 0, 60, 120]), st.sampled_from(["", "1"]),
    ), max_size=25,
)  # fmt: skip


@given(PASSES, st.integers(1, 4))
@examples(40)
def test_what_is_kept_comes_back_and_its_sums_are_right(tmp_path_factory, passes, step):
    """Also of what is left when some are taken back; an older log of the same passes says the same."""
    book = Logbook(tmp_path_factory.mktemp("log") / "log.sqlite")
    passes = sorted(passes, key=lambda p: p.utc)
    uids = book.add(passes)
    assert book.passes() == passes
    if passes:
        assert list(from_text(as_csv(passes), date(2027, 1, 1)).passes) == passes
    assert all(book.passes(title) == [p for p in passes if p.phrase == title] for title in ("a", "b"))
    sums_are_right(book, passes)
    book.take_back(uids[::step])
    sums_are_right(book, [p for n, p in enumerate(passes) if n % step])


def sums_are_right(book, passes):
    for name in (PhraseName("a"), PhraseName("b"), PhraseName("whatever", "1")):
        mine = sorted((p for p in passes if p.of.key == name.key), key=lambda p: (p.day, p.utc))
        assert set(book.passes(name)) == set(mine)
        kept, counted = book.record(name), record_of(name.title, mine)
        assert {d.drill: (d.best_clean, d.passes, d.clean, d.newest_clean, d.last_at) for d in kept.drills} == {
            d.drill: (d.best_clean, d.passes, d.clean, d.newest_clean, d.last_at) for d in counted.drills
        }
        assert kept.minutes == pytest.approx(dict(counted.minutes)) and kept.blamed == hands(mine)
        days = book.history(name, date(2027, 1, 1)).days
        assert {d: [(x.day, x.clean_tempo, x.clean, x.missed) for x in of] for d, of in days.items()} == {
            d: [(x.day, x.clean_tempo, x.clean, x.missed) for x in of]
            for d, of in history_of(name.title, mine).days.items()
        }


def hands(passes):
    """How often each hand was blamed; both of them where both were."""
    found = {hand: sum(not p.clean and p.hand in (hand, "both") for p in passes) for hand in ("picking", "fretting")}
    return {hand: count for hand, count in found.items() if count}


def test_a_pass_is_taken_back_by_its_number_whatever_came_since(tmp_path):
    book = Logbook(tmp_path / "log.sqlite")
    made = [
        placed(Pass(START + timedelta(minutes=n), "a", "move:1-4", 60.0 + n, True, (1,), seconds=10)) for n in range(3)
    ]
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
    with pytest.raises(DromicError, match="is no log"):
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
     ("at,phrase,drill,tempo,clean\n2026-01-01,a,b,sixty,True\n", "not a number")],
)  # fmt: skip
def test_a_file_that_holds_no_passes(text, words):
    try:
        [told] = from_text(text).bad
    except DromicError as error:
        told = error.what
    assert words in told


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
from dromic.store.log.logbook import Logbook
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
    first = placed(Pass(START, "x", "move:1-4", 80.0, True, (1, 2), seconds=5))
    take = [
        placed(Pass(START + timedelta(1), "x", f"take:{n}-{n + 3}", 90.0, n > 0, (n,), seconds=2)) for n in range(3)
    ]
    log.add([first])
    numbers = log.add(take)
    other = replace(first, tempo=99.0)
    log.add([other])
    assert log.take_back(numbers) == take and log.passes() == [first, other]
    record = log.history("x").record
    assert [d.drill for d in record.drills] == ["move:1-4"] and sum(record.minutes.values()) == pytest.approx(10 / 60)


HEAD = "at;phrase;drill;tempo;clean;notes;seconds;note\n"


def test_what_spreadsheets_write_is_taken_and_bad_rows_are_named():
    """A byte-order mark, semicolons, decimal commas, the words for true and false in four languages; nothing else."""
    rows = [
        "2026-11-25T20:00:00;Reel;move:1-4;62,5;WAHR;1 2;12,5;",
        "2026-11-25T20:01:00;Reel;move:1-4;63;faux;1 2;9;",
        "2026-11-25T20:02:00;Reel;move:1-4;63;Verdadero;1 2;9;",
        "2026-11-25T20:03:00;Reel;move:1-4;63;0;1 2;9;",
        "2026-11-25T20:04:00;Reel;move:1-4;63;yes;1 2;9;",
        "2026-11-25T20:05:00;Reel;move:1-4;63;true;1 x;9;",
        "1066-10-14T09:00:00;Reel;move:1-4;63;true;;9;",
        "2036-11-25T20:00:00;Reel;move:1-4;63;true;;9;",
        "2026-11-25T20:06:00;Reel;short",
        "",
    ]
    found = from_text("\ufeff" + HEAD + "\n".join(rows), date(2026, 11, 25))
    assert [(p.tempo, p.clean, p.seconds) for p in found.passes] == [
        (62.5, True, 12.5),
        (63, False, 9),
        (63, True, 9),
        (63, False, 9),
    ]
    assert [told.split(":")[0] for told in found.bad] == ["row 6", "row 7", "row 8", "row 9", "row 10"]
    assert "still to come" in found.bad[3] and "3 cells" in found.bad[4]


@given(st.text(st.characters(codec="utf-8", categories=("L", "N", "P", "S", "Zs")), min_size=1, max_size=12))
@examples(60)
def test_no_cell_is_run_by_a_spreadsheet_and_each_comes_back_as_it_was(words):
    assume(words.strip() and words.isprintable())
    one = Pass(
        datetime(2026, 11, 25, 20), f"={words}", f"@{words}", 60.0, True, (1,), note=f"-{words}", plan=f"'{words}"
    )
    table = as_csv([one, replace(one, phrase=words, drill=words)])
    assert not any(cell[:1] and cell[0] in "=+-@" for row in csv.reader(io.StringIO(table)) for cell in row)
    assert from_text(table, date(2026, 11, 25)).passes[0] == one
    assert from_text(table, date(2026, 11, 25)).passes[1].phrase == words


@pytest.mark.parametrize(
    "entry",
    [{"drill": 5}, {"phrase": None}, {"clean": "perhaps"}, {"clean": "false", "tempo": "x"}, {"notes": [1e400]}, {"notes": 5},
     {"notes": ["1"]}, {"attentive": 2}, {"player": []}, {"at": 5}, {"at": "0001-01-01T00:00:00"}, {"at": "9999-12-31T00:00:00"},
     {"seconds": -1}, {"tempo": 10**400}, {"note": "x" * 3000}, {"phrase": "two\nlines"}, {"phrase": "\ud800"},
     {"at": "2026-11-25T20:00:00+02:00"}],
)  # fmt: skip
def test_every_field_of_a_pass_is_checked_in_one_place(entry):
    good = {"at": "2026-11-25T20:00:00", "phrase": "a", "drill": "b", "tempo": 60, "clean": True}
    found = from_text(json.dumps([{**good, **entry}, good]), date(2026, 11, 25))
    assert len(found.passes) == 1 and len(found.bad) == 1 and found.bad[0].startswith("pass 1: ")
    assert from_text(json.dumps([{**good, "clean": "false"}]), date(2026, 11, 25)).passes[0].clean is False


def test_an_empty_file_and_one_without_a_good_row_are_refused(tmp_path):
    for name, text in (
        ("empty.csv", ""),
        ("none.csv", HEAD),
        ("bad.csv", HEAD + "x;y;z;1;true;;;\n"),
        ("deep.json", "[" * 100_000),
    ):
        (tmp_path / name).write_text(text)
        with pytest.raises(DromicError):
            read_passes(tmp_path / name)
    (tmp_path / "long.csv").write_text(
        HEAD + f"2026-11-25T20:00:00;{'x' * 200_000};d;60;true;;;\n2026-11-25T20:00:00;a;d;60;true;;;\n"
    )
    found = read_passes(tmp_path / "long.csv", date(2026, 11, 25))
    assert len(found.passes) == 1 and found.bad[0].startswith("row 2")


def test_an_export_that_fails_leaves_what_was_there(tmp_path, monkeypatch):
    file = tmp_path / "out.csv"
    write_passes(file, [Pass(START, "a", "b", 60.0, True)])
    before = file.read_bytes()

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    with pytest.raises(DromicError, match="the disk is full"):
        write_passes(file, [Pass(START, "c", "d", 60.0, True)] * 50)
    assert file.read_bytes() == before and [p.name for p in tmp_path.iterdir()] == ["out.csv"]


def test_a_backup_writes_over_nothing_but_an_older_one_of_the_same_log(tmp_path):
    mine, other = Logbook(tmp_path / "mine.sqlite"), Logbook(tmp_path / "other.sqlite")
    mine.add([Pass(START, "a", "b", 60.0, True)])
    other.add([Pass(START, "x", "y", 99.0, True)])
    copy = tmp_path / "copy.sqlite"
    mine.copy_to(copy)
    mine.add([Pass(START + timedelta(1), "a", "b", 64.0, True)])
    mine.copy_to(copy)  # an older copy of the same log
    assert Logbook(copy).passes() == mine.passes()
    (tmp_path / "letter.txt").write_text("dear")
    for place in (other.path, tmp_path / "letter.txt"):
        was = place.read_bytes()
        with pytest.raises(DromicError, match="is left as it is"):
            mine.copy_to(place)
        assert place.read_bytes() == was
    mine.copy_to(other.path, over=True)
    assert Logbook(other.path).passes() == mine.passes()
    with pytest.raises(DromicError, match="not backed up"):
        mine.copy_to(tmp_path / "no such folder" / "copy.sqlite")
    assert not list(tmp_path.glob(".*copying"))


def test_rows_that_cannot_be_read_are_left_out_and_counted(tmp_path):
    book = Logbook(tmp_path / "log.sqlite")
    numbers = book.add(
        [Pass(START + timedelta(days=n), "a", "move:1-4", 60.0 + n, True, (1,), seconds=60) for n in range(4)]
    )
    with sqlite3.connect(book.path) as base:
        base.execute("UPDATE pass SET utc = 'yesterday' WHERE uid = ?", (numbers[0],))
        base.execute("UPDATE pass SET notes = 'some' WHERE uid = ?", (numbers[1],))
    base.close()
    assert [p.tempo for p in book.passes()] == [62.0, 63.0] and book.unreadable == 2
    assert book.take_back(numbers[3:]) and book.history("a").recent


def test_one_odd_date_spoils_no_log(tmp_path):
    """A clock that was wrong once, in a log of before dates were checked."""
    book, today = Logbook(tmp_path / "log.sqlite"), date(2026, 11, 25)
    days = [datetime(2026, 11, 25) - timedelta(days=n) for n in range(10)]
    book.add([Pass(at, "a", "move:1-4", 60.0, True, (1,), seconds=60) for at in days])
    book.add([Pass(datetime(2036, 1, 1), "a", "move:1-4", 60.0, True, (1,), seconds=60)])
    history = book.history("a", today)
    assert len(history.recent) >= 10 and len(history.record.minutes) >= 10
    with sqlite3.connect(book.path) as base:
        base.execute("UPDATE drill SET last_day = '0001-01-01'")
        base.execute("INSERT INTO day SELECT key, '0001-01-01', 'x', 1, 1, 1, 0, 0, 0, 1, 1, 1 FROM day LIMIT 1")
    base.close()
    assert book.summary(today)["a"]["minutes"]


def test_what_keeps_a_log_from_being_written_is_told_apart(tmp_path, monkeypatch):
    book = Logbook(tmp_path / "log.sqlite")
    book.add([Pass(START, "a", "b", 60.0, True)])
    with closing(sqlite3.connect(book.path, isolation_level=None)) as holder:
        holder.execute("BEGIN EXCLUSIVE")
        with pytest.raises(DromicError, match="held by another program"):
            book.add([Pass(START, "a", "b", 61.0, True)], wait_s=0.05)
    (tmp_path / "folder.sqlite").mkdir()
    with pytest.raises(DromicError, match="cannot be opened"):
        Logbook(tmp_path / "folder.sqlite").add([Pass(START, "a", "b", 61.0, True)])
    real = os.access
    monkeypatch.setattr("os.access", lambda path, mode: False if Path(path) == tmp_path else real(path, mode))
    assert len(book.passes()) == 1  # where nothing can be written it can still be read


def test_a_backup_knows_its_log_whatever_was_taken_back_since(tmp_path):
    mine = Logbook(tmp_path / "mine.sqlite")
    uids = mine.add([Pass(START, "a", "b", 60.0 + n, True) for n in range(3)])
    copy = tmp_path / "copy.sqlite"
    mine.copy_to(copy)
    mine.take_back(uids[:1])
    mine.copy_to(copy)
    assert len(Logbook(copy).passes()) == 2
    Logbook(copy).add([Pass(START, "a", "b", 99.0, True)])  # it went on elsewhere
    with pytest.raises(DromicError, match="is left as it is"):
        mine.copy_to(copy)
    old_log(tmp_path / "old.sqlite", 20)
    (tmp_path / "older copy.sqlite").write_bytes((tmp_path / "old.sqlite").read_bytes())
    up = Logbook(tmp_path / "old.sqlite")
    assert len(up.passes()) == 20
    up.copy_to(tmp_path / "older copy.sqlite")  # from before logs had an id
    before = (tmp_path / "older copy.sqlite").read_bytes()
    with pytest.raises(DromicError, match="is left as it is"):
        mine.copy_to(tmp_path / "older copy.sqlite")
    assert (tmp_path / "older copy.sqlite").read_bytes() == before


def test_an_older_log_that_is_broken_off_is_as_it_was_and_taken_up_again(tmp_path):
    path = tmp_path / "log.sqlite"
    old_log(path, 5000)
    with closing(sqlite3.connect(path)) as base:
        base.execute("UPDATE pass SET at = 'yesterday' WHERE id = 7")
        base.execute("UPDATE pass SET tempo = 'x' WHERE id = 9")
        base.commit()
    shares = []
    with pytest.raises(Cancelled):
        Logbook(path, lambda share: shares.append(share) or len(shares) < 1).passes()
    with closing(sqlite3.connect(path)) as base:
        assert base.execute("PRAGMA user_version").fetchone()[0] == 1
        assert base.execute("SELECT COUNT(*) FROM pass").fetchone()[0] == 5000
    book = Logbook(path, lambda share: shares.append(share) or True)
    passes = book.passes()
    assert len(passes) == 4998 and book.unreadable == 2 and shares[-1] == 1.0
    for name in book.phrases()[:20]:
        mine = [p for p in passes if p.phrase == name.title]
        kept, counted = book.record(name), record_of(name.title, mine)
        assert {d.drill: (d.best_clean, d.best_at, d.passes, d.clean, d.newest_clean) for d in kept.drills} == {
            d.drill: (d.best_clean, d.best_at, d.passes, d.clean, d.newest_clean) for d in counted.drills
        }


def test_of_many_passes_the_newest_and_the_best_of_each_day_are_looked_at(tmp_path, monkeypatch):
    monkeypatch.setattr("dromic.store.log.logbook.NEWEST", 3)
    book = Logbook(tmp_path / "log.sqlite")
    made = [
        Pass(
            START + timedelta(days=day, minutes=n),
            "a",
            "move:1-4",
            60.0 + (n * 7) % 11,
            n % 3 > 0,
            seconds=10,
            burst=n == 5,
        )
        for day in range(4)
        for n in range(12)
    ]
    book.add(made)
    history = book.history("a", START.date() + timedelta(3))
    seen = [p.tempo for p in history.recent]
    assert seen[-3:] == [p.tempo for p in made[-3:]] and len(seen) <= 3 + 4
    for day, of in zip(history.days["move:1-4"], history_of("a", made).days["move:1-4"], strict=True):
        assert (day.clean_tempo, day.clean, day.missed) == (of.clean_tempo, of.clean, of.missed)
    best = {p.day: max(q.tempo for q in made if q.day == p.day and q.clean and not q.burst) for p in made}
    for day, tempo in best.items():
        assert tempo == max(p.tempo for p in history.recent if p.day == day and p.clean and not p.burst)


def test_a_schema_that_is_no_text_is_told_as_damage(tmp_path):
    """SQLite quotes it in its message, as bytes that cannot be decoded."""
    book = Logbook(tmp_path / "log.sqlite")
    book.add([Pass(datetime(2026, 11, 30, 18), "Reel", "whole:0-3", 90.0, True)])
    with closing(sqlite3.connect(book.path, isolation_level=None)) as base:
        base.execute("PRAGMA journal_mode = DELETE")
        base.execute("PRAGMA writable_schema = ON")
        base.execute("UPDATE sqlite_master SET sql = 'CREATE TABLE', name = CAST(x'cd' AS TEXT) WHERE name = 'pass'")
    with pytest.raises(DromicError, match="is damaged; it is left as it is"):
        book.passes()
