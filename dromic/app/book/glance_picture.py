"""A plan at a glance, drawn: the pick's path through the strings, both hands' loads, and in the large picture a hand that plays it."""

from __future__ import annotations

from bisect import bisect_right
from itertools import pairwise

from PyQt6.QtCore import QElapsedTimer, QLineF, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QBrush, QHideEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QShowEvent
from PyQt6.QtWidgets import QPushButton, QSizePolicy, QWidget

from dromic.app.drawing.glyphs import stroke_glyph
from dromic.app.drawing.load_bar import HIGHEST_LOAD
from dromic.app.kit.theme import BODY, HEAD, LIGHT, SMALL, Theme, font
from dromic.core.reports.glance import Glance, GlanceNote

_CENTRE = Qt.AlignmentFlag.AlignCenter
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
STEP_MS = 40
"""How often the moving picture is drawn, ms."""
REST_S = 1.2
"""Rest before it begins again, s."""
CARD_TALL = 64
"""Height of a card, px."""
LINE = 19
"""Height of a line of words on it, px."""
PICTURE_WIDE = 180
"""Width of its picture at most, px."""
PICTURE_SHARE = 0.42
"""Width of its picture as a share of a narrow card."""
SHOWN_S = 4.5
"""of the music, at most, in the large picture"""


def paint_small(painter: QPainter, theme: Theme, box: QRectF, shown: Glance) -> None:
    """A thumbnail: the path above, the larger hand's loads below."""
    if not shown.end_s:
        return
    floor = box.bottom() - 14

    def x(seconds: float) -> float:
        return box.left() + seconds / shown.end_s * box.width()

    gap = (floor - box.top() - 4) / max(1, shown.strings - 1)
    painter.setPen(QPen(theme.colour("line"), 0.7))
    for n in range(shown.strings):
        painter.drawLine(QLineF(box.left(), box.top() + 2 + n * gap, box.right(), box.top() + 2 + n * gap))
    painter.setPen(QPen(theme.colour("pick"), 1.6))
    path = QPainterPath()
    for n, note in enumerate(shown.notes):
        at = QPointF(x(note.at_s), box.top() + 2 + (shown.strings - note.strings[0]) * gap)
        path.lineTo(at) if n else path.moveTo(at)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    painter.setPen(Qt.PenStyle.NoPen)
    wide = max(1.5, box.width() / len(shown.notes) - 1)
    for note in shown.notes:
        _load(painter, theme, QRectF(x(note.at_s) - wide / 2, floor + 2, wide, 12), note)


def _load(painter: QPainter, theme: Theme, room: QRectF, note: GlanceNote) -> None:
    load = max(note.pick, note.fret)
    tall = min(load, HIGHEST_LOAD) / HIGHEST_LOAD * room.height()
    bar = QRectF(room.left(), room.bottom() - tall, room.width(), tall)
    name = "hurt" if load > 1 else "pick" if note.pick >= note.fret else "fret"
    painter.fillRect(bar, theme.colour(name, 1.0 if load > 1 else 0.55))
    if load > 1:
        painter.fillRect(bar, QBrush(theme.colour("raised"), Qt.BrushStyle.BDiagPattern))


class GlanceCard(QPushButton):
    """A piece of work to go on with: its thumbnail, its name and its ceiling."""

    def __init__(
        self,
        name: str,
        under: str,
        shown: Glance | None,
        theme: Theme,
        titled: bool = False,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.name, self.under, self.shown, self.theme, self.titled = name, under, shown, theme, titled
        self.setObjectName("glance")
        self.setFixedHeight(CARD_TALL)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(f"{name}, {f'{shown.title}, {shown.words}' if shown is not None else under}")

    def sizeHint(self) -> QSize:
        return QSize(320, CARD_TALL)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter, theme, shown = QPainter(self), self.theme, self.shown
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left = 12.0
        if shown is not None:
            wide = min(PICTURE_WIDE, PICTURE_SHARE * self.width())
            paint_small(painter, theme, QRectF(left, 8, wide, CARD_TALL - 16), shown)
            left += wide + 16
        hurts = shown is not None and shown.ceiling is not None and shown.ceiling < shown.tempo
        lines = [(self.name, "strong", "ink")]
        if shown is not None and self.titled:
            lines.append((shown.title, "normal", "soft"))
        lines.append((self.under if shown is None else shown.words, "normal", "hurt" if hurts else "soft"))
        top = (CARD_TALL - LINE * len(lines)) / 2
        for n, (words, weight, colour) in enumerate(lines):
            room = QRectF(left, top + n * LINE, self.width() - left - 12, LINE)
            painter.setPen(theme.colour(colour))
            painter.setFont(font(BODY, weight))
            painter.drawText(room, _LEFT, self._cut(painter, words, room.width()))

    @staticmethod
    def _cut(painter: QPainter, words: str, room: float) -> str:
        return painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room))


class LivePicture(QWidget):
    """One plan played before your eyes: the pick's path with its strokes, the fingers under it, and what does not fit hatched."""

    pressed = pyqtSignal()

    def __init__(self, shown: Glance, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shown, self.theme, self.at_s = shown, LIGHT, 0.0
        self.long_s = min(shown.end_s, SHOWN_S)
        self.start_s = shown.from_s(self.long_s)
        """what is shown of the music, in seconds"""
        self.setAccessibleName(f"both hands of {shown.title}, {shown.words}")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(360, 240)
        self._clock, self._beat = QElapsedTimer(), QTimer(self)
        self._beat.setInterval(STEP_MS)
        self._beat.timeout.connect(self._step)

    def showEvent(self, event: QShowEvent | None) -> None:
        self._clock.start()
        self._beat.start()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self._beat.stop()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.pressed.emit()

    def _step(self) -> None:
        self.show_at(self._clock.elapsed() / 1000 % (self.long_s + REST_S))

    def hold(self, at_s: float) -> None:
        """Stay at a moment."""
        self._beat.stop()
        self.show_at(at_s)

    def show_at(self, at_s: float) -> None:
        """The moment that is played, from where the picture begins."""
        self.at_s = at_s
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, theme, shown = QPainter(self), self.theme, self.shown
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(theme.colour("line"))
        painter.setBrush(theme.colour("paper"))
        painter.drawRoundedRect(whole, 4, 4)
        start = self.start_s
        notes = [n for n in shown.notes if start - 1e-6 <= n.at_s < start + self.long_s]
        if not notes:
            return
        self._hands(painter, notes, whole.adjusted(20, 44, -24, -16))
        painter.setFont(font(BODY, "strong"))
        painter.setPen(theme.colour("ink"))
        head = QRectF(20, 12, whole.width() - 40, 24)
        painter.drawText(head, _LEFT, f"{shown.title}, {shown.tempo:g} asked for")
        if shown.ceiling is not None:
            hurts = shown.ceiling < shown.tempo
            painter.setFont(font(HEAD, "heavy"))
            painter.setPen(theme.colour("hurt" if hurts else "ink"))
            painter.drawText(
                head, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"ceiling about {shown.ceiling:.0f}"
            )

    def _hands(self, painter: QPainter, notes: list[GlanceNote], box: QRectF) -> None:
        theme, shown = self.theme, self.shown
        names, gap = 60.0, 0.42 * box.height() / max(1, shown.strings - 1)
        left, floor = box.left() + names, box.top() + 0.42 * box.height()
        per_s = (box.right() - left - 16) / max(1e-6, self.long_s)

        def x(seconds: float) -> float:
            return left + 12 + (seconds - self.start_s) * per_s

        def y(string: int) -> float:
            return box.top() + (shown.strings - string) * gap

        now = bisect_right([n.at_s for n in notes], self.at_s + self.start_s) - 1
        playing = self.at_s <= self.long_s
        for n in range(shown.strings):
            painter.setPen(QPen(theme.colour("line"), 0.8 + 0.25 * (shown.strings - n)))
            painter.drawLine(QLineF(left, box.top() + n * gap, box.right(), box.top() + n * gap))
        self._path(painter, notes, [QPointF(x(n.at_s), y(n.strings[0])) for n in notes], now)
        loads, neck = floor + 54, QRectF(left, floor + 84, box.right() - left, box.bottom() - floor - 88)
        self._neck(painter, notes, neck)
        for top, words, name in (
            (box.top() + 0.18 * box.height(), "picking", "pick"), (loads - 2, "load", "ink"), (neck.center().y(), "fretting", "fret"),
        ):  # fmt: skip
            painter.setFont(font(SMALL, "strong"))
            painter.setPen(theme.colour(name))
            painter.drawText(QRectF(box.left(), top - 10, names - 8, 20), _LEFT, words)
        wide = min(24.0, 0.8 * per_s * min((b.at_s - a.at_s for a, b in pairwise(notes)), default=1.0))
        for n, note in enumerate(notes):
            if note.stroke in ("down", "up"):
                stroke_glyph(
                    painter, theme.colour("pick"), QPointF(x(note.at_s), floor + 22), note.stroke, min(12.0, wide)
                )
            if n:
                middle = (x(notes[n - 1].at_s) + x(note.at_s)) / 2
                painter.setPen(Qt.PenStyle.NoPen)
                _load(painter, theme, QRectF(middle - wide / 2, loads - 18, wide, 30), note)
            self._fingers(
                painter, note, x(note.at_s), self._fret_y(notes, neck, note.frets[0]), wide, n == now and playing
            )
        if playing:
            painter.setPen(QPen(theme.colour("focus"), 2))
            painter.drawLine(
                QLineF(x(self.at_s + self.start_s), box.top() - 6, x(self.at_s + self.start_s), box.bottom())
            )

    def _path(self, painter: QPainter, notes: list[GlanceNote], points: list[QPointF], now: int) -> None:
        theme = self.theme
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for n, (start, end) in enumerate(pairwise(points), start=1):
            hurts = notes[n].pick > 1
            painter.setPen(QPen(theme.colour("hurt" if hurts else "pick", 0.9), 3.4 if hurts else 2.0))
            path = QPainterPath(start)
            middle = (start.x() + end.x()) / 2
            path.cubicTo(QPointF(middle, start.y()), QPointF(middle, end.y()), end)
            painter.drawPath(path)
        painter.setPen(Qt.PenStyle.NoPen)
        for n, point in enumerate(points):
            painter.setBrush(theme.colour("ink" if n == now else "pick"))
            painter.drawEllipse(point, 6 if n == now else 3.5, 6 if n == now else 3.5)

    @staticmethod
    def _fret_y(notes: list[GlanceNote], neck: QRectF, fret: int) -> float:
        """The middle of a fret's row, the lowest at the foot."""
        highest = max(1, *(f for n in notes for f in n.frets))
        lowest = min((f for n in notes for f in n.frets if f), default=1)
        rows = highest - lowest + 2
        row = fret - lowest + 1 if fret else 0
        return neck.bottom() - (row + 0.5) * neck.height() / rows

    def _neck(self, painter: QPainter, notes: list[GlanceNote], neck: QRectF) -> None:
        """A line and a number for every fret that is used, the open strings at the foot."""
        painter.setFont(font(SMALL))
        for fret in sorted({f for n in notes for f in n.frets}):
            y = self._fret_y(notes, neck, fret)
            painter.setPen(QPen(self.theme.colour("faint_line"), 1))
            painter.drawLine(QLineF(neck.left(), y, neck.right(), y))
            painter.setPen(self.theme.colour("soft"))
            painter.drawText(QRectF(neck.left() - 22, y - 8, 18, 16), Qt.AlignmentFlag.AlignRight, str(fret))

    def _fingers(self, painter: QPainter, note: GlanceNote, x: float, y: float, wide: float, now: bool) -> None:
        """The finger of a note in a chip in its fret's row; hollow where the string is open."""
        theme, finger, fret = self.theme, note.fingers[0], note.frets[0]
        size = max(12.0, min(20.0, wide))
        chip = QRectF(x - size / 2, y - 10, size, 20) if fret else QRectF(x - 5, y - 5, 10, 10)
        painter.setPen(QPen(theme.colour("ink" if now else "fret"), 2.4 if now else 1.0))
        painter.setBrush(theme.colour("fret") if fret else theme.colour("paper"))
        painter.drawRoundedRect(chip, chip.width() / 2.4, chip.width() / 2.4)
        if fret:
            painter.setPen(theme.colour("on_fret"))
            painter.setFont(font(SMALL, "heavy"))
            painter.drawText(chip, _CENTRE, finger)
