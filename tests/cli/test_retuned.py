"""On another instrument either the frets stay or the pitches do."""

from __future__ import annotations

import json

import pytest

from dromic import presets
from dromic.cli.main import main
from dromic.formats.table import read
from tests.broken import DEMO

LOW = "D2,G2,C3,F3,A3,D4"


@pytest.mark.parametrize(("what", "apart"), [("frets", -2), ("pitches", 0)])
def test_what_stays(capsys, what, apart):
    assert main(["plan", str(DEMO), "--tune", "1", "--instrument", LOW, "--retuned", what, "--json"]) == 0
    notes = json.loads(capsys.readouterr().out)["plans"][0]["notes"]
    written = [n for e in read(DEMO, 1).events for n in e.notes]
    assert {new["pitch"] - old.pitch for new, old in zip(notes, written, strict=True)} == {apart}
    if what == "frets":
        assert [n["fret"] for n in notes] == [n.fret for n in written]
    low = presets.instrument_named(LOW)
    assert all(low.pitch_at(n["string"], n["fret"]) == n["pitch"] for n in notes)
