"""Parts of a phrase and its shape elsewhere, set side by side; ranked by any measure on the command line."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest

from dromic import presets
from dromic.cli.main import main
from dromic.core.editing.variants import HERE, VARIANTS, variants_of
from dromic.core.music.phrase import Section
from dromic.core.reports.comparison import NUMBERED
from dromic.core.reports.ranking import RANKS
from dromic.core.values.errors import DromicError
from tests.broken import DEMO
from tests.build import phrase, planned

GUITAR = presets.instruments()["guitar"]
LINE = phrase([(4, 5), (4, 7), (3, 5), (3, 7)] * 8, tempo=120)


def test_parts_are_cut_out_and_a_phrase_without_any_says_so():
    parted = replace(LINE, sections=(Section("A", 0, 0), Section("B", 1, 1)))
    assert [(name, len(made.events), made.title) for name, made in variants_of(parted, "parts", GUITAR)] == [
        ("A", 16, "A"), ("B", 16, "B"),
    ]  # fmt: skip
    with pytest.raises(DromicError, match="no parts"):
        variants_of(LINE, "parts", GUITAR)


@pytest.mark.parametrize("kind", ["strings", "pitches", "frets"])
def test_elsewhere_keeps_what_it_says_it_keeps(kind):
    found = dict(variants_of(LINE, kind, GUITAR))
    assert found[HERE].events == LINE.events and len(found) > 2
    for made in found.values():
        pairs = [(a.notes[0], b.notes[0]) for a, b in zip(LINE.events, made.events, strict=True)]
        if kind == "strings":
            assert all(a.fret == b.fret for a, b in pairs)
        elif kind == "pitches":
            assert all(a.pitch == b.pitch for a, b in pairs)
        else:
            assert len({b.fret - a.fret for a, b in pairs}) == 1 and all(a.string == b.string for a, b in pairs)


def test_measures_that_players_count_by_hand():
    """Six notes on strings 6 5 4 1 4 5: worked by hand."""
    jumpy = planned(phrase([(6, 5), (5, 5), (4, 5), (1, 5), (4, 5), (5, 5)], tempo=60), "alternate")
    told = {name: NUMBERED[name].of(jumpy) for name in NUMBERED}
    assert told["largest-jump"] == 3 and told["strings-skipped"] == 4 and told["strings-spanned"] == 5
    spacing = jumpy.request.instrument.pick_spacing_mm
    assert told["pick-travel-in-string-spacings"] == pytest.approx(told["pick-travel"] / spacing)
    assert told["strokes-a-second"] == pytest.approx(6 / 1.25)  # six sixteenths at 60, from the first to the last


def test_palm_lifts_are_counted_by_bar_and_second():
    marked = replace(LINE, events=tuple(
        replace(e, notes=tuple(replace(n, marks=frozenset({"palm-mute"})) for n in e.notes)) if k % 4 < 2 else e
        for k, e in enumerate(LINE.events)
    ))  # fmt: skip
    plan = planned(marked)
    assert NUMBERED["palm-lifts-a-bar"].of(plan) == 4 and NUMBERED["palm-lifts-a-second"].of(plan) == pytest.approx(
        8 / (31 / 8)
    )


def test_every_measure_and_every_kind_can_be_asked_for_on_the_command_line(capsys):
    assert set(NUMBERED) <= set(RANKS)
    for kind in set(VARIANTS) - {"parts"}:
        assert main(["rank", str(DEMO), "--of", kind, "--tune", "9", "--by", "shift-travel", "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        values = [one["measures"]["shift-travel"] for one in told["tunes"]]
        assert values == sorted(values) and len(values) > 1
    assert main(["rank", str(DEMO), "--of", "parts", "--tune", "9"]) == 2
    assert "no parts" in capsys.readouterr().err
