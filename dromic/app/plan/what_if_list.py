"""The list of every other way to play the chosen note, with what each would do; Enter or a double click tries one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from dromic.app.kit.canvas import there
from dromic.app.kit.theme import LIGHT, Theme, font
from dromic.core.reports.explain import SAME_TEMPO

if TYPE_CHECKING:
    from dromic.core.questions.whatif import Choice

ROW = 62
_CHOICE = Qt.ItemDataRole.UserRole
SAME_WORK = 0.05
"""in units of the objective: a smaller change of a hand's work is not told"""


def verdict_of(choice: Choice) -> str:
    """What a choice does to the ceiling, in words; an estimate."""
    if choice.ceiling is None:
        return "no limit"
    if abs(choice.gain) < SAME_TEMPO:
        return f"ceiling stays at about {choice.ceiling:.0f}"
    way = "up" if choice.gain > 0 else "down"
    return f"ceiling {way} {abs(choice.gain):.0f} to about {choice.ceiling:.0f}"


def _work(name: str, more: float) -> str:
    return f"{name} as now" if abs(more) < SAME_WORK else f"{name} {more:+.2f}"


def details_of(choice: Choice) -> str:
    """What a choice asks of each hand, and what becomes of the rest."""
    parts = [_work("picking", choice.picking), _work("fretting", choice.fretting)]
    if choice.after:
        parts.append(choice.after)
    elif choice.others:
        parts.append(f"{choice.others} more {'note changes' if choice.others == 1 else 'notes change'}")
    return "; ".join(parts)


class _Row(QStyledItemDelegate):
    theme = LIGHT

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, ROW)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        choice, theme = index.data(_CHOICE), self.theme
        painter.save()
        rect = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.colour("band"))
            painter.fillRect(QRectF(rect.left(), rect.top(), 4, rect.height()), theme.colour("ink"))
        text = rect.adjusted(12, 4, -8, -4)
        painter.setFont(font(14, "strong"))
        painter.setPen(theme.colour("ink"))
        words = choice.change.text[:1].upper() + choice.change.text[1:]
        elide = Qt.TextElideMode.ElideRight
        painter.drawText(
            text, Qt.AlignmentFlag.AlignTop, painter.fontMetrics().elidedText(words, elide, int(text.width()))
        )
        worse = choice.gain <= -SAME_TEMPO
        painter.setFont(font(13, "strong" if abs(choice.gain) >= SAME_TEMPO else "normal"))
        painter.setPen(theme.colour("hurt" if worse else "ink"))
        sign = "▼ " if worse else "▲ " if choice.gain >= SAME_TEMPO else "= "
        painter.drawText(text.adjusted(0, 18, 0, 0), Qt.AlignmentFlag.AlignTop, sign + verdict_of(choice))
        painter.setFont(font(12))
        painter.setPen(theme.colour("soft"))
        told = painter.fontMetrics().elidedText(details_of(choice), elide, int(text.width()))
        painter.drawText(text.adjusted(0, 36, 0, 0), Qt.AlignmentFlag.AlignTop, told)
        painter.setPen(theme.colour("faint_line"))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        painter.restore()


class WhatIfList(QListWidget):
    """`tried` carries the change to make."""

    tried = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("what if: every other way to play the chosen note")
        self._row = _Row(self)
        self.setItemDelegate(self._row)
        self.setUniformItemSizes(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._words = ""
        self.itemActivated.connect(lambda item: self.tried.emit(item.data(_CHOICE).change))
        self.say("Choose a note in the chart to see every other way to play it.")

    def set_theme(self, theme: Theme) -> None:
        self._row.theme = theme
        there(self.viewport()).update()

    def say(self, words: str) -> None:
        """Words in place of a list."""
        self.clear()
        self._words = words
        there(self.viewport()).update()

    def show_choices(self, choices: tuple[Choice, ...]) -> None:
        self.say(
            "" if choices else "This note has no other string, finger or stroke: the school and what is kept fix it."
        )
        for choice in choices:
            words = f"{choice.change.text}: {verdict_of(choice)}; {details_of(choice)}"
            item = QListWidgetItem(words)
            item.setData(_CHOICE, choice)
            item.setToolTip(f"{words}. Enter tries it, Ctrl+Z takes it back. Estimates.")
            self.addItem(item)
        if choices:
            self.setCurrentRow(0)

    def choices(self) -> list[Choice]:
        return [item.data(_CHOICE) for n in range(self.count()) if (item := self.item(n)) is not None]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self.count():
            painter = QPainter(self.viewport())
            painter.setPen(self._row.theme.colour("soft"))
            flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
            painter.drawText(there(self.viewport()).rect().adjusted(20, 24, -20, 0), flags, self._words)
