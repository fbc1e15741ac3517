"""Tablature in the shapes it is passed around in; our own licks, written as people write theirs."""

from __future__ import annotations

import pytest

from dromic.core.values.pitch import note_name
from dromic.formats.text.quick_line import write
from dromic.formats.text.tab_text import read_tab

WITH_RHYTHM = """
title: Ferry Bell
tempo: 96 or so
length  q  e e  h
E4 |----------0------|
B3 |-------1---------|
G3 |----0------------|
D3 |-----------------|
A2 |-3---------------|
E2 |-----------------|
"""
PALM = """
   P.M.---|
e|-----------------|
B|-----------------|
G|-----------------|
D|-----------------|
A|---------2-------|
E|-0-0-0-0---------|
"""
BASS = """
G|-------------------|
D|-----------2-------|
A|-------2-----------|
E|-0---3-------------|
"""
SEVEN = "\n".join(
    ["E|---------|", "B|---------|", "G|---------|", "D|---------|", "A|---------|", "E|-------0-|", "B|-0-0-0---|"]
)
REPEAT = """
e|:-----------:|
B|:-----------:|
G|:-----------:|
D|:-----------:|
A|:-2-2-2-2---:|
E|:-----------:|
"""
SLIDES = """
e|-5/7-------------|
B|-----8p5---------|
G|---------7b9r----|
D|--------------7~-|
A|-----------------|
E|-----------------|
"""
HARMONICS = """
e|-<12>----|
B|-<12>----|
G|---------|
D|---------|
A|---------|
E|---------|
"""
DROPPED = "\n".join(["D|-----|", "A|-----|", "F|-----|", "C|-----|", "G|-0---|", "C|-0---|"])
DOUBLED = """
E4 ||--0--||--3--||
B3 ||-----||-----||
G3 ||-----||-----||
D3 ||-----||-----||
A2 ||-----||-----||
E2 ||-----||-----||
"""


def test_a_rhythm_line_and_a_head_are_taken_at_their_word():
    found = read_tab(WITH_RHYTHM.encode())
    assert found.title == "Ferry Bell" and found.tempo == 96.0
    assert write(found) == "5.3 3.0:e 2.1 1.0:h"
    assert not any("lengths" in s for s in found.notices)


def test_palm_mutes_above_the_strings():
    found = read_tab(PALM.encode())
    assert ["palm-mute" in e.notes[0].marks for e in found.events] == [True] * 4 + [False]


@pytest.mark.parametrize(
    "text, tuning, notes",
    [
        (BASS, "E1 A1 D2 G2", [(4, 0), (4, 3), (3, 2), (2, 2)]),
        (SEVEN, "B1 E2 A2 D3 G3 B3 E4", [(7, 0), (7, 0), (7, 0), (6, 0)]),
        (DROPPED, "C2 G2 C3 F3 A3 D4", [(6, 0), (5, 0)]),
    ],
)
def test_other_instruments_and_tunings(text, tuning, notes):
    found = read_tab(text.encode())
    assert " ".join(note_name(n) for n in found.instrument.tuning) == tuning
    assert [(n.string, n.fret) for e in found.events for n in e.notes] == notes


def test_repeats_between_colons():
    found = read_tab(REPEAT.encode())
    (bar,) = found.bars
    assert bar.repeat_start and bar.repeat_times == 2 and len(found.events) == 4


def test_signs_on_the_strings():
    found = read_tab(SLIDES.encode())
    notes = [n for e in found.events for n in e.notes]
    assert [(n.string, n.fret, n.attack) for n in notes] == [
        (1, 5, None), (1, 7, "slide"), (2, 8, None), (2, 5, "pull"), (3, 7, None), (4, 7, None),
    ]  # fmt: skip
    assert notes[4].bend == 2.0 and {"bend", "release"} <= notes[4].marks and "vibrato" in notes[5].marks
    harmonic = read_tab(HARMONICS.encode())
    assert all("harmonic" in n.marks and n.fret == 12 for n in harmonic.events[0].notes)
    assert len(harmonic.events) == 1 and len(harmonic.events[0].notes) == 2


def test_doubled_lines_part_bars_once():
    found = read_tab(DOUBLED.encode())
    assert len(found.bars) == 2 and [n.fret for e in found.events for n in e.notes] == [0, 3]
    assert found.bars[1].start == found.events[1].onset
