"""Asks whether the copy of a phrase takes the history of its practice along."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox, QWidget

from dromic.app.book.claims import MOST_NAMED, Claims
from dromic.core.practice.log_pass import PhraseName


def ask_history(claims: Claims, window: QWidget, count: int, of: PhraseName, to: PhraseName) -> QMessageBox:
    """The question; unanswered, the copy begins anew, and Shed says where it came from."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, "Copy of this phrase", "", parent=window)
    box.setText(
        f"“{of.title[:MOST_NAMED]}” has {count} {'pass' if count == 1 else 'passes'} in the log. Take them along to the copy?"
    )
    box.setInformativeText("Left, the copy begins anew, and Shed says where it came from.")
    take = box.addButton("Take them along", QMessageBox.ButtonRole.AcceptRole)
    leave = box.addButton("Begin anew", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(leave)
    box.setEscapeButton(leave)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    box.buttonClicked.connect(lambda button: claims.lend(of, to) if button is take else None)
    box.open()
    return box
