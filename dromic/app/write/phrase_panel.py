"""What belongs to a phrase as a whole: title, instrument, tempo, swing; and to the bars under the pen: metre, section."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QMessageBox,
    QPushButton,
    QSpinBox,
    QWidget,
)

from dromic import presets
from dromic.app.write.instrument_dialog import InstrumentDialog
from dromic.app.write.pen import Pen
from dromic.core.editing import edit_bars
from dromic.core.editing.edit import retuned
from dromic.core.harmony.musical_keys import Key, key_of
from dromic.core.music.octaves import AS_FILED, GUITAR, read_as
from dromic.core.music.phrase import Phrase, Swing
from dromic.core.reports.explain import many
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.note_lengths import length_of, word_of
from dromic.store.folders import instruments_folder
from dromic.store.instrument_shelf import InstrumentShelf

_METRE = re.compile(r"\s*(\d{1,2})\s*/\s*(\d{1,2})\s*(?:\(?\s*(\d+(?:\s*\+\s*\d+)+)\s*\)?)?\s*")
SWINGS: tuple[tuple[str, Swing], ...] = (
    ("Straight", Swing()),
    ("Eighths 3 : 2", Swing(Fraction(1, 2), Fraction(3, 2))),
    ("Eighths 2 : 1", Swing(Fraction(1, 2), Fraction(2))),
    ("Eighths 3 : 1", Swing(Fraction(1, 2), Fraction(3))),
    ("Sixteenths 3 : 2", Swing(Fraction(1, 4), Fraction(3, 2))),
    ("Sixteenths 2 : 1", Swing(Fraction(1, 4), Fraction(2))),
)
OCTAVES = (("As the file has it", AS_FILED), ("An octave below, for guitar", GUITAR))
OWN, MEASURED = "own", "measured"


def metre_of(text: str) -> Metre:
    """A metre as it is typed: 4/4, or 7/8 (2+2+3)."""
    match = _METRE.fullmatch(text)
    if match is None:
        raise DromicError(f"{text!r} is not a metre; write it as 4/4, or 7/8 (2+2+3)")
    groups = tuple(int(g) for g in match[3].replace(" ", "").split("+")) if match[3] else ()
    return Metre(int(match[1]), int(match[2]), groups)


class PhrasePanel(QWidget):
    """A thin view: shows a phrase and the pen's bar, says what phrase a change makes of it."""

    changed = pyqtSignal(object, str)
    """the changed phrase, and what was done"""
    refused = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.phrase: Phrase | None = None
        self._shown_instrument = 0
        self.instruments_folder: Path | None = None
        """where own instruments are kept; None for the user's folder"""
        self.pen = Pen()
        self.title, self.tuning, self.metre = QLineEdit(), QLineEdit(), QLineEdit()
        self.section, self.pickup, self.key = QLineEdit(), QLineEdit(), QLineEdit()
        self.instrument, self.swing, self.octave = QComboBox(), QComboBox(), QComboBox()
        self.capo, self.tempo = QSpinBox(), QDoubleSpinBox()
        self.said = QPushButton()
        self.keep_frets = QCheckBox("Frets stay when the tuning changes")
        self.keep_frets.setChecked(True)
        for name, preset in presets.instruments().items():
            self.instrument.addItem(preset.label, name)
        self.instrument.addItem("Own tuning", OWN)
        self.instrument.addItem("Your own, measured…", MEASURED)
        self.instrument.setToolTip("One's own: scale, frets, spacings, strings and action, as you measure them")
        for words, how in OCTAVES:
            self.octave.addItem(words, how)
        self.octave.setToolTip("Guitar and bass music is written an octave above its sound, other tunes are not")
        for words, swing in SWINGS:
            self.swing.addItem(words, swing)
        self.capo.setRange(0, 12)
        self.capo.setPrefix("capo ")
        self.tempo.setRange(10, 1000)
        self.tempo.setDecimals(1)
        self.tempo.setSuffix(" quarters/min")
        self.tuning.setToolTip("Open strings, low to high: E2,A2,D3,G3,B3,E4 (4 to 9 of them)")
        self.metre.setToolTip("From the pen's bar to the next change: 4/4, or 7/8 (2+2+3)")
        self.key.setToolTip("D for major, Bm for minor; empty for the likeliest by the notes")
        self.section.setToolTip("Names the bars selected, or the pen's bar")
        self.pickup.setToolTip("Length of a first bar that is not full: q, e., 3/2; empty for none")
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        for n, (words, widget) in enumerate(self._rows()):
            label = QLabel(words)
            label.setBuddy(widget)
            widget.setAccessibleName(words.lower())
            grid.addWidget(label, n, 0)
            grid.addWidget(widget, n, 1)
        grid.addWidget(self.keep_frets, len(self._rows()), 0, 1, 2)
        self.said.clicked.connect(self._read_again)
        grid.addWidget(self.said, len(self._rows()) + 1, 0, 1, 2)
        grid.setColumnStretch(1, 1)
        for box, what in (
            (self.title, self._titled), (self.tuning, self._tuned), (self.metre, self._metred),
            (self.section, self._sectioned), (self.pickup, self._picked_up), (self.key, self._keyed),
        ):  # fmt: skip
            box.editingFinished.connect(lambda what=what: self._try(what))
        self.instrument.activated.connect(lambda _: self._try(self._chosen))
        self.swing.activated.connect(lambda _: self._try(self._swung))
        self.octave.activated.connect(lambda _: self._try(self._read))
        self.capo.valueChanged.connect(lambda _: self._try(self._tuned))
        self.tempo.valueChanged.connect(lambda _: self._try(self._timed))

    def _rows(self) -> tuple[tuple[str, QWidget], ...]:
        return (
            ("Title", self.title), ("Instrument", self.instrument), ("Octave", self.octave), ("Tuning", self.tuning),
            ("Capo", self.capo),
            ("Tempo", self.tempo), ("Swing", self.swing), ("Metre", self.metre), ("Key", self.key), ("Pickup", self.pickup),
            ("Section", self.section),
        )  # fmt: skip

    def show_phrase(self, phrase: Phrase, instrument: Instrument, pen: Pen, likely: Key | None) -> None:
        self.phrase, self.pen = phrase, pen
        bar = phrase.bars[phrase.bar_at(pen.at)]
        first, _ = pen.bars(phrase)
        section = next((s for s in phrase.sections if s.first <= first <= s.last), None)
        groups = f" ({'+'.join(map(str, bar.metre.groups))})" if bar.metre.groups else ""
        named = self.instrument.findData(presets.name_of(instrument))
        swing = next((n for n, (_, s) in enumerate(SWINGS) if s.ratio == phrase.swing.ratio and (
            s.ratio == 1 or s.unit == phrase.swing.unit)), -1)  # fmt: skip
        blockers = [QSignalBlocker(w) for _, w in self._rows()]
        for box, text in (
            (self.title, phrase.title), (self.tuning, ",".join(instrument.tuning_names)),
            (self.metre, f"{bar.metre}{groups}"), (self.key, phrase.key or ""), (self.section, section.name if section else ""),
            (self.pickup, word_of(phrase.bars[0].length) if phrase.bars[0].lead else ""),
        ):  # fmt: skip
            if not box.hasFocus() or not box.isModified():
                box.setText(text)
        self.key.setPlaceholderText(f"likely {likely.words}" if likely else "")
        own = self.instrument.findData(OWN)
        self.instrument.setItemText(own, instrument.label if presets.measured_otherwise(instrument) else "Own tuning")
        self._shown_instrument = named if named >= 0 and not presets.measured_otherwise(instrument) else own
        self.instrument.setCurrentIndex(self._shown_instrument)
        self.capo.setValue(instrument.capo)
        self.tempo.setValue(phrase.tempo)
        self.swing.setCurrentIndex(swing)
        self.octave.setCurrentIndex(self.octave.findData(phrase.read_as))
        self.said.setText(f"{many(len(phrase.notices), 'remark')} from reading the file…")
        self.said.setToolTip("What was left out, guessed or moved when the file was read")
        self.said.setVisible(bool(phrase.notices))
        del blockers

    def _try(self, what: Callable[[Phrase], tuple[Phrase, str]]) -> None:
        """Make a change and say it, or say why not and show what stands."""
        if self.phrase is None:
            return
        for box in (self.title, self.tuning, self.metre, self.section, self.pickup, self.key):
            box.setModified(False)
        try:
            made, words = what(self.phrase)
        except DromicError as error:
            self.refused.emit(str(error))
            return
        if made != self.phrase:
            self.changed.emit(made, words)

    def _titled(self, phrase: Phrase) -> tuple[Phrase, str]:
        return replace(phrase, title=self.title.text().strip() or "untitled"), "title"

    def _chosen(self, phrase: Phrase) -> tuple[Phrase, str]:
        name = self.instrument.currentData()
        if name == MEASURED:
            self.instrument.setCurrentIndex(self._shown_instrument)
            self.ask_instrument()
            return phrase, ""
        if name == OWN:
            self.tuning.setFocus()
            return phrase, ""
        instrument = presets.instruments()[name].with_capo(self.capo.value())
        return retuned(phrase, instrument, self.keep_frets.isChecked()), "instrument"

    def ask_instrument(self) -> InstrumentDialog:
        """Ask for the measures of the player's own instrument."""
        stated = self.phrase.instrument if self.phrase is not None else None
        shelf = InstrumentShelf(self.instruments_folder or instruments_folder())
        dialog = InstrumentDialog((stated or presets.usual_instrument()).with_capo(0), shelf, self)
        dialog.chosen.connect(lambda one: self._try(lambda phrase: self._played_on(phrase, one)))
        dialog.finished.connect(dialog.deleteLater)
        dialog.open()
        return dialog

    def _played_on(self, phrase: Phrase, instrument: Instrument) -> tuple[Phrase, str]:
        made = instrument.with_capo(self.capo.value())
        return retuned(phrase, made, self.keep_frets.isChecked()), f"played on {instrument.label}"

    def _tuned(self, phrase: Phrase) -> tuple[Phrase, str]:
        text = self.tuning.text().replace(" ", "")
        same = phrase.instrument is not None and ",".join(phrase.instrument.tuning_names) == text
        instrument = phrase.instrument if same and phrase.instrument else presets.instrument_named(text)
        instrument = instrument.with_capo(self.capo.value())
        return retuned(phrase, instrument, self.keep_frets.isChecked()), "tuning"

    def _timed(self, phrase: Phrase) -> tuple[Phrase, str]:
        return phrase.at_tempo(self.tempo.value()), "tempo"

    def _swung(self, phrase: Phrase) -> tuple[Phrase, str]:
        return replace(phrase, swing=self.swing.currentData()), "swing"

    def _read_again(self) -> None:
        """What the file brought, which was said when it was opened."""
        notices = self.phrase.notices if self.phrase is not None else ()
        box = QMessageBox(
            QMessageBox.Icon.NoIcon,
            "From reading the file",
            "\n\n".join(f"{s[:1].upper()}{s[1:]}." for s in notices),
            parent=self,
        )
        box.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()

    def _read(self, phrase: Phrase) -> tuple[Phrase, str]:
        return read_as(phrase, self.octave.currentData()), "octave"

    def _metred(self, phrase: Phrase) -> tuple[Phrase, str]:
        index = phrase.bar_at(self.pen.at)
        metre = metre_of(self.metre.text())
        return (phrase if phrase.bars[index].metre == metre else edit_bars.with_metre(phrase, index, metre)), "metre"

    def _keyed(self, phrase: Phrase) -> tuple[Phrase, str]:
        text = self.key.text().strip()
        return replace(phrase, key=key_of(text).name if text else None), "key"

    def _picked_up(self, phrase: Phrase) -> tuple[Phrase, str]:
        text = self.pickup.text().strip()
        now = phrase.bars[0].length if phrase.bars[0].lead else Fraction(0)
        length = length_of(text) if text else Fraction(0)
        return (phrase if now == length else edit_bars.with_pickup(phrase, length)), "pickup"

    def _sectioned(self, phrase: Phrase) -> tuple[Phrase, str]:
        first, last = self.pen.bars(phrase)
        name = self.section.text().strip()
        held = next((s for s in phrase.sections if s.first <= first <= s.last), None)
        if held is not None and self.pen.selection is None:
            first, last = held.first, held.last
        if (held.name if held else "") == name:
            return phrase, ""
        return edit_bars.with_section(phrase, first, last, name), "section"
