"""A drill as it is read from the stand: strings, frets, strokes and fingers, with the bar lines, as large as there is room."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from dromic.app.drawing.glyphs import stroke_glyph
from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, font
from dromic.core.music.phrase import Event, Phrase
from dromic.core.values.pitch import note_name

CENTRE = Qt.AlignmentFlag.AlignCenter
_SIGNS = {"hammer": "h", "pull": "p", "slide": "s", "hammer-new": "n", "tap": "t"}
_MOST = 40
"""events shown at most: longer drills are played through, not read here"""
_LARGEST_PX = 60.0
"""Type of fret numbers at most, px."""
_LEAST_PX = 13.0
"""Type of fret numbers at least, px."""
_GUTTER_EM = 1.6


class FigureView(Picture):
    """One drill's phrase. Strokes above, fingers below; the accent is a wedge over its note."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.phrase: Phrase | None = None
        self.now: int | None = None
        """the event that sounds"""
        self.setMinimumHeight(120)
        self.setAccessibleName("the drill")

    def show_phrase(self, phrase: Phrase | None) -> None:
        self.phrase, self.now = phrase, None
        if phrase is not None:
            self.setAccessibleDescription(phrase.title)
        self.update()

    def follow(self, event: int | None) -> None:
        if event != self.now:
            self.now = event
            self.update()

    def paint(self, painter: QPainter) -> None:
        phrase = self.phrase
        if phrase is None or not phrase.events or phrase.instrument is None:
            return
        first = 0 if self.now is None or self.now < _MOST else (self.now // _MOST) * _MOST
        shown = phrase.events[first : first + _MOST]
        strings = phrase.instrument.strings
        em = max(_LEAST_PX, min(_LARGEST_PX, self.height() / (strings + 4.2), self.width() / (1.25 * len(shown) + 4)))
        gap = em * 1.06
        top = (self.height() - gap * (strings - 1)) / 2 + 0.2 * em
        left = _GUTTER_EM * em + 8
        step = (self.width() - left - em) / max(1, len(shown))
        self._strings(painter, phrase, em, gap, top, left)
        bar = None
        for n, one in enumerate(shown):
            x = left + (n + 0.5) * step
            if bar is not None and one.bar != bar:
                painter.setPen(QPen(self.theme.colour("line"), 2))
                painter.drawLine(QLineF(x - step / 2, top, x - step / 2, top + gap * (strings - 1)))
            bar = one.bar
            self._event(painter, one, x, em, gap, top, strings, first + n == self.now)
        said = "; ".join(one.words for one in shown if one.words)
        if said:
            painter.setPen(self.theme.colour("ink"))
            painter.setFont(font(max(14.0, em * 0.42), "strong"))
            painter.drawText(QRectF(left, 2, self.width() - left - 8, em * 0.7 + 8), Qt.AlignmentFlag.AlignLeft, said)
        left_over = len(phrase.events) - first - len(shown)
        if left_over > 0:
            painter.setPen(self.theme.colour("soft"))
            painter.setFont(font(BODY))
            painter.drawText(QPointF(left, self.height() - 8), f"and {left_over} more notes, as they come")

    def _strings(self, painter: QPainter, phrase: Phrase, em: float, gap: float, top: float, left: float) -> None:
        assert phrase.instrument is not None
        painter.setFont(font(em * 0.5))
        for string in range(1, phrase.instrument.strings + 1):
            y = top + (string - 1) * gap
            painter.setPen(QPen(self.theme.colour("line"), 1.2))
            painter.drawLine(QLineF(left, y, self.width() - 8, y))
            painter.setPen(self.theme.colour("soft"))
            name = note_name(phrase.instrument.open_pitch(string))
            painter.drawText(QRectF(0, y - em / 2, left - 6, em), Qt.AlignmentFlag.AlignRight | CENTRE, name)

    def _event(
        self, painter: QPainter, event: Event, x: float, em: float, gap: float, top: float, strings: int, now: bool
    ) -> None:
        theme = self.theme
        if now:
            painter.fillRect(
                QRectF(x - em * 0.6, top - em * 1.5, em * 1.2, gap * (strings - 1) + 2.9 * em), theme.colour("band")
            )
        lead = event.notes[0]
        for note in event.notes:
            if note.string is None:
                continue
            y = top + (note.string - 1) * gap
            words = "x" if "dead" in note.marks else str(note.fret)
            painter.setFont(font(em * 0.82, "heavy"))
            wide = painter.fontMetrics().horizontalAdvance(words) + 4
            painter.fillRect(
                QRectF(x - wide / 2, y - em * 0.46, wide, em * 0.92), theme.colour("band" if now else "paper")
            )
            painter.setPen(theme.colour("ink"))
            painter.drawText(QRectF(x - em, y - em * 0.6, 2 * em, em * 1.2), CENTRE, words)
        below = top + gap * (strings - 1) + em * 0.62
        if lead.finger not in (None, "0"):
            painter.setFont(font(em * 0.6, "strong"))
            painter.setPen(theme.colour("fret"))
            painter.drawText(QRectF(x - em, below, 2 * em, em * 0.8), CENTRE, str(lead.finger))
        self._above(painter, event, x, em, top)

    def _above(self, painter: QPainter, event: Event, x: float, em: float, top: float) -> None:
        theme, lead = self.theme, event.notes[0]
        sign = _SIGNS.get(lead.attack or "")
        painter.setPen(theme.colour("pick" if sign is None else "fret"))
        if lead.stroke in ("down", "up"):
            stroke_glyph(painter, theme.colour("pick"), QPointF(x, top - em * 0.98), lead.stroke, em * 0.5)
        else:
            painter.setFont(font(em * 0.62, "strong"))
            words = sign or (lead.stroke or "")
            painter.drawText(QRectF(x - em, top - em * 1.4, 2 * em, em * 0.8), CENTRE, words)
        if event.marked("accent"):
            painter.setFont(font(em * 0.6, "heavy"))
            painter.setPen(theme.colour("ink"))
            painter.drawText(QRectF(x - em, top - em * 2.0, 2 * em, em * 0.6), CENTRE, ">")
