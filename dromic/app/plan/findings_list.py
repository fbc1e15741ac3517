"""The list of findings beside the chart: a row each with how bad, which hand, where and why; choosing one jumps there."""

from __future__ import annotations

from PyQt6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QObject,
    QPointF,
    QRectF,
    QSignalBlocker,
    QSize,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from dromic.app.drawing.canvas import there
from dromic.app.kit.theme import BODY, LIGHT, SMALL, Theme, font
from dromic.core.findings.findings import RULES, by_place
from dromic.core.plan.finding import Finding
from dromic.core.plan.plan import Plan
from dromic.core.reports.explain import remedy_text

OVER = 44.0
"""Room over the sentence of a row: rule, load, place and hand, px."""
FOOT = 8.0
"""Room under what helps, px."""
GAP = 2.0
"""Room between sentence and what helps, px."""
_LEFT = 38.0
"""Room left of a row's words, px."""
_RIGHT = 8.0
"""Room right of them, px."""
_LEAST_WIDE = 120.0
"""Width of the words at least, px."""
_MOST_KNOWN = 500
"""Rows of which the height is kept."""
_WRAPPED = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
LABELS = {r.name: r.label for r in RULES}
_HAND_COLOUR = {"picking": "pick", "fretting": "fret", "both": "ink"}
_HAND_WORDS = {"picking": "picking hand", "fretting": "fretting hand", "both": "both hands"}


class FindingsModel(QAbstractListModel):
    """The findings of one plan, a row for each place."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.plan: Plan | None = None
        self.rows: list[list[Finding]] = []

    def set_plan(self, plan: Plan | None) -> None:
        self.beginResetModel()
        self.plan = plan
        self.rows = by_place(plan.findings) if plan else []
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.rows)

    def place(self, row: int) -> str:
        assert self.plan is not None
        note = self.plan.notes[self.rows[row][0].at]
        return f"bar {note.bar_number}, note {note.index + 1}"

    def label(self, row: int) -> str:
        labels = [LABELS[f.rule] for f in self.rows[row]]
        return ", ".join([labels[0], *(text.lower() for text in labels[1:])])

    def remedy(self, row: int) -> str:
        """What to change at a place, or what would help if no single change does, once that has been found."""
        finding = self.rows[row][0]
        if finding.remedy is not None and self.plan is not None:
            return f"Try: {remedy_text(self.plan, finding.remedy)}"
        return f"What helps: {finding.advice}" if finding.tried and finding.advice else ""

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if self.plan is None or not index.isValid():
            return None
        row = self.rows[index.row()]
        finding = row[0]
        words = f"{self.label(index.row())}, {self.place(index.row())}, {_HAND_WORDS[finding.hand]}"
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{finding.severity}: {words}. {finding.text}. {self.remedy(index.row())}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return "\n".join(
                [*(f"{f.text} ({f.detail})" if f.detail else f.text for f in row), self.remedy(index.row())]
            )
        return None


class _Row(QStyledItemDelegate):
    """Paints one finding: a sign for how bad, the rule, the place and hand, and the sentence."""

    theme = LIGHT

    wide = 260.0
    """px of the list, which says how often a sentence is wrapped"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known: dict[tuple[str, str, float], tuple[float, float]] = {}
        """heights by what is said: measuring wrapped words takes longer than all else of a row"""

    def heights(self, finding: Finding, remedy: str) -> tuple[float, float]:
        """Of the sentence and of what helps, wrapped: no sentence is cut off."""
        key = finding.text, remedy, self.wide
        if key not in self._known:
            if len(self._known) > _MOST_KNOWN:
                self._known.clear()
            self._known[key] = self._measured(finding, remedy)
        return self._known[key]

    def _measured(self, finding: Finding, remedy: str) -> tuple[float, float]:
        room = QRectF(0, 0, max(_LEAST_WIDE, self.wide - _LEFT - _RIGHT), 10000)
        told = QFontMetricsF(font(BODY)).boundingRect(room, int(_WRAPPED), finding.text).height()
        helps = (
            QFontMetricsF(font(BODY, "strong")).boundingRect(room, int(_WRAPPED), remedy).height() if remedy else 0.0
        )
        return told, helps

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        model = index.model()
        assert isinstance(model, FindingsModel)
        told, helps = self.heights(model.rows[index.row()][0], model.remedy(index.row()))
        return QSize(200, int(OVER + told + (GAP + helps if helps else 0.0) + FOOT))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        model = index.model()
        assert painter is not None and isinstance(model, FindingsModel) and model.plan is not None
        finding, theme = model.rows[index.row()][0], self.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.colour("band"))
            painter.fillRect(QRectF(rect.left(), rect.top(), 4, rect.height()), theme.colour("focus"))
        severity_sign(painter, theme, QPointF(rect.left() + 20, rect.top() + 17), finding.severity)
        text = rect.adjusted(_LEFT, 6, -_RIGHT, -2)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(BODY, "strong"))
        label = painter.fontMetrics().elidedText(
            model.label(index.row()), Qt.TextElideMode.ElideRight, int(text.width())
        )
        painter.drawText(text, Qt.AlignmentFlag.AlignTop, label)
        painter.setPen(theme.colour(_HAND_COLOUR[finding.hand]))
        line = text.adjusted(0, 20, 0, 0)
        painter.drawText(line, Qt.AlignmentFlag.AlignTop, f"{model.place(index.row())}, {_HAND_WORDS[finding.hand]}")
        painter.setPen(theme.colour("soft"))
        painter.setFont(font(BODY))
        remedy = model.remedy(index.row())
        told, _ = self.heights(finding, remedy)
        words = text.adjusted(0, OVER - 6, 0, 0)
        painter.drawText(words, _WRAPPED, finding.text)
        if remedy:
            painter.setPen(theme.colour("ink"))
            painter.setFont(font(BODY, "strong"))
            painter.drawText(words.adjusted(0, told + GAP, 0, 0), _WRAPPED, remedy)
        painter.setPen(theme.colour("faint_line"))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        painter.restore()


def severity_sign(painter: QPainter, theme: Theme, at: QPointF, severity: str) -> None:
    """Shape tells how bad: ring, filled diamond, filled triangle with a mark."""
    x, y = at.x(), at.y()
    painter.setPen(theme.colour("hurt" if severity != "minor" else "soft"))
    painter.setBrush(theme.colour("hurt") if severity != "minor" else Qt.BrushStyle.NoBrush)
    if severity == "minor":
        painter.drawEllipse(at, 5, 5)
    elif severity == "major":
        painter.drawPolygon(QPolygonF([QPointF(x, y - 8), QPointF(x + 8, y), QPointF(x, y + 8), QPointF(x - 8, y)]))
    else:
        painter.drawPolygon(QPolygonF([QPointF(x, y - 9), QPointF(x + 9, y + 7), QPointF(x - 9, y + 7)]))
        painter.setPen(theme.colour("raised"))
        painter.setFont(font(SMALL, "heavy"))
        painter.drawText(QRectF(x - 8, y - 6, 16, 14), Qt.AlignmentFlag.AlignCenter, "!")


class FindingsList(QListView):
    """The list; `chosen` carries the finding to jump to."""

    chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("findings")
        self._model = FindingsModel(self)
        self._row = _Row(self)
        self.setModel(self._model)
        self.setItemDelegate(self._row)
        self.setVerticalScrollMode(self.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.clicked.connect(lambda index: self._choose(index.row()))
        self.activated.connect(lambda index: self._choose(index.row()))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._row.wide = float(there(self.viewport()).width())
        self.scheduleDelayedItemsLayout()

    def set_theme(self, theme: Theme) -> None:
        self._row.theme = theme
        there(self.viewport()).update()

    def set_plan(self, plan: Plan | None) -> None:
        """List a plan's findings; what was chosen stays chosen as long as it is said of the same place."""
        chosen = self.current()
        self._model.set_plan(plan)
        same = (n for n, place in enumerate(self._model.rows) if chosen is not None and (place[0].text, place[0].at) == (
            chosen.text, chosen.at))  # fmt: skip
        row = next(same, -1)
        if row >= 0:
            with QSignalBlocker(self):
                self.setCurrentIndex(self._model.index(row))

    def show_event(self, event: int | None) -> None:
        """The chart's note is the one chosen here too: the place it is in, or none."""
        plan, now = self._model.plan, self.currentIndex().row()
        if plan is None:
            return
        rows = [
            n
            for n, place in enumerate(self._model.rows)
            if event in {plan.notes[i].event for f in place for i in f.notes}
        ]
        first = [n for n in rows if plan.notes[self._model.rows[n][0].at].event == event]
        row = now if now in rows else (first or rows or [-1])[0]
        if row != now:
            with QSignalBlocker(self):
                self.setCurrentIndex(self._model.index(row) if row >= 0 else QModelIndex())

    def rows(self) -> list[list[Finding]]:
        """What is listed: the findings of each place."""
        return self._model.rows

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self._model.plan is not None and not self._model.rows:
            painter = QPainter(self.viewport())
            painter.setPen(self._row.theme.colour("soft"))
            flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
            box = there(self.viewport()).rect().adjusted(20, 24, -20, 0)
            painter.drawText(box, flags, "Nothing hurts at this tempo.\nRaise the tempo to see what gives first.")

    def current(self) -> Finding | None:
        """The finding chosen."""
        row = self.currentIndex().row()
        return self._finding(row) if 0 <= row < len(self._model.rows) else None

    def step(self, by: int) -> None:
        """Choose the next or the previous finding."""
        count = self._model.rowCount()
        if count:
            now = self.currentIndex().row()
            self._choose((now + by) % count if now >= 0 else 0)

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        super().currentChanged(current, previous)
        if self.hasFocus() and current.isValid():
            self.chosen.emit(self._finding(current.row()))

    def _finding(self, row: int) -> Finding:
        return self._model.rows[row][0]

    def _choose(self, row: int) -> None:
        self.setCurrentIndex(self._model.index(row))
        self.chosen.emit(self._finding(row))
