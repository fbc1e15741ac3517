"""Lists of both hands worked by hand: rest and free strokes, waits, lifts, reaches, notes in their chord."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest

from dromic import presets
from dromic.core.editing.readings import with_words
from dromic.core.harmony.chords import chord_at, chord_of, chords_of, written_chord
from dromic.core.reports.places.lists import LISTS, places_of
from dromic.core.search.planner import plan
from dromic.core.setup.choices import Choices
from dromic.core.setup.player_settings import NUMBERS
from dromic.formats.table import read
from dromic.plan_requests import first_choices, request_for
from tests.broken import DEMO
from tests.build import EIGHTH, QUARTER, phrase, planned, request


def words(found, name: str) -> list[str]:
    return [place.words for place in places_of(found, name)]


def test_rest_strokes_say_where_they_land_and_free_ones_why_not():
    swept = planned(phrase([(5, 7), (4, 7), (3, 7), (2, 7), (1, 7)]), "sweep")
    told = words(swept, "touch")
    assert told[:4] == [f"down on string {s}: rest stroke, lands on string {s - 1}" for s in (5, 4, 3, 2)]
    assert told[4] == "down on string 1: free: beyond string 1 there is nothing to land on"
    slurred = planned(phrase([(3, 5), (3, 7), (3, 5)], attacks={1: "hammer", 2: "pull"}), "alternate")
    assert words(slurred, "touch") == ["down on string 3: free: a slur follows"]
    assert words(slurred, "first-attacks") == ["string 3 begins with down, the rest of it is slurred"]
    assert words(slurred, "plucks") == ["down on string 3, then 2 notes without a stroke"]


def test_the_pick_waits_while_the_fretting_hand_goes_on():
    line = phrase([(3, 5), (3, 7), (2, 5), (2, 7)], attacks={1: "hammer", 3: "hammer"}, tempo=60)
    assert words(planned(line, "alternate"), "waits")[0] == "the pick waits at string 2 for 1 note, 250 ms"


@pytest.mark.parametrize(("hold", "said"), [("lift", "lifts"), ("until-next", "lifts at the next note")])
def test_when_a_finger_lifts_follows_its_habit(hold, said):
    asked = request(phrase([(3, 5), (2, 6), (3, 5), (2, 6)], EIGHTH), "alternate")
    habits = replace(asked.player.habits, hold=hold)
    told = words(plan(replace(asked, player=replace(asked.player, habits=habits))), "lifts")
    assert told and all(said in one for one in told)


def test_the_index_is_timed_on_its_way_back_and_weak_pairs_are_listed():
    line = phrase([(5, 3), (4, 5), (3, 5), (2, 5), (1, 3)], EIGHTH, tempo=60)
    found = planned(line, "sweep")
    fingers = [notes[0].finger for notes in found.events]
    if fingers[0] == fingers[-1] == "1":
        assert words(found, "index") == ["the index comes back from string 5 to 1, 4 notes, 2000 ms"]
    pairs = [(a, b) for a, b in itertools.pairwise(fingers) if {a, b} in ({"3", "4"}, {"2", "4"})]
    assert len(words(found, "weak-pairs")) == len(pairs)


def test_a_reach_near_the_limit_comes_with_a_word_of_care():
    line = phrase([(6, 1), (6, 5), (6, 1), (6, 5)], EIGHTH)
    asked = request(line, "alternate")
    told = words(plan(asked), "reaches")
    assert told and "mm past its place at fret" in told[0]
    strict = next(n for n in NUMBERS if n.name == "caution")
    careful = replace(asked, player=strict.set(asked.player, 1))
    assert all("mind wrist and arm" in one for one in words(plan(careful), "reaches"))
    easy = replace(asked, player=strict.set(asked.player, 100))
    assert not any("mind" in one for one in words(plan(easy), "reaches"))


def test_shifts_say_what_goes_along():
    asked = request(phrase([(3, 2), (3, 3), (3, 12), (3, 14)], QUARTER), "alternate")
    assert "the arm goes along" in words(plan(asked), "shifts")[0]
    arm = next(n for n in NUMBERS if n.name == "arm")
    assert "wrist and thumb" in words(plan(replace(asked, player=arm.set(asked.player, 1000))), "shifts")[0]


@pytest.mark.parametrize(
    ("text", "root", "name"),
    [("Am7", 9, "minor seventh"), ("F#dim", 6, "diminished"), ("Bb", 10, "major"), ("E5: relax", 4, "power"),
     ("Gsus4", 7, "suspended fourth"), ("C/E", 0, "major"), ("D7", 2, "seventh")],
)  # fmt: skip
def test_chords_are_read_as_they_are_written(text, root, name):
    """Spellings as lead sheets have them; common practice."""
    chord = written_chord(text)
    assert chord is not None and (chord.root, chord.name) == (root, name)


@pytest.mark.parametrize("text", ["relax", "Ab initio", "H7", "And now", "Add air", ""])
def test_other_words_are_no_chord(text):
    assert written_chord(text) is None


def test_chords_agree_with_an_independent_library():
    """music21 (M. S. Cuthbert and C. Ariza, ISMIR 2010) names the same root for triads in any order of their notes, and
    for sevenths over their root (the same notes over another one are a sixth chord to some)."""
    from music21 import chord as other

    for shape in ((0, 4, 7), (0, 3, 7), (0, 3, 6), (0, 4, 7, 10), (0, 3, 7, 10), (0, 4, 7, 11)):
        for root in (40, 45, 52):
            pitches = tuple(root + step for step in shape)
            below = pitches[1] - 12 if len(shape) == 3 else root  # the third, as an inversion has it
            ours = chord_of((below, *pitches))
            assert ours is not None and ours.root == other.Chord(pitches).root().pitchClass


def test_notes_of_an_arpeggio_and_under_a_chord_written_are_told():
    line = phrase([(5, 3), (4, 2), (3, 0), (2, 1)], QUARTER)  # C E G C, one after another
    assert [c.words for c in chords_of(line)] == ["C major"] * 4
    assert [chord_at(line, n) for n in range(4)] == list(chords_of(line))
    told = words(planned(replace(line, key="C")), "tones")
    assert told[1] == "E3: degree 3 of C major, 3rd of C major"
    written = with_words(line, line.events[0].onset, line.events[0].notes[0], "Am7: from here", 0)
    assert [chord_at(written, n) for n in range(4)] == list(chords_of(written))
    assert words(planned(replace(written, key="C")), "tones")[2] == "G3: degree 5 of C major, 7th of Am7"


def test_every_list_of_the_demo_can_be_gone_through():
    for tune in (1, 3, 4, 7):
        line = read(DEMO, tune)
        found = plan(request_for(line, first_choices(line, Choices()), presets.players()))
        for one in LISTS:
            events = [place.event for place in places_of(found, one.name)]
            assert all(0 <= event < len(found.events) for event in events), one.name
    assert len({one.name for one in LISTS}) == len(LISTS)
