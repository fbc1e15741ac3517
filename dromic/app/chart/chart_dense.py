"""Painting of the chart when it shows so much time that notes run together: what is worst in each pixel column."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from dromic.app.chart.lanes import GUTTER, LOADS, Lanes
from dromic.app.chart.time_index import ChartIndex
from dromic.app.drawing.load_bar import HIGHEST_LOAD
from dromic.app.kit.theme import Theme


def paint_dense(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """The span the pick covers, the span of the neck, and both hands' heaviest loads, a line each pixel column."""
    columns = max(1, int(lanes.width - GUTTER))
    shown = lanes.shown or ChartIndex(lanes.chart)
    _spans(painter, lanes, theme.colour("pick", 0.7), columns, [
        (s.start_s, min(s.start_mm, s.end_mm), max(s.start_mm, s.end_mm))
        for s in shown.strokes.within(lanes.start_s, lanes.end_s)
    ], lanes.pick_y)  # fmt: skip
    _spans(painter, lanes, theme.colour("fret", 0.7), columns, [
        (b.start_s, b.mm - 3, b.mm + 3) for b in shown.fingers.within(lanes.start_s, lanes.end_s)
    ], lanes.fret_y)  # fmt: skip
    moves = list(shown.moves.within(lanes.start_s, lanes.end_s))
    at = np.array([lanes.x(lanes.chart.event_s[m.to]) for m in moves])
    for loads, base, way, name in (
        ([m.pick_load or 0.0 for m in moves], lanes.middle_top - 1, -1, "pick"),
        ([m.fret_load for m in moves], lanes.fret_loads_top + 1, 1, "fret"),
    ):
        worst = np.zeros(columns)
        np.maximum.at(worst, _columns(at, columns), np.array(loads))
        scale = way * (LOADS - 4) / HIGHEST_LOAD
        for column in np.flatnonzero(worst):
            load = float(worst[column])
            painter.setPen(
                QPen(theme.colour("hurt" if load > 1 else name, 1.0 if load > 1 else 0.6), 2.0 if load > 1 else 1.0)
            )
            x = GUTTER + int(column)
            painter.drawLine(QLineF(x, base, x, base + min(load, HIGHEST_LOAD) * scale))
    painter.setPen(theme.colour("soft"))
    box = QRectF(GUTTER, lanes.middle_top, lanes.width - GUTTER, lanes.fret_loads_top - lanes.middle_top)
    painter.drawText(
        box, Qt.AlignmentFlag.AlignCenter, "the worst of each column; zoom in with Ctrl+wheel or Ctrl++ to see notes"
    )


def _columns(x: np.ndarray, columns: int) -> np.ndarray:
    """The column of pixels [notes] that places x [notes] in px fall into."""
    return np.asarray(np.clip((x - GUTTER).astype(int), 0, columns - 1))


def _spans(
    painter: QPainter,
    lanes: Lanes,
    colour: QColor,
    columns: int,
    items: list[tuple[float, float, float]],
    place: Callable[[float], float],
) -> None:
    """The lowest and highest place of each pixel column, joined."""
    if not items:
        return
    low, high = np.full(columns, np.inf), np.full(columns, -np.inf)
    at = _columns(np.array([lanes.x(i[0]) for i in items]), columns)
    np.minimum.at(low, at, np.array([i[1] for i in items]))
    np.maximum.at(high, at, np.array([i[2] for i in items]))
    painter.setPen(QPen(colour, 1.0))
    for column in np.flatnonzero(np.isfinite(low)):
        x = GUTTER + int(column)
        painter.drawLine(QLineF(x, place(float(low[column])), x, place(float(high[column]))))
