"""No pass is lost or taken for another: the clock put back, another window on the log, a log that cannot be written."""

from datetime import timedelta

import pytest
from PyQt6.QtCore import Qt

from dromic.core.practice.log_pass import Pass
from dromic.core.values.errors import DromicError
from dromic.store.logbook import Logbook
from tests.app.shed.test_shed import logged, press
from tests.app.shed.test_shed import shed as shed

K = Qt.Key


@pytest.fixture
def drilling(shed):
    """(window, clock) with one drill begun."""
    window, clock = shed
    practising = window.shed_place.practising
    number = next(n for n, d in enumerate(practising.work.drills) if d.kind == "move")
    window.shed_place.today.begin_asked.emit(number)
    return window, clock


@pytest.mark.parametrize("back", [timedelta(seconds=2), timedelta(hours=1), timedelta(hours=-25)])
def test_the_time_of_day_may_jump_and_every_pass_is_kept(qtbot, drilling, back):
    """Back by a sync of the time, back by the end of summer time or a flight west, and on by a lid that was closed."""
    window, clock = drilling
    clock.on(9)
    press(qtbot, window, K.Key_Space)
    clock.at -= back
    for _ in range(4):
        clock.on(9)
        press(qtbot, window, K.Key_Space)
    assert [p.seconds for p in logged(window)] == [9.0] * 5 and all(p.clean for p in logged(window))


def test_another_windows_pass_is_not_taken_back(qtbot, drilling):
    window, clock = drilling
    clock.on(9)
    press(qtbot, window, K.Key_Space)
    [mine] = logged(window)
    theirs = Pass(clock.at, mine.phrase, "join:0-3", 200.0, False, (0, 1, 2, 3), "picking", seconds=3.0)
    Logbook(window.practice_log).add([theirs])
    practising = window.shed_place.practising
    practising.note("stiff")
    assert [p.note for p in logged(window) if p.clean] == ["stiff"] and logged(window)[-1].note == ""
    practising.overrule()  # it was heard wrongly: mine, not theirs
    assert sorted((p.tempo, p.clean) for p in logged(window)) == [(mine.tempo, False), (200.0, False)]
    press(qtbot, window, K.Key_Backspace)
    assert logged(window) == [theirs] and (practising.sitting.clean, practising.sitting.missed) == (0, 0)


def test_what_could_not_be_kept_takes_nothing_else_with_it(qtbot, drilling, monkeypatch):
    window, clock = drilling
    practising = window.shed_place.practising
    clock.on(9)
    press(qtbot, window, K.Key_Space)

    def full(*_):
        raise DromicError("the disk is full")

    with monkeypatch.context() as broken:
        broken.setattr(practising.logbook, "add", full)
        clock.on(9)
        press(qtbot, window, K.Key_Space)
    assert "could not be kept" in window.notice.text() and len(logged(window)) == 1
    practising.note("lost")
    assert "has no place" in window.notice.text() and logged(window)[0].note == ""
    press(qtbot, window, K.Key_Backspace)  # the one that is not there
    assert len(logged(window)) == 1 and practising.sitting.clean == 1
    with monkeypatch.context() as broken:
        broken.setattr(practising.logbook, "take_back", full)
        broken.setattr(practising.logbook, "note", full)
        practising.note("lost")
        assert "note could not be kept" in window.notice.text()
        press(qtbot, window, K.Key_Backspace)
    assert "stays in the log" in window.notice.text() and practising.sitting.clean == 1
