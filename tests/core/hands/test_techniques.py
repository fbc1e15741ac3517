"""Techniques: chords, rolls, slides, bends, palm, tremolo, grace notes, the thumb, accents. Common practice."""

from dataclasses import replace
from fractions import Fraction as F

import pytest

from dromic import presets
from dromic.core.music.phrase import Event, Note
from dromic.core.music.songbook import empty_phrase
from dromic.core.search.planner import plan
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import SLID_TO
from dromic.formats.text.quick_line import parse
from tests.build import EIGHTH, QUARTER, SIXTEENTH, fingers, phrase, planned, request, strokes

FLUENT = presets.players()["fluent"]
GUITAR, HAND = presets.instruments()["guitar"], FLUENT.fretting


def with_notes(line, **changed):
    """The phrase with its nth note changed: n2=dict(bend=1.0)."""
    events = list(line.events)
    for key, fields in changed.items():
        i = int(key[1:])
        marks = fields.pop("marks", None)
        notes = tuple(replace(n, **fields, **({"marks": frozenset(marks)} if marks else {})) for n in events[i].notes)
        events[i] = replace(events[i], notes=notes)
    return line.with_events(events)


def habits(**chosen):
    return replace(FLUENT, habits=replace(FLUENT.habits, **chosen))


def by(player, line, school="free", **options):
    return plan(replace(request(line, school, **options), player=player))


def test_one_stroke_takes_neighbouring_strings_and_gaps_cost():
    whole = planned(phrase([[(5, 3), (4, 2), (3, 0)]], [1]), "free")
    assert {n.stroke for n in whole.notes} == {"down"} and whole.totals.picked == 1
    gap = planned(phrase([[(6, 3), (4, 5)]], [1]), "free")
    assert gap.cost - whole.cost > 0.5 * FLUENT.judging.gap_price
    pinched = planned(phrase([[(6, 3), (4, 5)]], [1]), "hybrid")
    assert [n.attack for n in pinched.notes] == ["pick", "pluck"] and pinched.cost < gap.cost


def test_a_power_chord_slides_as_a_whole():
    line = phrase([[(6, 3), (5, 5)], [(6, 5), (5, 7)]], EIGHTH, attacks={1: "slide"})
    found = planned(line, "free")
    assert found.moves[0].fret_kind == "slide" and found.notices == ()
    assert [n.finger for n in found.events[0]] == [n.finger for n in found.events[1]]


def slid_and_struck(*notes, attack="pick"):
    line = phrase(list(notes), EIGHTH)
    last = replace(line.events[-1], notes=tuple(replace(n, marks=n.marks | {SLID_TO}) for n in line.events[-1].notes))
    return replace(line, events=(*line.events[:-1], last))


def test_a_note_slid_to_may_be_struck():
    found = planned(slid_and_struck((4, 5), (4, 9)), "alternate")
    assert found.moves[0].fret_kind == "slide" and found.notes[0].finger == found.notes[1].finger
    assert [n.attack for n in found.notes] == ["pick", "pick"] and strokes(found) == "DU"
    chords = planned(slid_and_struck([(6, 3), (5, 5)], [(6, 5), (5, 7)]), "downs")
    assert chords.moves[0].fret_kind == "slide" and chords.notices == ()
    plucked = planned(slid_and_struck((4, 5), (4, 9)), "fingers")
    assert plucked.moves[0].fret_kind == "slide" and plucked.notes[1].attack == "pluck"


def test_a_slide_from_nowhere_that_is_struck_is_told():
    found = planned(slid_and_struck((4, 5), (3, 9)), "alternate")
    assert found.moves[0].fret_kind != "slide" and "slide" in found.notices[0] and "bar 1" in found.notices[0]


def test_rolls_or_a_finger_each_as_the_player_likes():
    line = phrase([(3, 7), (2, 7), (3, 7), (2, 7)], EIGHTH, tempo=90)
    rolling, apart = by(habits(same_fret="roll"), line), by(habits(same_fret="separate"), line)
    assert rolling.totals.rolls > 0 == apart.totals.rolls
    assert len(set(fingers(apart))) == 2


def bent(text):
    return planned(parse(text, empty_phrase("x", GUITAR), GUITAR).phrase, "alternate")


def test_a_bend_takes_time_where_its_finger_moves():
    """Up after the note sounds, down again before the next, beforehand where it is bent already, no time where it is held."""
    plain, up = bent("2.8:q 2.10 2.8 r"), bent("2.8:q 2.10^2 2.8 r")
    both, before = bent("2.8:q 2.10^2r 2.8 r"), bent("2.8:q 2.10^=2 2.8 r")
    ms = HAND.bend_ms * 2
    assert up.moves[1].fret_ms == pytest.approx(plain.moves[1].fret_ms + ms)
    assert both.moves[1].fret_ms == pytest.approx(plain.moves[1].fret_ms + 2 * ms)
    assert before.moves[0].fret_ms == pytest.approx(plain.moves[0].fret_ms + ms)
    assert before.moves[1].fret_ms == pytest.approx(plain.moves[1].fret_ms)
    again = bent("2.8:q 2.10^2 2.10^=2 2.8")
    assert again.moves[1].fret_ms == 0.0 and again.notes[1].finger == again.notes[2].finger


def test_a_bend_in_a_chord_has_the_price_of_its_own_finger():
    """Common practice: in a unison bend the ring finger bends and the index holds."""
    found = bent("3.7^2+2.5:q 3.7^2+2.5 r r")
    assert [n.finger for n in found.events[0]] == ["3", "1"] or [n.finger for n in found.events[0]] == ["1", "3"]


def test_a_bend_wants_the_ring_finger_and_takes_time():
    line = phrase([(2, 8), (2, 10), (2, 8)], SIXTEENTH, tempo=120)
    bent = with_notes(line, n1={"bend": 2.0, "marks": ["bend"]})
    assert planned(bent).notes[1].finger == "3"
    plain = planned(line, keep=frozenset({"positions", "attacks"}))
    after = planned(bent).moves[1]
    assert after.fret_ms >= plain.moves[1].fret_ms + 2 * FLUENT.fretting.bend_ms * (plain.moves[1].fret_ms > 0)


def test_vibrato_keeps_off_the_little_finger():
    line = phrase([(2, 10)], QUARTER)
    assert planned(with_notes(line, n0={"marks": ["vibrato"]})).notes[0].finger in "123"


def test_tremolo_needs_the_hand_to_keep_up():
    line = phrase([(2, 10), (2, 8)], QUARTER, tempo=100)
    trembling = with_notes(line, n0={"tremolo": 3, "marks": ["tremolo"]})
    # thirty-seconds at 100 leave 75 ms a stroke
    assert planned(trembling, "alternate").moves[0].pick_load == pytest.approx(FLUENT.picking.alternate_ms / 75.0)


def test_the_palm_needs_time_to_come_on_and_off():
    line = phrase([(6, 0)] * 4, SIXTEENTH, tempo=240)
    muted = with_notes(line, n1={"marks": ["palm-mute"]}, n2={"marks": ["palm-mute"]})
    found = planned(muted, "downs", pulse="sixteenth")
    assert [f.rule for f in found.findings].count("palm") == 2
    slow = planned(with_notes(phrase([(6, 0)] * 4, QUARTER), n1={"marks": ["palm-mute"]}), "downs")
    assert "palm" not in [f.rule for f in slow.findings]


def test_accents_want_a_down_stroke_by_habit():
    line = with_notes(phrase([(3, 5), (3, 7), (3, 5)], QUARTER, tempo=60), n1={"marks": ["accent"]})
    assert planned(line, "free").notes[1].stroke == "down"
    up = planned(line, "alternate")
    assert "accent-weak" in [f.rule for f in up.findings]
    assert "accent-weak" not in [f.rule for f in by(habits(accents_down=False), line, "alternate").findings]


def test_the_thumb_frets_the_lowest_string_only_if_the_player_lets_it():
    shape = phrase([[(6, 2), (4, 4), (3, 3), (2, 2)]], [1])
    assert "T" not in fingers(planned(shape))
    cheap = replace(habits(thumb=True), fretting=replace(FLUENT.fretting, thumb_price=0.0))
    found = by(cheap, shape)
    assert next(n.finger for n in found.notes if n.string == 6) == "T"


def test_grace_notes_steal_time_and_leave_the_pulse_alone():
    line = phrase([(3, 5), (3, 7)], QUARTER)
    early = Event(F(7, 8), (replace(line.events[0].notes[0], duration=F(1, 8), marks=frozenset({"grace"})),), 0)
    line = line.with_events([line.events[0], early, line.events[1]])
    found = planned(line, "pulse", pulse="eighth", graces="picked")
    assert found.notes[0].stroke == found.notes[2].stroke == "down"
    assert found.moves[1].gap_ms == pytest.approx(62.5)


def test_swung_pairs_are_judged_by_their_true_gaps():
    from dromic.core.music.phrase import Swing

    line = phrase([(3, 5)] * 4, EIGHTH, tempo=120, swing=Swing(EIGHTH, F(2)))
    gaps = [m.gap_ms for m in planned(line, "alternate").moves]
    assert gaps == pytest.approx([1000 / 3, 500 / 3, 1000 / 3])


def test_pull_off_to_an_open_string_and_taps_coming_back():
    line = phrase([(1, 12), (1, 5), (1, 0), (1, 12)], SIXTEENTH, attacks={0: "tap", 1: "pull", 2: "pull", 3: "tap"})
    found = planned(line, "alternate")
    assert strokes(found) == "...." and found.totals.legato == 4
    picked = planned(phrase([(1, 12), (1, 5)], SIXTEENTH, attacks={0: "tap"}), "alternate")
    assert picked.moves[0].pick_load == pytest.approx(FLUENT.picking.pick_after_tap_ms / 125.0)


def test_legato_is_chosen_where_it_pays_and_only_where_it_may():
    line = phrase([(3, 5), (2, 5), (2, 8), (2, 5), (3, 5)], SIXTEENTH, tempo=150)
    never = planned(line, "alternate")
    turns = planned(line, "alternate", legato="turnarounds")
    anywhere = planned(line, "alternate", legato="anywhere")
    assert never.totals.legato == 0 and {n.index for n in turns.notes if n.stroke == "none"} <= {2, 3}
    assert turns.totals.legato and never.cost > turns.cost >= anywhere.cost - 1e-9


def test_notes_keep_their_values():
    with pytest.raises(DromicError, match="bend is 9"):
        Note(60, QUARTER, bend=9.0)


HELD = {
    "C": ([(5, 3), (4, 2), (3, 0), (2, 1), (1, 0)], "32010"),
    "G": ([(6, 3), (5, 2), (4, 0), (3, 0), (2, 0), (1, 3)], "210003"),
    "Am": ([(5, 0), (4, 2), (3, 2), (2, 1), (1, 0)], "02310"),
    "F": ([(6, 1), (5, 3), (4, 3), (3, 2), (2, 1), (1, 1)], "134211"),
    "D": ([(4, 0), (3, 2), (2, 3), (1, 2)], "0132"),
    "E7": ([(6, 0), (5, 2), (4, 0), (3, 1), (2, 0), (1, 0)], "020100"),
}


@pytest.mark.parametrize("name", HELD)
def test_chords_are_held_as_players_hold_them(name):
    """Common practice, with no published source."""
    places, told = HELD[name]
    assert fingers(planned(phrase([places], [4], tempo=90), "downs")) == told


def test_fingers_travel_from_chord_to_chord_and_those_that_stay_are_free():
    change = planned(phrase([HELD["C"][0], HELD["Am"][0]], QUARTER, tempo=100), "downs")
    assert fingers(change) == "32010" + "02310"  # the first and second finger stay, the third goes over
    stays = planned(phrase([HELD["C"][0]] * 2, QUARTER, tempo=100), "downs")
    assert stays.moves[0].fret_kind == "hold" and stays.moves[0].fret_load == 0
    assert change.moves[0].fret_load > 0


@pytest.mark.parametrize(
    ("first", "then", "attack"),
    [
        ([(4, 7), (3, 7)], [(4, 9), (3, 9)], "hammer"),
        ([(4, 9), (3, 9)], [(4, 7), (3, 7)], "pull"),
        ([(4, 7), (3, 7)], [(4, 7), (3, 9)], "hammer"),
        ([(4, 0), (3, 0)], [(4, 2), (3, 2)], "hammer"),
        ([(4, 2), (3, 2)], [(4, 0), (3, 0)], "pull"),
        ([(4, 0), (3, 2)], [(4, 2), (3, 2)], "hammer"),
    ],
)
def test_double_stops_are_slurred_on_both_strings(first, then, attack):
    found = planned(phrase([first, then], EIGHTH, attacks={1: attack}), "alternate")
    assert {n.attack for n in found.events[1]} == {attack} and found.notices == ()
    assert len({n.position for n in found.notes if n.fret}) == 1


def test_a_double_stop_is_not_hammered_onto_other_strings_or_with_the_same_finger():
    found = planned(phrase([[(4, 7), (3, 7)], [(3, 9), (2, 9)]], EIGHTH, attacks={1: "hammer"}), "alternate")
    assert {n.attack for n in found.events[1]} == {"hammer-new"} and "hammered from nowhere" in found.notices[0]


def test_a_tremolo_rests_on_no_string():
    """Its strokes are short, however long the note."""
    line = phrase([(3, 5), (3, 7)], QUARTER)
    trembling = replace(
        line.events[0], notes=(replace(line.events[0].notes[0], marks=frozenset({"tremolo"}), tremolo=3),)
    )
    found = planned(line.with_events([trembling, line.events[1]]), "downs")
    assert [n.rest_on for n in found.notes] == [None, 2]


def test_an_open_string_is_never_hammered():
    """Neither by choice nor where it is written: there it is planned as struck, and said once."""
    line = phrase([(5, 5), (6, 0), (5, 7), (6, 0), (4, 5), (5, 0)], attacks={1: "hammer-new", 3: "hammer-new"})
    for school in ("alternate", "pulse", "legato"):
        found = planned(line, school)
        assert not [n for n in found.notes if n.attack == "hammer-new" and not n.fret]
        [told] = [n for n in found.notices if "open string" in n]
        assert told.startswith("bar 1, note 2 and 1 more") and "planned as struck" in told
    assert planned(line, "pulse").notes[1].stroke == "up"
    plain = planned(phrase([(5, 5), (6, 0), (5, 7), (6, 0), (4, 5), (5, 0)]), "legato")
    assert {n.attack for n in plain.notes if not n.fret} == {"pick"} and not plain.notices
    first = planned(phrase([(6, 0), (5, 7)], attacks={0: "hammer-new"}), "pulse")
    assert first.notes[0].attack == "pick" and "open string" in first.notices[0]
