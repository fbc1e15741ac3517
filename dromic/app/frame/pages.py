"""The pages of the window: which one is shown, what it catches up with, and what keys ask of the one that is shown."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import TYPE_CHECKING, cast

from PyQt6.QtWidgets import QWidget

from dromic.app.audio.transport import Transport
from dromic.app.frame.notice import Notice
from dromic.app.frame.page_stack import PageStack
from dromic.app.frame.top_bar import TopBar
from dromic.app.kit.theme import Theme
from dromic.app.plan.plan_place import PlanPlace
from dromic.core.music.phrase import Phrase

if TYPE_CHECKING:
    from dromic.app.chart.stand_view import StandView
    from dromic.app.hands.hands_place import HandsPlace
    from dromic.app.listen.listen_place import ListenPlace
    from dromic.app.shed.shed_place import ShedPlace
    from dromic.app.weigh.weigh_place import WeighPlace
    from dromic.app.write.write_place import WritePlace
    from dromic.core.editing.edit import Span


FOLLOW_THE_PLAN = ("Plan", "Hands", "Stand", "Shed", "Listen")
"""pages that show the plan as it is now"""
SOUND_OF_THEIR_OWN = ("Shed", "Listen")
"""pages that the play bar has nothing to do with"""


class Pages:
    """`makers` tells how each page is made, by its name; `fill_screen` tells the window that a page wants all of the screen, or no
    longer does."""

    def __init__(
        self,
        plan_place: PlanPlace,
        top_bar: TopBar,
        notice: Notice,
        makers: Mapping[str, Callable[[], QWidget]],
        theme: Theme,
        fill_screen: Callable[[bool], None],
    ) -> None:
        self.plan_place, self.planning, self.top_bar, self.notice = plan_place, plan_place.planning, top_bar, notice
        self._fill_screen = fill_screen
        self.stack = PageStack("Plan", plan_place, makers, theme)
        self.transport = Transport(self.to_play)

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
        before = self.place
        if name != before:
            self.notice.leave()
        if (name == "Stand") != (before == "Stand"):
            self._fill_screen(name == "Stand")
        if name != "Write":
            self.leave_write()
        page = self.stack.show_page(name)
        self.catch_up()
        if name in SOUND_OF_THEIR_OWN and self.transport.playing:
            self.transport.stop()
        if name == "Shed":
            self.shed.practise()
        elif name == "Listen":
            self.listen.listen()
        self.transport.setVisible(name not in SOUND_OF_THEIR_OWN and not self.stack.starting)
        (self.plan_place.chart if name == "Plan" else page).setFocus()
        self.top_bar.show_place(name)

    def catch_up(self) -> None:
        """The page shown follows the phrase."""
        planning, book = self.planning, self.planning.open_book
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
        chart = self.plan_place.chart
        self.stand.show_plan(self.planning.plan, chart.selected or 0, chart.chart)

    def choose(self, name: str) -> None:
        """What the bar along the top asks for: Plan is that of the whole phrase."""
        if name == "Plan":
            self.plan_all()
        else:
            self.go_to(name)

    def plan_all(self) -> None:
        """The plan of the whole phrase."""
        self.planning.take_passage(None)
        self.go_to("Plan")

    def plan_selection(self) -> None:
        """The plan of what is selected on Write, alone."""
        self.write.catch_up()
        span = self.write.pen.selection
        if span is None or span.start >= self.planning.open_book.phrase.end:
            sentence = "Nothing is selected: hold Shift and use the arrow keys on Write, then plan it"
            self.notice.say(sentence, False)
            return
        self.planning.take_passage(span)
        self.go_to("Plan")

    def to_play(self) -> tuple[Phrase, Span | None]:
        """What the play key plays: the selection on Write; on Plan, with its strings, from the note chosen on."""
        phrase = self.planning.open_book.phrase
        if self.place == "Write":
            return phrase, self.write.pen.selection
        return self.planning.to_play(phrase, self.plan_place.chart.selected)

    def follow(self, at: Fraction | None) -> None:
        """Every page shows what sounds."""
        plan = self.planning.plan
        self.plan_place.show_playing(at)
        if "Stand" in self.stack and plan is not None and at is not None:
            self.stand.show_playing(plan.request.phrase.seconds_at(at))
        if "Write" in self.stack:
            self.write.grid.show_playing(at)

    def find_key(self) -> None:
        self.go_to("Write")
        self.write.find_key()

    def to_the_chart(self) -> None:
        (self.write.grid if self.place == "Write" else self.plan_place.chart).setFocus()

    def zoom(self, factor: float) -> None:
        if self.place == "Write":
            self.write.grid.zoom(factor)
        elif self.place == "Stand":
            self.stand.zoom(factor)
        else:
            self.plan_place.chart.zoom(factor)

    def may_interrupt(self, window: QWidget) -> bool:
        """Whether a session that runs may end; asks the player."""
        return "Shed" not in self.stack or self.shed.may_end(window)

    def may_close(self) -> bool:
        """Whether a take that is not kept is dealt with; asks the player."""
        return "Listen" not in self.stack or self.listen.may_close()

    # the view to start from

    def begin_with(self, view: QWidget) -> None:
        """Show what can be begun with, and no page."""
        self.top_bar.tunes.setEnabled(False)
        self.transport.hide()  # there is nothing to play yet
        self.stack.begin_with(view)
        self.top_bar.leave()

    def end_start(self) -> None:
        """Plan takes the place of what could be begun with."""
        if self.stack.end_start():
            self.top_bar.tunes.setEnabled(True)
            self.transport.show()
            self.go_to("Plan")
