"""The bar that plays: start and stop, how fast, clicks, a bar counted in, round and round; and what it is playing on."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QSpinBox, QWidget

from dromic.app.audio.tape_worker import TapeWorker
from dromic.app.kit.theme import relook
from dromic.core.music.phrase import Phrase

if TYPE_CHECKING:
    from dromic.app.audio.output import Output
    from dromic.core.editing.edit import Span
    from dromic.sound.render import Rendering
    from dromic.sound.tape import Tape

FOLLOW_MS = 30
SLOWEST = 20
"""Slowest playing, per cent of the phrase's tempo."""
FASTEST = 200
"""Fastest playing, per cent of the phrase's tempo."""
Source = Callable[[], "tuple[Phrase, Span | None]"]


class Transport(QWidget):
    """Renders what its source gives and plays it; says where it is, as time written in the phrase."""

    moved = pyqtSignal(object)
    """the written time that sounds, None when it stops"""
    noticed = pyqtSignal(str, bool)

    def __init__(self, source: Source, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.source = source
        self.output: Output | None = None
        self.rendering: Rendering | None = None
        self.play_button = QPushButton("Play")
        self.speed = QSpinBox()
        self.click, self.count_in, self.loop = QCheckBox("Click"), QCheckBox("Count in"), QCheckBox("Round and round")
        self.words, self.where = QLabel(), QLabel()
        self.speed.setRange(SLOWEST, FASTEST)
        self.speed.setValue(100)
        self.speed.setSingleStep(5)
        self.speed.setSuffix(" % of the tempo")
        self.speed.setAccessibleName("speed")
        self.speed.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.play_button.setToolTip(
            "Play or stop (F5; Space in the grid and the chart). Plays the selection if there is one"
        )
        self.play_button.setMinimumWidth(80)
        self.where.setObjectName("soft")
        self.words.setObjectName("soft")
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 2, 10, 6)
        row.setSpacing(10)
        for widget in (self.play_button, self.speed, self.click, self.count_in, self.loop, self.words):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.where)
        self._be_quiet(True)
        self.worker = TapeWorker(self)
        self.worker.begun.connect(self._sounds)
        self.worker.refused.connect(self._was_refused)
        self.play_button.clicked.connect(self.toggle)
        self.speed.valueChanged.connect(lambda _: self._restart())
        self.loop.toggled.connect(lambda _: self._restart())
        self.click.toggled.connect(lambda _: self._restart())
        self._follow = QTimer(self)
        self._follow.setInterval(FOLLOW_MS)
        self._follow.timeout.connect(self._look)
        self._phrase: Phrase | None = None

    def _be_quiet(self, quiet: bool) -> None:
        """Until it plays, the bar keeps out of the way of what is looked at."""
        for part in (self.speed, self.click, self.count_in, self.loop):
            relook(part, "quiet" if quiet else "loud")

    @property
    def playing(self) -> bool:
        return self._follow.isActive()

    def toggle(self) -> None:
        if self.playing:
            self.stop()
        else:
            self.play()

    def play(self) -> None:
        """Render on the worker's thread, then sound."""
        from dromic.sound.render import RenderRequest, render
        from dromic.sound.tape import Tape

        phrase, span = self.source()
        self._phrase = phrase
        tempo = phrase.tempo * self.speed.value() / 100
        asked = RenderRequest(tempo, span, self.click.isChecked(), self.count_in.isChecked(), not self.loop.isChecked())
        self.play_button.setText("…")

        def make() -> tuple[Rendering, Tape]:
            made = render(phrase, asked)
            return made, Tape(made.length, made.rate, made.pieces())

        self.worker.begin(make)

    def _sounds(self, rendering: Rendering, tape: Tape) -> None:
        from dromic.app.audio.output import best_output

        self.rendering = rendering
        if self.output is None:
            self.output = best_output(self)
            self.output.ended.connect(self.stop)
        self.output.start(tape, self.loop.isChecked())
        self.where.setText(self.output.label)
        self.play_button.setText("Stop")
        self._be_quiet(False)
        self._follow.start()

    def _was_refused(self, sentence: str) -> None:
        self.play_button.setText("Play")
        self.noticed.emit(sentence, False)

    def _restart(self) -> None:
        if self.playing:
            self.stop()
            self.play()

    def stop(self) -> None:
        self.worker.cancel()
        self._follow.stop()
        if self.output is not None:
            self.output.stop()
        self.play_button.setText("Play")
        self._be_quiet(True)
        self.words.setText("")
        self.moved.emit(None)

    def _look(self) -> None:
        if self.output is None or self.rendering is None or self._phrase is None:
            return
        at = self.rendering.at(self.output.seconds())
        self.moved.emit(at)
        self.words.setText("counting in" if at is None else self._bar_words(at))

    def _bar_words(self, at: Fraction) -> str:
        assert self._phrase is not None
        bar = self._phrase.bars[self._phrase.bar_at(at)]
        beat, _, _ = bar.metre.beat_at(bar.offset_of(at))
        return f"bar {bar.number}, beat {beat + 1}"

    def close_down(self) -> None:
        """The window closes."""
        self.stop()
        self.worker.close()
