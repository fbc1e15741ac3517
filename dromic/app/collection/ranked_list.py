"""Tunes of a collection as pictures: each with its ceiling and range on one scale, against the tempo asked for."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from dromic.app.drawing.ceiling_mark import Ceiling, Line, paint_ceiling, paint_flag
from dromic.app.kit.theme import BODY, LIGHT, SMALL, Theme, font
from dromic.core.reports.comparison import Measure
from dromic.core.reports.ranking import Ranked

_HEIGHT = 44
"""Height of a row, px."""
_WORDS_SHARE = 0.58
"""Share of a row that its words have."""
_EDGE = 10.0
"""Room beside words and picture, px."""
_MOST = 1.8
"""of the tempo asked for: where the scale ends"""
GOES, AWAY, NOT, NONE = "goes", "one ability away", "does not go", "cannot be planned"


class RankedList(QListWidget):
    """A row a tune; Enter opens it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows = _Row(self)
        self.setItemDelegate(self.rows)
        self.setAccessibleName("tunes of the collection")

    def set_theme(self, theme: Theme) -> None:
        self.rows.theme = theme
        self.viewport().update()  # type: ignore[union-attr]

    def show_tunes(self, found: Sequence[Ranked], target: float | None, measure: Measure | None = None) -> None:
        """Tunes in the order they are given, each with its value at a measure if one is given."""
        self.rows.measure = measure
        self.clear()
        self.rows.target = target
        for one in found:
            item = QListWidgetItem(f"{one.title}: {state_of(one, target)}, {words_of(one)}")
            item.setData(Qt.ItemDataRole.UserRole, one)
            item.setToolTip(f"{one.title}: {measured(one, measure)}{words_of(one)}")
            self.addItem(item)
        if found:
            self.setCurrentRow(0)


def state_of(one: Ranked, target: float | None) -> str:
    """Whether a tune goes, in words."""
    if one.refused:
        return NONE
    return GOES if one.plays(target) else AWAY if one.away is not None else NOT


def words_of(one: Ranked) -> str:
    """What is said below a tune's title."""
    if one.refused:
        return one.refused
    if one.away is not None:
        return f"{one.away.factor - 1:.0%} better at “{one.away.ability}” would do it"
    asks = f"; asks for {', '.join(one.needs)}" if one.needs else ""
    return f"work {one.work:.1f} a second; {one.limit_words}{asks}"


def measured(one: Ranked, measure: Measure | None) -> str:
    """What a tune has at a measure, before all else that is said of it; nothing for the ceiling, which is drawn."""
    if measure is None or measure.name == "ceiling" or one.refused:
        return ""
    value = one.measures.get(measure.name)
    return f"{measure.label.split(',')[0]}: {'none' if value is None else f'{value:.{measure.digits}f}'}; "


class _Row(QStyledItemDelegate):
    theme: Theme = LIGHT
    target: float | None = None
    measure: Measure | None = None

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, _HEIGHT)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        one = index.data(Qt.ItemDataRole.UserRole)
        area = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(area, self.theme.colour("band" if chosen else "paper"))
        wide = area.width() * _WORDS_SHARE
        goes = one.plays(self.target)
        mark = "✓" if goes else "≈" if one.away is not None else "–"
        painter.setFont(font(BODY, "strong"))
        painter.setPen(self.theme.colour("ink" if goes or one.away is not None else "soft"))
        painter.drawText(QRectF(area.left() + 8, area.top() + 3, 18, 20), Qt.AlignmentFlag.AlignVCenter, mark)
        self._said(painter, QRectF(area.left() + 28, area.top() + 3, wide - 36, 20), one.title)
        painter.setFont(font(SMALL))
        painter.setPen(self.theme.colour("soft"))
        self._said(
            painter,
            QRectF(area.left() + 28, area.top() + 22, wide - 36, 18),
            measured(one, self.measure) + words_of(one),
        )
        if not one.refused:
            self._scale(
                painter, QRectF(area.left() + wide, area.top(), area.width() - wide - 60, area.height()), one, goes
            )
        painter.restore()

    def _said(self, painter: QPainter, where: QRectF, words: str) -> None:
        short = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(where.width()))
        painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, short)

    def _scale(self, painter: QPainter, area: QRectF, one: Ranked, goes: bool) -> None:
        asked = self.target or one.tempo
        line = Line(0.0, _MOST * asked, area.left() + _EDGE, area.right() - _EDGE)
        middle = area.center().y()
        paint_flag(painter, self.theme, line.x(asked), area.top() + 5, area.bottom() - 5, not goes)
        if one.ceiling is not None and one.ceiling_range is not None and one.sustained is not None:
            paint_ceiling(
                painter, self.theme, line, middle, Ceiling(one.ceiling, *one.ceiling_range, one.sustained, asked)
            )
        painter.setFont(font(BODY, "strong"))
        painter.setPen(self.theme.colour("ink"))
        words = "any" if one.ceiling is None else f"{one.ceiling:.0f}"
        painter.drawText(QRectF(area.right() + 4, area.top(), 50, area.height()), Qt.AlignmentFlag.AlignVCenter, words)
