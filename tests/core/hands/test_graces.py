"""Grace notes: one stroke for a grace and its note, whose time they take, what is told of them. ABC as its standard (2.1) writes them;
that a grace is slurred unless it is meant otherwise is common practice, no published source."""

import json
from dataclasses import replace
from fractions import Fraction as F

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dromic import presets
from dromic.cli.main import main as run
from dromic.core.music.graces import as_written, graces_before, sounding, without_graces
from dromic.core.plan.finding import GRACE_LIMITS
from dromic.core.questions.remedies import with_remedies
from dromic.core.questions.short_notes import quick_run
from dromic.core.search.planner import plan, solve
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import UNSTRUCK
from dromic.formats.abc.abc_read import read_abc
from dromic.formats.table import read
from tests.build import EIGHTH, SIXTEENTH, phrase, planned, request
from tests.examples import examples

TUNE = "X:1\nT:Made up\nM:4/4\nL:1/8\nQ:1/4=110\nK:D\n{A}B2 d2 {c}e2 {de}f2|{g}a2 f2 d4|\n"


@pytest.fixture
def line(tmp_path):
    path = tmp_path / "made up.abc"
    path.write_text(TUNE)
    return path


def graced(pitches, places, tempo=110.0):
    """A line in eighths with a grace a step above each of some notes, a thirty-second before it."""
    made = phrase(pitches, EIGHTH, tempo=tempo)
    events = []
    for i, event in enumerate(made.events):
        if i in places and i:
            last = events[-1]
            shorter = tuple(replace(n, duration=n.duration - F(1, 8)) for n in last.notes)
            events[-1] = replace(last, notes=shorter)
            note = replace(event.notes[0], pitch=event.notes[0].pitch + 2, duration=F(1, 8), marks=frozenset({"grace"}))
            events.append(replace(event, onset=event.onset - F(1, 8), notes=(note,), bar=last.bar))
        events.append(event)
    return made.with_events(events)


def groups_of(found):
    return {
        main: [found.leads[e].attack for e in (*graces, main)]
        for main, graces in graces_before(found.request.phrase).items()
    }


@given(
    st.lists(st.integers(45, 70), min_size=3, max_size=8),
    st.sets(st.integers(1, 7), min_size=1, max_size=3),
    st.sampled_from(["free", "pulse", "alternate", "economy", "fingers", "hybrid"]),
)
@examples(40)
def test_of_a_grace_and_its_note_one_is_struck(pitches, places, school):
    line = graced(pitches, places)
    assume(graces_before(line))
    try:
        found = planned(line, school, keep=frozenset({"attacks"}))
    except DromicError:
        assume(False)
    for attacks in groups_of(found).values():
        struck = [a for a in attacks if a not in UNSTRUCK]
        assert len(struck) == 1, attacks  # two frets apart on one string: a slur is always to be had


def test_picked_graces_take_a_stroke_each_and_go_slower():
    line = graced([57, 59, 62, 59, 57, 62], {1, 2, 4})
    slurred = planned(line, "alternate", keep=frozenset({"attacks"}))
    picked = planned(line, "alternate", keep=frozenset({"attacks"}), graces="picked")
    assert all(a == "pick" for attacks in groups_of(picked).values() for a in attacks)
    assert slurred.ceiling > picked.ceiling


def test_graces_are_picked_where_no_string_allows_a_slur():
    """The grace is kept on a string of its own."""
    line = graced([(3, 5), (3, 7), (3, 5)], {1})
    far = replace(line.events[1].notes[0], pitch=67, string=1, fret=3)
    found = planned(line.with_events((line.events[0], replace(line.events[1], notes=(far,)), *line.events[2:])), "free")
    assert set(groups_of(found)[2]) == {"pick"}


def test_what_is_stated_of_a_grace_holds_and_a_pattern_counts_every_stroke():
    line = graced([(3, 5), (3, 7), (3, 5)], {1})
    stated = line.with_events(
        (line.events[0], replace(line.events[1], notes=(replace(line.events[1].notes[0], string=3, fret=9, attack="pick"),)),
         *line.events[2:])
    )  # fmt: skip
    assert planned(stated, "free").leads[1].attack == "pick"
    assert {a for attacks in groups_of(planned(line, "pattern", pattern="du")).values() for a in attacks} == {"pick"}


def test_the_stroke_of_a_grace_is_that_of_its_notes_place():
    line = graced([57, 59, 62, 59, 57, 62, 64, 62], {1, 2, 4})
    found = planned(line, "pulse", keep=frozenset({"attacks"}))
    for main, attacks in groups_of(found).items():
        struck = next(e for e, a in zip((*graces_before(line)[main], main), attacks, strict=True) if a not in UNSTRUCK)
        wanted = "down" if line.events[main].onset.denominator == 1 else "up"
        if struck != main:
            assert found.leads[struck].stroke == wanted


def test_whose_time_a_grace_takes(line, capsys):
    def told(*options):
        assert run(["plan", str(line), "--school", "pulse", "--json", *options]) == 0
        return json.loads(capsys.readouterr().out)["plans"][0]

    before, on, picked = told(), told("--grace-time", "on"), told("--graces", "picked")
    # the first grace stays among the notes, before the first of them
    assert (before["notes"][0]["onset"], before["notes"][1]["onset"]) == ("-1/8", "0")
    assert [n["onset"] for n in on["notes"][:2]] == ["0", "0"]
    mains = [n for n in range(12) if before["notes"][n]["duration"] != "1/8"]
    assert [before["notes"][n]["onset"] for n in mains] == ["0", "1", "2", "3", "4", "5", "6"]
    for n in mains:
        assert on["notes"][n]["onset"] == before["notes"][n]["onset"]
    assert [on["notes"][n]["duration"] for n in mains] == ["1", "1", "1", "1", "1", "1", "2"]  # as written
    thirty_second = 60000 / 110 / 8
    assert [m["gap_ms"] for m in on["moves"]][:4] == pytest.approx([68.1818, 477.2727, 545.4545, 68.1818], abs=0.01)
    assert before["moves"][2]["gap_ms"] == pytest.approx(8 * thirty_second - thirty_second)
    assert {n["attack"] for n in picked["notes"]} == {"pick"} and before["ceiling"] > picked["ceiling"]
    assert {n["attack"] for n in before["notes"]} > {"pick", "hammer"}


def test_graces_keep_their_places_written_down_and_read_again(line, tmp_path):
    first = read(line, 1)
    assert run(["convert", str(line), str(tmp_path / "again.musicxml")]) == 0
    again = read(tmp_path / "again.musicxml", 1)
    assert [(e.onset, e.grace) for e in again.events] == [(e.onset, e.grace) for e in first.events]
    assert not [n for n in first.notices if "grace" in n]


def test_times_before_and_on_are_made_from_one_another():
    whole = graced([57, 59, 62, 59], {1, 2})
    on = sounding(whole, "on")
    assert [e.onset for e in on.events] == [0, F(1, 2), F(5, 8), 1, F(9, 8), F(3, 2)]
    assert on.events[0].end == F(1, 2) and sounding(whole, "before") is whole
    bare = without_graces(whole, {2, 4})
    assert [e.onset for e in bare.events] == [0, F(1, 2), 1, F(3, 2)] and {e.end - e.onset for e in bare.events} == {
        F(1, 2)
    }
    assert as_written(whole, "before") == tuple((e.onset, F(0)) for e in whole.events)


def test_a_grace_that_sets_the_ceiling_is_told_with_what_helps():
    line = graced([57, 59, 62, 59, 57, 62], {1, 2, 4})
    for graces, words in (("picked", "slur the grace notes"), ("slurred", "leave out the grace")):
        asked = request(line, "alternate", keep=frozenset({"attacks"}), graces=graces)
        [told] = [f for f in with_remedies(solve(asked), {}).findings if f.rule == GRACE_LIMITS]
        assert told.remedy.text.startswith(words) and told.remedy.ceiling > plan(asked).ceiling
        assert told.load == max(m.load for m in plan(asked).moves)
    plain = planned(phrase([57, 59, 62, 59], EIGHTH, tempo=110), "alternate")
    assert not [f for f in plain.findings if f.rule == GRACE_LIMITS]


def test_a_triplet_too_fast_to_pick_is_offered_slurred():
    third = F(1, 3)
    line = phrase([(3, 5), (3, 5), (3, 7), (3, 5), (3, 5)], [F(1), third, third, third, F(1)], tempo=300)
    assert quick_run(line, 2) == range(1, 4) and quick_run(line, 0) is None
    found = with_remedies(solve(request(line, "downs", pulse="triplet")), {})
    changes = [f.remedy.change for f in found.findings if f.remedy is not None]
    slurred = [c for c in changes if len(c.attacks) == 2]
    assert slurred and slurred[0].attacks == ((2, "hammer"), (3, "pull"))


def test_graces_belong_to_no_legato_and_count_nothing():
    from dromic.core.timing.beat_counting import count

    line = read_abc(TUNE.encode())
    assert [count(line, i) for i in range(2)] == ["", "1"]
    hands = presets.players()["fluent"].habits
    assert (hands.graces, hands.grace_time) == ("slurred", "before")
    assert sum(n.attack in UNSTRUCK for n in planned(phrase([57, 59, 62], SIXTEENTH), "free").notes) == 0
