"""The pages of the window: which one is shown, what it catches up with, and what keys ask of the one that is shown."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from typing import TYPE_CHECKING, cast

from PyQt6.QtWidgets import QWidget

from dromic.app.window.late_pages import FOLLOW_THE_PLAN, LATE_PAGES, SOUND_OF_THEIR_OWN
from dromic.app.window.page_stack import PageStack
from dromic.core.music.phrase import Phrase

if TYPE_CHECKING:
    from dromic.app.chart.stand_view import StandView
    from dromic.app.hands.hands_place import HandsPlace
    from dromic.app.listen.listen_place import ListenPlace
    from dromic.app.shed.shed_place import ShedPlace
    from dromic.app.weigh.weigh_place import WeighPlace
    from dromic.app.window.shell import Shell
    from dromic.app.write.write_place import WritePlace
    from dromic.core.editing.edit import Span


class Pages:
    """`fill_screen` tells the window that a page wants all of the screen, or no longer does."""

    def __init__(self, shell: Shell, fill_screen: Callable[[bool], None]) -> None:
        self._shell, self._fill_screen = shell, fill_screen
        makers = {name: partial(make, shell) for name, make in LATE_PAGES.items()}
        self.stack = PageStack("Plan", shell.plan_place, makers, shell.looks.theme)

    @property
    def write(self) -> WritePlace:
        return cast("WritePlace", self.stack.page("Write"))

    @property
    def weigh(self) -> WeighPlace:
        return cast("WeighPlace", self.stack.page("Weigh"))

    @property
    def shed(self) -> ShedPlace:
        return cast("ShedPlace", self.stack.page("Shed"))

    @property
    def listen(self) -> ListenPlace:
        return cast("ListenPlace", self.stack.page("Listen"))

    @property
    def hands(self) -> HandsPlace:
        return cast("HandsPlace", self.stack.page("Hands"))

    @property
    def stand(self) -> StandView:
        return cast("StandView", self.stack.page("Stand"))

    @property
    def place(self) -> str:
        """The name of the page shown."""
        return self.stack.shown

    def go_to(self, name: str) -> None:
        """Show a page, caught up with the phrase."""
        shell, before = self._shell, self.place
        if name != before:
            shell.notice.leave()
        if (name == "Stand") != (before == "Stand"):
            self._fill_screen(name == "Stand")
        if name != "Write":
            self.leave_write()
        page = self.stack.show_page(name)
        self.catch_up()
        if name in SOUND_OF_THEIR_OWN and shell.transport.playing:
            shell.transport.stop()
        if name == "Shed":
            self.shed.practise()
        elif name == "Listen":
            self.listen.listen()
        shell.transport.setVisible(name not in SOUND_OF_THEIR_OWN and not self.stack.starting)
        (shell.plan_place.chart if name == "Plan" else page).setFocus()
        shell.top_bar.show_place(name)

    def catch_up(self) -> None:
        """The page shown follows the phrase."""
        planning, book = self._shell.planning, self._shell.open_book
        if self.place in FOLLOW_THE_PLAN:
            planning.catch_up()
        elif self.place == "Weigh" and planning.phrase is not None:
            kept = book.entry.decisions if planning.passage is None else ()
            self.weigh.weigh(planning.phrase, planning.choices, kept)

    def leave_write(self) -> None:
        """What is typed on Write and not taken yet is taken now."""
        if "Write" in self.stack:
            self.write.line.flush()

    def toggle_stand(self) -> None:
        """To the large view for the music stand and back; it fills the screen."""
        if self.place == "Stand":
            self.go_to("Plan")
            return
        self.go_to("Stand")
        chart = self._shell.plan_place.chart
        self.stand.show_plan(self._shell.plan, chart.selected or 0, chart.chart)

    def choose(self, name: str) -> None:
        """What the bar along the top asks for: Plan is that of the whole phrase."""
        if name == "Plan":
            self.plan_all()
        else:
            self.go_to(name)

    def plan_all(self) -> None:
        """The plan of the whole phrase."""
        self._shell.planning.take_passage(None)
        self.go_to("Plan")

    def plan_selection(self) -> None:
        """The plan of what is selected on Write, alone."""
        self.write.catch_up()
        span = self.write.pen.selection
        if span is None or span.start >= self._shell.open_book.phrase.end:
            sentence = "Nothing is selected: hold Shift and use the arrow keys on Write, then plan it"
            self._shell.notify(sentence, False)
            return
        self._shell.planning.take_passage(span)
        self.go_to("Plan")

    def to_play(self) -> tuple[Phrase, Span | None]:
        """What the play key plays: the selection on Write; on Plan, with its strings, from the note chosen on."""
        phrase = self._shell.open_book.phrase
        if self.place == "Write":
            return phrase, self.write.pen.selection
        return self._shell.planning.to_play(phrase, self._shell.plan_place.chart.selected)

    def follow(self, at: Fraction | None) -> None:
        """Every page shows what sounds."""
        plan = self._shell.plan
        self._shell.plan_place.show_playing(at)
        if "Stand" in self.stack and plan is not None and at is not None:
            self.stand.show_playing(plan.request.phrase.seconds_at(at))
        if "Write" in self.stack:
            self.write.grid.show_playing(at)

    def find_key(self) -> None:
        self.go_to("Write")
        self.write.find_key()

    def to_the_chart(self) -> None:
        (self.write.grid if self.place == "Write" else self._shell.plan_place.chart).setFocus()

    def zoom(self, factor: float) -> None:
        if self.place == "Write":
            self.write.grid.zoom(factor)
        elif self.place == "Stand":
            self.stand.zoom(factor)
        else:
            self._shell.plan_place.chart.zoom(factor)

    def may_interrupt(self, window: QWidget) -> bool:
        """Whether a session that runs may end; asks the player."""
        return "Shed" not in self.stack or self.shed.may_end(window)

    def may_close(self) -> bool:
        """Whether a take that is not kept is dealt with; asks the player."""
        return "Listen" not in self.stack or self.listen.may_close()

    # the view to start from

    def begin_with(self, view: QWidget) -> None:
        """Show what can be begun with, and no page."""
        self._shell.tunes.setEnabled(False)
        self._shell.transport.hide()  # there is nothing to play yet
        self.stack.begin_with(view)
        self._shell.top_bar.leave()

    def end_start(self) -> None:
        """Plan takes the place of what could be begun with."""
        if self.stack.end_start():
            self._shell.tunes.setEnabled(True)
            self._shell.transport.show()
            self.go_to("Plan")
