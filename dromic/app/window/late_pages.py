"""The pages that are made when they are first wanted, and what of theirs the window hears: an entry a page."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from dromic.app.book.school_cards import SETTING
from dromic.app.kit import stored
from dromic.app.window.shell import Shell

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget


def _write(shell: Shell) -> QWidget:
    from dromic.app.write.write_place import WritePlace

    place = WritePlace(shell.open_book, shell.settings)
    place.noticed.connect(shell.notify)
    place.grid.play_asked.connect(shell.transport.toggle)
    return place


def _weigh(shell: Shell) -> QWidget:
    from dromic.app.weigh.weigh_place import WeighPlace

    place = WeighPlace(shell.roster)
    place.noticed.connect(shell.notify)
    place.taken.connect(shell.handing_on.take_choices)
    place.kept.connect(shell.handing_on.keep_decision)
    return place


def _hands(shell: Shell) -> QWidget:
    from dromic.app.hands.hands_place import HandsPlace

    place = HandsPlace(shell.planning, stored.text(shell.settings, SETTING))
    place.school_cards.chosen.connect(shell.handing_on.play_kind)
    place.noticed.connect(shell.notify)
    place.done.connect(lambda: shell.pages.go_to("Plan"))
    return place


def _stand(shell: Shell) -> QWidget:
    from dromic.app.chart.stand_view import StandView

    view, chart = StandView(), shell.plan_place.chart
    view.left.connect(shell.pages.toggle_stand)
    view.play_asked.connect(shell.transport.toggle)
    view.selected_changed.connect(chart.select)
    shell.planning.planned.connect(lambda *_: view.show_plan(shell.plan, view.now, chart.chart))
    return view


def _shed(shell: Shell) -> QWidget:
    from dromic.app.shed.shed_place import ShedPlace

    place = ShedPlace(shell.planning, shell.log_keeper, shell.settings)
    place.noticed.connect(shell.notify)
    place.drill_opened.connect(shell.handing_on.take_drill)
    place.drill_exported.connect(shell.papers.export_drill)
    place.hands_learned.connect(shell.handing_on.take_hands)
    place.today.strip.log_menu.offer(shell.claims)
    return place


def _listen(shell: Shell) -> QWidget:
    from dromic.app.listen.listen_place import ListenPlace

    place = ListenPlace(shell.planning, shell.log_keeper, shell.settings)
    place.noticed.connect(shell.notify)
    place.practice_asked.connect(shell.handing_on.practise_event)
    return place


LATE_PAGES: Mapping[str, Callable[[Shell], QWidget]] = {
    "Write": _write,
    "Weigh": _weigh,
    "Shed": _shed,
    "Listen": _listen,
    "Hands": _hands,
    "Stand": _stand,
}
