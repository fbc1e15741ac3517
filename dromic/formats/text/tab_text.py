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
from dromic.core.setup.instrument import MAX_STRINGS, MIN_STRINGS, Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.note_lengths import BASES, length_of, word_of
from dromic.core.values.pitch import note_number
from dromic.core.values.vocabulary import FINGERS, PICK, PLUCK, PLUCKERS, SLID_TO, SLIDE
from dromic.formats.limits import check_count, limit
from dromic.formats.text.tab_write import AFTER_SIGNS, ATTACK_SIGNS, LABELS

_STRING = re.compile(r"^\s*([A-Ga-g][#b]?-?\d?)?\s*[|:‖]?[\s|:‖]*((?:[-–—=.].*|[\dxXhpbrts/\\~<(*].*[-–—=].*))$")
_BODY = re.compile(r"^[-–—=.\d\sxXhHpPbBrRtTnsS/\\~^v<>()*|:‖!o]+$")
_LABEL = re.compile(rf"^({'|'.join(LABELS)})\b(.*)$")
_HEAD = re.compile(r"^(title|tuning|tempo|capo|swing|metre)\s*:\s*(.*?)\s*$", re.IGNORECASE)
_SIGN = re.compile(
    r"(?P<attack>[hHpPtTnsS/\\]?)(?P<place>\d{1,2}|[xX]|<\d{1,2}>|\(\d{1,2}\))"
    r"(?P<bend>b(?:\(?\d{1,2}(?:\.\d)?\)?)?r?)?(?P<after>[~v*!]*)"
)
_LENGTH = re.compile(r"([r-]?)([whqestz]\.{0,2}\d{0,2}|\d{1,4}(?:/\d{1,4})?)")
_PALM = re.compile(r"^\s*P\.?\s?M\.?", re.IGNORECASE)
_METRE = re.compile(r"(\d{1,2})/(\d{1,2})(?:\((\d+(?:\+\d+)*)\))?")
_LIKELY = (8, 16, 4, 32, 12, 6, 24, 2, 1, 3)
"""steps that share out a bar, the likeliest first"""
_MANY_STEPS = 12
"""steps of a bar beyond which they are taken as sixteenths, where they share out no bar evenly"""
_ATTACK_OF = {
    **{v: k for k, v in ATTACK_SIGNS.items()}, "H": "hammer", "P": "pull", "T": "tap", "s": "slide", "S": "slide",
    "\\": "slide",
}  # fmt: skip
_MARK_OF = {**{v: k for k, v in AFTER_SIGNS.items()}, "v": "vibrato"}


@dataclass(slots=True)
class _Block:
    """Lines that belong together: strings from the highest down, and the labelled lines above them."""

    strings: list[str]
    names: list[str]
    above: dict[str, str] = field(default_factory=dict)
    palm: str = ""


@dataclass(slots=True)
class _Moment:
    """A column of a bar: which column, what is on each string, and what the lines above say."""

    column: int
    extra: int
    notes: dict[int, re.Match[str]]
    stroke: str = ""
    fingers: str = ""
    palm: bool = False


def looks_like_tab(text: str) -> bool:
    """Whether a text holds a block of tablature."""
    return len(text) <= limit("tab_chars") and any(_blocks(text.splitlines()))


def read_tab(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """The phrase of a file of tablature."""
    if part != 1:
        raise DromicError(f"there is no part {part}; tablature holds one part")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    empty = Phrase("untitled", (), (Bar(1, Fraction(0), Fraction(4), Metre(4, 4)),))
    return read_block(text, empty, None)


def read_block(text: str, base: Phrase, instrument: Instrument | None) -> Phrase:
    """The phrase a text of tablature holds; title, tempo and instrument from `base` where the text says none."""
    check_count("tab_chars", len(text), "letters", "keep the part with the tablature")
    lines = text.replace("\t", "    ").splitlines()
    check_count("tab_lines", len(lines), "lines", "keep the part with the tablature")
    blocks = _blocks(lines)
    if not blocks:
        raise DromicError("it holds no tablature (4 to 9 lines of - with frets, one under the other); check the text")
    head = {m[1].lower(): m[2] for line in lines if (m := _HEAD.match(line))}
    notices: list[str] = []
    count = len(blocks[0].strings)
    odd = next((b for b in blocks if len(b.strings) != count), None)
    if odd is not None:
        raise DromicError(f"one row has {count} strings and another {len(odd.strings)}; give every row the same")
    played = _instrument(head, blocks[0], instrument, notices)
    reader = _Reader(played, _metre(head.get("metre", "")) or Metre(4, 4), notices)
    for block in blocks:
        reader.take(block)
    return reader.phrase(head, base)


def _blocks(lines: list[str]) -> list[_Block]:
    found: list[_Block] = []
    above: dict[str, str] = {}
    palm = ""
    run: list[tuple[str, str]] = []
    for line in [*lines, ""]:
        match = _STRING.match(line)
        body = line[match.start(2) :] if match else ""
        if match and _BODY.match(body) and sum(c in "-–—=." for c in body) >= 2:
            opens = line[: match.start(2)].endswith(("|:", "‖:"))
            run.append(
                (
                    match[1] or "",
                    " " * (match.start(2) - 1) + (":" if opens else " ") + body if match.start(2) else body,
                )
            )
            continue
        if MIN_STRINGS <= len(run) <= MAX_STRINGS:
            found.append(_Block([body for _, body in run], [name for name, _ in run], above, palm))
            above, palm = {}, ""
        run = []
        if label := _LABEL.match(line):
            above[label[1]] = " " * len(label[1]) + label[2]
        elif _PALM.match(line):
            palm = line
    return found


def _metre(text: str) -> Metre | None:
    match = _METRE.fullmatch(text)
    if match is None:
        return None
    return Metre(int(match[1]), int(match[2]), tuple(int(g) for g in match[3].split("+")) if match[3] else ())


def _instrument(head: dict[str, str], block: _Block, given: Instrument | None, notices: list[str]) -> Instrument:
    capo = int(head["capo"]) if re.fullmatch(r"\d{1,2}", head.get("capo", "")) else 0
    if "tuning" in head:
        tuning = tuple(note_number(n) for n in re.split(r"[\s,]+", head["tuning"].strip()))
        if len(tuning) == len(block.strings):
            return presets.instrument_for(tuning, min(capo, 12))
    if all(re.fullmatch(r"[A-Ga-g][#b]?-?\d", n) for n in block.names):
        return presets.instrument_for(tuple(note_number(n.capitalize()) for n in block.names[::-1]), min(capo, 12))
    if given is not None and given.strings == len(block.strings):
        return given
    usual = {4: "bass4", 5: "bass5", 6: "guitar", 7: "guitar7", 8: "guitar8"}.get(len(block.strings))
    if usual is None:
        return presets.instrument_for((31, 35, *presets.usual_instrument().tuning, 69)[-len(block.strings) :])
    preset = presets.instruments()[usual]
    letters = [n[:1].upper() + n[1:].rstrip("0123456789-") for n in block.names]
    expected = [n.rstrip("0123456789-") for n in preset.tuning_names[::-1]]
    if any(letters) and letters != expected:
        tuned = _nearest(letters, preset)
        notices.append(f"the strings' octaves are not written; taken as {' '.join(tuned.tuning_names)}")
        return tuned
    notices.append(f"no tuning is written; taken as {preset.label}")
    return preset.with_capo(min(capo, 12))


def _nearest(letters: list[str], preset: Instrument) -> Instrument:
    """The strings of these names (highest first) nearest to a preset's."""
    tuning = []
    for letter, usual in zip(letters[::-1], preset.tuning, strict=True):
        pitches = [note_number(f"{letter}{o}") for o in range(8)] if letter else [usual]
        tuning.append(min(pitches, key=lambda p: abs(p - usual)))
    return presets.instrument_for(tuple(tuning))


class _Reader:
    """Takes block after block."""

    def __init__(self, instrument: Instrument, metre: Metre, notices: list[str]) -> None:
        self.instrument, self.metre, self.notices = instrument, metre, notices
        self.bars: list[Bar] = []
        self.events: list[Event] = []
        self.start = Fraction(0)
        self.guessed: list[str] = []
        self.unread = 0

    def take(self, block: _Block) -> None:
        width = max(len(s) for s in block.strings)
        rows = [re.sub(r"[–—=]|(?<!\d)\.|\.(?!\d)", "-", s).replace("‖", "|").ljust(width, "-") for s in block.strings]
        walls = [c for c in range(width) if sum(row[c] == "|" for row in rows) > len(rows) / 2]
        first = next((c for c in range(width) if any(r[c] in "-0123456789" for r in rows)), 0)
        walls = [w for w in walls if w >= first]
        starts = [first, *(w + 1 for w in walls)]
        for low, high in zip(starts, [*walls, width], strict=True):
            if high - low > 1 and any(row[c] in "-0123456789xX" for row in rows for c in range(low, high)):
                self._bar(block, rows, low, high)

    def _bar(self, block: _Block, rows: list[str], low: int, high: int) -> None:
        number = self.bars[-1].number + 1 if self.bars else 1
        words = block.above.get("bar", "")[low:high].split()
        opens = any(":" in row[max(low - 1, 0) : low + 2] or row[low : low + 2].startswith("*") for row in rows)
        ends = any(":" in row[max(low, high - 2) : high] for row in rows)
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
        end = self._timed(moments, lengths, number) if lengths else self._guessed(moments, high, number)
        full = length or end or self.metre.length
        bar = Bar(number, self.start, full, self.metre, Fraction(0), opens, times, endings)
        if full != self.metre.length and not lengths and not length:
            bar = replace(bar, metre=_metre_of(full) or self.metre)
        self.bars.append(replace(bar, lead=bar.usual_lead))
        self.start += bar.length

    def _moments(self, block: _Block, rows: list[str], low: int, high: int) -> list[_Moment]:
        at: dict[int, dict[int, re.Match[str]]] = {}
        for string, row in enumerate(rows, start=1):
            for match in _SIGN.finditer(row, low, high):
                at.setdefault(match.start("place"), {})[string] = match
            left = _SIGN.sub("", row[low:high])
            self.unread += len(re.sub(r"[-\s|:*o]", "", left))
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
            moment.stroke = block.above.get("stroke", "")[span].strip()[:1]
            moment.fingers = block.above.get("finger", "")[span].strip()
            palm = block.above.get("palm", "") or block.palm
            moment.palm = palm[begin : moment.column + 1].strip(" |") != ""
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
        ways = [
            _steps([m.column for m in moments], high),
            _steps([m.column - m.extra for m in moments], high - last.extra - widest),
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

    def _note(self, string: int, match: re.Match[str], length: Fraction, moment: _Moment, finger: str) -> Note:
        place, bend = match["place"], match["bend"] or ""
        marks = {_MARK_OF[c] for c in match["after"]}
        fret = 0 if place in "xX" else int(place.strip("<>()"))
        marks |= {"dead"} if place in "xX" else set()
        marks |= {"harmonic"} if place.startswith("<") else set()
        marks |= {"palm-mute"} if moment.palm else set()
        semitones = 0.0
        if bend:
            marks.add("bend")
            marks |= {"release"} if bend.endswith("r") else set()
            amount = re.search(r"\d+(?:\.\d)?", bend)
            # a large number names the fret the bend reaches, a small one how far it goes
            value = float(amount[0]) if amount else 0.0
            semitones = value - fret if fret and value > fret else value
            semitones = semitones if 0 <= semitones <= 6 else 0.0
        stroke = {"D": "down", "U": "up", "d": "down", "u": "up", "V": "up"}.get(moment.stroke)
        if moment.stroke in PLUCKERS:
            stroke = moment.stroke
        pitch = self.instrument.pitch_at(string, fret)
        attack = _ATTACK_OF.get(match["attack"])
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
            self.notices.append(f"{self.unread} signs are not understood and left out")
        tempo = re.fullmatch(r"(\d{2,3}(?:\.\d+)?)\b.*", head.get("tempo", ""))
        swing = re.fullmatch(r"(1/2|1/4) (\d+(?:/\d+)?)", head.get("swing", ""))
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


def _steps(columns: list[int], high: int) -> tuple[list[int], int]:
    """Columns as steps from the first, and how many steps the bar has."""
    gaps = [max(1, b - a) for a, b in pairwise(columns)]
    tail = max(1, high - columns[-1])
    step = reduce(gcd, gaps) if gaps else tail
    places = list(accumulate((g // step for g in gaps), initial=0))
    rest = max(1, round(tail / step))
    return places, places[-1] + (rest if places[-1] + rest in _LIKELY or places[-1] + 1 not in _LIKELY else 1)


def _metre_of(length: Fraction) -> Metre | None:
    """A metre for a bar of some length, if there is a plain one."""
    for lower in (4, 8, 16):
        upper = length * lower / 4
        if upper.denominator == 1 and 1 <= upper <= 64:
            return Metre(int(upper), lower)
    return None
