"""One's own instrument: its strings and its measures, taken with a ruler, kept like a player, exported and imported."""

from __future__ import annotations

from dataclasses import fields, replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QWidget,
)

from dromic import presets
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_number
from dromic.store.instrument_shelf import SUFFIX, InstrumentShelf, instrument_bytes
from dromic.store.saving import save

_LABELS = {
    "scale_mm": "Scale length", "frets": "Frets", "nut_spacing_mm": "String to string at the nut",
    "bridge_spacing_mm": "String to string at the bridge", "pick_from_bridge_mm": "The pick's place, from the bridge",
    "body_fret": "The neck meets the body at fret", "action_mm": "Action over the twelfth fret",
}  # fmt: skip
_WIDE = 420


class InstrumentDialog(QDialog):
    """Shows an instrument; `chosen` carries one to be taken for the phrase."""

    chosen = pyqtSignal(object)

    def __init__(self, instrument: Instrument, shelf: InstrumentShelf, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shelf, self.instrument = shelf, instrument
        self.setWindowTitle("Your own instrument")
        self.setMinimumWidth(_WIDE)
        self.kept, self.label, self.tuning, self.said = QComboBox(), QLineEdit(), QLineEdit(), QLabel()
        self.said.setWordWrap(True)
        self.kept.setAccessibleName("instruments kept")
        self.numbers: dict[str, QDoubleSpinBox] = {}
        form = QFormLayout(self)
        form.addRow("Kept", self.kept)
        form.addRow("Name", self.label)
        form.addRow("Strings, low to high", self.tuning)
        for spec in fields(Instrument):
            if spec.name in _LABELS:
                box = QDoubleSpinBox()
                whole = spec.metadata["unit"] != "mm"
                box.setDecimals(0 if whole else 1)
                box.setRange(spec.metadata["low"], spec.metadata["high"])
                box.setSuffix("" if whole else " mm")
                box.setToolTip(spec.metadata["what"])
                box.setAccessibleName(_LABELS[spec.name].lower())
                self.numbers[spec.name] = box
                form.addRow(_LABELS[spec.name], box)
        self.take, self.keep, self.drop = (
            QPushButton("Take it for this phrase"),
            QPushButton("Keep"),
            QPushButton("Forget"),
        )
        self.export, self.bring = QPushButton("Export…"), QPushButton("Import…")
        row = QHBoxLayout()
        for button, what in (
            (self.take, self._take), (self.keep, self._keep), (self.drop, self._drop), (self.export, self._export),
            (self.bring, self._import),
        ):  # fmt: skip
            button.clicked.connect(lambda _, what=what: self._try(what))
            row.addWidget(button)
        form.addRow(row)
        form.addRow(self.said)
        self.take.setDefault(True)
        self.kept.activated.connect(lambda _: self.show_instrument(self.kept.currentData()))
        self._list("")
        self.show_instrument(instrument)

    def show_instrument(self, instrument: Instrument | None) -> None:
        """Its measures, to be changed."""
        if instrument is None:
            return
        self.instrument = instrument
        self.label.setText(instrument.label)
        self.tuning.setText(",".join(instrument.tuning_names))
        for name, box in self.numbers.items():
            box.setValue(getattr(instrument, name))

    def made(self) -> Instrument:
        """The instrument as it stands in the boxes; DromicError for what cannot be."""
        tuning = tuple(note_number(n) for n in self.tuning.text().replace(" ", "").split(","))
        measures: dict[str, Any] = {
            name: int(box.value()) if not box.decimals() else round(box.value(), box.decimals())
            for name, box in self.numbers.items()
        }
        label = self.label.text().strip()
        if not label:
            raise DromicError("an instrument needs a name; write one")
        return replace(self.instrument, label=label, tuning=tuning, **measures)

    def _list(self, chosen: str) -> None:
        self.kept.clear()
        found = self.shelf.instruments()
        self.kept.addItem("none yet" if not found else "as it stands", None)
        for name, one in found.items():
            self.kept.addItem(one.label, one)
            if name == chosen:
                self.kept.setCurrentIndex(self.kept.count() - 1)
        self.said.setText(" ".join(self.shelf.notices))

    def _try(self, what: object) -> None:
        assert callable(what)
        try:
            what()
        except DromicError as error:
            self.said.setText(str(error))

    def _take(self) -> None:
        self.chosen.emit(self.made())
        self.accept()

    def _keep(self) -> None:
        made = self.made()
        self._list(self.shelf.put(made))
        self.said.setText(f"{made.label} is kept")

    def _drop(self) -> None:
        one = self.kept.currentData()
        if not isinstance(one, Instrument):
            raise DromicError("choose one that is kept first")
        self.shelf.drop(one.name)
        self._list("")
        self.said.setText(f"{one.label} is forgotten; it stays in phrases that are played on it")

    def _export(self) -> None:
        made = self.made()
        name, _ = QFileDialog.getSaveFileName(self, "Export the instrument", f"{made.label}{SUFFIX}", f"*{SUFFIX}")
        if name:
            path = Path(name)
            save(path if path.suffix else path.with_suffix(SUFFIX), instrument_bytes(made))
            self.said.setText(f"Exported to {path.name}")

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Import an instrument", "", f"*{SUFFIX}")
        if name:
            one = presets.instrument_from_file(Path(name))
            self.show_instrument(one)
            self.said.setText(f"{one.label} is read; keep it, or take it for this phrase")
