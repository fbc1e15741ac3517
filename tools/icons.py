"""Redraws the small arrows of boxes and lists in both themes' colours, at twice their size."""

from __future__ import annotations

import sys
from pathlib import Path

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QGuiApplication, QImage, QPainter, QPen, QPolygonF

from dromic.app.kit.theme import THEMES

WIDE, TALL, STROKE = 20, 12, 3.0


def main() -> int:
    app = QGuiApplication(sys.argv[:1])
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "dromic/data/icons")
    for theme in THEMES.values():
        for name, ends, tip in (("down", 2.0, 10.0), ("up", 10.0, 2.0)):
            image = QImage(WIDE, TALL, QImage.Format.Format_ARGB32_Premultiplied)
            image.fill(Qt.GlobalColor.transparent)
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            cap, join = Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
            painter.setPen(QPen(theme.colour("soft"), STROKE, Qt.PenStyle.SolidLine, cap, join))
            painter.drawPolyline(QPolygonF([QPointF(2, ends), QPointF(WIDE / 2, tip), QPointF(WIDE - 2, ends)]))
            painter.end()
            image.save(str(folder / f"{name}-{theme.name}.png"))
    app.quit()
    return 0


if __name__ == "__main__":
    sys.exit(main())
