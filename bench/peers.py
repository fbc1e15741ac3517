"""`./run bench --peers`: MusicXML as Dromic writes it, read by two engravers: verovio (a package of the lock file) and
musicxml2ly (Debian's lilypond), with what they complain of. The first tunes of a collection, and the demo songbook."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from bench.lines import row
from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.formats.document.document import read_songbook
from dromic.formats.table import read
from dromic.formats.xml.musicxml_write import musicxml_bytes

TUNES = 60
"""of the collection, besides the demo"""


def bench_peers() -> None:
    phrases = [*_demo(), *_tunes()]
    row("phrases written", str(len(phrases)))
    told, wrong = _verovio(phrases)
    row("verovio: files it complains of, files with other notes", f"{sum(told.values())}, {wrong}", "aim: none")
    for line, count in told.most_common(5):
        row(f"  {line[:90]}", f"in {count}")
    if shutil.which("musicxml2ly") is None:
        row("musicxml2ly", "not here: apt-get install lilypond")
        return
    told = _lily(phrases)
    row("musicxml2ly: files it complains of", str(sum(told.values())), "aim: none")
    for line, count in told.most_common(5):
        row(f"  {line[:90]}", f"in {count}")


def _demo() -> list[Phrase]:
    files = sorted(Path("dromic/data/songs").glob("*.dromic"))
    return [phrase for file in files for phrase in read_songbook(file.read_bytes()).phrases]


def _tunes() -> Iterator[Phrase]:
    from music21 import corpus

    path = next(Path(p) for p in corpus.getComposer("ryansMammoth"))
    for tune in sorted(path.parent.glob("*.abc"))[:TUNES]:
        yield read(tune)


def _verovio(phrases: list[Phrase]) -> tuple[Counter[str], int]:
    """How many files each first complaint came with; and in how many the notes of its first staff are not as many as ours."""
    import verovio

    verovio.enableLog(verovio.LOG_WARNING)
    toolkit = verovio.toolkit()
    told: Counter[str] = Counter()
    wrong = 0
    for phrase in phrases:
        with _standard_error() as heard:
            toolkit.loadData(_score(phrase))
            drawn = "".join(toolkit.renderToSVG(n + 1) for n in range(toolkit.getPageCount()))
        told.update(heard[:1])
        wrong += drawn.count('class="note"') < sum(len(e.notes) for e in phrase.events)
    return told, wrong


def _lily(phrases: list[Phrase]) -> Counter[str]:
    told: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        for phrase in phrases:
            file = Path(folder) / "score.musicxml"
            file.write_text(_score(phrase))
            words = ["musicxml2ly", "-o", str(file.with_suffix(".ly")), str(file)]
            done = subprocess.run(words, capture_output=True, text=True, check=False)
            lines = [line for line in (done.stdout + done.stderr).splitlines() if "warning" in line or "error" in line]
            told.update([f"ended with {done.returncode}"] if done.returncode else lines[:1])
    return told


def _score(phrase: Phrase) -> str:
    return musicxml_bytes(phrase, phrase.instrument or presets.usual_instrument()).decode()


@contextlib.contextmanager
def _standard_error() -> Iterator[list[str]]:
    """The lines that a library written in another language prints on standard error, once it is done."""
    sys.stderr.flush()
    kept = os.dup(2)
    with tempfile.TemporaryFile("w+") as caught:
        os.dup2(caught.fileno(), 2)
        lines: list[str] = []
        try:
            yield lines
        finally:
            os.dup2(kept, 2)
            os.close(kept)
            caught.seek(0)
            lines += caught.read().splitlines()
