"""Notes that go on sounding: which they are, and that their fingers stay. Common practice."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.core.line.held_notes import notes_held
from dromic.core.music.songbook import empty_phrase
from dromic.core.setup.pin import Pin
from dromic.formats.text.quick_line import parse
from tests.build import fingers, planned
from tests.phrases import GUITAR


def line(text):
    return parse(text, empty_phrase("x", GUITAR), GUITAR).phrase


def held(text):
    phrase = line(text)
    return notes_held(phrase, range(-1, len(phrase.events) - 1))


def test_a_note_goes_on_until_its_string_sounds_again_or_its_bar_ends():
    assert held("4.5*:q 3.5 4.7 3.7") == [(), ((4, 5),), (), ()]
    assert held("4.5*:q 3.5* 2.5 r | 1.5:q r:h.") == [(), ((4, 5),), ((3, 5), (4, 5)), ()]


def test_a_note_goes_on_by_its_length_if_it_sounds_through_most_of_the_next():
    assert held("5.3=h:q 4.2 2.1 r") == [(), ((5, 3),), ()]
    assert held("5.3=5/4:q 4.2 2.1 r") == [(), (), ()]  # an overlap of a quarter of the next note is chance
    assert held("5.0=w:q 4.2 2.1 r") == [(), (), ()]  # an open string needs no finger
    assert held("5.3=w:q t4.12 r r") == [(), ((5, 3),)]


def test_an_ending_holds_nothing_of_the_other():
    phrase = line("4.5=h:q 3.5 r:h | 2.5:q r:h.")
    assert notes_held(phrase, (-1, 0, -1)) == [(), ((4, 5),), ()]


@pytest.mark.parametrize("text", ["5.3=w:e 4.2 2.1 3.0 2.3 1.0 2.1 4.2", "5.3*:e 4.2* 2.1 3.0 2.3 1.0 2.1 r"])
def test_what_goes_on_sounding_keeps_its_finger(text):
    found = planned(line(text), "fingers")
    assert found.notes[0].finger == "3" and "3" not in fingers(found)[1:]


def test_what_cannot_go_on_is_let_go_and_costs():
    far = line("6.1=w:q 5.12 6.1 r")
    alone = replace(
        far, events=tuple(replace(e, notes=tuple(replace(n, duration=1) for n in e.notes)) for e in far.events)
    )
    found = planned(far, "alternate")
    assert found.cost > planned(alone, "alternate").cost
    told = [f for f in found.findings if f.rule == "cannot-ring"]
    assert len(told) == (found.notes[0].finger == found.notes[1].finger)
    assert "cannot-ring" not in [f.rule for f in planned(alone, "alternate").findings]


def test_what_cannot_ring_is_told():
    found = planned(line("3.5*:q 1.17* 3.5* r"), "alternate", pins=(Pin(0, 0, "finger", "1"), Pin(1, 0, "finger", "1")))
    told = next(f for f in found.findings if f.rule == "cannot-ring")
    assert told.notes == (0, 1) and "finger 1 is wanted at note 2" in told.text and told.advice
