"""Standard MIDI Files: what is written comes back, what is played is put on a grid, what is broken is one sentence.

Checked against the outside: mido, which reads what is written on its own terms, and music21's reader.
"""

from __future__ import annotations

import io
from dataclasses import replace
from fractions import Fraction

import mido
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bench.midi import share_right
from dromic.core.editing import edit
from dromic.core.music.phrase import Bar, Event, Note, Phrase
from dromic.core.music.songbook import empty_phrase
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.formats.midi.midi import midi_bytes, not_carried, read_midi
from dromic.formats.text.quick_line import parse, write
from tests.examples import examples
from tests.phrases import GUITAR, phrases


def line(text):
    return parse(text, empty_phrase("x", GUITAR), GUITAR).phrase


def facts(phrase):
    return [(e.onset, [(n.pitch, n.duration, n.string, n.fret) for n in e.notes]) for e in phrase.events]


@given(phrases(plain=True))
@examples(60)
def test_what_is_written_comes_back(phrase):
    sounds = [(o, replace(n, **_placed(n))) for o, n in edit.sounds_of(phrase) if o + n.duration <= phrase.end]
    phrase = edit.with_sounds(phrase, [s for s in sounds if _even(s[0]) and _even(s[1].duration)])
    phrase = edit.change(phrase, edit.Span(Fraction(0), phrase.end), lambda n: n)
    if not phrase.events:
        return
    again = read_midi(midi_bytes(phrase, GUITAR))
    assert facts(again) == facts(phrase)
    assert again.tempo == pytest.approx(phrase.tempo, abs=0.01) and again.instrument == GUITAR
    held = [(b.start, b.length) for b in again.bars]
    assert held == [(b.start, b.length) for b in phrase.bars][: len(held)]


def test_an_end_on_the_grid_stays_there_whatever_the_beat_it_begins_in_is_divided_into():
    """A lone note in the middle of a dotted pickup was made twice as long."""
    metre = Metre(6, 8)
    bars = (Bar(0, Fraction(0), Fraction(1), metre, Fraction(2)), Bar(1, Fraction(1), Fraction(3), metre))
    notes = (Note(64, Fraction(1, 2), 1, 0), Note(64, Fraction(1, 4), 1, 0))
    made = Phrase(
        "x", (Event(Fraction(1, 2), notes[:1], 0), Event(Fraction(9, 4), notes[1:], 1)), bars, instrument=GUITAR
    )
    again = read_midi(midi_bytes(made, GUITAR))
    assert facts(again) == facts(made) and not again.notices


def _even(time):
    return 48 % time.denominator == 0 and time.denominator <= 4


def _placed(note):
    string, fret = GUITAR.places_of(note.pitch)[0]
    return {"string": string, "fret": fret}


def test_each_string_has_a_channel_and_another_reader_hears_the_same():
    from music21 import converter

    phrase = line("6.0!:q 5.2+4.2:e h4.4 | 1.3:w")
    data = midi_bytes(phrase, GUITAR)
    file = mido.MidiFile(file=io.BytesIO(data))
    played = {m.channel for t in file.tracks for m in t if m.type == "note_on"}
    assert played == {5, 4, 3, 0}
    loud = [m.velocity for t in file.tracks for m in t if m.type == "note_on" and m.velocity]
    assert max(loud) == loud[0] and min(loud) == loud[3]
    score = converter.parse(data, format="midi")
    heard = sorted((float(n.getOffsetInHierarchy(score)), p.midi) for n in score.recurse().notes for p in n.pitches)
    assert heard == sorted((float(o), n.pitch) for o, n in edit.sounds_of(phrase))


def test_repeats_are_written_out_and_said():
    phrase = line("|: 6.0:w :|3 6.3")
    assert [float(e.onset) for e in read_midi(midi_bytes(phrase, GUITAR)).events] == [0, 4, 8, 12]
    assert any("written out" in s for s in not_carried(phrase))


def track(notes, per=480, metre=None, tempo=None):
    file = mido.MidiFile(ticks_per_beat=per)
    made = mido.MidiTrack()
    if metre:
        made.append(mido.MetaMessage("time_signature", numerator=metre[0], denominator=metre[1]))
    if tempo:
        made.append(mido.MetaMessage("set_tempo", tempo=tempo))
    timed = [(a, 1, p) for a, b, p in notes] + [(b, 0, p) for a, b, p in notes]
    now = 0
    for at, on, pitch in sorted(timed):
        made.append(mido.Message("note_on", note=pitch, velocity=80 if on else 0, time=at - now))
        now = at
    file.tracks.append(made)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def test_what_was_played_by_hand_is_put_on_the_grid_and_said():
    # eighths, then a triplet, all a little off
    at = [3, 236, 484, 719, 962, 1118, 1283, 1439]
    found = read_midi(track([(a, a + 100, 60) for a in at], metre=(3, 4), tempo=600_000))
    assert [e.onset for e in found.events] == [Fraction(n, 6) for n in (0, 3, 6, 9, 12, 14, 16, 18)]
    assert found.tempo == 100 and found.bars[0].metre == Metre(3, 4)
    assert any("put on the grid" in s for s in found.notices)
    exact = read_midi(track([(a, a + 240, 60) for a in range(0, 1920, 240)]))
    assert exact.notices == () and write(exact).startswith("C4:e C4")


def test_tracks_are_parts_and_drums_are_none():
    file = mido.MidiFile()
    for channel, pitch in ((9, 36), (0, 50), (1, 60)):
        made = mido.MidiTrack()
        made.append(mido.Message("note_on", channel=channel, note=pitch, velocity=70))
        made.append(mido.Message("note_off", channel=channel, note=pitch, time=480))
        file.tracks.append(made)
    out = io.BytesIO()
    file.save(file=out)
    assert read_midi(out.getvalue()).events[0].notes[0].pitch == 50
    assert read_midi(out.getvalue(), part=2).events[0].notes[0].pitch == 60
    with pytest.raises(DromicError, match="no part 3"):
        read_midi(out.getvalue(), part=3)


@pytest.mark.parametrize(
    "data, words",
    [
        (b"MThd", "damaged"),
        (b"RIFF1234", "damaged"),
        (midi_bytes(line("6.0:w"), GUITAR)[:-20], "damaged|no notes"),
        (track([]), "no notes"),
        (track([(0, 480 * 4 * 100_000, 60)]), "bars"),
    ],
)
def test_broken_files_are_one_sentence(data, words):
    with pytest.raises(DromicError, match=words):
        read_midi(data)


@given(st.binary(max_size=60), st.integers(0, 200), st.integers(0, 255))
@examples(150)
def test_whatever_the_bytes_it_is_a_phrase_or_one_sentence(tail, at, byte):
    good = bytearray(midi_bytes(line("6.0:e 6.3 5.2:q r:h"), GUITAR))
    good[at % len(good)] = byte
    for data in (bytes(good), bytes(good[: at % len(good)]) + tail):
        try:
            assert read_midi(data).events
        except DromicError as error:
            assert "\n" not in str(error)


def test_notes_without_a_string_come_back_without_one():
    made = line("C3:q E3 3.5 G3")
    back = read_midi(midi_bytes(made, GUITAR))
    assert [e.notes[0].string for e in back.events] == [None, None, 3, None]
    tracks = mido.MidiFile(file=io.BytesIO(midi_bytes(made, GUITAR))).tracks
    programs = {m.program for track in tracks for m in track if m.type == "program_change"}
    assert programs == {25}


@pytest.mark.parametrize(
    ("pattern", "tempo", "jitter", "least"),
    [
        ("eighths", 160, 15, 0.99), ("sixteenths", 160, 15, 0.99), ("gallops", 160, 15, 0.99), ("eighths", 200, 15, 0.97),
        ("sixteenths", 200, 15, 0.97), ("gallops", 200, 15, 0.97), ("triplets", 160, 15, 0.97), ("eighths", 120, 30, 0.90),
        ("strummed quarters", 120, 5, 0.99),
    ],
)  # fmt: skip
def test_what_was_played_by_hand_is_read_where_it_belongs(pattern, tempo, jitter, least):
    """The share of notes at their place in takes of eight bars, Gaussian jitter of so many ms; the takes are drawn from fixed
    seeds. `./run bench --midi` prints more."""
    assert share_right(pattern, tempo, jitter, range(6)) >= least


@pytest.mark.parametrize(("late", "ratio"), [(0.6, Fraction(3, 2)), (0.667, Fraction(2)), (0.75, Fraction(3))])
def test_swung_eighths_are_read_as_swing(late, ratio):
    swung = take([b + o for b in range(16) for o in (0.0, late)])
    phrase = read_midi(swung)
    assert phrase.swing.ratio == ratio and {e.onset % 1 for e in phrase.events} == {Fraction(0), Fraction(1, 2)}
    assert any("swung" in s for s in phrase.notices)
    triplets = read_midi(take([b + o for b in range(16) for o in (0.0, 0.335, 0.66)]))
    assert triplets.swing.ratio == 1 and triplets.events[1].onset == Fraction(1, 3)


def test_a_hand_that_comes_late_throughout_is_followed():
    phrase = read_midi(take([0.5 * n + 0.09 for n in range(32)]))
    assert [e.onset for e in phrase.events] == [Fraction(n, 2) for n in range(32)]


def test_a_last_note_a_little_early_begins_a_bar_of_its_own():
    phrase = read_midi(take([0.5 * n - (0.04 if n == 16 else -0.01) for n in range(17)]))
    assert [e.onset for e in phrase.events] == [Fraction(n, 2) for n in range(17)]
    assert phrase.events[-1].bar == 2 and len(phrase.bars) == 3


def take(onsets):
    """Notes at these times in quarters, a little off the grid, at 120 a minute."""
    file, track, now = mido.MidiFile(type=0, ticks_per_beat=960), mido.MidiTrack(), 0
    for n, at in enumerate(onsets):
        start = round(at * 960) + (n * 7) % 11
        track.append(mido.Message("note_on", note=60 + n % 12, velocity=80, time=start - now))
        track.append(mido.Message("note_off", note=60 + n % 12, velocity=0, time=200))
        now = start + 200
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def test_bends_go_out_and_come_back():
    line = parse("3.5^1:q 3.7^2r 3.5^=1r 3.7^0.5 | 2.5:q 2.7 2.5 2.3", empty_phrase("x", GUITAR), GUITAR).phrase
    again = read_midi(midi_bytes(line, GUITAR))
    assert [(n.bend, n.marks) for e in again.events for n in e.notes] == [
        (n.bend, n.marks) for e in line.events for n in e.notes
    ]


def test_a_wheel_of_the_usual_range_and_a_little_vibrato():
    """Range 2 semitones where nothing is said, as MIDI 1.0 has it: half way up is one semitone; a wobble is no bend."""
    track = mido.MidiTrack([mido.Message("note_on", note=60, velocity=80), mido.Message("pitchwheel", pitch=4096, time=240),
                            mido.Message("note_off", note=60, time=240), mido.Message("pitchwheel", pitch=0),
                            mido.Message("note_on", note=62, velocity=80), mido.Message("pitchwheel", pitch=600, time=240),
                            mido.Message("note_off", note=62, time=240)])  # fmt: skip
    file = mido.MidiFile(type=0, ticks_per_beat=480)
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    notes = [e.notes[0] for e in read_midi(out.getvalue()).events]
    assert (notes[0].bend, notes[0].marks) == (1.0, {"bend"}) and not notes[1].marks
