"""One voice of an ABC tune as it goes on, sign after sign: bars with their repeats and endings, notes in exact time.

Source: the ABC music standard 2.1, section 4. Where it leaves something open, what most tune books mean is taken: a bar line at
the end of a line and a repeat sign at the head of the next are one bar line.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.formats.abc.abc_pitch import Pitches, signature
from dromic.formats.abc.abc_tokens import Sign, signs
from dromic.formats.heard import HeardNote, NoteMarks
from dromic.formats.limits import check_count, limit

COMMON = Metre(4, 4)
_NOTE = re.compile(r"(\^\^|__|\^|_|=)?([A-Ga-g])([,']*)(\d*/*\d*)(-?)")
_LENGTH = re.compile(r"(\d*)(/*)(\d*)")
_STROKES = {"u": "up", "v": "down", "upbow": "up", "downbow": "down"}
_MARKS = {"L": "accent", ">": "accent", "accent": "accent", "emphasis": "accent", "T": "trill", "trill": "trill"}
_SIGNS = frozenset(".~HJLMOPRSTuv<>0123456789")
"""single letters that decorate a note, and fingers"""
_IN_TIME = {2: 3, 3: 2, 4: 3, 6: 2, 8: 3}
"""of so many notes of a tuplet, the time of how many they take, where nothing is written; others two, or three in compound metres"""


@dataclass
class WrittenBar:
    """A bar as written: what it holds so far, and how it begins and ends."""

    start: Fraction
    metre: Metre
    length: Fraction = Fraction(0)
    repeat_start: bool = False
    repeat_end: int = 0
    endings: tuple[int, ...] = ()
    double: bool = False
    """whether a double or final bar line ends it"""
    part: str = ""
    """the name of a part that begins here"""


@dataclass
class _Moment:
    """A note, chord or rest whose length a broken rhythm behind it may still change."""

    notes: list[HeardNote]
    length: Fraction
    written: Fraction
    """before tuplets and broken rhythms"""


@dataclass
class Voice:
    """Where a voice stands: the bar it is in, the time, the key, the unit of length and all that the next note hears of."""

    metre: Metre
    unit: Fraction
    """of a length of 1, in quarters"""
    pitches: Pitches
    shift: int = 0
    octave_stated: bool = False
    heard: list[HeardNote] = field(default_factory=list)
    bars: list[WrittenBar] = field(default_factory=list)
    said: dict[str, int] = field(default_factory=dict)
    """what was left out or not understood, and how often"""
    own_signs: frozenset[str] = frozenset()
    """letters that the tune itself says are decorations"""
    slurs: int = 0
    tempo_marks: list[tuple[Fraction, str]] = field(default_factory=list)
    """(time, tempo field) of those inside the tune"""

    def __post_init__(self) -> None:
        self.now = Fraction(0)
        self._last: _Moment | None = None
        self._break = ""
        self._between: list[HeardNote] = []
        self._tuplet: list[tuple[Fraction, int]] = []
        self._sounded: dict[str, int] = {}
        self._tied: dict[str, int] = {}
        self._stroke: str | None = None
        self._marks: set[str] = set()
        self._endings: tuple[int, ...] = ()
        self._back: Fraction | None = None

    # bars

    @property
    def bar(self) -> WrittenBar:
        """The bar that is being filled."""
        if not self.bars:
            self.bars.append(WrittenBar(self.now, self.metre))
        return self.bars[-1]

    def _empty(self) -> bool:
        """Whether the bar that is being filled holds nothing yet."""
        return self.now == self.bar.start

    def bar_line(self, text: str) -> None:
        """A bar line, a repeat sign or several that stand together."""
        self._end_overlay()
        body = text.lstrip(".")
        after = len(body) - len(body.rstrip(":")) or int(body.endswith("|:|") and body[-4:-3] in ("", "|"))
        before = body.count(":") - after
        if not body.strip(":"):  # colons alone end one part and begin the next
            before = after = 1
        ends = self.bar if not self._empty() else self.bars[-2] if len(self.bars) > 1 else None
        double = "||" in body or "]" in body or "[|" in body
        if ends is not None:
            ends.repeat_end = max(ends.repeat_end, before + 1) if before else ends.repeat_end
            ends.double = ends.double or double or bool(before)
        if not self._empty():
            self.bars.append(WrittenBar(self.now, self.metre, endings=self._endings))
        if (double or before or after) and self._endings:
            self._endings = ()
            self.bar.endings = ()
        self.bar.repeat_start = self.bar.repeat_start or bool(after)
        check_count("bars", len(self.bars), "bars in one tune", "split it")
        self.pitches.bar()

    def ending(self, numbers: str) -> None:
        """An ending begins: 1, or 1,3 or 1-3."""
        found: list[int] = []
        for piece in numbers.split(","):
            low, _, high = piece.partition("-")
            top = int(high[:4] or low[:4])
            found += range(int(low[:4]), min(top, int(low[:4]) + limit("repeats")) + 1)
        self._endings = tuple(found)
        if not self._empty():  # within a bar: what stands before it belongs to every ending
            self.bars.append(WrittenBar(self.now, self.metre))
        self.bar.endings = self._endings

    def overlay(self) -> None:
        """Another voice over the same bar: left out."""
        self._end_overlay()
        self._say("bars with a second voice laid over them (&): the first is read")
        self._back = self.now
        self.now = self.bar.start

    def _end_overlay(self) -> None:
        if self._back is not None:
            self.now, self._back = self._back, None

    def close(self) -> None:
        """The tune ends: a last bar that holds nothing is none."""
        self._end_overlay()
        while len(self.bars) > 1 and self.bars[-1].start == self.now:
            self.bars.pop()
        for bar, following in zip(self.bars, self.bars[1:], strict=False):
            bar.length = following.start - bar.start
        if self.bars:
            self.bars[-1].length = self.now - self.bars[-1].start
        _turns(self.bars)
        _starts(self.bars)

    # notes

    def note(self, sign: Sign) -> None:
        """A note of its own."""
        found = _NOTE.fullmatch(sign.text)
        assert found is not None
        length = self._length(found[4], sign.line)
        self._sound([(found[1] or "", found[2], found[3], Fraction(1), False)], length)

    def chord(self, sign: Sign) -> None:
        """Notes that sound together; the first says how long the chord is."""
        inside, _, outer = sign.text[1:].rpartition("]")
        notes = [
            (f[1] or "", f[2], f[3], self._factor(f[4], sign.line), bool(f[5]))
            for f in _NOTE.finditer(re.sub(r'"[^"]*"|![^!]*!', "", inside))
        ]
        if notes:
            self._sound(notes, self._length(outer, sign.line) * notes[0][3])

    def rest(self, sign: Sign) -> None:
        """Silence, written or not shown."""
        self._silence(self._length(sign.text[1:], sign.line))

    def rest_of_bars(self, text: str) -> None:
        """So many whole bars of silence."""
        for n in range(min(int(text[1:] or 1), limit("bars") + 1)):
            if n:
                self.bar_line("|")
            self._silence(self.metre.length)

    def graces(self, text: str, line: int) -> None:
        """Grace notes, which have no time of their own."""
        if self._back is not None:
            return
        for sign in signs(text.strip("{}/"), line):
            for found in _NOTE.finditer(sign.text) if sign.kind in ("note", "chord") else ():
                # an accidental here says nothing of the notes after it
                here = Pitches(self.pitches.key, dict(self.pitches.altered))
                made = self._add(here.pitch(found[1] or "", found[2], found[3]), Fraction(0), NoteMarks(), grace=True)
                self._between += [made] if made is not None else []

    def _sound(self, notes: Sequence[tuple[str, str, str, Fraction, bool]], length: Fraction) -> None:
        made, written = [], length
        length *= self._scale(written)
        sounded, onward = {}, {}
        for accidental, letter, octaves, factor, tie in notes:
            step = letter + octaves
            pitch = self.pitches.pitch(accidental, letter, octaves, self._tied.get(step))
            marks = NoteMarks(stroke=self._stroke, marks=frozenset(self._marks))
            note = self._add(pitch, length * factor / notes[0][3], marks, tied=pitch in self._tied.values())
            sounded[step] = pitch
            if tie:
                onward[step] = pitch
            if note is not None:
                made.append(note)
        self._sounded, self._tied = sounded, onward
        self._stroke, self._marks = None, set()
        self._goes_on(_Moment(made, length, written))

    def _add(
        self, pitch: int, length: Fraction, marks: NoteMarks, tied: bool = False, grace: bool = False
    ) -> HeardNote | None:
        pitch += self.shift
        if self._back is not None or not 0 <= pitch <= 127:
            return None
        assert self.bar is not None
        note = HeardNote(self.now, length, len(self.bars) - 1, pitch, marks, tied, grace)
        self.heard.append(note)
        check_count("events", len(self.heard), "notes in one tune", "split it")
        return note

    def _silence(self, written: Fraction) -> None:
        assert self.bar is not None  # it begins here at the latest
        self._goes_on(_Moment([], written * self._scale(written), written))

    def _goes_on(self, moment: _Moment) -> None:
        """Time goes on by a note, a chord or a rest."""
        self._last = moment
        self.now += moment.length

    def tie(self) -> None:
        """What has just sounded goes on into the next note."""
        self._tied = dict(self._sounded)

    def broken(self, text: str) -> None:
        """The note before is to be longer and the next one shorter, or the other way round."""
        self._break, self._between = text, []

    def tuplet(self, text: str) -> None:
        """So many notes in the time of so many others."""
        numbers = [int(n[:3]) if n else 0 for n in text[1:].split(":")]
        size = max(1, numbers[0])
        usual = _IN_TIME.get(size, 3 if self.metre.compound else 2)
        within = numbers[1] if len(numbers) > 1 and numbers[1] else usual
        count = numbers[2] if len(numbers) > 2 and numbers[2] else size
        self._tuplet = [*self._tuplet[-1:], (Fraction(within, size), count)]  # one within another at most

    def _scale(self, written: Fraction) -> Fraction:
        """What the next note's length is multiplied by: tuplets, and a broken rhythm before it, which also changes the note
        before. Notes of unequal length can't be broken; the sign is left aside there."""
        factor, text, last = Fraction(1), self._break, self._last
        self._break = ""
        if text and last is not None and last.written == written:
            short = Fraction(1, 2 ** min(len(text), 4))
            before, factor = (2 - short, short) if text[0] == ">" else (short, 2 - short)
            by = last.length * (before - 1)
            for note in last.notes:
                note.duration *= before
            for note in self._between:
                note.onset += by
            self.now += by
        for ratio, _ in self._tuplet:
            factor *= ratio
        self._tuplet = [(ratio, left - 1) for ratio, left in self._tuplet if left > 1]
        return factor

    def _length(self, text: str, line: int) -> Fraction:
        return self.unit * self._factor(text, line)

    @staticmethod
    def _factor(text: str, line: int) -> Fraction:
        found = _LENGTH.fullmatch(text)
        assert found is not None
        for digits in (found[1], found[3]):
            if digits and int(digits[:9]) > limit("abc_number"):
                raise DromicError(
                    f"the number {digits[:9]} is larger than any length in a tune; check it", where=f"line {line}"
                )
        over = int(found[1] or 1)
        under = int(found[3] or 1) if found[3] else 2 ** min(len(found[2]), 6)
        return Fraction(over, max(1, under))

    # the rest

    def decoration(self, text: str) -> None:
        """A sign at the note that follows: a stroke or a mark is kept, the others state nothing here."""
        name = text.strip("!+")
        if name in _STROKES:
            self._stroke = _STROKES[name]
        elif name in _MARKS:
            self._marks.add(_MARKS[name])
        elif len(name) == 1 and name not in _SIGNS and name not in self.own_signs:
            self.unknown(name)
        elif name.lower().replace(".", "") in ("dc", "ds", "fine", "dacapo", "dacoda", "segno", "coda"):
            self._say(f"the sign {name} is not played: the tune is read as its repeats say")

    def quoted(self, text: str) -> None:
        """Words or a chord over the notes."""
        if re.search(r"\b(D\.? ?C\.?|D\.? ?S\.?|[Ff]ine|[Dd]a [Cc]apo)(?![A-Za-z])", text):
            self._say(f"the words {text} are not followed: the tune is read as its repeats say")

    def moved(self, semitones: int | None) -> None:
        """The tune says by how much it sounds off what is written; None where it says nothing."""
        if semitones is not None:
            self.shift += semitones
            self.octave_stated = True

    def metre_is(self, metre: Metre) -> None:
        """Another metre, from this bar on if it holds nothing yet."""
        self.metre = metre
        if self.bars and self._empty():
            self.bar.metre = metre

    def key_is(self, text: str) -> None:
        """Another key."""
        self.pitches.key = signature(text, self.pitches.key)

    def part_is(self, name: str) -> None:
        """A part of that name begins."""
        self.bar.part = name

    def slur(self) -> None:
        """A slur opens or closes: it states no attack."""
        self.slurs += 1

    def unknown(self, text: str) -> None:
        """A sign that means nothing."""
        self._say(f"the sign {text!r} means nothing and is left out")

    def _say(self, words: str) -> None:
        self.said[words] = self.said.get(words, 0) + 1


Taker = Callable[[Voice, Sign], None]
TAKERS: dict[str, Taker] = {
    "bar": lambda v, s: v.bar_line(s.text),
    "numbers": lambda v, s: v.ending(s.text),
    "quote": lambda v, s: v.quoted(s.text),
    "decoration": lambda v, s: v.decoration(s.text),
    "sign": lambda v, s: v.decoration(s.text),
    "grace": lambda v, s: v.graces(s.text, s.line),
    "tuplet": lambda v, s: v.tuplet(s.text),
    "note": Voice.note,
    "rest": Voice.rest,
    "bars-rest": lambda v, s: v.rest_of_bars(s.text),
    "chord": Voice.chord,
    "broken": lambda v, s: v.broken(s.text),
    "tie": lambda v, s: v.tie(),
    "overlay": lambda v, s: v.overlay(),
    "slur": lambda v, s: v.slur(),
    "unknown": lambda v, s: v.unknown(s.text),
}
"""what each kind of sign does to a voice; those that are not here do nothing"""


def _starts(bars: list[WrittenBar]) -> None:
    """A repeat that begins nowhere goes back to the last double bar."""
    section, begun = 0, False
    for n, bar in enumerate(bars):
        begun = begun or bar.repeat_start
        if bar.repeat_end and not begun and section:
            bars[section].repeat_start = True
        if bar.repeat_end:
            begun = False
        if bar.double and not (n + 1 < len(bars) and bars[n + 1].endings):
            section = n + 1


def _turns(bars: list[WrittenBar]) -> None:
    """Repeats before several endings come round as often as the endings say. A last ending that goes on to the repeat sign of
    the next part is as long as the first one: nobody closed it."""
    group: list[WrittenBar] = []
    for bar in [*bars, None]:
        if bar is not None and bar.endings:
            group.append(bar)
            continue
        first = next((n for n, b in enumerate(group) if b.endings != group[0].endings), len(group))
        last = next((n for n in range(len(group)) if group[n].endings == group[-1].endings), 0) if group else 0
        if last > 0 and len(group) - last > first and group[-1].repeat_end:
            for one in group[last + first :]:
                one.endings = ()
            group = group[: last + first]
        most = max((n for b in group for n in b.endings), default=0)
        for one in group:
            if one.repeat_end:
                one.repeat_end = max(one.repeat_end, most)
        group = []
