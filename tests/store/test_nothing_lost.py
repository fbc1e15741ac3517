"""Nothing that a player did is lost: kept aside however steadily it changes, asked about, and not written over unasked."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QMessageBox

from dromic.app.book.files import LEAVE, OVERWRITE, RELOAD, SAVE_AS, Files
from dromic.app.window.window import demo_songbook
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.store import recovery
from dromic.store.recovery import Leftover, Slot, leftovers
from dromic.store.saving import clear_leftovers, save
from dromic.store.stamp import has_changed, stamp_after

BUTTON = QMessageBox.StandardButton


def retitled(window, title):
    window.open_book.edit(replace(window.open_book.phrase, title=title), "title")


def title_of(path):
    return read_songbook(path.read_bytes()).titles[0]


@pytest.fixture
def own_window(qtbot, bare_window, tmp_path):
    """A window on a songbook of the player's own."""
    path = tmp_path / "mine.dromic"
    shutil.copy(demo_songbook(), path)
    bare_window.open_file(path)
    qtbot.waitUntil(lambda: bare_window.open_book.path == path, timeout=20000)
    return bare_window


def test_steady_edits_are_kept_steadily(qtbot, own_window):
    kept = set()
    for number in range(30):  # an edit every 150 ms: never a pause as long as the timer's
        retitled(own_window, f"edit {number}")
        qtbot.wait(150)
        for copy in own_window.files.folder.glob("*.unsaved"):
            kept.add(copy.stat().st_mtime_ns)
    assert len(kept) >= 2


def test_what_is_kept_is_taken_away_once_all_is_saved(qtbot, own_window, tmp_path):
    retitled(own_window, "mine")
    qtbot.waitUntil(lambda: len(list(own_window.files.folder.glob("*.unsaved"))) == 1, timeout=5000)
    assert own_window.files.save()
    assert not list(own_window.files.folder.glob("*.unsaved"))
    retitled(own_window, "again")
    own_window.open_book.undo.undo()  # all is as it was saved
    qtbot.wait(1800)
    assert not list(own_window.files.folder.glob("*.unsaved"))


def test_edits_made_while_a_file_is_read_are_asked_about(qtbot, own_window, monkeypatch):
    asked = []
    monkeypatch.setattr(Files, "ask_unsaved", lambda files: asked.append(1) or BUTTON.Cancel)
    own_window.open_file(demo_songbook(), 3)
    retitled(own_window, "while it was read")
    qtbot.waitUntil(lambda: asked == [1], timeout=20000)
    qtbot.waitUntil(lambda: not own_window.files.reader.running)
    assert own_window.open_book.phrase.title == "while it was read" and own_window.open_book.unsaved
    assert "Not opened" in own_window.notice.text() and own_window.open_book.undo.count() == 1


def lost_copy(folder, data):
    """What a lost window left."""
    slot = Slot(folder)
    slot.keep(data, None)
    slot.leave()
    return leftovers(folder)


def test_a_lost_copy_is_forgotten_only_after_another_is_on_the_disk(qtbot, bare_window, monkeypatch, tmp_path):
    folder = bare_window.files.folder
    (left,) = lost_copy(folder, demo_songbook().read_bytes())

    def full(path, data, private):
        raise DromicError("not saved: the disk is full")

    with monkeypatch.context() as disk:
        disk.setattr(recovery, "save", full)
        bare_window.files.recover(left)
        qtbot.waitUntil(lambda: bare_window.open_book.unsaved, timeout=20000)
        assert left.slot.with_suffix(".unsaved").exists() and "cannot be kept aside" in bare_window.notice.text()
    bare_window.open_book.let_go()
    bare_window.files.recover(left)
    qtbot.waitUntil(lambda: not left.slot.with_suffix(".unsaved").exists(), timeout=20000)
    assert len(list(folder.glob("*.unsaved"))) == 1 and "save it to keep it" in bare_window.notice.text()


DAMAGED = {
    "garbage": b"\x00\xff" * 900,
    "empty": b"",
    "deep": b"[" * 100_000 + b"]" * 100_000,
    "a number": b"5",
    "another path": b'{"path": 5, "document": "x"}',
    "no text": b'{"path": null, "document": 5}',
}


@pytest.mark.parametrize("name", DAMAGED)
def test_a_damaged_copy_does_not_keep_the_window_from_starting(bare_window, name):
    folder = bare_window.files.folder
    folder.mkdir(exist_ok=True)
    (folder / "a.unsaved").write_bytes(DAMAGED[name])
    (folder / "b.unsaved").symlink_to("/nonexistent")
    (folder / "c.unsaved").mkdir()
    bare_window.start()
    assert leftovers(folder) == []


def test_a_folder_that_is_a_file_is_said(bare_window, tmp_path):
    bare_window.files.folder = tmp_path / "a file"
    bare_window.files.folder.write_text("no folder")
    bare_window.new_book()
    retitled(bare_window, "x")
    assert bare_window.files.keep_aside() is False and "cannot be kept aside" in bare_window.notice.text()
    assert leftovers(tmp_path / "a file") == []


def test_a_lost_window_says_what_its_file_was_like(tmp_path):
    path = tmp_path / "mine.dromic"
    path.write_bytes(b"as it was")
    stamp = stamp_after(path, b"as it was")
    slot = Slot(tmp_path / "recovery")
    slot.keep(b"unsaved", path, stamp)
    slot.leave()
    assert leftovers(tmp_path / "recovery") == [Leftover(slot.stem, b"unsaved", path, stamp)]


def test_whether_a_file_has_changed(tmp_path):
    path = tmp_path / "x"
    path.write_bytes(b"one")
    stamp = stamp_after(path, b"one")
    assert not has_changed(path, stamp)
    path.write_bytes(b"one")  # touched, nothing else
    assert not has_changed(path, stamp)
    path.write_bytes(b"two")
    assert has_changed(path, stamp) and has_changed(path, None)
    path.unlink()
    assert not has_changed(path, stamp)  # nothing there could be lost


@pytest.mark.parametrize("answer", [SAVE_AS, RELOAD, OVERWRITE, LEAVE])
def test_a_file_that_others_changed_is_not_written_over_unasked(qtbot, own_window, monkeypatch, tmp_path, answer):
    path = own_window.open_book.path
    retitled(own_window, "mine")
    save(path, songbook_bytes(replace(read_songbook(path.read_bytes()), title="theirs")))
    asked = []
    monkeypatch.setattr(Files, "ask_changed", lambda files, one: asked.append(one) or answer)
    monkeypatch.setattr(Files, "ask_save", lambda files: files.save_to(tmp_path / "other.dromic"))
    saved = own_window.files.save()
    assert asked == [path] and saved is (answer in (SAVE_AS, OVERWRITE))
    if answer == RELOAD:
        qtbot.waitUntil(lambda: own_window.open_book.book.title == "theirs", timeout=20000)
        (left,) = leftovers(own_window.files.folder)  # what was here is offered at the next start
        assert read_songbook(left.data).titles[0] == "mine"
    else:
        assert own_window.open_book.phrase.title == "mine"
        assert (title_of(path) == "mine") is (answer == OVERWRITE)
        assert (tmp_path / "other.dromic").exists() is (answer == SAVE_AS)
    own_window.files.save_to(own_window.open_book.path)
    assert own_window.files.save() and asked == [path]  # one's own saves are not asked about


def test_an_open_file_is_watched(qtbot, own_window):
    path = own_window.open_book.path
    save(path, songbook_bytes(replace(read_songbook(path.read_bytes()), title="theirs")))
    qtbot.waitUntil(lambda: "changed on disk" in own_window.notice.text(), timeout=10000)


def test_what_a_killed_save_left_is_cleared_but_not_what_is_being_written(tmp_path):
    import fcntl

    stale, busy, other = tmp_path / ".a.dromic.x1.dromic-new", tmp_path / ".b.dromic.x2.dromic-new", tmp_path / ".c.new"
    for path in (stale, busy, other):
        path.write_bytes(b"half")
    with busy.open("rb") as writer:
        fcntl.flock(writer, fcntl.LOCK_EX)
        assert clear_leftovers(tmp_path) == 1
    assert not stale.exists() and busy.exists() and other.exists()
    assert clear_leftovers(tmp_path / "nowhere") == 0


def test_a_link_that_leads_to_itself_is_said(tmp_path):
    path = tmp_path / "x.dromic"
    path.symlink_to(path)
    with pytest.raises(DromicError, match="link"):
        save(path, b"x")


def test_play_goes_on_after_a_close_that_was_called_off(qtbot, own_window, monkeypatch):
    retitled(own_window, "mine")
    monkeypatch.setattr(Files, "ask_unsaved", lambda files: BUTTON.Cancel)
    assert not own_window.close() and own_window.isVisible()
    own_window.transport.play()
    qtbot.waitUntil(lambda: own_window.transport.playing, timeout=20000)
    own_window.transport.stop()
    monkeypatch.setattr(Files, "ask_unsaved", lambda files: BUTTON.Discard)


def test_what_ships_is_not_saved_over(qtbot, demo_window, monkeypatch, tmp_path):
    before = demo_songbook().read_bytes()
    retitled(demo_window, "mine")
    monkeypatch.setattr(
        "dromic.app.book.files.QFileDialog.getSaveFileName", lambda *a, **k: (str(tmp_path / "own.dromic"), "")
    )
    assert demo_window.files.save() and demo_window.open_book.path == tmp_path / "own.dromic"
    assert demo_songbook().read_bytes() == before


@pytest.mark.parametrize("name", ["missing.dromic", "folder.dromic", "empty.dromic", "none", "x.xyz"])
def test_a_refused_open_leaves_what_was_there(qtbot, bare_window, tmp_path, name):
    path = tmp_path / name
    if name == "folder.dromic":
        path.mkdir()
    elif name != "missing.dromic":
        path.write_bytes(b"")
    bare_window.open_file(path)  # as from the command line
    qtbot.waitUntil(lambda: bare_window.pages.stack.starting, timeout=20000)
    assert name in bare_window.notice.text() and bare_window.pages.stack.starting
    bare_window.open_file(demo_songbook(), 3)
    qtbot.waitUntil(lambda: bare_window.plan is not None, timeout=20000)
    bare_window.open_file(path)
    qtbot.waitUntil(lambda: name in bare_window.notice.text(), timeout=20000)
    assert bare_window.open_book.phrase.title == "Five Oars" and bare_window.plan is not None
    assert Path(bare_window.open_book.source.path) == demo_songbook()


def test_what_no_file_could_be_opened_with_again_is_not_taken(qtbot, own_window):
    """Limits of files hold for what is written too: else it could be saved and never read."""
    open_book, before = own_window.open_book, own_window.open_book.phrase
    endless = (replace(before.bars[0], repeat_times=101), *before.bars[1:])
    for change in ({"title": "x" * 1001}, {"bars": endless}):
        open_book.edit(replace(before, **change), "too much")
        assert open_book.phrase == before and "Not done" in own_window.notice.text()
    open_book.edit(replace(before, title="x" * 1000), "long")
    open_book.copy_phrase()
    assert own_window.files.save() and read_songbook(open_book.path.read_bytes()).titles == open_book.book.titles
