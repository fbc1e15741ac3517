"""What a player says at a note: words to be reminded of, and the other reading of a note that is doubtful."""

from __future__ import annotations

from fractions import Fraction

from PyQt6.QtWidgets import QCheckBox, QDialog, QDialogButtonBox, QFormLayout, QLineEdit, QSpinBox, QWidget

from dromic.app.book.open_book import OpenBook
from dromic.core.editing.readings import with_words
from dromic.core.music.phrase import MOST_DOUBT, MOST_WORDS, Note
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_name

KEY = "'"
"""asks for the words at a note, on Write and on the chart"""
_WIDE = 520


class NoteDialog(QDialog):
    """Asks for one note of the open phrase; what is said is one step of undo."""

    def __init__(self, open_book: OpenBook, onset: Fraction, note: Note, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.open_book, self.onset, self.note = open_book, onset, note
        self.words, self.doubtful, self.other = QLineEdit(note.words), QCheckBox("doubtful: it may be"), QSpinBox()
        self.setWindowTitle(f"At {note_name(note.pitch)}")
        self.setMinimumWidth(_WIDE)
        self.words.setMaxLength(MOST_WORDS)
        self.words.setPlaceholderText("what to be reminded of here, such as: relax the thumb")
        self.words.setAccessibleName("your words at this note")
        self.doubtful.setChecked(bool(note.doubt))
        self.other.setAccessibleName("its other reading")
        if note.fret is None:
            self.other.setRange(-MOST_DOUBT, MOST_DOUBT)
            self.other.setSuffix(" semitones away")
            self.other.setValue(note.doubt or 1)
        else:
            self.other.setRange(0, open_book.instrument.highest_fret)
            self.other.setPrefix("fret ")
            self.other.setValue(note.fret + (note.doubt or 1))
        self.other.setEnabled(bool(note.doubt))
        self.doubtful.toggled.connect(self.other.setEnabled)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        form = QFormLayout(self)
        form.addRow("Your words", self.words)
        form.addRow(self.doubtful, self.other)
        form.addRow(buttons)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        self.accepted.connect(self._said)

    def _said(self) -> None:
        away = self.other.value() - (self.note.fret or 0) if self.note.fret is not None else self.other.value()
        doubt = away if self.doubtful.isChecked() else 0
        made = with_words(self.open_book.phrase, self.onset, self.note, self.words.text().strip(), doubt)
        if made != self.open_book.phrase:
            self.open_book.edit(made, "your words")


def ask_words(open_book: OpenBook, onset: Fraction, note: Note | None, parent: QWidget) -> NoteDialog:
    """Ask for the words at a note; DromicError where there is none."""
    if note is None:
        raise DromicError("there is no note here to say something at; go to one first")
    dialog = NoteDialog(open_book, onset, note, parent)
    dialog.finished.connect(dialog.deleteLater)
    dialog.open()
    return dialog
