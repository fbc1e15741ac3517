"""What the passes in the log say of the player's hands, beside the numbers planned with; taken over number by number."""

from __future__ import annotations

from dataclasses import fields
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
from dromic.app.shed.practising import Practising

if TYPE_CHECKING:
    from dromic.core.practice.learning import Learned

_ASK = "Every clean and missed pass says something of your hands. Working it out takes a few seconds."


class LearnedView(QWidget):
    """A row a rate; those that are known can be ticked."""

    taken = pyqtSignal(object)
    """the player with the numbers ticked"""

    def __init__(self, practising: Practising, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.practising = practising
        self.learned: Learned | None = None
        self.say, self.table = QLabel(_ASK), QTreeWidget()
        self.work, self.take = QPushButton("Work it out"), QPushButton("Take the ticked numbers over")
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
        row.addWidget(self.work)
        row.addWidget(self.take)
        row.addWidget(self.say, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 4, 0, 0)
        whole.addLayout(row)
        whole.addWidget(self.table, 1)
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_learned)
        self.worker.refused.connect(self.say.setText)
        self.work.clicked.connect(self.learn)
        self.take.clicked.connect(self._take)

    def forget(self) -> None:
        """The plan or the log is another: what was worked out holds no more."""
        self.worker.cancel()
        self.learned = None
        self.table.clear()
        self.take.setEnabled(False)
        self.say.setText(_ASK)

    def learn(self) -> None:
        """Fit the rates to the passes of this phrase, on the worker's thread."""
        work, logbook = self.practising.work, self.practising.logbook
        if work is None:
            return
        plan, title = work.plan, work.plan.request.phrase.title
        self.say.setText("Working it out…")

        def job(_progress: object) -> object:
            from dromic.core.practice.learning import Model

            model = Model(plan, plan.request.player, presets.data("practice.toml")["learning"])
            return model.learn(logbook.passes(title))

        self.worker.start(job)

    def _was_learned(self, answer: object) -> None:
        from dromic.core.practice.learning import Learned, rate_of

        assert isinstance(answer, Learned)
        self.learned = answer
        self.table.clear()
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
            item = QTreeWidgetItem(cells)
            item.setData(0, Qt.ItemDataRole.UserRole, rate)
            if known:
                item.setCheckState(0, Qt.CheckState.Checked)
            self.table.addTopLevelItem(item)
        for column in (1, 2, 3):
            self.table.resizeColumnToContents(column)
        self.take.setEnabled(bool(answer.known))
        self.say.setText(
            f"From {answer.passes} passes of this phrase: {len(answer.known)} of {len(answer.rates)} numbers are known. "
            "Taken over, they make a player of your own; Ctrl+Z takes them back."
        )

    def _take(self) -> None:
        from dromic.core.practice.learning import with_rate

        if self.learned is None:
            return
        player = self.learned.start
        for n in range(self.table.topLevelItemCount()):
            item = self.table.topLevelItem(n)
            if item is not None and item.checkState(0) == Qt.CheckState.Checked:
                rate = item.data(0, Qt.ItemDataRole.UserRole)
                player = with_rate(player, tuple(rate), self.learned.rates[tuple(rate)][0])
        if player != self.learned.start:
            self.taken.emit(player)

    def stop(self) -> None:
        """The window closes."""
        self.worker.close()
