"""The main window: five places, the Plan place with chart, overview, choices, verdict and findings."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QByteArray, QSettings, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QUndoCommand, QUndoStack
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from dromic import presets
from dromic.app import theme as themes
from dromic.app.chart_view import ChartView
from dromic.app.choices import Choices, ChoicesPanel, choices_for, request_for
from dromic.app.findings_list import FindingsList
from dromic.app.overview import Overview
from dromic.app.verdict import Verdict
from dromic.app.worker import Worker
from dromic.core.explain import explain_event
from dromic.core.phrase import Phrase
from dromic.core.plan import Finding, Plan
from dromic.core.planner import Progress, Solved, solve
from dromic.formats.table import FORMATS, read, readable, titles

PLACES = ("Write", "Plan", "Weigh", "Shed", "Listen")
WORKING = ("Plan",)
SIDE_WIDTH = 330
ADVISE_AFTER_MS = 150
"""how long a plan stands before remedies are looked for"""
Opened = tuple[Path, int, list[str], Phrase]


class _Choose(QUndoCommand):
    """One change of the choices; changes of one control in a row are one step."""

    def __init__(self, window: MainWindow, before: Choices, after: Choices) -> None:
        super().__init__("choice")
        self.window, self.before, self.after = window, before, after

    def redo(self) -> None:
        self.window.apply_choices(self.after)

    def undo(self) -> None:
        self.window.apply_choices(self.before)


class MainWindow(QMainWindow):
    """One window on one phrase of one file."""

    def __init__(self, settings: QSettings) -> None:
        super().__init__()
        self.settings = settings
        self.setWindowTitle("Dromic")
        self.setAcceptDrops(True)
        self.theme = themes.THEMES.get(str(settings.value("theme", "light")), themes.LIGHT)
        self.opened: Opened | None = None
        self.choices = Choices()
        self.plan: Plan | None = None
        self.undo_stack = QUndoStack(self)
        self._new_phrase = False
        self.advising = False
        self._answer: Solved | None = None
        self._advise_soon = QTimer(self)
        self._advise_soon.setSingleShot(True)
        self._advise_soon.setInterval(ADVISE_AFTER_MS)
        self._advise_soon.timeout.connect(self._ask_advice)
        self.reader, self.planner, self.adviser = Worker(self), Worker(self), Worker(self)
        self.chart, self.overview = ChartView(), Overview()
        self.panel, self.verdict, self.findings = ChoicesPanel(), Verdict(), FindingsList()
        self.tunes, self.why, self.notice, self.findings_title = QComboBox(), QLabel(), QLabel(), QLabel("Findings")
        self._dress_application()  # before there are widgets, each of which would be dressed again
        self._build()
        self._actions()
        self._connect()
        self._dress_parts()
        geometry = settings.value("geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        else:
            self.resize(1280, 800)

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(10, 4, 10, 0)
        top.setSpacing(2)
        self.places: dict[str, QPushButton] = {}
        for name in PLACES:
            button = QPushButton(name)
            button.setObjectName("place")
            button.setCheckable(True)
            button.setEnabled(name in WORKING)
            button.setChecked(name == "Plan")
            button.setAutoExclusive(True)
            if name not in WORKING:
                button.setToolTip(f"{name} is not built yet")
            self.places[name] = button
            top.addWidget(button)
        top.addStretch(1)
        self.tunes.setAccessibleName("phrase")
        self.tunes.setMinimumWidth(300)
        self.tunes.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        top.addWidget(self.tunes)
        self.open_button = QPushButton("Open…")
        self.theme_button = QPushButton()
        for button in (self.open_button, self.theme_button):
            top.addSpacing(6)
            top.addWidget(button)
        self.why.setMinimumHeight(92)
        self.why.setMargin(8)
        self.why.setTextFormat(Qt.TextFormat.PlainText)
        self.why.setAccessibleName("why and how much")
        self.why.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.why.setWordWrap(True)
        self.notice.setMargin(8)
        self.notice.setWordWrap(True)
        self.notice.setObjectName("hurt")
        self.notice.hide()
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.notice)
        left.addWidget(self.chart, 1)
        left.addWidget(self.overview)
        left.addWidget(self.why)
        side = QWidget()
        side.setObjectName("side")
        side.setFixedWidth(SIDE_WIDTH)
        column = QVBoxLayout(side)
        column.setContentsMargins(12, 6, 12, 10)
        column.addWidget(self.verdict)
        rule = QFrame()
        rule.setFrameShape(QFrame.Shape.HLine)
        column.addWidget(rule)
        column.addWidget(self.panel)
        self.findings_title.setObjectName("section")
        column.addWidget(self.findings_title)
        column.addWidget(self.findings, 1)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addLayout(left, 1)
        middle.addWidget(side)
        whole = QVBoxLayout()
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(4)
        whole.addLayout(top)
        whole.addLayout(middle, 1)
        centre = QWidget()
        centre.setLayout(whole)
        self.setCentralWidget(centre)
        self._explain(None)
        self.chart.setFocus()

    def _actions(self) -> None:
        standard = QKeySequence.StandardKey
        for text, keys, act in (
            ("Open", [QKeySequence(standard.Open)], self.ask_for_file),
            ("Quit", [QKeySequence("Ctrl+Q")], self.close),
            ("Undo", [QKeySequence(standard.Undo)], self.undo_stack.undo),
            ("Redo", [QKeySequence(standard.Redo), QKeySequence("Ctrl+Shift+Z")], self.undo_stack.redo),
            ("Other theme", [QKeySequence("Ctrl+T")], self.switch_theme),
            ("Zoom in", [QKeySequence("Ctrl++"), QKeySequence("Ctrl+=")], lambda: self.chart.zoom(1.25)),
            ("Zoom out", [QKeySequence("Ctrl+-")], lambda: self.chart.zoom(0.8)),
            ("Whole phrase", [QKeySequence("Ctrl+0")], self.chart.zoom_to_all),
            ("Next finding", [QKeySequence("F8")], lambda: self.findings.step(1)),
            ("Previous finding", [QKeySequence("Shift+F8")], lambda: self.findings.step(-1)),
            ("To the chart", [QKeySequence("F6")], self.chart.setFocus),
            ("Next phrase", [QKeySequence("Ctrl+PgDown")], lambda: self._turn_page(1)),
            ("Previous phrase", [QKeySequence("Ctrl+PgUp")], lambda: self._turn_page(-1)),
        ):
            action = QAction(text, self)
            action.setShortcuts(keys)
            action.triggered.connect(lambda _checked=False, act=act: act())
            self.addAction(action)
        self.open_button.setToolTip("Open a file (Ctrl+O), or drop one on the window")
        self.theme_button.setToolTip("Switch between light and dark (Ctrl+T)")

    def _connect(self) -> None:
        self.open_button.clicked.connect(self.ask_for_file)
        self.theme_button.clicked.connect(self.switch_theme)
        self.tunes.activated.connect(lambda index: self._open_tune(index + 1))
        self.panel.changed.connect(self._choose)
        self.reader.answered.connect(self._was_read)
        self.reader.refused.connect(self._refused)
        self.planner.answered.connect(self._was_planned)
        self.planner.refused.connect(self._refused)
        self.planner.busy.connect(self._busy)
        self.adviser.answered.connect(self._was_advised)
        self.adviser.busy.connect(self._advise)
        self.chart.selected_changed.connect(self._explain)
        self.chart.window_changed.connect(self.overview.set_window)
        self.overview.pointed.connect(self.chart.centre_on)
        self.findings.chosen.connect(self._jump)

    def ask_for_file(self) -> None:
        """The open dialog, its filters from the table of file kinds."""
        every = " ".join(f"*{e}" for e in readable())
        kinds = [f"{f.label} ({' '.join('*' + e for e in f.extensions)})" for f in FORMATS if f.read]
        folder = str(self.settings.value("folder", ""))
        name, _ = QFileDialog.getOpenFileName(
            self, "Open a phrase", folder, ";;".join([f"All of these ({every})", *kinds])
        )
        if name:
            self.settings.setValue("folder", str(Path(name).parent))
            self.open_file(Path(name))

    def open_file(self, path: Path, tune: int = 1) -> None:
        """Read a file on the reader's thread; the phrase on screen stays until it is read."""

        def job(progress: Progress) -> Opened:
            names = titles(path)
            return path, tune, names, read(path, tune)

        self.notice.hide()
        if self.opened is None:
            self.chart.show_message(f"Opening {path.name}…")
        self.reader.start(job)

    def _open_tune(self, tune: int) -> None:
        if self.opened is not None and tune != self.opened[1]:
            self.open_file(self.opened[0], tune)

    def _turn_page(self, by: int) -> None:
        if self.opened is not None and 1 <= self.opened[1] + by <= len(self.opened[2]):
            self._open_tune(self.opened[1] + by)

    def _was_read(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        self.opened = answer
        path, tune, names, phrase = self.opened
        self.tunes.clear()
        self.tunes.addItems(names or [phrase.title])
        self.tunes.setCurrentIndex(tune - 1 if names else 0)
        self.setWindowTitle(f"{phrase.title} – {path.name} – Dromic")
        self.undo_stack.clear()
        self._new_phrase = True
        self.apply_choices(choices_for(phrase, self.choices))

    def _choose(self, choices: Choices) -> None:
        self.undo_stack.push(_Choose(self, self.choices, choices))

    def apply_choices(self, choices: Choices) -> None:
        """Take over choices and plan anew; the old chart stays until the new one is there."""
        self.choices = choices
        self.panel.show_choices(choices)
        if self.opened is None:
            return
        phrase = self.opened[3]
        self.notice.hide()
        self._advise_soon.stop()
        self.adviser.cancel()

        def job(progress: Progress) -> Solved:
            solved = solve(request_for(phrase, choices), progress)
            _ = solved.plan  # judged here, off the interface thread
            return solved

        self.planner.start(job)

    def _was_planned(self, answer: object) -> None:
        assert isinstance(answer, Solved)
        self.plan = answer.plan
        self.chart.show_plan(self.plan, keep_view=not self._new_phrase)
        self._new_phrase = False
        self.overview.set_chart(self.chart.chart)
        self.verdict.show_plan(self.plan)
        self._show_findings(self.plan)
        self._explain(self.chart.selected)
        if self.plan.said:
            self._notify("Note: " + "; ".join(self.plan.said), calm=True)
        self._answer = answer
        self._advise_soon.start()

    def _ask_advice(self) -> None:
        """Look for remedies, once the player has let a plan stand for a moment."""
        from dromic.core.remedies import with_remedies

        answer = self._answer
        if answer is not None:
            self.adviser.start(lambda progress: with_remedies(answer, presets.other_leans(), progress))

    def _was_advised(self, answer: object) -> None:
        """Findings come back with what to change; the place chosen stays chosen."""
        assert isinstance(answer, Plan)
        if self.plan is not None and answer.request is self.plan.request:
            self.plan = answer
            self._show_findings(answer)

    def _show_findings(self, plan: Plan) -> None:
        self.findings.set_plan(plan)
        count = len(plan.findings)
        self.findings_title.setText(
            f"Findings: {count}, in {len(self.findings.rows())} places" if count else "No findings"
        )

    def _refused(self, sentence: str) -> None:
        """A fault in one sentence; what was on screen stays."""
        self._notify(sentence, calm=False)
        if self.plan is None:
            self.chart.show_message(sentence)
        if self.opened is not None:
            self.tunes.setCurrentIndex(self.opened[1] - 1 if self.opened[2] else 0)

    def _notify(self, sentence: str, calm: bool) -> None:
        self.notice.setObjectName("soft" if calm else "hurt")
        style = self.notice.style()
        if style is not None:
            style.unpolish(self.notice)
            style.polish(self.notice)
        self.notice.setText(sentence)
        self.notice.show()

    @property
    def waiting_for_advice(self) -> bool:
        return self.advising or self._advise_soon.isActive()

    def _advise(self, on: bool) -> None:
        self.advising = on

    def _busy(self, on: bool) -> None:
        self.verdict.setEnabled(not on)

    def _explain(self, event: int | None) -> None:
        if event is None or self.plan is None or self.chart.chart is None:
            self.why.setText(
                "Click a note, or press F6 and use the arrow keys, to see what each hand does to get there.\n"
                "F8 steps through the findings. Ctrl + and Ctrl − zoom, Ctrl 0 shows the whole phrase."
            )
        else:
            self.why.setText("\n".join(explain_event(self.plan, event, self.chart.chart.muting)))

    def _jump(self, finding: Finding) -> None:
        if self.plan is not None:
            self.chart.select(self.plan.notes[finding.at].chord)

    def switch_theme(self) -> None:
        self.set_theme(themes.DARK if self.theme is themes.LIGHT else themes.LIGHT)

    def set_theme(self, theme: themes.Theme) -> None:
        self.theme = theme
        self._dress_application()
        self._dress_parts()

    def _dress_application(self) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        themes.apply(app, self.theme)

    def _dress_parts(self) -> None:
        for part in (self.chart, self.overview, self.findings):
            part.set_theme(self.theme)
        self.theme_button.setText("Dark" if self.theme is themes.LIGHT else "Light")
        self.settings.setValue("theme", self.theme.name)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and event.mimeData() is not None and event.mimeData().hasUrls():  # type: ignore[union-attr]
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if data is not None and data.urls():
            self.open_file(Path(data.urls()[0].toLocalFile()))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.settings.setValue("geometry", self.saveGeometry())
        self.settings.sync()
        self.reader.wait()
        self._advise_soon.stop()
        self.planner.wait()
        self.adviser.wait()
        super().closeEvent(event)
