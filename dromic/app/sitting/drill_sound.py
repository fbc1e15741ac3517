"""What a drill sounds like while it runs: a bar counted in, then its notes with the click, round and round."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from dromic.app.kit.worker import Worker
from dromic.core.music.phrase import Phrase

if TYPE_CHECKING:
    from dromic.app.audio.output import Output
    from dromic.sound.render import Rendering
    from dromic.sound.string import Samples


class DrillSound(QObject):
    """Renders on a worker's thread; another tempo or drill takes the place of the one that sounds."""

    noticed = pyqtSignal(str, bool)
    started = pyqtSignal()
    """a drill sounds from its front, counted in"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.output: Output | None = None
        self.rendering: Rendering | None = None
        self.loop: Samples | None = None
        """what goes round"""
        self.part_audible = True
        """whether the plan's own part is heard, beside the click"""
        self.divide, self.gaps, self.groove = 1, False, False
        """clicks to a beat; whether they fall silent in every other round, to try the steadiness; drums instead of clicks"""
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_rendered)
        self.worker.refused.connect(lambda words: self.noticed.emit(words, False))
        self._asked: tuple[Phrase, float, bool, int, bool, bool] | None = None

    def play(self, phrase: Phrase, tempo: float) -> None:
        """Sound a drill; nothing changes where it sounds already."""
        asked = (phrase, tempo, self.part_audible, self.divide, self.gaps, self.groove)
        if asked == self._asked:
            return
        self._asked = asked

        def job(progress: object) -> object:
            from dromic.sound.render import RenderRequest, render

            request = RenderRequest(
                tempo, None, click=True, count_in=True, tail=False, notes=asked[2], divide=asked[3], groove=asked[5]
            )
            rounds = [render(phrase, request, progress)]  # type: ignore[arg-type]
            if asked[4]:
                silent = replace(request, click=False, groove=False)
                rounds.append(render(phrase, silent, progress))  # type: ignore[arg-type]
            return rounds

        self.worker.start(job)

    def stop(self) -> None:
        """Silence."""
        self._asked = None
        self.worker.cancel()
        if self.output is not None:
            self.output.stop()

    def seconds(self) -> float:
        """Where the round that sounds is, from its count-in on."""
        if self.output is None or self._asked is None or self.rendering is None:
            return 0.0
        return self.output.seconds() % self.rendering.music_s

    def _was_rendered(self, answer: object) -> None:
        import numpy as np

        from dromic.app.audio.output import best_output

        assert isinstance(answer, list)
        if self.output is None:
            self.output = best_output(self)
        self.rendering = answer[0]
        rate = self.rendering.rate
        self.loop = samples = np.concatenate([one.samples[: round(one.music_s * rate)] for one in answer])
        self.output.start(samples, rate, True)
        self.started.emit()

    def close(self) -> None:
        """The window closes."""
        self.stop()
        self.worker.close()
