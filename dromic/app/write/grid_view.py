"""The writing grid as a widget: it paints the phrase and the pen, and turns keys, clicks and drags into commands."""

from __future__ import annotations

import time
from fractions import Fraction

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QMenu, QWidget

from dromic.app.drawing.canvas import CanvasArea
from dromic.app.kit.theme import LIGHT, Theme
from dromic.app.write.grid_paint import GridPainter
from dromic.app.write.grid_rows import BETWEEN, LEAST_PX, MOST_PX, GridRows, grid_rows
from dromic.app.write.key_map import KeyMap
from dromic.app.write.pen import FREE, Pen
from dromic.app.write.write_commands import COMMANDS
from dromic.core.music.phrase import Phrase
from dromic.core.setup.instrument import Instrument

SECOND_DIGIT_S = 0.9
"""how soon a second digit makes one number with the first"""
START_PX = 96.0


class GridView(CanvasArea):
    """Shows a phrase and the pen. It decides nothing: it says what was asked for."""

    commanded = pyqtSignal(str)
    fret_typed = pyqtSignal(int)
    name_typed = pyqtSignal(str, bool)
    pen_moved = pyqtSignal(object)
    play_asked = pyqtSignal()
    text_command = pyqtSignal(str)
    """cut, copy or paste"""

    def __init__(self, keys: KeyMap, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.keys = keys
        self.setAccessibleName("writing grid")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(self.Shape.NoFrame)
        self.theme: Theme = LIGHT
        self.phrase: Phrase | None = None
        self.instrument: Instrument | None = None
        self.pen = Pen()
        self.px = START_PX
        self.playing: Fraction | None = None
        self.rows: GridRows | None = None
        self._typed: tuple[int, float, Fraction, int] = (0, 0.0, Fraction(-1), 0)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.viewport().update()

    def show_phrase(self, phrase: Phrase, instrument: Instrument, pen: Pen) -> None:
        self.phrase, self.instrument = phrase, instrument
        self._lay_out()
        self.show_pen(pen)

    def show_pen(self, pen: Pen) -> None:
        self.pen = pen
        self._into_view(pen.at)
        self.viewport().update()

    def show_playing(self, at: Fraction | None) -> None:
        """Mark the time that sounds just now, None for none."""
        self.playing = at
        if at is not None:
            self._into_view(at)
        self.viewport().update()

    def _lay_out(self) -> None:
        if self.phrase is None or self.instrument is None:
            return
        self.rows = grid_rows(self.phrase, self.instrument.strings, self.viewport().width(), self.px)
        bar = self.verticalScrollBar()
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(self.rows.row_height // 3)
        bar.setRange(0, max(0, self.rows.height - self.viewport().height()))

    def _into_view(self, at: Fraction) -> None:
        if self.rows is None:
            return
        row, bar = self.rows.row_of(at), self.verticalScrollBar()
        if row.top < bar.value():
            bar.setValue(row.top - BETWEEN // 2)
        elif row.top + self.rows.row_height > bar.value() + self.viewport().height():
            bar.setValue(row.top + self.rows.row_height - self.viewport().height())

    def zoom(self, factor: float) -> None:
        self.px = max(LEAST_PX, min(MOST_PX, self.px * factor))
        self._lay_out()
        self._into_view(self.pen.at)
        self.viewport().update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self.viewport())
        painter.fillRect(self.viewport().rect(), self.theme.colour("paper"))
        if self.rows is None or self.phrase is None or self.instrument is None:
            return
        top = self.verticalScrollBar().value()
        painter.translate(0, -top)
        drawn = GridPainter(painter, self.rows, self.phrase, self.instrument, self.theme)
        drawn.paint(self.pen, top, top + self.viewport().height(), self.hasFocus(), self.playing)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay_out()

    def focusInEvent(self, event: QEvent | None) -> None:
        self.viewport().update()

    def focusOutEvent(self, event: QEvent | None) -> None:
        self.viewport().update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.0015 ** event.angleDelta().y())
            event.accept()
        else:
            super().wheelEvent(event)

    # what the player asks for

    def event(self, event: QEvent | None) -> bool:
        """Keys of the grid go before the window's shortcuts, while the grid has the focus."""
        if event is not None and event.type() == QEvent.Type.ShortcutOverride:
            assert isinstance(event, QKeyEvent)
            if self._meaning(event):
                event.accept()
                return True
        return super().event(event)

    def _meaning(self, event: QKeyEvent) -> str | None:
        """What a key press means here: a digit, a note's name, a command, or nothing."""
        if event.key() == Qt.Key.Key_Space and not event.modifiers():
            return "play"
        text, plain = event.text(), event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        shifted = plain == Qt.KeyboardModifier.ShiftModifier
        if plain == Qt.KeyboardModifier.NoModifier and text.isdecimal():
            return "digit"
        if self.pen.string == FREE and text and text in "abcdefgABCDEFG" and (shifted or not plain):
            return "name"
        for standard, name in (("Copy", "copy"), ("Cut", "cut"), ("Paste", "paste")):
            if event.matches(getattr(QKeySequence.StandardKey, standard)):
                return f"text:{name}"
        command = self.keys.command_of(event)
        return f"command:{command}" if command else None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        meaning = self._meaning(event)
        if meaning == "digit":
            self._digit(int(event.text()))
        elif meaning == "play":
            self.play_asked.emit()
        elif meaning == "name":
            self.name_typed.emit(event.text().lower(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif meaning is not None:
            kind, name = meaning.split(":", 1)
            (self.text_command if kind == "text" else self.commanded).emit(name)
        else:
            super().keyPressEvent(event)

    def _digit(self, digit: int) -> None:
        before, when, at, string = self._typed
        now = time.monotonic()
        fret = digit
        same_place = (at, string) == (self.pen.at, self.pen.string)
        highest = self.instrument.highest_fret if self.instrument else 0
        if same_place and 0 < before <= 9 and now - when < SECOND_DIGIT_S and 10 * before + digit <= highest:
            fret = 10 * before + digit
        self._typed = fret, now, self.pen.at, self.pen.string
        self.fret_typed.emit(fret)

    def _pen_at(self, event: QMouseEvent | QContextMenuEvent, x: float, y: float) -> Pen | None:
        if self.rows is None or self.phrase is None:
            return None
        top = self.verticalScrollBar().value()
        at, string = self.rows.place(x, y + top, self.pen.length)
        row = self.rows.row_of(at)
        for each in self.phrase.events:
            # a click on a note takes its beginning, wherever the steps lie
            if row.start <= each.onset < row.end:
                left = self.rows.x(row, each.onset)
                right = self.rows.x(row, min(each.end, row.end))
                if left <= x < max(right, left + 15) and any((n.string or FREE) == string for n in each.notes):
                    at = each.onset
        return Pen(at, string, self.pen.base, self.pen.dots, self.pen.tuplet)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        pen = self._pen_at(event, event.position().x(), event.position().y())
        if pen is None:
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            anchor = self.pen.at if self.pen.anchor is None else self.pen.anchor
            pen = Pen(pen.at, pen.string, pen.base, pen.dots, pen.tuplet, anchor)
        self.pen_moved.emit(pen)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.buttons() & Qt.MouseButton.LeftButton:
            pen = self._pen_at(event, event.position().x(), event.position().y())
            if pen is not None and (pen.at != self.pen.at or self.pen.anchor is not None):
                anchor = self.pen.at if self.pen.anchor is None else self.pen.anchor
                self.pen_moved.emit(Pen(pen.at, pen.string, pen.base, pen.dots, pen.tuplet, anchor))

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        pen = self._pen_at(event, event.pos().x(), event.pos().y())
        if pen is not None and self.pen.selection is None:
            self.pen_moved.emit(pen)
        menu = self.menu()
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.exec(event.globalPos())

    def menu(self) -> QMenu:
        """Everything the keys do, for the mouse: frets, then the commands by group."""
        menu = QMenu(self)
        if self.instrument is not None:
            frets = menu.addMenu("Fret")
            assert frets is not None
            for fret in range(self.instrument.highest_fret + 1):
                frets.addAction(str(fret), lambda f=fret: self.fret_typed.emit(f))
        for group in dict.fromkeys(c.group for c in COMMANDS if c.group != "Pen"):
            part = menu.addMenu(group)
            assert part is not None
            for command in (c for c in COMMANDS if c.group == group):
                action = part.addAction(
                    f"{command.label}\t{self.keys.words(command.name)}", lambda n=command.name: self.commanded.emit(n)
                )
                assert action is not None
        menu.addSeparator()
        for name in ("copy", "cut", "paste"):
            menu.addAction(name.capitalize(), lambda n=name: self.text_command.emit(n))
        return menu
