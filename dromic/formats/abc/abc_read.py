"""ABC tunes into phrases: the head of a tune, its lines, its voices, one of which becomes a phrase.

Source: the ABC music standard 2.1. Written here because what libraries there are read a fifth of old tune books wrong (the
figures of `./run bench --abc`), without a word.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction

from dromic import presets
from dromic.core.music.octaves import for_guitar
from dromic.core.music.phrase import Bar, Phrase, Section
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.formats.abc.abc_parts import in_order, order_of
from dromic.formats.abc.abc_pitch import Pitches, Signature, shift_of, signature
from dromic.formats.abc.abc_tokens import Sign, signs
from dromic.formats.abc.abc_voice import COMMON, TAKERS, Voice, WrittenBar
from dromic.formats.heard import gathered, joined, paced, with_graces
from dromic.formats.limits import check_count, limit

_TUNE = re.compile(r"^X:", re.MULTILINE)
_FIELD = re.compile(r"([IKLMNOPQRTUVWXZmrsw+]):(?![|:])(.*)")
"""a field within a tune; other letters before a colon are notes there"""
_HEAD = re.compile(r"([A-Za-z+]):(.*)")
_METRE = re.compile(r"\(?\s*(\d{1,3}(?:\s*\+\s*\d{1,3})*)\s*\)?\s*/\s*(\d{1,3})")
_BEAT = re.compile(r"(\d{1,3})\s*/\s*(\d{1,3})")
_MOST_SAID = 4
"""sentences about signs that mean nothing, before the rest is only counted"""
_WHOLE = 4
"""quarters in a whole note"""


@dataclass
class _Head:
    """What stands before the music."""

    title: str = "untitled"
    metre: Metre | None = None
    free: bool = False
    unit: Fraction | None = None
    tempo_text: str = ""
    key: Signature = field(default_factory=Signature)
    shift: int | None = None
    voices: dict[str, int | None] = field(default_factory=dict)
    order: str = ""
    own_signs: set[str] = field(default_factory=set)

    @property
    def length(self) -> Fraction:
        """Of a length of 1, in quarters: an eighth, or a sixteenth where a bar holds less than three quarters."""
        if self.unit is not None:
            return self.unit
        short = self.metre is not None and not self.free and self.metre.length < 3
        return Fraction(1, 4) if short else Fraction(1, 2)


def abc_titles(data: bytes) -> list[str]:
    """The titles of a book of tunes, in order."""
    found = []
    for text in _tunes(data):
        title = re.search(r"^T:[ \t]*(.*?)[ \t]*$", text, re.MULTILINE)
        found.append(title.group(1) or "untitled" if title else "untitled")
    return found


def read_abc(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """The Nth tune of an ABC book, its voice number `part`. Raises DromicError for anything that holds no notes."""
    tunes = _tunes(data)
    if not 1 <= tune <= len(tunes):
        raise DromicError(f"there is no tune {tune}; the book holds {len(tunes)}, so choose 1 to {len(tunes)}")
    head, voices, told = _read(tunes[tune - 1])
    sounding = [v for v in voices.values() if v.heard]
    if not sounding:
        raise DromicError("there are no notes to plan; give it at least one note")
    if not 1 <= part <= len(sounding):
        raise DromicError(f"there is no part {part}; the file holds {len(sounding)}, so choose 1 to {len(sounding)}")
    voice = sounding[part - 1]
    notices = list(told)
    if len(sounding) > 1:
        notices.append(f"part {part} of {len(sounding)} is read; choose another with --part")
    bars = _bars(voice.bars)
    heard = with_graces(joined(voice.heard), bars, notices)
    events = gathered(heard)
    if not events:
        raise DromicError("there are no notes to plan; give it at least one note")
    if voice.slurs:
        notices.append("plain slurs state no hammer-on or pull-off and are left out")
    notices += _said(voice.said)
    tempo = _tempo(head.tempo_text, head.length)
    marks = [(at, t) for at, words in voice.tempo_marks if (t := _tempo(words, head.length)) is not None]
    starts = [bar.start for bar in bars]
    changes = [(max(0, bisect_right(starts, at) - 1), t) for at, t in marks]
    bars = paced(bars, [(0, tempo), *changes] if tempo is not None else changes, notices)
    phrase = Phrase(
        title=head.title, events=events, bars=bars, tempo=tempo or 120.0, tempo_stated=tempo is not None,
        key=head.key.name, sections=_sections(voice.bars[: len(bars)]),
    )  # fmt: skip
    if head.order:
        ordered = in_order(phrase, order_of(head.order))
        if ordered is not None:
            phrase = ordered
            notices.append(f"its parts are written out in the order {head.order[:40]}")
        elif order_of(head.order) != "".join(s.name[:1] for s in phrase.sections):
            notices.append(f"the order of parts {head.order[:40]} is not played out: the tune is read as it is written")
    phrase = replace(phrase, notices=tuple(notices))
    return phrase if voice.octave_stated else for_guitar(phrase, presets.usual_instrument())


def _sections(bars: list[WrittenBar]) -> tuple[Section, ...]:
    """The parts named within the tune, each to the next one."""
    starts = [(i, bar.part) for i, bar in enumerate(bars) if bar.part]
    ends = [*(i - 1 for i, _ in starts[1:]), len(bars) - 1][: len(starts)]
    return tuple(Section(name, first, last) for (first, name), last in zip(starts, ends, strict=True))


def _said(said: dict[str, int]) -> Iterator[str]:
    for words, count in list(said.items())[:_MOST_SAID]:
        yield words if count == 1 else f"{words} ({count} times)"
    more = sum(list(said.values())[_MOST_SAID:])
    if more:
        yield f"{more} more signs are left out"


def _tunes(data: bytes) -> list[str]:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    starts = [m.start() for m in _TUNE.finditer(text)]
    tunes = [text[a:b] for a, b in zip(starts, [*starts[1:], None], strict=False)] or [text]
    if not any(re.search(r"^K:", t, re.MULTILINE) for t in tunes):
        raise DromicError("it holds no ABC tune (no key line K: was found); choose an ABC file")
    return tunes


def _read(text: str) -> tuple[_Head, dict[str, Voice], list[str]]:
    """The head of a tune and its voices by name, in their order, with what is to be told."""
    check_count("tune_letters", len(text), "letters in one tune", "split it")
    head, told = _Head(), list[str]()
    voices: dict[str, Voice] = {}
    inside, current = False, ""
    for number, raw in enumerate(text.split("\n"), start=1):
        line = _without_comment(raw, head)
        if not line.strip():
            if inside and any(v.heard for v in voices.values()) and not raw.strip():
                break  # an empty line ends a tune
            continue
        if not inside:
            found = _HEAD.match(line)
            if found:
                inside = _headed(head, found[1], found[2].strip())
            continue
        found = _FIELD.match(line)
        pieces = [Sign("field", f"[{found[1]}:{found[2].strip()}]", number)] if found else signs(line, number)
        for sign in pieces:
            if sign.kind == "field":
                name, value = sign.text[1], sign.text[3:-1].strip()
                if name == "V":
                    current = (value.split() or [""])[0]
                    _voice(voices, current, head).moved(shift_of(value))
                    continue
                if name == "Q":
                    head.tempo_text = head.tempo_text or value
                    here = _voice(voices, current, head)
                    here.tempo_marks.append((here.now, value))
                    continue
                _changed(_voice(voices, current, head), name, value)
            elif sign.kind in TAKERS:
                TAKERS[sign.kind](_voice(voices, current, head), sign)
    for voice in voices.values():
        voice.close()
    return head, voices, told


def _without_comment(raw: str, head: _Head) -> str:
    """A line without its comment; what a directive says of transposing is taken."""
    directive = re.match(r"%%MIDI\s+transpose\s+(-?\d{1,2})", raw)
    if directive:
        head.shift = (head.shift or 0) + int(directive[1])
    return re.sub(r"(?<!\\)%.*", "", raw).rstrip()


def _headed(head: _Head, name: str, value: str) -> bool:
    """Take a field of the head; whether it was the last one."""
    if name == "T" and head.title == "untitled":
        head.title = value or "untitled"
    elif name == "M":
        head.metre, head.free = _metre(value)
    elif name == "L":
        head.unit = _unit(value)
    elif name == "Q":
        head.tempo_text = value
    elif name == "U":
        head.own_signs.add(value[:1])
    elif name == "P":
        head.order = value
    elif name == "V":
        words = value.split()
        if words:
            head.voices[words[0]] = shift_of(value)
    elif name == "K":
        head.key = signature(value, head.key)
        shift = shift_of(value)
        head.shift = head.shift if shift is None else (head.shift or 0) + shift
        return True
    return False


def _voice(voices: dict[str, Voice], name: str, head: _Head) -> Voice:
    """The voice of that name, begun where it is new."""
    if name not in voices:
        check_count("xml_parts", len(voices) + 1, "voices", "split it")
        voices[name] = Voice(head.metre or COMMON, head.length, Pitches(head.key), own_signs=frozenset(head.own_signs))
        voices[name].moved(head.shift)
        voices[name].moved(head.voices.get(name))
    return voices[name]


def _changed(voice: Voice, name: str, value: str) -> None:
    """A field within the music: what changes from here on."""
    if name == "K":
        voice.key_is(value)
        voice.moved(shift_of(value))
    elif name == "M":
        metre, free = _metre(value)
        if metre is not None and not free:
            voice.metre_is(metre)
    elif name == "L":
        voice.unit = _unit(value) or voice.unit
    elif name == "P" and value:
        voice.part_is(value)


def _metre(text: str) -> tuple[Metre | None, bool]:
    """The metre a field states, and whether it states that there is none."""
    if text.startswith("C|"):
        return Metre(2, 2), False
    if text.startswith("C"):
        return COMMON, False
    found = _METRE.match(text)
    if found is None:
        return None, text.startswith("none")
    groups = tuple(int(n) for n in found[1].split("+"))
    upper, lower = sum(groups), int(found[2])
    if upper > limit("abc_number"):
        raise DromicError(f"the number {upper} is larger than any metre of a tune; check it")
    if lower not in (1, 2, 4, 8, 16, 32) or not upper >= 1:
        return None, False
    return Metre(upper, lower, groups if len(groups) > 1 else ()), False


def _unit(text: str) -> Fraction | None:
    """The length of a length of 1, in quarters."""
    found = _BEAT.match(text)
    over, under = (int(found[1]), int(found[2])) if found else (1, 1 if text.strip() == "1" else 0)
    if max(over, under) > 4 * limit("abc_number"):
        raise DromicError(f"the number {max(over, under)} is larger than any length in a tune; check it")
    return Fraction(_WHOLE * over, under) if under and over else None


def _tempo(text: str, unit: Fraction) -> float | None:
    """Quarters a minute, as far as a tempo field states a number that can be played."""
    plain = re.sub(r'"[^"]*"', "", text)
    sides = plain.split("=")
    number = re.search(r"\d{1,4}(?:\.\d{1,3})?", sides[-1])
    if number is None:
        return None
    beats = [Fraction(int(a), int(b)) for a, b in _BEAT.findall(sides[0]) if int(b)] if len(sides) > 1 else []
    beat = _WHOLE * sum(beats, Fraction(0)) if beats else unit
    tempo = float(number[0]) * float(beat)
    return round(tempo, 6) if 10 <= tempo <= 1000 else None


def _bars(written: list[WrittenBar]) -> tuple[Bar, ...]:
    """Bars with what each lacks at its front: short ones at the head, after a section, or that complete the one before."""
    bars: list[Bar] = []
    for i, one in enumerate(written):
        length = one.length or one.metre.length
        before = bars[-1] if bars else None
        section = before is None or one.repeat_start or written[i - 1].double
        completes = before is not None and before.lead + before.length + length == one.metre.length
        short = length < one.metre.length and (completes or (section and i + 1 < len(written)))
        lead = one.metre.length - length if short else Fraction(0)
        number = (0 if lead else 1) if before is None else before.number + 1
        bars.append(Bar(number, one.start, length, one.metre, lead, one.repeat_start, one.repeat_end, one.endings))
    return tuple(bars)
