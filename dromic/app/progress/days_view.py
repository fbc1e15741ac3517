"""Practice day by day as a picture: above, how fast it was clean; below, minutes by hand and the share of clean passes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import timedelta

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, SMALL, font
from dromic.core.drills.drill_kinds import BY_NAME, words_of
from dromic.core.learning.history import days_to, days_words
from dromic.core.practice.days import Day

LEFT = 58.0
"""Room left of the plot for numbers, px."""
RIGHT = 76.0
"""Room right of it for names, px."""
TOP = 26.0
"""Room over it for the title, px."""
BOTTOM = 20.0
"""Room under it for dates, px."""
_MINUTES_SHARE = 0.34
"""of the height, for minutes"""
_FEWEST = 10
"""Days that the axis spans at least."""
_MOST = 60
"""Days that it spans at most."""
_AHEAD = 21
"""Days to come that it shows at most."""
_HANDS = (("fretting", "fret"), ("picking", "pick"), ("both", "soft"))
_DOT = 4.0
SPENT = 330.0
"""Width of what the minutes went to, px."""
_NAME = 180.0
"""Width of its names, px."""
_ROW = 20.0
"""Height of its rows, px."""
_ROOMY_PX = 22.0
"""width of a day's minutes over which its share of clean passes is written"""


class DaysView(Picture):
    """Days run to the right, the last one at the right edge; days without practice stay empty."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.days: tuple[Day, ...] = ()
        self.target, self.words = 0.0, ""
        self.minutes: Mapping[str, float] = {}
        self._reached: tuple[int, int] | None = None
        """in how many days the target may be reached, at the earliest and at the latest"""
        self._ahead = 0
        self.setMinimumHeight(150)
        self.setAccessibleName("practice day by day")

    def show_days(self, days: tuple[Day, ...], target: float, what: str, minutes: Mapping[str, float]) -> None:
        """Show days of one drill or of all; `what` names which, `minutes` are what all of the phrase's went to, by kind of drill."""
        self.days, self.target, self.minutes = days[-_MOST:], target, minutes
        self.words = f"{what}. {days_words(target, days)}"
        found = days_to(target, days)
        self._reached = found if found is not None and found[0] > 0 else None
        self.setAccessibleDescription(self.words)
        self.update()

    def paint(self, painter: QPainter) -> None:
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(BODY))
        painter.drawText(QPointF(LEFT, 17), self.words)
        if not self.days:
            return
        last = self.days[-1].day
        self._ahead = min(_AHEAD, self._reached[1]) if self._reached is not None else 0
        self._span = max(_FEWEST, (last - self.days[0].day).days + 1) + self._ahead
        split = TOP + (self.height() - TOP - BOTTOM) * (1 - _MINUTES_SHARE)
        self._tempos(painter, split - 12)
        self._minutes(painter, split)
        self._dates(painter)
        self._spent(painter)

    def _x(self, day: Day) -> float:
        step = (self._right - LEFT) / self._span
        return self._right - step * (self._ahead + (self.days[-1].day - day.day).days + 0.5)

    @property
    def _right(self) -> float:
        """Where the days end and the names of their lines begin."""
        return self.width() - RIGHT - (SPENT if self.minutes else 0.0)

    def _spent(self, painter: QPainter) -> None:
        """What the minutes of the phrase went to: a bar a kind of drill, the longest first."""
        most = sorted(self.minutes.items(), key=lambda m: -m[1])[: int((self.height() - TOP - BOTTOM) // _ROW)]
        if not most:
            return
        left, longest = self.width() - SPENT + 8.0, max(most[0][1], 1.0)
        painter.setFont(font(BODY, "strong"))
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(QPointF(left, 17), "minutes by what was practised")
        painter.setFont(font(BODY))
        room = SPENT - _NAME - 52.0
        for n, (kind, minutes) in enumerate(most):
            y = TOP + n * _ROW
            hand = BY_NAME[kind].hand if kind in BY_NAME else "both"
            painter.setPen(self.theme.colour("ink"))
            where = QRectF(left, y, _NAME - 8, _ROW)
            middle = Qt.AlignmentFlag.AlignVCenter
            painter.drawText(where, Qt.AlignmentFlag.AlignRight | middle, words_of(kind))
            wide = max(2.0, room * minutes / longest)
            painter.fillRect(QRectF(left + _NAME, y + 4, wide, _ROW - 8), self.theme.colour(dict(_HANDS)[hand]))
            painter.drawText(QRectF(left + _NAME + wide + 6, y, 40, _ROW), middle, f"{minutes:.0f}")

    def _tempos(self, painter: QPainter, ground: float) -> None:
        most = max(self.target * 1.1, *(d.clean_tempo or 0.0 for d in self.days))

        def y(tempo: float) -> float:
            return ground - (ground - TOP) * tempo / most

        step = next(s for s in (10, 20, 50, 100, 200, 500) if most / s <= 5 or s == 500)
        painter.setFont(font(BODY))
        for n in range(int(most // step) + 1):
            painter.setPen(QPen(self.theme.colour("faint_line"), 1))
            painter.drawLine(QLineF(LEFT, y(n * step), self._right, y(n * step)))
            painter.setPen(self.theme.colour("soft"))
            where = QRectF(0, y(n * step) - 9, LEFT - 8, 18)
            painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(n * step))
        painter.setPen(QPen(self.theme.colour("ink"), 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QLineF(LEFT, y(self.target), self._right, y(self.target)))
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(BODY, "strong"))
        painter.drawText(QPointF(self._right + 6, y(self.target) + 5), "target")
        points = [QPointF(self._x(d), y(d.clean_tempo)) for d in self.days if d.clean_tempo]
        self._fan(painter, points, y)
        painter.setPen(QPen(self.theme.colour("ink", 0.6), 1.6))
        painter.drawPolyline(QPolygonF(points))
        painter.setBrush(self.theme.colour("ink"))
        for point in points:
            painter.drawEllipse(point, _DOT, _DOT)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _fan(self, painter: QPainter, points: list[QPointF], y: Callable[[float], float]) -> None:
        """The way from the last day to the target, between the earliest and the latest it may be reached: an estimate."""
        if self._reached is None or not points:
            return
        step = (self._right - LEFT) / self._span
        low, high = y(0.0), y(self.target)
        early, late = (points[-1].x() + step * days for days in self._reached)
        painter.save()
        painter.setClipRect(QRectF(points[-1].x(), high, self._right - points[-1].x(), low - high))
        fan = QPolygonF([points[-1], QPointF(early, high), QPointF(late, high)])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("ink", 0.16))
        painter.drawPolygon(fan)
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _minutes(self, painter: QPainter, top: float) -> None:
        ground = self.height() - BOTTOM
        most = max(10.0, *(sum(d.minutes.values()) for d in self.days))
        width = min(34.0, 0.7 * (self._right - LEFT) / self._span)
        painter.setFont(font(BODY))
        painter.setPen(self.theme.colour("soft"))
        where = QRectF(0, top - 4, LEFT - 8, 18)
        painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{most:.0f} min")
        for day in self.days:
            low = ground
            for hand, colour in _HANDS:
                high = day.minutes.get(hand, 0.0) / most * (ground - top)
                painter.fillRect(QRectF(self._x(day) - width / 2, low - high, width, high), self.theme.colour(colour))
                low -= high
            played = day.clean + day.missed
            if played and width >= _ROOMY_PX:
                painter.setPen(self.theme.colour("soft"))
                painter.setFont(font(SMALL))
                share = f"{day.clean / played:.0%}"
                painter.drawText(QRectF(self._x(day) - 30, low - 17, 60, 16), Qt.AlignmentFlag.AlignCenter, share)
        painter.setFont(font(BODY))
        painter.setPen(self.theme.colour("soft"))
        painter.drawText(QPointF(self._right + 6, ground - 50), "% clean")
        x, y = self._right + 6, ground
        for hand, colour in reversed(_HANDS):
            painter.setPen(self.theme.colour(colour))
            painter.drawText(QPointF(x, y), hand)
            y -= 16

    def _dates(self, painter: QPainter) -> None:
        last = self.days[-1]
        painter.setPen(self.theme.colour("soft"))
        painter.setFont(font(SMALL))
        step = max(1, self._span // 8)
        for back in range(0, self._span, step):
            day = last.day + timedelta(days=self._ahead - back)
            x = self._right - (self._right - LEFT) / self._span * (back + 0.5)
            painter.drawText(
                QRectF(x - 30, self.height() - 17, 60, 16), Qt.AlignmentFlag.AlignCenter, f"{day.day}.{day.month}."
            )
