"""What a player plays: chosen once, on the start view or on the page of the hands, and what then begins in it."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.book.school_cards import SETTING, TALL, kinds, school_of
from dromic.app.book.start_view import StartView
from dromic.core.music.songbook import empty_phrase
from dromic.core.music.stated_positions import resolve_positions
from dromic.core.plan.request import Request
from dromic.core.search.planner import plan
from dromic.formats.text.quick_line import parse

TUNE = "X:1\nT:Made up\nM:4/4\nL:1/8\nQ:1/4=100\nK:D\nBdef afed|Bdef d4|\n"


@pytest.mark.parametrize("kind", kinds(), ids=[k["name"] for k in kinds()])
def test_the_strokes_of_a_card_are_those_of_its_line_in_its_school(kind):
    instrument = presets.instruments()[kind["instrument"]]
    line = resolve_positions(parse(kind["line"], empty_phrase("x", instrument), instrument).phrase, instrument)
    school = presets.schools()[kind["school"]]
    found = plan(Request(line, instrument, presets.players()["fluent"], school))
    assert [n.stroke for n in found.leads] == kind["strokes"] and len(kind["strokes"]) == 8


def test_what_is_played_is_asked_once_and_new_work_begins_in_its_school(qtbot, bare_window, tmp_path):
    window = bare_window
    window.start()
    view = window.findChild(StartView)
    jazz = next(c for c in view.school_cards.cards if c.kind["name"] == "jazz")
    jazz.setFocus()
    QTest.keyClick(jazz, Qt.Key.Key_Space)
    assert window.settings.value(SETTING) == "jazz" and jazz.isChecked()
    path = tmp_path / "tune.abc"
    path.write_text(TUNE)
    window.open_file(path)
    qtbot.waitUntil(lambda: window.plan is not None, timeout=20000)
    assert window.planning.choices.school == "economy" == window.plan.request.school.name
    window.new_book()
    assert window.open_book.choices.school == "economy"
    # a phrase with a word of its own keeps it
    own = window.open_book.phrase
    window.open_book.edit(
        type(own)(**{**{f: getattr(own, f) for f in ("title", "events", "bars")}, "school": "sweep"}), "x"
    )
    assert window.open_book.choices.school == "sweep"


@pytest.mark.parametrize("tall", [740, 800])
def test_nothing_of_the_start_view_is_squashed(qtbot, bare_window, tmp_path, tall):
    """Asked before the first phrase alone: with work to go on with there is no room for both."""
    window = bare_window
    window.resize(1280, tall)
    window.start()
    view = window.findChild(StartView)
    qtbot.waitUntil(lambda: view.isVisible() and view.height() > 500, timeout=5000)
    for card in view.school_cards.cards:
        assert card.visibleRegion().boundingRect().height() == card.height() == TALL
    path = tmp_path / "tune.abc"
    path.write_text(TUNE)
    window.open_file(path)
    qtbot.waitUntil(lambda: window.plan is not None, timeout=20000)
    window.files.save_to(tmp_path / "evening.dromic")
    window.start()
    later = window.pages.stack.currentWidget()
    assert later.school_cards is None and any(card.name == "evening.dromic" for card in later.cards)


def test_it_is_not_asked_again_and_can_be_changed_with_the_hands(qtbot, bare_window, tmp_path):
    window = bare_window
    window.handing_on.play_kind("fiddle")
    window.start()
    assert window.findChild(StartView).school_cards is None
    path = tmp_path / "tune.abc"
    path.write_text(TUNE)
    window.open_file(path)
    qtbot.waitUntil(lambda: window.plan is not None, timeout=20000)
    assert window.plan.request.school.name == "pulse"
    window.pages.go_to("Hands")
    place = window.pages.stack.currentWidget()
    rock = next(c for c in place.school_cards.cards if c.kind["name"] == "other")
    assert next(c for c in place.school_cards.cards if c.isChecked()).kind["name"] == "fiddle"
    rock.click()
    qtbot.waitUntil(lambda: window.plan is not None and window.plan.request.school.name == "free", timeout=20000)
    assert school_of(window.settings.value(SETTING)) == "free" and school_of("nothing known") == ""


def test_plan_says_first_where_a_phrase_lies_far_from_its_ceiling(qtbot, bare_window, tmp_path):
    window = bare_window
    path = tmp_path / "tune.abc"
    path.write_text(TUNE)
    window.open_file(path)
    qtbot.waitUntil(lambda: window.plan is not None, timeout=20000)
    verdict = window.plan_place.verdict
    assert verdict.words.text().startswith("Fits at 100 with room to spare: it would go ")
    assert verdict.words.y() < verdict.ceiling.y() or verdict.layout().indexOf(verdict.words) == 0
    fast = 990.0
    window.plan_place.panel.tempo.setValue(fast)
    qtbot.waitUntil(lambda: window.plan is not None and window.plan.request.phrase.tempo == round(fast), timeout=20000)
    assert verdict.words.text().startswith("Far too fast at ") and "it is planned as it goes" in verdict.words.text()
