"""The writing grid's geometry, from data, and that whatever a phrase holds can be drawn."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtGui import QImage, QPainter

from dromic.app.kit import theme
from dromic.app.write.grid_paint import GridPainter
from dromic.app.write.grid_rows import GUTTER, MARGIN, grid_rows
from dromic.app.write.pen import Pen
from dromic.core.music.songbook import empty_phrase
from dromic.formats.text.quick_line import parse
from tests.examples import examples
from tests.phrases import GUITAR, phrases


@given(phrases(), st.integers(300, 1900), st.floats(24, 400))
@examples(80)
def test_rows_hold_every_bar_once_inside_the_width(phrase, width, px):
    rows = grid_rows(phrase, 6, width, px)
    assert [b for r in rows.rows for b in range(r.first, r.last + 1)] == list(range(len(phrase.bars)))
    for row in rows.rows:
        assert row.start == phrase.bars[row.first].start and row.end == phrase.bars[row.last].end
        assert rows.x(row, row.end) <= max(width, GUTTER + 121) - MARGIN + 1
    for event in phrase.events:
        row = rows.row_of(event.onset)
        assert row.start <= event.onset < row.end


@given(phrases(), st.data())
@examples(60)
def test_a_point_is_found_where_it_is_drawn(phrase, data):
    rows = grid_rows(phrase, 6, 900, 120)
    bar = data.draw(st.sampled_from(phrase.bars))
    steps = int(bar.length / Fraction(1, 4))
    row = rows.row_of(bar.start)
    at = row.start + (bar.start - row.start) // Fraction(1, 4) * Fraction(1, 4)
    at = min(at + data.draw(st.integers(0, max(0, steps - 1))) * Fraction(1, 4), row.end - Fraction(1, 4))
    if at < row.start or at // Fraction(1, 4) * Fraction(1, 4) != at:
        return
    lane = data.draw(st.integers(0, 6))
    found, string = rows.place(rows.x(row, at) + 2, rows.lane_y(row, lane), Fraction(1, 4))
    assert string == lane and abs(found - at) < Fraction(1, 4)


def painted(rows, phrase):
    image = QImage(900, rows.height, QImage.Format.Format_RGB32)
    image.fill(theme.LIGHT.colour("paper"))
    painter = QPainter(image)
    GridPainter(painter, rows, phrase, GUITAR, theme.LIGHT).paint(Pen(), 0, rows.height, True, None)
    painter.end()
    return image


@given(phrases())
@examples(40)
def test_whatever_a_phrase_holds_is_drawn(phrase):
    """Without any one of its events the picture is another."""
    theme.load_fonts()
    rows = grid_rows(phrase, 6, 900, 120)
    whole = painted(rows, phrase)
    for n in range(len(phrase.events)):
        assert painted(rows, phrase.with_events([*phrase.events[:n], *phrase.events[n + 1 :]])) != whole


@pytest.mark.parametrize("text", ["6.0:w | 6.0 | 6.0 | 6.0", "12/8 6.0:w. | 5.0", "6.0:q r:h."])
def test_a_long_note_reaches_as_far_as_it_sounds(text):
    phrase = parse(text, empty_phrase("x", GUITAR), GUITAR).phrase
    rows = grid_rows(phrase, 6, 900, 100)
    note = phrase.events[0].notes[0]
    row = rows.row_of(Fraction(0))
    assert rows.x(row, note.duration) - rows.x(row, Fraction(0)) == pytest.approx(float(note.duration) * rows.px)
