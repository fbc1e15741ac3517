"""Draws the writing grid: strings against true time, every note as long as it sounds, and the pen."""

from __future__ import annotations

from fractions import Fraction

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen

from dromic.app.drawing.glyphs import stroke_glyph
from dromic.app.kit.theme import SMALL, Theme, font
from dromic.app.write.grid_rows import FREE_LANE, GUTTER, HEADER, LANE, GridRows, Row
from dromic.app.write.pen import FREE, Pen
from dromic.core.music.phrase import Bar, Event, Note, Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.values.metre import Metre
from dromic.core.values.pitch import note_name

_ATTACK_SIGNS = {"hammer": "h", "pull": "p", "slide": "s", "hammer-new": "n", "tap": "t", "pick": "k", "pluck": "f"}
_MARK_SIGNS = {
    "accent": "!", "let-ring": "*", "vibrato": "v", "harmonic": "o", "grace": "g", "tremolo": "%", "trill": "tr",
    "slide-in": "in", "slide-out": "out", "slap": "sl", "pop": "po", "turn": "tu", "arpeggio": "ar", "strum": "st",
    "rake": "ra",
}  # fmt: skip
_STUB_PX = 15.0
"""a note is never narrower, or its number could not be read"""
_ROOMY_PX = 34.0
"""width from which a sign and two digits fit in full size"""
_RADIUS = 5.0


class GridPainter:
    """Paints the rows of one phrase."""

    def __init__(self, painter: QPainter, rows: GridRows, phrase: Phrase, instrument: Instrument, theme: Theme) -> None:
        self.painter, self.rows, self.phrase = painter, rows, phrase
        self.instrument, self.theme = instrument, theme
        self.by_bar: dict[int, list[Event]] = {}
        for event in phrase.events:
            self.by_bar.setdefault(event.bar, []).append(event)

    def paint(self, pen: Pen, top: int, bottom: int, focused: bool, playing: Fraction | None) -> None:
        """Everything between two heights; `playing` is the time that sounds just now."""
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for row in self.rows.rows:
            if row.top + self.rows.row_height < top or row.top > bottom:
                continue
            self._row(row, pen)
        self._pen(pen, focused)
        if playing is not None:
            row = self.rows.row_of(playing)
            x = self.rows.x(row, playing)
            self.painter.setPen(QPen(self.theme.colour("hurt"), 2))
            self.painter.drawLine(QPointF(x, row.top + HEADER - 4), QPointF(x, self._bottom(row)))

    def _bottom(self, row: Row) -> float:
        return self.rows.lane_y(row, self.rows.strings) + LANE / 2

    def _row(self, row: Row, pen: Pen) -> None:
        self._selection(row, pen)
        self._strings(row)
        for index in range(row.first, row.last + 1):
            self._bar(row, index, pen.length)
        self._line(row, row.end, 1.4)
        for index in range(row.first, row.last + 1):
            for event in self.by_bar.get(index, ()):
                for note in event.notes:
                    self._note(row, event.onset, note)
        self._carried(row)

    def _selection(self, row: Row, pen: Pen) -> None:
        span = pen.selection
        if span is None or span.end <= row.start or span.start >= row.end:
            return
        left, right = (self.rows.x(row, t) for t in (max(span.start, row.start), min(span.end, row.end)))
        top = row.top + HEADER
        self.painter.fillRect(QRectF(left, top, right - left, self._bottom(row) - top), self.theme.colour("band"))

    def _strings(self, row: Row) -> None:
        right = self.rows.x(row, row.end)
        names = [note_name(self.instrument.open_pitch(s)) for s in range(1, self.rows.strings + 1)]
        self.painter.setFont(font(SMALL))
        for string, name in enumerate(["name", *names]):
            y = self.rows.lane_y(row, string)
            self.painter.setPen(self.theme.colour("soft"))
            box = QRectF(2, y - 10, GUTTER - 10, 20)
            self.painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name)
            style = Qt.PenStyle.DotLine if string == FREE else Qt.PenStyle.SolidLine
            self.painter.setPen(QPen(self.theme.colour("line"), 0.8 + 0.12 * string, style))
            self.painter.drawLine(QPointF(GUTTER, y), QPointF(right, y))

    def _line(self, row: Row, time: Fraction, width: float, colour: str = "ink") -> None:
        x = self.rows.x(row, time)
        self.painter.setPen(QPen(self.theme.colour(colour), width))
        self.painter.drawLine(QPointF(x, row.top + HEADER), QPointF(x, self._bottom(row)))

    def _bar(self, row: Row, index: int, step: Fraction) -> None:
        bar = self.phrase.bars[index]
        self._beats(row, bar, step)
        self._line(row, bar.start, 1.4)
        x, painter = self.rows.x(row, bar.start), self.painter
        before = self.phrase.bars[index - 1] if index else None
        words = [str(bar.number)]
        if before is None or bar.metre != before.metre:
            words.append(_metre_words(bar.metre))
        if bar.pace != (before.pace if before is not None else 1.0):
            words.append(f"at {self.phrase.tempo_in(index):.4g}")
        section = next((s for s in self.phrase.sections if s.first == index), None)
        painter.setFont(font(SMALL, "strong"))
        painter.setPen(self.theme.colour("ink"))
        text = "   ".join(words)
        painter.drawText(QPointF(x + 3, row.top + 12), text)
        if section is not None:
            wide = painter.fontMetrics().horizontalAdvance(text)
            painter.setPen(self.theme.colour("fret"))
            painter.drawText(QPointF(x + wide + 16, row.top + 12), section.name)
        right = self.rows.x(row, bar.end)
        if bar.endings:
            painter.setPen(QPen(self.theme.colour("ink"), 1.2))
            painter.drawLine(QPointF(x + 1, row.top + 16), QPointF(right - 4, row.top + 16))
            painter.drawLine(QPointF(x + 1, row.top + 16), QPointF(x + 1, row.top + 26))
            turns = " ".join(f"{n}." for n in bar.endings)
            painter.drawText(QRectF(x, row.top, right - x - 5, 14), Qt.AlignmentFlag.AlignRight, turns)
        if bar.repeat_start:
            self._repeat_sign(row, x + 2, 1)
        if bar.repeat_times:
            self._repeat_sign(row, right - 2, -1)
            if bar.repeat_times > 2:
                painter.drawText(
                    QRectF(x, row.top + 14, right - x - 4, 14), Qt.AlignmentFlag.AlignRight, f"{bar.repeat_times} times"
                )

    def _repeat_sign(self, row: Row, x: float, side: int) -> None:
        top, bottom = row.top + HEADER, self._bottom(row)
        self.painter.setPen(QPen(self.theme.colour("ink"), 4))
        self.painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        self.painter.setBrush(self.theme.colour("ink"))
        self.painter.setPen(Qt.PenStyle.NoPen)
        middle = (top + bottom) / 2
        for dy in (-10, 10):
            self.painter.drawEllipse(QPointF(x + side * 8, middle + dy), 3, 3)

    def _beats(self, row: Row, bar: Bar, step: Fraction) -> None:
        """Beats with their numbers, and faintly the steps of the pen between them."""
        painter = self.painter
        beat, number = -bar.lead, 1
        for length in bar.metre.beats():
            if beat >= 0:
                at = bar.start + beat
                if beat and at < bar.end:
                    self._line(row, at, 0.9, "line")
                painter.setFont(font(SMALL))
                painter.setPen(self.theme.colour("soft"))
                if at < bar.end:
                    painter.drawText(QPointF(self.rows.x(row, at) + 3, row.top + HEADER - 3), str(number))
            inner = beat + step
            while step * Fraction(self.rows.px) >= 7 and inner < beat + length:
                if 0 < inner < bar.length:
                    self._line(row, bar.start + inner, 0.6, "faint_line")
                inner += step
            beat, number = beat + length, number + 1

    def _note(self, row: Row, onset: Fraction, note: Note, from_row_before: bool = False) -> None:
        end = min(onset + note.duration, row.end)
        start = max(onset, row.start)
        left, right = self.rows.x(row, start), self.rows.x(row, end)
        y = self.rows.lane_y(row, note.string or FREE)
        painter, theme = self.painter, self.theme
        box = QRectF(left + 1, y - 9, max(right - left - 2, _STUB_PX), 18)
        if "grace" in note.marks:
            box = box.adjusted(0, 3, 0, -3)
        muted = "palm-mute" in note.marks
        painter.setPen(QPen(theme.colour("fret"), 1.2))
        painter.setBrush(theme.colour("raised"))
        painter.drawRoundedRect(box, _RADIUS, _RADIUS)
        if muted:
            painter.setBrush(QBrush(theme.colour("soft"), Qt.BrushStyle.BDiagPattern))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRoundedRect(box, _RADIUS, _RADIUS)
        if from_row_before:
            return
        name = str(note.fret) if note.fret is not None and note.string else note_name(note.pitch)
        name = "x" if "dead" in note.marks else name
        attack = _ATTACK_SIGNS["slide"] if note.slid_to else ""
        attack += _ATTACK_SIGNS.get(note.attack or "", "")
        size = 15 if box.width() >= _ROOMY_PX or len(name) + len(attack) < 3 else 12
        painter.setFont(font(size, "heavy"))
        wide = painter.fontMetrics().horizontalAdvance(name)
        x = box.left() + 3
        if attack:
            painter.setFont(font(SMALL, "strong"))
            painter.setPen(theme.colour("pick"))
            painter.drawText(QPointF(x - 1, y + 5), attack)
            x += painter.fontMetrics().horizontalAdvance(attack)
            painter.setFont(font(size, "heavy"))
        if muted:
            painter.setBrush(theme.colour("raised"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRect(QRectF(x - 1, y - 8, wide + 2, 16))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(x, y + 6), name)
        self._signs(note, x + wide + 2, box.right(), y)

    def _signs(self, note: Note, x: float, right: float, y: float) -> None:
        """What else the note says, as far as there is room: bend, marks, then stroke and finger pinned to it."""
        painter = self.painter
        arrow = "⇡" if "prebend" in note.marks else "↑"
        words = [f"{arrow}{note.bend:g}" if note.bend else arrow] if "bend" in note.marks else []
        words += ["↓"] if "release" in note.marks else []
        words += [sign for mark, sign in _MARK_SIGNS.items() if mark in note.marks]
        words += [f"?{note.fret + note.doubt if note.fret is not None else ''}"] if note.doubt else []
        words += ["\N{RIGHT DOUBLE QUOTATION MARK}"] if note.words else []
        painter.setFont(font(SMALL, "strong"))
        painter.setPen(self.theme.colour("soft"))
        text = " ".join(words)
        if text:
            if "palm-mute" in note.marks:
                wide = painter.fontMetrics().horizontalAdvance(text)
                painter.fillRect(QRectF(x - 1, y - 8, wide + 2, 16), self.theme.colour("raised"))
            painter.drawText(QPointF(x, y + 5), text)
            x += painter.fontMetrics().horizontalAdvance(text) + 4
        if note.stroke:
            stroke_glyph(painter, self.theme.colour("pick"), QPointF(x + 6, y), note.stroke, 11)
            x += 15
        if note.finger is not None:
            painter.setFont(font(SMALL, "strong"))
            painter.setPen(self.theme.colour("fret"))
            painter.drawText(QPointF(x, y - 1), note.finger)

    def _carried(self, row: Row) -> None:
        """What began in the row above and still sounds."""
        for event in self.phrase.events:
            if event.onset >= row.start:
                break
            for note in event.notes:
                if event.onset + note.duration > row.start:
                    self._note(row, event.onset, note, from_row_before=True)

    def _pen(self, pen: Pen, focused: bool) -> None:
        row = self.rows.row_of(pen.at)
        left = self.rows.x(row, pen.at)
        wide = max(float(pen.length) * self.rows.px, 12.0)
        height = FREE_LANE if pen.string == FREE else LANE
        box = QRectF(left, self.rows.lane_y(row, pen.string) - height / 2 + 1, wide, height - 2)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        style = Qt.PenStyle.SolidLine if focused else Qt.PenStyle.DashLine
        self.painter.setPen(QPen(self.theme.colour("hurt" if focused else "soft"), 2.2, style))
        self.painter.drawRoundedRect(box, _RADIUS, _RADIUS)


def _metre_words(metre: Metre) -> str:
    groups = f" ({'+'.join(map(str, metre.groups))})" if metre.groups else ""
    return f"{metre}{groups}"
