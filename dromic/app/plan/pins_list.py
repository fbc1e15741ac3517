"""The list of what is pinned; Delete lifts one pin, a button lifts all."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from dromic.core.setup.choices import Choices
from dromic.core.setup.pin import Pin

_PIN = Qt.ItemDataRole.UserRole
Listed = Pin | tuple[int, str]


class _List(QListWidget):
    lifted = pyqtSignal(object)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        item = self.currentItem()
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and item is not None:
            self.lifted.emit(item.data(_PIN))
        else:
            super().keyPressEvent(event)


class PinsList(QWidget):
    """`lifted` carries a pin to lift, `chosen` the event of the one pointed at."""

    lifted = pyqtSignal(object)
    all_lifted = pyqtSignal()
    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.list, self.button = _List(), QPushButton("Lift all pins")
        self.list.setAccessibleName("what is pinned")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.list, 1)
        column.addWidget(self.button)
        self.list.lifted.connect(self.lifted)
        self.button.clicked.connect(self.all_lifted)
        self.list.itemClicked.connect(lambda item: self.chosen.emit(self._event(item.data(_PIN))))
        self.list.itemActivated.connect(lambda item: self.chosen.emit(self._event(item.data(_PIN))))
        self.setFocusProxy(self.list)
        self.show_choices(Choices())

    @staticmethod
    def _event(pin: Listed) -> int:
        return pin.event if isinstance(pin, Pin) else pin[0]

    def show_choices(self, choices: Choices) -> None:
        row = self.list.currentRow()
        self.list.clear()
        pins: list[Listed] = sorted(choices.pins)
        for pin in sorted([*pins, *choices.overrides], key=self._event):
            words = str(pin) if isinstance(pin, Pin) else f"note {pin[0] + 1}: {pin[1]}-stroke, against the school"
            item = QListWidgetItem(words[:1].upper() + words[1:])
            item.setData(_PIN, pin)
            item.setToolTip("Delete lifts this pin")
            self.list.addItem(item)
        self.list.setCurrentRow(min(row, self.list.count() - 1))
        self.button.setEnabled(self.list.count() > 0)
        self.button.setText("Lift all pins" if self.list.count() else "Nothing is pinned: on a note, D U 0-4 S P")
