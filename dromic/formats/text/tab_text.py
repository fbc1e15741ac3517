"""Reads plain-text tablature: as Dromic writes it, with lines for lengths and strokes, or as it is passed around.

Forgiving: 4 to 9 strings, any names or none, odd spacing, no lengths. What had to be assumed is said. Without a line of
lengths, a bar's columns are taken as even steps of it.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import reduce
from itertools import accumulate, pairwise
from math import gcd

from dromic import presets
from dromic.core.music.phrase import Bar, Event, Note, Phrase, Swing
from dromic.core.reports.explain import many
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.note_lengths import BASES, length_of, word_of
from dromic.core.values.pitch import note_number
from dromic.core.values.vocabulary import FINGERS, PICK, PLUCK, PLUCKERS, SLID_TO, SLIDE
from dromic.formats.limits import check_count, limit
from dromic.formats.text.tab_lines import Block, blocks_of
from dromic.formats.text.tab_write import AFTER_SIGNS, ATTACK_SIGNS

_HEAD = re.compile(
    r"^\s*(title|tuning|tempo|capo|swing|metre|meter|time(?: signature)?|bpm)\s*[:=]\s*(.*?)\s*$", re.IGNORECASE
)
_SAID = (
    (
        "capo",
        re.compile(r"^\s*capo\s*(?:on|at|:|-)?\s*(?:the\s+)?(?:fret\s+)?(\d{1,2})(?:st|nd|rd|th)?\b.*$", re.IGNORECASE),
    ),
    ("tuning", re.compile(r"^.*\btuning\b\s*[-:=]?\s*\(?((?:[A-Ga-g][#b]?-?\d?[\s,]*){4,9})\)?\s*$", re.IGNORECASE)),
    ("tempo", re.compile(r"^\s*(\d{2,3}(?:\.\d+)?)\s*bpm\b.*$", re.IGNORECASE)),
)
"""what holds for all, as people write it"""
_KEYS = {"meter": "metre", "time": "metre", "time signature": "metre", "bpm": "tempo"}
_SIGN = re.compile(
    r"(?P<attack>(?:(?<=[\d)\]}>])[/\\sS]-?|[hHpPtTnsS/\\])?)"
    r"(?P<place>\d{1,2}|[xX]|<\d{1,2}>|\(\d{1,2}\)|\[\d{1,2}\]|\{\d{1,2}\})"
    r"(?P<bend>(?:[bB]u?(?:full|\d/\d|\(?\d{1,2}(?:\.\d)?\)?)?|\^(?!\d))(?P<release>r(?:\(?\d{1,2}\)?)?)?)?"
    r"(?P<trill>tr\(?\d{1,2}\)?)?(?P<after>[~v*!]*)(?P<out>[/\\](?!-?[\dxX(<\[{]))?"
)
_LENGTH = re.compile(r"([r-]?)([whqestz]\.{0,2}\d{0,2}|\d{1,4}(?:/\d{1,4})?)")
_METRE = re.compile(r"(\d{1,2})/(\d{1,2})(?:\((\d+(?:\+\d+)*)\))?")
_LIKELY = (8, 16, 4, 32, 12, 6, 24, 2, 1, 3)
"""steps that share out a bar, the likeliest first"""
_FEW_GAPS = 4
"""of so many gaps between columns one may be a column too wide or too narrow"""
_MANY_STEPS = 12
"""steps of a bar beyond which they are taken as sixteenths, where they share out no bar evenly"""
_ATTACK_OF = {
    **{v: k for k, v in ATTACK_SIGNS.items()}, "H": "hammer", "P": "pull", "T": "tap", "s": "slide", "S": "slide",
    "\\": "slide",
}  # fmt: skip
_MARK_OF = {**{v: k for k, v in AFTER_SIGNS.items()}, "v": "vibrato"}


@dataclass(slots=True)
class _Moment:
    """A column of a bar: which column, what is on each string, and what the lines above say."""

    column: int
    extra: int
    notes: dict[int, re.Match[str]]
    stroke: str = ""
    fingers: str = ""
    marks: set[str] = field(default_factory=set)


def looks_like_tab(text: str) -> bool:
    """Whether a text holds a block of tablature."""
    return len(text) <= limit("tab_chars") and bool(blocks_of(text.splitlines())[0])


def read_tab(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """The phrase of a file of tablature, one part of it where it holds several instruments."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    empty = Phrase("untitled", (), (Bar(1, Fraction(0), Fraction(4), Metre(4, 4)),))
    return read_block(text, empty, None, part)


def read_block(text: str, base: Phrase, instrument: Instrument | None, part: int = 1) -> Phrase:
    """The phrase a text of tablature holds; title, tempo and instrument from `base` where the text says none."""
    check_count("tab_chars", len(text), "letters", "keep the part with the tablature")
    lines = text.replace("\t", "    ").splitlines()
    check_count("tab_lines", len(lines), "lines", "keep the part with the tablature")
    blocks, notices = blocks_of(lines)
    if not blocks:
        raise DromicError("it holds no tablature (4 to 9 lines of - with frets, one under the other); check the text")
    head = _head(lines)
    blocks = _of_part(blocks, part, notices)
    played, first_string = _instrument(head, blocks[0], instrument, notices)
    reader = _Reader(played, first_string, _metre(head.get("metre", "")) or Metre(4, 4), notices)
    for block in blocks:
        reader.take(block)
    return reader.phrase(head, base)


def _head(lines: list[str]) -> dict[str, str]:
    """What the text says of all of it, by name."""
    head: dict[str, str] = {}
    for line in lines:
        for name, pattern in _SAID:
            if name not in head and (found := pattern.match(line)):
                head[name] = found[1].strip()
        if m := _HEAD.match(line):
            name = _KEYS.get(m[1].lower(), m[1].lower())
            head.setdefault(name, m[2])
    return head


def _of_part(blocks: list[Block], part: int, notices: list[str]) -> list[Block]:
    """The blocks of one instrument: those with as many strings of the same names."""
    kinds = list(dict.fromkeys(len(b.strings) for b in blocks))
    if not 1 <= part <= len(kinds):
        raise DromicError(f"there is no part {part}; the tablature holds {len(kinds)}, so choose 1 to {len(kinds)}")
    if len(kinds) > 1:
        told = " and ".join(f"{n} strings" for n in kinds)
        notices.append(f"part {part} of {len(kinds)} is read ({told}); choose another with --part")
    return [b for b in blocks if len(b.strings) == kinds[part - 1]]


def _metre(text: str) -> Metre | None:
    match = _METRE.fullmatch(text)
    if match is None:
        return None
    return Metre(int(match[1]), int(match[2]), tuple(int(g) for g in match[3].split("+")) if match[3] else ())


def _instrument(
    head: dict[str, str], block: Block, given: Instrument | None, notices: list[str]
) -> tuple[Instrument, int]:
    """What the rows are the strings of, and the number of the highest row's string."""
    capo = min(int(head["capo"]), 12) if re.fullmatch(r"\d{1,2}", head.get("capo", "")) else 0
    count = len(block.strings)
    usual = {4: "bass4", 5: "bass5", 6: "guitar", 7: "guitar7", 8: "guitar8"}.get(count)
    written = re.findall(r"[A-Ga-g][#b]?(?:-?\d)?", head.get("tuning", ""))
    letters = [n[:1].upper() + n[1:].rstrip("0123456789-") for n in block.names]
    guitar = presets.usual_instrument()
    if len(written) == count and usual:
        if all(n[-1].isdigit() for n in written):
            return presets.instrument_for(tuple(note_number(n[:1].upper() + n[1:]) for n in written), capo), 1
        names = [n[:1].upper() + n[1:] for n in written[::-1]]
        tuned = _nearest(names, presets.instruments()[usual]).with_capo(capo)
        notices.append(f"the strings' octaves are not written; taken as {' '.join(tuned.tuning_names)}")
        return tuned, 1
    if all(re.fullmatch(r"[A-Ga-g][#b]?-?\d", n) for n in block.names):
        return presets.instrument_for(tuple(note_number(n.capitalize()) for n in block.names[::-1]), capo), 1
    if given is not None and given.strings == count:
        return given, 1
    of_guitar = [n.rstrip("0123456789-") for n in guitar.tuning_names[::-1]]
    if count == guitar.strings - 1 and letters in (of_guitar[1:], of_guitar[:-1]):
        missing = "highest" if letters == of_guitar[1:] else "lowest"
        notices.append(f"the row of the {missing} string is missing; taken as {guitar.label}")
        return guitar.with_capo(capo), 1 + (letters == of_guitar[1:])
    if usual is None:
        return presets.instrument_for((31, 35, *guitar.tuning, 69)[-count:], capo), 1
    preset = presets.instruments()[usual]
    expected = [n.rstrip("0123456789-") for n in preset.tuning_names[::-1]]
    if any(letters) and letters != expected:
        tuned = _nearest(letters, preset).with_capo(capo)
        notices.append(f"the strings' octaves are not written; taken as {' '.join(tuned.tuning_names)}")
        return tuned, 1
    notices.append(f"no tuning is written; taken as {preset.label}")
    return preset.with_capo(capo), 1


def _nearest(letters: list[str], preset: Instrument) -> Instrument:
    """The strings of these names (highest first) nearest to a preset's."""
    tuning = []
    for letter, usual in zip(letters[::-1], preset.tuning, strict=True):
        pitches = [note_number(f"{letter}{o}") for o in range(8)] if letter else [usual]
        tuning.append(min(pitches, key=lambda p: abs(p - usual)))
    return presets.instrument_for(tuple(tuning))


class _Reader:
    """Takes block after block."""

    def __init__(self, instrument: Instrument, first_string: int, metre: Metre, notices: list[str]) -> None:
        self.instrument, self.first_string, self.metre, self.notices = instrument, first_string, metre, notices
        self.bars: list[Bar] = []
        self.events: list[Event] = []
        self.start = Fraction(0)
        self.guessed: list[str] = []
        self.unread: list[str] = []
        self.words: list[str] = []
        self.own = False
        """whether the lines above are those that Dromic writes"""

    def take(self, block: Block) -> None:
        first_bar = len(self.bars)
        self.own = "length" in block.above
        self._rows(block)
        self.words += block.words
        if block.turns > 1 and len(self.bars) > first_bar:
            ends = [n for n in range(first_bar, len(self.bars)) if self.bars[n].repeat_times]
            last = ends[-1] if ends else len(self.bars) - 1
            if not ends:
                self.bars[first_bar] = replace(self.bars[first_bar], repeat_start=True)
            self.bars[last] = replace(self.bars[last], repeat_times=block.turns)

    def _rows(self, block: Block) -> None:
        width = max(len(s) for s in block.strings)
        rows = [
            re.sub(r"[–—─―=]|(?<!\d)\.|\.(?!\d)", "-", s).replace("‖", "|").ljust(width, "-") for s in block.strings
        ]
        walls = [c for c in range(width) if sum(row[c] == "|" for row in rows) > len(rows) / 2]
        first = next((c for c in range(width) if any(r[c] in "-0123456789" for r in rows)), 0)
        walls = [w for w in walls if w >= first]
        starts = [first, *(w + 1 for w in walls)]
        for low, high in zip(starts, [*walls, width], strict=True):
            if high - low > 1 and any(row[c] in "-0123456789xX" for row in rows for c in range(low, high)):
                self._bar(block, rows, low, high)

    def _bar(self, block: Block, rows: list[str], low: int, high: int) -> None:
        number = self.bars[-1].number + 1 if self.bars else 1
        words = block.above.get("bar", "")[low:high].split()
        opens = any(":" in row[max(low - 1, 0) : low + 2] or row[low : low + 2].startswith("*") for row in rows)
        ends = any(":" in row[max(low, high - 2) : high] or row[max(low, high - 2) : high] == "-*" for row in rows)
        times, length = (2 if ends else 0), None
        endings: tuple[int, ...] = ()
        for word in words:
            if word.isdecimal():
                number = int(word)
            elif metre := _metre(word):
                self.metre = metre
            elif word == "|:":
                opens = True
            elif re.fullmatch(r":\|\d{1,2}", word):
                times = int(word[2:])
            elif re.fullmatch(r"\[\d{1,2}(,\d{1,2})*\]", word):
                endings = tuple(int(n) for n in word[1:-1].split(","))
            elif word.startswith("len="):
                length = length_of(word[4:])
        moments = self._moments(block, rows, low, high)
        lengths = list(_LENGTH.finditer(block.above.get("length", ""), low, high)) if "length" in block.above else []
        letters = list(_LENGTH.finditer(block.above.get("rhythm", ""), max(low - 1, 0), high))
        if not lengths and letters and len(letters) == len(moments):
            lengths = letters
        elif letters and not lengths:
            self._say("the letters above do not go with the notes everywhere; columns are taken there")
        end = self._timed(moments, lengths, number) if lengths else self._guessed(moments, high, number)
        full = length or end or self.metre.length
        bar = Bar(number, self.start, full, self.metre, Fraction(0), opens, times, endings)
        if full != self.metre.length and not lengths and not length:
            bar = replace(bar, metre=_metre_of(full) or self.metre)
        self.bars.append(replace(bar, lead=bar.usual_lead))
        self.start += bar.length

    def _moments(self, block: Block, rows: list[str], low: int, high: int) -> list[_Moment]:
        at: dict[int, dict[int, re.Match[str]]] = {}
        for string, row in enumerate(rows, start=self.first_string):
            for match in _SIGN.finditer(row, low, high):
                at.setdefault(match.start("place"), {})[string] = match
            left = _SIGN.sub("", row[low:high])
            self.unread += re.sub(r"[-\s|:*o]", "", left)
        columns = sorted(at)
        moments: list[_Moment] = []
        for column in columns:
            notes = at[column]
            # "5h7" puts the sign of an attack before its fret: they are one place, which may start a column apart
            near = moments[-1] if moments else None
            close = near is not None and column - near.column == 1 and not set(near.notes) & set(notes)
            signed = close and near is not None and any(
                m["attack"] for m in (*near.notes.values(), *notes.values())
            )  # fmt: skip
            if signed and near is not None:
                near.notes.update(notes)
                continue
            moments.append(_Moment(column, 0, dict(notes)))
        taken = 0
        for moment in moments:
            widest = max(m.end() - m.start() for m in moment.notes.values())
            moment.extra, taken = taken, taken + widest - 1
            begin = min(m.start() for m in moment.notes.values())
            span = slice(begin, begin + widest)
            moment.stroke = block.above.get("stroke", "")[span].strip()[:1] or _at(block.above.get("marks", ""), moment)
            moment.fingers = block.above.get("finger", "")[span].strip()
            for line, name in (("palm", "palm-mute"), ("ring", "let-ring")):
                over = block.above.get(line, "")[begin : moment.column + 1].strip(" |") != ""
                moment.marks |= {name} if over else set()
        return moments

    def _timed(self, moments: list[_Moment], lengths: list[re.Match[str]], number: int) -> Fraction:
        """Lengths as written; the time of the whole bar."""
        now = Fraction(0)
        waiting = list(moments)
        for match in lengths:
            length = length_of(match[2])
            if match[1] == "-":
                self._hold(now, length)
            elif match[1] != "r" and waiting:
                self._event(waiting.pop(0), now, length)
            now += length
        if waiting:
            raise DromicError(f"it has fewer lengths than notes ({len(waiting)} left over)", where=f"bar {number}")
        return now

    def _hold(self, now: Fraction, length: Fraction) -> None:
        if self.events and not now:
            last = self.events[-1]
            notes = tuple(
                replace(n, duration=n.duration + length) if last.onset + n.duration == self.start else n
                for n in last.notes
            )
            self.events[-1] = replace(last, notes=notes)

    def _guessed(self, moments: list[_Moment], high: int, number: int) -> Fraction:
        """Even steps: the greatest that all columns lie on, the bar's length shared out among them. Numbers of two
        digits may have pushed the rest on or not, whichever makes the likelier sum."""
        if not moments:
            return self.metre.length
        last = moments[-1]
        widest = max(m.end() - m.start() for m in last.notes.values()) - 1
        plain, packed = [m.column for m in moments], [m.column - m.extra for m in moments]
        ways = [
            way
            for columns, end in ((plain, high), (packed, high - last.extra - widest))
            for way in (_steps(columns, end), _nearly_even(columns, end))
            if way is not None
        ]
        places, steps = min(ways, key=lambda w: _LIKELY.index(w[1]) if w[1] in _LIKELY else len(_LIKELY) + w[1])
        unit = self.metre.length / steps if steps in _LIKELY else BASES["s"] if steps > _MANY_STEPS else BASES["e"]
        self.guessed.append(f"bar {number} as {steps} steps of {word_of(unit)}")
        for moment, place, end in zip(moments, places, [*places[1:], steps], strict=True):
            self._event(moment, place * unit, (end - place) * unit)
        return unit * steps

    def _event(self, moment: _Moment, now: Fraction, length: Fraction) -> None:
        notes = []
        ordered = sorted(moment.notes.items(), reverse=True)
        fingers = moment.fingers if len(moment.fingers) == len(ordered) else ""
        for n, (string, match) in enumerate(ordered):
            notes.append(self._note(string, match, length, moment, fingers[n] if fingers else ""))
        notes.sort(key=lambda note: (note.pitch, -(note.string or 0)))
        self.events.append(Event(self.start + now, tuple(notes), len(self.bars)))

    def _say(self, words: str) -> None:
        if words not in self.notices:
            self.notices.append(words)

    def _note(self, string: int, match: re.Match[str], length: Fraction, moment: _Moment, finger: str) -> Note:
        place, bend = match["place"], match["bend"] or ""
        marks = {_MARK_OF[c] for c in match["after"]} | moment.marks
        fret = 0 if place in "xX" else int(place.strip("<>()[]{}"))
        marks |= {"dead"} if place in "xX" else set()
        marks |= {"harmonic"} if place[0] in "<[" else set()
        marks |= {"trill"} if match["trill"] else set()
        marks |= {"slide-out"} if match["out"] else set()
        semitones = 0.0
        if bend:
            marks |= {"bend", "release"} if match["release"] else {"bend"}
            semitones = _bent(bend.removesuffix(match["release"] or ""), fret)
        stroke = {"D": "down", "U": "up", "d": "down", "u": "up", "V": "up"}.get(moment.stroke)
        if moment.stroke in PLUCKERS:
            stroke = moment.stroke
        pitch = self.instrument.pitch_at(string, fret)
        sign = match["attack"].rstrip("-")
        attack = _ATTACK_OF.get(sign)
        if (
            sign in ("/", "\\", "s", "S")
            and not self.own
            and not match.string[match.start() - 1 : match.start()].isdigit()
        ):
            attack = None
            marks.add("slide-in")
        if attack == SLIDE and stroke is not None:
            attack = PLUCK if stroke in PLUCKERS else PICK
            marks.add(SLID_TO)
        return Note(
            pitch, length, string, fret, finger if finger in FINGERS else None, attack, stroke,
            frozenset(marks), semitones,
        )  # fmt: skip

    def phrase(self, head: dict[str, str], base: Phrase) -> Phrase:
        if not self.events:
            raise DromicError("its tablature holds no notes; give it at least one fret")
        if self.guessed:
            told = "; ".join(self.guessed[:3]) + (f"; {len(self.guessed) - 3} more" if len(self.guessed) > 3 else "")
            self.notices.append(f"no lengths are written; columns are taken as even steps ({told})")
        if self.unread:
            told = " ".join(dict.fromkeys(self.unread))[:40]
            self.notices.append(f"{many(len(self.unread), 'sign')} left out that nobody understands: {told}")
        if self.words:
            self.notices.append(f"words behind the rows are left out: {', '.join(dict.fromkeys(self.words))[:80]}")
        tempo = re.fullmatch(r"(\d{2,3}(?:\.\d+)?)\b.*", head.get("tempo", ""))
        swing = re.fullmatch(r"(1/2|1/4) (\d+(?:/[1-9]\d*)?)", head.get("swing", ""))
        if head.get("swing") and not swing:
            self.notices.append(
                f"swing is {head['swing']!r:.40}, which is no unit and ratio such as 1/2 3/2; it is left out"
            )
        return replace(
            base,
            title=head.get("title") or base.title,
            events=tuple(self.events),
            bars=tuple(self.bars),
            tempo=float(tempo[1]) if tempo else base.tempo,
            tempo_stated=bool(tempo) or base.tempo_stated,
            swing=Swing(Fraction(swing[1]), Fraction(swing[2])) if swing else base.swing,
            sections=(),
            instrument=self.instrument,
            notices=tuple(self.notices),
        )


def _at(marks: str, moment: _Moment) -> str:
    """The sign that stands over or under a column, or right beside it."""
    for column in (moment.column, moment.column - 1, moment.column + 1):
        if 0 <= column < len(marks) and marks[column] != " ":
            return marks[column]
    return ""


def _bent(bend: str, fret: int) -> float:
    """Semitones of a bend: a fraction or `full` counts whole tones; a number over the fret names the fret it reaches, a smaller
    one how far it goes."""
    if "full" in bend:
        return 2.0
    if part := re.search(r"(\d)/(\d)", bend):
        value = 2.0 * int(part[1]) / max(1, int(part[2]))
    else:
        amount = re.search(r"\d+(?:\.\d)?", bend)
        value = float(amount[0]) if amount else 0.0
        value = value - fret if fret and value > fret else value
    return value if 0 <= value <= 6 else 0.0


def _steps(columns: list[int], high: int) -> tuple[list[int], int]:
    """Columns as steps from the first, and how many steps the bar has."""
    gaps = [max(1, b - a) for a, b in pairwise(columns)]
    tail = max(1, high - columns[-1])
    step = reduce(gcd, gaps) if gaps else tail
    places = list(accumulate((g // step for g in gaps), initial=0))
    rest = max(1, round(tail / step))
    return places, places[-1] + (rest if places[-1] + rest in _LIKELY or places[-1] + 1 not in _LIKELY else 1)


def _nearly_even(columns: list[int], high: int) -> tuple[list[int], int] | None:
    """The same where somebody typed a column too many or too few here and there; None where it is more than that."""
    gaps = [b - a for a, b in pairwise(columns)]
    step = max(set(gaps), key=gaps.count, default=0)
    if step < 2 or len(gaps) < _FEW_GAPS:
        return None
    counts = [max(1, round(g / step)) for g in gaps]
    off = [abs(g - step * n) for g, n in zip(gaps, counts, strict=True)]
    if max(off) > 1 or not 0 < sum(off) <= len(gaps) // _FEW_GAPS:
        return None
    places = list(accumulate(counts, initial=0))
    return places, places[-1] + max(1, round((high - columns[-1]) / step))


def _metre_of(length: Fraction) -> Metre | None:
    """A metre for a bar of some length, if there is a plain one."""
    for lower in (4, 8, 16):
        upper = length * lower / 4
        if upper.denominator == 1 and 1 <= upper <= 64:
            return Metre(int(upper), lower)
    return None
