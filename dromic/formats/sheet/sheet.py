"""The sheet for the music stand, laid out in millimetres: tablature with lengths, strokes, fingers, positions, findings.

Pure geometry: what comes out are lines, shapes and words with their places; sheet_paint.py puts them on paper.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise

from dromic.core.music.phrase import Bar, Phrase
from dromic.core.music.pieces import Piece, pieces_by_bar
from dromic.core.plan.finding import Finding
from dromic.core.plan.plan import Plan
from dromic.core.reports.ceiling_words import ceiling_about
from dromic.core.setup.decision import Decision
from dromic.core.timing.beat_counting import count
from dromic.core.values.note_lengths import BASES, Sign
from dromic.core.values.pitch import note_name

PAGE_W = 210.0
"""Width of A4 upright, mm."""
PAGE_H = 297.0
"""Height of A4 upright, mm."""
MARGIN = 14.0
"""Room around the page, mm."""
STRING_GAP = 3.0
ABOVE = 13.0
"""Room over the strings for bar, finding and stroke, mm."""
BELOW = 17.0
"""Room under them for lengths, counts, fingers and position, mm."""
BETWEEN = 5.0
"""Room between systems, mm."""
_WORDS_MM = 2.6
"""Type of the player's words at notes, mm."""
_WORDS_ROW = 4.0
"""What a system with some has more, mm."""
LEAST_W = 4.6
"""Width of a note at least, mm."""
QUARTER_W = 13.0
"""Width of a quarter note, mm."""
_FLAGS = {"e": 1, "s": 2, "t": 3, "z": 4}
_SIGNS = {"hammer": "h", "pull": "p", "slide": "s", "hammer-new": "n", "tap": "t"}
_MARKS = {"accent": ">", "vibrato": "~", "let-ring": "*", "palm-mute": "_"}


@dataclass(frozen=True, slots=True)
class Line:
    """A line from one point to another, so thick; all in mm."""

    x1: float
    y1: float
    x2: float
    y2: float
    width: float = 0.2


@dataclass(frozen=True, slots=True)
class Words:
    """Text about a point on its baseline; `size` is the height of the type in mm, `align` -1 left, 0 middle, 1 right."""

    x: float
    y: float
    text: str
    size: float = 2.8
    weight: str = "normal"
    align: int = 0
    patch: bool = False
    """whether what is under it is wiped out first"""


@dataclass(frozen=True, slots=True)
class Ring:
    """A ring about a point."""

    x: float
    y: float
    radius: float
    width: float = 0.35
    filled: bool = False


Mark = Line | Words | Ring


@dataclass(slots=True)
class Page:
    marks: list[Mark] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Slot:
    """A piece of a bar and how wide it is before the line is filled."""

    piece: Piece
    width: float


def sheet(plan: Plan, kept: Decision | None = None) -> tuple[Page, ...]:
    """The pages of a plan; `kept` is the plan decided on for the phrase, and stands at their end."""
    return _Sheet(plan, kept).pages


class _Sheet:
    def __init__(self, plan: Plan, kept: Decision | None) -> None:
        self.plan, self.kept = plan, kept
        self.phrase: Phrase = plan.request.phrase
        self.strings = plan.request.instrument.strings
        self.pages_: list[Page] = [Page()]
        self.numbered = self._numbered()
        self.y = MARGIN
        self._head()
        for system in self._systems():
            self._system(system)
        self._findings()
        self._decision()
        for number, page in enumerate(self.pages_, start=1):
            page.marks.append(Words(PAGE_W / 2, PAGE_H - 6, f"{number} / {len(self.pages_)}", 2.6))

    @property
    def pages(self) -> tuple[Page, ...]:
        return tuple(self.pages_)

    def _numbered(self) -> list[tuple[int, Finding, int]]:
        """The places that hurt, the worst first: a number, the dearest finding there, and how many more there are."""
        places: dict[int, list[Finding]] = {}
        for finding in self.plan.findings:
            places.setdefault(self.plan.notes[finding.at].event, []).append(finding)
        return [(n, found[0], len(found) - 1) for n, found in enumerate(places.values(), start=1)]

    def add(self, *marks: Mark) -> None:
        self.pages_[-1].marks.extend(marks)

    def _room(self, height: float) -> None:
        if self.y + height > PAGE_H - MARGIN:
            self.pages_.append(Page())
            self.y = MARGIN

    def _head(self) -> None:
        request, plan = self.plan.request, self.plan
        self.add(Words(MARGIN, self.y + 6, self.phrase.title, 7.0, "heavy", -1))
        ceiling = ceiling_about(plan.ceiling, "no move limits it") + (" (an estimate)" if plan.ceiling else "")
        swing = "" if self.phrase.swing.ratio == 1 else f", swing {self.phrase.swing.ratio} to 1"
        capo = f", capo {request.instrument.capo}" if request.instrument.capo else ""
        self.add(
            Words(MARGIN, self.y + 11.5, f"{self.phrase.tempo:g} quarters a minute{swing}   {request.school.label}   "
                  f"for {request.player.label}   {ceiling}", 3.0, "normal", -1),
            Words(MARGIN, self.y + 15.5, f"{request.instrument.label}: {' '.join(request.instrument.tuning_names)}{capo}",
                  3.0, "normal", -1),
        )  # fmt: skip
        self.y += 20

    def _systems(self) -> list[list[tuple[int, list[_Slot]]]]:
        """Bars by line, as many in each as fit."""
        room = PAGE_W - 2 * MARGIN - 9
        by_bar = pieces_by_bar(self.phrase)
        systems: list[list[tuple[int, list[_Slot]]]] = []
        line: list[tuple[int, list[_Slot]]] = []
        used = 0.0
        for index in range(len(self.phrase.bars)):
            slots = [_Slot(p, _width(p)) for p in by_bar.get(index, [])]
            wide = sum(s.width for s in slots) + 4
            if line and used + wide > room:
                systems.append(line)
                line, used = [], 0.0
            line.append((index, slots))
            used += wide
        return [*systems, line]

    def _system(self, line: Sequence[tuple[int, list[_Slot]]]) -> None:
        said = any(
            s.piece.event is not None and self.phrase.events[s.piece.event].words for _, slots in line for s in slots
        )
        height = ABOVE + (self.strings - 1) * STRING_GAP + BELOW + (_WORDS_ROW if said else 0.0)
        self._room(height)
        top = self.y + ABOVE
        bottom = top + (self.strings - 1) * STRING_GAP
        left, right = MARGIN + 9, PAGE_W - MARGIN
        natural = sum(s.width for _, slots in line for s in slots) + 4 * len(line)
        last = line[-1][0] + 1 == len(self.phrase.bars)
        scale = (right - left) / natural
        if last and scale > 1.6:
            scale, right = 1.25, left + natural * 1.25
        tuning = self.plan.request.instrument.tuning[::-1]
        for n in range(self.strings):
            y = top + n * STRING_GAP
            self.add(Line(left, y, right, y, 0.12 + 0.03 * n))
            self.add(Words(left - 1.5, y + 1, note_name(tuning[n]), 2.4, "normal", 1))
        self.add(Line(left, top, left, bottom, 0.3))
        x = left
        for index, slots in line:
            x = self._bar(index, slots, x, scale, top, bottom)
        self.y += height + BETWEEN

    def _bar(self, index: int, slots: list[_Slot], x: float, scale: float, top: float, bottom: float) -> float:
        bar = self.phrase.bars[index]
        before = self.phrase.bars[index - 1] if index else None
        end = x + (sum(s.width for s in slots) + 4) * scale
        words = str(bar.number) if before is None or before.metre == bar.metre else f"{bar.number}   {bar.metre}"
        words = f"{bar.number}   {bar.metre}" if before is None else words
        if bar.pace != (before.pace if before is not None else 1.0):
            words += f"   at {self.phrase.tempo_in(index):.4g}"
        self.add(Words(x + 0.5, top - 9.4, words, 2.6, "strong", -1))
        section = next((s for s in self.phrase.sections if s.first == index), None)
        if section is not None:
            self.add(Words(x + 3 + 1.6 * len(words), top - 9.4, section.name, 3.2, "heavy", -1))
        self._lines(bar, x, end, top, bottom)
        at = x + 3 * scale
        stems: list[tuple[float, Piece]] = []
        for slot in slots:
            self._piece(slot.piece, at, top)
            self._own_words(slot.piece, at, end, bottom)
            stems.append((at, slot.piece))
            at += slot.width * scale
        self._rhythm(bar, stems, bottom)
        return end

    def _lines(self, bar: Bar, x: float, end: float, top: float, bottom: float) -> None:
        self.add(Line(end, top, end, bottom, 0.3))
        middle = (top + bottom) / 2
        if bar.repeat_start:
            self.add(Line(x + 0.6, top, x + 0.6, bottom, 1.0))
            self.add(*(Ring(x + 2, middle + d, 0.45, filled=True) for d in (-STRING_GAP / 2, STRING_GAP / 2)))
        if bar.repeat_times:
            self.add(Line(end - 0.6, top, end - 0.6, bottom, 1.0))
            self.add(*(Ring(end - 2, middle + d, 0.45, filled=True) for d in (-STRING_GAP / 2, STRING_GAP / 2)))
            if bar.repeat_times > 2:
                self.add(Words(end - 0.5, top - 1, f"{bar.repeat_times} times", 2.4, "normal", 1))
        if bar.endings:
            self.add(
                Line(x + 0.3, top - 12.4, end - 1, top - 12.4, 0.2),
                Line(x + 0.3, top - 12.4, x + 0.3, top - 10, 0.2),
            )
            self.add(Words(end - 1.5, top - 9.6, " ".join(f"{n}." for n in bar.endings), 2.6, "strong", 1))

    def _piece(self, piece: Piece, x: float, top: float) -> None:
        for n, grace in enumerate(piece.graces):
            self._numbers(grace, x - 2.6 * (len(piece.graces) - n), top, 2.2)
        if piece.event is None:
            return
        if piece.tied_from:
            self.add(Words(x, top + (self.strings - 1) * STRING_GAP + 3.4, "(", 2.6))
            return
        self._numbers(piece.event, x, top, 3.3)
        lead = self.plan.events[piece.event][0]
        if lead.stroke in ("down", "up"):
            self._stroke_sign(x, top - 4.2, lead.stroke)
        elif lead.stroke != "none":
            self.add(
                Words(
                    x,
                    top - 3.2,
                    "".join(n.stroke for n in self.plan.events[piece.event] if n.stroke != "none"),
                    2.8,
                    "strong",
                )
            )
        number = next((n for n, f, _ in self.numbered if self.plan.notes[f.at].event == piece.event), None)
        if number is not None:
            self.add(Ring(x, top - 7.6, 1.7), Words(x, top - 6.7, str(number), 2.4, "heavy"))

    def _own_words(self, piece: Piece, x: float, end: float, bottom: float) -> None:
        """The player's own words, under all else that stands at their note."""
        if piece.event is None or piece.tied_from or not (words := self.phrase.events[piece.event].words):
            return
        room = max(12, int((end - x) / (0.5 * _WORDS_MM)))
        text = words if len(words) <= room else f"{words[: room - 1]}\N{HORIZONTAL ELLIPSIS}"
        self.add(
            Line(x, bottom + 17.0, x, bottom + 18.2, 0.2), Words(x - 0.6, bottom + 20.4, text, _WORDS_MM, "normal", -1)
        )

    def _numbers(self, event: int, x: float, top: float, size: float) -> None:
        for note in self.plan.events[event]:
            y = top + (note.string - 1) * STRING_GAP
            fret = "x" if "dead" in note.marks else str(note.fret)
            text = _SIGNS.get(note.attack, "") + fret
            bend = next((n.bend for n in self.phrase.events[event].notes if n.pitch == note.pitch), 0.0)
            text += f"↑{bend:g}" if bend else ""
            self.add(Words(x, y + size * 0.36, text, size, "strong", 0, patch=True))
        marks = {m for n in self.plan.events[event] for m in n.marks}
        notices = "".join(sign for mark, sign in _MARKS.items() if mark in marks)
        if notices and size > 3:
            self.add(Words(x + 1.9, top - 3.4, notices, 2.6, "strong", -1))

    def _stroke_sign(self, x: float, y: float, stroke: str) -> None:
        """The signs players read: a bracket for down, a wedge for up."""
        if stroke == "down":
            self.add(Line(x - 1, y + 1.2, x - 1, y - 1, 0.3), Line(x - 1, y - 1, x + 1, y - 1, 0.6),
                     Line(x + 1, y - 1, x + 1, y + 1.2, 0.3))  # fmt: skip
        else:
            self.add(Line(x - 0.9, y - 1.2, x, y + 1.2, 0.3), Line(x, y + 1.2, x + 0.9, y - 1.2, 0.3))

    def _rhythm(self, bar: Bar, stems: list[tuple[float, Piece]], bottom: float) -> None:
        """Stems and beams under the strings, then counts, fingers and positions."""
        low = bottom + 6.4
        beams: dict[tuple[Fraction, bool], list[tuple[float, Sign]]] = {}
        for x, piece in stems:
            base = piece.sign.base
            offset = bar.offset_of(piece.at)
            beat = bar.metre.beat_at(offset)[1]
            if piece.event is None:
                self._rest(x, bottom + 4, piece.sign)
            else:
                if base not in (None, "w"):
                    self.add(Line(x, bottom + (4.6 if base == "h" else 2.4), x, low, 0.25))
                if base in _FLAGS:
                    beams.setdefault((beat, True), []).append((x, piece.sign))
                self._under(x, piece, bottom)
            for d in range(piece.sign.dots):
                self.add(Ring(x + 1.2 + d * 0.9, low - 0.4, 0.28, filled=True))
            if piece.sign.tuplet and piece.tuplet_sign == "start":
                self.add(Words(x + 2.5, low + 2.3, str(piece.sign.tuplet), 2.2, "strong"))
        for group in beams.values():
            self._beams(group, low)

    def _beams(self, group: list[tuple[float, Sign]], low: float) -> None:
        for n, (x, sign) in enumerate(group):
            for level in range(_FLAGS[sign.base or "e"]):
                y = low - 1.1 * level
                after = n + 1 < len(group) and _FLAGS[group[n + 1][1].base or "e"] > level
                before = n > 0 and _FLAGS[group[n - 1][1].base or "e"] > level
                if after:
                    self.add(Line(x, y, group[n + 1][0], y, 0.6))
                elif not before:
                    short = 1.6 if n + 1 < len(group) or len(group) == 1 else -1.6
                    self.add(Line(x, y, x + short, y - (0.7 if len(group) == 1 else 0), 0.6))

    def _rest(self, x: float, y: float, sign: Sign) -> None:
        if sign.base in ("w", "h", None):
            self.add(Line(x - 1.2, y, x + 1.2, y, 0.9), Line(x - 1.8, y + (0.5 if sign.base == "h" else -0.5), x + 1.8,
                     y + (0.5 if sign.base == "h" else -0.5), 0.15))  # fmt: skip
        elif sign.base == "q":
            points = [(-0.6, -2.0), (0.5, -0.6), (-0.5, 0.4), (0.6, 1.8), (-0.5, 1.4)]
            self.add(*(Line(x + a, y + b, x + c, y + d, 0.4) for (a, b), (c, d) in pairwise(points)))
        else:
            for n in range(_FLAGS[sign.base]):
                self.add(
                    Ring(x - 0.6, y - 0.9 + n, 0.35, filled=True),
                    Line(x - 0.6, y - 0.6 + n, x + 0.7, y - 1.0 + n, 0.25),
                )
            self.add(Line(x + 0.7, y - 1.1, x - 0.3, y + 2.2, 0.25))

    def _under(self, x: float, piece: Piece, bottom: float) -> None:
        if piece.tied_from or piece.event is None:
            return
        self.add(Words(x, bottom + 10, count(self.phrase, piece.event), 2.2))
        fingers = "".join(n.finger for n in reversed(self.plan.events[piece.event]))
        self.add(Words(x, bottom + 13.2, fingers, 2.6, "strong"))
        lead = self.plan.events[piece.event][0]
        before = self.plan.events[piece.event - 1][0].position if piece.event else 0
        if lead.position and lead.position != before:
            self.add(Words(x, bottom + 16.4, f"pos. {lead.position}", 2.2))

    def _findings(self) -> None:
        if not self.numbered:
            self._room(8)
            self.add(
                Words(MARGIN, self.y + 4, "No findings: nothing in this plan gets in its own way.", 3.0, "normal", -1)
            )
            return
        self._room(14)
        self.add(Words(MARGIN, self.y + 4, "Where it hurts, the worst first (loads are estimates)", 3.4, "heavy", -1))
        self.y += 7
        for number, finding, more in self.numbered:
            lines = wrapped(finding.text + (f" ({more} more here)" if more else ""), 112)
            if finding.remedy is not None:
                lines += wrapped(f"→ {finding.remedy.text}", 112)
            elif finding.advice:
                lines += wrapped(f"What helps: {finding.advice}", 112)
            self._room(4 * len(lines) + 1)
            self.add(Ring(MARGIN + 2, self.y + 1.6, 1.8), Words(MARGIN + 2, self.y + 2.5, str(number), 2.4, "heavy"))
            for text in lines:
                self.add(Words(MARGIN + 6, self.y + 2.6, text, 2.9, "normal", -1))
                self.y += 4
            self.y += 0.8

    def _decision(self) -> None:
        """Which plan was kept, why, and what was rejected."""
        decision = self.kept
        if decision is None:
            return
        head = f"Kept on {decision.day}: {decision.label}"
        lines = wrapped(f"Why: {decision.why}", 112) if decision.why else []
        for one in decision.rejected:
            tempo = "" if one.ceiling is None else f" ({ceiling_about(one.ceiling)})"
            lines += wrapped(f"Rejected: {one.label}{tempo}: {one.why}", 112)
        self._room(8 + 4)
        self.y += 2
        self.add(Words(MARGIN, self.y + 4, head, 3.4, "heavy", -1))
        self.y += 6
        for text in lines:
            self._room(4)
            self.add(Words(MARGIN, self.y + 2.6, text, 2.9, "normal", -1))
            self.y += 4


def _width(piece: Piece) -> float:
    """Longer lengths get more room, though not in proportion, so that a line of music holds more."""
    share: float = float(piece.sign.length / BASES["q"]) ** 0.55
    return max(LEAST_W, QUARTER_W * share) + 2.6 * len(piece.graces)


def wrapped(text: str, most: int) -> list[str]:
    """A sentence in lines of so many letters at most."""
    lines = [""]
    for word in text.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > most:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines
