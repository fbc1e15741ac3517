"""What a drill sounds like while it runs: a bar counted in, then its notes with the click, round and round."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from dromic.app.kit.worker import Worker
from dromic.core.music.phrase import Phrase

if TYPE_CHECKING:
    from dromic.app.audio.output import Output
    from dromic.sound.render import Rendering


class DrillSound(QObject):
    """Renders on a worker's thread; another tempo or drill takes the place of the one that sounds."""

    noticed = pyqtSignal(str, bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.output: Output | None = None
        self.rendering: Rendering | None = None
        self.part_audible = True
        """whether the plan's own part is heard, beside the click"""
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_rendered)
        self.worker.refused.connect(lambda words: self.noticed.emit(words, False))
        self._asked: tuple[Phrase, float, bool] | None = None

    def play(self, phrase: Phrase, tempo: float) -> None:
        """Sound a drill; nothing changes where it sounds already."""
        asked = (phrase, tempo, self.part_audible)
        if asked == self._asked:
            return
        self._asked = asked

        def job(progress: object) -> object:
            from dromic.sound.render import RenderRequest, render

            request = RenderRequest(tempo, None, click=True, count_in=True, tail=False, notes=asked[2])
            return render(phrase, request, progress)  # type: ignore[arg-type]

        self.worker.start(job)

    def stop(self) -> None:
        """Silence."""
        self._asked = None
        self.worker.cancel()
        if self.output is not None:
            self.output.stop()

    def seconds(self) -> float:
        """Where the round that sounds is, from its count-in on."""
        return self.output.seconds() if self.output is not None and self._asked is not None else 0.0

    def _was_rendered(self, answer: object) -> None:
        from dromic.app.audio.output import best_output
        from dromic.sound.render import Rendering

        assert isinstance(answer, Rendering)
        if self.output is None:
            self.output = best_output(self)
        self.rendering = answer
        self.output.start(answer.samples[: round(answer.music_s * answer.rate)], answer.rate, True)

    def close(self) -> None:
        """The window closes."""
        self.stop()
        self.worker.close()
