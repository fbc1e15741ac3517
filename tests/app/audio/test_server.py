"""Whether the sound server answers is told from its socket."""

from __future__ import annotations

import subprocess
import sys

import pytest

from dromic.app.audio import server

LISTEN = """
import socket, sys
with socket.socket(socket.AF_UNIX) as one:
    one.bind(sys.argv[1])
    one.listen()
    print("there", flush=True)
    sys.stdin.read()
"""


@pytest.fixture
def native(tmp_path, monkeypatch):
    """Where a server may listen, and what begins one there."""
    place = tmp_path / "native"
    monkeypatch.setattr(server, "_Seen", type("_Seen", (), {"process": None, "since": 0.0}))
    monkeypatch.setenv("PULSE_SERVER", f"unix:{place}")
    begun = []

    def begin():
        place.unlink(missing_ok=True)
        one = subprocess.Popen([sys.executable, "-c", LISTEN, str(place)], stdin=-1, stdout=-1)
        begun.append(one)
        assert one.stdout.readline() == b"there\n"
        return one

    yield begin
    for one in begun:
        one.kill()
        one.wait()
        one.stdin.close()
        one.stdout.close()


def test_a_server_that_went_and_came_is_given_time_to_be_found_again(native, monkeypatch):
    one = native()
    assert server.answers() and server.answers()
    one.kill()
    one.wait()
    assert not server.answers()
    native()
    assert not server.answers()
    monkeypatch.setattr(server, "_FOUND_AGAIN_S", -1.0)
    assert server.answers()


def test_one_begun_anew_unseen_is_noticed_by_who_it_is(native):
    one = native()
    assert server.answers()
    one.kill()
    one.wait()
    native()
    assert not server.answers()


def test_where_nothing_can_be_told_a_device_may_be_begun(monkeypatch, tmp_path):
    monkeypatch.setattr(server, "_Seen", type("_Seen", (), {"process": None, "since": 0.0}))
    monkeypatch.setenv("PULSE_SERVER", "tcp:elsewhere")
    assert server.answers()
    monkeypatch.delenv("PULSE_SERVER")
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    assert server.place() is None and server.answers()
