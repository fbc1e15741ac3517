"""What every plan must hold, whatever the school: the promises of the command line, told again from the notes alone."""

import itertools
from fractions import Fraction as F

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.setup.pin import Pin
from dromic.core.timing.beat_positions import places
from dromic.core.timing.pick_timing import Parity, Rhythm
from dromic.core.timing.playback_order import playback_of
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.vocabulary import UNSTRUCK
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned, strokes
from tests.examples import examples

SCHOOLS = tuple(presets.schools())
LENGTHS = st.sampled_from([SIXTEENTH, EIGHTH, F(1, 3), QUARTER, F(2)])
LINES = st.lists(st.tuples(st.integers(45, 66), LENGTHS), min_size=2, max_size=7)
PLANS = st.tuples(LINES, st.sampled_from(SCHOOLS), st.sampled_from(["never", "turnarounds", "anywhere"]))


def plan_of(wanted, **options):
    line, school, legato = wanted
    pitches, lengths = zip(*line, strict=True)
    legato = "never" if school == "pattern" else legato
    return planned(phrase(list(pitches), list(lengths), tempo=120), school, legato=legato, **options)


def geometry(before, now):
    """The kind of a move between two picked notes on single strings, from its strings and strokes."""
    towards_one = before.string - now.string
    if not towards_one:
        return "repeat" if before.stroke == now.stroke else "same-string"
    along = towards_one > 0 if before.stroke == "down" else towards_one < 0
    near = abs(towards_one) == 1
    if before.stroke == now.stroke:
        return ("carry-through" if near else "skip-through") if along else "back"
    return ("outside" if near else "skip-outside") if along else "inside" if near else "skip-inside"


@examples(60)
@given(PLANS)
def test_moves_are_named_by_where_they_go(wanted):
    found = plan_of(wanted)
    last = None
    for note in found.notes:
        move = found.arriving(note.event)
        if move is not None:
            if note.attack in UNSTRUCK:
                assert (move.pick_kind, move.pick_load, move.hops) == ("legato", None, 0)
            elif note.attack == "pluck":
                assert move.pick_kind == "pluck" and move.hops == 0
            else:
                assert move.pick_kind in ("rest", geometry(last, note) if last else "rest")
            assert (move.pick_from == last.event) if last else move.pick_from == -1
            assert move.pick_gap_ms is None or move.pick_gap_ms >= move.gap_ms - 1e-9
        if note.attack == "pick":
            last = note


@examples(60)
@given(PLANS)
def test_totals_are_what_the_notes_and_moves_come_to(wanted):
    found = plan_of(wanted)
    t, notes, moves = found.totals, found.notes, found.moves
    spacing = found.request.instrument.pick_spacing_mm
    assert t.picked == sum(n.attack == "pick" for n in notes)
    assert t.plucked == sum(n.attack == "pluck" for n in notes)
    assert t.picked + t.plucked + t.legato == len(notes)
    struck = [n for n in notes if n.attack in ("pick", "pluck")]
    picked = [n for n in notes if n.attack == "pick"]
    assert t.changes == sum(a.string != b.string for a, b in itertools.pairwise(struck))
    steps = sum(abs(a.string - b.string) for a, b in itertools.pairwise(picked))
    assert t.pick_travel_mm == pytest.approx(steps * spacing)
    assert t.buried_hops == sum(m.buried for m in moves) and t.hops == sum(m.hops for m in moves)
    assert found.ceiling is None or found.ceiling == pytest.approx(120 / max(m.load for m in moves))


@examples(40)
@given(PLANS)
def test_every_note_sounds_its_pitch_where_a_hand_can_be(wanted):
    found = plan_of(wanted)
    for note in found.notes:
        assert found.request.instrument.pitch_at(note.string, note.fret) == note.pitch
        assert (note.finger == "0") == (note.fret == 0)
        assert note.lean in ("up-clear",)
        assert note.rest_on is None or note.rest_on == note.string + (-1 if note.stroke == "down" else 1)


@examples(30)
@given(st.lists(st.tuples(st.integers(1, 6), st.integers(1, 7)), min_size=2, max_size=6))
def test_twelve_frets_up_the_same_fingering_reaches_no_further(notes):
    low = planned(phrase(notes), "free")
    pins = [
        Pin(n.event, 0, field, value)
        for n in low.notes
        for field, value in (("finger", n.finger), ("position", n.position + 12))
    ]
    try:
        high = planned(phrase([(s, f + 12) for s, f in notes]), "free", pins=tuple(pins))
    except DromicError:
        return  # fingers squeezed together more than this hand can
    assert high.totals.max_stretch_mm <= low.totals.max_stretch_mm + 1e-9


@pytest.mark.parametrize(("unit", "told"), [("compound", "DUDDUD"), ("compound-alternate", "DUDUDU")])
def test_jigs_follow_the_compound_rule_chosen(unit, told):
    jig = phrase([(3, f) for f in (2, 4, 5, 4, 2, 0)] * 2, EIGHTH, metre=Metre(6, 8))
    assert strokes(planned(jig, "pulse", pulse=unit)) == told * 2


def test_the_swing_is_told_from_the_shortest_gap_within_a_beat():
    line = phrase([(6, 0)] * 7, [EIGHTH, SIXTEENTH, SIXTEENTH, QUARTER, QUARTER, QUARTER, QUARTER])
    rhythm = Rhythm(line, playback_of(line, False))
    parity = Parity(rhythm, [True] * 7, [True] * 7)
    # eighth and two sixteenths: two of the smallest steps; then one; a quarter after them is four; quarters are one
    assert [parity.of(i, i + 1) for i in range(6)] == [0, None, None, 0, None, None]
    # where nothing is certain to be picked, a gap is its own measure
    assert Parity(rhythm, [False] * 7, [True] * 7).of(0, 1) is None
    assert list(rhythm.near(3)) == [0, 1, 2, 3, 4] and not rhythm.rested(3, 4)


def test_a_silence_longer_than_a_beat_lets_the_hand_start_afresh():
    line = phrase([(6, 0), None, (1, 5)], [QUARTER, F(3, 2), QUARTER])
    (move,) = planned(line, "alternate").moves
    assert move.pick_kind == "rest" and move.hops > 0 and move.knot == 0


def test_places_of_a_divided_beat():
    """Notes off the grid divide their beat by two, or by three for a tuplet, until all lie on places."""
    line = phrase([60] * 7, [SIXTEENTH] * 2 + [EIGHTH] + [F(1, 3)] * 3 + [QUARTER])
    assert places(line, "eighth") == (0, 1, 2, 0, 1, 2, 0)
    assert places(phrase([60] * 3, [EIGHTH] * 3, metre=Metre(7, 8)), "eighth") == (0, 1, 0)


@examples(25)
@given(LINES, st.sampled_from(["pulse", "downs", "downstart", "pattern"]))
def test_strokes_that_a_school_fixes_do_not_depend_on_the_player(line, school):
    pitches, lengths = zip(*line, strict=True)
    told = {
        strokes(
            planned(phrase(list(pitches), list(lengths)), school, player=player, lean=lean, keep=frozenset({"attacks"}))
        )
        for player, lean in (("settled", "up-clear"), ("flying", "down-clear"))
    }
    if school in ("pulse", "pattern"):
        assert len(told) == 1
    if school == "downs":
        on_beats = [i for i in range(len(pitches)) if sum(lengths[:i], F(0)).denominator <= 2]
        assert all(word[i] == "D" for word in told for i in on_beats)
