"""MusicXML as Dromic writes it: valid by the 4.0 schema, read back the same, and read alike by another reader.

The schema file is the W3C Music Notation Community Group's, as a package of the registry ships it.
"""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from functools import cache
from importlib.metadata import distribution
from pathlib import Path

import pytest
import xmlschema
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.core.music import edit
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import empty_phrase
from dromic.core.values.note_lengths import signs_of
from dromic.core.values.vocabulary import PLUCKERS, SLID_TO
from dromic.formats.document.document import read_songbook
from dromic.formats.text.quick_line import parse
from dromic.formats.xml.musicxml_write import compressed_bytes, musicxml_bytes, not_carried
from dromic.formats.xml.notation import read_musicxml
from tests.phrases import GUITAR, phrases

BOOK = read_songbook(Path("dromic/data/songs/copper-wren.dromic").read_bytes())


@cache
def schema() -> xmlschema.XMLSchema:
    files = {
        Path(str(f)).name: Path(str(f.locate())) for f in distribution("musicxml").files or () if f.suffix == ".xsd"
    }
    links = Path(xmlschema.__file__).parent / "schemas" / "XLINK"
    text = files["musicxml_4_0.xsd"].read_text()
    text = re.sub(r'schemaLocation="[^"]*xml\.xsd"', f'schemaLocation="{files["xml.xsd"]}"', text)
    text = re.sub(r'schemaLocation="[^"]*xlink\.xsd"', f'schemaLocation="{next(links.glob("*.xsd"))}"', text)
    return xmlschema.XMLSchema(text, allow="local")


def flat(phrase: Phrase) -> Phrase:
    """A phrase with what the score has a place for: each event as long as its longest note up to the next; no grace
    notes, whose time is the reader's."""
    sounds = []
    for i, event in enumerate(phrase.events):
        following = phrase.events[i + 1].onset if i + 1 < len(phrase.events) else phrase.end
        length = min(following - event.onset, max(n.duration for n in event.notes))
        for n in event.notes:
            marks = n.marks - {"grace"} - (frozenset() if "bend" in n.marks else {"release", "prebend"})
            attack = "pluck" if n.stroke in PLUCKERS else None if n.attack == "pluck" else n.attack
            if n.stroke in ("down", "up") and attack == "slide":
                attack = "pick"  # a slide whose target is struck
            slid = n.attack == "slide" != attack or (SLID_TO in marks and n.attack in (None, "pick", "pluck"))
            marks = marks | {SLID_TO} if slid else marks - {SLID_TO}
            attack = "pick" if slid and attack is None else attack
            sounds.append((event.onset, replace(n, duration=length, marks=marks, attack=attack)))
    return replace(edit.with_sounds(phrase, sounds), school=None, sections=())


def facts(phrase: Phrase) -> list[object]:
    return [
        (
            e.onset,
            [
                (n.pitch, n.duration, n.string, n.fret, n.finger, n.attack, n.stroke, n.marks, n.bend, n.tremolo)
                for n in e.notes
            ],
        )
        for e in phrase.events
    ]


@given(phrases())
@settings(max_examples=60)
def test_what_is_written_is_valid_and_comes_back(phrase):
    phrase = flat(phrase)
    if not phrase.events:
        return
    data = musicxml_bytes(phrase, GUITAR)
    errors = [f"{e.path}: {e.reason}" for e in schema().iter_errors(data.decode().split("\n", 2)[2])]
    assert errors == []
    again = read_musicxml(data)
    assert facts(again) == facts(phrase)
    assert [(b.start, b.length, b.metre, b.repeat_start, b.repeat_times, b.endings) for b in again.bars] == [
        (b.start, b.length, b.metre, b.repeat_start, b.repeat_times, b.endings) for b in phrase.bars
    ]
    assert (again.tempo, again.swing) == (phrase.tempo, phrase.swing)
    assert again.title.split() == (phrase.title.split() or ["untitled"])  # spaces of any sort are one
    assert again.instrument == GUITAR and again.key == phrase.key


@pytest.mark.parametrize("phrase", BOOK.phrases, ids=lambda p: p.title)
def test_another_reader_finds_the_same_notes(phrase):
    from music21 import converter

    instrument = phrase.instrument or GUITAR
    score = converter.parseData(musicxml_bytes(phrase, instrument).decode(), format="musicxml")
    found = []
    for element in score.parts[0].flatten().stripTies().notes:
        for pitch in element.pitches:
            found.append((Fraction(element.offset), pitch.midi, Fraction(element.duration.quarterLength)))
    ours = [(e.onset, n.pitch, n.duration) for i, e in enumerate(phrase.events) for n in e.notes]
    if not_carried(phrase) and "sound into" in " ".join(not_carried(phrase)):
        found, ours = [f[:2] for f in found], [o[:2] for o in ours]
    assert sorted(found) == sorted(ours)


def test_grace_notes_go_out_and_come_back():
    phrase = parse("6.0:q 5.2:3/4 4.2{grace}:t 4.4{grace} 5.3:q r | r:w", empty_phrase("x", GUITAR), GUITAR).phrase
    data = musicxml_bytes(phrase, GUITAR)
    assert data.count(b"<grace") == 2
    again = read_musicxml(data)
    assert facts(again) == facts(phrase) and not_carried(phrase) == []


def test_what_is_left_out_is_said():
    line = parse("6.0=h:q 5.2 r:h", empty_phrase("x", GUITAR), GUITAR).phrase
    assert "end with it" in not_carried(line)[0]
    lone = parse("6.0{grace}:q r:h.", empty_phrase("x", GUITAR), GUITAR).phrase
    assert any("grace" in s for s in not_carried(lone))
    assert not_carried(replace(line, school="sweep"))[-1] == "the school"


@given(st.fractions(min_value=Fraction(1, 64), max_value=16, max_denominator=64))
def test_lengths_are_written_as_signs_that_sum_to_them(length):
    assert sum((s.length for s in signs_of(length)), Fraction(0)) == length


def test_tuplets_are_bracketed_and_timed():
    phrase = parse("6.0:e3 6.2 6.3 5.0:q r:h", empty_phrase("x", GUITAR), GUITAR).phrase
    text = musicxml_bytes(phrase, GUITAR).decode()
    assert text.count("<actual-notes>3") == 3 and text.count("<tuplet ") == 2


def test_endings_of_several_bars_come_back():
    line = parse("|: 3.5:w | [1] 3.7:w | [1] 3.8:w | [1] 3.10:w :| [2] 3.5:w", empty_phrase("x", GUITAR), GUITAR).phrase
    back = read_musicxml(musicxml_bytes(line, GUITAR))
    assert [b.endings for b in back.bars] == [b.endings for b in line.bars] == [(), (1,), (1,), (1,), (2,)]
    assert back.playing_order() == line.playing_order() == [0, 1, 2, 3, 0, 4]


def test_a_compressed_score_is_the_same_score():
    line = parse("3.5:q 3.7", empty_phrase("x", GUITAR), GUITAR).phrase
    packed = compressed_bytes(line, GUITAR)
    assert facts(read_musicxml(packed)) == facts(line) and packed == compressed_bytes(line, GUITAR)


def test_only_a_tablature_staff_states_strings():
    """Other readers take a staff that does for tablature."""
    names = parse("C3:q E3", empty_phrase("x", GUITAR), GUITAR).phrase
    assert b"staff-tuning" not in musicxml_bytes(names, GUITAR)
    assert read_musicxml(musicxml_bytes(names, GUITAR)).instrument == GUITAR
    assert b"staff-tuning" in musicxml_bytes(parse("3.5:q", empty_phrase("x", GUITAR), GUITAR).phrase, GUITAR)
