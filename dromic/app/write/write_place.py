"""The Write place: the grid, the quick line below it, the phrase's own facts and the list of keys beside it."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QShowEvent
from PyQt6.QtWidgets import QLabel, QSplitter, QVBoxLayout, QWidget

from dromic import presets
from dromic.app.book.note_dialog import ask_words
from dromic.app.book.open_book import OpenBook
from dromic.app.kit.theme import Theme
from dromic.app.write.grid_view import GridView
from dromic.app.write.key_list import KeyList
from dromic.app.write.key_map import KeyMap
from dromic.app.write.line_view import LineView
from dromic.app.write.pen import FREE, Pen
from dromic.app.write.phrase_panel import PhrasePanel
from dromic.app.write.write_commands import COMMAND, SHAPES, WORDS, put_fret, put_name
from dromic.core.editing import edit
from dromic.core.editing.shapes import FRETS, moved
from dromic.core.harmony.chords import chord_at
from dromic.core.harmony.musical_keys import Key, key_of, likely_key, place_words
from dromic.core.music.phrase import Bar, Phrase
from dromic.core.music.songbook import empty_phrase
from dromic.core.reports.counts.figures import figures
from dromic.core.reports.counts.statistics import stays_of
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.note_lengths import length_words
from dromic.core.values.pitch import note_name
from dromic.formats.table import kind_of_text, read_text
from dromic.formats.text.quick_line import LineFault, LineMemo, parse, write
from dromic.formats.text.tab_text import looks_like_tab, read_block

SIDE_WIDTH = 330


class WritePlace(QWidget):
    """Writes the phrase that stands open. Grid and line are two views of it."""

    noticed = pyqtSignal(str, bool)

    def __init__(self, open_book: OpenBook, settings: QSettings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.open_book = open_book
        self.pen = Pen(string=open_book.instrument.strings)
        self._from_line = False
        self._memo = LineMemo()
        self._stale = self._fresh = False
        """whether the phrase has gone on while the place was not seen"""
        self._likely: Key | None = None
        self.keys = KeyMap(settings)
        self.grid, self.line, self.panel = GridView(self.keys), LineView(), PhrasePanel()
        self.key_list, self.status = KeyList(self.keys), QLabel()
        self._build()
        self._connect()
        self.show_session(fresh=True)

    def _build(self) -> None:
        self.status.setMargin(8)
        self.status.setWordWrap(True)
        self.status.setAccessibleName("where the pen is")
        upper = QWidget()
        column = QVBoxLayout(upper)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.grid, 1)
        column.addWidget(self.status)
        left = QSplitter(Qt.Orientation.Vertical)
        left.addWidget(upper)
        left.addWidget(self.line)
        left.setStretchFactor(0, 1)
        left.setSizes([560, 150])
        left.setChildrenCollapsible(False)
        side = QWidget()
        side.setObjectName("side")
        side.setFixedWidth(SIDE_WIDTH)
        beside = QVBoxLayout(side)
        beside.setContentsMargins(12, 4, 12, 4)
        beside.addWidget(self.panel)
        heading = QLabel("Keys (F1 finds one)")
        heading.setObjectName("section")
        beside.addWidget(heading)
        beside.addWidget(self.key_list, 1)
        whole = QSplitter(Qt.Orientation.Horizontal)
        whole.addWidget(left)
        whole.addWidget(side)
        whole.setStretchFactor(0, 1)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(whole)
        self.setFocusProxy(self.grid)

    def _connect(self) -> None:
        self.open_book.opened.connect(self._was_opened)
        self.open_book.phrase_changed.connect(self._was_changed)
        self.grid.commanded.connect(self.run)
        self.key_list.commanded.connect(self._run_from_list)
        self.grid.fret_typed.connect(self.type_fret)
        self.grid.name_typed.connect(self.type_name)
        self.grid.pen_moved.connect(self.move_pen)
        self.grid.text_command.connect(self.run_text)
        self.line.typed.connect(self._line_typed)
        self.panel.changed.connect(lambda phrase, words: self._edit(phrase, self.pen, words))
        self.panel.refused.connect(lambda sentence: self.noticed.emit(sentence, False))

    def _was_opened(self) -> None:
        self._fresh = True
        self._was_changed()

    def _was_changed(self) -> None:
        """Shown at once while the place is seen, else when it is next."""
        self._stale = True
        if self.isVisible():
            self.catch_up()

    def catch_up(self) -> None:
        """Show what has changed since the place was last seen."""
        if self._stale:
            self.show_session(self._fresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.catch_up()

    def show_session(self, fresh: bool) -> None:
        """The phrase on every view; a `fresh` one is begun at its start."""
        self._stale = self._fresh = False
        phrase, instrument = self.open_book.phrase, self.open_book.instrument
        lanes = instrument.strings
        first = (phrase.events[0].notes[0].string or FREE) if phrase.events else lanes
        self.pen = Pen(string=min(first, lanes), base=self.pen.base) if fresh else self.pen.fitted(phrase, lanes)
        self.grid.show_phrase(phrase, instrument, self.pen)
        if not self._from_line:
            self.line.show_line(write(phrase, self._memo))
        self._likely = likely_key(phrase)  # once a phrase, not at every step of the pen
        self._show_words()

    def _show_pen(self) -> None:
        self.grid.show_pen(self.pen)
        self._show_words()

    def _show_words(self) -> None:
        """What the panel and the line under the grid say of the place of the pen."""
        phrase, instrument = self.open_book.phrase, self.open_book.instrument
        self.panel.show_phrase(phrase, instrument, self.pen, self._likely)
        key = key_of(phrase.key) if phrase.key else self._likely
        self.status.setText(where_words(phrase, self.pen, instrument, key))

    def move_pen(self, pen: Pen) -> None:
        self.pen = pen.fitted(self.open_book.phrase, self.open_book.instrument.strings)
        self._show_pen()

    def run(self, name: str) -> None:
        """Do one of the commands."""
        command, before = COMMAND[name], self.open_book.phrase
        if name == WORDS:
            self._ask_words()
            return
        before_span = self.pen.span(before)
        try:
            made, pen = command.act(before, self.pen, self.open_book.instrument)
        except DromicError as error:
            self.noticed.emit(str(error), False)
            return
        self._edit(made, pen, command.label.lower())
        if name in ("fret-up", "fret-down") and (opened := edit.open_notes(before, self.pen.span(before))):
            count = f"{opened} open string{'s are' if opened > 1 else ' is'}"
            self.noticed.emit(f"{count} fretted now: the shape needs a finger more there", True)
        if name in SHAPES:
            breaks = moved(before, before_span, SHAPES[name], 0, FRETS, self.open_book.instrument).breaks
            if breaks:
                self.noticed.emit("; ".join(breaks), True)

    def _ask_words(self) -> None:
        try:
            ask_words(self.open_book, self.pen.at, self.pen.under(self.open_book.phrase), self)
        except DromicError as error:
            self.noticed.emit(str(error), False)

    def _run_from_list(self, name: str) -> None:
        self.run(name)
        self.grid.setFocus()

    def type_fret(self, fret: int) -> None:
        try:
            made = put_fret(self.open_book.phrase, self.pen, self.open_book.instrument, fret)
        except DromicError as error:
            self.noticed.emit(str(error), False)
            return
        # two digits typed at one place are one step back
        self._edit(made, self.pen, "fret", merge=("fret", self.pen.at, self.pen.string))

    def type_name(self, letter: str, beside: bool) -> None:
        self._edit(
            put_name(self.open_book.phrase, self.pen, self.open_book.instrument, letter, beside), self.pen, "note"
        )

    def _edit(self, phrase: Phrase, pen: Pen, words: str, merge: object = None) -> None:
        self.noticed.emit("", True)
        self.pen = pen
        if phrase == self.open_book.phrase:
            self.move_pen(pen)
        else:
            self.open_book.edit(phrase, words, merge)

    def _line_typed(self, text: str) -> None:
        """What was typed becomes the phrase; a fault is shown and changes nothing."""
        try:
            found = parse(text, self.open_book.phrase, self.open_book.instrument)
        except LineFault as fault:
            self.line.show_fault((fault.start, fault.end, fault.what))
            return
        self.line.show_fault(None, found.remarks)
        if found.phrase != self.open_book.phrase:
            self._from_line = True  # what is being typed is not put in other words
            self.open_book.edit(found.phrase, "quick line", merge="line")  # typing on is one step back
            self._from_line = False

    def run_text(self, name: str) -> None:
        """Copy, cut or paste: the clipboard holds a passage as a quick line, so that it can be read anywhere."""
        board = QGuiApplication.clipboard()
        assert board is not None
        if name == "paste":
            self.paste(board.text())
            return
        span = self.pen.selection or self.pen.passage(self.open_book.phrase)
        board.setText(line_of(self.open_book.phrase, span))
        if name == "cut":
            self._edit(edit.erase(self.open_book.phrase, span), replace(self.pen, anchor=None), "cut")

    def paste(self, text: str) -> None:
        """Put a passage at the pen, from a quick line, a block of tablature, an ABC tune or a score as text."""
        base = self.open_book.phrase
        try:
            found, notices = passage_of(text, base, self.open_book.instrument)
            clip = edit.copied(found, edit.Span(Fraction(0), found.end))
            made = edit.pasted(base, self.pen.at, clip)
        except DromicError as error:
            self.noticed.emit(f"The clipboard cannot be pasted: {error}", False)
            return
        self._edit(made, replace(self.pen, anchor=None).moved(made, self.pen.at + clip.length), "paste")
        if notices:
            self.noticed.emit("Pasted: " + "; ".join(notices), True)

    def find_key(self) -> None:
        self.key_list.search.setFocus()
        self.key_list.search.selectAll()

    def set_theme(self, theme: Theme) -> None:
        self.grid.set_theme(theme)
        self.line.set_theme(theme)


def line_of(phrase: Phrase, span: edit.Span) -> str:
    """A passage as a quick line of one bar of its own length."""
    clip = edit.copied(phrase, span)
    first = phrase.bars[0]
    number = 0 if span.length < first.metre.length else 1
    bar = Bar(number, Fraction(0), span.length, first.metre)
    alone = replace(phrase, bars=(replace(bar, lead=bar.usual_lead),), sections=(), events=())
    return write(edit.with_sounds(alone, clip.sounds))


def passage_of(text: str, base: Phrase, instrument: Instrument) -> tuple[Phrase, tuple[str, ...]]:
    """The phrase a pasted text holds, and what was assumed."""
    kind = kind_of_text(text)
    if kind is not None:
        found = read_text(text, kind)
        return found, found.notices
    if looks_like_tab(text):
        found = read_block(text, base, instrument)
        return found, found.notices
    parsed = parse(" ".join(text.split()), base, instrument)
    return parsed.phrase, parsed.remarks


def phrase_of_text(text: str) -> Phrase:
    """A phrase of its own from a text of any kind that can be pasted. Raises DromicError where it holds none."""
    if not text.strip():
        raise DromicError("it holds no text; copy some first")
    usual = presets.usual_instrument()
    found, notices = passage_of(text, empty_phrase("Pasted", usual), usual)
    if not found.events:
        raise DromicError("it holds no notes; copy a tablature, a tune or a quick line")
    return replace(found, notices=tuple(dict.fromkeys((*found.notices, *notices))))


def where_words(phrase: Phrase, pen: Pen, instrument: Instrument, key: Key | None) -> str:
    """Where the pen is, and what players count by hand there."""
    index = phrase.bar_at(pen.at)
    bar = phrase.bars[index]
    offset = bar.offset_of(pen.at)
    beat, start, _ = bar.metre.beat_at(offset)
    rest = offset - start
    place = f"Bar {bar.number}, beat {beat + 1}" + (f" + {rest}" if rest else "")
    lane = "notes without a string" if pen.string == FREE else f"string {pen.string}"
    if pen.string != FREE:
        lane += f" ({note_name(instrument.open_pitch(pen.string))})"
    words = [f"{place}  ·  {lane}  ·  {pen.length_words}"]
    note = pen.under(phrase)
    if note is not None:
        at = next(number for number, e in enumerate(phrase.events) if e.onset == pen.at)
        placed = [place_words(note.pitch, key, chord_at(phrase, at))] if key else []
        words.append(", ".join([note_name(note.pitch), *placed, *_note_words(phrase, pen)]))
    inside = [e for e in phrase.events if e.bar == index]
    if inside:
        stays = stays_of(inside)
        counted = f"{' + '.join(map(str, stays))} = {sum(stays)}" if len(stays) > 1 else str(sum(stays, 0))
        sums = [f"bar {bar.number} holds {counted} notes by stay on a string"] if stays else []
        named = [f.words for f in figures(phrase, index)]
        words.append("; ".join([*sums, *dict.fromkeys(named)]))
    return "      ".join(w for w in words if w)


def _note_words(phrase: Phrase, pen: Pen) -> list[str]:
    note = pen.under(phrase)
    assert note is not None
    stated = [w for w in (note.attack, note.stroke) if w]
    stated += [f"finger {note.finger}"] if note.finger else []
    stated += [f"bend {note.bend:g}"] if note.bend else []
    stated += [f"doubtful, or {note_name(note.pitch + note.doubt)}"] if note.doubt else []
    stated += [f"\N{LEFT DOUBLE QUOTATION MARK}{note.words}\N{RIGHT DOUBLE QUOTATION MARK}"] if note.words else []
    return [*stated, *sorted(note.marks - ({"bend"} if note.bend else set())), f"sounds {length_words(note.duration)}"]
