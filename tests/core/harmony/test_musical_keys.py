"""Keys, degrees, chords and differences between passages.

Degrees and signatures are common knowledge; likely keys are checked against music21's own estimate on its fiddle tunes.
"""

from __future__ import annotations

from pathlib import Path

import pytest

from dromic.core.editing.differences import differences, parts_differ
from dromic.core.harmony.chords import chord_of
from dromic.core.harmony.musical_keys import key_of, likely_key, place_words
from dromic.core.music.songbook import empty_phrase
from dromic.core.values.errors import DromicError
from dromic.formats.table import read
from dromic.formats.text.quick_line import parse
from tests.phrases import GUITAR


def line(text):
    return parse(text, empty_phrase("x", GUITAR), GUITAR).phrase


@pytest.mark.parametrize(
    "text, name, fifths",
    [("D", "D", 2), ("Bm", "Bm", 2), ("f# minor", "F#m", 3), ("Eb", "Eb", -3), ("C major", "C", 0), ("G#m", "G#m", 5)],
)
def test_keys_are_read_and_signed(text, name, fifths):
    key = key_of(text)
    assert key.name == name and key.fifths == fifths
    with pytest.raises(DromicError, match="not a key"):
        key_of("H")


def test_notes_are_in_the_key_or_outside_and_in_their_chord():
    assert place_words(66, key_of("D")) == "degree 3 of D major"
    assert place_words(65, key_of("D")) == "outside D major"
    assert place_words(47, key_of("Em"), chord_of((40, 47))) == "degree 5 of E minor, 5th of E power"
    assert place_words(46, key_of("Em"), chord_of((40, 47))) == "outside E minor, no note of E power"


@pytest.mark.filterwarnings("ignore")
def test_likely_keys_agree_with_another_estimate():
    import music21
    from music21 import converter

    folder = Path(music21.__file__).parent / "corpus" / "ryansMammoth"
    agree, count = 0, 0
    for path in sorted(folder.glob("*.abc"))[:120:6]:
        theirs = converter.parse(path, forceSource=True).analyze("key.krumhanslkessler")
        ours = likely_key(read(path))
        count += 1
        agree += (ours.tonic, ours.mode) == (theirs.tonic.pitchClass, theirs.mode)
    assert agree >= 0.8 * count
    assert likely_key(empty_phrase("x", GUITAR)) is None


def test_differences_are_told_in_order():
    one = line("6.0:q 5.2 4.2_ r | 6.3:w")
    assert differences(one, one) == []
    other = line("6.0:q h5.3 4.2 3.0 | 6.3:w | r:w")
    assert differences(one, other) == [
        "bars: 2, there 3",
        "bar 1, beat 2: 5.2, there 5.3",
        "bar 1, beat 3: 4.2 marks palm-mute, there none",
        "bar 1, beat 4: nothing, there 3.0",
    ]
    twice = line("6.0:q 5.2 4.2 r | 6.0 p5.2 4.2 r")
    assert parts_differ(twice, (0, 0), (1, 1)) == ["bar 1, beat 2: 5.2 sounded not said, there pull"]
