"""Each note's error on the time axis of the chart above it: a mark up for late, down for early, over the load that was predicted."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from dromic.app.chart.chart_view import ChartView
from dromic.app.chart.lanes import GUTTER
from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, HEAD, LIGHT, font
from dromic.core.listening.report import NoteReport, TakeReport

_HEIGHT = 168
_TOP = 24.0
"""Room over the lane's middle for its words, px."""
_BOTTOM = 10.0
"""Room under it, px."""
_MOST_MS = 60.0
"""errors farther than this stand at the edge"""
_LOAD_MOST = 1.5
_DOT = 3.0
"""Half a note's dot, px."""
_BIG = 5.0
"""Half the dot of the note pointed at, px."""
_ROOM_PX = 58.0
"""between verdicts that are written out"""


class ErrorLane(Picture):
    """Follows the window of a chart: the same seconds stand under the same place."""

    def __init__(self, chart: ChartView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.chart, self.theme = chart, LIGHT
        self.report: TakeReport | None = None
        self._by_event: dict[int, list[NoteReport]] = {}
        self.setFixedHeight(_HEIGHT)
        self.setMouseTracking(True)
        self.setAccessibleName("how far off each note was")
        chart.window_changed.connect(lambda *_: self.update())
        chart.selected_changed.connect(lambda _: self.update())

    def show_report(self, report: TakeReport | None) -> None:
        self.report = report
        self._by_event = {}
        for note in report.notes if report is not None else ():
            self._by_event.setdefault(note.event, []).append(note)
        faults = len(report.faults) if report is not None else 0
        self.setAccessibleDescription(
            f"{faults} notes are not as they are meant" if report is not None else "no take yet"
        )
        self.update()

    def _y(self, error_ms: float) -> float:
        middle = (_TOP + self.height() - _BOTTOM) / 2
        share = max(-1.0, min(1.0, error_ms / _MOST_MS))
        return middle - share * (self.height() - _TOP - _BOTTOM) / 2

    def paint(self, painter: QPainter) -> None:
        lanes, report = self.chart.lanes(), self.report
        if lanes is None or self.chart.chart is None:
            return
        self._axis(painter)
        if report is None:
            painter.setFont(font(HEAD))
            painter.setPen(self.theme.colour("soft"))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "Open a take, or have the simulated player play one"
            )
            return
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        seconds = self.chart.chart.event_s
        ground = self.height() - _BOTTOM
        written = -_ROOM_PX
        for number, at in enumerate(seconds):
            x = lanes.x(at)
            if not GUTTER - 40 <= x <= self.width() + 40:
                continue
            notes = self._by_event.get(number, [])
            load = max((n.load for n in notes), default=0.0)
            tall = min(load, _LOAD_MOST) / _LOAD_MOST * (ground - _TOP)
            painter.fillRect(QRectF(x - 5, ground - tall, 10, tall), self.theme.colour("soft", 0.22))
            if number == self.chart.selected:
                painter.fillRect(QRectF(x - 9, _TOP, 18, ground - _TOP), self.theme.colour("focus", 0.15))
            for note in notes:
                written = self._mark(painter, x, note, written)
        painter.setClipping(False)

    def _mark(self, painter: QPainter, x: float, note: NoteReport, written: float) -> float:
        """One note; gives the place of the last verdict that was written out."""
        fault = note.verdict != "ok"
        colour = self.theme.colour("hurt" if fault else "ink")
        y = self._y(note.error_ms or 0.0)
        painter.setPen(QPen(colour, 2.0))
        painter.setBrush(colour)
        if note.heard_s is None:
            painter.drawLine(QLineF(x - _BIG, y - _BIG, x + _BIG, y + _BIG))
            painter.drawLine(QLineF(x - _BIG, y + _BIG, x + _BIG, y - _BIG))
        else:
            painter.drawLine(QLineF(x, self._y(0.0), x, y))
            painter.drawEllipse(QPointF(x, y), _BIG if fault else _DOT, _BIG if fault else _DOT)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if fault and x - written >= _ROOM_PX:
            painter.setFont(font(BODY, "strong"))
            above = y - 22 > _TOP - 6
            painter.drawText(
                QRectF(x - 40, y - 22 if above else y + 6, 80, 16), Qt.AlignmentFlag.AlignCenter, note.verdict
            )
            return x
        return written

    def _axis(self, painter: QPainter) -> None:
        painter.setFont(font(BODY))
        for ms in (-40, -20, 0, 20, 40):
            painter.setPen(QPen(self.theme.colour("ink" if not ms else "faint_line"), 1))
            painter.drawLine(QLineF(GUTTER, self._y(ms), self.width(), self._y(ms)))
            painter.setPen(self.theme.colour("soft"))
            where = QRectF(0, self._y(ms) - 9, GUTTER - 6, 18)
            painter.drawText(
                where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{ms:+d}" if ms else "0 ms"
            )
        painter.setPen(self.theme.colour("soft"))
        words = "over the line late, under it early; behind, the load that was predicted; a cross is a note not heard"
        painter.drawText(QPointF(GUTTER + 6, 16), words)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        at = self.chart.event_at(event.position().x()) if event is not None else None
        if at is not None:
            self.chart.select(at)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        at = self.chart.event_at(event.position().x()) if event is not None else None
        if event is not None and at is not None:
            QToolTip.showText(
                event.globalPosition().toPoint(), "\n".join(told(n) for n in self._by_event.get(at, ())), self
            )


def told(note: NoteReport) -> str:
    """A note of a take in words."""
    if note.heard_s is None:
        return f"Note {note.index + 1} was not heard; sure to {note.sure:.0%}"
    loud = f", {note.db:+.1f} dB" if note.db is not None else ""
    cents = f", {note.cents:+.0f} cents" if note.cents is not None else ""
    off = f"{note.error_ms or 0.0:+.0f} ms{loud}{cents}"
    return f"Note {note.index + 1}: {note.verdict}, {off}; load {note.load:.2f}; sure to {note.sure:.0%}"
