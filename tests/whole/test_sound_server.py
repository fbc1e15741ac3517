"""Playing and recording on a real sound server, whose microphone hears its loudspeaker."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import time

import pytest

pytestmark = pytest.mark.skipif(not shutil.which("pulseaudio"), reason="needs the sound server pulseaudio")
MODULES = (
    "module-null-sink sink_name=out rate=44100 sink_properties=device.description=Loudspeaker",
    "module-remap-source master=out.monitor source_name=mic source_properties=device.description=Microphone",
)


@pytest.fixture
def server(tmp_path):
    """The environment of a program that finds only this server."""
    place = tmp_path / "native"
    env = {**os.environ, "HOME": str(tmp_path), "XDG_RUNTIME_DIR": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path)}
    loaded = [word for one in (f"module-native-protocol-unix socket={place}", *MODULES) for word in ("-L", one)]
    process = subprocess.Popen(
        ["pulseaudio", "-n", "--daemonize=no", "--exit-idle-time=-1", "--use-pid-file=no", *loaded],
        env=env, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    end = time.monotonic() + 20
    while not place.exists() and process.poll() is None and time.monotonic() < end:
        time.sleep(0.05)
    assert place.exists(), "the sound server did not begin"
    yield process, {**env, "PULSE_SERVER": f"unix:{place}", "PULSE_SINK": "out", "PULSE_SOURCE": "mic"}
    process.terminate()
    process.wait(20)


def test_a_server_that_ends_takes_nothing_with_it(server):
    process, env = server
    command = [sys.executable, "-m", "tests.sounding", "away"]
    with subprocess.Popen(command, env=env, stdin=-1, stdout=-1, stderr=-1, text=True) as program:
        assert program.stdout.readline() == "playing\n"
        process.kill()
        process.wait(20)
        said, errors = program.communicate("\n", timeout=120)
    assert program.returncode == 0, errors[-2000:]
    assert said == "gone once\nThe sound server is away: played silently, in time True None\n"


def test_it_sounds_is_heard_and_never_crashes(server):
    """Begun and broken off at any moment; played to its end and recorded; round and round beside a busy interface; the latency from
    playing to hearing is the same each time."""
    _, env = server
    done = subprocess.run(
        [sys.executable, "-m", "tests.sounding"], env=env, capture_output=True, text=True, timeout=600, check=False
    )
    assert done.returncode == 0, done.stderr[-2000:]
    found = json.loads(done.stdout.splitlines()[-1])
    assert "Loudspeaker" in found["output"] and "Microphone" in found["input"]
    assert found["likeness"] > 0.9
    assert found["last"] > 0.05, "a round that was over was the last"
    assert found["least_lost"] < 0.5, "what is played or recorded while the interface is busy is lost"
    assert found["alike"] and 0.0 < min(found["latencies_s"]) < 0.3
