"""What a drill sounds like while it runs: a bar counted in, then its notes with the click, round and round."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import chain
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from dromic.app.audio.tape_worker import TapeWorker
from dromic.core.music.phrase import Phrase

if TYPE_CHECKING:
    from dromic.app.audio.output import Output
    from dromic.sound.render import Rendering
    from dromic.sound.tape import Tape


_WAIT_MS = 20
"""How often it is looked whether the listener hears, ms."""
_MOST_WAITS = 50
"""How many times at most: then the drill begins all the same."""


class DrillSound(QObject):
    """Renders on a worker's thread; another tempo or drill takes the place of the one that sounds."""

    noticed = pyqtSignal(str, bool)
    started = pyqtSignal()
    """a drill sounds from its front, counted in"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.output: Output | None = None
        self.rendering: Rendering | None = None
        self.loop: Tape | None = None
        """what goes round"""
        self.part_audible = True
        """whether the plan's own part is heard, beside the click"""
        self.divide, self.gaps, self.groove = 1, False, False
        """clicks to a beat; whether they fall silent in every other round, to try the steadiness; drums instead of clicks"""
        self.worker = TapeWorker(self)
        self.worker.begun.connect(self._was_begun)
        self.worker.refused.connect(lambda words: self.noticed.emit(words, False))
        self._asked: tuple[Phrase, float, bool, int, bool, bool] | None = None
        self.ready: Callable[[], bool] = lambda: True
        """whether whoever listens hears already: the first click is not to be lost"""
        self._waited = 0
        self._wait = QTimer(self)
        self._wait.setInterval(_WAIT_MS)
        self._wait.timeout.connect(self._begin_if_ready)

    def play(self, phrase: Phrase, tempo: float) -> None:
        """Sound a drill; nothing changes where it sounds already."""
        asked = (phrase, tempo, self.part_audible, self.divide, self.gaps, self.groove)
        if asked == self._asked:
            return
        self._asked = asked

        def make() -> tuple[Rendering, Tape]:
            from dromic.sound.render import RenderRequest, render
            from dromic.sound.tape import Tape

            request = RenderRequest(
                tempo, None, click=True, count_in=True, tail=False, notes=asked[2], divide=asked[3], groove=asked[5]
            )
            rounds = [render(phrase, request)]
            if asked[4]:
                rounds.append(render(phrase, replace(request, click=False, groove=False)))
            pieces = chain.from_iterable(one.pieces() for one in rounds)
            return rounds[0], Tape(sum(one.length for one in rounds), rounds[0].rate, pieces)

        self.worker.begin(make)

    def stop(self) -> None:
        """Silence."""
        self._asked, self.loop = None, None
        self._wait.stop()
        self.worker.cancel()
        if self.output is not None:
            self.output.stop()

    def seconds(self) -> float:
        """Where the round that sounds is, from its count-in on."""
        if self.output is None or self._asked is None or self.rendering is None:
            return 0.0
        return self.output.seconds() % self.rendering.music_s

    def _was_begun(self, rendering: Rendering, tape: Tape) -> None:
        self.rendering, self.loop = rendering, tape
        self._waited = 0
        self._wait.start()
        self._begin_if_ready()

    def _begin_if_ready(self) -> None:
        from dromic.app.audio.output import best_output

        self._waited += 1
        if self.loop is None or not (self.ready() or self._waited > _MOST_WAITS):
            return
        self._wait.stop()
        if self.output is None:
            self.output = best_output(self)
        self.output.start(self.loop, True)
        self.started.emit()

    def close(self) -> None:
        """The window closes."""
        self.stop()
        self.worker.close()
