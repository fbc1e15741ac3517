"""Words and shapes on the screen, from data: what each hand does, where a finger stays, what damps, what to change."""

from dataclasses import replace

import pytest

from dromic.core.plan.damping import muting
from dromic.core.plan.finding import Change, Remedy
from dromic.core.reports.chart import chart
from dromic.core.reports.explain import explain_event, remedy_text
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned


def notices(found, event):
    return " | ".join(explain_event(found, event, muting(found)))


@pytest.mark.parametrize(
    ("line", "school", "event", "words"),
    [
        (phrase([(5, 5), (4, 5)]), "economy", 1, ["carries through to the next string", "rests on string 3"]),
        (phrase([(5, 5), (5, 5)], EIGHTH), "downs", 1, ["the same stroke comes again", "down-stroke"]),
        (phrase([(4, 5), (4, 7)], attacks={1: "hammer"}), "alternate", 1, ["hammered", "the pick rests"]),
        (phrase([(4, 7), (4, 5)], attacks={1: "pull"}), "alternate", 1, ["pulled off"]),
        (phrase([(4, 7), (4, 9)], attacks={1: "slide"}), "alternate", 1, ["slid to", "the finger slides"]),
        (phrase([(4, 7), (1, 12)], attacks={1: "tap"}), "alternate", 1, ["tapped by the picking hand"]),
        (phrase([(5, 7), (3, 9)]), "hybrid", 1, ["plucked m", "a bare finger plucks"]),
        (phrase([(4, 3), (4, 0)]), "alternate", 1, ["open", "the fingers may lift"]),
        (phrase([(4, 3), (4, 14)]), "alternate", 1, ["the hand shifts", "mm"]),
        (phrase([(5, 5), (2, 5)]), "alternate", 1, ["the pick skips strings from outside", "passes over 3 strings"]),
        (phrase([(5, 5)]), "alternate", 0, ["comes from the count-in", "in place before the start"]),
    ],
)
def test_moves_are_told_in_words(line, school, event, words):
    start = {"start": "down"} if school == "economy" else {}
    text = notices(planned(line, school, **start), event)
    assert all(word in text for word in words), text


def test_marks_are_named_where_one_points():
    line = phrase([(2, 8), (2, 10)], QUARTER)
    bent = replace(
        line.events[1], notes=(replace(line.events[1].notes[0], bend=2.0, marks=frozenset({"bend", "vibrato"})),)
    )
    assert "(bent upwards, vibrato)" in notices(planned(line.with_events((line.events[0], bent))), 1)


def test_remedies_say_what_they_gain():
    plan = planned(phrase([(3, 5), (2, 5)], SIXTEENTH, tempo=140), "alternate")
    c = plan.ceiling
    assert (
        remedy_text(plan, Remedy(Change("do so"), 1.2 * c, 1.3 * c)) == f"do so: ceiling about {c:.0f} to {1.2 * c:.0f}"
    )
    assert remedy_text(plan, Remedy(Change("do so"), c, 200.0)) == "do so: about 200 here, the ceiling stays"
    assert remedy_text(plan, Remedy(Change("do so"), c, None)) == "do so: that mends it, the ceiling stays"
    assert "but the ceiling falls" in remedy_text(plan, Remedy(Change("do so"), 0.5 * c, 200.0))


def test_bars_of_fingers_run_from_press_to_lift():
    line = phrase([(3, 5), (3, 5), (3, 7), (3, 5)], EIGHTH, tempo=120)
    drawn = chart(planned(line, "alternate"))
    first = drawn.fingers[0]
    assert (first.start_s, first.end_s, first.string, first.fret) == (0.0, 1.0, 3, 5)  # it stays under fret 7
    assert [b.again for b in drawn.fingers] == [False, False]
    taps = chart(planned(phrase([(1, 12), (1, 5)], attacks={0: "tap", 1: "pull"}), "alternate"))
    assert next(b.finger for b in taps.fingers) == "t"


def test_damping_runs_are_joined_and_lie_on_their_strings():
    drawn = chart(planned(phrase([(3, 5)] * 4, EIGHTH, tempo=120), "alternate"))
    palm = [d for d in drawn.damped if d.by == "palm"]
    assert [(d.string, d.start_s, d.end_s) for d in sorted(palm, key=lambda d: d.string)] == [
        (s, 0.0, 1.0) for s in (4, 5, 6)
    ]
    assert {d.string: d.mm for d in palm} == {s: drawn.string_mm[s - 1] for s in (4, 5, 6)}
    ringing = chart(planned(phrase([(1, 0), (5, 5), (5, 7)], EIGHTH), "alternate"))
    assert [d.string for d in ringing.damped if d.rings] == [1]


def test_plucks_stand_on_their_strings_with_their_letters():
    drawn = chart(planned(phrase([(5, 7), (3, 9), (2, 10)], EIGHTH), "hybrid"))
    assert [(p.event, p.finger) for p in drawn.plucks] == [(1, "m"), (2, "a")]
    assert [p.mm for p in drawn.plucks] == [drawn.string_mm[2], drawn.string_mm[1]]
    assert len(drawn.strokes) == 1


def test_a_seam_is_drawn_apart_from_the_moves_onward():
    found = planned(phrase([(5, 5), (4, 5), (4, 7)], EIGHTH), "free", repeat=True)
    drawn = chart(found)
    assert [m.to for m in drawn.moves] == [1, 2] and [m.to for m in drawn.seams] == [0]
    assert found.arriving(0) is None and found.arriving(2).start == 1
