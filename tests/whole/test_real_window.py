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
KEPT = {"XDG_CONFIG_HOME": "", "XDG_STATE_HOME": "state", "XDG_DATA_HOME": "data", "XDG_CACHE_HOME": "cache"}
"""where the program keeps what is the user's, and where under a test's own folder"""


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


class Running:
    """The program on a screen, for a `with`; it has to end by itself, without a traceback."""

    def __init__(self, screen, folder, path, title):
        kept = {name: str(folder / under) for name, under in KEPT.items()}
        self.env = {**os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb", **kept}
        self.path, self.title = path, title

    def __enter__(self):
        self.program = subprocess.Popen(
            [sys.executable, "-m", "dromic.app", str(self.path)], env=self.env, stderr=subprocess.PIPE, text=True
        )
        try:
            self.focus(self.window(self.title))
        except BaseException:
            self._end()
            raise
        return self

    def __exit__(self, kind, *_):
        try:
            if kind is None:
                self.keys("ctrl+q")
                assert self.program.wait(20) == 0
                assert "Traceback" not in self.program.stderr.read()
        finally:
            self._end()

    def _end(self):
        self.program.kill()
        self.program.wait()
        self.program.stderr.close()

    def xdo(self, *words):
        told = subprocess.run(
            ["xdotool", *words], env=self.env, capture_output=True, text=True, timeout=20, check=False
        )
        return told.stdout.strip()

    def shows(self, title):
        return self.xdo("search", "--onlyvisible", "--name", title)

    def window(self, title):
        return wait_for(lambda: self.shows(title)).splitlines()[0]

    def focus(self, window):
        self.xdo("windowfocus", "--sync", window)

    def keys(self, *keys):
        for key in keys:
            self.xdo("key", key)


def test_open_the_demo_find_what_hurts_and_quit(screen, tmp_path):
    with Running(screen, tmp_path, demo_songbook(), "Lantern Gate") as seen:
        seen.keys("F8", "ctrl+Next")
        seen.window("Quayside Reel")
        seen.keys("ctrl+t")
    remembered = (tmp_path / "dromic" / "window.ini").read_text()
    assert "theme=dark" in remembered


def test_write_a_riff_with_real_keys_save_it_and_find_it_again(screen, tmp_path):
    from dromic import presets
    from dromic.core.music.songbook import empty_songbook
    from dromic.formats.document.document import read_songbook, songbook_bytes

    path = tmp_path / "mine.dromic"
    path.write_bytes(songbook_bytes(empty_songbook(presets.instruments()["guitar"])))
    with Running(screen, tmp_path, path, "Phrase 1") as seen:
        seen.keys("F2")
        time.sleep(1.0)
        seen.keys("5", "h", "Right", "7", "Right", "Up", "1", "2", "m", "Right", "c")
        seen.window(r"mine.dromic\*")
        seen.keys("ctrl+s")
        wait_for(lambda: read_songbook(path.read_bytes()).phrases[0].events)
    events = read_songbook(path.read_bytes()).phrases[0].events
    assert [(n.string, n.fret, n.attack) for e in events for n in e.notes] == [
        (6, 5, "hammer"), (6, 7, None), (5, 12, None), (5, 12, None),
    ]  # fmt: skip
    assert "palm-mute" in events[2].notes[0].marks


def test_a_remedy_is_done_and_undone_and_a_plan_weighed_kept_and_found_again(screen, tmp_path):
    from dromic.formats.document.document import read_songbook

    path = tmp_path / "mine.dromic"
    shutil.copy(demo_songbook(), path)
    before = read_songbook(path.read_bytes()).entries[0]
    with Running(screen, tmp_path, path, "Lantern Gate") as seen:
        saved, unsaved = r"mine.dromic – Dromic", r"mine.dromic\* – Dromic"

        def remedied():
            seen.keys("F8", "F9")  # remedies are looked for once the plan stands
            return seen.shows(unsaved)

        wait_for(remedied)
        seen.keys("ctrl+s")
        changed = wait_for(lambda: (now := read_songbook(path.read_bytes()).entries[0]) != before and now)
        assert [e.onset for e in changed.phrase.events] == [e.onset for e in before.phrase.events]
        seen.keys("ctrl+z", "ctrl+z", "ctrl+z", "ctrl+z", "ctrl+s")
        wait_for(lambda: read_songbook(path.read_bytes()).entries[0] == before)
        seen.keys("ctrl+shift+z", "ctrl+s")
        wait_for(lambda: read_songbook(path.read_bytes()).entries[0] != before)
        seen.keys("ctrl+z", "ctrl+s")
        wait_for(lambda: read_songbook(path.read_bytes()).entries[0] == before)

        main = seen.window(saved)
        seen.keys("F4")

        def asked():
            seen.keys("ctrl+d")  # asks why, once the plans are made
            return seen.shows("^Keep ")

        seen.focus(wait_for(asked).splitlines()[0])
        seen.xdo("type", "it feels even")
        seen.keys("Return")
        wait_for(lambda: seen.shows(unsaved))
        seen.focus(main)
        seen.keys("ctrl+s")
        kept = wait_for(lambda: read_songbook(path.read_bytes()).entries[0].decision)
        assert kept.why == "it feels even" and len(kept.rejected) >= 10
    with Running(screen, tmp_path, path, "Lantern Gate") as seen:
        assert not seen.shows(unsaved)
    assert read_songbook(path.read_bytes()).entries[0].decision == kept
