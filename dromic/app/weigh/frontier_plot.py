"""The frontier as a plot: what each plan asks of the picking hand against what it asks of the fretting hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import pyqtgraph as pg
from PyQt6.QtCore import QSignalBlocker, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QWidget

from dromic.app.kit.theme import BODY, LIGHT, SMALL, Theme, font
from dromic.app.weigh.candidates import ALTERNATIVE, LEAN, OWN_WAY, SCHOOL, Candidate
from dromic.core.questions.alternatives import Balance, balance

SYMBOLS = {SCHOOL: "o", LEAN: "s", ALTERNATIVE: "t", OWN_WAY: "star"}
LEGEND = {SCHOOL: "schools", LEAN: "other leans", ALTERNATIVE: "other ways", OWN_WAY: "my way"}
_SIZE = 13
_LIST_PX = 220
_LEAST_SHARE = 1 / 3
"""of the largest value an axis spans at least"""
_NEAR, _BESIDE = 0.035, 0.012
"""shares of an axis: points nearer than this share their words, which stand this far beside them"""


class FrontierPlot(QWidget):
    """A point for every plan, told apart by shape, and those of the school on Plan that no other beats. `chosen` carries
    the number of the entry clicked, `balanced` one of the unbeaten."""

    chosen = pyqtSignal(int)
    balanced = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = LIGHT
        self.plot = pg.PlotWidget()
        self.plot.setAccessibleName("work of the picking hand against work of the fretting hand")
        self.plot.setMenuEnabled(False)
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
        self.current = 0

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._draw()

    def show_entries(self, entries: Sequence[Candidate]) -> None:
        self.entries = list(entries)
        with QSignalBlocker(self.list):
            self.list.clear()
            for n, entry in enumerate(entries, start=1):
                self.list.addItem(f"{n}  {entry.label}" + ("" if entry.plan is not None else ": no plan"))
        self._draw()

    def show_frontier(self, frontier: tuple[Balance, ...]) -> None:
        self.frontier = frontier
        self._draw()

    def set_current(self, number: int) -> None:
        self.current = number
        with QSignalBlocker(self.list):
            self.list.setCurrentRow(number)
        self._draw()

    def _draw(self) -> None:
        theme, item = self.theme, self.plot.getPlotItem()
        self.plot.setBackground(theme.colour("paper"))
        item.clear()
        if item.legend is not None:
            item.legend.scene().removeItem(item.legend)
            item.legend = None
        item.addLegend(offset=(-16, -16), labelTextColor=theme.ink, labelTextSize=f"{BODY}px")
        for side, words in (("bottom", "work of the picking hand (sum of its loads to the power of the dial)"),
                            ("left", "work of the fretting hand")):  # fmt: skip
            axis = item.getAxis(side)
            axis.setPen(theme.colour("soft"))
            axis.setTextPen(theme.colour("ink"))
            axis.setTickFont(font(SMALL))
            axis.setLabel(words, color=theme.ink, **{"font-size": f"{BODY}px"})
        item.showGrid(x=True, y=True, alpha=0.15)
        self._unbeaten(item)
        for kind in SYMBOLS:
            numbers = [n for n, e in enumerate(self.entries) if e.kind == kind and e.plan is not None]
            if numbers:
                self._points(item, kind, numbers)
        self._names(item, *self._ranges(item))

    def _unbeaten(self, item: Any) -> None:
        """Plans of the school on Plan that no other beats, each with how many notes it leaves unpicked."""
        if not self.frontier:
            return
        scatter = pg.ScatterPlotItem(
            [b.picking_work for b in self.frontier], [b.fretting_work for b in self.frontier], size=_SIZE, symbol="+",
            pen=pg.mkPen(self.theme.colour("fret"), width=2), brush=pg.mkBrush(self.theme.colour("fret")),
            data=list(self.frontier), hoverable=True, name="this school, beaten by none",
            tip=lambda x, y, data: f"{data.unpicked} unpicked, ceiling {data.plan.ceiling or 0:.0f}",
        )  # fmt: skip
        scatter.sigClicked.connect(lambda _, points, *rest: self.balanced.emit(points[0].data()))
        item.addItem(scatter)

    def _points(self, item: Any, kind: str, numbers: list[int]) -> None:
        weighed = {n: balance(plan) for n in numbers if (plan := self.entries[n].plan) is not None}
        scatter = pg.ScatterPlotItem(
            [b.picking_work for b in weighed.values()], [b.fretting_work for b in weighed.values()], symbol=SYMBOLS[kind],
            size=_SIZE, data=numbers, brush=pg.mkBrush(self.theme.colour("pick")), name=LEGEND[kind],
            pen=pg.mkPen(self.theme.colour("paper"), width=1), hoverable=True,
            tip=lambda x, y, data: self.entries[data].label,
        )  # fmt: skip
        scatter.sigClicked.connect(lambda _, points, *rest: self.chosen.emit(points[0].data()))
        item.addItem(scatter)
        if self.current in weighed:
            one = weighed[self.current]
            ring = pg.ScatterPlotItem(
                [one.picking_work], [one.fretting_work], size=_SIZE + 10, symbol="o", brush=None,
                pen=pg.mkPen(self.theme.colour("ink"), width=2),
            )  # fmt: skip
            ring.setZValue(-1)
            item.addItem(ring)

    def _ranges(self, item: Any) -> tuple[float, float]:
        """Shows all points, on axes that do not blow a small difference up; answers the widths of both."""
        balances = [balance(e.plan) for e in self.entries if e.plan is not None] + list(self.frontier)
        widths = []
        for along, values in (
            ("x", [b.picking_work for b in balances]),
            ("y", [b.fretting_work for b in balances]),
        ):
            low, high = (min(values), max(values)) if values else (0.0, 1.0)
            wide = max(high - low, high * _LEAST_SHARE, 1.0)
            low = max(0.0, (low + high - wide) / 2)
            widths.append(wide * 1.2)
            ranges = {f"{along}Range": (low - 0.08 * wide, low + 1.12 * wide)}
            item.getViewBox().setRange(**ranges, padding=0)
        return widths[0], widths[1]

    def _names(self, item: Any, wide: float, tall: float) -> None:
        """The plans' numbers beside their points, as in the list, those of near points together; only the current one
        has its whole name."""
        at: list[tuple[float, float, list[int]]] = []
        places = [(balance(e.plan), n) for n, e in enumerate(self.entries) if e.plan is not None]
        for one, n in sorted(places, key=lambda p: (p[0].picking_work, p[1])):
            x, y = one.picking_work, one.fretting_work
            near = next(
                (k for k, (u, v, _) in enumerate(at) if x - u < _NEAR * wide and abs(y - v) < _NEAR * tall), None
            )
            if near is None:
                at.append((x, y, [n]))
            else:
                at[near] = (x, y, [*at[near][2], n])
        for x, y, numbers in at:
            now = self.current in numbers
            others = ", ".join(str(n + 1) for n in sorted(numbers) if n != self.current)
            words = self.entries[self.current].label + (f" and {others}" if others else "") if now else others
            text = self._words(item, words, now)
            text.setPos(x + _BESIDE * wide, y)

    def _words(self, item: Any, words: str, heavy: bool) -> Any:
        text = pg.TextItem(words, color=self.theme.colour("ink"), anchor=(0, 0.5))
        text.setFont(font(BODY, "heavy" if heavy else "normal"))
        item.addItem(text)
        return text
