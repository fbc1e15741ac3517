"""A session through the real window, with the simulated output, pedal and clock: nobody waits, every pass is logged."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta

import mido
import pytest
import soundfile
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from bench.kills import PATIENCE, killed
from bench.typist import PRACTISING
from dromic import presets
from dromic.app.audio.output import SimulatedOutput
from dromic.app.progress.skyline import SkylineView
from dromic.app.session import pedal
from dromic.app.shed.day_sheet import sheet_html
from dromic.app.shed.shed_place import ShedPlace
from dromic.core.learning.learned_rates import rate_of
from dromic.core.learning.simulated_player import practised
from dromic.core.practice.session import DRILL, KEEP
from dromic.core.practice.skyline import Tower
from dromic.store.log.logbook import Logbook


class Clock:
    def __init__(self) -> None:
        self.at, self.run = datetime(2026, 11, 25, 19), 500.0

    def __call__(self) -> datetime:
        return self.at

    def on(self, seconds: float) -> None:
        self.at += timedelta(seconds=seconds)
        self.run += seconds

    def seconds(self) -> float:
        """Of the clock that nobody sets."""
        return self.run


@pytest.fixture
def shed(qtbot, demo_window):
    """(window, clock) with Shed shown, its work worked out."""
    clock = Clock()
    place = demo_window.pages.shed
    place.practising.now, place.practising.clock = clock, clock.seconds
    place.running.sound.output = SimulatedOutput(place)
    demo_window.pages.go_to("Shed")
    qtbot.waitUntil(lambda: place.practising.work is not None, timeout=20000)
    return demo_window, clock


def press(qtbot, window, key):
    qtbot.keyClick(window.pages.shed.running, key)


def logged(window):
    return window.log_keeper.settle().passes()


def test_a_quarter_of_the_roofs_are_in_sight_however_easy_the_phrase(qtbot):
    view = SkylineView()
    qtbot.addWidget(view)
    for least in (80.0, 190.0, 300.0):
        view.show_towers(tuple(Tower(None, least + 4 * n, "picking") for n in range(40)), 120.0)
        assert view.top >= 180.0 and sum(t.ceiling < view.top for t in view.towers) >= 10
    view.show_towers((Tower(None, 9000.0, "picking"),), 120.0)
    assert view.top == 360.0


def test_todays_session_is_shown_with_the_skyline_and_one_drill_chosen(shed):
    window, _ = shed
    today = window.pages.shed.today
    work = window.pages.shed.practising.work
    assert len(today.skyline.towers) == len(work.plan.events)
    assert today.drill is not None and today.figure.phrase is today.drill.phrase
    assert "begins at" in today.head.text() and today.reason.text()
    assert not window.transport.isVisible()  # a session has a sound of its own


def test_a_whole_session_by_the_pedal_alone(qtbot, shed):
    window, clock = shed
    practising = window.pages.shed.practising
    slots = practising.work.schedule.slots
    window.pages.shed.today.strip.begin.click()
    passes = 0
    for slot in slots:
        assert practising.session.slot is slot
        if slot.what in (DRILL, KEEP):
            for _ in range(3):
                drill, tempo = practising.session.drill, practising.session.rung.tempo
                clock.on(15)
                press(qtbot, window, Qt.Key.Key_Space)
                passes += 1
            if practising.session.drill == drill:  # of what takes turns the next begins slowly
                assert practising.session.rung.tempo > tempo or tempo == practising.work.target
            clock.on(slot.minutes * 60)
            press(qtbot, window, Qt.Key.Key_Space)  # the time of the part is over: on to the next
            passes += 1
        else:
            clock.on(1)
            press(qtbot, window, Qt.Key.Key_Space)
    assert practising.session is None and window.pages.shed.currentWidget() is window.pages.shed.today
    found = logged(window)
    assert len(found) == passes and all(p.clean and p.attentive for p in found)
    assert {p.phrase for p in found} == {window.open_book.phrase.title}
    assert all(p.seconds > 0 for p in found)


def test_a_miss_names_the_hand_and_two_go_back(qtbot, shed):
    window, clock = shed
    practising = window.pages.shed.practising
    number = next(n for n, d in enumerate(practising.work.drills) if d.kind == "move")
    window.pages.shed.today.begin_asked.emit(number)
    tempo = practising.session.rung.tempo
    clock.on(10)
    press(qtbot, window, Qt.Key.Key_Up)
    assert practising.session.rung.tempo == tempo and "Once more" in window.pages.shed.running.why.text()
    clock.on(10)
    press(qtbot, window, Qt.Key.Key_Down)
    assert 0.85 * tempo < practising.session.rung.tempo < 0.93 * tempo
    assert [(p.clean, p.hand) for p in logged(window)] == [(False, "picking"), (False, "fretting")]
    press(qtbot, window, Qt.Key.Key_Backspace)
    assert len(logged(window)) == 1 and practising.session.rung.tempo == tempo


def test_the_drill_sounds_and_is_followed(qtbot, shed):
    window, _ = shed
    place = window.pages.shed
    number = next(n for n, d in enumerate(place.practising.work.drills) if d.kind == "move")
    place.today.begin_asked.emit(number)
    running = place.running
    qtbot.waitUntil(lambda: running.sound.rendering is not None, timeout=20000)
    output = running.sound.output
    count_in = running.sound.rendering.seconds[0]
    output.seconds = lambda: count_in / 2
    running._look()
    assert running.beat.text() == "counting in" and running.figure.now is None
    output.seconds = lambda: count_in + 0.001
    running._look()
    assert running.beat.text() == "1" and running.figure.now == 0
    press(qtbot, window, Qt.Key.Key_M)
    assert running.sound.part_audible is False
    running.sound.stop()
    assert running.sound.loop is None  # nothing is held of what no longer sounds


def test_a_tempo_can_be_tapped(qtbot, shed):
    window, clock = shed
    window.pages.shed.today.begin_asked.emit(0)
    for _ in range(4):
        press(qtbot, window, Qt.Key.Key_T)
        clock.on(0.5)
    assert window.pages.shed.practising.session.rung.tempo == pytest.approx(120)
    press(qtbot, window, Qt.Key.Key_Plus)
    assert window.pages.shed.practising.session.rung.tempo == pytest.approx(121)


def test_the_log_leads_the_next_day(qtbot, shed):
    window, clock = shed
    practising = window.pages.shed.practising
    number = next(n for n, d in enumerate(practising.work.drills) if d.kind == "move")
    name = practising.work.drills[number].name
    window.pages.shed.today.begin_asked.emit(number)
    practising.retempo(100.0)
    clock.on(12)
    press(qtbot, window, Qt.Key.Key_Right)
    press(qtbot, window, Qt.Key.Key_Escape)
    clock.on(86400)
    with qtbot.waitSignal(practising.worked, timeout=20000):
        practising.refresh()
    rung = next(r for d, r in zip(practising.work.drills, practising.work.rungs, strict=True) if d.name == name)
    assert rung.tempo == pytest.approx(93.0)  # a check at 93 % of what was clean
    towers = window.pages.shed.today.skyline.towers
    assert any(t.clean == 100.0 for t in towers)


def test_a_drill_opens_in_plan_as_a_phrase_with_its_strokes(qtbot, shed):
    window, _ = shed
    today = window.pages.shed.today
    drill = next(d for d in window.pages.shed.practising.work.drills if d.kind == "open")
    today.drill_opened.emit(drill)
    qtbot.waitUntil(
        lambda: window.plan is not None and window.plan.request.phrase.title == drill.phrase.title, timeout=20000
    )
    assert window.pages.place == "Plan"
    wanted = [n.stroke for e in drill.phrase.events for n in e.notes]
    assert [n.stroke for n in window.plan.notes] == wanted
    window.open_book.undo.undo()
    assert window.open_book.phrase.title != drill.phrase.title


def test_wishes_change_the_session(qtbot, shed):
    window, _ = shed
    practising, today = window.pages.shed.practising, window.pages.shed.today
    with qtbot.waitSignal(practising.worked, timeout=20000):
        today.strip.minutes.setValue(60)
    assert practising.work.schedule.minutes > 40
    with qtbot.waitSignal(practising.worked, timeout=20000):
        today.strip.sore.setCurrentIndex(2)
    assert "sore" in today.next.text()


def test_shed_over_nothing_to_plan_says_so(qtbot, bare_window):
    bare_window.open_book.begin_new()
    bare_window.pages.go_to("Shed")
    today = bare_window.pages.shed.today
    assert "no plan" in today.next.text() and not today.strip.begin.isEnabled()
    bare_window.pages.shed.practising.begin()
    assert bare_window.pages.shed.practising.session is None


def test_both_themes_and_the_small_window(shed):
    window, _ = shed
    window.resize(1024, 640)
    window.looks.switch_theme()
    QApplication.processEvents()
    today = window.pages.shed.today
    assert today.skyline.theme is window.theme
    written = {today.list.topLevelItem(n).foreground(1).color().name() for n in range(today.list.topLevelItemCount())}
    assert window.theme.ink in written and not {"#1d2125", "#5c6268"} & written  # none of the other theme's
    QTest.keyClick(window, Qt.Key.Key_F5)
    assert not window.transport.playing  # a session has a sound of its own
    assert not window.pages.shed.grab().isNull()


def test_what_the_log_says_of_the_hands_is_shown_and_taken_over(qtbot, shed):
    window, _ = shed
    practising, today = window.pages.shed.practising, window.pages.shed.today
    plan = practising.work.plan
    numbers = presets.practice().learning
    passes = practised(
        plan, presets.players()["settled"], presets.practice(), numbers, 12, 30, 1, datetime(2026, 11, 1), 300.0
    )
    Logbook(window.practice_log).add([replace(one, phrase_id=practising.of.id) for one in passes])
    with qtbot.waitSignal(practising.worked, timeout=20000):
        practising.refresh()
    assert 0 < len(today.days.days) <= 12 and today.days.target == practising.work.target
    today.pictures.setCurrentWidget(today.hands)
    today.hands.work.click()
    qtbot.waitUntil(lambda: today.hands.learned is not None, timeout=60000)
    learned = today.hands.learned
    known = learned.known
    assert known and today.hands.take.isEnabled()
    before = window.planning.choices.player
    today.hands.take.click()
    player = window.roster.named(window.planning.choices.player)
    for rate in known:
        assert rate_of(player, rate) == pytest.approx(learned.rates[rate][0], rel=0.02)
    window.open_book.undo.undo()
    assert window.planning.choices.player == before


def test_the_hands_are_measured_left_and_taken_up_again(qtbot, shed):
    window, clock = shed
    place, practising = window.pages.shed, window.pages.shed.practising
    place.today.hands.measure.click()
    qtbot.waitUntil(lambda: practising.session is not None, timeout=20000)
    first = practising.drill
    tempo = practising.session.rung.tempo
    assert "limit" in place.running.why.text() and place.running.figure.phrase is not None
    clock.on(8)
    press(qtbot, window, Qt.Key.Key_Space)
    assert practising.session.rung.tempo > tempo
    for _ in range(20):  # the limit is found, and the next figure begins
        if practising.drill.key != first.key:
            break
        clock.on(8)
        press(qtbot, window, Qt.Key.Key_Left if practising.session.rung.tempo > 1.1 * tempo else Qt.Key.Key_Space)
    assert practising.drill.key != first.key
    press(qtbot, window, Qt.Key.Key_Escape)
    hands = place.today.hands
    assert place.currentWidget() is place.today
    qtbot.waitUntil(hands.take.isEnabled, timeout=20000)  # worked out off the interface's thread
    assert "1 of" in hands.say.text()
    assert all(p.phrase == "Measuring the hands" for p in logged(window))
    qtbot.wait(300)  # today's work is worked out anew, and what was measured stays
    assert hands.table.topLevelItemCount() and hands.take.isEnabled()
    hands.measure.click()  # taken up again: what is known is not asked again
    qtbot.waitUntil(lambda: practising.session is not None, timeout=20000)
    assert practising.drill.key != first.key
    press(qtbot, window, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: not hands.worker.running, timeout=20000)
    before = window.planning.choices.player
    hands.take.click()
    assert window.planning.choices.player != before
    window.open_book.undo.undo()
    assert window.planning.choices.player == before


def test_the_days_sheet_has_every_drill_and_its_results_come_into_the_log(qtbot, shed):
    window, _ = shed
    practising, today = window.pages.shed.practising, window.pages.shed.today
    work = practising.work
    html = sheet_html(work, "25.11.2026")
    for slot in work.schedule.slots:
        if slot.drill is not None:
            assert work.drills[slot.drill].reason[1:] in html and f"{work.rungs[slot.drill].tempo:.0f}" in html
    assert "☐" in html and "clinician" in html
    today.strip.ask_results()
    tempo, clean, missed = today.strip.entering.spins[0]
    tempo.setValue(90)
    clean.setValue(3)
    missed.setValue(1)
    with qtbot.waitSignal(practising.worked, timeout=20000):
        today.strip.entering.accept()
    found = logged(window)
    assert [(p.tempo, p.clean) for p in found] == [(90.0, False)] + [(90.0, True)] * 3
    assert {p.drill for p in found} == {work.drills[today.strip.entering.numbers[0]].name}
    today.strip.print_sheet()
    dialog, _, document = today.strip.preview
    lines = document.size().height() / document.documentLayout().blockBoundingRect(document.begin()).height()
    assert 10 < lines < 80  # as large as its paper wants it
    dialog.close()


def test_the_click_divided_with_gaps_and_in_the_background(qtbot, shed):
    window, clock = shed
    place = window.pages.shed
    place.today.begin_asked.emit(next(n for n, d in enumerate(place.practising.work.drills) if d.kind == "move"))
    running = place.running
    press(qtbot, window, Qt.Key.Key_C)
    press(qtbot, window, Qt.Key.Key_G)
    press(qtbot, window, Qt.Key.Key_B)
    told = running.why.text()
    assert "2 clicks a beat" in told and "every other round" in told and "background" in told
    clock.on(9)
    press(qtbot, window, Qt.Key.Key_Space)
    assert [p.attentive for p in logged(window)] == [False]
    assert "not practised yet" in practising_reason(place)  # what is played aside leads no tempo


def practising_reason(place) -> str:
    return place.practising.session.rung.reason


def test_a_midi_pedal_marks_a_pass(qtbot, shed, monkeypatch):
    window, clock = shed
    port = pedal.SimulatedPort()
    monkeypatch.setattr(pedal, "first_port", lambda: port)
    drills = window.pages.shed.practising.work.drills
    window.pages.shed.today.begin_asked.emit(next(n for n, d in enumerate(drills) if d.kind == "move"))
    assert "Pedal: a simulated pedal" in window.pages.shed.running.keys.text()
    clock.on(9)
    port.press()
    window.pages.shed.running.pedal.look()
    port.send(mido.Message("note_on", note=60, velocity=0))
    window.pages.shed.running.pedal.look()
    assert [p.clean for p in logged(window)] == [True]


def test_where_no_port_can_be_opened_keys_do(monkeypatch):
    def none() -> list[str]:
        raise ModuleNotFoundError("rtmidi")

    monkeypatch.setattr(mido, "get_input_names", none)
    assert pedal.first_port() is None


def test_digits_tick_the_warm_up_and_name_the_fault_of_a_miss(qtbot, shed):
    window, clock = shed
    place = window.pages.shed
    place.today.strip.begin.click()
    press(qtbot, window, Qt.Key.Key_2)
    lines = place.running.why.text().split("\n")
    assert lines[0].startswith("☐") and lines[1].startswith("☑")
    press(qtbot, window, Qt.Key.Key_Space)
    assert place.practising.drill is not None
    clock.on(9)
    press(qtbot, window, Qt.Key.Key_4)
    assert [(p.clean, p.fault) for p in logged(window)] == [(False, "uneven")]


def test_shed_by_keys_alone(qtbot, shed):
    """From the list a drill is run, left for Plan while it runs, taken up again and ended."""
    window, clock = shed
    place = window.pages.shed
    window.pages.go_to("Plan")
    window.pages.go_to("Shed")
    assert QApplication.focusWidget() is place.today.list
    chosen = place.today.drill
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Down)
    assert place.today.drill is not chosen
    wanted = place.today.drill
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    assert place.practising.drill is wanted and QApplication.focusWidget() is place.running
    window.pages.go_to("Plan")
    window.pages.go_to("Shed")
    assert QApplication.focusWidget() is place.running and place.practising.drill is wanted
    clock.on(8)
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Space)
    assert len(logged(window)) == 1
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)
    assert QApplication.focusWidget() is place.today.list


def test_the_pedal_taps_a_tempo_while_it_is_counted_in(qtbot, shed):
    window, clock = shed
    running = window.pages.shed.running
    window.pages.shed.today.begin_asked.emit(0)
    qtbot.waitUntil(lambda: running.sound.rendering is not None, timeout=20000)
    before = len(logged(window))
    press(qtbot, window, Qt.Key.Key_Space)
    clock.on(0.6)
    press(qtbot, window, Qt.Key.Key_Space)
    assert len(logged(window)) == before and window.pages.shed.practising.session.rung.tempo == pytest.approx(100)
    clock.on(20)
    press(qtbot, window, Qt.Key.Key_Space)  # the bar is over: a pass
    assert len(logged(window)) == before + 1


def test_drills_that_take_turns_are_ticked_off(qtbot, shed):
    window, clock = shed
    practising, running = window.pages.shed.practising, window.pages.shed.running
    keys = [n for n, d in enumerate(practising.work.drills) if d.kind == "rhythm"]
    window.pages.shed.today.begin_asked.emit(keys[0])
    seen = []
    for _ in keys:
        seen.append(practising.drill.key)
        clock.on(10)
        press(qtbot, window, Qt.Key.Key_Left)  # a miss stays
        assert practising.drill.key == seen[-1]
        clock.on(10)
        press(qtbot, window, Qt.Key.Key_Right)
    assert seen == [practising.work.drills[n].key for n in keys]
    assert running.turns.text().count("✓") == len(keys)
    press(qtbot, window, Qt.Key.Key_Backspace)
    assert practising.drill.key == seen[-1] and len({p.drill for p in logged(window)}) == len(keys)
    press(qtbot, window, Qt.Key.Key_Escape)
    with qtbot.waitSignal(practising.worked, timeout=20000):
        practising.refresh()
    left = practising.work.drills[keys[-1]].name
    assert {d.name for d in practising.work.drills if d.kind == "rhythm"} - {
        r.drill for r in practising.work.history.record.drills if r.best_clean
    } == {left}


def test_a_note_on_the_last_pass(qtbot, shed):
    window, clock = shed
    running = window.pages.shed.running
    window.pages.shed.today.begin_asked.emit(0)
    clock.on(10)
    press(qtbot, window, Qt.Key.Key_Right)
    press(qtbot, window, Qt.Key.Key_N)
    qtbot.keyClicks(running.note, "thumb too tight")
    qtbot.keyClick(running.note, Qt.Key.Key_Return)
    assert [p.note for p in logged(window)] == ["thumb too tight"] and running.note.isHidden()


def test_how_a_player_practises_holds_on(qtbot, shed):
    window, _ = shed
    place, practising = window.pages.shed, window.pages.shed.practising
    place.today.strip.ask_how()
    dialog = place.today.strip.dialog
    dialog.numbers["break_every_min"].setValue(15)
    dialog.first.setCurrentIndex(1)
    item = next(i for n in range(dialog.kinds.count()) if (i := dialog.kinds.item(n)).text().startswith("Trills"))
    item.setCheckState(Qt.CheckState.Unchecked)
    with qtbot.waitSignal(practising.worked, timeout=20000):
        dialog.accept()
    assert not any(d.kind == "trill" for d in practising.work.drills)
    assert practising.work.settings.session.break_every_min == 15
    assert practising.wishes.clean_to_step is None  # what was not changed stays as it comes
    assert ShedPlace(window.planning, window.log_keeper, window.settings).practising.wishes == practising.wishes


def test_a_target_and_a_day_are_kept_with_the_phrase(qtbot, shed):
    window, clock = shed
    practising, strip = window.pages.shed.practising, window.pages.shed.today.strip
    own = practising.work.plan.request.phrase.tempo
    assert strip.target.value() == round(own)
    with qtbot.waitSignal(practising.worked, timeout=20000):
        strip.target.setValue(round(own) - 20)
        strip.target.editingFinished.emit()
    with qtbot.waitSignal(practising.worked, timeout=20000):
        strip.ready.setValue(10)
    assert practising.work.target == round(own) - 20 and "Ready in 10 days" in window.pages.shed.today.next.text()
    clock.on(3 * 86400)
    with qtbot.waitSignal(practising.worked, timeout=20000):
        practising.refresh()
    assert strip.ready.value() == 7


def test_the_log_goes_out_and_in_again(qtbot, shed, tmp_path):
    window, clock = shed
    menu = window.pages.shed.today.strip.log_menu
    window.pages.shed.today.begin_asked.emit(0)
    for _ in range(3):
        clock.on(10)
        press(qtbot, window, Qt.Key.Key_Right)
    for name in ("log.csv", "log.json"):
        with qtbot.waitSignal(menu.changed, timeout=20000):
            menu.export(tmp_path / name)
        with qtbot.waitSignal(menu.changed, timeout=20000):
            menu.take_in(tmp_path / name)
    assert len(logged(window)) == 3  # what is there already is not taken twice
    with qtbot.waitSignal(menu.changed, timeout=20000):
        menu.copy(tmp_path / "copy.sqlite")
    assert len(Logbook(tmp_path / "copy.sqlite").passes()) == 3
    (tmp_path / "wrong.csv").write_text("a,b\n1,2\n")
    with qtbot.waitSignal(menu.noticed, timeout=20000) as heard:
        menu.take_in(tmp_path / "wrong.csv")
    assert heard.args[1] is False and len(logged(window)) == 3


def test_a_drill_is_written_as_sound_with_its_click(qtbot, shed, tmp_path, monkeypatch):
    window, _ = shed
    out = tmp_path / "drill.wav"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    today = window.pages.shed.today
    drill = today.drill
    today.export.click()
    qtbot.waitUntil(out.exists, timeout=20000)
    seconds = soundfile.info(out).duration
    bar = 4 * 60 / drill.phrase.tempo
    plain = float(drill.phrase.end) * 60 / drill.phrase.tempo
    assert plain + 0.5 * bar < seconds < plain + 1.5 * bar + 1.0  # counted in


@pytest.mark.parametrize("seed", range(3))
def test_a_window_killed_in_mid_session_loses_no_pass_that_was_told(seed):
    assert killed(PRACTISING, seed, PATIENCE)[0] == ""
