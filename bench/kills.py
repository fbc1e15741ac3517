"""`./run bench --kills`: windows killed in the middle of saving, of steady editing, of a job; what of the work is lost."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from bench.lines import row
from bench.typist import EDITING, JOB, PRACTISING, SAVING
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook
from dromic.store.log.logbook import Logbook
from dromic.store.log.writer import LogWriter
from dromic.store.recovery import leftovers
from dromic.store.saving import clear_leftovers

KILLS = {SAVING: 200, EDITING: 50, JOB: 20, PRACTISING: 100}
AT_ONCE = 2
MOST_LOST_S, MOST_PASS_S, LAST_S = 3.0, 1.0, 30.0


def bench_kills(share: float = 1.0) -> None:
    """Every kind of kill so many times, or a share of that."""
    for kind, count in KILLS.items():
        count = max(1, round(count * share))
        with ThreadPoolExecutor(AT_ONCE) as pool:
            found = list(pool.map(lambda n, kind=kind: killed(kind, n), range(count)))  # type: ignore[misc]
        wrong = [w for w, _, _ in found if w]
        oldest = max(age for _, age, _ in found)
        left = sum(n for _, _, n in found)
        words = f"{len(wrong)} wrong" + (
            f"; the oldest edit lost was made {oldest:.1f} s before" if kind != SAVING else ""
        )
        if kind == PRACTISING:
            words = f"{len(wrong)} with a pass lost that was told; the oldest lost was told {oldest:.2f} s before"
        words += f"; {left} leftovers of a save, all cleared at the next start" if kind == SAVING else ""
        row(f"{count} windows killed while {kind}", words, f"aim: none wrong; nothing older than {MOST_LOST_S:g} s")
        for one in wrong[:5]:
            row("  ", one)


def killed(kind: str, seed: int) -> tuple[str, float, int]:
    """(what is wrong, age in seconds of the oldest edit lost, leftovers cleared) of one window killed."""
    rnd = random.Random(f"{kind} {seed}")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        words = [sys.executable, "-m", "bench.typist", str(folder), kind, str(seed)]
        process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        log = folder / "log"
        while not (log.exists() and log.stat().st_size):
            if process.poll() is not None:
                return f"seed {seed}: the window ended by itself", 0.0, 0
            time.sleep(0.02)
        time.sleep(rnd.uniform(0.1, 1.0) if kind in (SAVING, PRACTISING) else rnd.uniform(2.0, 9.0))
        process.send_signal(signal.SIGKILL)
        process.wait()
        killed = time.time()
        rows = [r.split() for r in log.read_text().splitlines()]
        lines = [(float(r[0]), int(r[1]), r[2]) for r in rows if len(r) == 3]
        if kind == SAVING:
            return _saved(folder, lines, seed)
        if kind == PRACTISING:
            return _practised(folder, [at for at, _, _ in lines], killed, seed)
        return _kept(folder, lines, killed, seed)


def _practised(folder: Path, told: list[float], killed: float, seed: int) -> tuple[str, float, int]:
    """What the next start finds in the log, and what waited for it: all that was told a second before."""
    writer = LogWriter(Logbook(folder / "log.sqlite"))
    settled = writer.settled(LAST_S)
    writer.close()
    kept = len(Logbook(folder / "log.sqlite").passes())
    lost = told[kept:]
    age = killed - lost[0] if lost else 0.0
    wrong = not settled or age > MOST_PASS_S or kept > len(told) + 1
    return (f"seed {seed}: {len(told)} passes were told, {kept} are kept" if wrong else ""), age, 0


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


def _kept(folder: Path, lines: list[tuple[float, int, str]], killed: float, seed: int) -> tuple[str, float, int]:
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
    return (f"seed {seed}: an edit made {age:.1f} s before is lost" if age > MOST_LOST_S else ""), age, 0
