"""The verdict on a plan, readable at arm's length: the ceiling against the tempo asked for as a picture, the worst place, and the
one change that would help most."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QMenu, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from dromic import presets
from dromic.app.drawing.ceiling_mark import Ceiling, ceiling_of, paint_alone
from dromic.app.kit.theme import LIGHT, Theme, relook
from dromic.core.findings.findings import most_helpful
from dromic.core.plan.finding import Finding
from dromic.core.plan.plan import Plan
from dromic.core.reports.ceiling_words import stands_on
from dromic.core.reports.explain import SAME_TEMPO, remedy_text
from dromic.core.setup.choices import Choices

if TYPE_CHECKING:
    from dromic.core.setup.decision import Decision

_TALL = 56
FAR = 1.4
"""times the tempo asked for: a ceiling as high, or as far under it, is told first of all"""
SEEKING = "Looking for what sets it, and what that number stands on\u2026"
LOOKING = "Looking for what would help most\u2026"


class CeilingPicture(QWidget):
    """The ceiling of one plan on a line of tempos."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = LIGHT
        self.shown: Ceiling | None = None
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(200, _TALL)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.shown is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_alone(painter, self.theme, QRectF(self.rect()), self.shown)


class Verdict(QWidget):
    kept_asked = pyqtSignal(object)
    """the choices of a plan that was kept and should be shown"""
    let_go_asked = pyqtSignal(object)
    """a decision"""
    help_asked = pyqtSignal(object)
    """the finding whose remedy would help most: to be tried"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ceiling, self.range, self.words, self.set_by, self.picture = (
            QLabel(),
            QLabel(),
            QLabel(),
            QLabel(),
            CeilingPicture(),
        )
        self.ceiling.setObjectName("big")
        self.range.setObjectName("soft")
        self.range.setWordWrap(True)
        self.words.setWordWrap(True)
        self.set_by.setObjectName("soft")
        self.set_by.setWordWrap(True)
        self.set_by.setAccessibleName("what sets the ceiling")
        self.set_by.hide()
        self.ceiling.setAccessibleName("ceiling")
        self.kept = QPushButton()
        self.kept.setObjectName("kept")
        self.kept.clicked.connect(self._ask_kept)
        self._decisions: tuple[Decision, ...] = ()
        self.helps, self.try_button, self.help_box = QLabel(), QPushButton("Try it"), QFrame()
        self.help_box.setObjectName("card")
        self.helps.setWordWrap(True)
        self.helps.setAccessibleName("what would help most")
        self.try_button.setToolTip("Plan it so (Ctrl+Z takes it back). F8 and F9 do the same place by place")
        self.try_button.clicked.connect(lambda: self.help_asked.emit(self.most))
        self.most: Finding | None = None
        self._lay_out()
        self.kept.hide()
        self.show_plan(None)

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.setSpacing(12)
        top.addWidget(self.ceiling)
        top.addWidget(self.range, 1, Qt.AlignmentFlag.AlignVCenter)
        helps = QHBoxLayout(self.help_box)
        helps.setContentsMargins(8, 4, 4, 4)
        helps.addWidget(self.helps, 1)
        helps.addWidget(self.try_button, 0, Qt.AlignmentFlag.AlignBottom)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.words)
        layout.addLayout(top)
        for part in (self.picture, self.set_by, self.help_box, self.kept):
            layout.addWidget(part)

    def set_theme(self, theme: Theme) -> None:
        self.picture.theme = theme
        self.picture.update()

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
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
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
        """The ceiling of a plan and its worst place. What helped the plan before helps no more; its box keeps its room where there
        are findings to look into, so that nothing under it jumps."""
        self.most = None
        self.try_button.setEnabled(False)
        self.help_box.setVisible(plan is not None and bool(plan.findings))
        self.helps.setText(LOOKING)
        shown = self.picture.shown = ceiling_of(plan)
        self.picture.setVisible(shown is not None)
        self.picture.update()
        if shown is None or plan is None:
            self.ceiling.setText("…" if plan is None else "none")
            self.range.setText("" if plan is None else "No move limits this plan")
            self.words.setText("")
            self.set_by.hide()
            return
        self.ceiling.setText(f"{shown.at:.0f}")
        self.range.setText(f"at most, an estimate; {shown.sustained:.0f} kept up for half a minute")
        self.range.setToolTip(
            f"Quarters a minute, between {shown.low:.0f} and {shown.high:.0f}, as far as the hands' numbers may be off"
        )
        self.set_by.setText(SEEKING)
        self.set_by.show()
        self.words.setText(_standing(plan, shown))
        relook(self.words, "soft" if shown.fits else "hurt")

    def show_help(self, plan: Plan | None) -> None:
        """The one change that would help most, once that is known."""
        self.most = most_helpful(plan.findings) if plan is not None else None
        self.help_box.setVisible(self.most is not None)
        self.set_by.setVisible(plan is not None and plan.limit is not None)
        if plan is not None and plan.limit is not None:
            self.set_by.setText(stands_on(plan.limit, plan.request.player, presets.players().values()))
        if plan is not None and self.most is not None:
            remedy = self.most.remedy
            self.try_button.setVisible(remedy is not None)
            self.try_button.setEnabled(remedy is not None)
            if remedy is None:
                self.helps.setText(f"What helps: {self.most.advice}")
            else:
                lifts = remedy.ceiling is None or (
                    plan.ceiling is not None and remedy.ceiling > plan.ceiling + SAME_TEMPO
                )
                self.helps.setText(f"{'Would help most' if lifts else 'Begin here'}: {remedy_text(plan, remedy)}")


def _standing(plan: Plan, shown: Ceiling) -> str:
    """How the tempo asked for stands to the ceiling, first of all where they lie far apart."""
    if shown.fits:
        spare = f" with room to spare: it would go {shown.at / shown.tempo:.1f} times as fast"
        return f"Fits at {shown.tempo:g}{spare if shown.at >= FAR * shown.tempo else ''}"
    if shown.tempo < FAR * shown.at:
        return f"Too fast at {shown.tempo:g}: {_worst(plan)}"
    return f"Far too fast at {shown.tempo:g}: it is planned as it goes, up to about {shown.at:.0f}. Hardest: {_worst(plan)}"


def _worst(plan: Plan) -> str:
    move = max(plan.moves, key=lambda m: m.load)
    bar = next(n.bar_number for n in plan.notes if n.event == move.to)
    return f"the {move.hand} hand in bar {bar}"
