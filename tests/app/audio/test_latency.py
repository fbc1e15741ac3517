"""The way from playing to hearing, kept from day to day, whatever stands in the settings."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QSettings

from dromic.app.audio.latency import Latencies, LatencyMeasure
from dromic.app.listen.input_dialog import InputDialog


def ini(path):
    return QSettings(str(path), QSettings.Format.IniFormat)


def test_what_is_measured_is_there_tomorrow_for_its_own_input(tmp_path):
    first = ini(tmp_path / "w.ini")
    Latencies(first).keep("a microphone", 0.0345)
    Latencies(first).keep("a line", -0.002)
    first.sync()
    again = Latencies(ini(tmp_path / "w.ini"))
    assert again.of("a microphone") == pytest.approx(0.0345) and again.of("a line") == pytest.approx(-0.002)
    assert again.of("another") is None
    again.keep("a line", None)
    assert again.of("a line") is None and again.of("a microphone") is not None


@pytest.mark.parametrize("held", ["text", 3, ["a", "b"], {"a microphone": "far"}, {"a microphone": 7.0}])
def test_settings_that_say_something_else_are_as_if_nothing_was_measured(tmp_path, held):
    settings = ini(tmp_path / "w.ini")
    settings.setValue("ways", held)
    assert Latencies(settings).of("a microphone") is None
    assert Latencies(None).of("a microphone") is None


def test_without_an_input_nothing_is_measured_and_it_is_said(qtbot, monkeypatch):
    monkeypatch.setattr("dromic.app.audio.latency.best_input", lambda parent: None)
    measure = LatencyMeasure()
    measure.start()
    assert not measure.running and "No input" in measure.label
    measure.close()
    dialog = InputDialog(Latencies(None))
    qtbot.addWidget(dialog)
    assert not dialog.begin.isEnabled() and "until then takes come from files" in dialog.told.text()
    dialog.measure.close()
