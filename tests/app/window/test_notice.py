"""The sentence above the pages: how long it stays."""

from __future__ import annotations

from dromic.app.frame import notice as notices


def test_a_sentence_that_was_read_goes_with_its_page_and_a_new_one_comes_along(qtbot, bare_window, monkeypatch):
    window = bare_window
    window.show()
    window.notify("bad.xml, line 1: it breaks off", False)
    window.pages.go_to("Write")
    assert window.notice.isVisible()  # it was said on the way
    monkeypatch.setattr(notices, "READ_MS", 10)
    qtbot.wait(30)
    window.pages.go_to("Write")
    assert window.notice.isVisible()  # nowhere else yet
    window.pages.go_to("Plan")
    assert not window.notice.isVisible()
    window.notify("another", True)
    assert window.notice.isVisible() and window.notice.text() == "another"
    window.notify("", True)
    assert not window.notice.isVisible()
