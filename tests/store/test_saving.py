"""Saving and recovery: a file is whole whatever happens, and unsaved work outlives its window."""

from __future__ import annotations

import errno
import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from dromic.core.values.errors import DromicError
from dromic.store.recovery import Slot, leftovers
from dromic.store.saving import save

SAVER = """
import sys
from pathlib import Path
from dromic.store.saving import save
path = Path(sys.argv[1])
n = 0
while True:
    n += 1
    save(path, (str(n % 10) * 3_000_000).encode())
    if n == 1:
        print("going", flush=True)
"""


def test_a_kill_while_saving_leaves_a_whole_file(tmp_path: Path):
    path = tmp_path / "songs.dromic"
    chance = random.Random(7)
    for _ in range(12):
        process = subprocess.Popen([sys.executable, "-c", SAVER, str(path)], stdout=subprocess.PIPE)
        assert process.stdout is not None and process.stdout.readline() == b"going\n"
        time.sleep(chance.random() * 0.05)
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        content = path.read_bytes()
        assert len(content) == 3_000_000 and len(set(content)) == 1


def test_a_failed_save_leaves_the_old_file_and_nothing_else(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    path = tmp_path / "songs.dromic"
    save(path, b"old")

    def full(_handle: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(DromicError, match=r"songs\.dromic: not saved: the disk is full"):
        save(path, b"new")
    assert path.read_bytes() == b"old" and [p.name for p in tmp_path.iterdir()] == ["songs.dromic"]


def test_a_missing_folder_and_a_read_only_file_are_named(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    with pytest.raises(DromicError, match="no such folder"):
        save(tmp_path / "gone" / "x.dromic", b"new")
    path = tmp_path / "x.dromic"
    path.write_bytes(b"old")
    monkeypatch.setattr(os, "access", lambda *_: False)  # root may write whatever the mode says
    with pytest.raises(DromicError, match="may not be written"):
        save(path, b"new")
    assert path.read_bytes() == b"old"


def test_saving_keeps_permissions_and_follows_a_link(tmp_path: Path):
    path, link = tmp_path / "x.dromic", tmp_path / "link.dromic"
    path.write_bytes(b"old")
    path.chmod(0o640)
    link.symlink_to(path)
    save(link, b"new")
    assert link.is_symlink() and path.read_bytes() == b"new" and path.stat().st_mode & 0o777 == 0o640


KEEPER = """
import sys, time
from pathlib import Path
from dromic.store.recovery import Slot
slot = Slot(Path(sys.argv[1]))
slot.keep(b"unsaved work", Path("/music/x.dromic"))
print("kept", flush=True)
time.sleep(60)
"""


def test_work_outlives_a_killed_window_and_not_a_closed_one(tmp_path: Path):
    own = Slot(tmp_path)
    own.keep(b"mine", None)
    process = subprocess.Popen([sys.executable, "-c", KEEPER, str(tmp_path)], stdout=subprocess.PIPE)
    assert process.stdout is not None and process.stdout.readline() == b"kept\n"
    assert leftovers(tmp_path) == []  # both windows are alive
    process.send_signal(signal.SIGKILL)
    process.wait()
    process.stdout.close()
    (found,) = leftovers(tmp_path)
    assert found.data == b"unsaved work" and found.path == Path("/music/x.dromic")
    found.forget()
    own.close()
    assert leftovers(tmp_path) == [] and not any(tmp_path.iterdir())


def test_a_damaged_copy_is_passed_over(tmp_path: Path):
    (tmp_path / "aa.unsaved").write_bytes(b'{"path": nu')
    assert leftovers(tmp_path) == []
