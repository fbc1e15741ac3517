"""Questions with an answer in words and numbers, and the player's own way judged; both worked out off the interface
thread."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from dromic.app.kit.theme import Theme
from dromic.app.kit.worker import Worker
from dromic.app.weigh.candidates import OWN_WAY, SCHOOL, Candidate
from dromic.app.weigh.side_by_side import SideBySide
from dromic.core.plan.request import Request
from dromic.core.questions.own_way import OwnWay, judge_own_way
from dromic.core.questions.questions import QUESTIONS, Lines, Subject, answers
from dromic.core.reports.ceiling_words import about
from dromic.core.reports.explain import many
from dromic.core.setup.choices import Choices
from dromic.core.values.progress import Progress

AskedFor = Callable[[], Callable[[Progress], Subject] | None]


class _Words(QScrollArea):
    """Lines of an answer, the first the largest."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.label = QLabel()
        self.label.setAccessibleName(name)
        self.label.setTextFormat(Qt.TextFormat.PlainText)
        self.label.setWordWrap(True)
        self.label.setMargin(14)
        self.label.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.label.setObjectName("answer")
        self.label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.setWidget(self.label)
        self.setWidgetResizable(True)
        self.setFrameShape(self.Shape.NoFrame)

    def say(self, lines: Lines) -> None:
        self.label.setText("\n\n".join(lines))


OWN_QUESTION = "My way: what does it cost, and where is it another than the best?"
_LIST_PX = 330
"""Width of the list of questions, px."""
_SHOWN_PX = 300
"""Height at least of the strips that show where two ways differ, px."""


class QuestionsView(QWidget):
    """The questions at the left, the answer at the right. `asked_for` gives what they are asked about, None where there
    is nothing yet; what it gives is made on the worker. The last asks about the player's own way."""

    answered = pyqtSignal()
    own_asked = pyqtSignal()

    def __init__(self, asked_for: AskedFor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.asked_for = asked_for
        self.worker = Worker(self)
        self.list, self.words, self.own_way, self.pages = (
            QListWidget(),
            _Words("answer"),
            OwnWayView(),
            QStackedWidget(),
        )
        self.list.setAccessibleName("questions")
        self.list.setWordWrap(True)
        self.list.setFixedWidth(_LIST_PX)
        self.list.setSpacing(4)
        for question in QUESTIONS:
            self.list.addItem(question.text)
        self.list.addItem(OWN_QUESTION)
        self.pages.setContentsMargins(4, 4, 4, 4)  # where the ring of the focus is seen
        for page in (self.words, self.own_way):
            self.pages.addWidget(page)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 8, 8, 0)
        row.addWidget(self.list)
        row.addWidget(self.pages, 1)
        self.list.currentRowChanged.connect(self.ask)
        self.worker.answered.connect(self._answered)
        self.worker.refused.connect(lambda sentence: self.words.say((sentence,)))
        self.setFocusProxy(self.list)
        self.words.say(("Choose a question.",))

    def ask(self, row: int) -> None:
        """Answer a question of the list."""
        self.pages.setCurrentWidget(self.own_way if self.on_own_way else self.words)
        if self.on_own_way:
            self.worker.cancel()
            self.own_asked.emit()
        if not 0 <= row < len(QUESTIONS):
            return
        make = self.asked_for()
        if make is None:
            self.words.say(("There is no plan to ask about yet.",))
            return
        name = QUESTIONS[row].name
        self.words.say(("Working it out…",))
        self.worker.start(lambda progress: answers(make(progress), name, progress))

    @property
    def on_own_way(self) -> bool:
        """Whether the player's own way is asked about."""
        return self.list.currentRow() == len(QUESTIONS)

    def set_theme(self, theme: Theme) -> None:
        self.own_way.strips.set_theme(theme)

    def forget(self) -> None:
        """What was answered no longer holds."""
        self.worker.cancel()
        if not self.on_own_way:
            self.list.setCurrentRow(-1)
        self.words.say(("Choose a question.",))

    def _answered(self, lines: object) -> None:
        assert isinstance(lines, tuple)
        self.words.say(lines)
        self.answered.emit()


def own_way_lines(found: OwnWay) -> Lines:
    """The player's own way in words."""
    label = found.plan.request.school.label
    lines = [
        f"Your way: {about(found.plan.ceiling)}. The best plan in the school {label}: {about(found.best.ceiling)}. "
        "Both are estimates."
    ]
    if found.breaks:
        lines.append(f"Where it breaks the rule of {label}, {many(len(found.breaks), 'place')}:")
        lines += [f"•  {words}." for words in found.breaks]
    else:
        lines.append(f"It keeps the rule of {label} throughout.")
    if not found.differences:
        lines.append("It is the best plan, note for note.")
        return tuple(lines)
    lines.append(
        "Where it differs from the best plan, and what letting go of your way there would bring, dearest first:"
    )
    for one in found.differences:
        first, last = (found.plan.events[e][0].index + 1 for e in (one.events[0], one.events[-1]))
        where = f"Note {first}" if first == last else f"Notes {first} to {last}"
        if one.gain is None or one.work is None:
            brings = "it cannot be let go of alone"
        else:
            gain = f"ceiling {one.gain:+.0f}" if abs(one.gain) >= 0.5 else "the same ceiling"
            brings = f"{gain}, work {one.work:+.2f}"
        lines.append(f"•  {where}: {brings}.\n    yours: {one.own}\n    best: {one.best}")
    if found.more:
        lines.append(f"{many(found.more, 'more stretch')} differ; only the first were searched again.")
    return tuple(lines)


class OwnWayView(QWidget):
    """The player's own strokes and fingers judged: in words, and drawn under the best plan with a mark wherever the two differ."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.worker = Worker(self)
        self.words, self.strips = _Words("your own way judged"), SideBySide()
        self.strips.setMinimumHeight(_SHOWN_PX)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 0, 8, 0)
        column.addWidget(self.strips)
        column.addWidget(self.words, 1)
        self.strips.hide()
        self.found: OwnWay | None = None
        self.request: Request | None = None
        self.worker.answered.connect(self._answered)
        self.worker.refused.connect(lambda sentence: self.words.say((sentence,)))

    def forget(self, why: str) -> None:
        """There is nothing to judge."""
        self.worker.cancel()
        self.request = self.found = None
        self.strips.hide()
        self.words.say((why,))

    def judge(self, request: Request) -> None:
        """Judge what the phrase states and the player has pinned, unless that is done."""
        if request == self.request:
            return
        self.request, self.found = request, None
        self.strips.hide()
        self.words.say(("Judging your own way…",))
        self.worker.start(lambda progress: judge_own_way(request, progress))

    def _answered(self, found: object) -> None:
        assert isinstance(found, OwnWay)
        self.found = found
        self.words.say(own_way_lines(found))
        school = found.best.request.school.label
        self.strips.show_entries(
            [
                Candidate(f"Best, {school}", SCHOOL, Choices(), found.best),
                Candidate("My way", OWN_WAY, Choices(), found.plan),
            ],
            0,
        )
        self.strips.set_current(1)
        self.strips.show()
