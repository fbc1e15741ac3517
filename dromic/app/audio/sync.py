"""Where, in what is recorded, the front of what is played was. A device begins to play and to record some time after it is told to,
never the same; only what both have counted tells."""

from __future__ import annotations

from statistics import quantiles

from PyQt6.QtCore import QObject, QTimer

from dromic.app.audio.input import RATE, Input
from dromic.app.audio.output import Output

_LOOK_MS = 10
_LEAST = 10
"""looks from which the counts are trusted"""
_PARTS = 20
"""of what was found all but the highest of so many parts is passed over: recorded samples are counted late, by as much as waits to be
handed over, so the highest are the nearest. Measured on a sound server: within a millisecond or two, where the median is six off"""
_AHEAD_S = 0.03
"""by how much what counts as played may be ahead of what is heard: the way from one to the other is never told as less than nothing"""


class Sync(QObject):
    """Looks at both counts for as long as it runs. Where one of them is no device's own, what is played begins when it is told to."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._input: Input | None = None
        self._output: Output | None = None
        self._told = 0
        self._found: list[int] = []
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self.look)

    def begin(self, input_: Input, output: Output | None) -> None:
        """What is played begins now."""
        self._input, self._output, self._told, self._found = input_, output, input_.position(), []
        if output is not None and input_.live and output.live:
            self._timer.start()

    def stop(self) -> None:
        self._timer.stop()

    def look(self) -> None:
        """Take down where the front was by the counts just now."""
        assert self._input is not None and self._output is not None
        played = self._output.elapsed_s()
        if played > 0:
            self._found.append(self._input.position() - round(played * RATE))

    @property
    def start(self) -> int:
        """The number of the recorded sample at which the front was played."""
        if len(self._found) < _LEAST:
            return self._told
        return round(quantiles(self._found, n=_PARTS)[-1]) - round(_AHEAD_S * RATE)
