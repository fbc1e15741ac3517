"""What the drawn views stand on: an area that scrolls, whose canvas and bars are always there."""

from __future__ import annotations

from PyQt6.QtWidgets import QAbstractScrollArea, QScrollBar, QWidget


class CanvasArea(QAbstractScrollArea):
    """Qt says that the viewport and the bars of such an area may be missing; they never are."""

    def viewport(self) -> QWidget:
        return there(super().viewport())

    def horizontalScrollBar(self) -> QScrollBar:
        bar = super().horizontalScrollBar()
        assert bar is not None
        return bar

    def verticalScrollBar(self) -> QScrollBar:
        bar = super().verticalScrollBar()
        assert bar is not None
        return bar


def there(widget: QWidget | None) -> QWidget:
    """A widget that Qt says may be missing, and that never is."""
    assert widget is not None
    return widget
