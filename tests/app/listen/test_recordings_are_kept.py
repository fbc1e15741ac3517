"""A recording is lost by nothing a player does: the page turned, another take, no take of this phrase, the window closed."""

import numpy as np
import pytest
import soundfile

from dromic import presets
from dromic.app.audio.input import RATE, SimulatedInput
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.sound.take_render import take_sound
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
    title = window.plan.request.phrase.title
    recorded(qtbot, window, place, samples)
    window.turn_page(1)  # while it is heard
    qtbot.waitUntil(lambda: not place.taking.worker.running, timeout=60000)
    assert place.taking.take is None and len(place.keeping.takes.of(title)) == 1
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
    folder, title = place.keeping.takes.folder, window.plan.request.phrase.title
    window.close()
    assert soundfile.info(next(folder.rglob("*.flac"))).frames == len(NOISE)
    assert [t.kept for t in place.keeping.takes.of(title)] == [False]
