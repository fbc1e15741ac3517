"""One's own way judged, and questions answered: each held to plans made anew."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic import presets
from dromic.app.weigh.answers_view import own_way_lines
from dromic.core.questions.own_way import best_request, judge_own_way, own_request
from dromic.core.questions.questions import COUNT_OF_DEAREST, QUESTIONS, Subject, answers
from dromic.core.reports.comparison import ceilings_by_bar, differing, fretting_work, picking_work
from dromic.core.search.planner import judge, plan, solve
from dromic.core.setup.pin import Pin
from dromic.core.setup.player_settings import NUMBERS
from dromic.core.values.errors import DromicError
from tests.build import EIGHTH, SIXTEENTH, phrase, request, strokes

PITCHES = [(3, 5), (3, 7), (2, 5), (2, 8), (3, 7), (4, 7), (4, 5), (3, 5)] * 2


def stated(word: str, pitches=PITCHES, length=SIXTEENTH, tempo=120.0):
    marks = {n: {"D": "down", "U": "up"}[letter] for n, letter in enumerate(word) if letter in "DU"}
    return phrase(pitches, length, strokes=marks, tempo=tempo)


def test_nothing_set_is_said():
    with pytest.raises(DromicError, match="nothing of your own is set"):
        judge_own_way(request(phrase(PITCHES), "alternate"))


def test_the_best_way_is_found_to_be_the_best():
    best = plan(request(phrase(PITCHES), "pulse"))
    found = judge_own_way(request(stated(strokes(best)), "pulse"))
    assert not found.breaks and not found.differences and found.plan.ceiling == pytest.approx(best.ceiling)
    assert "note for note" in own_way_lines(found)[-1]


def test_a_slip_against_the_pulse_is_found_with_its_cost():
    best = strokes(plan(request(phrase(PITCHES), "pulse")))
    slipped = best[:4] + ("U" if best[4] == "D" else "D") + best[5:]
    found = judge_own_way(request(stated(slipped), "pulse"))
    assert strokes(found.plan) == slipped
    assert [d.events for d in found.differences] == [(4,)]
    assert len(found.breaks) == 1 and found.breaks[0].startswith("Note 5 (bar 1) is struck")
    one = found.differences[0]
    assert one.ceiling == pytest.approx(found.best.ceiling)
    dial = found.plan.request.player.judging.dial
    own, best_work = (picking_work(p, dial) + fretting_work(p, dial) for p in (found.plan, found.best))
    assert one.work == pytest.approx(best_work - own)
    assert one.gain == pytest.approx(found.best.ceiling - found.plan.ceiling)


def test_strokes_turned_around_are_one_run_from_the_first_slip():
    best = strokes(plan(request(phrase(PITCHES), "pulse")))
    turned = best[:6] + "".join("U" if s == "D" else "D" for s in best[6:])
    found = judge_own_way(request(stated(turned), "pulse"))
    assert len(found.breaks) == 1
    assert "From note 7 (bar 1) to note 16" in found.breaks[0] and "10 strokes turned around" in found.breaks[0]


def test_a_move_the_school_does_not_take_is_named():
    found = judge_own_way(request(stated("DUDDUDUD" + "." * 8), "alternate"))
    assert any("Note 4" in words and "which Alternate does not take" in words for words in found.breaks)


def test_pins_are_ones_own_way_too_and_fingers_hold():
    asked = request(phrase(PITCHES), "alternate", pins=(Pin(2, 0, "stroke", "up"), Pin(3, 0, "finger", "3")))
    mine = own_request(asked)
    assert mine.overrides == ((2, "up"),) and mine.pins == (Pin(3, 0, "finger", "3"),)
    assert best_request(mine).overrides == () == best_request(mine).pins
    found = judge_own_way(asked)
    assert found.plan.events[3][0].finger == "3" and found.plan.events[2][0].stroke == "up"


def asked_of(line, school="pulse", target=None, weighed=()):
    solved = solve(request(line, school))
    return Subject(solved, target or solved.request.phrase.tempo, weighed, presets.other_leans())


def test_the_dearest_notes_are_those_of_the_heaviest_moves():
    asked = asked_of(phrase(PITCHES, tempo=160))
    lines = answers(asked, "dearest")
    assert len(lines) == COUNT_OF_DEAREST
    found = judge(asked.solved)
    worst = max(found.moves, key=lambda m: (m.pick_load or 0) ** 2 + m.fret_load**2)
    assert lines[0].startswith(f"Note {found.events[worst.to][0].index + 1} ")
    assert all("% of all work" in line for line in lines)


def test_the_ability_named_nearest_does_reach_the_target():
    asked = asked_of(phrase([(3, 5)] * 16, tempo=195))
    assert judge(asked.solved).ceiling < 195
    lines = answers(asked, "abilities")
    near = next(line for line in lines if line.startswith("Nearest: "))
    number = next(n for n in NUMBERS if n.label.lower() in near.lower())
    needed = float(near.split("”, ")[1].split(" ")[0])
    for value, reaches in ((needed, True), ((number.get(asked.request.player) + needed) / 2, False)):
        ceiling = plan(replace(asked.request, player=number.set(asked.request.player, value))).ceiling
        assert (ceiling >= 195 * 0.999) is reaches
    done = answers(replace(asked, target=100.0), "abilities")
    assert len(done) == 1 and done[0].startswith("Nothing more")
    far = answers(replace(asked, target=900.0), "abilities")
    assert "No single ability does it" in far[1] and any("would bring" in line for line in far[2:])


def test_a_slur_that_helps_is_found_by_trying_them_all():
    line = phrase([(3, 5), (3, 7), (3, 9), (3, 7)] * 4, tempo=170)
    asked = asked_of(line, "downs")
    lines = answers(asked, "slur")
    now = plan(asked.request).ceiling
    slurred = []
    for i in range(1, len(line.events)):
        up = line.events[i].notes[0].pitch > line.events[i - 1].notes[0].pitch
        slur = replace(line.events[i].notes[0], attack="hammer" if up else "pull")
        events = [*line.events[:i], replace(line.events[i], notes=(slur,)), *line.events[i + 1 :]]
        slurred.append(plan(replace(asked.request, phrase=line.with_events(events))).ceiling)
    assert lines[0].startswith("Yes" if max(slurred) >= now + 0.5 else "Not for the ceiling")
    none = answers(asked_of(phrase([(6, 3), (5, 3), (4, 3), (3, 3)], EIGHTH)), "slur")
    assert none[0].startswith("No: no picked note")


def test_both_starts_are_weighed():
    asked = asked_of(phrase(PITCHES), "alternate")
    lines = answers(asked, "start")
    found = [plan(replace(asked.request, start=s)) for s in ("down", "up")]
    assert f"about {found[0].ceiling:.0f}" in lines[1] and f"about {found[1].ceiling:.0f}" in lines[2]
    better = found[1].ceiling - found[0].ceiling
    assert lines[0].startswith("Yes" if better >= 0.5 else "No" if better <= -0.5 else ("The ceiling", "It makes"))


def test_the_fastest_is_named_with_what_limits_it():
    plans = [("Alternate", plan(request(phrase(PITCHES), "alternate"))), ("Sweep", None)]
    lines = answers(asked_of(phrase(PITCHES), weighed=plans), "fastest")
    assert (
        lines[0].startswith("Alternate: about")
        and "What limits it" in lines[1]
        and lines[-1] == "Not possible here: Sweep."
    )


def test_bars_have_the_ceiling_of_their_hardest_move():
    found = plan(request(phrase(PITCHES * 2, tempo=140), "alternate"))
    by_bar = ceilings_by_bar(found)
    assert min(by_bar.values()) == pytest.approx(found.ceiling)
    for bar, ceiling in by_bar.items():
        loads = [m.load for m in found.onward if found.request.phrase.events[m.to].bar == bar]
        assert ceiling == pytest.approx(140 / max(loads))


def test_questions_and_ones_own_way_in_the_window(qtbot, demo_window):
    place = demo_window.plan_place
    place.planning.choose(place.planning.choices.overridden(4, "up"))
    qtbot.waitUntil(lambda: bool(place.planning.plan.request.overrides), timeout=20000)
    demo_window.pages.go_to("Weigh")
    weigh = demo_window.pages.weigh
    qtbot.waitUntil(lambda: bool(weigh.entries) and not weigh.bar.isVisible(), timeout=60000)
    assert weigh.entries[-1].label == "My way" and weigh.entries[-1].plan.request.overrides == ((4, "up"),)
    weigh.tabs.setCurrentWidget(weigh.questions)
    own = weigh.questions.own_way
    weigh.questions.list.setCurrentRow(weigh.questions.list.count() - 1)
    qtbot.waitUntil(lambda: own.found is not None, timeout=20000)
    # drawn under the best plan, marked where the two are not the same
    assert own.strips.isVisible() and own.strips.marked[1] == set(differing(own.found.plan, own.found.best)) >= {4}
    told = own.words.label.text()
    assert "Note 5" in told and "Pulse wants the other stroke there" in told
    weigh.tabs.setCurrentWidget(weigh.questions)
    for row in range(len(QUESTIONS)):
        with qtbot.waitSignal(weigh.questions.answered, timeout=30000):
            weigh.questions.list.setCurrentRow(row)
        assert len(weigh.questions.words.label.text()) > 20
    weigh.own.setChecked(False)
    qtbot.waitUntil(lambda: len(weigh.entries) == 11, timeout=60000)


def test_a_school_that_starts_every_string_with_one_stroke_says_where_it_was_not():
    """Ups on new strings were not known to be against it before permits were read off the search's own rows."""
    line = phrase([(5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7)], strokes={0: "down", 1: "down", 2: "up", 4: "up"})
    found = judge_own_way(request(line, "downstart"))
    assert any("Notes 3, 5 go against New string down" in words for words in found.breaks), found.breaks
