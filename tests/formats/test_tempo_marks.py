"""A tempo that changes inside a phrase: kept bar by bar, heard, planned, and carried by every format that has tempo marks."""

from __future__ import annotations

import io
from dataclasses import replace

import mido
import pytest

from dromic import presets
from dromic.core.music.songbook import empty_phrase
from dromic.core.search.planner import plan
from dromic.core.setup.choices import Choices
from dromic.formats.abc.abc_read import read_abc
from dromic.formats.midi.midi import midi_bytes, read_midi
from dromic.formats.text.quick_line import parse
from dromic.formats.xml.musicxml_write import musicxml_bytes
from dromic.formats.xml.notation import read_musicxml
from dromic.plan_requests import request_for
from tests.phrases import GUITAR

LINE = "5.3:e 5.5 4.2 4.3 4.5 3.2 3.4 3.5 | pace=0.5 5.3:e 5.5 4.2 4.3 4.5 3.2 3.4 3.5 | pace=1 5.3:w"
SLOWER = replace(parse(LINE, empty_phrase("x", GUITAR), GUITAR).phrase, tempo=120.0)


def test_a_bar_at_half_the_pace_takes_twice_the_time():
    assert [SLOWER.seconds_at(bar.start) for bar in SLOWER.bars] == [0.0, 2.0, 6.0]
    assert SLOWER.seconds_at(SLOWER.end) == 8.0 and SLOWER.seconds_at(SLOWER.bars[1].start + 1) == 3.0


def test_the_ceiling_is_a_share_of_each_tempo():
    """The same notes: at half the pace throughout, the phrase's tempo may be twice as high."""
    steady = replace(SLOWER, bars=tuple(replace(b, pace=1.0) for b in SLOWER.bars))
    slow = replace(SLOWER, bars=tuple(replace(b, pace=0.5) for b in SLOWER.bars))
    ceilings = [plan(request_for(p, Choices(school="alternate"), presets.players())).ceiling
                for p in (steady, slow, SLOWER)]  # fmt: skip
    assert ceilings[1] == pytest.approx(2 * ceilings[0]) and ceilings[0] <= ceilings[2] < ceilings[1]


@pytest.mark.parametrize("way", ["midi", "xml", "abc"])
def test_tempo_marks_come_in_and_go_out(way):
    if way == "midi":
        again = read_midi(midi_bytes(SLOWER, GUITAR))
    elif way == "xml":
        again = read_musicxml(musicxml_bytes(SLOWER, GUITAR))
    else:
        again = read_abc(b"X:1\nM:4/4\nL:1/4\nQ:1/4=120\nK:C\nCDEF|[Q:1/4=60]CDEF|\nQ:1/4=120\nc4|")
    assert again.tempo == 120.0 and [b.pace for b in again.bars] == [1.0, 0.5, 1.0]
    assert any("tempo changes" in notice for notice in again.notices)


def test_what_changes_inside_a_bar_of_midi_is_evened_out_and_said():
    file = mido.MidiFile(type=1, ticks_per_beat=480)
    tempos = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=500_000),
                             mido.MetaMessage("set_tempo", tempo=1_000_000, time=2 * 480)])  # fmt: skip
    notes = mido.MidiTrack()
    for n in range(8):
        notes.append(mido.Message("note_on", note=60 + n, velocity=80))
        notes.append(mido.Message("note_off", note=60 + n, time=480))
    file.tracks += [tempos, notes]
    out = io.BytesIO()
    file.save(file=out)
    phrase = read_midi(out.getvalue())
    # two quarters of half a second and two of a whole one: three seconds, where steady ones would be two
    assert phrase.seconds_at(phrase.bars[1].start) == pytest.approx(3.0, abs=1e-5)
    assert phrase.seconds_at(phrase.end) == pytest.approx(7.0, abs=1e-5)
    assert any("inside 1 bar" in notice for notice in phrase.notices)
