"""The list of every other way to play the chosen note, with what each would do; Enter or a double click tries one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from dromic.app.drawing.canvas import there
from dromic.app.kit.theme import BODY, LIGHT, Theme, font
from dromic.core.reports.explain import SAME_TEMPO

if TYPE_CHECKING:
    from dromic.core.questions.whatif import Choice

BETTER, SAME, WORSE = "\u25b2", "=", "\u25bc"
_LEFT = 12.0
"""Room left of a row's words, px."""
_RIGHT = 8.0
"""Room right of them, px."""
_EDGE = 4.0
"""Room over them, px."""
_LEAST_WIDE = 120.0
"""Width of the words at least, px."""
_WRAPPED = int(Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap)
_CHOICE = Qt.ItemDataRole.UserRole
SAME_WORK = 0.05
"""in units of the objective: a smaller change of the work is told as none"""


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
    """What a choice costs the whole, what of it falls to each hand, and what becomes of the rest."""
    whole = "on the whole as now" if abs(choice.whole) < SAME_WORK else f"on the whole {choice.whole:+.2f}"
    parts = [
        _work("picking", choice.picking),
        _work("fretting", choice.fretting),
        _work("strain and prices", choice.strain),
    ]
    after = choice.after
    if not after and choice.others:
        after = f"{choice.others} more {'note changes' if choice.others == 1 else 'notes change'}"
    return f"{whole} ({', '.join(parts)})" + (f"; {after}" if after else "")


def sign_of(choice: Choice) -> str:
    """Whether a choice is better on the whole: a higher ceiling, or at the same one a cheaper plan."""
    if abs(choice.gain) >= SAME_TEMPO:
        return BETTER if choice.gain > 0 else WORSE
    return SAME if abs(choice.whole) < SAME_WORK else BETTER if choice.whole < 0 else WORSE


def _ceiling_sign(choice: Choice) -> str:
    return SAME if abs(choice.gain) < SAME_TEMPO else BETTER if choice.gain > 0 else WORSE


class _Row(QStyledItemDelegate):
    """Paints one choice: what it is, what it does to the ceiling, and what to the whole."""

    theme = LIGHT
    wide = 260.0
    """px of the list"""
    tempo = 0.0
    """asked for: a choice whose ceiling is under it does not fit"""

    def _laid(self, choice: Choice) -> list[tuple[str, str, str, float]]:
        """Each text with its weight, its colour and its height, wrapped: nothing is cut off."""
        hurts = choice.ceiling is not None and choice.ceiling < self.tempo
        title = choice.change.text[:1].upper() + choice.change.text[1:]
        texts = (
            (title, "strong", "ink"),
            (f"{_ceiling_sign(choice)} {verdict_of(choice)}", "strong" if abs(choice.gain) >= SAME_TEMPO else "normal",
             "hurt" if hurts else "ink"),
            (f"{sign_of(choice)} {details_of(choice)}", "normal", "soft"),
        )  # fmt: skip
        room = QRectF(0, 0, max(_LEAST_WIDE, self.wide - _LEFT - _RIGHT), 10000)
        return [
            (words, weight, colour, QFontMetricsF(font(BODY, weight)).boundingRect(room, _WRAPPED, words).height())
            for words, weight, colour in texts
        ]

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, int(sum(tall for *_, tall in self._laid(index.data(_CHOICE))) + 2 * _EDGE))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        choice, theme = index.data(_CHOICE), self.theme
        painter.save()
        rect = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.colour("band"))
            painter.fillRect(QRectF(rect.left(), rect.top(), 4, rect.height()), theme.colour("focus"))
        text = rect.adjusted(_LEFT, _EDGE, -_RIGHT, 0)
        for words, weight, colour, tall in self._laid(choice):
            painter.setFont(font(BODY, weight))
            painter.setPen(theme.colour(colour))
            painter.drawText(text, _WRAPPED, words)
            text.adjust(0, tall, 0, 0)
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
        self.setVerticalScrollMode(self.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._words = ""
        self.itemActivated.connect(lambda item: self.tried.emit(item.data(_CHOICE).change))
        self.say("Choose a note in the chart to see every other way to play it.")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._row.wide = float(there(self.viewport()).width())
        self.scheduleDelayedItemsLayout()

    def set_theme(self, theme: Theme) -> None:
        self._row.theme = theme
        there(self.viewport()).update()

    def say(self, words: str) -> None:
        """Words in place of a list."""
        self.clear()
        self._words = words
        there(self.viewport()).update()

    def set_tempo(self, tempo: float) -> None:
        """The tempo asked for."""
        self._row.tempo = tempo

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
