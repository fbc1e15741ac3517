"""The verdict on a plan, readable at arm's length: the ceiling, against the tempo asked for, and the worst place."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QLabel, QMenu, QPushButton, QVBoxLayout, QWidget

from dromic.app.kit.theme import relook
from dromic.core.plan.plan import Plan
from dromic.core.reports.explain import many
from dromic.core.setup.choices import Choices

if TYPE_CHECKING:
    from dromic.core.setup.decision import Decision


class Verdict(QWidget):
    kept_asked = pyqtSignal(object)
    """the choices of a plan that was kept and should be shown"""
    let_go_asked = pyqtSignal(object)
    """a decision"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ceiling, self.range, self.words, self.totals = QLabel(), QLabel(), QLabel(), QLabel()
        self.ceiling.setObjectName("big")
        self.range.setObjectName("soft")
        self.totals.setObjectName("soft")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        heading = QLabel("Ceiling, an estimate")
        heading.setObjectName("section")
        for widget in (heading, self.ceiling, self.range, self.words, self.totals):
            widget.setWordWrap(True)
            layout.addWidget(widget)
        self.ceiling.setAccessibleName("ceiling")
        self.kept = QPushButton()
        self.kept.setObjectName("kept")
        self.kept.clicked.connect(self._ask_kept)
        self._decisions: tuple[Decision, ...] = ()
        layout.addWidget(self.kept)
        self.kept.hide()
        self.show_plan(None)

    def show_decisions(self, decisions: Sequence[Decision], choices: Choices) -> None:
        """Which plan has been kept, and a way back to it and to those kept before it."""
        self.kept.setVisible(bool(decisions))
        if not decisions:
            return
        latest = decisions[-1]
        shown = latest.choices == choices
        earlier = len(decisions) - 1
        self.kept.setText(
            f"Kept: {latest.label}" + ("" if shown else ", show it") + (f"  (+{earlier} earlier)" if earlier else "")
        )
        rejected = [f"{r.label}: {r.why}" for r in latest.rejected]
        self.kept.setToolTip("\n".join([f"{latest.day}: {latest.why or 'no reason given'}", "Rejected:", *rejected]))
        self._decisions = tuple(decisions)

    def _ask_kept(self) -> None:
        """The plans that were kept, each with its reason: to be shown again, or let go. Weigh sets them side by side."""
        menu = self.kept_menu()
        menu.popup(self.kept.mapToGlobal(self.kept.rect().bottomLeft()))

    def kept_menu(self) -> QMenu:
        menu = QMenu(self)
        for decision in reversed(self._decisions):
            why = f": {decision.why}" if decision.why else ""
            menu.addAction(
                f"Show {decision.label}, {decision.day}{why}",
                lambda chosen=decision.choices: self.kept_asked.emit(chosen),
            )
        menu.addSeparator()
        for decision in reversed(self._decisions):
            menu.addAction(f"Let {decision.label} go", lambda gone=decision: self.let_go_asked.emit(gone))
        return menu

    def show_plan(self, plan: Plan | None) -> None:
        if plan is None or plan.ceiling is None or plan.ceiling_range is None or plan.ceiling_sustained is None:
            self.ceiling.setText("…" if plan is None else "none")
            self.range.setText("" if plan is None else "No move limits this plan")
            self.words.setText("")
            self.totals.setText("")
            return
        tempo = plan.request.phrase.tempo
        low, high = plan.ceiling_range
        self.ceiling.setText(f"{plan.ceiling:.0f}")
        self.range.setText(
            f"quarters a minute, {low:.0f} to {high:.0f}; kept up for half a minute {plan.ceiling_sustained:.0f}"
        )
        fits = plan.ceiling >= tempo
        self.words.setText(f"Fits at {tempo:g}" if fits else f"Too fast at {tempo:g}: {_worst(plan)}")
        relook(self.words, "soft" if fits else "hurt")
        t = plan.totals
        self.totals.setText(
            ", ".join(
                f"{n} {w}" for n, w in ((t.picked, "picked"), (t.plucked, "plucked"), (t.legato, "unstruck")) if n
            )
            + f"; {many(t.hops, 'string')} passed over, "
            f"{many(t.buried_hops, 'buried hop')}; {many(t.carry_through, 'carry-through')}, {many(t.shifts, 'shift')}, "
            f"{many(t.knots, 'knot')}"
        )


def _worst(plan: Plan) -> str:
    move = max(plan.moves, key=lambda m: m.load)
    bar = next(n.bar_number for n in plan.notes if n.event == move.to)
    return f"the {move.hand} hand in bar {bar}"
