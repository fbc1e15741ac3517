"""Listen: a take over the two-hand chart, the worst of it with its likely cause, and a drill for it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QSpinBox,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from dromic.app.audio.latency import Latencies
from dromic.app.book.claims import TAKES_FOLDER
from dromic.app.chart.chart_view import ChartView
from dromic.app.kit.theme import Theme
from dromic.app.listen.error_lane import ErrorLane
from dromic.app.listen.error_plot import ErrorPlot
from dromic.app.listen.even_view import EvenView
from dromic.app.listen.input_dialog import InputDialog
from dromic.app.listen.keeping import Keeping
from dromic.app.listen.kept_view import KeptView
from dromic.app.listen.taking import ALL, BAR, BARS, NO_PLAN, NOTE, SPEEDS, Taking
from dromic.core.listening.report import TakeReport, Worst
from dromic.core.listening.verdicts import CLEAN, CONNECT, DRIVEN, EXACT, RING, SEPARATE, Manner
from dromic.core.plan.kind_words import FRET_KINDS, PICK_KINDS

if TYPE_CHECKING:
    from dromic.app.book.log_keeper import LogKeeper
    from dromic.app.book.planning import Planning
    from dromic.store.takes import KeptTake

_SIDE_PX = 360
"""Width of the column beside the chart, px."""
_METER_PX = 70
"""Width of the input's level, px."""
_TAKES = "Takes (*.wav *.flac *.ogg *.mid *.midi)"
_IDEALS = (
    ("Notes touch the next", CONNECT), ("Notes end with the next", EXACT), ("Notes stand apart", SEPARATE),
    ("Notes ring on", RING),
)  # fmt: skip
_REACHES = (("About the note", NOTE), ("Its bar", BAR), ("Two bars", BARS), ("All of it", ALL))
_SIGNALS = (("Clean signal", CLEAN), ("Driven signal", DRIVEN))


class ListenPlace(QWidget):
    """Shows the take of its model against the plan that stands on Plan."""

    noticed = pyqtSignal(str, bool)
    practice_asked = pyqtSignal(int)
    """an event to practise on Shed"""

    def __init__(
        self, planning: Planning, keeper: LogKeeper, settings: QSettings | None = None, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.latencies = Latencies(settings)
        self.taking = Taking(planning, self.latencies.of, self)
        self.planning = planning
        self.keeping = Keeping(self.taking, keeper.path.parent / TAKES_FOLDER, keeper, parent=self)
        self.chart, self.plot, self.list = ChartView(), ErrorPlot(), QListWidget()
        self.evenness, self.days, self.tabs = EvenView(), KeptView(), QTabWidget()
        self.lane = ErrorLane(self.chart)
        self._shown: TakeReport | None = None
        self.open, self.simulate = QPushButton("Open a take…"), QPushButton("Simulated take")
        self.record, self.meter = QPushButton("Record"), QProgressBar()
        self.set_up = QPushButton("Input…")
        self.level, self.seed = QSpinBox(), QSpinBox()
        self.ideal, self.signal = QComboBox(), QComboBox()
        self.head, self.said, self.even = QLabel(), QLabel(), QLabel()
        self.practise, self.hear = QPushButton("Practise it"), QPushButton("Hear it")
        self.reach, self.speed, self.loop = QComboBox(), QComboBox(), QCheckBox("Loop")
        self.cancel = QPushButton("Stop listening")
        self._build()
        self.taking.heard.connect(self.show_take)
        self.taking.working.connect(self._working)
        self.taking.noticed.connect(self.noticed)
        self.open.clicked.connect(self.ask)
        self.record.clicked.connect(self._record)
        self.set_up.clicked.connect(lambda: InputDialog(self.latencies, self).open())
        self.taking.level.connect(lambda level: self.meter.setValue(round(100 * level)))
        self.simulate.clicked.connect(lambda: self.taking.simulate(self.level.value() / 100, self.seed.value()))
        self.cancel.clicked.connect(self.taking.cancel)
        for box in (self.ideal, self.signal):
            box.currentIndexChanged.connect(lambda _: self._judge())
        self.list.currentRowChanged.connect(self._go)
        self.list.itemActivated.connect(lambda _: self._practise())
        self.practise.clicked.connect(self._practise)
        self.hear.clicked.connect(self.play)
        self.chart.play_asked.connect(self.play)
        self.keeping.noticed.connect(self.noticed)
        self.keeping.changed.connect(self._show_kept)
        self.days.keep_asked.connect(self.keeping.keep)
        self.days.log_asked.connect(self.keeping.log)
        self.days.throw_asked.connect(self.keeping.throw)
        self.days.back_asked.connect(self.keeping.bring_back)
        self.days.open_asked.connect(lambda kept: self.taking.open_kept(kept, self.keeping.takes))
        planning.planned.connect(lambda *_: self.listen() if self.isVisible() else None)

    def hear_when_planned(self, take: KeptTake) -> None:
        """Hear a recording as soon as the phrase it is of is planned."""

        def hear(*_: object) -> None:
            if self.planning.name.key == take.of.key:
                self.planning.planned.disconnect(hear)
                self.taking.open_kept(take, self.keeping.takes)

        self.planning.planned.connect(hear)
        if self.planning.plan is not None:
            hear()

    def may_close(self) -> bool:
        """Whether the window may close: what was recorded and not kept is asked about."""
        if self.taking.recording:
            self._record()
        if not self.keeping.unkept:
            return True
        answer = self.ask_unkept(len(self.keeping.unkept))
        if answer == QMessageBox.StandardButton.Save:
            self.keeping.keep_all()
        elif answer == QMessageBox.StandardButton.Discard:
            self.keeping.throw_all()
        return answer != QMessageBox.StandardButton.Cancel

    def ask_unkept(self, count: int) -> QMessageBox.StandardButton:
        buttons, many = QMessageBox.StandardButton, count > 1
        box = QMessageBox(QMessageBox.Icon.Question, "Recorded, not kept yet", "", parent=self.window())
        box.setText(f"{count} recordings are not kept yet." if many else "1 recording is not kept yet.")
        box.setInformativeText(
            f"Left as {'they are' if many else 'it is'}, the next start offers {'them' if many else 'it'}."
        )
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Ignore | buttons.Cancel)
        for button, words in (
            (buttons.Save, "Keep"),
            (buttons.Discard, "Throw away"),
            (buttons.Ignore, "Leave for later"),
        ):
            box.button(button).setText(words)  # type: ignore[union-attr]
        box.setDefaultButton(buttons.Save)
        box.exec()
        box.deleteLater()
        return box.standardButton(box.clickedButton())

    def _build(self) -> None:
        self.level.setRange(0, 100)
        self.level.setSingleStep(10)
        self.level.setValue(60)
        self.level.setSuffix(" % over")
        self.level.setAccessibleName("how far the simulated player is over its ceiling")
        self.seed.setRange(1, 9999)
        self.seed.setPrefix("number ")
        self.seed.setAccessibleName("which simulated take")
        for box, entries, name in (
            (self.ideal, _IDEALS, "what notes do at their ends"),
            (self.signal, _SIGNALS, "signal"),
        ):
            for words, value in entries:
                box.addItem(words, value)
            box.setAccessibleName(name)
        for share in SPEEDS:
            self.speed.addItem(f"at {share:.0%}", share)
        self.speed.setAccessibleName("speed")
        for words, of in _REACHES:
            self.reach.addItem(words, of)
        self.reach.setAccessibleName("how much of the take to hear")
        self.open.setShortcut("Ctrl+Shift+T")
        self.open.setToolTip("WAV, FLAC, OGG or MIDI (Ctrl+Shift+T)")
        self.simulate.setShortcut("Ctrl+Shift+I")
        self.simulate.setToolTip("What the simulated player makes of the plan (Ctrl+Shift+I)")
        self.practise.setToolTip("A drill for this place, on Shed (Enter)")
        self.hear.setToolTip("The take about the note chosen (Space on the chart)")
        self.head.setObjectName("section")
        self.list.setAccessibleName("the worst places of the take")
        self.list.setWordWrap(True)
        for label in (self.head, self.said, self.even):
            label.setWordWrap(True)
        top = QHBoxLayout()
        for widget in (
            self.open,
            self.record,
            self.meter,
            self.set_up,
            self.simulate,
            self.level,
            self.seed,
            self.ideal,
            self.signal,
            self.cancel,
        ):
            top.addWidget(widget)
        top.addStretch(1)
        self.cancel.hide()
        self.meter.hide()
        self.meter.setFixedWidth(_METER_PX)
        self.meter.setTextVisible(False)
        self.meter.setAccessibleName("level of the input")
        self.record.setShortcut("Ctrl+R")
        self.record.setToolTip("A bar is counted in, then play; the same again to stop (Ctrl+R)")
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.chart, 1)
        left.addWidget(self.lane)
        side = QVBoxLayout()
        side.addWidget(self.head)
        side.addWidget(self.even)
        side.addWidget(self.said)
        side.addWidget(self.list, 1)
        row = QHBoxLayout()
        for part in (self.practise, self.hear):
            row.addWidget(part)
        row.addStretch(1)
        how = QHBoxLayout()
        for control in (self.reach, self.speed, self.loop):
            how.addWidget(control)
        how.addStretch(1)
        side.addLayout(row)
        side.addLayout(how)
        for view, words in ((self.plot, "Against the load"), (self.evenness, "Evenness"), (self.days, "Takes")):
            self.tabs.addTab(view, words)
        side.addWidget(self.tabs, 2)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(_SIDE_PX)
        middle = QHBoxLayout()
        middle.addLayout(left, 1)
        middle.addWidget(holder)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(10, 4, 10, 4)
        whole.addLayout(top)
        whole.addLayout(middle, 1)
        self.setFocusProxy(self.list)

    def set_way_up(self, low_on_top: bool) -> None:
        """Which string is on top of the chart."""
        self.chart.set_way_up(low_on_top)

    def set_theme(self, theme: Theme) -> None:
        for view in (self.chart, self.lane, self.plot, self.evenness, self.days):
            view.set_theme(theme)

    def listen(self) -> None:
        """The page is shown: over the plan as it is now; a take of another plan is gone."""
        plan = self.planning.plan
        if plan is None:
            self.chart.show_message(NO_PLAN)
            self.taking.forget()
            return
        take = self.taking.take
        if take is not None and take.plan.request.phrase != plan.request.phrase:
            self.taking.forget()
        elif take is not None and take.plan.request is not plan.request:
            self.taking.judge_as(self.taking.manner)  # the same phrase, planned otherwise: other loads
        self.chart.show_plan(
            plan, self.chart.plan is not None and self.chart.plan.request.phrase == plan.request.phrase
        )
        self.show_take()

    def show_take(self) -> None:
        """What is said of the take."""
        take = self.taking.take
        report = take.report if take is not None else None
        fresh, self._shown = report is not self._shown, report
        if fresh:
            self.lane.show_report(report)
            self.plot.show_report(report)
            self.evenness.show_report(report)
            self.list.clear()
        for button in (self.practise, self.hear):
            button.setEnabled(report is not None)
        self._show_kept()
        if take is None or report is None:
            self.head.setText("No take yet")
            self.even.setText("")
            self.said.setText("Strokes are the plan's: sound does not tell them.")
            return
        fine = len(report.notes) - len(report.faults)
        self.head.setText(f"{fine} of {len(report.notes)} notes as they are meant, at {report.tempo:.0f}")
        self.even.setText(even_words(report))
        about = "All of it is estimated; strokes are the plan's."
        self.said.setText(" ".join([f"{take.name[:1].upper()}{take.name[1:]}.", *report.said, about]))
        if not fresh:
            return  # the place that was chosen stays
        bars = {n.event: n.bar_number for n in take.plan.notes}
        for worst in report.worst:
            item = QListWidgetItem(worst_words(worst, bars[worst.event]))
            item.setData(Qt.ItemDataRole.UserRole, worst.event)
            self.list.addItem(item)
        if not report.worst:
            self.list.addItem("Nothing stands out: play it faster, or take the next phrase.")
        self.list.setCurrentRow(0)

    def _show_kept(self) -> None:
        self.days.show_takes(self.keeping.kept(), self.taking.take is not None, bool(self.keeping.thrown))
        self.days.log.setText("Out of the log" if self.keeping.logged else "Into the log")

    def ask(self) -> None:
        """Ask for a take."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a take", "", _TAKES)
        if name:
            self.taking.open(Path(name))

    def _record(self) -> None:
        """Begin to record; or stop, and hear it."""
        if self.taking.recording:
            self.taking.keep()
        elif self.taking.record():
            self.head.setText("Recording: a bar is counted in, then play")
        self._show_recording()

    def _show_recording(self) -> None:
        self.meter.setVisible(self.taking.recording)
        self.record.setText("Stop" if self.taking.recording else "Record")

    def _judge(self) -> None:
        self.taking.judge_as(Manner(self.ideal.currentData(), self.signal.currentData()))

    def _working(self, on: bool) -> None:
        self.cancel.setVisible(on)
        self._show_recording()
        if on:
            self.head.setText("Listening…")
        else:
            self.show_take()

    def _event(self) -> int | None:
        item = self.list.currentItem()
        event = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        return event if isinstance(event, int) else None

    def _go(self, _row: int) -> None:
        event = self._event()
        if event is not None:
            self.chart.select(event)

    def _practise(self) -> None:
        event = self._event()
        if event is not None:
            self.practice_asked.emit(event)

    def play(self) -> None:
        """Hear the take about the note chosen."""
        take, event = self.taking.take, self.chart.selected
        if take is None:
            self.noticed.emit("There is no take to hear yet", False)
            return
        passage = take.passage(event, self.reach.currentData())
        if passage is not None:
            self.taking.play(*passage, self.speed.currentData(), self.loop.isChecked())

    def hideEvent(self, event: QHideEvent | None) -> None:
        """Another page: what is being recorded is kept, and nothing sounds on."""
        if self.taking.recording:
            self._record()
        self.taking.stop_sound()
        super().hideEvent(event)

    def stop(self) -> None:
        """The window closes."""
        self.taking.close()
        self.keeping.close()


def even_words(report: TakeReport) -> str:
    """How even a take is, in a sentence."""
    ratio = "".join(f", {r.kind} {r.played:.2f} to 1 ({r.meant:.2f} meant)" for r in report.ratios)
    extra = f"; {len(report.extra)} notes too many" if report.extra else ""
    return f"Uneven by {report.timing_ms:.0f} ms and {report.loudness_db:.1f} dB{ratio}{extra}; sure to {report.confidence:.0%}."


def worst_words(worst: Worst, bar: int) -> str:
    """A place to work on, with its likely cause."""
    ms = f" by {abs(worst.ms):.0f} ms" if worst.what in ("late", "early") else ""
    told = {"picking": {k: w.by for k, w in PICK_KINDS.items()}, "fretting": dict(FRET_KINDS)}[worst.hand].get(
        worst.likely
    )
    cause = f"the {worst.hand} hand: {told}" if told else "the plan saw nothing hard there"
    return f"Bar {bar}, note {worst.notes[-1] + 1}: {worst.what}{ms}\n{cause} (load {worst.load:.2f})"
