"""Puts the sheet on paper: SVG, PDF and PNG through Qt, with the shipped font. Needs no screen."""

from __future__ import annotations

import os
from collections.abc import Sequence

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import (
    QColor,
    QFont,
    QFontDatabase,
    QFontMetricsF,
    QGuiApplication,
    QImage,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPen,
)
from PyQt6.QtSvg import QSvgGenerator

from dromic.formats.sheet.sheet import PAGE_H, PAGE_W, Line, Page, Ring, Words
from dromic.presets import DATA

FAMILY = "Atkinson Hyperlegible Next"
WEIGHTS = {"normal": 400, "strong": 600, "heavy": 700}
INK = "#111111"
"""Colour of what is printed."""
PAPER = "#ffffff"
"""Colour of the page."""
PNG_PER_MM = 6.0
"""Dots a millimetre: 150 to the inch."""
SVG_PER_MM = 4.0
"""Units that an SVG counts a millimetre in."""
_TITLE = "Dromic sheet"
_kept: list[QGuiApplication] = []


def ready() -> None:
    """An application for the fonts, where there is none yet, and the shipped font."""
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _kept.append(QGuiApplication(["dromic"]))
    if FAMILY not in QFontDatabase.families():
        for weight in WEIGHTS.values():
            name = DATA / "fonts" / f"AtkinsonHyperlegibleNext-{weight}.ttf"
            QFontDatabase.addApplicationFontFromData(name.read_bytes())


def paint_page(painter: QPainter, page: Page, per_mm: float) -> None:
    """One page, so many device units to the millimetre."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(QRectF(0, 0, PAGE_W * per_mm, PAGE_H * per_mm), QColor(PAPER))
    for mark in page.marks:
        if isinstance(mark, Line):
            painter.setPen(QPen(QColor(INK), mark.width * per_mm, cap=Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(mark.x1 * per_mm, mark.y1 * per_mm), QPointF(mark.x2 * per_mm, mark.y2 * per_mm))
        elif isinstance(mark, Ring):
            painter.setPen(QPen(QColor(INK), mark.width * per_mm))
            painter.setBrush(QColor(INK) if mark.filled else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(mark.x * per_mm, mark.y * per_mm), mark.radius * per_mm, mark.radius * per_mm)
        else:
            _words(painter, mark, per_mm)


def _words(painter: QPainter, mark: Words, per_mm: float) -> None:
    font = QFont(FAMILY)
    font.setWeight(QFont.Weight(WEIGHTS[mark.weight]))
    font.setPixelSize(max(1, round(mark.size * per_mm * 1.25)))
    painter.setFont(font)
    wide = QFontMetricsF(font).horizontalAdvance(mark.text)
    left = mark.x * per_mm - wide * (mark.align + 1) / 2
    if mark.patch:
        height = mark.size * per_mm
        painter.fillRect(
            QRectF(left - 0.2 * per_mm, mark.y * per_mm - 0.85 * height, wide + 0.4 * per_mm, height), QColor(PAPER)
        )
    painter.setPen(QColor(INK))
    painter.drawText(QPointF(left, mark.y * per_mm), mark.text)


def pdf_bytes(pages: Sequence[Page]) -> bytes:
    """All pages as one PDF."""
    ready()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(_TITLE)
    writer.setCreator("Dromic")
    writer.setResolution(600)
    writer.setPageLayout(a4())
    painter = QPainter(writer)
    per_mm = writer.resolution() / 25.4
    for n, page in enumerate(pages):
        if n:
            writer.newPage()
        paint_page(painter, page, per_mm)
    painter.end()
    buffer.close()
    return buffer.data().data()


def a4() -> QPageLayout:
    """The paper, its margins left to the sheet."""
    return QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))


def svg_bytes(pages: Sequence[Page]) -> bytes:
    """All pages as one SVG, one under the other."""
    ready()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setTitle(_TITLE)
    size = QSizeF(PAGE_W * SVG_PER_MM, PAGE_H * SVG_PER_MM * len(pages))
    generator.setViewBox(QRectF(0, 0, size.width(), size.height()))
    generator.setSize(size.toSize())
    painter = QPainter(generator)
    for page in pages:
        paint_page(painter, page, SVG_PER_MM)
        painter.translate(0, PAGE_H * SVG_PER_MM)
    painter.end()
    return buffer.data().data()


def png_bytes(pages: Sequence[Page]) -> bytes:
    """All pages as one picture, one under the other."""
    ready()
    image = QImage(round(PAGE_W * PNG_PER_MM), round(PAGE_H * PNG_PER_MM) * len(pages), QImage.Format.Format_RGB32)
    image.setDotsPerMeterX(round(PNG_PER_MM * 1000))
    image.setDotsPerMeterY(round(PNG_PER_MM * 1000))
    painter = QPainter(image)
    for page in pages:
        paint_page(painter, page, PNG_PER_MM)
        painter.translate(0, round(PAGE_H * PNG_PER_MM))
    painter.end()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return buffer.data().data()
