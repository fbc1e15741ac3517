"""The neck under the chart, in true proportion: fingers, order, the hand's outline, shifts and stretches at the cursor."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import SMALL, Theme, font
from dromic.core.plan.plan import Plan
from dromic.core.reports.neck import HAND_EDGE_MM, Dot, Frame, Neck, neck

CENTRE = Qt.AlignmentFlag.AlignCenter
HEIGHT = 150
_INLAYS = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24)
"""frets with a marker on the neck, as is common"""
_SIDE = 30.0
"""px beside the strings for their names, and over and under them"""
_FEET = 20.0


class NeckView(Picture):
    """Shows the neck from one event on; mirrored for a left-hander."""

    ground = "panel"

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("neck")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.plan: Plan | None = None
        self.neck: Neck | None = None
        self.event_shown = 0
        self.low_on_top = True

    def sizeHint(self) -> QSize:
        return QSize(400, HEIGHT)

    def set_way_up(self, low_on_top: bool) -> None:
        """Which string is on top."""
        self.low_on_top = low_on_top
        self.update()

    def show_plan(self, plan: Plan | None, event: int) -> None:
        self.plan = plan
        self.neck = None
        self.show_event(event)

    def show_event(self, event: int) -> None:
        """Follow the cursor."""
        if self.plan is not None and (self.neck is None or event != self.event_shown):
            self.event_shown = min(event, self.plan.notes[-1].event)
            self.neck = neck(self.plan, self.event_shown)
            self.setToolTip(told(self.neck))
        self.update()

    @property
    def mirrored(self) -> bool:
        return self.plan is not None and self.plan.request.player.habits.left_handed

    def scale(self) -> float:
        """px per mm, the same along and across."""
        assert self.neck is not None
        frame = self.neck.frame
        across = max(frame.across(1, frame.high_mm), frame.across(1, frame.low_mm)) * 2
        return min(
            (self.width() - 2 * _SIDE) / (frame.high_mm - frame.low_mm + 12.0),
            (self.height() - 2 * _FEET - 14) / across,
        )

    def place(self, along_mm: float, across_mm: float) -> QPointF:
        """A place on the neck in px; the low string on top, as the player sees it, or string 1 as in tablature."""
        assert self.neck is not None
        across_mm = across_mm if self.low_on_top else -across_mm
        frame, scale = self.neck.frame, self.scale()
        x = _SIDE + (along_mm - frame.low_mm + 6.0) * scale
        return QPointF(self.width() - x if self.mirrored else x, self.height() / 2 + across_mm * scale)

    def paint(self, painter: QPainter) -> None:
        if self.neck is not None:
            _paint(painter, self.theme, self.neck, self.place, self.scale(), 1.0 if self.low_on_top else -1.0)


def told(shown: Neck) -> str:
    """What the picture shows, in words."""
    words = [f"Notes {shown.first + 1} to {shown.last + 1} on the neck, numbered in their order"]
    words += [f"finger {s.finger} is {abs(s.mm):.0f} mm out of its relaxed place" for s in shown.stretches]
    words += [f"the hand shifts {abs(a.to_mm - a.from_mm):.0f} mm" for a in shown.arrows]
    return "; ".join(words)


Place = Callable[[float, float], QPointF]


def _paint(painter: QPainter, theme: Theme, shown: Neck, place: Place, scale: float, up: float) -> None:
    """`up` is 1 where what is towards string 1 is drawn lower, -1 where it is drawn higher."""
    frame = shown.frame
    low, high = frame.low_mm - 4, frame.high_mm + 6
    edge = abs(frame.across(1, high)) + 4.5
    corners = [place(low, -edge), place(high, -edge), place(high, edge), place(low, edge)]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("raised"))
    painter.drawPolygon(QPolygonF(corners))
    _outlines(painter, theme, shown, place, edge)
    _frets(painter, theme, frame, place, edge * up)
    for string, name in enumerate(frame.string_names, start=1):
        painter.setPen(QPen(theme.colour("soft"), 0.8 + 0.28 * string))
        start, end = place(low, frame.across(string, low)), place(high, frame.across(string, high))
        painter.drawLine(start, end)
        painter.setPen(theme.colour("soft"))
        painter.setFont(font(min(12.0, 1.15 * scale * abs(frame.nut_mm[0] - frame.nut_mm[1])), "strong"))
        way = 14 if start.x() > end.x() else -14
        painter.drawText(QRectF(start.x() + way - 12, start.y() - 9, 24, 18), CENTRE, name)
    for stretch in shown.stretches:
        _stretch(
            painter,
            theme,
            place(stretch.relaxed_mm, stretch.across_mm),
            place(stretch.along_mm, stretch.across_mm),
            stretch.mm,
            stretch.fits,
        )
    for dot in sorted(shown.dots, key=lambda d: d.now):
        _dot(painter, theme, dot, place(dot.along_mm, dot.across_mm), scale)
    for arrow in shown.arrows:
        _arrow(
            painter,
            theme,
            place(arrow.from_mm, -edge * up),
            place(arrow.to_mm, -edge * up),
            abs(arrow.to_mm - arrow.from_mm),
        )


def _outlines(painter: QPainter, theme: Theme, shown: Neck, place: Place, edge: float) -> None:
    for outline in reversed(shown.outlines):
        box = QRectF(
            place(outline.low_mm - HAND_EDGE_MM, -edge), place(outline.high_mm + HAND_EDGE_MM, edge)
        ).normalized()
        painter.setPen(
            QPen(
                theme.colour("fret"),
                2.2 if outline.now else 1.4,
                Qt.PenStyle.SolidLine if outline.now else Qt.PenStyle.DotLine,
            )
        )
        painter.setBrush(theme.colour("band", 0.9) if outline.now else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 10, 10)


def _frets(painter: QPainter, theme: Theme, frame: Frame, place: Place, edge: float) -> None:
    for fret, mm in enumerate(frame.fret_mm):
        if not frame.low_mm - 1e-6 <= mm <= frame.high_mm + 1e-6:
            continue
        painter.setPen(QPen(theme.colour("ink" if not fret else "line"), 5.0 if not fret else 1.6))
        painter.drawLine(place(mm, -edge), place(mm, edge))
        if fret and frame.fret_mm[fret - 1] >= frame.low_mm - 1e-6:
            middle = place((mm + frame.fret_mm[fret - 1]) / 2, edge)
            painter.setFont(font(SMALL, "heavy" if fret in _INLAYS else "normal"))
            painter.setPen(theme.colour("ink" if fret in _INLAYS else "soft"))
            painter.drawText(QRectF(middle.x() - 20, middle.y() + 2, 40, 16), CENTRE, str(fret))


def _dot(painter: QPainter, theme: Theme, dot: Dot, at: QPointF, scale: float) -> None:
    """A finger on its place; hollow where the string is open; the order stands at its shoulder."""
    radius = max(7.5, min(11.0, 3.4 * scale))
    colour = "pick" if dot.tapped else "fret"
    painter.setPen(QPen(theme.colour("ink" if dot.now else colour), 3.2 if dot.now else 1.6))
    filled = dot.fret and not dot.tapped
    painter.setBrush(theme.colour(colour) if filled else theme.colour("paper"))
    painter.drawEllipse(at, radius, radius)
    painter.setFont(font(radius * 1.5, "heavy"))
    painter.setPen(theme.colour("on_fret" if filled else colour))
    painter.drawText(
        QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius), CENTRE, "t" if dot.tapped else dot.finger
    )
    words = " ".join(str(n) for n in dot.order)
    painter.setFont(font(SMALL, "heavy" if dot.now else "normal"))
    box = QRectF(at.x() + radius + 1, at.y() - radius - 7, 8.0 * len(words) + 4, 14)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("raised", 0.85))
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(theme.colour("ink"))
    painter.drawText(box, CENTRE, words)


def _stretch(painter: QPainter, theme: Theme, relaxed: QPointF, to: QPointF, mm: float, fits: bool) -> None:
    """A spring from the finger's relaxed place to where it must go, with the distance; red where no reach is so long."""
    painter.setPen(QPen(theme.colour("fret" if fits else "hurt"), 2.0))
    steps = 8
    points = [
        QPointF(
            relaxed.x() + (to.x() - relaxed.x()) * n / steps,
            relaxed.y() + (0 if n in (0, steps) else 4 if n % 2 else -4),
        )
        for n in range(steps + 1)
    ]
    painter.drawPolyline(QPolygonF(points))
    painter.setFont(font(SMALL, "strong"))
    middle = (relaxed.x() + to.x()) / 2
    painter.drawText(QRectF(middle - 36, relaxed.y() + 5, 72, 15), CENTRE, f"{mm:+.0f} mm")


def _arrow(painter: QPainter, theme: Theme, start: QPointF, end: QPointF, mm: float) -> None:
    y = start.y() - 5
    way = 1 if end.x() > start.x() else -1
    painter.setPen(QPen(theme.colour("fret"), 3.0))
    painter.setBrush(theme.colour("fret"))
    painter.drawLine(QLineF(start.x(), y, end.x() - 7 * way, y))
    painter.drawPolygon(
        QPolygonF([QPointF(end.x(), y), QPointF(end.x() - 9 * way, y - 5), QPointF(end.x() - 9 * way, y + 5)])
    )
    painter.setFont(font(SMALL, "strong"))
    # beside the arrow's tail, where there is always room
    tail = QRectF(start.x() + 6, y - 8, 80, 16) if way < 0 else QRectF(start.x() - 86, y - 8, 80, 16)
    side = Qt.AlignmentFlag.AlignLeft if way < 0 else Qt.AlignmentFlag.AlignRight
    painter.drawText(tail, side | Qt.AlignmentFlag.AlignVCenter, f"{mm:.0f} mm")
