"""Plays to and records from the sound server it finds, whose microphone hears its loudspeaker, as the program does.

`python -m tests.sounding` prints what came of it as JSON; it is a process of its own, so that a crash ends it and is seen.
`python -m tests.sounding away` plays, waits for a line while the server is ended, plays and records again and prints what it says.
"""

from __future__ import annotations

import faulthandler
import json
import os
import random
import sys
import time
from collections.abc import Callable
from itertools import pairwise

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtWidgets import QApplication

from dromic.app.audio.input import RATE, best_input
from dromic.app.audio.latency import LatencyMeasure
from dromic.app.audio.output import best_output
from dromic.core.music.songbook import empty_phrase
from dromic.formats.text.quick_line import parse
from dromic.sound.render import RenderRequest, render
from dromic.sound.tape import Tape
from tests.phrases import GUITAR

STARTS, LATEST_S = 15, 150.0
TIMES, ALIKE_S = 6, 0.1  # a busy machine may delay a click: two of so many latencies are to be alike
BUSY, BUSY_S, ROUNDS = (
    6,
    1.5,
    4.5,
)  # a busy machine may lose some of one round, a waiting interface would lose its time in each


def main() -> int:
    faulthandler.enable()
    app = QApplication([])
    output, input_ = best_output(), best_input()
    assert input_ is not None, "the server has no microphone"

    def pump(seconds: float) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            app.processEvents()
            time.sleep(0.003)

    def until(true: Callable[[], bool]) -> None:
        end = time.monotonic() + LATEST_S
        while not true() and time.monotonic() < end:
            pump(0.02)
        assert true()

    phrase = parse("6.0:q 5.2 4.2 3.1", empty_phrase("x", GUITAR, 1), GUITAR).phrase
    made = render(phrase, RenderRequest(120.0, tail=False))
    tape = Tape(made.length, made.rate, made.pieces()).put_down()
    rnd = random.Random(5)
    if "away" in sys.argv:
        gone: list[int] = []
        input_.gone.connect(lambda: gone.append(input_.position()))
        input_.start()
        output.start(tape, True)
        pump(0.5)
        print("playing", flush=True)
        sys.stdin.readline()
        until(lambda: bool(gone))
        print("gone once" if len(gone) == 1 and gone[0] == len(input_.stop()) else gone, flush=True)
        output.start(tape, True)
        input_.start()
        pump(0.5)
        input_.stop()
        print(output.label, output.elapsed_s() > 0, best_input(), flush=True)
        return 0
    for _ in range(STARTS):  # begun and broken off at any moment
        output.start(tape, rnd.random() < 0.5)
        input_.start()
        pump(rnd.uniform(0.0, 0.2))
        input_.stop()
        output.stop()
    ended: list[float] = []
    output.ended.connect(lambda: ended.append(time.monotonic()))
    input_.start()
    until(lambda: input_.position() > 0)
    output.start(tape, False)
    until(lambda: bool(ended))
    pump(0.5)
    heard = input_.stop()
    lost: list[float] = []
    while len(lost) < BUSY and not (
        lost and lost[-1] < BUSY_S / 2
    ):  # round and round, while the interface is busy for a moment
        input_.start()
        output.start(tape, True)
        until(lambda: output.elapsed_s() > 0.2 and input_.position() > 0)
        pump(1.0)
        began, played, came = time.monotonic(), output.elapsed_s(), input_.position()
        time.sleep(BUSY_S)
        until(lambda: output.elapsed_s() > ROUNDS * tape.length_s)
        passed = time.monotonic() - began
        lost.append(max(passed - (output.elapsed_s() - played), passed - (input_.position() - came) / RATE))
        last = float(np.abs(input_.between(input_.position() - RATE // 2, input_.position())).max())
        input_.stop()
        output.stop()
    measure, latencies = LatencyMeasure(), []
    measure.measured.connect(latencies.append)
    measure.failed.connect(lambda words: measure.start())  # what was not heard well is tried again
    while len(latencies) < TIMES and not _alike([latency.seconds for latency in latencies]):
        before = len(latencies)
        measure.start()
        until(lambda before=before: len(latencies) > before)
    measure.close()
    print(json.dumps({
        "output": output.label, "input": input_.label, "likeness": _likeness(heard, made.samples()),
        "latencies_s": [one.seconds for one in latencies], "alike": _alike([one.seconds for one in latencies]), "last": last,
        "least_lost": min(lost) / BUSY_S,
    }))  # fmt: skip
    return 0


def _alike(latencies: list[float]) -> bool:
    """Whether two of them are."""
    found = sorted(latencies)
    return any(after - before < ALIKE_S for before, after in pairwise(found))


def _likeness(heard: np.ndarray, played: np.ndarray) -> float:
    """How much of what was played is found in what was heard, 1 for all of it: the median of pieces of a fifth of a second, since a
    busy machine may leave out a few samples here and there."""
    found, long = [], RATE // 5
    for at in range(0, len(played) - long, long):
        piece = played[at : at + long]
        size = 1 << (len(heard) + long).bit_length()
        match = np.fft.irfft(np.fft.rfft(heard, size) * np.conj(np.fft.rfft(piece, size)), size)[: len(heard)]
        place = int(match.argmax())
        there = heard[place : place + long]
        found.append(float(there @ piece[: len(there)] / np.sqrt((there @ there) * (piece @ piece) + 1e-12)))
    return float(np.median(found))


if __name__ == "__main__":
    sys.exit(main())
