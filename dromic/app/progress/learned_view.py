"""What the passes in the log say of the player's hands, beside the numbers planned with; taken over number by number."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dromic import presets
from dromic.app.kit.worker import Worker
from dromic.app.session.practising import Practising

if TYPE_CHECKING:
    from dromic.core.learning.learned_rates import Learned
    from dromic.core.learning.measuring import Measured
    from dromic.core.plan.plan import Plan
    from dromic.core.plan.request import Request
    from dromic.core.setup.player import Player
    from dromic.core.setup.player_settings import HandNumber

_ASK = "Every clean and missed pass says something of your hands. Working it out takes a few seconds."


class LearnedView(QWidget):
    """A row a rate; those that are known can be ticked."""

    taken = pyqtSignal(object)
    """the player with the numbers ticked"""

    def __init__(self, practising: Practising, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.practising = practising
        self.learned: Learned | None = None
        self.player: Player | None = None
        """whose numbers the table shows"""
        self._of: Request | None = None
        self.say, self.table = QLabel(_ASK), QTreeWidget()
        self.work, self.take = QPushButton("Work it out"), QPushButton("Take the ticked numbers over")
        self.measure = QPushButton("Measure my hands…")
        self.measure.setToolTip(
            "Short figures at tempos that tell most; mark each clean or missed. Leave and go on when you like"
        )
        self._setters: dict[str, Callable[[Player], Player]] = {}
        """what each ticked row makes of a player"""
        self.say.setWordWrap(True)
        self.table.setRootIsDecorated(False)
        self.table.setColumnCount(4)
        self.table.setHeaderLabels(["What", "Planned with", "From your passes", "Sure to within"])
        self.table.setAccessibleName("numbers of your hands, as the log has them")
        header = self.table.header()
        assert header is not None
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setStretchLastSection(False)
        self.take.setEnabled(False)
        row = QHBoxLayout()
        row.addWidget(self.measure)
        row.addWidget(self.work)
        row.addWidget(self.take)
        row.addWidget(self.say, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 4, 0, 0)
        whole.addLayout(row)
        whole.addWidget(self.table, 1)
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_worked_out)
        self.worker.refused.connect(self.say.setText)
        self.work.clicked.connect(self.learn)
        self.take.clicked.connect(self._take)

    def show_for(self, plan: Plan) -> None:
        """The numbers are those of a plan's player: where it is another plan, what was worked out holds no more."""
        if plan.request is not self._of:  # advice makes another plan of the same request
            self._of = plan.request
            self._forget()

    def _forget(self) -> None:
        self.worker.cancel()
        self.learned = None
        self._clear()
        self._fit()
        self.say.setText(_ASK)

    def learn(self) -> None:
        """Fit the rates to the passes of this phrase, on the worker's thread."""
        work, keeper = self.practising.work, self.practising.keeper
        if work is None:
            return
        plan, of = work.plan, self.practising.of
        self.say.setText("Working it out…")

        def job(_progress: object) -> object:
            from dromic.core.learning.learned_rates import Model

            model = Model(plan, plan.request.player, presets.practice().learning)
            return model.learn(keeper.settle().passes(of))

        self.worker.start(job)

    def _was_worked_out(self, answer: object) -> None:
        from dromic.core.learning.learned_rates import Learned, rate_of, with_rate

        if not isinstance(answer, Learned):
            assert isinstance(answer, tuple)
            self._was_measured(*answer)
            return
        self.learned, self.player = answer, answer.start
        self._clear()
        words = {f.name: str(f.metadata.get("what", f.name)) for hand in ("picking", "fretting")
                 for f in fields(getattr(answer.start, hand))}  # fmt: skip
        for rate in sorted(answer.rates, key=lambda r: answer.rates[r][1]):
            value, sure = answer.rates[rate]
            known = rate in answer.known
            now = rate_of(answer.start, rate)
            cells = [
                words[rate[1]],
                f"{now:.1f} ms",
                f"{value:.1f} ms" if known else "not known yet",
                f"{sure:.0%}" if known else "",
            ]
            self._row(cells, partial(with_rate, rate=rate, value=value) if known else None)
        self._fit()
        self.say.setText(
            f"From {answer.passes} passes of this phrase: {len(answer.known)} of {len(answer.rates)} numbers are known. "
            "Taken over, they make a player of your own; Ctrl+Z takes them back."
        )

    def show_measured(self, figures: object) -> None:
        """Work out the numbers that the figures played so far come to, on the worker's thread."""
        assert isinstance(figures, tuple)
        if not figures:
            return
        player, passes = figures[0].plan.request.player, self.practising.measured_passes
        self.say.setText("Working out what your hands came to…")

        def job(_progress: object) -> object:
            from dromic.core.learning.measuring import measured

            return player, measured(figures, player, list(passes()), presets.practice().learning)[0]

        self.worker.start(job)

    def _was_measured(self, player: Player, found: tuple[Measured, ...]) -> None:
        self.learned, self.player = None, player
        self._clear()
        for one in found:
            number = one.number
            after = "not measured" if one.after is None else f"{one.after:.3g} {number.unit}"
            sure = "" if one.after is None else f"{one.sure:.0%}"
            set_it = None if one.after is None else partial(_with_number, number=number, value=one.after)
            self._row([number.label, f"{one.before:.3g} {number.unit}", after, sure], set_it)
            for figure, limit in zip(one.figures, one.limits, strict=True):
                told = f"clean to about {limit[0]:.0f}" if limit else "not tried"
                self._row([f"      {figure.ability.name}", f"{figure.ceiling:.0f} expected", told,
                           f"{limit[1]:.0%}" if limit else ""], None)  # fmt: skip
        self._fit()
        tried = sum(one.after is not None for one in found)
        self.say.setText(
            f"{tried} of {len(found)} measured. Taken over, they make a player of your own; Ctrl+Z takes them back."
        )

    def _clear(self) -> None:
        self.table.clear()
        self._setters = {}

    def _row(self, cells: list[str], set_it: Callable[[Player], Player] | None) -> None:
        item = QTreeWidgetItem(cells)
        if set_it is not None:
            key = str(self.table.topLevelItemCount())
            item.setData(0, Qt.ItemDataRole.UserRole, key)
            item.setCheckState(0, Qt.CheckState.Checked)
            self._setters[key] = set_it
        self.table.addTopLevelItem(item)

    def _fit(self) -> None:
        for column in (1, 2, 3):
            self.table.resizeColumnToContents(column)
        self.take.setEnabled(bool(self._setters))

    def _take(self) -> None:
        player = self.player
        for n in range(self.table.topLevelItemCount()):
            item = self.table.topLevelItem(n)
            if item is not None and item.checkState(0) == Qt.CheckState.Checked:
                set_it = self._setters.get(item.data(0, Qt.ItemDataRole.UserRole))
                player = set_it(player) if set_it is not None and player is not None else player
        if player is not None and player != self.player:
            self.taken.emit(player)

    def stop(self) -> None:
        """The window closes."""
        self.worker.close()


def _with_number(player: Player, number: HandNumber, value: float) -> Player:
    return number.set(player, value)
