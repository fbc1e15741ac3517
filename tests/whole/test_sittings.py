"""Eighty commands twice of a simulated player at the real window, each sitting a process of its own: no crash, exception or warning
of the toolkit, nothing stuck, and what is saved at the end reads the same."""

from __future__ import annotations

import json
import subprocess
import sys

SEEDS = (3, 8)
COMMANDS = 80
"""how many commands a sitting gives, however long the machine takes over them"""
LATEST_S = 400
"""when a sitting is stuck"""


def test_two_sittings():
    words = [[sys.executable, "-m", "tests.sitting", str(seed), str(LATEST_S), str(COMMANDS)] for seed in SEEDS]
    running = [subprocess.Popen(w, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) for w in words]
    for seed, process in zip(SEEDS, running, strict=True):
        out, err = process.communicate(timeout=LATEST_S)
        assert process.returncode == 0, f"seed {seed}: {err[-3000:]}"
        report = json.loads(out)
        assert not report["faults"], f"seed {seed}: " + "\n".join(f"{k}: {w}" for k, w in report["faults"].items())
        assert report["commands"] == COMMANDS
