"""What a player keeps beside songbooks, broken: passes as tables and JSON, the log itself, players, takes; and how each is read."""

from __future__ import annotations

import io
import random
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from datetime import date, datetime, timedelta
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

import mido
import numpy as np
import soundfile

from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.search.planner import plan
from dromic.formats.document.document import read_songbook
from dromic.formats.table import read
from dromic.sound.hearing.listening import check
from dromic.sound.take_render import take_sound
from dromic.sound.wav import samples_bytes
from dromic.store.log.exchange import as_csv, as_json, from_text
from dromic.store.log.logbook import Logbook
from dromic.store.roster import player_bytes
from tests.broken import DEMO, broken, originals

TODAY = date(2026, 12, 1)
MOST_BYTES = 100_000


def _passes() -> list[Pass]:
    return [
        Pass(datetime(2026, 11, 1, 18) + timedelta(minutes=n), "Reel", f"move:{n % 5}-9", 60.0 + n, n % 3 > 0, (1, 2),
             note='a, b;"c"', hand="picking" if n % 4 == 0 else None, seconds=12.5, phrase_id="x" if n % 2 else "")
        for n in range(30)
    ]  # fmt: skip


def _log(version: int) -> bytes:
    """A log as this version writes it, or as the first one did."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "log.sqlite"
        if version == 1:
            old_log(path, 30)
        else:
            Logbook(path).add(_passes())
            with closing(sqlite3.connect(path)) as base:
                base.execute("PRAGMA journal_mode = DELETE")
        return path.read_bytes()


def old_log(path: Path, count: int, seed: int = 1) -> None:
    """A log of the first version with so many passes."""
    rnd = random.Random(seed)
    at = datetime(2020, 1, 1)
    with closing(sqlite3.connect(path)) as base:
        base.execute(
            "CREATE TABLE pass (id INTEGER PRIMARY KEY, at TEXT NOT NULL, phrase TEXT NOT NULL, drill TEXT NOT NULL, "
            "tempo REAL NOT NULL, clean INTEGER NOT NULL, notes TEXT NOT NULL, hand TEXT, fault TEXT, attentive INTEGER NOT NULL, "
            "seconds REAL NOT NULL, soreness INTEGER NOT NULL, burst INTEGER NOT NULL, player TEXT NOT NULL, plan TEXT NOT NULL, "
            "note TEXT NOT NULL)"
        )
        base.execute("CREATE INDEX pass_by_drill ON pass (phrase, drill, at)")
        base.execute("CREATE TABLE drill (phrase TEXT, drill TEXT, PRIMARY KEY (phrase, drill))")
        base.execute("CREATE TABLE day (phrase TEXT, day TEXT, kind TEXT, PRIMARY KEY (phrase, day, kind))")
        rows = []
        for _ in range(count):
            at += timedelta(minutes=rnd.randrange(1, 30))
            hand = "picking" if rnd.random() < 0.2 else None
            rows.append((at.isoformat(), f"phrase {rnd.randrange(300)}", f"move:{rnd.randrange(20)}-9", 60 + rnd.random() * 50,
                         int(rnd.random() < 0.7), "1 2 3", hand, None, 1, 10.0, 0, 0, "fluent", "alternate", ""))  # fmt: skip
        base.executemany(
            f"INSERT INTO pass (at, phrase, drill, tempo, clean, notes, hand, fault, attentive, seconds, soreness, burst, player, "
            f"plan, note) VALUES ({', '.join('?' * 15)})", rows,
        )  # fmt: skip
        base.execute("PRAGMA user_version = 1")
        base.commit()


@cache
def _plan() -> Plan:
    phrase = read(DEMO, 1)
    instrument = phrase.instrument or presets.instruments()["guitar"]
    return plan(Request(phrase, instrument, presets.players()["fluent"], presets.schools()["free"]))


def _takes() -> dict[str, list[bytes]]:
    samples, rate = take_sound(perform(due_notes(_plan()), presets.listening(), 0.2, 1), _plan().request.phrase, 1)
    short = samples[: 2 * rate : 4]
    found: dict[str, list[bytes]] = {"take.wav": [samples_bytes(short, rate // 4)], "take.flac": []}
    for kind, subtype in (("FLAC", "PCM_16"), ("OGG", "VORBIS")):
        out = io.BytesIO()
        soundfile.write(out, short.astype(np.float32), rate // 4, format=kind, subtype=subtype)
        found["take.flac"].append(out.getvalue())
    file, track = mido.MidiFile(), mido.MidiTrack()
    for note in _plan().notes:
        track.append(mido.Message("note_on", note=note.pitch, velocity=80, time=20))
        track.append(mido.Message("note_off", note=note.pitch, velocity=0, time=100))
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return {**found, "take.mid": [out.getvalue()]}


@cache
def kept() -> dict[str, list[bytes]]:
    """Sound files by the name each is read under."""
    return {
        "passes.csv": [as_csv(_passes()).encode(), as_csv(_passes()).replace(",", ";").encode("utf-8-sig")],
        "passes.json": [as_json(_passes()).encode()],
        "log.sqlite": [_log(1), _log(3)],
        "player.toml": [player_bytes(player) for player in presets.players().values()],
        "book.dromic": originals()[".dromic"],
        **_takes(),
    }


def many_kept(count: int, seed: int = 1) -> Iterator[tuple[str, bytes]]:
    """So many broken ones, (name, content), the names in turn."""
    chance = random.Random(seed)
    names = sorted(kept())
    for n in range(count):
        name = names[n % len(names)]
        yield name, broken(chance.choice(kept()[name]), chance, MOST_BYTES)


def _read_log(path: Path) -> None:
    book = Logbook(path)
    book.passes()
    book.summary(TODAY)
    book.history("Reel", TODAY)
    book.history(PhraseName("Reel", "x"), TODAY)


_READ: dict[str, Callable[[Path], object]] = {
    ".csv": lambda path: from_text(path.read_bytes().decode("utf-8", "replace"), TODAY),
    ".json": lambda path: from_text(path.read_bytes().decode("utf-8", "replace"), TODAY),
    ".sqlite": _read_log,
    ".toml": presets.player_from_file,
    ".dromic": lambda path: read_songbook(path.read_bytes()),
}


def read_kept(path: Path) -> object:
    """Read one as the program does; DromicError where it is not sound."""
    reader = _READ.get(path.suffix)
    return reader(path) if reader is not None else check(_plan(), path, path.name)
