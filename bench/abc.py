"""`./run bench --abc`: every ABC tune of the collections that a notation library ships, as read here and as played by abc2midi
(Debian's abcmidi), an independent reader: number of notes, pitches (octaves left out) and onsets."""

from __future__ import annotations

import io
import re
import shutil
import subprocess
import tempfile
import time
from collections import Counter
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from bench.lines import row
from dromic.core.music.phrase import Phrase

COLLECTIONS = {"ryansMammoth": 1, "oneills1850": 9, "airdsAirs": 10, "essenFolksong": 120, "nottingham-dataset": 1}
"""collections, and every which tune of each"""
SAME = Fraction(1, 24)
"""of a quarter: onsets closer than this are the same, a chord's spread among them"""
Heard = list[tuple[Fraction, int]]
"""onset in quarters and pitch of every note, in order"""
_ORNAMENTS = re.compile(r'\{[^}\n]*\}|"[^"\n]*"|![^!\n]*!|[~TJM.uvH]+(?=[\^_=\[(]*[A-Ga-g])')


@dataclass(frozen=True)
class Compared:
    """Whether two readings agree."""

    count: bool
    pitches: bool
    onsets: bool

    @property
    def all(self) -> bool:
        return self.count and self.pitches and self.onsets


def tunes_of(folder: Path) -> list[tuple[str, str]]:
    """(name, text) of every tune of a collection."""
    found = []
    for path in sorted(folder.glob("*.abc")):
        data = path.read_bytes()
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError:
            text = data.decode("latin-1")
        starts = [m.start() for m in re.finditer(r"^X:", text, re.MULTILINE)]
        found += [
            (f"{path.name} {n}", text[a:b])
            for n, (a, b) in enumerate(zip(starts, [*starts[1:], None], strict=False), 1)
        ]
    return found


def played_by_peer(text: str) -> Heard | None:
    """What abc2midi plays of a tune: without the rhythm it would swing by, without ornaments that it would play out."""
    import mido

    lines = [line for line in text.splitlines() if not line.startswith(("R:", "%%MIDI"))]
    plain = [line if re.match(r"[A-Za-z]:", line) else _bare(line) for line in lines]
    with tempfile.TemporaryDirectory() as folder:
        tune, out = Path(folder) / "t.abc", Path(folder) / "t.mid"
        at = next((n for n, line in enumerate(plain) if line.startswith("K:")), 0)
        plain[at + 1 : at + 1] = ["%%MIDI gchordoff", "%%MIDI chordattack 0"]
        tune.write_text("\n".join(plain) + "\n")
        subprocess.run(["abc2midi", str(tune), "-o", str(out), "-NFER"], capture_output=True, timeout=20, check=False)
        if not out.exists():
            return None
        file = mido.MidiFile(file=io.BytesIO(out.read_bytes()))
    notes: Heard = []
    for track in file.tracks:
        now = 0
        for message in track:
            now += message.time
            if message.type == "note_on" and message.velocity:
                notes.append((Fraction(now, file.ticks_per_beat), message.note))
    return sorted(notes)


def _bare(line: str) -> str:
    return _ORNAMENTS.sub("", line)


def read_here(phrase: Phrase) -> Heard:
    """What is read, repeats played out, grace notes left out."""
    full = phrase.unrolled()
    return sorted((e.onset, n.pitch) for e in full.events for n in e.notes if "grace" not in n.marks)


def compare(ours: Heard, theirs: Heard) -> Compared:
    """Whether two readings hold the same, octaves and the very start left out."""
    count = len(ours) == len(theirs)
    if not count or not ours:
        return Compared(count, False, False)
    first, other = ours[0][0], theirs[0][0]
    onsets = all(abs((a - first) - (b - other)) < SAME for (a, _), (b, _) in zip(ours, theirs, strict=True))
    pitches = (
        Counter((round(8 * (a - first)), p % 12) for a, p in ours)
        == Counter((round(8 * (a - other)), p % 12) for a, p in theirs)
        if onsets
        else [p % 12 for _, p in ours] == [p % 12 for _, p in theirs]
    )
    return Compared(count, pitches, onsets)


def _leaves_the_standard(text: str) -> str:
    """The clause of the standard 2.1 (from memory) that abc2midi does not follow in a tune that differs; empty for none known."""
    body = re.sub(r'"[^"\n]*"|%.*', "", text.split("\nK:", 1)[-1])
    if "[|]" in body:
        return "4.8: [|] is an invisible bar line; abc2midi takes it for a chord"
    for after in re.split(r"\|\||\|\]|(?<=:\|2)", body)[1:]:
        start, end = re.search(r"\|:|::", after), re.search(r":\|", after)
        if end and (start is None or end.start() < start.start()):
            return "4.8: a repeat without a start goes back to the latest double bar or repeat; abc2midi goes elsewhere"
    return ""


def bench_abc(list_all: bool = False) -> None:
    """All of them, a row a collection; with the names of those that differ."""
    import music21

    if shutil.which("abc2midi") is None:
        row("abc2midi is not here", "install the Debian package abcmidi")
        return
    from dromic.formats.abc.abc_read import read_abc

    corpus = Path(music21.__file__).parent / "corpus"
    every: Counter[str] = Counter()
    left_out: Counter[str] = Counter()
    differing = []
    for name, every_nth in COLLECTIONS.items():
        counts: Counter[str] = Counter()
        took = 0.0
        for tune, text in tunes_of(corpus / name)[::every_nth]:
            theirs = played_by_peer(text)
            if theirs is None:
                continue
            counts["tunes"] += 1
            start = time.perf_counter()
            ours = read_here(replace(read_abc(text.encode()), tempo=120.0))
            took += time.perf_counter() - start
            found = compare(ours, theirs)
            for what in ("count", "pitches", "onsets", "all"):
                counts[what] += getattr(found, what)
            if not found.all:
                clause = _leaves_the_standard(text)
                left_out[clause] += bool(clause)
                differing.append((name, tune, clause or f"{len(ours)} notes against {len(theirs)}; {found}"))
        every += counts
        told = ", ".join(str(counts[k]) for k in ("tunes", "count", "pitches", "onsets", "all"))
        row(f"{name}: tunes, same number, pitches, onsets, all", told, f"read in {took:.1f} s")
    row("all", f"{every['all']} of {every['tunes']}, {every['all'] / max(1, every['tunes']):.1%}")
    for clause, count in left_out.items():
        if clause:
            row(f"  left out, {clause}", f"{count}")
    rest = every["tunes"] - left_out.total()
    row("of the rest", f"{every['all']} of {rest}, {every['all'] / max(1, rest):.1%}", "aim: at least 97 %")
    row("left out", f"{left_out.total() / max(1, every['tunes']):.1%}", "aim: at most 5 %")
    for name, tune, what in differing if list_all else differing[:10]:
        row(f"  {name} {tune}", what)
