"""What is counted in a plan as small pictures: rates against the hand's limits, work by finger, and who hands over to whom."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import QLineF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import SMALL, font
from dromic.core.plan.plan import Plan
from dromic.core.reports.counts.rates import RATES, Rate, finger_work
from dromic.core.reports.counts.statistics import statistics_of

_EDGE = 8.0
"""Room beside everything, px."""
_TITLE = 20.0
"""Height of a title, px."""
_ROW = 34.0
"""Height of a row with its words, px."""
_BAR = 10.0
"""Height of a bar, px."""
_FINGERS = 74.0
"""Height of the fingers' bars, px."""
_MATRIX = 150.0
"""Height of a matrix with its title, px."""
_CELL = 28.0
"""Side of one cell at most, px."""
_ROOM = 1.12
"""of a rate's line beyond the hand's limit, or the busiest second where that is more"""
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_CENTRE = Qt.AlignmentFlag.AlignCenter
FINGERS = "1234"


class CountsPicture(Picture):
    """The pictures of one plan, under each other; what the plan has none of is left out."""

    ground = ""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.rates: tuple[Rate, ...] = ()
        self.work: dict[str, float] = {}
        self.notes: dict[str, int] = {}
        self.transfers: dict[tuple[str, str], int] = {}
        self.pairs: dict[tuple[str, str], int] = {}
        self.strings: tuple[str, ...] = ()

    def show_plan(self, plan: Plan) -> None:
        counted = statistics_of(plan)
        self.rates = tuple(rate for make in RATES if (rate := make(plan)).words)
        self.work = finger_work(plan)
        self.notes = {f: counted.finger_notes.get(f, 0) for f in FINGERS}
        self.transfers = {pair: n for pair, n in counted.transfers.items() if set(pair) <= set(FINGERS)}
        self.pairs = {(str(a), str(b)): n for (a, b), n in counted.pairs.items()}
        used = [int(s) for pair in self.pairs for s in pair]
        self.strings = tuple(str(s) for s in range(min(used), max(used) + 1)) if used else ()
        self.setAccessibleName(self.told())
        self.setToolTip("Rates, limits and work are estimates")
        self.update()

    def told(self) -> str:
        """What the pictures show, in words."""
        return "; ".join([
            *(f"{rate.name}: {rate.words}" for rate in self.rates),
            *(f"finger {f}: {100 * share:.0f} % of the work" for f, share in self.work.items()),
        ])  # fmt: skip

    def sizeHint(self) -> QSize:
        tall = _EDGE + (_TITLE if self.rates else 0) + _ROW * len(self.rates)
        tall += _FINGERS if self.work else 0
        return QSize(200, int(tall + (_MATRIX if self.transfers or self.pairs else 0)))

    def paint(self, painter: QPainter) -> None:
        top, left, right = _EDGE / 2, _EDGE, self.width() - _EDGE
        if self.rates:
            self._title(painter, QRectF(left, top, right - left, _TITLE), "A second, against what this hand can do")
            top += _TITLE
        for rate in self.rates:
            self._rate(painter, rate, QRectF(left, top, right - left, _ROW))
            top += _ROW
        if self.work:
            self._fingers(painter, QRectF(left, top, right - left, _FINGERS))
            top += _FINGERS
        half = (right - left - 2 * _EDGE) / 2
        if self.transfers:
            self._matrix(
                painter, QRectF(left, top, half, _MATRIX), "finger to finger", tuple(FINGERS), self.transfers, "fret"
            )
        if self.pairs:
            self._matrix(
                painter, QRectF(right - half, top, half, _MATRIX), "string to string", self.strings, self.pairs, "pick"
            )

    def _title(self, painter: QPainter, box: QRectF, words: str) -> None:
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(SMALL, "strong"))
        painter.drawText(box, _LEFT, words)

    def _rate(self, painter: QPainter, rate: Rate, box: QRectF) -> None:
        """The mean as a bar, the busiest second as a line over it, the hand's limit as the end of the room."""
        theme, peak = self.theme, max(rate.mean, rate.busiest)
        whole = _ROOM * max(rate.limit, peak)
        hurts = peak > rate.limit
        painter.setFont(font(SMALL))
        painter.setPen(theme.colour("soft"))
        words = QRectF(box.left(), box.top(), box.width(), 16)
        painter.drawText(words, _LEFT, rate.name)
        busiest = f", busiest {rate.busiest}" if rate.busiest else ""
        painter.drawText(words, _RIGHT, f"{rate.mean:.1f}{busiest}; hand {rate.limit:.1f}")
        y = box.top() + 17

        def at(value: float) -> float:
            return box.left() + value / whole * box.width()

        painter.fillRect(QRectF(box.left(), y, at(rate.limit) - box.left(), _BAR), theme.colour("faint_line"))
        painter.fillRect(QRectF(box.left(), y, at(rate.mean) - box.left(), _BAR), theme.colour("pick", 0.75))
        if hurts:
            over = QRectF(at(rate.limit), y, at(peak) - at(rate.limit), _BAR)
            painter.fillRect(over, theme.colour("hurt"))
            painter.fillRect(over, QBrush(theme.colour("raised"), Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(theme.colour("hurt" if hurts else "ink"), 2))
        if rate.busiest:
            painter.drawLine(QLineF(at(rate.busiest), y - 2, at(rate.busiest), y + _BAR + 2))
        painter.setPen(QPen(theme.colour("ink"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QLineF(at(rate.limit), y - 3, at(rate.limit), y + _BAR + 3))

    def _fingers(self, painter: QPainter, box: QRectF) -> None:
        """A column for each finger, as tall as its share of the work, with its notes."""
        theme, wide = self.theme, box.width() / len(FINGERS)
        self._title(
            painter, QRectF(box.left(), box.top(), box.width(), _TITLE), "Work by finger, an estimate, and notes"
        )
        most = max(self.work.values())
        floor, room = box.bottom() - 18, box.height() - _TITLE - 20
        for n, finger in enumerate(FINGERS):
            share = self.work.get(finger, 0.0)
            column = QRectF(box.left() + n * wide + 4, floor - share / most * room, wide - 8, share / most * room)
            painter.fillRect(column, theme.colour("fret", 0.75))
            painter.setPen(theme.colour("ink"))
            painter.setFont(font(SMALL))
            words = f"{finger}: {100 * share:.0f} %, {self.notes[finger]}"
            painter.drawText(QRectF(column.left() - 4, floor + 1, wide, 16), _CENTRE, words)

    def _matrix(
        self,
        painter: QPainter,
        box: QRectF,
        title: str,
        names: Sequence[str],
        found: Mapping[tuple[str, str], int],
        colour: str,
    ) -> None:
        """From the row's to the column's, how often; deeper where it is more, a point where it never is."""
        theme, most = self.theme, max(found.values())
        self._title(painter, QRectF(box.left(), box.top(), box.width(), _TITLE), title)
        cell = min(_CELL, (box.width() - 18) / len(names), (box.height() - _TITLE - 22) / len(names))
        left, top = box.left() + 18, box.top() + _TITLE + 14
        painter.setFont(font(SMALL))
        for r, start in enumerate(names):
            painter.setPen(theme.colour("soft"))
            painter.drawText(QRectF(box.left(), top + r * cell, 16, cell), _CENTRE, start)
            painter.drawText(QRectF(left + r * cell, top - 15, cell, 14), _CENTRE, start)
            for c, end in enumerate(names):
                number, place = found.get((start, end), 0), QRectF(left + c * cell, top + r * cell, cell - 2, cell - 2)
                painter.fillRect(place, theme.colour("faint_line", 0.5))
                if number:
                    painter.fillRect(place, theme.colour(colour, 0.15 + 0.5 * number / most))
                painter.setPen(theme.colour("ink" if number else "soft"))
                if start != end or number:
                    painter.drawText(place, _CENTRE, str(number) if number else "·")
