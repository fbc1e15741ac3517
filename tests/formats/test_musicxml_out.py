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
from xml.etree.ElementTree import Element

import pytest
import xmlschema
from defusedxml.ElementTree import fromstring
from hypothesis import given
from hypothesis import strategies as st

from dromic.core.editing import edit
from dromic.core.harmony.musical_keys import key_of
from dromic.core.harmony.spelling import spelled
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import empty_phrase
from dromic.core.values.errors import DromicError
from dromic.core.values.note_lengths import signs_of
from dromic.core.values.vocabulary import PLUCKERS, SLID_TO
from dromic.formats.document.document import read_songbook
from dromic.formats.text.quick_line import parse
from dromic.formats.xml.musicxml_write import compressed_bytes, musicxml_bytes, not_carried
from dromic.formats.xml.notation import read_musicxml
from tests.examples import examples
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
    return replace(edit.with_sounds(phrase, sounds), school=None)


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
@examples(60)
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
    if not any("section" in notice for notice in not_carried(phrase)):
        assert [replace(s, name=" ".join(s.name.split())) for s in again.sections] == list(phrase.sections)
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
    assert data.count(b"<grace") == 4  # on either staff
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
    assert text.count("<actual-notes>3") == 6 and text.count("<tuplet ") == 2  # the bracket once, over the notation


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


def test_a_staff_of_notation_stands_over_the_tablature():
    line = parse("5.0:s 5.2 5.3 4.0 4.2:e 3.0:s r 3.1:q 2.1:q", empty_phrase("x", GUITAR), GUITAR).phrase
    root = fromstring(musicxml_bytes(line, GUITAR).decode().split("\n", 2)[2])
    staves: dict[str, list[Element]] = {"1": [], "2": []}
    for note in root.iter("note"):
        staves[note.findtext("staff") or ""].append(note)
    beams = [[b.text for b in note.findall("beam")] for note in staves["1"]]
    # four sixteenths; an eighth and a sixteenth with its second beam a hook; a rest, a quarter and a half with none
    assert beams == [
        ["begin", "begin"], ["continue", "continue"], ["continue", "continue"], ["end", "end"], ["begin"],
        ["end", "backward hook"], [], [], [],
    ]  # fmt: skip
    assert [n.findtext("stem") for n in staves["1"]] == ["up"] * 4 + ["up"] * 2 + [None, "up", "down"]
    assert {n.findtext("stem") for n in staves["2"] if n.find("rest") is None} == {"none"}
    assert all(n.find("notations/technical/string") is None for n in staves["1"])
    assert facts(read_musicxml(musicxml_bytes(line, GUITAR))) == facts(line)


@pytest.mark.parametrize(
    ("key", "names"),
    [("Bb", "Bb C D Eb E F Gb"), ("D", "Bb C# D Eb E F# G#"), ("F#m", "A# C# D D# E# G"), ("Cm", "Bb Db D Eb F# B")],
)
def test_notes_are_spelled_as_their_key_has_them(key, names):
    """The harmonic chromatic scale of a key, as any primer of harmony spells it; music21 spells it alike."""
    from music21 import pitch as theirs

    for name in names.split():
        number = theirs.Pitch(name.replace("b", "-") + "4").midi
        letter, alter, octave = spelled(number, key_of(key))
        assert letter + "#" * alter + "b" * -alter == name
        assert theirs.Pitch(f"{letter}{'#' * alter}{'-' * -alter}{octave}").midi == number


def test_what_is_kept_without_being_planned_is_said_once():
    line = parse("5.3{slap}:q 4.5{pop} 3.5{turn} 2.5{rake}", empty_phrase("x", GUITAR), GUITAR).phrase
    again = read_musicxml(musicxml_bytes(line, GUITAR))
    assert facts(again) == facts(line)
    assert [n for n in again.notices if "not planned" in n] == [
        "kept and shown, but not planned: pop, rake, slap, turn"
    ]
    with_more = musicxml_bytes(line, GUITAR).replace(b"<turn />", b"<turn /><mordent />")
    assert any(n.endswith("stands for it: mordent") for n in read_musicxml(with_more).notices)


def test_bars_that_are_too_long_or_too_short_are_said():
    line = parse("5.3:q 4.5 3.5 2.5 | 5.3:w | 5.3:w", empty_phrase("x", GUITAR), GUITAR).phrase
    three = musicxml_bytes(line, GUITAR).replace(b"<beats>4", b"<beats>3")
    assert any("bars 1, 2, 3 are longer" in n for n in read_musicxml(three).notices)
    five = musicxml_bytes(line, GUITAR).replace(b"<beats>4", b"<beats>5")
    assert any("shorter than the metre says" in n for n in read_musicxml(five).notices)
    assert read_musicxml(musicxml_bytes(line, GUITAR)).notices == ()


@pytest.mark.parametrize("phrase", [p for p in BOOK.phrases if not any("bend" in n.marks for e in p.events for n in e.notes)][:3],
                         ids=lambda p: p.title)  # fmt: skip
def test_an_engraver_reads_it_without_complaint(phrase, capfd):
    """verovio, which prints its complaints; it knows no bend on tablature, so phrases without are tried."""
    import verovio

    verovio.enableLog(verovio.LOG_WARNING)
    toolkit = verovio.toolkit()
    assert toolkit.loadData(musicxml_bytes(phrase, phrase.instrument or GUITAR).decode())
    drawn = toolkit.renderToSVG(1)
    assert capfd.readouterr().err == ""
    count = sum(len(e.notes) for e in phrase.events)
    assert drawn.count('class="note"') >= count and drawn.count('class="beam"') > 0


@pytest.mark.parametrize("octave", [b"9" * 400, b"-7", b"12"])
def test_an_octave_that_no_pitch_has_is_one_sentence(octave):
    line = parse("5.3:q 4.5", empty_phrase("x", GUITAR), GUITAR).phrase
    with pytest.raises(DromicError, match="octave is"):
        read_musicxml(musicxml_bytes(line, GUITAR).replace(b"<octave>3", b"<octave>" + octave, 1))
