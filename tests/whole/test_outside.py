"""What is around the program: no display, an output that takes nothing, who may read what it writes."""

import os
import subprocess
import sys

import pytest

from tests.broken import DEMO

BARE = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}


def cli(*words, **options):
    return subprocess.run(
        [sys.executable, "-m", "dromic.cli", *map(str, words)],
        stderr=subprocess.PIPE,
        text=True,
        check=False,
        **options,
    )


@pytest.mark.parametrize(("display", "words"), [({}, "no display"), ({"DISPLAY": ":7777"}, "cannot be opened")])
def test_without_a_display_one_sentence_and_status_2(display, words):
    done = subprocess.run(
        [sys.executable, "-m", "dromic.app"], env={**BARE, **display}, capture_output=True, text=True, check=False
    )
    assert done.returncode == 2 and words in done.stderr and done.stderr.count("\n") == 1 and not done.stdout


def test_an_output_that_is_full_or_closed_is_one_sentence_and_one_that_is_left_is_none():
    with open("/dev/full", "w") as full:  # noqa: PTH123
        done = cli("plan", DEMO, stdout=full)
    assert (
        done.returncode == 2
        and done.stderr == "dromic: the output cannot be written (No space left on device); send it elsewhere\n"
    )
    closed = cli("schools", preexec_fn=lambda: os.close(1))
    assert closed.returncode == 2 and "it is closed" in closed.stderr and "Traceback" not in closed.stderr
    reader, writer = os.pipe()
    os.close(reader)
    left = cli("plan", DEMO, stdout=writer)
    os.close(writer)
    assert left.returncode == 0 and left.stderr == ""


def test_what_it_keeps_is_its_owners_and_what_is_saved_is_as_the_user_has_it(tmp_path):
    log, out = tmp_path / "new folder" / "log.sqlite", tmp_path / "out.line"
    add = cli("log", "add", "--db", log, "--phrase", "a", "--drill", "b", "--tempo", 60, umask=0o022)
    assert add.returncode == 0 and log.stat().st_mode & 0o777 == 0o600 and log.parent.stat().st_mode & 0o777 == 0o700
    assert cli("convert", DEMO, out, umask=0o022).returncode == 0
    assert out.stat().st_mode & 0o777 == 0o644
