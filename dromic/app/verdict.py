"""The verdict on a plan, readable at arm's length: the ceiling, against the tempo asked for, and the worst place."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from dromic.app.theme import relook
from dromic.core.explain import many
from dromic.core.plan import Plan

if TYPE_CHECKING:
    from dromic.core.decision import Decision


class Verdict(QWidget):
    kept_asked = pyqtSignal()
    """the plan that was kept should be shown"""

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
        self.kept.clicked.connect(self.kept_asked)
        layout.addWidget(self.kept)
        self.kept.hide()
        self.show_plan(None)

    def show_decision(self, decision: Decision | None, shown: bool) -> None:
        """Which plan has been kept, and a way back to it."""
        self.kept.setVisible(decision is not None)
        if decision is not None:
            self.kept.setText(f"Kept: {decision.label}" + ("" if shown else ", show it"))
            self.kept.setEnabled(not shown)
            rejected = [f"{r.label}: {r.why}" for r in decision.rejected]
            self.kept.setToolTip(
                "\n".join([f"{decision.day}: {decision.why or 'no reason given'}", "Rejected:", *rejected])
            )

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
    bar = next(n.bar for n in plan.notes if n.chord == move.to)
    return f"the {move.hand} hand in bar {bar}"
