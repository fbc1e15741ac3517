"""Drills of real plans: each is a phrase that can be planned, with the strokes and fingers of the plan it came from."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise
from math import gcd

import pytest

from dromic import presets
from dromic.core.drills.drill import BOTH, FRETTING, PICKING, Material
from dromic.core.drills.drill_kinds import BY_NAME, KINDS, drills_of, words_of
from dromic.core.drills.hand_drills import pairs_used
from dromic.core.drills.passage import Step, even, laid, opened, steps_of, unpicked
from dromic.core.drills.together_drills import CIRCLE, comes_round
from dromic.core.search.planner import plan
from dromic.core.setup.choices import Choices
from dromic.core.values.vocabulary import UNSTRUCK
from dromic.formats.table import read
from dromic.formats.text.quick_line import write
from dromic.plan_requests import request_for
from tests.broken import DEMO
from tests.build import EIGHTH, phrase


def material_of(tune: int, school: str = "alternate", **more: object) -> Material:
    phrase = read(DEMO, tune)
    made = plan(request_for(phrase, Choices(school=school, tempo=phrase.tempo), presets.players()))
    return Material(made, presets.practice(), phrase.tempo, **more)  # type: ignore[arg-type]


@pytest.fixture(scope="module")
def reel() -> Material:
    return material_of(2)


def test_every_kind_of_drill_comes_up_somewhere():
    seen = {drill.kind for tune in range(1, 12) for drill in drills_of(material_of(tune, "free"))}
    assert seen == set(BY_NAME)


def test_each_has_a_reason_a_passage_and_a_phrase_that_can_be_planned(reel):
    for drill in drills_of(reel):
        assert drill.reason and drill.phrase.events and drill.hand == BY_NAME[drill.kind].hand
        assert all(0 <= e < len(reel.plan.events) for e in drill.events)
        if drill.hand != FRETTING:
            chosen = Choices(school="free", tempo=reel.target, strokes=True, fingers=True)
            again = plan(request_for(drill.phrase, chosen, presets.players()))
            strokes = [n.stroke for e in drill.phrase.events for n in e.notes if n.stroke]
            assert [n.stroke for n in again.notes if n.stroke in ("down", "up")][: len(strokes)] == strokes
        assert write(drill.phrase)


def test_a_passage_has_the_strokes_fingers_and_strings_of_its_plan(reel):
    drill = next(d for d in drills_of(reel) if d.kind == "join")
    ours = [(n.string, n.fret, n.finger, n.stroke) for e in drill.phrase.events for n in e.notes]
    theirs = [(n.string, n.fret, n.finger, n.stroke) for e in drill.events for n in reel.plan.events[e]]
    assert ours == theirs


def test_the_hardest_move_stands_in_the_first_drill_of_both_hands(reel):
    worst = max(reel.plan.moves, key=lambda m: m.load)
    first = next(d for d in drills_of(reel) if d.hand == BOTH)
    assert first.kind == "move" and worst.to in first.events and 2 <= len(first.events) <= 5


def test_what_the_log_knows_as_slow_comes_before_what_is_a_little_harder(reel):
    ranked = sorted(reel.plan.moves, key=lambda m: -m.load)
    held = dict.fromkeys(range(len(reel.plan.events)), reel.target) | {ranked[8].to: 0.2 * reel.target}
    known = Material(reel.plan, reel.settings, reel.target, held)
    assert ranked[8].to in {m.to for m in known.hardest}


def test_the_picking_hand_alone_has_the_same_strokes_and_the_same_count_on_every_string(reel):
    drill = next(d for d in drills_of(reel) if d.kind == "open")
    struck = [n for e in drill.events for n in reel.plan.events[e] if n.attack not in UNSTRUCK]
    ours = [n for e in drill.phrase.events for n in e.notes]
    assert [(n.string, n.stroke) for n in ours] == [(n.string, n.stroke) for n in struck]
    assert {n.fret for n in ours} == {0}


def test_the_fretting_hand_alone_strikes_nothing(reel):
    for drill in drills_of(reel):
        if drill.kind == "hammered":
            attacks = [n.attack for e in drill.phrase.events for n in e.notes]
            assert set(attacks) <= {"hammer", "pull", "hammer-new"}


def test_all_six_pairs_of_fingers_begun_on_either_in_triplets_on_every_string(reel):
    trills = [d for d in drills_of(reel) if d.kind == "trill"]
    assert {d.key for d in trills} == {a + b for a in "1234" for b in "1234" if a != b}
    strings = len(reel.plan.request.instrument.tuning)
    for drill in trills:
        notes = [e.notes[0] for e in drill.phrase.events]
        assert [n.finger for n in notes[:2]] == list(drill.key)
        assert len({n.string for n in notes}) == strings
        assert all(n.duration == Fraction(1, 3) for n in notes)
    # twelve drills on every string: twelve times the strings
    assert sum(len({n.string for e in d.phrase.events for n in e.notes}) for d in trills) == 12 * strings
    used = pairs_used(reel)
    assert used[frozenset(trills[0].key)] >= used[frozenset(trills[-1].key)]


@pytest.mark.parametrize(
    ("cell", "per_beat", "beats", "want"), [(4, 3, 4, (12, 12)), (6, 4, 4, (12, 48)), (5, 4, 4, (20, 80))]
)
def test_where_a_cell_comes_round_again(cell, per_beat, beats, want):
    """Four notes in triplets: after 12 notes, 4 beats; six in sixteenths: after 12 notes, in four-four after 48."""
    assert comes_round(cell, per_beat, beats) == want
    notes = next(n for n in range(cell, 1000, cell) if n % per_beat == 0)  # counted out
    assert notes == want[0] == cell * per_beat // gcd(cell, per_beat)


def test_round_the_keys_once_through_all_twelve_a_fourth_on_each_time():
    assert sorted(CIRCLE) == list(range(12))
    assert all((b - a) % 12 == 5 for a, b in pairwise(CIRCLE))


def test_one_note_faster_and_slower_never_jumps(reel):
    drill = next(d for d in drills_of(reel) if d.kind == "ramp")
    paces = [bar.pace for bar in drill.phrase.bars]
    assert min(paces) == 0.5 and max(paces) == 1.0
    assert all(0.87 < b / a < 1.15 for a, b in pairwise(paces))
    strokes = [e.notes[0].stroke for e in drill.phrase.events]
    assert all(a != b for a, b in pairwise(strokes))


def test_the_seam_is_there_when_it_repeats(reel):
    seams = [d for d in drills_of(reel) if d.kind == "seam"]
    assert len(seams) == len(reel.plan.seams) > 0
    assert seams[0].events[0] > seams[0].events[-1]


def test_which_hand_first_and_what_is_left_out():
    both = material_of(3), material_of(3, first_hand=PICKING)
    assert [next(iter(drills_of(m))).hand for m in both] == [FRETTING, PICKING]
    left = {d.kind for d in drills_of(both[0], without=("trill", "circle"))}
    assert not left & {"trill", "circle"} and "move" in left


def test_steps_are_laid_one_after_the_other_with_room_to_the_bar(reel):
    steps = steps_of(reel.plan, range(6))
    made = laid(even(steps, (Fraction(1, 3),)), "x", 90.0, reel.plan.request.instrument)
    assert [e.onset for e in made.events] == [Fraction(n, 3) for n in range(6)]
    assert made.end == 4 and made.tempo == 90.0
    assert sum((s.length for s in opened(steps, reel.plan.request.instrument)), Fraction(0)) == sum(
        (s.length for s in steps), Fraction(0)
    )


def test_names_of_the_log_in_words():
    assert words_of("move:3-6") == "The hard move, notes 4 to 7"
    assert words_of("trill:34") == "Trills, 34" and words_of("of my own") == "of my own"
    assert len({kind.name for kind in KINDS}) == len(KINDS)


def test_every_hand_off_of_the_plan_is_in_its_drill(reel):
    drill = next(d for d in drills_of(reel) if d.kind == "hand-offs")
    fingers = [n.notes[0].finger for n in drill.phrase.events]
    drilled = {(a, b) for a, b in zip(fingers[::2], fingers[1::2], strict=True)}
    needed = set()
    for move in reel.plan.onward:
        a, b = (reel.plan.events[e][0].finger for e in (move.start, move.to))
        if a in "1234" and b in "1234" and (a != b or move.fret_kind == "roll"):
            needed.add((a, b))
    assert drilled == needed


def test_other_places_keep_the_pitches_and_say_what_breaks():
    material = material_of(3)
    for drill in [d for d in drills_of(material) if d.kind == "places"]:
        old = [n.pitch for e in drill.events for n in material.plan.events[e]]
        new = [n.pitch for e in drill.phrase.events for n in e.notes]
        assert set(new) <= set(old) and (len(new) == len(old) or "beyond the board" in drill.reason)
        instrument = material.plan.request.instrument
        assert all(n.pitch == instrument.pitch_at(n.string, n.fret) for e in drill.phrase.events for n in e.notes)


def test_drills_have_the_metre_and_the_swing_of_their_phrase():
    for tune in range(1, 12):
        material = material_of(tune, "free")
        whole = next(d for d in drills_of(material) if d.kind == "whole")
        assert whole.phrase.bars[0].metre == material.metre and whole.phrase.swing == material.plan.request.phrase.swing


def test_the_fretting_hand_alone_leaves_an_open_string_silent_that_nothing_is_pulled_off_to():
    line = phrase([(5, 5), (4, 7), (5, 0), (5, 3), (5, 0)])
    steps = [Step(event.notes, EIGHTH) for event in line.events]
    attacks = [[(n.fret, n.attack) for n in step.notes] for step in unpicked(steps)]
    assert attacks == [[(5, "hammer-new")], [(7, "hammer-new")], [], [(3, "hammer-new")], [(0, "pull")]]
