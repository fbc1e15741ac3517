"""Phrases at the edges of what can be written, taken through every page of the window: nothing breaks, nothing is lost."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic.core.editing.differences import followed, same_events
from dromic.core.editing.edit import Span, erase, pasted, put, transposed
from dromic.core.editing.edit import copied as clip_of
from dromic.core.music.phrase import Note
from dromic.core.music.songbook import Songbook
from dromic.core.setup.choices import Choices
from dromic.core.setup.pin import Pin
from dromic.core.values.metre import Metre
from dromic.formats.document.document import read_songbook, songbook_bytes
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase
from tests.examples import examples
from tests.phrases import GUITAR

WAIT = 60000
ODD = {
    "one note": phrase([(3, 5)]),
    "one place over and over": phrase([(3, 5)] * 7, QUARTER),
    "chords": phrase([[(6, 3), (5, 2), (4, 0)], [(6, 3), (5, 5)], [(3, 5), (2, 5), (1, 5)]] * 2, EIGHTH),
    "only open strings": phrase([(6, 0), (1, 0)] * 4),
    "more silence than notes": phrase([(3, 5), None, None, None, (2, 5), None, None, (1, 5)] * 2),
    "slurs and taps": phrase(
        [(2, 5), (2, 12), (2, 5), (2, 8), (2, 5)], attacks={1: "tap", 2: "pull", 3: "hammer", 4: "pull"}
    ),
    "from end to end": phrase([(6, 1), (1, 22)] * 3, EIGHTH),
    "five in a bar": phrase([(3, 5), (2, 5)] * 5, EIGHTH, metre=Metre(5, 4)),
    "as slow as it gets": phrase([(3, 5), (2, 5)], Fraction(4), tempo=20),
    "faster than anybody": phrase([(3, 5), (3, 7), (2, 5)] * 4, Fraction(1, 8), tempo=400),
}


@pytest.mark.parametrize("name", ODD)
def test_an_odd_phrase_is_shown_on_every_page(qtbot, bare_window, tmp_path, name):
    path = tmp_path / "odd.dromic"
    path.write_bytes(songbook_bytes(Songbook.of("odd", (replace(ODD[name], title=name),))))
    window = bare_window
    window.open_file(path)
    qtbot.waitUntil(lambda: window.plan is not None, timeout=WAIT)
    plan = window.plan_place
    before, last = window.plan, window.plan.notes[-1].event

    # every note's other ways, the dearest change tried and taken back
    plan.chart.setFocus()
    QTest.keyClick(plan.chart, Qt.Key.Key_End)
    assert plan.chart.selected == last
    QTest.keyClicks(plan.chart, "w")
    qtbot.waitUntil(lambda: not plan.planning.supposer.running, timeout=WAIT)
    if plan.what_if.choices():
        QTest.keyClick(plan.what_if, Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: not plan.planning.planner.running, timeout=WAIT)
        QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        qtbot.waitUntil(lambda: window.plan.request == before.request, timeout=WAIT)
    for keys in ("m", "n", "mn"):
        QTest.keyClicks(plan.chart, keys)
        assert not plan.grab().isNull()
    for tab in range(plan.tabs.count()):
        plan.tabs.setCurrentIndex(tab)
        assert not plan.tabs.grab().isNull()

    window.pages.go_to("Hands")
    assert not window.pages.hands.grab().isNull()
    window.pages.toggle_stand()
    for key in (Qt.Key.Key_End, Qt.Key.Key_Home, Qt.Key.Key_PageDown):
        QTest.keyClick(window.pages.stand, key)
        assert 0 <= window.pages.stand.now <= last and not window.pages.stand.grab().isNull()
    window.pages.toggle_stand()

    window.pages.go_to("Weigh")
    weigh = window.pages.weigh
    qtbot.waitUntil(lambda: bool(weigh.entries) and not weigh.bar.isVisible(), timeout=WAIT)
    assert any(e.plan is not None for e in weigh.entries)
    for tab in range(weigh.tabs.count()):
        weigh.tabs.setCurrentIndex(tab)
        for name in ("work", "table", "rows"):
            weigh.ways.arrange(name)
        assert not weigh.tabs.grab().isNull() and weigh.legend.text()
    window.pages.go_to("Write")
    assert not window.pages.write.grab().isNull()
    assert not window.isWindowModified() and read_songbook(path.read_bytes()).phrases[0] == window.open_book.phrase


LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7), (4, 5), (5, 3)])
SPANS = st.tuples(st.integers(0, 7), st.integers(1, 4)).map(
    lambda s: Span(LINE.events[s[0]].onset, LINE.events[s[0]].onset + s[1] * SIXTEENTH)
)


def played_up(line, span):
    return transposed(line, span, 2, GUITAR)


def written_in(line, span):
    return put(line, span.start + SIXTEENTH / 2, Note(GUITAR.pitch_at(1, 12), SIXTEENTH / 2, 1, 12))


def pasted_over(line, span):
    return pasted(line, span.start, clip_of(line, Span(LINE.events[0].onset, LINE.events[2].onset)))


EDITS = st.sampled_from([erase, played_up, written_in, pasted_over])


@given(st.lists(st.tuples(EDITS, SPANS), max_size=3), st.sets(st.integers(0, 7), max_size=5))
@examples(150)
def test_pins_stay_with_their_notes_through_any_edits(edits, pinned):
    """Whatever is done to a phrase, a pin that is still there is on a note of the pitch it was set on; and a pin is gone
    only where its note is."""
    made = Choices(pins=tuple(Pin(event, 0, "finger", "2") for event in sorted(pinned)))
    pitches = {event: [n.pitch for n in LINE.events[event].notes] for event in pinned}
    line = LINE
    for act, span in edits:
        after = act(line, span)
        places = same_events(line, after)
        assert all(0 <= new < len(after.events) for new in places.values())
        assert len(set(places.values())) == len(places)  # no two notes become one
        made, line = followed(made, line, after), after
    held = [[n.pitch for n in line.events[pin.event].notes] for pin in made.pins]
    was = [pitches[event] for event in sorted(pinned)]
    rest = iter(was)
    assert all(any(pitch == one for one in rest) for pitch in held)  # in their order, none that was not there
    if not edits:
        assert [pin.event for pin in made.pins] == sorted(pinned)
