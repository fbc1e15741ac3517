"""One's own instrument: measured, kept, exported and imported, taken for a phrase, saved with it, planned by command."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.write.instrument_dialog import InstrumentDialog
from dromic.cli.main import main
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.store.instrument_shelf import InstrumentShelf, instrument_bytes
from tests.broken import DEMO

LONG = replace(
    presets.instruments()["guitar7"],
    label="Long neck",
    scale_mm=686.0,
    nut_spacing_mm=7.4,
    bridge_spacing_mm=10.2,
    action_mm=1.5,
)


def test_an_instrument_is_kept_and_read_again(tmp_path):
    shelf = InstrumentShelf(tmp_path / "instruments")
    assert shelf.instruments() == {}
    assert shelf.put(LONG) == "long-neck"
    found = shelf.instruments()["long-neck"]
    assert found == replace(LONG, name="long-neck") and float(found.fret_mm(12)) == pytest.approx(343.0)
    (tmp_path / "instruments" / "bad.toml").write_text("scale_mm = 5\n")
    assert set(shelf.instruments()) == {"long-neck"} and "bad.toml" in shelf.notices[0]
    shelf.drop("long-neck")
    assert shelf.instruments() == {}


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("scale_mm = 5", "must lie between 400 and 1000"),
        ("strings = 6", "no measure of an instrument"),
        ("tuning = 5", "no instrument"),
        ("scale_mm = [", "not an instrument file"),
        ("frets = 'x'", "frets"),
    ],
)
def test_a_wrong_file_is_one_clear_sentence(tmp_path, text, said):
    path = tmp_path / "mine.toml"
    path.write_text(text)
    with pytest.raises(DromicError, match=said):
        presets.instrument_from_file(path)


def test_a_command_plans_on_an_instrument_file(tmp_path, capsys):
    path = tmp_path / "long.toml"
    path.write_bytes(instrument_bytes(LONG))
    # the second tune has no low string beyond six
    spans = []
    for instrument in ("guitar7", str(path)):
        assert main(["plan", str(DEMO), "--tune", "2", "--instrument", instrument, "--json"]) == 0
        spans.append(json.loads(capsys.readouterr().out)["plans"][0]["totals"]["pick_travel_mm"])
    ratio = LONG.pick_spacing_mm / presets.instruments()["guitar7"].pick_spacing_mm
    assert spans[1] != spans[0] and spans[1] / spans[0] == pytest.approx(ratio, rel=0.2)
    assert main(["plan", str(DEMO), "--instrument", str(tmp_path / "none.toml")]) == 2
    assert "instrument file" in capsys.readouterr().err


def test_it_is_measured_in_the_window_and_saved_with_its_phrase(qtbot, demo_window, tmp_path):
    window = demo_window
    QTest.keyClick(window, Qt.Key.Key_F2)
    panel = window.pages.write.panel
    panel.instruments_folder = tmp_path / "mine"
    panel.instrument.setCurrentIndex(panel.instrument.findText("Your own, measured…"))
    panel.instrument.activated.emit(panel.instrument.currentIndex())
    assert panel.instrument.currentText() == "Guitar"
    dialog = panel.findChild(InstrumentDialog)
    dialog.label.setText("Short scale")
    dialog.numbers["scale_mm"].setValue(610.0)
    dialog.keep.click()
    assert "is kept" in dialog.said.text() and dialog.kept.currentText() == "Short scale"
    dialog.tuning.setText("E2,A2")
    dialog.take.click()
    assert "strings" in dialog.said.text() and dialog.isVisible()
    dialog.show_instrument(dialog.kept.currentData())
    dialog.take.click()
    phrase = window.open_book.phrase
    assert phrase.instrument.scale_mm == 610.0 and panel.instrument.currentText() == "Short scale"
    again = read_songbook(songbook_bytes(window.open_book.book)).entries[window.open_book.index].phrase
    assert again.instrument.scale_mm == 610.0 and again.instrument.label == "Short scale"
    assert again.events == phrase.events
