"""A recording is lost by nothing a player does: the page turned, another take, no take of this phrase, the window closed."""

import json

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QMessageBox, QPushButton

from dromic import presets
from dromic.app.audio.input import RATE, SimulatedInput
from dromic.app.listen.listen_place import ListenPlace
from dromic.app.window.window import MainWindow
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.formats.document.document import read_songbook
from dromic.sound.take_render import take_sound
from dromic.store.recorder import RecordingBounds
from tests.app.listen.test_listen import listen as listen
from tests.app.listen.test_listen import simulated

NOISE = np.random.default_rng(3).normal(0, 0.05, RATE * 3)


def recorded(qtbot, window, place, samples):
    place.taking.input = SimulatedInput(samples, place)
    place.record.click()
    place.taking.counted_s = 0.0
    place.record.click()


@pytest.fixture
def played(listen):
    window, _ = listen
    played = perform(due_notes(window.plan), presets.listening(), 0.0, 1)
    return (*listen, take_sound(played, window.plan.request.phrase, 1)[0])


def test_a_recording_stands_among_the_takes_until_it_is_kept(qtbot, played):
    window, place, samples = played
    with qtbot.waitSignal(place.taking.heard, timeout=60000):
        recorded(qtbot, window, place, samples)
    [take] = place.keeping.kept()
    assert (
        not take.kept
        and "1 not kept yet" in place.days.told.text()
        and "not kept yet" in place.days.list.item(0).text()
    )
    place.days.keep.click()
    qtbot.waitUntil(lambda: [t.kept for t in place.keeping.kept()] == [True], timeout=20000)
    qtbot.waitUntil(lambda: place.days.told.text().startswith("1 kept, "), timeout=5000)
    assert len(list(place.keeping.takes.folder.rglob("*.flac"))) == 1


def test_turning_the_page_or_another_take_drops_no_recording(qtbot, played):
    window, place, samples = played
    title, name = window.plan.request.phrase.title, window.planning.name
    recorded(qtbot, window, place, samples)
    window.turn_page(1)  # while it is heard
    qtbot.waitUntil(lambda: not place.taking.worker.running, timeout=60000)
    assert place.taking.take is None and len(place.keeping.takes.of(name)) == 1
    window.turn_page(-1)
    qtbot.waitUntil(lambda: window.plan is not None and window.plan.request.phrase.title == title, timeout=20000)
    simulated(qtbot, place, 0)
    [take] = place.keeping.kept()
    assert not take.kept
    with qtbot.waitSignal(place.taking.heard, timeout=60000):
        place.taking.open_kept(take, place.keeping.takes)
    assert place.taking.take.recorded == take


def test_what_is_no_take_of_the_phrase_is_on_disk_all_the_same(qtbot, listen):
    window, place = listen
    with qtbot.waitSignal(place.noticed, timeout=60000) as told:
        recorded(qtbot, window, place, np.zeros(len(NOISE)))
    assert "silent" in told.args[0]
    qtbot.waitUntil(lambda: not place.taking.worker.running, timeout=60000)
    [take] = place.keeping.kept()
    sound, _ = soundfile.read(next(place.keeping.takes.folder.rglob("*.flac")))
    assert not take.kept and len(sound) == len(NOISE)


def test_closing_while_it_records_leaves_it_whole(qtbot, listen):
    window, place = listen
    place.taking.input = SimulatedInput(NOISE, place)
    place.record.click()
    folder, name = place.keeping.takes.folder, window.planning.name
    window.close()
    assert soundfile.info(next(folder.rglob("*.flac"))).frames == len(NOISE)
    assert [t.kept for t in place.keeping.takes.of(name)] == [False]


def test_beside_a_recording_stands_what_was_played(qtbot, listen):
    window, place = listen
    recorded(qtbot, window, place, NOISE)
    qtbot.waitUntil(lambda: not place.taking.worker.running, timeout=60000)
    [file] = place.keeping.takes.folder.rglob("*.played")
    held = json.loads(file.read_text())
    assert [n["string"] for n in held["plan"]["notes"]] == [n.string for n in window.plan.notes]
    [take] = place.keeping.takes.pending()
    [entry] = read_songbook(place.keeping.takes.played(take)).entries
    assert entry == window.open_book.entry and file.stat().st_mode & 0o777 == 0o600


def test_a_recording_ends_at_its_bounds_and_that_is_told_before(tmp_path):
    limits, free = presets.data("limits.toml"), [500e6]
    bounds = RecordingBounds(limits, lambda _: free[0])
    end_s = limits["record_minutes"] * 60
    told = [(s, *bounds.look(s, tmp_path)) for s in range(0, int(end_s) + 1, 5)]
    assert [(s, over) for s, words, over in told if words] == [(end_s - limits["record_told_s"], False), (end_s, True)]
    bounds = RecordingBounds(limits, lambda _: free[0])
    free[0] = 150e6
    assert "150 MB left" in bounds.look(10.0, tmp_path)[0] and bounds.look(20.0, tmp_path) == ("", False)
    free[0] = 90e6
    assert bounds.look(30.0, tmp_path)[1]


def test_at_its_bound_a_recording_is_whole_and_heard(qtbot, listen, monkeypatch):
    _, place = listen
    monkeypatch.setattr(RecordingBounds, "look", lambda self, seconds, folder: ("It ends here", True))
    place.taking.input = SimulatedInput(NOISE, place)
    with qtbot.waitSignal(place.noticed, timeout=20000):
        place.record.click()
    qtbot.waitUntil(lambda: not place.taking.recording, timeout=20000)
    assert soundfile.info(next(place.keeping.takes.folder.rglob("*.flac"))).frames == len(NOISE)


@pytest.mark.parametrize("answer", ["Save", "Discard", "Ignore", "Cancel"])
def test_closing_asks_about_what_is_not_kept(qtbot, listen, monkeypatch, answer):
    window, place = listen
    recorded(qtbot, window, place, NOISE)
    qtbot.waitUntil(lambda: not place.taking.worker.running, timeout=60000)
    name, takes, asked = window.planning.name, place.keeping.takes, []
    button = getattr(QMessageBox.StandardButton, answer)
    monkeypatch.setattr(ListenPlace, "ask_unkept", lambda self, count: asked.append(count) or button)
    window.open_book.let_go()
    window.close()
    assert asked == [1] and window.isVisible() is (answer == "Cancel")
    assert [t.kept for t in takes.of(name)] == {"Save": [True], "Discard": []}.get(answer, [False])
    monkeypatch.setattr(ListenPlace, "ask_unkept", lambda self, count: QMessageBox.StandardButton.Ignore)


def test_the_next_start_offers_it_with_what_was_played(qtbot, played, tmp_path):
    window, place, samples = played
    phrase = window.open_book.phrase
    recorded(qtbot, window, place, samples)
    qtbot.waitUntil(lambda: not place.taking.worker.running, timeout=60000)
    log = window.practice_log
    window.open_book.let_go()
    window.close()
    settings = QSettings(str(tmp_path / "again" / "w.ini"), QSettings.Format.IniFormat)
    again = MainWindow(settings, practice_log=log)
    qtbot.addWidget(again)
    again.show()
    with qtbot.waitSignal(again.beside.recordings.found, timeout=20000):
        again.start()
    [offer] = [b for b in again.findChildren(QPushButton) if b.text().startswith("Hear “")]
    assert phrase.title in offer.text()
    offer.click()
    qtbot.waitUntil(lambda: again.pages.listen.taking.take is not None, timeout=60000)
    assert again.open_book.phrase == phrase and again.pages.place == "Listen" and again.open_book.unsaved
    [take] = again.pages.listen.keeping.kept()
    assert not take.kept and again.pages.listen.taking.take.recorded == take
    again.open_book.let_go()
