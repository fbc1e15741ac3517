"""The pages of the window, one shown at a time; all but the first are made when they are first wanted."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Protocol, runtime_checkable

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from dromic.app.kit.theme import Theme


@runtime_checkable
class Themed(Protocol):
    """A page that dresses parts of its own."""

    def set_theme(self, theme: Theme) -> None: ...


@runtime_checkable
class Working(Protocol):
    """A page with work of its own, which ends with the window."""

    def stop(self) -> None: ...


class PageStack(QStackedWidget):
    """`makers` tells how each page is made, by its name; the `first` is there from the beginning."""

    dressed = pyqtSignal(object)
    """a page that has been given its theme"""

    def __init__(self, name: str, first: QWidget, makers: Mapping[str, Callable[[], QWidget]], theme: Theme) -> None:
        super().__init__()
        self._makers, self._theme = makers, theme
        self._first = name
        self._made = {name: first}
        self._start: QWidget | None = None
        self.addWidget(first)
        self.currentChanged.connect(lambda _: self.updateGeometry())

    def minimumSizeHint(self) -> QSize:
        """What the page that is shown needs; none is made to scroll for another that is larger."""
        shown = self.currentWidget()
        return shown.minimumSizeHint() if shown is not None else super().minimumSizeHint()

    def page(self, name: str) -> QWidget:
        """A page, made now if it is not there yet."""
        if name not in self._made:
            self._made[name] = made = self._makers[name]()
            self.addWidget(made)
            self._dress(made)
        return self._made[name]

    def __contains__(self, name: str) -> bool:
        """Whether a page has been made."""
        return name in self._made

    @property
    def shown(self) -> str:
        """The name of the page shown; the first's while there is nothing but the view to start from."""
        return next((n for n, page in self._made.items() if page is self.currentWidget()), self._first)

    def show_page(self, name: str) -> QWidget:
        page = self.page(name)
        self.setCurrentWidget(page)
        return page

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        for page in (*self._made.values(), *((self._start,) if self._start is not None else ())):
            self._dress(page)

    def _dress(self, page: QWidget) -> None:
        if isinstance(page, Themed):
            page.set_theme(self._theme)
        self.dressed.emit(page)

    def pages(self) -> list[QWidget]:
        """The pages made so far."""
        return list(self._made.values())

    def stop(self) -> None:
        """The window closes: the pages' work ends."""
        for page in self._made.values():
            if isinstance(page, Working):
                page.stop()

    # the view to start from

    @property
    def starting(self) -> bool:
        """Whether there is nothing to show yet but what can be begun with."""
        return self._start is not None

    def begin_with(self, view: QWidget) -> None:
        """Show the view to start from."""
        self._start = view
        self.addWidget(view)
        self.setCurrentWidget(view)
        view.setFocus()

    def end_start(self) -> bool:
        """Whether the view to start from was showing; it is gone now."""
        if self._start is None:
            return False
        self.removeWidget(self._start)
        self._start.deleteLater()
        self._start = None
        return True
