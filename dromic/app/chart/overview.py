"""The strip under the chart: the whole phrase at once, both hands' loads, and what the chart shows of it."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QMouseEvent, QPainter, QPixmap, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.chart.lanes import GUTTER
from dromic.app.drawing.load_bar import HIGHEST_LOAD
from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import SMALL, Theme, font
from dromic.core.reports.chart import Chart

TALL = 64
"""Height of the strip, px."""
LEAST_TALL = 36
"""Its height in a low window, px."""


class Overview(Picture):
    """Loads over the whole phrase, the picking hand above the line and the fretting hand below it."""

    ground = "panel"
    smooth = False

    pointed = pyqtSignal(float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("overview of the whole phrase")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Maximum)
        self.setMinimumHeight(LEAST_TALL)
        self.chart: Chart | None = None
        self.chosen: int | None = None
        """the note chosen"""
        self._window = (0.0, 0.0)
        self._picture: QPixmap | None = None

    def sizeHint(self) -> QSize:
        return QSize(400, TALL)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._picture = None
        self.update()

    def set_chart(self, chart: Chart | None) -> None:
        self.chart = chart
        self._picture = None
        self.update()

    def show_event(self, event: int | None) -> None:
        """Mark the note chosen in the chart."""
        if event != self.chosen:
            self.chosen = event
            self.update()

    def set_window(self, start_s: float, end_s: float) -> None:
        self._window = (start_s, end_s)
        self.update()

    def _x(self, seconds: float) -> float:
        assert self.chart is not None
        return GUTTER + seconds / max(self.chart.end_s, 1e-9) * (self.width() - GUTTER - 8)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._picture = None

    def paint(self, painter: QPainter) -> None:
        if self.chart is None:
            return
        theme = self.theme
        left, right = max(GUTTER, self._x(self._window[0])), min(self.width(), self._x(self._window[1]))
        window = QRectF(left, 1, right - left, self.height() - 2)
        painter.fillRect(window, theme.colour("paper"))
        painter.setPen(theme.colour("line"))
        painter.drawRect(window)
        if self._picture is None:
            self._picture = self._drawn()
        painter.drawPixmap(0, 0, self._picture)
        if self.chosen is not None and self.chosen < len(self.chart.event_s):
            x = self._x(self.chart.event_s[self.chosen])
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("ink"))
            painter.drawPolygon(QPolygonF([QPointF(x - 6, 1), QPointF(x + 6, 1), QPointF(x, 9)]))

    def _drawn(self) -> QPixmap:
        """The whole phrase, which scrolling does not change."""
        assert self.chart is not None
        ratio = self.devicePixelRatioF()
        picture = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle, half = self.height() / 2, self.height() / 2 - 5
        theme, chart = self.theme, self.chart
        painter.setPen(theme.colour("faint_line"))
        for at, _ in chart.bars if len(chart.bars) < 200 else chart.bars[:: len(chart.bars) // 100]:
            painter.drawLine(QLineF(self._x(at), 3, self._x(at), self.height() - 3))
        for top, name, loads in (
            (True, "pick", [m.pick_load or 0.0 for m in chart.moves]),
            (False, "fret", [m.fret_load for m in chart.moves]),
        ):
            self._paint_loads(painter, loads, top, name, middle, half)
        painter.setPen(theme.colour("ink"))
        painter.drawLine(QLineF(GUTTER, middle, self.width() - 8, middle))
        painter.setFont(font(SMALL, "strong"))
        flag = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setPen(theme.colour("pick"))
        painter.drawText(QRectF(0, 2, GUTTER - 8, middle - 2), flag, "picking")
        painter.setPen(theme.colour("fret"))
        painter.drawText(QRectF(0, middle, GUTTER - 8, middle - 2), flag, "fretting")
        painter.end()
        return picture

    def _paint_loads(
        self, painter: QPainter, loads: list[float], top: bool, name: str, middle: float, half: float
    ) -> None:
        """The heaviest load of each pixel column; what passes 1 is hatched in the colour of hurt."""
        assert self.chart is not None
        columns: dict[int, float] = {}
        for move, load in zip(self.chart.moves, loads, strict=True):
            column = int((self._x(self.chart.event_s[move.to - 1]) + self._x(self.chart.event_s[move.to])) / 2)
            columns[column] = max(columns.get(column, 0.0), load)
        width = max(2.0, min(10.0, (self.width() - GUTTER) / max(len(loads), 1) - 1))
        painter.setPen(Qt.PenStyle.NoPen)
        for column, load in columns.items():
            tall = min(load, HIGHEST_LOAD) / HIGHEST_LOAD * half
            rect = QRectF(column - width / 2, middle - tall if top else middle, width, tall)
            painter.setBrush(self.theme.colour("hurt" if load > 1 else name, 1.0 if load > 1 else 0.45))
            painter.drawRect(rect)
            if load > 1:
                painter.setBrush(QBrush(self.theme.colour("panel"), Qt.BrushStyle.BDiagPattern))
                painter.drawRect(rect)

    def _point(self, event: QMouseEvent | None) -> None:
        if event is not None and self.chart is not None:
            share = (event.position().x() - GUTTER) / max(1.0, self.width() - GUTTER - 8)
            self.pointed.emit(min(1.0, max(0.0, share)) * self.chart.end_s)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._point(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        self._point(event)
