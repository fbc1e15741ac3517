"""Playing through the real window: it sounds (or keeps time), the views follow, and it plays what is selected."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic.app.audio.output import SimulatedOutput, _Stream, best_output
from dromic.sound.tape import taped
from tests.app.window.test_edges import long_phrase


@pytest.fixture
def window(demo_window):
    output = demo_window.transport.output = SimulatedOutput(demo_window)
    output.ended.connect(demo_window.transport.stop)
    return demo_window


def test_an_output_that_is_not_there_keeps_the_time(qtbot):
    output = SimulatedOutput()
    with qtbot.waitSignal(output.ended, timeout=3000):
        output.start(taped(np.zeros(4410), 44100), loop=False)
    assert output.seconds() == pytest.approx(0.1)
    output.start(taped(np.zeros(4410), 44100), loop=True)
    qtbot.wait(250)
    assert 0 <= output.seconds() < 0.1
    output.stop()


def test_some_output_is_always_found(qapp):
    assert best_output().label


def test_a_tape_joins_its_end_to_its_start(qapp):
    tape = _Stream(memoryview(b"abcdef"), True, qapp)
    assert tape.readData(4) + tape.readData(4) + tape.readData(15) == b"abcdefabcdefabcdefabcde"
    assert tape.readData(1) == b"f"
    assert tape.bytesAvailable() > 0  # or a device thinks that it was all
    once = _Stream(memoryview(b"abc"), False, qapp)
    assert once.readData(9) + once.readData(9) == b"abc"


def test_the_chart_follows_and_stops_at_the_end(qtbot, window):
    seen = []
    window.transport.moved.connect(lambda at: seen.append((at, window.plan_place.chart.playing)))
    window.transport.speed.setValue(200)
    QTest.keyClick(window.plan_place.chart, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: window.transport.playing, timeout=10000)
    assert window.transport.where.text().startswith("No sound device")
    qtbot.waitUntil(lambda: not window.transport.playing, timeout=20000)
    times = [float(at) for at, _ in seen if at is not None]
    assert times == sorted(times) and times[0] < 1 and times[-1] > 14
    phrase = window.plan.request.phrase
    assert all(
        second == pytest.approx(float(at) * 60 / phrase.tempo, abs=1e-6) for at, second in seen if at is not None
    )
    assert window.plan_place.chart.playing is None


def test_a_selection_is_played_alone_and_round(qtbot, window):
    window.pages.go_to("Write")
    place = window.pages.write
    QTest.keyClick(place.grid, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(place.grid, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    window.transport.loop.setChecked(True)
    window.transport.count_in.setChecked(True)
    QTest.keyClick(place.grid, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: window.transport.playing, timeout=10000)
    made = window.transport.rendering
    assert made.written == (4,) and made.music_s == pytest.approx((4 + 1) * 60 / 132, abs=0.01)
    assert made.length == round(made.music_s * made.rate)
    qtbot.waitUntil(lambda: place.grid.playing is not None, timeout=10000)
    assert 4 <= place.grid.playing < 5
    QTest.keyClick(window, Qt.Key.Key_F5)
    assert not window.transport.playing and place.grid.playing is None


def test_a_long_phrase_sounds_long_before_all_of_it_is_made(qtbot, window, monkeypatch):
    """3000 notes at a fifth of their tempo: forty minutes."""
    tapes = []
    monkeypatch.setattr(window.transport.output, "start", lambda tape, loop: tapes.append(tape))
    window.open_book.edit(long_phrase(3000), "a long one")
    window.transport.speed.setValue(20)
    window.transport.play()
    qtbot.waitUntil(lambda: window.transport.playing, timeout=10000)
    (tape,) = tapes
    assert tape.length_s > 2400 and tape.data[: 3 * tape.rate].any()
    assert not tape.data[-600 * tape.rate :].any()  # the rest is still to come
    qtbot.waitUntil(lambda: bool(tape.data[20 * tape.rate : 25 * tape.rate].any()), timeout=10000)
    window.transport.stop()
    qtbot.waitUntil(lambda: not window.transport.worker.running, timeout=10000)


def test_what_is_not_there_cannot_be_played(qtbot, window):
    window.open_book.add_phrase()
    window.transport.play()
    qtbot.waitUntil(lambda: "nothing to play" in window.notice.text(), timeout=5000)
    assert window.transport.play_button.text() == "Play"
