"""The quick line: a phrase as one line of short text, and back. The grammar is published in docs/quick-line.md.

`parse` says where in the text a fault lies, so that it can be underlined while it is typed.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import zip_longest

from dromic.core.music.phrase import Bar, Event, Note, Phrase, Section
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.note_lengths import length_of, word_of
from dromic.core.values.pitch import note_name, note_number
from dromic.core.values.vocabulary import FINGERS, HAMMER, HAMMER_NEW, MARKS, PICK, PLUCK, PULL, SLIDE, STROKES, TAP

ATTACK_LETTERS = {
    "h": HAMMER, "p": PULL, "s": SLIDE, "n": HAMMER_NEW, "t": TAP, "k": PICK, "f": PLUCK,
}  # fmt: skip
MARK_SIGNS = {"!": "accent", "x": "dead", "_": "palm-mute", "*": "let-ring", "v": "vibrato"}
STROKE_LETTERS = {s[0]: s for s in STROKES}
_ATTACK_OF = {v: k for k, v in ATTACK_LETTERS.items()}
_SIGN_OF = {v: k for k, v in MARK_SIGNS.items()}

_TOKEN = re.compile(r"""'(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"(?::\d+)?|[^\s"']+|"[^"]*$|'[^']*$""")
_BARLINE = re.compile(r"(:?)\|(:?)(\d{0,2})")
_METRE = re.compile(r"(\d{1,2})/(\d{1,2})(?:\((\d+(?:\+\d+)*)\))?")
_SETTING = re.compile(r"(len|lead|bar|pace)=(.*)")
_ENDINGS = re.compile(r"\[(\d{1,2}(?:,\d{1,2})*)\]")
_SECTION = re.compile(r'"((?:[^"\\]|\\.)*)"(?::(\d+))?')
_WORDS = re.compile(r"'((?:[^'\\]|\\.)*)'")
_ITEM = re.compile(r"([^:]+)(?::(.+))?")
_NOTE = re.compile(r"([a-z]?)(?:(\d)\.(\d{1,2})|([A-G][#b]{0,2}-?\d)(?:\$(\d))?)(.*)")
_FLAG = re.compile(
    r"(?P<sign>[!x_*v])|\^(?P<prebend>=?)(?P<bend>\d*\.?\d*)(?P<release>r?)|%(?P<beams>\d?)|@(?P<finger>[0-4T])|/(?P<stroke>[a-z])|"
    r"\{(?P<mark>[a-z-]+)\}|\?(?P<doubt>-?\d{1,2})|=(?P<sound>[a-z0-9./]+)"
)


class LineFault(DromicError):
    """A fault in a quick line, from `start` to `end` in its text."""

    def __init__(self, what: str, start: int, end: int) -> None:
        super().__init__(what, where=f"column {start + 1}")
        self.start, self.end = start, end


@dataclass(frozen=True, slots=True)
class Parsed:
    """What a line says: the phrase, and remarks on what was made of it."""

    phrase: Phrase
    remarks: tuple[str, ...]


def parse(text: str, base: Phrase, instrument: Instrument) -> Parsed:
    """The phrase of a quick line, with title, tempo and the rest from `base`; LineFault where it is wrong."""
    reader = _Reader(instrument)
    for match in _TOKEN.finditer(text):
        try:
            reader.take(match.group())
        except LineFault:
            raise
        except DromicError as error:
            raise LineFault(error.what, match.start(), match.end()) from error
    try:
        return reader.done(base)
    except DromicError as error:
        raise LineFault(error.what, max(len(text.rstrip()) - 1, 0), len(text)) from error


Stretch = tuple[int, str, Fraction]
"""the index of a bar, a word, and how long it lasts"""


class LineMemo:
    """The words of the events of the phrase written last: of one that is edited, only what has changed is put in words
    again."""

    def __init__(self) -> None:
        self.bars: tuple[Bar, ...] = ()
        self.words: dict[tuple[int, int], tuple[Event, Event | None, list[Stretch]]] = {}
        """by the identities of an event and the one after it, which are held here and so stay theirs"""

    def begin(self, phrase: Phrase) -> dict[tuple[int, int], tuple[Event, Event | None, list[Stretch]]]:
        """What is known of a phrase's events; from now on what is written now is kept."""
        known = self.words if self.bars is phrase.bars else {}
        self.bars, self.words = phrase.bars, {}
        return known


def write(phrase: Phrase, memo: LineMemo | None = None) -> str:
    """The quick line of a phrase."""
    return " ".join(_tokens(phrase, memo or LineMemo()))


@dataclass(slots=True)
class _Sound:
    """A note on its way: what it is, and its length where that is said apart."""

    note: Note
    own: bool


class _Reader:
    """Takes token after token."""

    def __init__(self, instrument: Instrument) -> None:
        self.instrument = instrument
        self.bars: list[Bar] = []
        self.sounds: list[tuple[Fraction, int, list[_Sound]]] = []
        self.sections: list[Section] = []
        self.remarks: list[str] = []
        self.length = Fraction(1)
        self.metre = Metre(4, 4)
        self.pace = 1.0
        self.start = self.now = Fraction(0)
        self.number: int | None = None
        self.own_length: Fraction | None = None
        self.own_lead: Fraction | None = None
        self.endings: tuple[int, ...] = ()
        self.opens = self.touched = False
        self.said = 0
        """words given to notes of the last chord"""

    @property
    def bar_length(self) -> Fraction:
        return self.own_length or self.metre.length

    def take(self, token: str) -> None:
        if match := _BARLINE.fullmatch(token):
            self._barline(bool(match[1]), bool(match[2]), match[3])
        elif match := _METRE.fullmatch(token):
            self._setting_first("the metre")
            groups = tuple(int(g) for g in match[3].split("+")) if match[3] else ()
            self.metre = Metre(int(match[1]), int(match[2]), groups)
        elif match := _SETTING.fullmatch(token):
            self._setting(match[1], match[2])
        elif match := _ENDINGS.fullmatch(token):
            self._setting_first("an ending")
            self.endings = tuple(int(n) for n in match[1].split(","))
        elif token.startswith('"'):
            self._section(token)
        elif token.startswith("'"):
            self._words(token)
        else:
            self._item(token)

    def _setting_first(self, what: str) -> None:
        if self.now > self.start:
            raise DromicError(f"{what} stands at the beginning of a bar; put it after a bar line")
        self.touched = True

    def _setting(self, name: str, value: str) -> None:
        self._setting_first(f"{name}=")
        if name == "bar":
            if not re.fullmatch(r"\d{1,5}", value):
                raise DromicError(f"{value!r} is not a bar's number; write bar=5")
            self.number = int(value)
        elif name == "pace":
            if not re.fullmatch(r"\d{1,2}(\.\d{1,6})?", value):
                raise DromicError(f"{value!r} is no share of the tempo; write pace=0.8")
            self.pace = float(value)
        elif name == "len":
            self.own_length = length_of(value)
        else:
            self.own_lead = Fraction(0) if value == "0" else length_of(value)

    def _section(self, token: str) -> None:
        match = _SECTION.fullmatch(token)
        if match is None:
            raise DromicError('a section\'s name ends with a quote: "Verse":4')
        self._setting_first("a section")
        name = re.sub(r"\\(.)", r"\1", match[1])
        first = len(self.bars)
        self.sections.append(Section(name, first, first + int(match[2] or 1) - 1))

    def _words(self, token: str) -> None:
        match = _WORDS.fullmatch(token)
        if match is None:
            raise DromicError("words at a note end with an apostrophe: 5.7 'relax'")
        if not self.sounds:
            raise DromicError("words stand after the note they belong to; write one before them")
        notes = sorted(self.sounds[-1][2], key=lambda s: _in_chord(s.note))
        if self.said == len(notes):
            raise DromicError("there are more words here than notes; take some away")
        notes[self.said].note = replace(notes[self.said].note, words=re.sub(r"\\(.)", r"\1", match[1]))
        self.said += 1

    def _item(self, token: str) -> None:
        match = _ITEM.fullmatch(token)
        if match is None:
            raise DromicError(f"{token!r} is not understood; write notes as string.fret, as in 5.7 or 5.7:e")
        if match[2]:
            self.length = length_of(match[2])
        room = self.start + self.bar_length - self.now
        if self.length > room:
            over = f"only {_quarters(room)} of it are left" if room else "it is full"
            raise DromicError(
                f"bar {self._number()} holds {_quarters(self.bar_length)}, and {over}; put a bar line | or a shorter length"
            )
        if match[1] == "-":
            self._hold()
        elif match[1] != "r":
            notes = [self._note(part) for part in match[1].split("+")]
            self.sounds.append((self.now, len(self.bars), notes))
            self.said = 0
        self.now += self.length
        self.touched = True

    def _hold(self) -> None:
        if not self.sounds:
            raise DromicError("there is no note before this to hold on; write a rest as r")
        onset, _, notes = self.sounds[-1]
        held = [s for s in notes if not s.own and onset + s.note.duration == self.now]
        if not held:
            raise DromicError("the note before this has ended already; write a rest as r")
        for sound in held:
            sound.note = replace(sound.note, duration=sound.note.duration + self.length)

    def _note(self, text: str) -> _Sound:
        match = _NOTE.fullmatch(text)
        if match is None:
            raise DromicError(
                f"{text!r} is not a note; write string.fret as in 5.7, or a name as in F#3, or r for a rest, - to hold on"
            )
        letter, string, fret, name, on, flags = match.groups()
        if letter and letter not in ATTACK_LETTERS:
            raise DromicError(f"{letter!r} is no way to sound a note; choose one of {' '.join(ATTACK_LETTERS)}")
        attack = ATTACK_LETTERS[letter] if letter else None
        if name is None:
            pitch = self.instrument.pitch_at(int(string), int(fret))
            note = Note(pitch, self.length, int(string), int(fret), attack=attack)
        else:
            note = Note(note_number(name), self.length, int(on) if on else None, attack=attack)
        return _flagged(note, flags)

    def _barline(self, ends: bool, opens: bool, times: str) -> None:
        if times and not ends:
            raise DromicError("a number after a bar line says how often a repeat is played; write :|3")
        if not self.touched and not ends and not self.bars:
            self.opens = self.opens or opens
            return  # the line begins with a bar line
        if not self.touched and not ends and opens and not self.opens:
            self.opens = True  # a double line between bars: :| |:
            return
        self._close(int(times or 2) if ends else 0)
        self.opens = opens

    def _number(self) -> int:
        if self.number is not None:
            return self.number
        if self.bars:
            return self.bars[-1].number + 1
        return 0 if self.bar_length < self.metre.length else 1

    def _close(self, times: int) -> None:
        """The bar is at its end; what it lacks is silence."""
        length = self.bar_length
        lacks = self.start + length - self.now
        number = self._number()
        if lacks and self.now > self.start:
            self.remarks.append(f"bar {number} is {_quarters(lacks)} short, left silent")
        bar = Bar(number, self.start, length, self.metre, Fraction(0), self.opens, times, self.endings, self.pace)
        self.bars.append(replace(bar, lead=bar.usual_lead if self.own_lead is None else self.own_lead))
        self.start = self.now = self.start + length
        self.number = self.own_length = self.own_lead = None
        self.endings, self.opens, self.touched = (), False, False

    def done(self, base: Phrase) -> Parsed:
        if self.touched or not self.bars:
            self._close(0)
        wrong = next((s for s in self.sections if s.last >= len(self.bars)), None)
        if wrong is not None:
            raise DromicError(
                f"the section {wrong.name!r} is longer than what follows; there are {len(self.bars)} bars"
            )
        events = tuple(
            Event(onset, tuple(sorted((s.note for s in notes), key=_in_chord)), bar)
            for onset, bar, notes in self.sounds
        )
        phrase = replace(base, bars=tuple(self.bars), events=events, sections=tuple(self.sections))
        return Parsed(phrase, tuple(self.remarks))


def _flagged(note: Note, flags: str) -> _Sound:
    """A note with what follows its place."""
    marks, found, own = set(note.marks), dict[str, object](), False
    at = 0
    while at < len(flags):
        match = _FLAG.match(flags, at)
        if match is None:
            raise DromicError(f"{flags[at:]!r} after a note is not understood; the signs are listed under the line")
        at = match.end()
        if match["sign"]:
            marks.add(MARK_SIGNS[match["sign"]])
        elif match["bend"] is not None:
            marks.add("bend")
            marks |= {"release"} if match["release"] else set()
            marks |= {"prebend"} if match["prebend"] else set()
            found["bend"] = float(match["bend"] or 0)
        elif match["beams"] is not None:
            marks.add("tremolo")
            found["tremolo"] = int(match["beams"] or 0)
        elif match["finger"]:
            found["finger"] = match["finger"]
        elif match["doubt"]:
            found["doubt"] = int(match["doubt"])
        elif match["stroke"]:
            if match["stroke"] not in STROKE_LETTERS:
                raise DromicError(f"/{match['stroke']} is no stroke; choose one of /{' /'.join(STROKE_LETTERS)}")
            found["stroke"] = STROKE_LETTERS[match["stroke"]]
        elif match["mark"]:
            if match["mark"] not in MARKS:
                raise DromicError(f"there is no mark {match['mark']!r}; choose one of {', '.join(MARKS)}")
            marks.add(match["mark"])
        else:
            found["duration"], own = length_of(match["sound"]), True
    return _Sound(replace(note, marks=frozenset(marks), **found), own)  # type: ignore[arg-type]


def _quarters(length: Fraction) -> str:
    return f"{length} quarter" if length == 1 else f"{length} quarters"


def _tokens(phrase: Phrase, memo: LineMemo) -> Iterator[str]:
    """The words of a phrase, bar by bar."""
    by_bar: dict[int, list[tuple[str, Fraction]]] = {}
    for bar_index, word, length in _stretches(phrase, memo):
        by_bar.setdefault(bar_index, []).append((word, length))
    metre, number, last, pace = Metre(4, 4), None, Fraction(1), 1.0
    for index, bar in enumerate(phrase.bars):
        if index:
            before = phrase.bars[index - 1]
            ends = (":|" if before.repeat_times else "|") + (
                str(before.repeat_times) if before.repeat_times > 2 else ""
            )
            yield f"{ends} |:" if bar.repeat_start and before.repeat_times else f"{ends}:" if bar.repeat_start else ends
        elif bar.repeat_start:
            yield "|:"
        if bar.metre != metre:
            groups = f"({'+'.join(map(str, bar.metre.groups))})" if bar.metre.groups else ""
            yield f"{bar.metre}{groups}"
            metre = bar.metre
        if bar.pace != pace:
            yield f"pace={bar.pace:.6f}".rstrip("0").rstrip(".")
            pace = bar.pace
        if bar.length != metre.length:
            yield f"len={word_of(bar.length)}"
        if bar.lead != bar.usual_lead:
            yield f"lead={word_of(bar.lead) if bar.lead else 0}"
        expected = number + 1 if number is not None else 0 if bar.length < metre.length else 1
        if bar.number != expected:
            yield f"bar={bar.number}"
        number = bar.number
        if bar.endings:
            yield f"[{','.join(map(str, bar.endings))}]"
        for section in (s for s in phrase.sections if s.first == index):
            name = re.sub(r'(["\\])', r"\\\1", section.name)
            yield f'"{name}":{section.last - section.first + 1}'
        for word, length in by_bar.get(index, []):
            if not length:
                yield word  # what is said at the note before
                continue
            yield word if length == last else f"{word}:{word_of(length)}"
            last = length
    if phrase.bars[-1].repeat_times:
        times = phrase.bars[-1].repeat_times
        yield ":|" + (str(times) if times > 2 else "")


def _stretches(phrase: Phrase, memo: LineMemo) -> Iterator[Stretch]:
    """All time of a phrase: notes, holds and rests, none over a bar line."""
    before = memo.begin(phrase)
    cut = _Bars(phrase)
    first = phrase.events[0].onset if phrase.events else phrase.end
    yield from cut.split(Fraction(0), first, "r")
    for event, following in zip_longest(phrase.events, phrase.events[1:]):
        known = before.get((id(event), id(following)))
        if known is None:
            until = following.onset if following is not None else max(phrase.end, event.onset)
            known = event, following, list(_of_event(event, until, cut))
        memo.words[id(event), id(following)] = known
        yield from known[2]


def _of_event(event: Event, until: Fraction, cut: _Bars) -> Iterator[Stretch]:
    """The time from an event up to the next one, or to the end."""
    natural = min(until - event.onset, max(n.duration for n in event.notes))
    word = "+".join(_note_word(n, natural) for n in event.notes)
    passing = "-" if any(n.duration == natural for n in event.notes) else "r"
    for part, (bar, _, length) in enumerate(cut.split(event.onset, event.onset + natural, word)):
        yield bar, passing if part else word, length
        if not part:
            said = max((n for n, note in enumerate(event.notes, start=1) if note.words), default=0)
            yield from ((bar, _quoted(note.words), Fraction(0)) for note in event.notes[:said])
    yield from cut.split(event.onset + natural, until, "r")


def _in_chord(note: Note) -> tuple[int, int]:
    """Where a note stands in its chord: the lowest pitch first."""
    return note.pitch, -(note.string or 0)


def _quoted(words: str) -> str:
    """Words at a note, as they stand after it."""
    inside = re.sub(r"(['\\])", r"\\\1", words)
    return f"'{inside}'"


class _Bars:
    """Cuts time at the bar lines, from the front of a phrase to its end."""

    def __init__(self, phrase: Phrase) -> None:
        self.ends = [bar.end for bar in phrase.bars]
        self.index = 0

    def split(self, start: Fraction, end: Fraction, word: str) -> Iterator[Stretch]:
        while start < end:
            while self.index < len(self.ends) - 1 and self.ends[self.index] <= start:
                self.index += 1
            upto = min(end, self.ends[self.index]) if self.ends[self.index] > start else end
            yield self.index, word, upto - start
            start = upto


def _note_word(note: Note, natural: Fraction) -> str:
    """A note without its length, unless it sounds longer or shorter than the time it takes."""
    place = f"{note.string}.{note.fret}" if note.string is not None and note.fret is not None else note_name(note.pitch)
    if "." not in place and note.string is not None:
        place += f"${note.string}"
    marks = set(note.marks)
    word = _ATTACK_OF.get(note.attack or "", "") + place
    word += "".join(sign for sign, mark in MARK_SIGNS.items() if mark in marks)
    if "bend" in marks:
        word += "^=" if "prebend" in marks else "^"
        word += (f"{note.bend:g}" if note.bend else "") + ("r" if "release" in marks else "")
        marks -= {"bend", "release", "prebend"}
    if "tremolo" in marks:
        word += f"%{note.tremolo or ''}"
        marks.discard("tremolo")
    word += "".join(f"{{{m}}}" for m in sorted(marks - set(_SIGN_OF)))
    word += f"@{note.finger}" if note.finger in FINGERS else ""
    word += f"/{note.stroke[0]}" if note.stroke else ""
    word += f"?{note.doubt}" if note.doubt else ""
    return word if note.duration == natural else f"{word}={word_of(note.duration)}"
