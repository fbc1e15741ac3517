"""Setting up the input: what is recorded from, how loud it comes in, and the latency from playing to hearing, measured once."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from dromic.app.audio.latency import Latencies, LatencyMeasure
from dromic.core.listening.latency import Latency

_HOW = (
    "Eight clicks go out. Lay the microphone near the loudspeaker, lead the output back into the input, or clap along with "
    "them. How long each takes to be heard is taken off whatever you play against the click."
)
_WIDTH_PX = 460


class InputDialog(QDialog):
    """Measures when asked; what was measured is kept for this input."""

    def __init__(self, latencies: Latencies, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("The input")
        self.latencies, self.measure = latencies, LatencyMeasure(self)
        self.label, self.told, how = QLabel(self.measure.label), QLabel(), QLabel(_HOW)
        self.meter, self.begin, self.forget = QProgressBar(), QPushButton("Measure"), QPushButton("Forget it")
        done = QPushButton("Done")
        self.label.setObjectName("section")
        for words in (how, self.told):
            words.setWordWrap(True)
        self.meter.setTextVisible(False)
        self.meter.setAccessibleName("level of the input")
        self.setMinimumWidth(_WIDTH_PX)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        row = QHBoxLayout()
        for button in (self.begin, self.forget):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(done)
        whole = QVBoxLayout(self)
        for part in (self.label, self.meter, how, self.told):
            whole.addWidget(part, 0, Qt.AlignmentFlag.AlignTop)
        whole.addLayout(row)
        self.begin.clicked.connect(self._begin)
        self.forget.clicked.connect(self._forget)
        done.clicked.connect(self.accept)
        self.measure.measured.connect(self._measured)
        self.measure.failed.connect(self._failed)
        self.measure.level.connect(lambda level: self.meter.setValue(round(100 * level)))
        self.finished.connect(lambda _: self.measure.close())
        self._show()

    def _show(self) -> None:
        found = self.latencies.of(self.measure.label)
        self.forget.setEnabled(found is not None)
        self.begin.setEnabled(self.measure.input is not None)
        if self.measure.input is None:
            self.told.setText("Plug one in and open this again; until then takes come from files.")
        elif found is None:
            self.told.setText("Not measured yet: passes are judged by their own time, not against the click's.")
        else:
            self.told.setText(f"The latency is {1000 * found:.0f} ms.")

    def _begin(self) -> None:
        self.begin.setEnabled(False)
        self.told.setText("Clicking…")
        self.measure.start()

    def _measured(self, latency: object) -> None:
        assert isinstance(latency, Latency)
        self.latencies.keep(self.measure.label, latency.seconds)
        self._show()
        self.told.setText(
            f"{self.told.text()} Sure to {1000 * latency.sure_s:.0f} ms; {latency.heard} of {latency.of} clicks agree (an estimate)."
        )

    def _failed(self, sentence: str) -> None:
        self._show()
        self.told.setText(f"Not measured: {sentence}.")

    def _forget(self) -> None:
        self.latencies.keep(self.measure.label, None)
        self._show()
