"""The list of everything that can be done to a phrase, with its keys: to read, to click, and to change a key."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QKeySequenceEdit,
    QLabel,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from dromic.app.write.key_map import KeyMap
from dromic.app.write.write_commands import COMMANDS
from dromic.core.values.errors import DromicError

_NAME = Qt.ItemDataRole.UserRole
_LEAST_PX = 60
"""px of the list in a low window"""


class KeyList(QWidget):
    """Commands by group; Enter or a double click runs one."""

    commanded = pyqtSignal(str)

    def __init__(self, keys: KeyMap, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.keys = keys
        self.search, self.tree = QLineEdit(), QTreeWidget()
        self.search.setPlaceholderText("Find what to do")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("find a command")
        self.tree.setAccessibleName("commands and their keys")
        self.tree.setColumnCount(2)
        self.tree.setHeaderHidden(True)
        self.tree.setMinimumHeight(_LEAST_PX)
        self.tree.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.tree.setRootIsDecorated(False)
        self.tree.setIndentation(10)
        self.change_button, self.reset_button = QPushButton("Change the key…"), QPushButton("Keys as shipped")
        row = QHBoxLayout()
        row.addWidget(self.change_button)
        row.addWidget(self.reset_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.search)
        column.addWidget(self.tree, 1)
        column.addLayout(row)
        self.search.textChanged.connect(self._filter)
        self.search.returnPressed.connect(self._run_first)
        self.tree.itemActivated.connect(self._run)
        self.tree.currentItemChanged.connect(lambda now, _: self.change_button.setEnabled(bool(_name(now))))
        self.change_button.clicked.connect(self._ask_key)
        self.reset_button.clicked.connect(self._reset)
        self.change_button.setEnabled(False)
        self.fill()

    def fill(self) -> None:
        self.tree.clear()
        for group in dict.fromkeys(c.group for c in COMMANDS):
            top = QTreeWidgetItem([group])
            look = top.font(0)
            look.setBold(True)
            top.setFont(0, look)
            top.setFlags(Qt.ItemFlag.ItemIsEnabled)
            self.tree.addTopLevelItem(top)
            for command in (c for c in COMMANDS if c.group == group):
                item = QTreeWidgetItem([command.label, self.keys.words(command.name)])
                item.setData(0, _NAME, command.name)
                item.setToolTip(
                    0, f"{command.label} – double-click, or press {self.keys.words(command.name)} in the grid"
                )
                top.addChild(item)
        self.tree.expandAll()
        self.tree.setColumnWidth(0, 205)

    def _filter(self, text: str) -> None:
        for g in range(self.tree.topLevelItemCount()):
            top = self.tree.topLevelItem(g)
            assert top is not None
            shown = 0
            for n in range(top.childCount()):
                item = top.child(n)
                assert item is not None
                hit = text.lower() in f"{item.text(0)} {item.text(1)}".lower()
                item.setHidden(not hit)
                shown += hit
            top.setHidden(not shown)

    def _run_first(self) -> None:
        for g in range(self.tree.topLevelItemCount()):
            top = self.tree.topLevelItem(g)
            assert top is not None
            for n in range(top.childCount()):
                item = top.child(n)
                if item is not None and not item.isHidden():
                    self._run(item)
                    return

    def _run(self, item: QTreeWidgetItem | None, _column: int = 0) -> None:
        if name := _name(item):
            self.commanded.emit(name)

    def _ask_key(self) -> None:
        item = self.tree.currentItem()
        if item is None or not (name := _name(item)):
            return
        dialog = KeyDialog(self.keys, name, item.text(0), self)
        if dialog.exec():
            self.fill()
        dialog.deleteLater()

    def _reset(self) -> None:
        self.keys.as_shipped()
        self.fill()


class KeyDialog(QDialog):
    """Asks for another key of one command, and says when it is taken."""

    def __init__(self, keys: KeyMap, name: str, label: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.keys, self.name = keys, name
        self.setWindowTitle("Change the key")
        self.edit, self.fault = QKeySequenceEdit(), QLabel()
        self.edit.setMaximumSequenceLength(1)
        self.fault.setObjectName("hurt")
        self.fault.setWordWrap(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(QLabel(f"Press the new key for “{label}”."))
        column.addWidget(self.edit)
        column.addWidget(self.fault)
        column.addWidget(buttons)

    def accept(self) -> None:
        try:
            self.keys.change(self.name, self.edit.keySequence().toString(QKeySequence.SequenceFormat.PortableText))
        except DromicError as error:
            self.fault.setText(str(error))
            return
        super().accept()


def _name(item: QTreeWidgetItem | None) -> str:
    return str(item.data(0, _NAME) or "") if item is not None else ""
