"""A collection ranked in the window: opened by key, shown as a picture, stopped, a tune opened from it."""

from __future__ import annotations

import pytest
from PyQt6 import sip
from PyQt6.QtCore import Qt

from dromic.app.collection.ranked_list import state_of
from dromic.app.collection.ranking_dialog import RankingDialog
from tests.test_collection import TUNES


@pytest.fixture
def dialog(qtbot, demo_window, tmp_path, monkeypatch):
    monkeypatch.setattr("dromic.app.collection.ranking_dialog.ranking_file", lambda: tmp_path / "r.jsonl")
    (tmp_path / "book.abc").write_text(TUNES)
    qtbot.keyClick(demo_window, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    made = demo_window.findChild(RankingDialog)
    if made is None:  # a window that is not active hears no keys
        next(a for a in demo_window.actions() if a.text().startswith("Side by side")).trigger()
        made = demo_window.findChild(RankingDialog)
    assert made is not None and made.isVisible()
    yield demo_window, made, tmp_path / "book.abc"
    if not sip.isdeleted(made):
        made.close()


def test_tunes_are_ranked_for_the_hands_on_plan_and_one_is_opened(qtbot, dialog):
    window, made, book = dialog
    made.tempo.setValue(100)
    with qtbot.waitSignal(made.worker.answered, timeout=60000):
        made.rank_place(book)
    assert made.list.count() == 2 and "go at 100" in made.told.text() and not made.bar.isVisible()
    first = made.list.item(0).data(Qt.ItemDataRole.UserRole)
    assert first.title == "Easy" and state_of(first, 100.0) == "goes" and not made.grab().isNull()
    low, high = first.ceiling_range
    assert low < first.ceiling < high and first.sustained < first.ceiling  # all of it is drawn
    made.tempo.setValue(300)  # another tempo, not ranked for yet: what is shown is still of the first
    made.by.setCurrentIndex(1)
    assert "go at 100" in made.told.text() and made.list.rows.target == 100.0
    made.list.setCurrentRow(1)
    title = made.list.currentItem().data(Qt.ItemDataRole.UserRole).title
    qtbot.keyClick(made.list, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.open_book.phrase.title == title, timeout=20000)


def test_stopping_says_so_and_a_wrong_place_is_told(qtbot, dialog):
    _, made, book = dialog
    made.rank_place(book)
    assert made.cancel.isVisible()
    made.cancel.click()
    assert "Stopped" in made.told.text() and not made.cancel.isVisible()
    empty = book.parent / "empty"
    empty.mkdir()
    with qtbot.waitSignal(made.worker.refused, timeout=20000):
        made.rank_place(empty)
    assert "no tunes" in made.told.text()


def test_the_phrases_of_the_book_are_set_side_by_side_by_any_measure_and_turned_to(qtbot, dialog):
    window, made, _ = dialog
    with qtbot.waitSignal(made.worker.answered, timeout=120000):
        made.rank_of("book")
    assert made.list.count() == sum(bool(p.events) for p in window.open_book.book.phrases)
    made.by.setCurrentIndex(made.by.findData("largest-jump"))
    jumps = [
        made.list.item(n).data(Qt.ItemDataRole.UserRole).measures["largest-jump"] for n in range(made.list.count())
    ]
    assert jumps == sorted(jumps) and jumps[0] < jumps[-1]
    made.list.setCurrentRow(made.list.count() - 1)
    title = made.list.currentItem().data(Qt.ItemDataRole.UserRole).title
    qtbot.keyClick(made.list, Qt.Key.Key_Return)
    assert window.open_book.phrase.title == title


def test_a_shape_on_other_strings_is_ranked_and_one_added_to_the_book(qtbot, dialog):
    window, made, _ = dialog
    before = len(window.open_book.book.entries)
    with qtbot.waitSignal(made.worker.answered, timeout=60000):
        made.rank_of("frets")
    assert made.list.count() > 3 and "adds one" in made.told.text()
    rows = [made.list.item(n).data(Qt.ItemDataRole.UserRole).title for n in range(made.list.count())]
    assert "where it is" in rows and "1 fret up" in rows
    made.list.setCurrentRow(rows.index("1 fret up"))
    qtbot.keyClick(made.list, Qt.Key.Key_Return)
    assert len(window.open_book.book.entries) == before + 1 and window.open_book.phrase.title == "1 fret up"


def test_a_phrase_without_parts_says_so(qtbot, dialog):
    _, made, _ = dialog
    with qtbot.waitSignal(made.worker.refused, timeout=60000):
        made.rank_of("parts")
    assert "no parts" in made.told.text()
