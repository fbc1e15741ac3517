"""Takes that were kept: found again by phrase, thrown away and brought back, and never in the way when a file is damaged."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

import pytest

from dromic.core.practice.log_pass import PhraseName
from dromic.core.values.errors import DromicError
from dromic.store.takes import KeptTake, Takes

ONE = KeptTake(
    datetime(2026, 11, 20, 19), "Reel", "a take", 96.5, 7.25, 1.5, ((0, 1.5, "ok"), (1, None, "missed")), ".flac"
)


@pytest.fixture
def takes(tmp_path):
    return Takes(tmp_path / "takes")


def test_what_is_kept_is_found_by_its_phrase(takes):
    assert takes.of(PhraseName("Reel")) == ()
    later = replace(ONE, at=datetime(2026, 11, 22, 8))
    other = replace(ONE, at=datetime(2026, 11, 21), phrase="Jig", suffix=".mid")
    for take in (later, other, ONE):
        takes.keep(take, b"sound of it")
    assert [take.at.day for take in takes.of(PhraseName("Reel"))] == [20, 22]
    first = takes.of(PhraseName("Reel"))[0]
    assert first == replace(ONE, size=11) and first.fine == 1 and takes.sound(first) == b"sound of it"


def test_thrown_away_is_brought_back_until_it_is_cleared(takes):
    kept = takes.keep(ONE, b"sound")
    takes.throw(kept)
    assert takes.of(PhraseName("Reel")) == ()
    takes.bring_back(kept)
    assert takes.of(PhraseName("Reel")) == (kept,) and takes.sound(kept) == b"sound"
    takes.throw(kept)
    takes.clear()
    takes.bring_back(kept)
    assert takes.of(PhraseName("Reel")) == () and not [path for path in takes.folder.rglob("*") if path.is_file()]


def test_damaged_entries_are_left_out_and_a_missing_sound_is_told(takes):
    kept = takes.keep(ONE, b"sound")
    beside = next(takes.folder.rglob("*.flac")).parent
    for number, text in enumerate(("", "[]", "{", '{"notes": [1]}', '{"at": "never", "notes": []}')):
        (beside / f"{number}.json").write_text(text)
    assert takes.of(PhraseName("Reel")) == (kept,)
    (beside / f"{kept.number}.flac").unlink()
    with pytest.raises(DromicError, match="cannot be read"):
        takes.sound(kept)
    takes.throw(kept)  # what is left of it
    assert takes.of(PhraseName("Reel")) == ()
