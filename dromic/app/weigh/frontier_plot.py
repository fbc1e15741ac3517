"""The frontier as a plot: what each plan asks of the picking hand against what it asks of the fretting hand."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QLineF, QPointF, QRectF, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QHelpEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QToolTip, QWidget

from dromic.app.drawing.picture import Axes, Picture
from dromic.app.kit.theme import BODY, Theme, font
from dromic.app.weigh.candidates import ALTERNATIVE, LEAN, OWN_WAY, SCHOOL, Candidate
from dromic.core.questions.alternatives import Balance, balance

_SIZE = 6.5
"""Half a point, px."""
_RING = 11.5
"""Radius of the ring around the chosen one, px."""
_REACH = 12.0
"""How near a click or the pointer must come, px."""
_LIST_PX = 220
_LEAST_SHARE = 1 / 3
"""of the largest value an axis spans at least"""
_NEAR = 0.035
"""Points nearer than this share of an axis share their words."""
_BESIDE = 10.0
"""Distance of words from their point, px."""
_LEFT = 70.0
"""Room left of the plot for numbers, px."""
_TOP = 14.0
"""Room over it, px."""
_RIGHT = 20.0
"""Room right of it, px."""
_BOTTOM = 44.0
"""Room under it for numbers and unit, px."""
_WORDS = "work of the picking hand (sum of its loads to the power of the dial)", "work of the fretting hand"


def _round(painter: QPainter, at: QPointF, half: float) -> None:
    painter.drawEllipse(at, half, half)


def _corners(*places: tuple[float, float]) -> Callable[[QPainter, QPointF, float], None]:
    """A shape by its corners, in halves of its size."""

    def drawn(painter: QPainter, at: QPointF, half: float) -> None:
        painter.drawPolygon(QPolygonF([QPointF(at.x() + half * x, at.y() + half * y) for x, y in places]))

    return drawn


def _cross(painter: QPainter, at: QPointF, half: float) -> None:
    painter.drawLine(QLineF(at.x() - half, at.y(), at.x() + half, at.y()))
    painter.drawLine(QLineF(at.x(), at.y() - half, at.x(), at.y() + half))


SHAPES: dict[str, tuple[str, Callable[[QPainter, QPointF, float], None]]] = {
    SCHOOL: ("schools", _round),
    LEAN: ("other leans", _corners((-0.85, -0.85), (0.85, -0.85), (0.85, 0.85), (-0.85, 0.85))),
    ALTERNATIVE: ("other ways", _corners((0, -1.1), (1.0, 0.8), (-1.0, 0.8))),
    OWN_WAY: ("my way", _corners((0, -1.3), (1.3, 0), (0, 1.3), (-1.3, 0))),
}
"""what a point of each kind is called, and how it is drawn"""
_UNBEATEN = "this school, beaten by none"


@dataclass(frozen=True, slots=True)
class _Point:
    """A plan in the plot: the number of its entry, or one that no other of the school beats."""

    balance: Balance
    kind: str
    tip: str
    number: int = -1


class _Field(Picture):
    """The points and their axes."""

    pressed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(f"{_WORDS[1]} against {_WORDS[0].partition(' (')[0]}")
        self.setMinimumSize(320, 220)
        self.setMouseTracking(True)
        self.points: list[_Point] = []
        self.current = 0
        self.label = ""

    def axes(self) -> Axes:
        """All points in view, on axes that do not blow a small difference up."""
        box = QRectF(self.rect()).adjusted(_LEFT, _TOP, -_RIGHT, -_BOTTOM)
        ranges = []
        for values in ([p.balance.picking_work for p in self.points], [p.balance.fretting_work for p in self.points]):
            low, high = (min(values), max(values)) if values else (0.0, 1.0)
            wide = max(high - low, high * _LEAST_SHARE, 1.0)
            low = max(0.0, (low + high - wide) / 2)
            ranges.append((low - 0.08 * wide, low + 1.12 * wide))
        return Axes(box, ranges[0], ranges[1])

    def at(self, place: QPointF) -> _Point | None:
        """The point nearest to a place, where one is near."""
        axes = self.axes()
        found = [(QLineF(place, axes.at(p.balance.picking_work, p.balance.fretting_work)).length(), n)
                 for n, p in enumerate(self.points)]  # fmt: skip
        near = min(found, default=(_REACH, -1))
        return self.points[near[1]] if near[0] < _REACH else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and (point := self.at(event.position())) is not None:
            self.pressed.emit(point)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            point = self.at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), point.tip if point is not None else "", self)
            return True
        return super().event(event)

    def paint(self, painter: QPainter) -> None:
        axes, theme = self.axes(), self.theme
        axes.paint(painter, theme, _WORDS)
        for point in self.points:
            where = axes.at(point.balance.picking_work, point.balance.fretting_work)
            if point.number >= 0 and point.number == self.current:
                painter.setPen(QPen(theme.colour("ink"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                _round(painter, where, _RING)
            self._mark(painter, point.kind, where)
        self._names(painter, axes)
        self._legend(painter, axes.box)

    def _mark(self, painter: QPainter, kind: str, where: QPointF) -> None:
        if kind == _UNBEATEN:
            painter.setPen(QPen(self.theme.colour("fret"), 2))
            _cross(painter, where, _SIZE)
            return
        painter.setPen(QPen(self.theme.colour("paper"), 1))
        painter.setBrush(QColor(self.theme.colour("pick")))
        SHAPES[kind][1](painter, where, _SIZE)

    def _names(self, painter: QPainter, axes: Axes) -> None:
        """The plans' numbers beside their points, as in the list, those of near points together; only the current one
        has its whole name."""
        for where, numbers in self._together(axes):
            now = self.current in numbers
            others = ", ".join(str(n + 1) for n in sorted(numbers) if n != self.current)
            words = self.label + (f" and {others}" if others else "") if now else others
            painter.setPen(self.theme.colour("ink"))
            painter.setFont(font(BODY, "heavy" if now else "normal"))
            wide = painter.fontMetrics().horizontalAdvance(words)
            beside = _BESIDE + (_RING - _SIZE if now else 0.0)
            left = where.x() + beside if where.x() + beside + wide < self.width() else where.x() - beside - wide
            painter.drawText(QPointF(left, where.y() + 5), words)

    def _together(self, axes: Axes) -> Iterator[tuple[QPointF, list[int]]]:
        """Where numbers are written: beside the rightmost of points that lie close by."""
        groups: list[list[tuple[QPointF, int]]] = []
        wide, tall = _NEAR * axes.box.width(), _NEAR * axes.box.height()
        places = [
            (axes.at(p.balance.picking_work, p.balance.fretting_work), p.number) for p in self.points if p.number >= 0
        ]
        for where, number in sorted(places, key=lambda one: (one[0].x(), one[1])):
            near = (g for g in groups if where.x() - g[0][0].x() < wide and abs(where.y() - g[0][0].y()) < tall)
            group = next(near, None)
            if group is None:
                groups.append([(where, number)])
            else:
                group.append((where, number))
        for group in groups:
            yield QPointF(group[-1][0].x(), group[0][0].y()), [number for _, number in group]

    def _legend(self, painter: QPainter, box: QRectF) -> None:
        """What the shapes mean, those that are there, in the upper right corner."""
        kinds = [kind for kind in (*SHAPES, _UNBEATEN) if any(p.kind == kind for p in self.points)]
        names = [SHAPES[kind][0] if kind in SHAPES else kind for kind in kinds]
        painter.setFont(font(BODY))
        wide = max((painter.fontMetrics().horizontalAdvance(name) for name in names), default=0)
        left, top = box.right() - wide - 30, box.top() + 6
        painter.fillRect(QRectF(left - 6, top - 4, wide + 36, 20 * len(names) + 6), self.theme.colour("paper"))
        for row, (kind, name) in enumerate(zip(kinds, names, strict=True)):
            self._mark(painter, kind, QPointF(left + 8, top + 20 * row + 9))
            painter.setPen(self.theme.colour("ink"))
            painter.drawText(QPointF(left + 24, top + 20 * row + 14), name)


class FrontierPlot(QWidget):
    """A point for every plan, told apart by shape, and those of the school on Plan that no other beats. `chosen` carries
    the number of the entry clicked, `balanced` one of the unbeaten."""

    chosen = pyqtSignal(int)
    balanced = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.plot = _Field()
        self.plot.pressed.connect(self._choose)
        self.list = QListWidget()
        self.list.setAccessibleName("the plans, numbered as in the plot")
        self.list.setFixedWidth(_LIST_PX)
        self.list.currentRowChanged.connect(lambda row: self.chosen.emit(row) if row >= 0 else None)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.plot, 1)
        row.addWidget(self.list)
        self.setFocusProxy(self.list)
        self.entries: list[Candidate] = []
        self.frontier: tuple[Balance, ...] = ()

    def set_theme(self, theme: Theme) -> None:
        self.plot.set_theme(theme)

    def show_entries(self, entries: Sequence[Candidate]) -> None:
        self.entries = list(entries)
        with QSignalBlocker(self.list):
            self.list.clear()
            for n, entry in enumerate(entries, start=1):
                self.list.addItem(f"{n}  {entry.label}" + ("" if entry.plan is not None else ": no plan"))
        self._show_points()

    def show_frontier(self, frontier: tuple[Balance, ...]) -> None:
        self.frontier = frontier
        self._show_points()

    def set_current(self, number: int) -> None:
        self.plot.current = number
        with QSignalBlocker(self.list):
            self.list.setCurrentRow(number)
        self._show_points()

    def _choose(self, point: _Point) -> None:
        if point.number >= 0:
            self.chosen.emit(point.number)
        else:
            self.balanced.emit(point.balance)

    def _show_points(self) -> None:
        points = [
            _Point(b, _UNBEATEN, f"{b.unpicked} unpicked, ceiling {b.plan.ceiling or 0:.0f}") for b in self.frontier
        ]
        points += [
            _Point(balance(entry.plan), entry.kind, entry.label, n)
            for n, entry in enumerate(self.entries)
            if entry.plan is not None
        ]
        self.plot.points = points
        here = self.plot.current
        self.plot.label = self.entries[here].label if 0 <= here < len(self.entries) else ""
        self.plot.update()
