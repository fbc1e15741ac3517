"""Shed: today's work, and the session while it runs."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings, pyqtSignal
from PyQt6.QtWidgets import QMessageBox, QStackedWidget, QWidget

from dromic.app.audio.latency import Latencies
from dromic.app.kit import stored
from dromic.app.kit.theme import Theme
from dromic.app.session.practising import Practising
from dromic.app.session.running_view import RunningView
from dromic.app.shed.today_view import TodayView
from dromic.core.practice.wishes import Wishes, wishes_from

if TYPE_CHECKING:
    from dromic.app.book.log_keeper import LogKeeper
    from dromic.app.book.planning import Planning

_KEY = "practice"


class ShedPlace(QStackedWidget):
    """Two pages: today's work, and what runs."""

    noticed = pyqtSignal(str, bool)
    drill_opened = pyqtSignal(object)
    drill_exported = pyqtSignal(object)
    hands_learned = pyqtSignal(object)
    """the player with numbers taken over from the log"""

    def __init__(
        self, planning: Planning, keeper: LogKeeper, settings: QSettings | None = None, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.settings = settings
        self.practising = Practising(planning, keeper, parent=self)
        if settings is not None:
            self.practising.wishes = _wishes(settings)
        self.practising.wished.connect(self._remember)
        self.today, self.running = TodayView(self.practising), RunningView(self.practising, Latencies(settings).of)
        self._wanted: int | None = None
        self.practising.worked.connect(self._worked)
        self.addWidget(self.today)
        self.addWidget(self.running)
        self.setFocusProxy(self.today)  # the keyboard is on the page shown
        self.practising.noticed.connect(self.noticed)
        self.running.sound.noticed.connect(self.noticed)
        self.today.begin_asked.connect(self._begin)
        self.today.drill_opened.connect(self.drill_opened)
        self.today.drill_exported.connect(self.drill_exported)
        self.today.hands.taken.connect(self.hands_learned)
        self.running.left.connect(self._back)
        self.today.hands.measure.clicked.connect(self.practising.measure)
        self.practising.begun.connect(self._run)
        self.practising.measured.connect(self.today.show_measured)
        planning.planned.connect(lambda *_: self._follow())
        planning.emptied.connect(lambda _: self._follow())

    def set_theme(self, theme: Theme) -> None:
        self.today.set_theme(theme)
        self.running.set_theme(theme)

    def practise(self) -> None:
        """The page is shown: today's work of the plan as it is now; a session that runs goes on."""
        if self.practising.session is None:
            self.practising.refresh()
        else:
            self.running.start()

    def may_end(self, window: QWidget) -> bool:
        """Whether a session that runs ends for something else; asks the player, and ends it."""
        if self.practising.session is None:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            window, "A session runs", "A session of practice runs. End it? What was played is in the log.",
            buttons.Yes | buttons.No, buttons.No,
        )  # fmt: skip
        if answer == buttons.Yes:
            self.practising.end()
        return answer == buttons.Yes

    def choose(self, event: int) -> None:
        """The drill that goes over an event; once today's work is there, where it is still worked out."""
        self._wanted = event
        if self.practising.work is not None:
            self.today.to_event(event)

    def _worked(self) -> None:
        wanted, self._wanted = self._wanted, None
        if wanted is not None and self.practising.work is not None:
            self.today.to_event(wanted)

    def _follow(self) -> None:
        if self.isVisible() and self.practising.session is None:
            self.practising.refresh()

    def _begin(self, drill: int | None) -> None:
        self.practising.begin(drill)
        if self.practising.session is not None:
            self._run()

    def _run(self) -> None:
        self.setCurrentWidget(self.running)
        self.setFocusProxy(self.running)
        self.running.start()

    def _back(self) -> None:
        self.setCurrentWidget(self.today)
        self.setFocusProxy(self.today)
        self.today.list.setFocus()

    def stop(self) -> None:
        """The window closes."""
        self.running.stop()
        self.today.hands.stop()
        self.today.strip.stop()
        self.practising.stop()

    def _remember(self, wishes: Wishes) -> None:
        """How a player practises holds on from day to day."""
        if self.settings is not None:
            self.settings.setValue(_KEY, json.dumps(wishes.entry()))


def _wishes(settings: QSettings) -> Wishes:
    try:
        return wishes_from(json.loads(stored.text(settings, _KEY, "{}")))
    except ValueError:
        return Wishes()
