"""A recording is on disk while it runs: a killed writer loses no more than its last moment, and what it left is set right."""

import subprocess
import sys
from datetime import datetime

import numpy as np
import pytest
import soundfile

from dromic.core.practice.log_pass import PhraseName
from dromic.core.values.errors import DromicError
from dromic.store.recorder import Recorder, mend
from dromic.store.takes import KeptTake, Takes

RATE = 44100
WRITER = """
import os, signal, sys
import numpy as np
from datetime import datetime
from pathlib import Path
from dromic.store.takes import KeptTake, Takes
takes = Takes(Path(sys.argv[1]))
take = KeptTake(datetime(2026, 11, 25, 19), "Reel", "not kept yet", 100.0, 0.0, 0.0, (), ".flac")
recorder = takes.begin(take, 44100)
noise = np.random.default_rng(1).normal(0, 0.1, 44100 * 5)
for at in range(0, len(noise), 441):
    recorder.write(noise[at : at + 441])
os.kill(os.getpid(), signal.SIGKILL)
"""


def begun(at=19):
    return KeptTake(datetime(2026, 11, 25, at), "Reel", "not kept yet", 100.0, 0.0, 0.0, (), ".flac")


def test_a_killed_writer_loses_less_than_a_second_and_the_next_start_sets_it_right(tmp_path):
    done = subprocess.run([sys.executable, "-c", WRITER, str(tmp_path)], check=False)
    assert done.returncode == -9
    takes = Takes(tmp_path)
    [left] = takes.of(PhraseName("Reel"))
    assert not left.kept and not left.size
    file = next(tmp_path.rglob("*.flac"))
    assert soundfile.info(file).frames > 1e12  # its header lies
    assert takes.mend() == 1 and takes.mend() == 0
    sound, rate = soundfile.read(file)
    assert rate == RATE and 4 * RATE < len(sound) <= 5 * RATE
    meant = np.random.default_rng(1).normal(0, 0.1, RATE * 5)
    assert np.abs(sound - meant[: len(sound)]).max() < 1e-4
    assert takes.of(PhraseName("Reel"))[0].size == file.stat().st_size


def test_what_is_still_being_written_is_left_alone(tmp_path):
    takes, other = Takes(tmp_path), Takes(tmp_path)
    recorder = takes.begin(begun(), RATE)
    recorder.write(np.full(RATE * 2, 0.25))
    assert other.mend() == 0
    recorder.write(np.full(RATE, 0.25))
    recorder.close()
    made = takes.ended(begun())
    assert not made.kept and made.size > 0 and other.mend() == 0
    assert soundfile.info(next(tmp_path.rglob("*.flac"))).frames == 3 * RATE
    # kept, it takes its own place; thrown away it can be brought back
    kept = takes.keep(KeptTake(**{**{f: getattr(made, f) for f in made.__slots__}, "kept": True}), b"fLaC")
    assert takes.of(PhraseName("Reel")) == (kept,)
    takes.throw(kept)
    assert takes.of(PhraseName("Reel")) == ()
    takes.bring_back(kept)
    assert takes.of(PhraseName("Reel")) == (kept,)


def test_only_its_owner_can_read_a_recording(tmp_path):
    recorder = Takes(tmp_path / "takes").begin(begun(), RATE)
    recorder.close()
    file = next(tmp_path.rglob("*.flac"))
    assert file.stat().st_mode & 0o077 == 0 and file.parent.stat().st_mode & 0o077 == 0


def test_a_place_that_takes_nothing_is_said(tmp_path):
    blocked = tmp_path / "file"
    blocked.write_text("")
    with pytest.raises(DromicError, match="nothing can be recorded"):
        Takes(blocked / "takes").begin(begun(), RATE)
    with pytest.raises(DromicError, match="cannot be written"):
        Recorder(tmp_path / "no folder" / "x.flac", RATE)
    (tmp_path / "odd.flac").write_bytes(b"no sound at all")
    assert not mend(tmp_path / "odd.flac") and (tmp_path / "odd.flac").read_bytes() == b"no sound at all"
