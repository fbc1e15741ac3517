"""The Write place through the real window: keys, clicks, the quick line, the clipboard, undo, and the files."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QSettings, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMessageBox

from dromic.app.kit import theme
from dromic.app.window.window import MainWindow
from dromic.app.write.key_list import KeyDialog
from dromic.app.write.pen import Pen
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.formats.text.quick_line import write
from dromic.store.recovery import Slot

CTRL, ALT, SHIFT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
K = Qt.Key


@pytest.fixture
def window(bare_window):
    bare_window.new_book()
    return bare_window


@pytest.fixture
def place(window):
    return window.pages.write


def press(place, *keys):
    for key in keys:
        if isinstance(key, tuple):
            QTest.keyClick(place.grid, key[0], key[1])
        elif isinstance(key, str):
            QTest.keyClicks(place.grid, key)
        else:
            QTest.keyClick(place.grid, key)


def line(place):
    return write(place.open_book.phrase).removesuffix(" | r:w | r | r").removesuffix(" | r | r | r")


def test_a_riff_is_written_with_the_keyboard_alone(window, place):
    press(place, "0m", K.Key_Right, "3", K.Key_Right, "5h", K.Key_Right, (K.Key_5, CTRL), K.Key_Up, "12", K.Key_Right)
    press(place, "c", "r", (K.Key_4, CTRL), "7bd", (K.Key_2, ALT), K.Key_Right, "-")
    assert line(place).startswith("6.0_:e 6.3 h6.5 5.12:s 5.12 r 5.7^0.5@2/d:q")
    assert place.line.text.toPlainText() == write(place.open_book.phrase)
    assert window.windowTitle().startswith("Phrase 1") and window.isWindowModified()


def test_everything_written_can_be_taken_back(window, place):
    press(place, "5", K.Key_Right, "7", K.Key_Right, "12")
    assert line(place).startswith("6.5:e 6.7 6.12")
    QTest.keyClick(window, K.Key_Z, CTRL)  # two digits are one step
    assert line(place).startswith("6.5:e 6.7 r")
    for _ in range(2):
        QTest.keyClick(window, K.Key_Z, CTRL)
    assert not place.open_book.phrase.events and not window.isWindowModified()
    for _ in range(3):
        QTest.keyClick(window, K.Key_Z, CTRL | SHIFT)
    assert line(place).startswith("6.5:e 6.7 6.12")


def test_the_line_and_the_grid_keep_step(qtbot, place):
    place.line.text.setPlainText("6.0:q 5.2+4.2 | 3/4 E4:h.")
    qtbot.waitUntil(lambda: len(place.open_book.phrase.events) == 3)
    assert place.grid.phrase is place.open_book.phrase and "2 quarters short" in place.line.words.text()
    place.line.text.setPlainText("6.0:q 5.2+4.99")
    qtbot.waitUntil(lambda: "Column 7" in place.line.words.text())
    (marked,) = place.line.text.extraSelections()
    assert marked.cursor.selectedText() == "5.2+4.99"
    assert len(place.open_book.phrase.events) == 3  # a fault changes nothing
    place.line.text.setPlainText("6.0:q")
    qtbot.waitUntil(lambda: len(place.open_book.phrase.events) == 1)
    assert not place.line.text.extraSelections()


def test_the_mouse_does_it_too(qtbot, window, place):
    rows = place.grid.rows
    at = QPoint(int(rows.x(rows.rows[0], 1)) + 4, rows.lane_y(rows.rows[0], 3))
    qtbot.mouseClick(place.grid.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert (place.pen.at, place.pen.string) == (1, 3)
    menu = place.grid.menu()
    frets = menu.actions()[0].menu()
    frets.actions()[9].trigger()
    assert line(place).startswith("r 3.9:e")
    item = place.key_list.tree.findItems("Accent", Qt.MatchFlag.MatchRecursive)[0]
    place.key_list.tree.itemActivated.emit(item, 0)
    assert "3.9!" in line(place)
    qtbot.mousePress(place.grid.viewport(), Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(place.grid.viewport(), at + QPoint(200, 0))
    place.grid.mouseMoveEvent(_drag(place.grid, at + QPoint(200, 0)))
    assert place.pen.selection is not None and place.pen.selection.start == 1


def _drag(grid, at):
    from PyQt6.QtCore import QEvent, QPointF
    from PyQt6.QtGui import QMouseEvent

    left = Qt.MouseButton.LeftButton
    return QMouseEvent(QEvent.Type.MouseMove, QPointF(at), QPointF(at), left, left, Qt.KeyboardModifier.NoModifier)


def test_passages_travel_by_the_clipboard_as_text(place):
    press(place, "0", K.Key_Right, "3", K.Key_Home, (K.Key_Right, SHIFT), (K.Key_C, CTRL))
    board = QGuiApplication.clipboard()
    assert board.text() == "len=q 6.0:e 6.3"
    press(place, (K.Key_Right, CTRL), (K.Key_V, CTRL))
    assert [float(e.onset) for e in place.open_book.phrase.events] == [0, 0.5, 4, 4.5]
    board.setText("e|-0-2-|\nB|-----|\nG|-----|\nD|-----|\nA|-----|\nE|-----|\n")
    press(place, (K.Key_V, CTRL))
    assert [n.string for n in place.open_book.phrase.events[-1].notes] == [1]
    notices: list[str] = []
    place.noticed.connect(lambda sentence, calm: notices.append(sentence))
    board.setText("nothing of the kind")
    press(place, (K.Key_V, CTRL))
    assert "cannot be pasted" in notices[-1]


def test_the_phrase_s_own_facts(qtbot, place):
    panel = place.panel
    press(place, "3")
    panel.title.setText("Lock Keeper")
    panel.title.editingFinished.emit()
    panel.instrument.setCurrentIndex(panel.instrument.findData("bass4"))
    panel.instrument.activated.emit(0)
    assert place.open_book.phrase.title == "Lock Keeper"
    assert place.open_book.instrument.name == "bass4" and place.open_book.phrase.events[0].notes[0].string is None
    panel.metre.setText("7/8 2+2+3")
    panel.metre.editingFinished.emit()
    assert place.open_book.phrase.bars[0].metre.groups == (2, 2, 3)
    panel.tempo.setValue(93)
    panel.section.setText("A")
    panel.section.editingFinished.emit()
    assert place.open_book.phrase.tempo == 93 and place.open_book.phrase.sections[0].name == "A"
    notices: list[str] = []
    panel.refused.connect(notices.append)
    panel.metre.setText("four")
    panel.metre.editingFinished.emit()
    assert "write it as 4/4" in notices[-1]


def test_a_tune_is_read_an_octave_below_and_back(qtbot, window, tmp_path):
    """What the file brought stands beside it and can be read again; the octave is changed where the instrument is."""
    path = tmp_path / "tune.abc"
    path.write_text("X:1\nT:High\nM:4/4\nL:1/8\nK:C\nc2e2 g2c'2|\n")
    window.open_file(path)
    qtbot.waitUntil(lambda: window.open_book.phrase.title == "High")
    window.pages.go_to("Write")
    panel, book = window.pages.write.panel, window.open_book
    assert book.phrase.events[0].notes[0].pitch == 60
    panel.said.click()
    (box,) = panel.findChildren(QMessageBox)
    assert "octave below" in box.text() and "1 remark" in panel.said.text()
    box.close()
    assert panel.octave.currentText() == "An octave below, for guitar"
    panel.octave.setCurrentIndex(0)
    panel.octave.activated.emit(0)
    assert book.phrase.events[0].notes[0].pitch == 72 and panel.said.isHidden()
    book.undo.undo()
    assert book.phrase.events[0].notes[0].pitch == 60 and book.phrase.read_as == "guitar"
    assert read_songbook(songbook_bytes(book.book)).entries[0].phrase.read_as == "guitar"


ABC = "X:1\nT:Two\nM:4/4\nL:1/8\nK:C\nc2e2 g2c'2|\n"
TAB = "e|-0-1-3-|\nB|-------|\nG|-------|\nD|-------|\nA|-------|\nE|-------|\n"
SCORE = (
    '<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"><part-name>x</part-name></score-part>'
    '</part-list><part id="P1"><measure number="1"><attributes><divisions>1</divisions></attributes><note><pitch><step>C</step>'
    "<octave>4</octave></pitch><duration>4</duration></note></measure></part></score-partwise>"
)


@pytest.mark.parametrize(
    ("text", "pitches"), [(ABC, [60, 64, 67, 72]), (TAB, [64, 65, 67]), ("6.3:q 6.5", [43, 45]), (SCORE, [60])]
)
def test_a_text_of_any_kind_is_pasted_where_one_begins(bare_window, text, pitches):
    """From the start view, with the keyboard; it is work not saved yet, and one step to take back."""
    window = bare_window
    window.start()
    QGuiApplication.clipboard().setText(text)
    QTest.keyClick(window.pages.stack.currentWidget(), K.Key_V, CTRL)
    assert [e.notes[0].pitch for e in window.open_book.phrase.events] == pitches
    assert window.pages.place == "Write" and not window.open_book.undo.isClean()
    place = window.pages.write
    place.paste(text)
    assert len(window.open_book.phrase.events) >= len(pitches)


def test_what_cannot_be_pasted_is_said_and_the_start_stays(bare_window):
    bare_window.start()
    for text, says in (("", "holds no text"), ("a letter to a friend", "cannot be pasted"), ("r:w", "no notes")):
        QGuiApplication.clipboard().setText(text)
        bare_window.paste_new()
        assert says in bare_window.notice.text() and bare_window.pages.stack.starting


def test_keys_can_be_found_and_changed(qtbot, window, place):
    place.keys.change("accent", "Shift+Q")
    press(place, "5", (K.Key_Q, SHIFT))
    assert "6.5!" in line(place)
    press(place, "a")
    assert "6.5!" in line(place)  # the old key does nothing now
    dialog = KeyDialog(place.keys, "accent", "Accent")
    qtbot.addWidget(dialog)
    dialog.edit.setKeySequence("M")
    dialog.accept()
    assert "Palm mute" in dialog.fault.text() and not dialog.result()
    with pytest.raises(DromicError, match="writes a fret"):
        place.keys.change("accent", "5")
    QTest.keyClick(window, K.Key_F1)
    QTest.keyClicks(place.key_list.search, "palm")
    QTest.keyClick(place.key_list.search, K.Key_Return)
    assert "6.5_!" in line(place) or "6.5!_" in line(place)
    place.keys.as_shipped()
    assert place.keys.words("accent") == "A"


def test_planning_follows_what_is_written(qtbot, window, place):
    press(place, "5", K.Key_Right, "7", K.Key_Right, "8")
    QTest.keyClick(window, K.Key_F3)
    qtbot.waitUntil(lambda: window.plan is not None and len(window.plan.notes) == 3, timeout=20000)
    QTest.keyClick(window, K.Key_F2)
    press(place, K.Key_Right, "5")
    window.pages.go_to("Plan")
    qtbot.waitUntil(lambda: window.plan is not None and len(window.plan.notes) == 4, timeout=20000)


def test_saving_and_opening_again(qtbot, window, place, tmp_path):
    press(place, "5", K.Key_Right, "7")
    window.open_book.add_phrase()
    place.line.text.setPlainText("1.3:w")
    place.line.flush()
    path = tmp_path / "mine.dromic"
    assert window.files.save_to(path) and not window.isWindowModified()
    assert [len(p.events) for p in read_songbook(path.read_bytes()).phrases] == [2, 1]
    assert window.files.recent == [path]
    recent = window.top_bar.book_button.menu().actions()[-1].menu()
    recent.aboutToShow.emit()
    assert [a.text() for a in recent.actions()] == ["mine.dromic"]
    window.open_file(path, 2)
    qtbot.waitUntil(lambda: window.open_book.path == path)
    assert window.open_book.number == 2 and window.open_book.names == ["Phrase 1", "Phrase 2"]
    window.open_book.move_phrase(-1)
    window.open_book.drop_phrase()
    assert window.open_book.names == ["Phrase 1"] and window.isWindowModified()
    QTest.keyClick(window, K.Key_Z, CTRL)
    assert window.open_book.names == ["Phrase 2", "Phrase 1"]


def test_a_save_that_fails_loses_nothing(window, place, tmp_path):
    press(place, "5")
    assert not window.files.save_to(tmp_path / "gone" / "mine.dromic")
    assert "not saved" in window.notice.text() and window.isWindowModified()
    lost = list(window.files.folder.glob("*.unsaved"))
    assert len(lost) == 1 and b"Phrase 1" in lost[0].read_bytes()


def test_unsaved_work_is_asked_about(window, place, monkeypatch, tmp_path):
    press(place, "5")
    asked = []

    def ask():
        asked.append(1)
        return QMessageBox.StandardButton.Cancel

    monkeypatch.setattr(window.files, "ask_unsaved", ask)
    assert not window.close() and window.isVisible() and asked
    window.new_book()
    assert len(place.open_book.phrase.events) == 1 and len(asked) == 2
    monkeypatch.setattr(window.files, "ask_unsaved", lambda: QMessageBox.StandardButton.Discard)
    assert window.close()


def test_lost_work_is_offered_at_the_start(qtbot, qapp, tmp_path):
    theme.load_fonts()
    folder = tmp_path / "recovery"
    first = MainWindow(QSettings(str(tmp_path / "a.ini"), QSettings.Format.IniFormat), folder)
    qtbot.addWidget(first)
    first.new_book()
    press(first.pages.write, "5")
    first.files.keep_aside()
    slot = first.files._slot
    assert isinstance(slot, Slot)
    os.close(slot._lock)  # as when the process dies
    second = MainWindow(QSettings(str(tmp_path / "b.ini"), QSettings.Format.IniFormat), folder)
    qtbot.addWidget(second)
    second.start()
    second.show()
    assert not second.transport.isVisible()  # nothing to play yet
    (lost,) = second.files.leftovers()
    second.files.recover(lost)
    qtbot.waitUntil(lambda: len(second.open_book.phrase.events) == 1)
    assert second.isWindowModified() and second.files.leftovers() == [] and second.transport.isVisible()
    second.files.ask_unsaved = lambda: QMessageBox.StandardButton.Discard
    second.close()
    first.open_book.undo.undo()
    first.files._slot = None
    first.close()


def test_the_pen_is_drawn_and_clicks_find_their_cell(place):
    for string in range(7):
        for at in (0, 1, 5, 15):
            place.move_pen(Pen(at=at, string=string))
            rows = place.grid.rows
            row = rows.row_of(at)
            assert rows.place(rows.x(row, at) + 3, rows.lane_y(row, string), place.pen.length) == (at, string)
    assert place.grid.grab().width() > 100
    assert songbook_bytes(place.open_book.book) and Path(place.open_book.name).suffix == ".dromic"


def test_a_selection_is_planned_alone(qtbot, window, place):
    place.line.text.setPlainText("6.0:q 5.2 4.2 3.1 | 6.3 5.2 4.0 3.0")
    place.line.flush()
    window.pages.plan_selection()
    assert "Nothing is selected" in window.notice.text()
    press(place, (K.Key_Right, CTRL), (K.Key_L, CTRL))
    QTest.keyClick(window, K.Key_F3, SHIFT)
    qtbot.waitUntil(lambda: window.plan is not None and len(window.plan.notes) == 4, timeout=20000)
    assert [n.fret for n in window.plan.notes] == [3, 2, 0, 0] and "planned alone" in window.notice.text()
    QTest.keyClick(window, K.Key_F3)
    qtbot.waitUntil(lambda: len(window.plan.notes) == 8, timeout=20000)


def test_a_phrase_is_exported_and_printed(qtbot, window, place, tmp_path):
    place.line.text.setPlainText("E3:q G3 A3 B3")
    place.line.flush()
    exporter = window.papers._ready()
    for name, start in (("a.txt", b"title"), ("a.pdf", b"%PDF"), ("a.mid", b"MThd")):
        with qtbot.waitSignal(exporter.written, timeout=20000):
            exporter.write(place.open_book.entry, window.planning.choices, tmp_path / name)
        assert (tmp_path / name).read_bytes().startswith(start)
    assert "not carried over" in window.notice.text()
    exporter.write(place.open_book.entry, window.planning.choices, tmp_path / "a.docx")
    assert "not a kind that can be written" in window.notice.text()
    window.papers.print_sheet()
    qtbot.waitUntil(lambda: getattr(exporter, "dialog", None) is not None, timeout=20000)
    exporter.dialog.close()
    window.new_book()
    exporter.preview(window.open_book.entry, window.planning.choices)
    qtbot.waitUntil(lambda: "no notes to plan" in window.notice.text(), timeout=5000)


def test_what_differs_and_what_a_moved_shape_costs_is_told(qtbot, window, place):
    place.line.text.setPlainText("6.0:q 5.2 4.2 r")
    place.line.flush()
    assert "degree" in place.status.text() and place.panel.key.placeholderText().startswith("likely")
    window.open_book.copy_phrase()
    press(place, (K.Key_Right, ALT))
    assert "1 open string is fretted now" in window.notice.text()
    with qtbot.waitSignal(window.beside.differences.worker.answered, timeout=20000):
        window.beside.differences.from_phrase(0)
    box = window.beside.differences.box
    assert "bar 1, beat 1: 6.1, there 6.0" in box.informativeText()
    box.close()
    place.panel.key.setText("Em")
    place.panel.key.editingFinished.emit()
    assert place.open_book.phrase.key == "Em" and "outside E minor" in place.status.text()


def test_the_pen_begins_where_the_notes_are(qtbot, window, place, tmp_path):
    tune = tmp_path / "tune.abc"
    tune.write_text("X:1\nT:Heron Step\nM:4/4\nL:1/4\nK:D\nDEFA|\n")
    window.open_file(tune)
    qtbot.waitUntil(lambda: window.open_book.phrase.title == "Heron Step", timeout=20000)
    window.pages.go_to("Write")
    press(place, (K.Key_Up, CTRL), "a")  # on the lane of names a letter is a note
    assert place.pen.string == 0 and place.open_book.phrase.events[0].notes[0].pitch % 12 == 9
