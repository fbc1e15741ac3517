"""Half a minute twice of a simulated player at the real window, each sitting a process of its own: no crash, exception or warning of
the toolkit, nothing stuck, and what is saved at the end reads the same."""

from __future__ import annotations

import json
import subprocess
import sys

SEEDS, EACH_S, LATEST_S = (3, 8), 30, 400


def test_two_sittings():
    words = [[sys.executable, "-m", "tests.sitting", str(seed), str(EACH_S)] for seed in SEEDS]
    running = [subprocess.Popen(w, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) for w in words]
    for seed, process in zip(SEEDS, running, strict=True):
        out, err = process.communicate(timeout=LATEST_S)
        assert process.returncode == 0, f"seed {seed}: {err[-3000:]}"
        report = json.loads(out)
        assert not report["faults"], f"seed {seed}: " + "\n".join(f"{k}: {w}" for k, w in report["faults"].items())
        assert report["commands"] > 60  # it did something
