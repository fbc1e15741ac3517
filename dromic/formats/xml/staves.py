"""What a MusicXML score holds, walked element by element: its staves, their measures, and the notes of each voice with exact times.

MusicXML 4.0 (W3C Music Notation Community Group): time moves with notes, `backup` and `forward` in divisions of a quarter; a note with
`chord` sounds with the one before it; pitches are written, and `transpose` says how far the sounding ones lie.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from typing import TypeVar
from xml.etree.ElementTree import Element

from dromic.core.values.errors import DromicError
from dromic.core.values.metre import QUARTER
from dromic.core.values.note_lengths import BASES, dotted
from dromic.core.values.pitch import STEPS

N = TypeVar("N", int, float, Fraction)
TYPES = {
    "w": "whole", "h": "half", "q": "quarter", "e": "eighth", "s": "16th", "t": "32nd", "z": "64th",
}  # fmt: skip
"""note values by their letters here"""
_QUARTERS = {name: BASES[letter] for letter, name in TYPES.items()}
_ALTERS = {
    "sharp": 1.0, "flat": -1.0, "natural": 0.0, "double-sharp": 2.0, "sharp-sharp": 2.0, "flat-flat": -2.0, "quarter-sharp": 0.5,
    "quarter-flat": -0.5, "three-quarters-sharp": 1.5, "three-quarters-flat": -1.5,
}  # fmt: skip
"""semitones of an accidental, where a pitch does not say them"""
_FINEST = 65535
"""largest denominator of a time in quarters: decimals of a third are a third"""
_ENDS = ("light-light", "light-heavy", "heavy-light", "heavy-heavy")
_WHOLES = ("whole", "breve")


@dataclass(frozen=True, slots=True)
class StaffNote:
    """One written note: where in its measure and how long in quarters, its sounding pitch (None where it has none), its element."""

    at: Fraction
    duration: Fraction
    pitch: float | None
    tied: bool
    grace: bool
    element: Element


@dataclass(slots=True)
class Measure:
    """One measure of one staff."""

    number: int
    voices: dict[str, list[StaffNote]] = field(default_factory=dict)
    """by name, those in which there is a note or a rest"""
    length: Fraction = Fraction(0)
    """to where notes and rests reach, in quarters"""
    metre: Element | None = None
    repeat_start: bool = False
    repeat_times: int = 0
    repeats_left: bool = False
    ends: bool = False
    """whether a double or final bar line ends it"""
    endings: tuple[int, ...] = ()
    tempos: list[tuple[Fraction, float]] = field(default_factory=list)
    """(where, quarters a minute)"""

    @property
    def first_voice(self) -> list[StaffNote]:
        """The notes of the first voice, in which there may be rests alone."""
        return self.voices[min(self.voices)] if self.voices else []


@dataclass(slots=True)
class Staff:
    """One staff of a part; `part` is the part's number in the file, from 0."""

    part: int
    number: int
    measures: list[Measure]
    key: Element | None = None
    tab: bool = False


def staves_of(root: Element) -> list[Staff]:
    """Every staff of a score, part after part. DromicError where it cannot be understood."""
    finale = any("Finale" in (e.text or "") for e in root.iterfind("identification/encoding/software"))
    return [staff for n, part in enumerate(root.findall("part")) for staff in _Part(part, n, finale).staves()]


def whole(text: str | None) -> int | None:
    """A whole number of up to three digits, None for anything else."""
    return int(text) if text is not None and re.fullmatch(r"\s*\d{1,3}\s*", text) else None


def number_of(element: Element, path: str, kind: Callable[[str], N]) -> N | None:
    """The number in an element's text, None where there is no text; DromicError where it is none."""
    text = (element.findtext(path) or "").strip()
    if not text:
        return None
    try:
        return kind(text)
    except (ValueError, ZeroDivisionError, OverflowError) as error:
        raise DromicError(
            f"its MusicXML cannot be understood (<{path.split('/')[-1]}> is {text[:40]!r}, no number); check or export it again"
        ) from error


class _Part:
    """One part as it is walked: what holds from measure to measure."""

    def __init__(self, part: Element, number: int, finale: bool) -> None:
        self.part, self.number, self.finale = part, number, finale
        self.divisions = Fraction(1)
        self.transposed: dict[int, int] = {}
        self.metre_quarters = Fraction(4)
        self.last_number = 0
        self.bracket: tuple[int, ...] | None = None

    def staves(self) -> Iterator[Staff]:
        numbers = self._staff_numbers()
        staves = [Staff(self.number, number, [], self._key(number), self._tab(number)) for number in numbers]
        elements = self.part.findall("measure")
        for n, element in enumerate(elements):
            for staff, measure in zip(staves, self._measure(element, numbers, n + 1 == len(elements)), strict=True):
                staff.measures.append(measure)
        self._brackets(elements, staves)
        return iter(staves)

    def _staff_numbers(self) -> list[int]:
        """The staves that anything stands on; one alone has no number."""
        if max((number_of(e, ".", int) or 1 for e in self.part.iter("staves")), default=1) < 2:
            return [0]
        named = {number_of(e, ".", int) or 0 for e in self.part.iter("staff")}
        named |= {whole(e.get("number")) or 1 for e in self.part.iter("clef")}
        return sorted(named - {0}) or [0]

    def _key(self, staff: int) -> Element | None:
        return next((e for e in self.part.iter("key") if self._on(whole(e.get("number")), staff)), None)

    def _tab(self, staff: int) -> bool:
        return any(
            (e.findtext("sign") or "").strip() == "TAB"
            for e in self.part.iter("clef")
            if self._on(whole(e.get("number")) or 1, staff)
        )

    @staticmethod
    def _on(number: int | None, staff: int) -> bool:
        """Whether what bears a staff's number, or none, stands on a staff."""
        return not number or not staff or number == staff

    def _measure(self, element: Element, staves: list[int], last: bool) -> list[Measure]:
        number = self._measure_number(element)
        measures = {staff: Measure(number) for staff in staves}
        names = {text for e in element if e.tag in ("note", "forward") if (text := (e.findtext("voice") or "").strip())}
        voice, at, length, rests = min(names, default="1"), Fraction(0), Fraction(0), []
        started, step = at, Fraction(0)
        for child in element:
            if child.tag == "note":
                if child.find("chord") is None:
                    started, step = at, Fraction(0) if child.find("grace") is not None else self._quarters(child)
                    at += step
                    length = max(length, at)
                voice = (child.findtext("voice") or "").strip() or voice if len(names) > 1 else "1"
                rest = child.find("rest") is not None
                rests += [child] * rest
                for staff in staves:
                    if self._on(number_of(child, "staff", int), staff):
                        notes = measures[staff].voices.setdefault(voice, [])
                        notes += [] if rest else [self._note(child, started, step, staff)]
            elif child.tag == "backup":
                at = max(Fraction(0), at - self._quarters(child))
            elif child.tag == "forward":
                at += self._quarters(child)
                length = max(length, at) if self.finale and not last else length
            elif child.tag == "attributes":
                self._attributes(child, measures)
            elif child.tag == "barline":
                self._barline(child, measures)
            elif child.tag in ("direction", "sound"):
                self._tempo(child, at, measures)
        sounding = any(notes for m in measures.values() for notes in m.voices.values())
        if rests and not sounding and self._fills(rests):
            length = self.metre_quarters
        for measure in measures.values():
            measure.length = length
        return list(measures.values())

    def _fills(self, rests: list[Element]) -> bool:
        """Whether a rest stands for the whole measure, whatever length it states."""
        if any(e.get("measure") == "yes" for rest in rests for e in rest.iter("rest")):
            return True
        (first, *more) = rests
        long = (first.findtext("type") or "").strip() in _WHOLES or self._quarters(first) in (4, 8)
        return not more and long and first.find("dot") is None

    def _measure_number(self, element: Element) -> int:
        text = element.get("number") or ""
        digits = "".join(re.findall(r"\d", text))
        number = int(digits[:9]) if digits else 0
        if "X" in text and number != self.last_number + 1:
            number = self.last_number
        self.last_number = number
        return number

    def _quarters(self, element: Element) -> Fraction:
        duration = number_of(element, "duration", Fraction)
        return Fraction(0) if duration is None else (duration / self.divisions).limit_denominator(_FINEST)

    def _note(self, note: Element, at: Fraction, duration: Fraction, staff: int) -> StaffNote:
        ties = [tie.get("type") for tie in note.findall("tie")]
        tied = ties == ["stop"] or {"start", "stop"} <= set(ties)
        return StaffNote(at, duration, self._pitch(note, staff), tied, note.find("grace") is not None, note)

    def _pitch(self, note: Element, staff: int) -> float | None:
        pitch = note.find("pitch")
        if pitch is None:
            return None
        step = (pitch.findtext("step") or "C").strip().upper()
        if step not in STEPS:
            raise DromicError(
                f"its MusicXML cannot be understood (a note's <step> is {step[:20]!r}); check or export it again"
            )
        octave, alter = number_of(pitch, "octave", int), number_of(pitch, "alter", float)
        if alter is None:
            alter = _ALTERS.get((note.findtext("accidental") or "").strip(), 0.0)
        if not abs(alter) < 100:
            raise DromicError(
                f"its MusicXML cannot be understood (a note's <alter> is {alter:g}); check or export it again"
            )
        moved = self.transposed.get(staff, self.transposed.get(0, 0))
        return 12 * ((4 if octave is None else octave) + 1) + STEPS[step] + alter + moved

    def _attributes(self, attributes: Element, measures: dict[int, Measure]) -> None:
        divisions = number_of(attributes, "divisions", Fraction)
        if divisions is not None:
            if divisions <= 0:
                raise DromicError(
                    f"its MusicXML cannot be understood (<divisions> is {divisions}); check or export it again"
                )
            self.divisions = divisions
        for time in attributes.findall("time"):
            for staff, measure in measures.items():
                if measure.metre is None and self._on(whole(time.get("number")), staff):
                    measure.metre = time
            upper, lower = metre_of(time) or (0, 0)
            self.metre_quarters = Fraction(4 * upper, lower) if upper else self.metre_quarters
        for transpose in attributes.findall("transpose"):
            semitones = number_of(transpose, "chromatic", float) or 0.0
            octaves = number_of(transpose, "octave-change", int) or 0
            self.transposed[whole(transpose.get("number")) or 0] = round(semitones) + 12 * octaves

    def _barline(self, barline: Element, measures: dict[int, Measure]) -> None:
        left, repeat = barline.get("location") == "left", barline.find("repeat")
        if barline.get("location") not in (None, "left", "right"):
            return
        backward = repeat is not None and (repeat.get("direction") or "").lower() == "backward"
        for measure in measures.values():
            if left:
                measure.repeats_left = repeat is not None
                measure.repeat_start = repeat is not None and not backward
            else:
                measure.ends = repeat is not None or (barline.findtext("bar-style") or "").strip() in _ENDS
                measure.repeat_times = (whole(repeat.get("times")) or 2) if repeat is not None and backward else 0

    def _tempo(self, element: Element, at: Fraction, measures: dict[int, Measure]) -> None:
        marks = element.findall("direction-type/metronome")
        sounds = [element] if element.tag == "sound" else [] if marks else element.findall("sound")
        found = [_quarters_a_minute(mark) for mark in marks]
        found += [_decimal(sound.get("tempo")) for sound in sounds if sound.get("tempo")][:1]
        offset = _decimal((element.findtext("offset") or "").strip())
        where = at + (Fraction(offset) / self.divisions if offset is not None else 0)
        for staff, measure in measures.items():
            if self._on(number_of(element, "staff", int), staff):
                measure.tempos += [(where, tempo) for tempo in found if tempo is not None]

    def _brackets(self, elements: list[Element], staves: list[Staff]) -> None:
        """The endings of every measure: from the one in which a bracket begins to that in which it ends."""
        began = -1
        turns: tuple[int, ...] = ()
        for index, element in enumerate(elements):
            for ending in element.iterfind("barline/ending"):
                if began < 0:
                    began, turns = index, ()
                if ending.get("type") == "start":
                    turns = _turns(ending)
                elif ending.get("type") in ("stop", "discontinue"):
                    for staff in staves:
                        for measure in staff.measures[began : index + 1]:
                            measure.endings = (*measure.endings, *turns)
                    began = -1


def _turns(ending: Element) -> tuple[int, ...]:
    """The turns a bracket names: 1, 2 or 1-3; what is written in it goes before."""
    written = re.fullmatch(r"(\d+)\.?", (ending.text or "").strip())
    if written:
        return (int(written.group(1)),)
    found: list[int] = []
    for first, last in re.findall(r"(\d+)(?:\s*-\s*(\d+))?", ending.get("number") or ""):
        found += range(int(first), int(last or first) + 1)
    return tuple(found)


def metre_of(time: Element) -> tuple[int, int] | None:
    """(beats, note value) of a time signature, several added up; None where it has none."""
    pairs = groups_of(time)
    if not pairs:
        return None
    lower = max(value for _, value in pairs)
    if any(value <= 0 or lower % value for _, value in pairs):
        return None
    return sum(beats * lower // value for beats, value in pairs), lower


def groups_of(time: Element) -> list[tuple[int, int]]:
    """(beats, note value) of each group of a time signature, in their order."""
    if time.find("senza-misura") is not None:
        return []
    found: list[tuple[int, int]] = []
    beats: list[str] = []
    for child in time:
        if child.tag == "beats":
            beats = re.findall(r"\d+", child.text or "")
        elif child.tag == "beat-type" and (value := whole(child.text)):
            found += [(int(beat), value) for beat in beats]
        elif child.tag == "interchangeable":
            break
    return found


def _quarters_a_minute(mark: Element) -> float | None:
    """The tempo of a metronome mark, None where it relates two values or names no number."""
    units = mark.findall("beat-unit")
    number = _decimal((mark.findtext("per-minute") or "").strip())
    if len(units) > 1 or number is None:
        return None
    quarters = _QUARTERS.get((units[0].text or "").strip(), QUARTER) if units else QUARTER
    return number * float(dotted(quarters, len(mark.findall("beat-unit-dot"))))


def _decimal(text: str | None) -> float | None:
    return float(text) if text and re.fullmatch(r"-?\d{1,9}(\.\d{0,9})?", text) else None
