"""`./run bench --kills`: windows killed in the middle of saving, of steady editing, of a job, of a session, of a recording, of
bringing an old log up, of opening a take; what of the work is lost."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path

import numpy as np
import soundfile

from bench.journal import asked_journal
from bench.lines import row
from bench.typist import EDITING, JOB, OPENING, PIECE_S, PRACTISING, RECORDING, SAVING, UPGRADING
from dromic.app.audio.input import RATE
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook
from dromic.store.log.logbook import Logbook
from dromic.store.log.writer import LogWriter
from dromic.store.recovery import leftovers
from dromic.store.saving import clear_leftovers
from dromic.store.takes import Takes
from tests.broken_kept import old_log

KILLS = {SAVING: 200, EDITING: 50, JOB: 20, PRACTISING: 100, RECORDING: 50, UPGRADING: 10, OPENING: 50}
AT_ONCE = 2
MOST_LOST_S, MOST_PASS_S, LAST_S = 3.0, 1.0, 30.0
PATIENCE = 10.0
"""times as old may be what tests see lost: how busy the machine is decides none of them"""


SAID = {
    RECORDING: "the oldest sound lost was heard {:.2f} s before",
    UPGRADING: "the longest took {:.1f} s to be taken up again",
    OPENING: "every process was gone within {:.1f} s",
}
"""what a figure is of"""
OLD = 20_000
"""passes of an old log"""


def bench_kills(share: float = 1.0) -> None:
    """Every kind of kill so many times, or a share of that."""
    journal = asked_journal()
    for kind, count in KILLS.items():
        count = max(1, round(count * share))

        def find(n: int, kind: str = kind) -> tuple[str, float, int]:
            wrong, age, left = journal.of(f"kill {kind} {n}", lambda: killed(kind, n))
            return wrong, age, left

        with ThreadPoolExecutor(AT_ONCE) as pool:
            found = list(pool.map(find, range(count)))
        wrong = [w for w, _, _ in found if w]
        oldest = max(age for _, age, _ in found)
        left = sum(n for _, _, n in found)
        words = f"{len(wrong)} wrong" + (
            f"; the oldest edit lost was made {oldest:.1f} s before" if kind != SAVING else ""
        )
        if kind == PRACTISING:
            words = f"{len(wrong)} with a pass lost that was told; the oldest lost was told {oldest:.2f} s before"
        if kind in SAID:
            words = f"{len(wrong)} wrong; {SAID[kind].format(oldest)}"
        words += f"; {left} leftovers of a save, all cleared at the next start" if kind == SAVING else ""
        row(f"{count} windows killed while {kind}", words, f"aim: none wrong; nothing older than {MOST_LOST_S:g} s")
        for one in wrong[:5]:
            row("  ", one)


def killed(kind: str, seed: int, patience: float = 1.0) -> tuple[str, float, int]:
    """(what is wrong, age in seconds of the oldest edit lost, leftovers cleared) of one window killed; what is lost may be so many
    times as old, where the machine is busy."""
    rnd = random.Random(f"{kind} {seed}")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        if kind == UPGRADING:
            old_log(folder / "log.sqlite", OLD, seed)
        words = [sys.executable, "-m", "bench.typist", str(folder), kind, str(seed)]
        process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        log = folder / "log"
        while not (log.exists() and log.stat().st_size):
            if process.poll() is not None:
                return f"seed {seed}: the window ended by itself", 0.0, 0
            time.sleep(0.02)
        time.sleep(rnd.uniform(0.1, 1.0) if kind in (SAVING, PRACTISING, UPGRADING) else rnd.uniform(2.0, 9.0))
        beside = _children(process.pid)
        process.send_signal(signal.SIGKILL)
        process.wait()
        killed = time.time()
        rows = [r.split() for r in log.read_text().splitlines()]
        lines = [(float(r[0]), int(r[1]), r[2]) for r in rows if len(r) == 3]
        if kind == SAVING:
            return _saved(folder, lines, seed)
        if kind == RECORDING:
            return _recorded(folder, lines, killed, seed, patience)
        if kind == UPGRADING:
            return _brought_up(folder, seed)
        if kind == OPENING:
            return _opened(folder, beside, seed)
        if kind == PRACTISING:
            told = [at for at, _, word in lines if word == "passed"]
            said_kept = max((n for _, n, word in lines if word == "kept"), default=0)
            return _practised(folder, told, said_kept, killed, seed, patience)
        return _kept(folder, lines, killed, seed, patience)


def _practised(
    folder: Path, told: list[float], said_kept: int, killed: float, seed: int, patience: float
) -> tuple[str, float, int]:
    """What the next start finds in the log, and what waited for it: all that was said to be in it, and what was told a second
    before."""
    writer = LogWriter(Logbook(folder / "log.sqlite"))
    settled = writer.settled(LAST_S)
    writer.close()
    kept = len(Logbook(folder / "log.sqlite").passes())
    lost = told[kept:]
    age = killed - lost[0] if lost else 0.0
    wrong = not settled or age > MOST_PASS_S * patience or not said_kept <= kept <= len(told) + 1
    return (f"seed {seed}: {len(told)} passes were told, {kept} are kept" if wrong else ""), age, 0


def _recorded(
    folder: Path, lines: list[tuple[float, int, str]], killed: float, seed: int, patience: float
) -> tuple[str, float, int]:
    """What the next start finds of a recording: the noise that was handed over, up to a second before."""
    takes = Takes(folder / "takes")
    takes.mend()
    pending = takes.pending()
    if len(pending) != 1:
        return f"seed {seed}: {len(pending)} recordings are offered", 0.0, 0
    sound, rate = soundfile.read(takes.path(pending[0]))
    noise, size = np.random.default_rng(seed), round(PIECE_S * RATE)
    meant = np.concatenate([noise.uniform(-0.5, 0.5, size) for _ in range(-(-len(sound) // size))])
    lost = [at for at, number, _ in lines if number * size > len(sound)]
    age = killed - lost[0] if lost else 0.0
    wrong = (
        rate != RATE
        or age > MOST_PASS_S * patience
        or float(np.abs(sound - meant[: len(sound)]).max(initial=0.0)) > 1e-3
    )
    played = read_songbook(takes.played(pending[0])).entries
    told = f"seed {seed}: {len(sound) / RATE:.2f} s are there, {age:.2f} s are lost"
    return told if wrong or len(played) != 1 else "", age, 0


def _brought_up(folder: Path, seed: int) -> tuple[str, float, int]:
    """A log whose change was broken off is taken up again: every pass, and its sums."""
    began = time.monotonic()
    book = Logbook(folder / "log.sqlite")
    passes = book.passes()
    took = time.monotonic() - began
    counted = sum(d.passes for name in book.phrases() for d in book.record(name).drills)
    wrong = not len(passes) == counted == OLD
    return (f"seed {seed}: {len(passes)} passes, {counted} summed up, of {OLD}" if wrong else ""), took, 0


def _opened(folder: Path, beside: list[int], seed: int) -> tuple[str, float, int]:
    """Kept takes and the log are whole, and what was beside the window is gone."""
    began = time.monotonic()
    while (left := [pid for pid in beside if _alive(pid)]) and time.monotonic() - began < LAST_S:
        time.sleep(0.02)
    took = time.monotonic() - began
    takes, passes = Takes(folder / "takes"), Logbook(folder / "log.sqlite").passes()
    kept = [file for file in takes.folder.rglob("*.flac") if soundfile.info(file).frames]
    if left or len(kept) != 1 or not passes:
        return f"seed {seed}: {len(left)} processes left, {len(kept)} takes, {len(passes)} passes", took, 0
    return "", took, 0


def _children(pid: int) -> list[int]:
    """The processes beside one."""
    found, asked = [], [pid]
    while asked:
        one = asked.pop()
        with suppress(OSError):
            for task in Path(f"/proc/{one}/task").iterdir():
                asked += [int(word) for word in (task / "children").read_text().split()]
        found.append(one)
    return found[1:]


def _alive(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def _saved(folder: Path, lines: list[tuple[float, int, str]], seed: int) -> tuple[str, float, int]:
    cleared = clear_leftovers(folder)
    saved = max((n for _, n, word in lines if word == "saved"), default=0)
    path = folder / "book.dromic"
    if not path.exists():
        return (f"seed {seed}: no file, though {saved} was saved" if saved else ""), 0.0, cleared
    try:
        number = _version(folder, path)
    except DromicError as error:
        return f"seed {seed}: {error}", 0.0, cleared
    return (f"seed {seed}: version {number} stands, {saved} was saved" if number < saved else ""), 0.0, cleared


def _version(folder: Path, path: Path) -> int:
    """Which of the versions written down a file is; DromicError if it is none of them."""
    data = path.read_bytes()
    read_songbook(data)
    for one in folder.glob("v*"):
        if one.read_bytes() == data:
            return int(one.name[1:])
    raise DromicError("the file is none of the versions there were")


def _kept(
    folder: Path, lines: list[tuple[float, int, str]], killed: float, seed: int, patience: float
) -> tuple[str, float, int]:
    left = leftovers(folder / "recovery")
    edits = [(at, n) for at, n, word in lines if word == "edited"]
    number = 0
    if left:
        (folder / "left").write_bytes(left[0].data)
        try:
            number = _version(folder, folder / "left")
        except DromicError as error:
            return f"seed {seed}: {error}", 0.0, 0
    missing = [killed - at for at, n in edits if n > number]
    age = max(missing, default=0.0)
    return (f"seed {seed}: an edit made {age:.1f} s before is lost" if age > MOST_LOST_S * patience else ""), age, 0
