"""What a player chooses is work: saved, undone, carried when a page is turned and turned back, kept aside, followed by the
command line; and what a phrase no longer has room for is told."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.app.book.open_book import OpenBook, Opened
from dromic.cli.main import main
from dromic.core.editing.edit import retuned
from dromic.core.music.songbook import Entry, Songbook
from dromic.core.setup.choices import Choices
from dromic.core.setup.decision import Decision
from dromic.core.setup.pin import Pin
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.plan_requests import not_here, request_for
from dromic.store.recovery import leftovers
from tests.build import EIGHTH, phrase
from tests.examples import examples
from tests.sitting import plain

LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7)] * 2, EIGHTH)
EVERYTHING = Choices(
    school="sweep", unit="triplet", player="flying", lean="both-clear", tempo=97.5, instrument="guitar7", positions=False,
    strokes=False, fingers=False, start="up", legato="turnarounds", graces="picked", grace_time="on", pattern="ddu", repeat=True,
    pins=(Pin(2, 0, "string", 2),), overrides=((4, "up"),),
)  # fmt: skip


def test_all_that_can_be_chosen_stands_in_the_document():
    """A field that is added must be written too."""
    assert all(getattr(EVERYTHING, f) != getattr(Choices(), f) for f in Choices.__slots__)
    book = Songbook("x", (Entry(LINE, EVERYTHING), Entry(LINE), Entry(LINE, Choices())))
    data = songbook_bytes(book)
    assert plain(read_songbook(data)) == plain(book)


def test_choices_are_unsaved_work_undone_and_carried(qtbot, demo_window, tmp_path):
    window = demo_window
    open_book, place = window.open_book, window.planning
    before = open_book.choices
    assert not open_book.unsaved
    place.choose(replace(before, school="sweep", start="up"))
    place.choose(replace(open_book.choices, overrides=((3, "up"),)))
    assert open_book.unsaved and window.isWindowModified()
    chosen = open_book.choices
    window.turn_page(1)
    place.choose(replace(open_book.choices, school="hybrid"))
    window.turn_page(-1)
    assert open_book.choices == chosen and window.plan_place.panel.school.currentData() == "sweep"
    path = tmp_path / "mine.dromic"
    assert window.files.save_to(path) and not open_book.unsaved
    kept = read_songbook(path.read_bytes()).entries
    assert kept[0].choices == chosen and kept[1].choices.school == "hybrid" and kept[2].choices is None
    open_book.undo.undo()  # turns back to where the step was made
    assert open_book.number == 2 and open_book.choices.school != "hybrid"
    open_book.undo.undo()
    open_book.undo.undo()
    assert open_book.number == 1 and open_book.choices == before
    open_book.undo.redo()
    open_book.undo.redo()
    assert open_book.choices == chosen


def test_choices_are_kept_aside_and_taken_back(qtbot, demo_window):
    window = demo_window
    window.planning.choose(replace(window.open_book.choices, legato="anywhere"))
    assert window.files.keep_aside()
    window.files._slot.leave()
    (left,) = leftovers(window.files.folder)
    window.files._slot = None
    assert read_songbook(left.data).entries[0].choices.legato == "anywhere"


def test_the_tempo_wheel_is_one_step_back(demo_window):
    open_book, panel = demo_window.open_book, demo_window.plan_place.panel
    tempo = open_book.choices.tempo
    for _ in range(5):
        panel.tempo.stepUp()
    assert open_book.choices.tempo == tempo + 5 and open_book.undo.count() == 1
    open_book.undo.undo()
    assert open_book.choices.tempo == tempo


def test_the_tempo_asked_for_follows_the_one_written(qapp):
    open_book = OpenBook()
    open_book.open(Opened(None, Songbook.of("x", (LINE,))))
    open_book.choose(replace(open_book.choices, school="sweep", tempo=80.0))
    open_book.edit(LINE.at_tempo(150.0), "tempo")
    assert open_book.choices.tempo == 150.0
    open_book.undo.undo()
    assert open_book.choices.tempo == 80.0 and open_book.phrase.tempo == LINE.tempo


def test_pins_that_a_new_instrument_has_no_place_for_are_told_and_let_go(qapp):
    open_book, told = OpenBook(), []
    open_book.told.connect(told.append)
    six = phrase([(6, 3), (5, 5), (3, 7)], EIGHTH)
    open_book.open(Opened(None, Songbook.of("x", (six,))))
    pins = (Pin(0, 0, "string", 6), Pin(2, 0, "string", 3))
    open_book.choose(replace(open_book.choices, pins=pins))
    open_book.choose(replace(open_book.choices, instrument="bass4"))
    assert open_book.choices.pins == pins[1:] and "string 6" in told[0]
    open_book.undo.undo()
    assert open_book.choices.pins == pins
    open_book.edit(retuned(six, presets.instruments()["bass4"], False), "instrument")
    assert open_book.choices.pins == pins[1:] and len(told) == 2


def test_a_plan_kept_under_the_same_label_takes_the_place_of_the_one_before():
    def kept(label, why):
        return Decision(label, replace(EVERYTHING, school=label), 120.0, why, "2026-03-01")

    entry = Entry(LINE).decided(kept("sweep", "a")).decided(kept("free", "b")).decided(kept("sweep", "c"))
    assert [(d.label, d.why) for d in entry.decisions] == [("free", "b"), ("sweep", "c")]
    assert entry.decision.why == "c" and entry.choices.school == "sweep"


def planned(capsys, *words):
    assert main(["plan", *map(str, words), "--json"]) == 0
    return json.loads(capsys.readouterr().out)


def test_the_command_line_goes_by_an_entrys_own_choices_unless_an_option_says_otherwise(capsys, tmp_path):
    path = tmp_path / "mine.dromic"
    chosen = Choices(
        school="economy", tempo=90.0, player="settled", start="up", repeat=True, lean="up-clear",
        pins=(Pin(1, 0, "stroke", "down"),),
    )  # fmt: skip
    path.write_bytes(songbook_bytes(Songbook("x", (Entry(LINE, chosen), Entry(LINE)))))
    own = planned(capsys, path)
    plan = own["plans"][0]
    assert (plan["school"], own["tempo"], own["player"]) == ("economy", 90.0, "settled")
    assert [n["stroke"] for n in plan["notes"]][:2] == ["up", "down"] and plan["moves"][-1]["to"] == 0
    other = planned(capsys, path, "--school", "alternate", "--tempo", "100", "--no-repeat", "--lock", "2:stroke=up")
    assert (other["plans"][0]["school"], other["tempo"]) == ("alternate", 100.0)
    assert other["plans"][0]["moves"][-1]["to"] != 0 and other["plans"][0]["notes"][1]["stroke"] == "up"
    bare = planned(capsys, path, "--tune", "2")
    assert (bare["plans"][0]["school"], bare["tempo"], bare["player"]) == ("free", 120.0, "fluent")
    every = planned(capsys, path, "--school", "all", "--lean", "switching", "--no-repeat")["plans"]
    assert len(every) == len(presets.schools())  # one school's pins are no other's


def test_the_command_line_follows_pins_into_passages_and_repeats(capsys, tmp_path):
    twice = replace(LINE, bars=(replace(LINE.bars[0], repeat_times=2), *LINE.bars[1:]))
    path = tmp_path / "mine.dromic"
    pinned = Choices(pins=(Pin(3, 0, "finger", "4"), Pin(9, 0, "finger", "4")))
    path.write_bytes(songbook_bytes(Songbook("x", (Entry(twice, pinned),))))
    fingers = [n["finger"] for n in planned(capsys, path, "--unroll")["plans"][0]["notes"]]
    count = sum(e.bar == 0 for e in twice.events)
    assert fingers[3] == fingers[count + 3] == fingers[count + 9] == "4"
    second = [n["finger"] for n in planned(capsys, path, "--bars", "2")["plans"][0]["notes"]]
    assert second[9 - count] == "4"


def test_a_player_or_school_that_is_not_here_is_said_and_lost_nowhere(capsys, tmp_path):
    path = tmp_path / "mine.dromic"
    chosen = Choices(player="somebody-elses-hands", school="free")
    path.write_bytes(songbook_bytes(Songbook("x", (Entry(LINE, chosen),))))
    assert "not on this machine" in " ".join(planned(capsys, path)["said"])
    assert read_songbook(path.read_bytes()).entries[0].choices == chosen
    assert request_for(LINE, chosen, presets.players()).player.name == "fluent"
    later = Choices(school="of-tomorrow", lean="sideways", instrument="guitar12")
    assert len(not_here(later, presets.players())) == 3 and not_here(EVERYTHING, presets.players()) == []
    asked = request_for(LINE, later, presets.players())
    assert (asked.school.name, asked.instrument.name) == ("free", "guitar")


def test_names_that_are_not_here_are_carried_to_no_other_phrase(qapp):
    open_book = OpenBook()
    open_book.has_player = lambda name: name in presets.players()
    strange = Choices(player="somebody-elses-hands", school="of-tomorrow", lean="sideways")
    open_book.open(Opened(None, Songbook("x", (Entry(LINE, strange), Entry(LINE)))))
    open_book.turn_to(1)
    assert (open_book.choices.player, open_book.choices.school, open_book.choices.lean) == ("fluent", "free", "")
    open_book.turn_to(0)
    assert open_book.choices == strange


def test_a_habit_of_resting_through_is_listened_to(capsys, tmp_path):
    path = tmp_path / "mine.dromic"
    path.write_bytes(songbook_bytes(Songbook.of("x", (phrase([(3, 5), (2, 5), (1, 5)], EIGHTH),))))
    on, off, told = (
        planned(capsys, path, "--school", "sweep", *words)["plans"][0]["notes"]
        for words in ((), ("--habit", "rest-through=off"), ("--habit", "rest-through=off", "--rest-through", "on"))
    )
    assert [n["rest_on"] for n in on] == [n["rest_on"] for n in told] != [n["rest_on"] for n in off]


@given(st.permutations([(5, 7), (4, 0), (3, 2)]), st.integers(0, 2))
@examples(30)
def test_a_pin_on_a_chord_pins_the_note_meant(order, number):
    """Strings and pitches need not go the same way: string 5 fret 7 sounds above the open fourth string."""
    from dromic.core.search.planner import judge, solve
    from tests.build import request

    chord = phrase([list(order), (3, 5)], EIGHTH)
    found = judge(solve(request(chord, keep=frozenset({"attacks"}))))
    note = found.events[0][number]
    pin = Pin(0, found.place_in_chord(note), "string", note.string)
    again = judge(solve(request(chord, keep=frozenset({"attacks"}), pins=(pin,))))
    assert any((n.pitch, n.string) == (note.pitch, note.string) for n in again.events[0])
    assert again.cost == pytest.approx(found.cost)


def test_notes_of_a_chord_are_numbered_as_in_the_json(capsys, tmp_path):
    path = tmp_path / "mine.dromic"
    path.write_bytes(songbook_bytes(Songbook.of("x", (phrase([[(5, 7), (4, 0)], (3, 5)], EIGHTH),))))
    notes = planned(capsys, path)["plans"][0]["notes"]
    assert [n["string"] for n in notes] == [5, 4, 3]
    assert planned(capsys, path, "--lock", "1:string=5,fret=7", "--lock", "2:fret=0")["plans"]
