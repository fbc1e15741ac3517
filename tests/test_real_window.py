"""The program itself in a real window on a virtual screen, driven by real key presses."""

import os
import shutil
import subprocess
import sys
import time

import pytest

from dromic.app.main import demo_songbook

pytestmark = pytest.mark.skipif(
    not (shutil.which("Xvfb") and shutil.which("xdotool")) and "CI" not in os.environ, reason="needs Xvfb and xdotool"
)


def wait_for(check, seconds=40):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        found = check()
        if found:
            return found
        time.sleep(0.2)
    raise AssertionError("nothing happened in time")


@pytest.fixture
def screen():
    reading, writing = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writing), "-screen", "0", "1280x800x24"],
        pass_fds=[writing],
        stderr=subprocess.DEVNULL,
    )
    os.close(writing)
    with os.fdopen(reading) as pipe:
        number = pipe.readline().strip()
    yield f":{number}"
    server.terminate()
    server.wait(10)


def test_open_the_demo_find_what_hurts_and_quit(screen, tmp_path):
    env = {**os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb", "XDG_CONFIG_HOME": str(tmp_path)}

    def xdo(*words):
        told = subprocess.run(["xdotool", *words], env=env, capture_output=True, text=True, timeout=20, check=False)
        return told.stdout.strip()

    program = subprocess.Popen(
        [sys.executable, "-m", "dromic.app", str(demo_songbook())], env=env, stderr=subprocess.PIPE, text=True
    )
    try:
        window = wait_for(lambda: xdo("search", "--onlyvisible", "--name", "Lantern Gate")).splitlines()[0]
        xdo("windowfocus", window)
        xdo("key", "F8")
        xdo("key", "ctrl+Next")
        wait_for(lambda: xdo("search", "--onlyvisible", "--name", "Quayside Reel"))
        xdo("key", "ctrl+t")
        xdo("key", "ctrl+q")
        assert program.wait(20) == 0
        assert "Traceback" not in program.stderr.read()
    finally:
        program.kill()
        program.wait()
        program.stderr.close()
    remembered = (tmp_path / "dromic" / "window.ini").read_text()
    assert "theme=dark" in remembered


def test_write_a_riff_with_real_keys_save_it_and_find_it_again(screen, tmp_path):
    env = {
        **os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb", "XDG_CONFIG_HOME": str(tmp_path),
        "XDG_STATE_HOME": str(tmp_path / "state"),
    }  # fmt: skip
    from dromic import presets
    from dromic.core.songbook import empty_songbook
    from dromic.formats.document import read_songbook, songbook_bytes

    path = tmp_path / "mine.dromic"
    path.write_bytes(songbook_bytes(empty_songbook(presets.instruments()["guitar"])))

    def xdo(*words):
        told = subprocess.run(["xdotool", *words], env=env, capture_output=True, text=True, timeout=20, check=False)
        return told.stdout.strip()

    program = subprocess.Popen(
        [sys.executable, "-m", "dromic.app", str(path)], env=env, stderr=subprocess.PIPE, text=True
    )
    try:
        window = wait_for(lambda: xdo("search", "--onlyvisible", "--name", "Phrase 1")).splitlines()[0]
        xdo("windowfocus", window)
        xdo("key", "F2")
        time.sleep(1.0)
        for key in ("5", "h", "Right", "7", "Right", "Up", "1", "2", "m", "Right", "c"):
            xdo("key", key)
        wait_for(lambda: xdo("search", "--onlyvisible", "--name", r"mine.dromic\*"))
        xdo("key", "ctrl+s")
        wait_for(lambda: read_songbook(path.read_bytes()).phrases[0].events)
        xdo("key", "ctrl+q")
        assert program.wait(20) == 0
        assert "Traceback" not in program.stderr.read()
    finally:
        program.kill()
        program.wait()
        program.stderr.close()
    events = read_songbook(path.read_bytes()).phrases[0].events
    assert [(n.string, n.fret, n.attack) for e in events for n in e.notes] == [
        (6, 5, "hammer"), (6, 7, None), (5, 12, None), (5, 12, None),
    ]  # fmt: skip
    assert "palm-mute" in events[2].notes[0].marks
