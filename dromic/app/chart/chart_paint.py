"""Painting of the two-hand chart: one function a layer, each drawing only what the window shows."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPolygonF

from dromic.app.chart.chart_dense import paint_dense
from dromic.app.chart.chart_fingers import paint_fingers
from dromic.app.chart.chart_signs import paint_signs
from dromic.app.chart.lanes import GUTTER, LOADS, MIDDLE, RULER, Lanes
from dromic.app.drawing.glyphs import round_pen, stroke_glyph
from dromic.app.drawing.load_bar import HIGHEST_LOAD
from dromic.app.kit.theme import BODY, SMALL, Theme, font
from dromic.core.reports.chart import Chart

CENTRE = Qt.AlignmentFlag.AlignCenter
_SAMPLE_MM = 20.0
DENSE_PX = 4.0
"""px from note to note under which only what is worst in each pixel column is drawn"""
REST_PX = 16.0
"""px from note to note from which on the foot of a rest stroke has room"""
LEAST_LINE_PX = 12.0
"""Bar lines nearer than this are left out, px."""
LEAST_WORDS_PX = 62.0
"""Bar numbers nearer than this are left out, px."""
FRETS = 40.0
"""px of the row of tablature numbers; chords share it from the highest string down"""


def paint_chart(
    painter: QPainter, lanes: Lanes, theme: Theme, marked: Sequence[tuple[int | None, float]] = (), damping: bool = True
) -> None:
    """The whole chart; `marked` are events (or None) to set off, each with how strongly."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(QRectF(0, 0, lanes.width, lanes.height), theme.colour("paper"))
    painter.save()
    painter.setClipRect(QRectF(GUTTER, 0, lanes.width - GUTTER, lanes.height))
    for event, alpha in marked:
        if event is not None:
            _column(painter, lanes, theme, event, alpha)
    _grid(painter, lanes, theme)
    _strings(painter, lanes, theme)
    if _dense(lanes):
        paint_dense(painter, lanes, theme)
        painter.restore()
        _gutter(painter, lanes, theme)
        return
    _damped(painter, lanes, theme, damping)
    _neck(painter, lanes, theme)
    _bands(painter, lanes, theme)
    paint_fingers(painter, lanes, theme)
    _loads(painter, lanes, theme)
    painter.fillRect(QRectF(GUTTER, lanes.middle_top, lanes.width, MIDDLE), theme.colour("raised", 0.55))
    _knots(painter, lanes, theme)
    _travels(painter, lanes, theme)
    _strokes(painter, lanes, theme)
    _plucks(painter, lanes, theme)
    _seams(painter, lanes, theme)
    paint_signs(painter, lanes, theme)
    _labels(painter, lanes, theme)
    painter.restore()
    _gutter(painter, lanes, theme)
    if damping:
        _legend(painter, lanes, theme)


def _legend(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """What the runs on the idle strings mean."""
    painter.setFont(font(SMALL))
    x, y = lanes.width - 330, RULER + 8
    painter.fillRect(QRectF(x - 6, y - 9, 330, 18), theme.colour("paper", 0.9))
    for words, wide, colour, dashed in (
        ("palm or thumb", 124, "pick", False),
        ("a fretting finger", 130, "fret", True),
    ):
        pen = round_pen(theme.colour(colour, 0.4), 7.0)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if dashed:
            pen.setDashPattern([0.9, 0.5])
        painter.setPen(pen)
        painter.drawLine(QLineF(x, y, x + 24, y))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(x + 29, y + 4), words)
        x += wide
    painter.setPen(theme.colour("hurt"))
    painter.drawText(QPointF(x, y + 4), "~ rings on")


def _apart(lanes: Lanes) -> float:
    """Px from note to note on average."""
    events = len(lanes.chart.event_s)
    return lanes.chart.event_s[-1] * lanes.px_per_s / events if events > 1 else REST_PX


def _dense(lanes: Lanes) -> bool:
    """Whether notes stand too close for signs of their own."""
    return _apart(lanes) < DENSE_PX


def _column(painter: QPainter, lanes: Lanes, theme: Theme, event: int, alpha: float) -> None:
    times = lanes.chart.event_s
    if event >= len(times):
        return
    at = times[event]
    before = times[event - 1] if event else at
    left, right = lanes.x(before), lanes.x(at)
    painter.fillRect(QRectF(left, RULER, right - left + 10, lanes.height - RULER), theme.colour("ink", alpha * 0.5))
    painter.fillRect(QRectF(right - 10, RULER, 20, lanes.height - RULER), theme.colour("ink", alpha * 0.6))


def _fine(painter: QPainter, colour: QColor, lines: list[QLineF]) -> None:
    """Upright or level lines of one pixel: sharp, and quickly drawn."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setPen(colour)
    painter.drawLines(lines)  # type: ignore[call-overload]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)


def _grid(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    if not _dense(lanes):
        places = (lanes.x(at) for at in lanes.visible("beats"))
        _fine(painter, theme.colour("faint_line"), [QLineF(x, RULER - 5, x, lanes.height) for x in places])
    painter.setFont(font(BODY, "strong"))
    line, words = round_pen(theme.colour("line"), 1.6), theme.colour("soft")
    last_line = last_words = -1e9
    for at, number in lanes.visible("bars", 1.0):
        x = lanes.x(at)
        told = x - last_words >= LEAST_WORDS_PX
        if x - last_line >= LEAST_LINE_PX:
            painter.setPen(line)
            painter.drawLine(QLineF(x, 4 if told else RULER, x, lanes.height))
            last_line = x
        if told:
            painter.setPen(words)
            painter.drawText(QPointF(x + 5, 18), f"bar {number}")
            last_words = x


def _strings(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    right = min(lanes.width, lanes.x(lanes.chart.end_s))
    for i, mm in enumerate(lanes.chart.string_mm):
        painter.setPen(round_pen(theme.colour("line"), 1.0 + 0.28 * i))
        y = lanes.pick_y(mm)
        painter.drawLine(QLineF(GUTTER, y, right, y))


def _damped(painter: QPainter, lanes: Lanes, theme: Theme, everything: bool) -> None:
    """What damps the idle strings: a soft run in the colour of the hand, broken for fingers, dotted where one only touches; a wave
    where one rings on, which is shown even where the rest is not."""
    for one in lanes.visible("damped"):
        left, right = lanes.x(one.start_s) + 2, lanes.x(one.end_s) - 2
        if right < GUTTER:
            continue
        y = lanes.pick_y(one.mm)
        if one.rings:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(round_pen(theme.colour("hurt"), 1.6))
            path = QPainterPath(QPointF(left, y))
            steps = max(2, min(400, int((right - left) / 5)))
            for n in range(1, steps + 1):
                path.lineTo(left + (right - left) * n / steps, y + (3.0 if n % 2 else -3.0))
            painter.drawPath(path)
        if one.rings or not everything:
            continue
        palm = one.by in ("palm", "thumb")
        pen = round_pen(theme.colour("pick" if palm else "fret", 0.22), 7.0)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if not palm:
            pen.setDashPattern([0.25, 0.45] if one.by == "touch" else [0.9, 0.5])
        painter.setPen(pen)
        painter.drawLine(QLineF(left, y, right, y))


def _neck(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    right = min(lanes.width, lanes.x(lanes.chart.end_s))
    frets = range(lanes.chart.lowest_fret, lanes.chart.highest_fret + 1)
    places = [lanes.fret_y(lanes.chart.fret_mm[fret]) for fret in frets]
    _fine(painter, theme.colour("line"), [QLineF(GUTTER, y, right, y) for y in places])
    if 0 in frets:
        painter.setPen(round_pen(theme.colour("line"), 4.0))
        painter.drawLine(QLineF(GUTTER, places[0], right, places[0]))


def _bands(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    clip = QRectF(GUTTER, lanes.fret_top, lanes.width - GUTTER, lanes.fret_height)
    painter.save()
    painter.setClipRect(clip, Qt.ClipOperation.IntersectClip)
    for band, before in lanes.visible("bands"):
        if band.end_s >= lanes.start_s:
            low, high = lanes.fret_y(band.low_mm), lanes.fret_y(band.high_mm)
            left, right = lanes.x(band.start_s), lanes.x(band.end_s)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("band", 0.75))
            painter.drawRoundedRect(QRectF(left, min(low, high) - 2, right - left, abs(high - low) + 7), 5, 5)
            painter.setPen(round_pen(theme.colour("fret"), 2.0, Qt.PenStyle.DotLine))
            painter.drawLine(QLineF(left, low + 5, right, low + 5))
            if before is not None:
                _arrow(
                    painter, theme.colour("fret"),
                    QPointF(left - 8, lanes.fret_y(before.low_mm)), QPointF(left - 2, low),
                )  # fmt: skip
    painter.restore()


def _arrow(painter: QPainter, colour: QColor, start: QPointF, end: QPointF) -> None:
    painter.setPen(round_pen(colour, 2.2))
    painter.drawLine(start, end)
    way = 1 if end.y() > start.y() else -1
    painter.setBrush(colour)
    painter.drawPolygon(
        QPolygonF([end, QPointF(end.x() - 5, end.y() - 8 * way), QPointF(end.x() + 5, end.y() - 8 * way)])
    )


def _loads(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """Two rows of load columns, towards each hand's lane; hatched and outlined where a load passes 1."""
    chart = lanes.chart
    scale = (LOADS - 4) / HIGHEST_LOAD
    pick_base, fret_base = lanes.middle_top - 1, lanes.fret_loads_top + 1
    painter.setPen(round_pen(theme.colour("soft", 0.8), 1.0, Qt.PenStyle.DashLine))
    right = min(lanes.width, lanes.x(chart.end_s))
    for y in (pick_base - scale, fret_base + scale):
        painter.drawLine(QLineF(GUTTER, y, right, y))
    for move in lanes.visible("moves"):
        left, end = lanes.x(chart.event_s[move.to - 1]) + 5, lanes.x(chart.event_s[move.to]) - 5
        width = min(max(end - left, 3.0), 26.0)
        at = max(left, (left + end - width) / 2)
        knot = move.knot
        first = (move.pick_load or 0.0) + (knot if move.hand == "picking" else 0.0)
        second = move.fret_load + (knot if move.hand == "fretting" else 0.0)
        for load, base, way, name in ((first, pick_base, -1, "pick"), (second, fret_base, 1, "fret")):
            tall = min(load, HIGHEST_LOAD) * scale
            rect = QRectF(at, base - tall if way < 0 else base, width, tall)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("hurt" if load > 1 else name, 1.0 if load > 1 else 0.35 + 0.5 * load))
            painter.drawRect(rect)
            if load > 1:
                painter.setBrush(QBrush(theme.colour("paper"), Qt.BrushStyle.BDiagPattern))
                painter.drawRect(rect)


def _knots(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """A stitch through the middle wherever both hands move, thicker with its load."""
    chart = lanes.chart
    for move in lanes.visible("knots"):
        x = (lanes.x(chart.event_s[move.to - 1]) + lanes.x(chart.event_s[move.to])) / 2
        heavy = move.load > 1
        width = 1.4 + 2.2 * min(move.load, 1.5)
        top, bottom = lanes.middle_top - 4, lanes.fret_loads_top + 4
        path = QPainterPath(QPointF(x, top))
        steps = 7
        for n in range(1, steps + 1):
            side = 5 if n % 2 else -5
            path.lineTo(x + (side if n < steps else 0), top + (bottom - top) * n / steps)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(round_pen(theme.colour("paper"), width + 3))
        painter.drawPath(path)
        painter.setPen(round_pen(theme.colour("hurt" if heavy else "ink"), width))
        painter.drawPath(path)


def _travels(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    for travel in lanes.visible("travels"):
        start = QPointF(lanes.x(travel.start_s), lanes.pick_y(travel.start_mm))
        end = QPointF(lanes.x(travel.end_s), lanes.pick_y(travel.end_mm))
        if not travel.hops:
            painter.setPen(round_pen(theme.colour("pick", 0.85), 1.8))
            painter.drawLine(start, end)
            continue
        path = QPainterPath(start)
        middle = (start.x() + end.x()) / 2
        path.cubicTo(QPointF(middle, start.y()), QPointF(middle, end.y()), end)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if travel.buried:
            name = "hurt" if travel.load > 1 else "pick"
            painter.setPen(round_pen(theme.colour(name), 4.5))
            painter.drawPath(path)
            painter.setPen(round_pen(theme.colour("paper"), 1.6, Qt.PenStyle.DotLine))
            painter.drawPath(path)
            _buried_mark(painter, theme, path.pointAtPercent(0.5), name)
        else:
            painter.setPen(round_pen(theme.colour("pick", 0.9), 1.8, Qt.PenStyle.DashLine))
            painter.drawPath(path)


def _buried_mark(painter: QPainter, theme: Theme, at: QPointF, name: str) -> None:
    """A filled disc with a bar: a hop that starts from between the strings."""
    painter.setPen(round_pen(theme.colour("paper"), 1.5))
    painter.setBrush(theme.colour(name))
    painter.drawEllipse(at, 7.5, 7.5)
    painter.setPen(round_pen(theme.colour("paper"), 2.4))
    painter.drawLine(QPointF(at.x() - 3.4, at.y() - 3.4), QPointF(at.x() + 3.4, at.y() + 3.4))
    painter.drawLine(QPointF(at.x() - 3.4, at.y() + 3.4), QPointF(at.x() + 3.4, at.y() - 3.4))


def _strokes(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    feet = _apart(lanes) >= REST_PX
    for stroke in lanes.visible("strokes"):
        start = QPointF(lanes.x(stroke.start_s), lanes.pick_y(stroke.start_mm))
        end = QPointF(lanes.x(stroke.end_s), lanes.pick_y(stroke.end_mm))
        accent = "accent" in stroke.marks
        painter.setPen(round_pen(theme.colour("pick"), 5.5 if accent else 4.0))
        painter.drawLine(start, end)
        way = 1 if stroke.down == lanes.low_on_top else -1
        head = QPolygonF(
            [
                QPointF(end.x(), end.y() + 3 * way),
                QPointF(end.x() - 6, end.y() - 7 * way),
                QPointF(end.x() + 6, end.y() - 7 * way),
            ]
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("pick"))
        painter.drawPolygon(head)
        if feet and stroke.rests:  # it comes to rest on the string there
            painter.setPen(round_pen(theme.colour("pick"), 2.4))
            painter.drawLine(QLineF(end.x() - 7, end.y() + 4.5 * way, end.x() + 7, end.y() + 4.5 * way))


def _plucks(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """Bare fingers: a ring on the string with the finger's letter."""
    for pluck in lanes.visible("plucks"):
        at = QPointF(lanes.x(pluck.at_s), lanes.pick_y(pluck.mm))
        painter.setPen(round_pen(theme.colour("pick"), 2.2))
        painter.setBrush(theme.colour("paper"))
        painter.drawEllipse(at, 9, 9)
        painter.setFont(font(BODY, "heavy"))
        painter.setPen(theme.colour("pick"))
        painter.drawText(QRectF(at.x() - 9, at.y() - 10, 18, 19), CENTRE, pluck.finger)


def _seams(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """Where the music jumps back: an arrow on the ruler from the last note, whether it fits, and where it goes."""
    chart = lanes.chart
    for move in chart.seams:
        right, left = lanes.x(chart.event_s[move.start]), lanes.x(chart.event_s[move.to])
        if right < GUTTER or left > lanes.width:
            continue
        hurts = move.load > 1
        painter.setPen(round_pen(theme.colour("hurt" if hurts else "soft"), 2.4 if hurts else 1.6))
        y = RULER + 1
        painter.drawLine(QLineF(max(left, GUTTER), y, right, y))
        painter.drawLine(QLineF(right, y, right, y + 7))
        if left >= GUTTER:
            painter.drawLine(QLineF(left, y, left + 6, y - 4))
            painter.drawLine(QLineF(left, y, left + 6, y + 4))
        painter.setFont(font(SMALL, "strong" if hurts else "normal"))
        text = "round again, too fast" if hurts else "round again"
        painter.drawText(QRectF(right - 190, y + 3, 184, 16), Qt.AlignmentFlag.AlignRight, text)


_ATTACK_SIGNS = {"hammer": "h", "pull": "p", "slide": "s", "hammer-new": "h!", "tap": "t"}


def _labels(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """The middle line: tablature number, stroke and count."""
    top = lanes.middle_top
    chart = lanes.chart
    times = chart.event_s
    last_right = -1e9
    for label in lanes.visible("labels", 0.5):
        x = lanes.x(label.at_s)
        room = 2 * min(
            (b - a) * lanes.px_per_s
            for a, b in ((times[max(label.event - 1, 0)], label.at_s), (label.at_s, times[min(label.event + 1, len(times) - 1)]))
            if b > a
        ) if len(times) > 1 else 60.0  # fmt: skip
        size = max(9.0, min(21.0, room * 0.42))
        painter.setPen(theme.colour("ink"))
        rows = len(label.frets)
        tall = FRETS / rows
        painter.setFont(font(size if rows == 1 else min(size, 1.1 * tall), "heavy"))
        for row, text in enumerate(label.frets):
            painter.drawText(QRectF(x - 40, top + 1 + row * tall, 80, tall), CENTRE, text)
        if label.doubt:
            painter.setFont(font(SMALL, "strong"))
            painter.setPen(theme.colour("soft"))
            room = painter.fontMetrics().horizontalAdvance(label.doubt + "?") + 4
            painter.drawText(
                QRectF(x + 0.45 * size * len(label.frets[0]) + 2, top - 2, room, 16), CENTRE, f"{label.doubt}?"
            )
        sign = _ATTACK_SIGNS.get(label.attack)
        centre = QPointF(x, top + FRETS + 13)
        if sign:
            painter.setFont(font(min(15.0, size), "strong"))
            painter.setPen(theme.colour("fret"))
            painter.drawText(QRectF(x - 20, top + FRETS + 2, 40, 22), CENTRE, sign)
        else:
            stroke_glyph(painter, theme.colour("pick"), centre, label.stroke, min(15.0, size))
        wide = 8.0 * len(label.count)
        if label.count and (label.beat or x - wide > last_right):
            painter.setFont(font(BODY, "strong" if label.beat else "normal"))
            painter.setPen(theme.colour("ink" if label.beat else "soft"))
            painter.drawText(QRectF(x - 24, top + FRETS + 25, 48, 20), CENTRE, label.count)
            last_right = x + wide


def _gutter(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """Names of strings and frets at the left, always in view."""
    chart: Chart = lanes.chart
    painter.fillRect(QRectF(0, 0, GUTTER, lanes.height), theme.colour("panel"))
    painter.setPen(round_pen(theme.colour("line")))
    painter.drawLine(QLineF(GUTTER, 0, GUTTER, lanes.height))
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    apart = abs(lanes.pick_y(chart.string_mm[0]) - lanes.pick_y(chart.string_mm[1]))
    painter.setFont(font(BODY if apart >= BODY else min(SMALL, apart), "strong"))  # never over one another
    for number, (mm, name) in enumerate(zip(chart.string_mm, chart.string_names, strict=True), start=1):
        y = lanes.pick_y(mm)
        painter.setPen(theme.colour("ink"))
        painter.drawText(QRectF(0, y - 10, GUTTER - 24, 20), right, name)
        painter.setPen(theme.colour("soft"))
        painter.drawText(QRectF(0, y - 10, GUTTER - 8, 20), right, str(number))
    painter.setFont(font(SMALL))
    painter.setPen(theme.colour("soft"))
    frets = range(chart.lowest_fret + 1, chart.highest_fret + 1)
    last_y = lanes.height + 20.0
    for fret in frets:
        y = lanes.fret_y((chart.fret_mm[fret] + chart.fret_mm[fret - 1]) / 2)
        if abs(last_y - y) >= 13:
            painter.drawText(QRectF(0, y - 9, GUTTER - 8, 18), right, str(fret))
            last_y = y
    painter.setFont(font(SMALL, "strong"))
    for y, text in (
        (lanes.middle_top + FRETS / 2 + 1, "fret"),
        (lanes.middle_top + FRETS + 13, "stroke"),
        (lanes.middle_top + FRETS + 35, "count"),
    ):
        painter.setPen(theme.colour("soft"))
        painter.drawText(QRectF(0, y - 10, GUTTER - 8, 20), right, text)
    for y, text, name in (
        (lanes.pick_loads_top + LOADS / 2, "load", "pick"),
        (lanes.fret_loads_top + LOADS / 2, "load", "fret"),
    ):
        painter.setPen(theme.colour(name))
        painter.drawText(QRectF(0, y - 10, GUTTER - 8, 20), right, text)
    painter.setFont(font(SMALL))
    painter.setPen(theme.colour("soft"))
    one = (LOADS - 4) / HIGHEST_LOAD
    for y in (lanes.middle_top - 1 - one, lanes.fret_loads_top + 1 + one):
        painter.drawText(QRectF(GUTTER + 3, y - 13, 20, 12), Qt.AlignmentFlag.AlignLeft, "1")
    for top, height, text, name in (
        (lanes.pick_top, lanes.pick_height, "picking hand", "pick"),
        (lanes.fret_top, lanes.fret_height, "fretting hand", "fret"),
    ):
        painter.save()
        painter.setPen(theme.colour(name))
        painter.setFont(font(BODY, "heavy"))
        wide = painter.fontMetrics().horizontalAdvance
        shown = text if wide(text) <= height else text.split()[0]
        room = max(height, wide(shown) + 2.0)  # in a low window beside the loads too, whose name stands farther in
        painter.translate(13, top + height - room / 2)
        painter.rotate(-90)
        painter.drawText(QRectF(-room / 2, -10, room, 20), CENTRE, shown)
        painter.restore()
    _scale_bar(painter, lanes, theme)


def _scale_bar(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """A bar of true length for each lane, since the two lanes are drawn at different scales."""
    painter.setFont(font(SMALL))
    for top, scale, bottom in (
        (lanes.pick_top, lanes.pick_scale, lanes.pick_top + lanes.pick_height),
        (lanes.fret_top, lanes.fret_scale, lanes.fret_top + lanes.fret_height),
    ):
        tall = _SAMPLE_MM * scale
        x = lanes.width - 14
        painter.setPen(round_pen(theme.colour("soft"), 2.0))
        painter.drawLine(QLineF(x, bottom - tall - 2, x, bottom - 2))
        painter.setPen(theme.colour("soft"))
        painter.drawText(
            QRectF(x - 50, max(top, bottom - tall - 2), 44, 16), Qt.AlignmentFlag.AlignRight, f"{_SAMPLE_MM:g} mm"
        )
