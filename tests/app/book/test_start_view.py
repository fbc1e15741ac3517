"""What a window opens on: a plan played before one's eyes, demos, recent work as it was saved, the hints and the guide."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt, QUrl
from PyQt6.QtGui import QTextDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from dromic import presets
from dromic.app.book.start_view import LIVE, StartView, demo_glance
from dromic.app.frame.guide import GUIDE, Guide
from dromic.app.kit import theme
from dromic.app.window.hints import HINTS
from dromic.app.window.window import MainWindow, demo_songbook
from dromic.core.reports.glance import as_json, from_json, glance_of
from dromic.formats.table import read
from dromic.presets import DATA
from dromic.store.glances import MOST_KEPT, Glances, read_glance
from tests.build import phrase, planned
from tools.glances import demo_plan

WAIT = 20000
DEMOS = presets.data("demos.toml")["demo"]


@pytest.mark.parametrize("demo", DEMOS, ids=[d["player"] for d in DEMOS])
def test_the_glance_that_ships_is_that_of_the_plan_its_demo_opens_with(demo):
    made = glance_of(demo_plan(demo["tune"]))
    shown = demo_glance(demo["player"])
    assert from_json(json.loads(json.dumps(as_json(shown)))) == shown
    assert shown.title == made.title and shown.ceiling == pytest.approx(made.ceiling)
    assert [(n.strings, n.frets, n.fingers, n.stroke) for n in shown.notes] == [
        (n.strings, n.frets, n.fingers, n.stroke) for n in made.notes
    ]


def test_a_glance_begins_so_that_the_worst_place_is_seen():
    shown = demo_glance(LIVE)
    worst = max(shown.notes, key=lambda n: max(n.pick, n.fret))
    start = shown.from_s(4.0)
    assert start <= worst.at_s < start + 4.0 and start + 4.0 <= shown.end_s + 1e-6
    assert shown.from_s(1000.0) == 0.0  # all of it fits


@pytest.mark.parametrize("broken", [
    "", "{", "[]", "null", '{"notes": []}', '{"notes": [{}], "strings": 6}', "1e999", "[" * 2000,
    json.dumps({**as_json(demo_glance(LIVE)), "strings": 1}), json.dumps({**as_json(demo_glance(LIVE)), "notes": []}),
])  # fmt: skip
def test_what_is_no_glance_is_none(tmp_path, broken):
    file = tmp_path / "x.json"
    file.write_text(broken)
    assert read_glance(file) is None and read_glance(tmp_path / "missing") is None


def test_glances_are_kept_by_songbook_and_the_oldest_go(tmp_path):
    shelf, shown = Glances(tmp_path / "glances"), glance_of(planned(phrase([(3, 5), (2, 5), (3, 7)])))
    for n in range(MOST_KEPT + 3):
        shelf.keep(tmp_path / f"{n}.dromic", shown)
    assert len(list(shelf.folder.iterdir())) == MOST_KEPT and shelf.of(tmp_path / f"{MOST_KEPT + 2}.dromic") == shown
    assert shelf.of(tmp_path / "never.dromic") is None
    blocked = tmp_path / "file"
    blocked.write_text("")
    Glances(blocked / "inside").keep(tmp_path / "a.dromic", shown)  # cannot be kept, and does no harm


def test_recent_work_is_shown_as_it_was_saved_and_nothing_is_planned(qtbot, demo_window, tmp_path, monkeypatch):
    window = demo_window
    path = tmp_path / "evening.dromic"
    assert window.files.save_to(path)
    title, ceiling = window.plan.request.phrase.title, window.plan.ceiling
    window.settings.sync()
    monkeypatch.setattr("dromic.app.book.planning.solve_meant", lambda *a, **k: pytest.fail("planned at the start"))
    again = MainWindow(QSettings(window.settings.fileName(), QSettings.Format.IniFormat))
    qtbot.addWidget(again)
    again.show()
    again.start()
    view = again.pages.stack.currentWidget()
    assert isinstance(view, StartView) and again.focusWidget() is view.first
    card = next(c for c in view.cards if c.name == "evening.dromic")
    assert card.shown.title == title and card.shown.ceiling == pytest.approx(ceiling)
    assert title in card.accessibleName() and f"about {ceiling:.0f}" in card.accessibleName()
    before = card.grab().toImage()
    again.looks.set_theme(theme.DARK)
    assert card.grab().toImage() != before and view.live.theme is theme.DARK


def test_the_picture_moves_while_it_is_seen_and_a_demo_opens_at_its_phrase(qtbot, bare_window):
    window = bare_window
    window.start()
    view = window.pages.stack.currentWidget()
    still = view.live.grab().toImage()
    qtbot.waitUntil(lambda: view.live.at_s > 0.2 and view.live.grab().toImage() != still, timeout=5000)
    assert [c.name for c in view.cards[:4]] == [d["label"] for d in DEMOS]
    QTest.mouseClick(view.cards[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.plan is not None, timeout=WAIT)
    assert window.pages.place == "Plan" and window.open_book.number == DEMOS[1]["tune"]


def test_hints_go_as_they_are_followed_and_can_be_put_away_for_good(qtbot, bare_window):
    window, hints = bare_window, bare_window.hints
    window.start()
    assert not hints.isVisible()
    view = window.pages.stack.currentWidget()
    QTest.keyClick(view.first, Qt.Key.Key_Return)
    assert hints.isVisible() and hints.now.name == "write" and "1 of 5" in hints.words.text()
    for key in "0235":
        QTest.keyClicks(window.pages.write.grid, key)
        QTest.keyClick(window.pages.write.grid, Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: hints.now.name == "plan", timeout=5000)
    window.open_book.edit(read(demo_songbook(), 1), "something that hurts")
    QTest.keyClick(window, Qt.Key.Key_F3)
    qtbot.waitUntil(lambda: hints.now.name == "worst" and bool(window.plan.findings), timeout=WAIT)
    qtbot.waitUntil(lambda: any(f.remedy is not None for f in window.plan.findings), timeout=WAIT)
    QTest.keyClick(window, Qt.Key.Key_F8)
    qtbot.waitUntil(lambda: hints.now.name == "remedy" and "F9" in hints.words.text(), timeout=5000)
    while window.plan_place.findings.current().remedy is None:
        QTest.keyClick(window, Qt.Key.Key_F8)
    QTest.keyClick(window, Qt.Key.Key_F9)
    qtbot.waitUntil(lambda: hints.now.name == "weigh", timeout=WAIT)
    QTest.keyClick(window, Qt.Key.Key_F4)
    qtbot.waitUntil(lambda: not hints.isVisible(), timeout=60000)
    assert hints.now is None and hints.done == [h.name for h in HINTS]
    hints.begin_again()
    assert hints.isVisible()  # from the first on; what has been done already is passed at once
    hints.away.click()
    assert not hints.isVisible()
    hints.begin()
    assert not hints.isVisible() and hints.now is None


def test_the_guide_opens_in_the_window_with_its_pictures(qtbot, bare_window):
    bare_window.start()
    button = next(
        b
        for b in bare_window.pages.stack.currentWidget().findChildren(QPushButton)
        if b.text().startswith("The first five")
    )
    button.click()
    guide = bare_window.findChild(Guide)
    assert guide.isVisible() and "The first five minutes" in guide.page.toPlainText()
    bare_window.show_guide()
    assert bare_window.findChildren(Guide) == [guide]  # one is enough
    names = [line.split("](")[1].rstrip(")") for line in GUIDE.read_text("utf-8").splitlines() if line.startswith("![")]
    assert len(names) >= 4
    for name in names:
        assert (GUIDE.parent / name).is_file()
        assert guide.page.loadResource(QTextDocument.ResourceType.ImageResource.value, guide.page.document().baseUrl().resolved(
            guide.page.document().baseUrl().__class__(name))) is not None  # fmt: skip


def test_links_of_the_guide_lead_to_pictures_and_other_pages_and_back(qtbot):
    guide = Guide()
    qtbot.addWidget(guide)
    links = re.findall(r"(?<!!)\[[^]]+\]\(([^)#]+)\)", GUIDE.read_text("utf-8"))
    assert any(link.endswith(".png") for link in links) and "model.md" in links
    for link in links:
        assert (GUIDE.parent / link).is_file(), link
        guide.page.anchorClicked.emit(QUrl(link))
        text = guide.page.toPlainText()
        assert ("Back to the guide" in text) if link.endswith(".png") else len(text) > 1000
    guide.page.anchorClicked.emit(QUrl("guide.md"))
    assert "The first five minutes" in guide.page.toPlainText()


def test_a_guide_that_is_not_there_says_so(qtbot, tmp_path):
    guide = Guide(tmp_path / "none.md")
    qtbot.addWidget(guide)
    assert "not here" in guide.page.toPlainText()


def test_the_demos_name_phrases_of_the_songbook_that_ships():
    assert {d["player"] for d in DEMOS} == {"metal", "bluegrass", "jazz", "bass"}
    assert (
        all(Path(DATA / "songs" / f"{d['player']}.glance.json").is_file() for d in DEMOS) and demo_songbook().is_file()
    )
