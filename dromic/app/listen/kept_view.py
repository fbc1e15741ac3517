"""Takes over the days, side by side: a row a take, a mark a note, so that what is always wrong stands out as a column."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from dromic.app.kit.theme import LIGHT, SMALL, Theme, font
from dromic.store.takes import KeptTake

_HEIGHT = 38
"""Height of a row, px."""
_WORDS = 112.0
"""Width of its words, px."""
_MOST_MS = 60.0
_MEGA = 1e6


class KeptView(QWidget):
    """Shows takes; what is to be done with them is asked for."""

    keep_asked = pyqtSignal()
    log_asked = pyqtSignal()
    open_asked = pyqtSignal(object)
    throw_asked = pyqtSignal(object)
    back_asked = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.keep, self.log = QPushButton("Keep this take"), QPushButton("Into the log")
        self.throw, self.back = QPushButton("Throw away"), QPushButton("Bring back")
        self.told, self.list = QLabel(), _List()
        self.takes: tuple[KeptTake, ...] = ()
        self.rows = _Row(self.list)
        self.list.setItemDelegate(self.rows)
        self.list.setAccessibleName("takes that were kept")
        self.log.setToolTip(
            "What was clean in this take, and what was not, goes to the log of practice: Shed goes by it"
        )
        self.told.setObjectName("soft")
        self.told.setWordWrap(True)
        first, second = QHBoxLayout(), QHBoxLayout()
        for row, buttons in ((first, (self.keep, self.log)), (second, (self.throw, self.back))):
            for button in buttons:
                row.addWidget(button)
            row.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 4, 0, 0)
        whole.addLayout(first)
        whole.addWidget(self.list, 1)
        whole.addLayout(second)
        whole.addWidget(self.told)
        self.keep.clicked.connect(self.keep_asked)
        self.log.clicked.connect(self.log_asked)
        self.back.clicked.connect(self.back_asked)
        self.throw.clicked.connect(self._throw)
        self.list.deleted.connect(self._throw)
        self.list.itemActivated.connect(lambda item: self.open_asked.emit(item.data(Qt.ItemDataRole.UserRole)))

    def set_theme(self, theme: Theme) -> None:
        self.rows.theme = theme
        self.list.viewport().update()  # type: ignore[union-attr]

    def show_takes(self, takes: tuple[KeptTake, ...], can_keep: bool, thrown: bool) -> None:
        """The takes of a phrase, the newest first; the one chosen stays where they are the same."""
        if takes != self.takes:
            self._fill(takes)
        self.keep.setEnabled(can_keep)
        self.log.setEnabled(can_keep)
        self.throw.setEnabled(bool(takes))
        self.back.setEnabled(thrown)
        size = sum(take.size for take in takes) / _MEGA
        waiting = sum(not take.kept for take in takes)
        self.told.setText(
            f"{len(takes) - waiting} kept{f', {waiting} not kept yet' if waiting else ''}, {size:.1f} MB. Enter hears one again, "
            "Delete throws it away."
            if takes
            else "None kept yet: keep one, and another day's stands beside it."
        )

    def _fill(self, takes: tuple[KeptTake, ...]) -> None:
        self.takes = takes
        self.list.clear()
        for take in reversed(takes):
            said = f"{take.at:%d %b %H:%M}, {take.tempo:.0f}: {take.fine} of {len(take.notes)} as they are meant"
            if not take.kept:
                said = f"{take.at:%d %b %H:%M}: recorded, not kept yet"
            item = QListWidgetItem(said)
            item.setData(Qt.ItemDataRole.UserRole, take)
            self.list.addItem(item)

    def _throw(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.throw_asked.emit(item.data(Qt.ItemDataRole.UserRole))


class _List(QListWidget):
    deleted = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete:
            self.deleted.emit()
        else:
            super().keyPressEvent(event)


class _Row(QStyledItemDelegate):
    """When and how fast on the left, every note to the right of it."""

    theme: Theme = LIGHT

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(int(_WORDS) * 2, _HEIGHT)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        take = index.data(Qt.ItemDataRole.UserRole)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        area = QRectF(option.rect)
        painter.fillRect(area, self.theme.colour("band" if chosen else "paper"))
        painter.setFont(font(SMALL))
        painter.setPen(self.theme.colour("ink"))
        words = QRectF(area.left() + 6, area.top() + 2, _WORDS - 8, area.height() - 4)
        painter.drawText(
            words,
            Qt.AlignmentFlag.AlignVCenter,
            f"{take.at:%d %b %H:%M}\n"
            + (f"{take.fine}/{len(take.notes)} at {take.tempo:.0f}" if take.kept else "not kept yet"),
        )
        strip = QRectF(area.left() + _WORDS, area.top() + 5, area.width() - _WORDS - 8, area.height() - 10)
        wide = strip.width() / max(1, len(take.notes))
        for n, (_, error, verdict) in enumerate(take.notes):
            off = _MOST_MS if error is None else min(_MOST_MS, abs(error))
            high = max(2.0, strip.height() * off / _MOST_MS)
            mark = QRectF(
                strip.left() + n * wide, strip.bottom() - high, max(1.0, wide - (1.0 if wide > 3 else 0.0)), high
            )
            painter.fillRect(mark, self.theme.colour("soft" if verdict == "ok" else "hurt"))
        painter.restore()
