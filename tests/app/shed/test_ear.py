"""A session that marks itself: the simulated player plays into a simulated input, and nobody touches a key."""

from __future__ import annotations

import re

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from dromic import presets
from dromic.app.audio import input as sound_input
from dromic.app.audio.input import RATE, SimulatedInput
from dromic.app.session import ear as session_ear
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.sound.take_render import LEAD_S, take_sound
from tests.app.shed.test_shed import logged, press, shed  # noqa: F401


@pytest.fixture
def ear(qtbot, shed):  # noqa: F811
    """(window, ear, clock) with a hard move in hand, listened to from its front."""
    window, clock = shed
    running, practising = window.pages.shed.running, window.pages.shed.practising
    running.ear.input = SimulatedInput(parent=running)
    number = next(n for n, d in enumerate(practising.work.drills) if d.kind == "move")
    with qtbot.waitSignal(practising.worked, timeout=20000):
        practising.wish(clean_to_step=3)  # rounds at one tempo, one after the other
    window.pages.shed.today.begin_asked.emit(number)
    with qtbot.waitSignal(running.sound.started, timeout=20000):
        press(qtbot, window, Qt.Key.Key_L)
    return window, running.ear, clock


def a_round(window, level: float = 0.0, bleeds: float = 0.0, seed: int = 3):
    """One round as the input hears it: the count-in, then what the simulated player makes of the drill."""
    running, practising = window.pages.shed.running, window.pages.shed.practising
    session, rendering = practising.session, running.sound.rendering
    plan, tempo = session.course.plan(session.drill), session.rung.tempo
    played = perform(due_notes(plan, tempo), presets.listening(), level, seed)
    take, rate = take_sound(played, plan.request.phrase, seed)
    assert rate == RATE
    heard = np.zeros(round(rendering.music_s * RATE))
    front = round((rendering.seconds[0] - LEAD_S) * RATE)
    room = min(len(take), len(heard) - front)
    heard[front : front + room] += take[:room]
    out = running.sound.loop.samples(np.arange(len(heard)))
    return heard + bleeds * np.convolve(out, [0.0] * 200 + [1.0, 0.4, -0.2])[: len(heard)]


def play(qtbot, window, ear, samples):
    with qtbot.waitSignal(ear.heard, timeout=20000):
        ear.input.hand(np.concatenate([samples, np.zeros(RATE)]))  # the round, and some of the next


def test_clean_passes_are_marked_and_the_tempo_goes_up(qtbot, ear):
    window, heard, clock = ear
    practising = window.pages.shed.practising
    tempo = practising.session.rung.tempo
    round_ = a_round(window)
    heard.input.hand(round_)
    for n in range(3):
        clock.on(8)
        with qtbot.waitSignal(heard.heard, timeout=20000):
            heard.input.hand(round_)
        assert len(logged(window)) == n + 1
    assert all(p.clean and p.tempo == round(tempo, 2) for p in logged(window))
    assert practising.session.rung.tempo > tempo
    assert "Clean by ear" in window.pages.shed.running.by_ear.text()


def test_a_bad_pass_is_missed_and_the_player_overrules(qtbot, ear):
    window, heard, clock = ear
    clock.on(8)
    round_ = a_round(window)
    session, lead_s = window.pages.shed.practising.session, window.pages.shed.running.sound.rendering.seconds[0]
    last_s = due_notes(session.course.plan(session.drill), session.rung.tempo)[-1].start_s
    round_[round((lead_s + 0.6 * last_s) * RATE) :] = 0.0  # stopped half way
    play(qtbot, window, heard, round_)
    (one,) = logged(window)
    assert not one.clean and one.fault == "missed" and "Missed by ear" in window.pages.shed.running.by_ear.text()
    press(qtbot, window, Qt.Key.Key_O)
    (one,) = logged(window)
    assert one.clean and one.fault is None and one.seconds == 8


def test_a_click_in_the_microphone_is_left_out(qtbot, ear):
    window, heard, _ = ear
    play(qtbot, window, heard, a_round(window, bleeds=0.5))
    assert logged(window)[0].clean
    assert heard._bleed is not None


def test_a_click_alone_is_no_pass_though_samples_are_lost(qtbot, ear):
    """In every round samples are lost, as on a busy machine: the click is followed from round to round."""
    window, heard, _ = ear
    alone = a_round(window, bleeds=0.5) - a_round(window)
    alone += np.random.default_rng(4).normal(0.0, 1e-4, len(alone))
    at = len(alone) // 2
    for n in range(4):
        heard.input.hand(np.concatenate([alone[:at], alone[at + 300 :]]))
        qtbot.waitUntil(lambda n=n: heard._counted == n + 1, timeout=20000)
    heard.input.hand(np.zeros(RATE))
    qtbot.waitUntil(lambda: heard._round == 4, timeout=20000)
    assert not logged(window)
    assert heard._start + heard._bleed.delay == pytest.approx(200 - 4 * 300, abs=3)


def test_an_input_that_goes_is_told_and_the_player_marks(qtbot, ear):
    window, heard, _ = ear
    said = []
    heard.noticed.connect(lambda words, _: said.append(words))
    heard.input.gone.emit()
    assert not heard.on and "mark the passes yourself" in said[0]
    press(qtbot, window, Qt.Key.Key_Left)
    assert len(logged(window)) == 1


def test_a_count_in_that_was_played_over_is_learned_from_again(qtbot, ear):
    window, heard, _ = ear
    noise, round_ = np.random.default_rng(4).normal(0.0, 0.2, RATE * 9), a_round(window, bleeds=0.5)
    front = round(window.pages.shed.running.sound.rendering.seconds[0] * RATE)
    over = round_.copy()
    over[:front] += noise[:front]
    heard.input.hand(over)
    qtbot.waitUntil(lambda: heard._counted == 1, timeout=20000)
    assert heard._bleed is None
    heard.input.hand(round_)
    qtbot.waitUntil(lambda: heard._counted == 2, timeout=20000)
    assert heard._bleed is not None


def test_silence_marks_nothing_and_a_pass_marked_by_hand_is_not_marked_twice(qtbot, ear):
    window, heard, clock = ear
    clock.on(8)
    quiet = np.zeros(len(a_round(window)))
    heard.input.hand(quiet)
    heard.input.hand(np.zeros(RATE))
    qtbot.waitUntil(lambda: heard._round == 1, timeout=20000)
    assert not logged(window)
    press(qtbot, window, Qt.Key.Key_Left)
    assert [p.clean for p in logged(window)] == [False]
    played = a_round(window)
    heard.input.hand(np.concatenate([played[RATE:], np.zeros(RATE)]))
    qtbot.waitUntil(lambda: heard._round == 2, timeout=20000)
    assert [p.clean for p in logged(window)] == [False]


def test_the_hands_measure_themselves(qtbot, shed):  # noqa: F811
    window, clock = shed
    running, practising = window.pages.shed.running, window.pages.shed.practising
    running.ear.input = SimulatedInput(parent=running)
    practising.remember(by_ear=True)
    with qtbot.waitSignal(running.sound.started, timeout=30000):
        window.pages.shed.today.hands.measure.click()
    figure, tempo = practising.session.drill, practising.session.rung.tempo
    clock.on(10)
    play(qtbot, window, running.ear, a_round(window))
    (one,) = logged(window)
    assert one.clean and one.tempo == round(tempo, 2)
    assert practising.session.drill == figure and practising.session.rung.tempo > tempo  # the limit lies higher


def test_without_an_input_the_player_marks(qtbot, shed, monkeypatch):  # noqa: F811
    window, _ = shed
    monkeypatch.setattr(session_ear, "best_input", lambda parent: None)
    window.pages.shed.today.begin_asked.emit(0)
    with qtbot.waitSignal(window.pages.shed.noticed, timeout=5000) as told:
        press(qtbot, window, Qt.Key.Key_L)
    assert "no input" in told.args[0] and not window.pages.shed.running.ear.on


def test_an_input_gives_any_part_of_what_it_took_and_lets_go_of_the_rest():
    source = sound_input.SimulatedInput()
    source.start()
    for n in range(3):
        source.hand(np.full(10, float(n)))
    assert source.position() == 30 and list(source.between(8, 12)) == [0, 0, 1, 1]
    source.forget(15)
    assert source.position() == 30 and list(source.between(8, 12)) == [0, 0, 1, 1]
    source.forget(21)
    assert list(source.between(18, 22)) == [0, 0, 2, 2]
    assert list(source.between(28, 32)) == [2, 2, 0, 0] and source.position() == 30


def test_between_drills_nothing_of_the_input_is_held_on_to(qtbot, ear):
    _, heard, _ = ear
    heard.rest()  # a break
    for _ in range(20):
        heard.input.hand(np.full(RATE, 0.1))
    assert heard.input.position() >= 20 * RATE and sum(map(len, heard.input._parts)) <= RATE
    assert not heard.input.between(0, RATE).any()


def test_off_the_click_is_told_once_the_way_is_measured(qtbot, ear):
    """The input hears everything 50 ms late, and 30 of them are known to be the way."""
    window, heard, clock = ear
    heard._latency_s = lambda label: 0.030
    clock.on(8)
    late = np.concatenate([np.zeros(round(0.050 * RATE)), a_round(window)])
    play(qtbot, window, heard, late)
    assert logged(window)[0].clean and re.search(
        r"(19|20|21|22) ms behind the click", window.pages.shed.running.by_ear.text()
    )
