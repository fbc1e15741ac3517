"""Whether plans are what they were: a digest of what `dromic plan --json` prints over the demo and sixty tunes.

Two states of the code that print the same digest plan the same to the byte; the seconds a plan took are left out.
"""

from __future__ import annotations

import hashlib
import io
import re
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path

import music21

from bench.lines import row
from dromic.cli.main import main
from dromic.formats.document.document import read_songbook

SCHOOLS = ("alternate", "economy", "hybrid", "free")
KEEPS = ("positions,attacks", "none")
SONGBOOK = Path(__file__).parents[1] / "dromic" / "data" / "songs" / "copper-wren.dromic"
TUNES = 60
_SECONDS = re.compile(r'"seconds": *[0-9.e+-]+')


def _tunes() -> list[Path]:
    found = sorted((Path(music21.__file__).parent / "corpus" / "ryansMammoth").glob("*.abc"))
    return found[:: len(found) // TUNES][:TUNES]


def _printed(words: list[str]) -> str:
    """What the command line prints, refusals with it."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = main(words)
    return _SECONDS.sub("", out.getvalue()) + err.getvalue().replace(str(Path(words[1]).parent), "") + str(code)


def bench_same() -> None:
    phrases = range(1, len(read_songbook(SONGBOOK.read_bytes()).entries) + 1)
    asked = [[str(SONGBOOK), "--tune", str(n)] for n in phrases] + [[str(path)] for path in _tunes()]
    for keep in KEEPS:
        for school in SCHOOLS:
            digest = hashlib.sha256()
            for words in asked:
                digest.update(_printed(["plan", *words, "--school", school, "--keep", keep, "--json"]).encode())
            row(f"{len(asked)} phrases, {school}, kept {keep}", digest.hexdigest()[:32])
