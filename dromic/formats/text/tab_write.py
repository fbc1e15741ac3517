"""Writes plain-text tablature: strings as lines, and above them a line each for bars, counts, strokes and lengths.

The lines are labelled, so that it reads back as it was; tab_text.py says how.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from dromic.core.music.phrase import Event, Note, Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.timing.beat_counting import count
from dromic.core.values.errors import DromicError
from dromic.core.values.note_lengths import word_of
from dromic.core.values.pitch import note_name
from dromic.core.values.vocabulary import SLID_TO

WIDTH = 100
"""columns a line of text may take"""
ATTACK_SIGNS = {"hammer": "h", "pull": "p", "slide": "/", "tap": "t", "hammer-new": "n"}
AFTER_SIGNS = {"vibrato": "~", "let-ring": "*", "accent": "!"}
"""marks that stand behind a fret"""
STROKE_SIGNS = {"down": "D", "up": "U"}
LABELS = ("bar", "count", "stroke", "finger", "palm", "length")
CARRIED = frozenset({SLID_TO, "dead", "palm-mute", "bend", "release", "harmonic", *AFTER_SIGNS})
_LABEL_WIDTH = 7


@dataclass(slots=True)
class _Column:
    """One moment of a bar: what stands on each line, strings by number."""

    lines: dict[str | int, str]
    room: int = 0
    """columns left free behind it"""

    @property
    def width(self) -> int:
        return max([2, *(len(text) + 1 for text in self.lines.values())]) + self.room


@dataclass(slots=True)
class _Bar:
    """A bar's own words and its moments."""

    words: str
    columns: list[_Column]

    @property
    def width(self) -> int:
        return sum(c.width for c in self.columns)

    def line(self, of: str | int, fill: str = " ") -> str:
        if of == "bar":
            return self.words.ljust(self.width)
        return "".join(c.lines.get(of, "").ljust(c.width, fill) for c in self.columns)


def tab_text(phrase: Phrase, instrument: Instrument) -> str:
    """The tablature of a phrase whose notes all have their strings."""
    bare = next((n for e in phrase.events for n in e.notes if n.string is None or n.fret is None), None)
    if bare is not None:
        raise DromicError(f"{note_name(bare.pitch)} has no string yet; plan the phrase first")
    head = [
        f"title: {phrase.title}", f"tuning: {' '.join(instrument.tuning_names)}", f"tempo: {phrase.tempo:g}",
    ]  # fmt: skip
    if instrument.capo:
        head.append(f"capo: {instrument.capo}")
    if phrase.swing.ratio != 1:
        head.append(f"swing: {phrase.swing.unit} {phrase.swing.ratio}")
    return "\n".join([*head, "", *_systems(phrase, instrument)]) + "\n"


def _systems(phrase: Phrase, instrument: Instrument) -> Iterator[str]:
    bars = [_bar_columns(phrase, index) for index in range(len(phrase.bars))]
    row: list[int] = []
    wide = _LABEL_WIDTH + 2
    for index, bar in enumerate(bars):
        own = bar.width + 2
        if row and wide + own > WIDTH:
            yield from _system(phrase, instrument, bars, row)
            row, wide = [], _LABEL_WIDTH + 2
        row.append(index)
        wide += own
    yield from _system(phrase, instrument, bars, row)


def _system(phrase: Phrase, instrument: Instrument, bars: list[_Bar], row: list[int]) -> Iterator[str]:
    for label in LABELS:
        text = " ".join(" " + bars[index].line(label) for index in row).rstrip()
        if text or label == "length":
            yield label.ljust(_LABEL_WIDTH) + " " + text
    for string in range(1, instrument.strings + 1):
        name = note_name(instrument.tuning[instrument.strings - string]).ljust(_LABEL_WIDTH)
        cells = ("-" + bars[index].line(string, "-") for index in row)
        yield f"{name}|" + "|".join(cells) + "|"
    yield ""


def _bar_columns(phrase: Phrase, index: int) -> _Bar:
    """Everything a bar says, moment by moment."""
    bar = phrase.bars[index]
    before = phrase.bars[index - 1] if index else None
    columns: list[_Column] = []
    now = bar.start
    carried = [e for e in phrase.events if e.onset < bar.start < e.end]
    if carried:
        first = next((e.onset for e in phrase.events if e.onset >= bar.start), phrase.end)
        held = min(max(e.end for e in carried), first, bar.end) - bar.start
        if held > 0:
            columns.append(_Column({"length": "-" + word_of(held)}))
            now += held
    events = [(i, e) for i, e in enumerate(phrase.events) if bar.start <= e.onset < bar.end]
    for n, (i, event) in enumerate(events):
        if event.onset > now:
            columns.append(_Column({"length": "r" + word_of(event.onset - now)}))
        following = events[n + 1][1].onset if n + 1 < len(events) else bar.end
        length = min(following - event.onset, max(x.duration for x in event.notes), bar.end - event.onset)
        columns.append(_event_column(phrase, i, event, length))
        now = event.onset + length
    if now < bar.end:
        columns.append(_Column({"length": "r" + word_of(bar.end - now)}))
    notices = [str(bar.number)]
    if before is None or before.metre != bar.metre:
        groups = f"({'+'.join(map(str, bar.metre.groups))})" if bar.metre.groups else ""
        notices.append(f"{bar.metre}{groups}")
    if bar.length != bar.metre.length:
        notices.append(f"len={word_of(bar.length)}")
    notices += ["|:"] if bar.repeat_start else []
    notices += [f"[{','.join(map(str, bar.endings))}]"] if bar.endings else []
    notices += [f":|{bar.repeat_times}"] if bar.repeat_times else []
    columns[-1].room = max(0, len(" ".join(notices)) + 1 - sum(c.width for c in columns))
    return _Bar(" ".join(notices), columns)


def _event_column(phrase: Phrase, index: int, event: Event, length: Fraction) -> _Column:
    lines: dict[str | int, str] = {"length": word_of(length), "count": count(phrase, index)}
    stroke = event.stroke
    if stroke:
        lines["stroke"] = STROKE_SIGNS.get(stroke, stroke)
    fingers = [n.finger for n in event.notes if n.finger is not None]
    if fingers:
        lines["finger"] = "".join(n.finger or "." for n in event.notes)
    if event.marked("palm-mute"):
        lines["palm"] = "_"
    for note in event.notes:
        assert note.string is not None
        lines[note.string] = _note_text(note)
    return _Column({k: v for k, v in lines.items() if v})


def _note_text(note: Note) -> str:
    text = ATTACK_SIGNS["slide"] if note.slid_to else ATTACK_SIGNS.get(note.attack or "", "")
    text += "x" if "dead" in note.marks else f"<{note.fret}>" if "harmonic" in note.marks else str(note.fret)
    if "bend" in note.marks:
        text += f"b{(note.fret or 0) + note.bend:g}" if note.bend else "b"  # the fret it reaches
        text += "r" if "release" in note.marks else ""
    return text + "".join(sign for mark, sign in AFTER_SIGNS.items() if mark in note.marks)
