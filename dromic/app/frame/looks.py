"""How the window looks, kept from session to session: light or dark, and which string is on top."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, runtime_checkable

from PyQt6.QtCore import QObject, QSettings
from PyQt6.QtWidgets import QApplication, QPushButton

from dromic.app.frame.page_stack import PageStack
from dromic.app.kit import stored
from dromic.app.kit import theme as themes

LOOKED_DOWN_UPON = (
    "The low string is on top now, as you see your own strings when you look down at them, so that a down-stroke goes down. "
    "Write and the sheet keep string 1 on top, as tablature has it"
)
AS_IN_TABLATURE = (
    "String 1 is on top now, as in tablature, so that the chart reads like the page; a down-stroke goes up the screen"
)


@runtime_checkable
class Turnable(Protocol):
    """A page that draws strings, and can draw them the other way up."""

    def set_way_up(self, low_on_top: bool) -> None: ...


class Looks(QObject):
    """One switch for each; `say` is told what turning the strings means."""

    def __init__(self, settings: QSettings, say: Callable[[str, bool], None], parent: QObject) -> None:
        super().__init__(parent)
        self.settings, self.say = settings, say
        self.theme = themes.THEMES.get(stored.text(settings, "theme", "light"), themes.LIGHT)
        self.low_on_top = stored.text(settings, "strings", "looked-down-upon") != "tablature"
        self._dress_application()  # before there are widgets, each of which would be dressed again
        self.stack: PageStack | None = None
        self.button: QPushButton | None = None

    def dress(self, stack: PageStack, button: QPushButton) -> None:
        """The pages and the switch of the theme, once they are there."""
        self.stack, self.button = stack, button
        stack.dressed.connect(self._turn)
        self._dress_parts()

    def set_theme(self, theme: themes.Theme) -> None:
        self.theme = theme
        self._dress_application()
        self._dress_parts()

    def switch_theme(self) -> None:
        self.set_theme(themes.DARK if self.theme is themes.LIGHT else themes.LIGHT)

    def turn_strings(self) -> None:
        """The strings of chart, neck, large view and Weigh the other way up."""
        self.low_on_top = not self.low_on_top
        self.settings.setValue("strings", "looked-down-upon" if self.low_on_top else "tablature")
        if self.stack is not None:
            for page in self.stack.pages():
                self._turn(page)
        self.say(LOOKED_DOWN_UPON if self.low_on_top else AS_IN_TABLATURE, True)

    def _turn(self, page: object) -> None:
        if isinstance(page, Turnable):
            page.set_way_up(self.low_on_top)

    def _dress_application(self) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        themes.apply(app, self.theme)

    def _dress_parts(self) -> None:
        assert self.stack is not None and self.button is not None
        self.stack.set_theme(self.theme)
        self.button.setText("Dark" if self.theme is themes.LIGHT else "Light")
        self.settings.setValue("theme", self.theme.name)
