"""Draws the kinds of findings for docs/findings.md: the pick looked at along the strings, or fingers on a piece of the neck."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from math import atan2, cos, pi, sin
from pathlib import Path

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QGuiApplication, QImage, QPainter, QPainterPath, QPen

SIZE = (180, 84)
"""Width and height of a picture as it is drawn."""
SCALE = 0.78
"""Its px for each of them: what a column of the guide's table has room for."""
_INK, _PICK, _FRET, _HURT, _PAPER = (QColor(n) for n in ("#22262c", "#a0480a", "#1a5080", "#b4002d", "#fdfcf7"))
Path2 = Sequence[tuple[float, float]]

PICK: Mapping[str, tuple[Path2, ...]] = {
    "inside-change": (((1.7, 1), (2.4, -0.7)), ((2.4, -0.7), (2.5, 1.2), (1.6, 1.2), (1.45, -0.5), (0.6, 0.9))),
    "buried-hop": (((0.7, 1), (1.4, -0.8)), ((1.4, -0.8), (1.5, 1.2), (2.5, 1.2), (2.4, -0.4))),
    "count-on-string": (((0.6, 1.2), (1.4, 0.5), (0.6, 0.1)), ((0.6, 0.1), (1.45, -0.8))),
    "string-skip": (((0.7, 1), (1.3, -0.6)), ((1.3, -0.6), (1.5, 1.3), (2.8, 1.3), (3.3, -0.5))),
    "same-stroke-repeat": (((0.7, 0.9), (1.4, -0.7)), ((1.4, -0.7), (1.5, 1.3), (0.8, 1.3)), ((0.7, 0.9), (1.3, -0.7))),
    "dear-change": (((0.7, 1), (1.3, -0.4)), ((1.3, -0.4), (2.3, -0.4))),
    "turnaround": (((0.6, 1), (1.2, -0.4), (2.3, -0.4), (3.4, -0.6)), ((3.4, 0.6), (2.8, -0.2), (1.7, -0.2))),
    "sweep-arrival": (
        ((1.4, 0.9), (0.7, -0.7)),
        ((0.7, -0.7), (0.35, -0.8), (0.4, 1), (1.2, -0.4), (2.3, -0.4), (3.4, -0.6)),
    ),
}
"""the path of the pick, piece by piece: strings lie at 1, 2 and 3 across, 0 high; the last piece is the one that hurts"""

NECK: Mapping[str, tuple[Path2, Path2]] = {
    "shift": (((1, 3), (2, 3)), ((4, 3), (5, 3))),
    "stretch": (((1, 2),), ((5, 2),)),
    "same-finger-twice": (((2, 2),), ((4, 3),)),
    "roll": (((3, 2),), ((3, 3),)),
    "knot": (((2, 3),), ((4, 2),)),
    "cannot-ring": (((2, 2),), ((3, 4),)),
}
"""(fret, string) of the fingers before and after"""


def draw_all(folder: Path) -> None:
    """Each kind as a picture of its name."""
    app = QGuiApplication.instance() or QGuiApplication([])  # kept while pictures are painted
    folder.mkdir(exist_ok=True)
    for name, path in PICK.items():
        _drawn(folder / f"{name}.png", partial(_pick, pieces=path))
    for name, hands in NECK.items():
        _drawn(folder / f"{name}.png", partial(_neck, before=hands[0], after=hands[1]))
    del app


def _drawn(file: Path, paint: Callable[[QPainter], None]) -> None:
    image = QImage(round(SCALE * SIZE[0]), round(SCALE * SIZE[1]), QImage.Format.Format_RGB32)
    image.fill(_PAPER)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(SCALE, SCALE)
    paint(painter)
    painter.end()
    image.save(str(file))


def _pick(painter: QPainter, pieces: Sequence[Path2]) -> None:
    """Strings as dots, the pick's path over, through and between them."""

    def at(across: float, high: float) -> QPointF:
        return QPointF(45.0 * across, 46.0 - 24.0 * high)

    painter.setPen(QPen(_INK, 1, Qt.PenStyle.DotLine))
    painter.drawLine(at(0.1, 0), at(3.9, 0))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(_INK)
    for string in (1, 2, 3):
        painter.drawEllipse(at(string, 0), 4.5, 4.5)
    for number, piece in enumerate(pieces):
        last = number == len(pieces) - 1
        _arrow(painter, [at(*point) for point in piece], _HURT if last else _PICK)


def _neck(painter: QPainter, before: Path2, after: Path2) -> None:
    """Four strings, six frets, the fingers as they were and as they are to be."""

    def at(fret: float, string: float) -> QPointF:
        return QPointF(30.0 * fret - 5.0, 16.0 * string)

    painter.setPen(QPen(_INK, 1))
    for fret in range(1, 7):
        painter.drawLine(QPointF(30.0 * fret - 20, 16), QPointF(30.0 * fret - 20, 64))
    for string in range(1, 5):
        painter.drawLine(QPointF(8, 16.0 * string), QPointF(172, 16.0 * string))
    for one, other in zip(before, after, strict=True):
        painter.setPen(QPen(_FRET, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at(*one), 7, 7)
        painter.setBrush(_FRET)
        painter.drawEllipse(at(*other), 7, 7)
        _arrow(painter, [at(*one), at(*other)], _HURT)


def _arrow(painter: QPainter, points: Sequence[QPointF], colour: QColor) -> None:
    """A rounded path with a head at its end."""
    path = QPainterPath(points[0])
    for point in points[1:]:
        path.lineTo(point)
    painter.setPen(QPen(colour, 2.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    end, before = points[-1], points[-2]
    way = atan2(end.y() - before.y(), end.x() - before.x())
    for side in (pi - 0.5, pi + 0.5):
        painter.drawLine(end, QPointF(end.x() + 7 * cos(way + side), end.y() + 7 * sin(way + side)))
