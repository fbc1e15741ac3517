"""Two devices that begin when they like: where what is played lies in what is recorded is told by their counts."""

from __future__ import annotations

import random

import pytest

from dromic.app.audio.input import RATE, SimulatedInput
from dromic.app.audio.output import SimulatedOutput
from dromic.app.audio.sync import _AHEAD_S, Sync


class Devices:
    """A clock with an input that began `recorded_s` ago and hands over pieces, and an output that begins `late_s` after it is told to
    and counts in steps of its buffer."""

    def __init__(self, late_s, piece, step_s):
        self.now, self.late_s, self.piece, self.step_s = 0.0, late_s, piece, step_s
        self.input, self.output = SimulatedInput(), SimulatedOutput()
        self.input.live = self.output.live = True
        self.input.position = lambda: int((self.now + 2.0) * RATE) // self.piece * self.piece
        self.output.elapsed_s = lambda: max(0.0, (self.now - self.late_s) // self.step_s * self.step_s)

    def run(self, sync, seconds):
        rnd, end = random.Random(1), self.now + seconds
        sync.begin(self.input, self.output)
        while self.now < end:
            self.now += rnd.uniform(0.008, 0.014)
            sync.look()


@pytest.mark.parametrize("late_s", [0.01, 0.13, 0.57])
def test_the_front_is_found_however_late_the_output_begins(qapp, late_s):
    devices, sync = Devices(late_s, 441, 0.0058), Sync()
    devices.run(sync, 2.5)
    assert (sync.start / RATE + _AHEAD_S) == pytest.approx(2.0 + late_s, abs=0.008)
    sync.stop()


def test_what_counts_no_samples_of_its_own_begins_when_it_is_told_to(qapp):
    devices, sync = Devices(0.3, 441, 0.0058), Sync()
    devices.output.live = False
    devices.now = 1.0
    sync.begin(devices.input, devices.output)
    assert sync.start == devices.input.position() and not sync._timer.isActive()
    sync.begin(devices.input, None)
    assert sync.start == devices.input.position()


def test_too_few_looks_are_not_trusted(qapp):
    devices, sync = Devices(0.3, 441, 0.0058), Sync()
    devices.run(sync, 0.35)
    assert sync.start == 2 * RATE
    sync.stop()
