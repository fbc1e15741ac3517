"""Every tune of two large collections of old fiddle tunes that a notation library ships: real input nobody here wrote."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np

from bench.lines import request, row
from dromic.core.music.phrase import Phrase
from dromic.core.search.planner import plan
from dromic.core.values.errors import DromicError


def simple(phrase: Phrase) -> bool:
    return all(bar.metre.lower in (2, 4) for bar in phrase.bars)


def bench_collections() -> None:
    import music21

    from dromic.formats.table import read, titles

    corpus = Path(music21.__file__).parent / "corpus"
    for name in ("ryansMammoth", "oneills1850"):
        planned = refused = far = notes = beats_up = 0
        ceilings: list[float] = []
        reading = planning = 0.0
        for path in sorted((corpus / name).glob("*.abc")):
            for tune in range(1, len(titles(path)) + 1):
                began = time.perf_counter()
                try:
                    wanted = request(read(path, tune), "pulse")
                except DromicError:
                    refused += 1
                    continue
                finally:
                    reading += time.perf_counter() - began
                began = time.perf_counter()
                try:
                    found = plan(wanted)
                except DromicError as error:
                    assert "outside the range" in str(error), (path.name, tune, str(error))
                    far += 1
                    continue
                planning += time.perf_counter() - began
                planned += 1
                beats_up += sum(1 for f in found.findings if f.rule == "beat-not-down" and simple(wanted.phrase))
                notes += len(found.notes)
                if found.ceiling is not None:
                    ceilings.append(found.ceiling)
        row(f"{name}: planned, out of range, refused", f"{planned}, {far}, {refused}")
        row(
            "  tunes a second, planned (reading apart)",
            f"{planned / planning:.1f}",
            f"{notes} notes; reading took {reading:.0f} s",
        )
        marks = np.percentile(ceilings, [5, 25, 50, 75, 95])
        row("  tunes in 2/4, 4/4 or 2/2 with a beat on an up-stroke", f"{beats_up}", "aim: none")
        row("  ceilings at 5, 25, 50, 75, 95 %", " ".join(f"{m:.0f}" for m in marks), "quarters a minute, estimates")
