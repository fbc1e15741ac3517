"""MusicXML into phrases, through music21 (imported only when a file is read).

One part, its first voice with chords; what is left out is said, a sentence each.
"""

from __future__ import annotations

import io
import lzma
import re
import warnings
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from dromic import presets
from dromic.core.harmony.musical_keys import Key
from dromic.core.music.phrase import Bar, Event, Phrase, Section, Swing
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.vocabulary import KEPT_ONLY
from dromic.formats.heard import HeardNote, NoteMarks, gathered, joined, paced, with_graces
from dromic.formats.limits import check_count, limit
from dromic.formats.xml.xml_marks import ScoreMarks, parse_marks

MarksOf = Callable[[Any], NoteMarks]
_TUNE = re.compile(r"^X:", re.MULTILINE)
_COMMON = Metre(4, 4)
_DAMAGED = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError, RuntimeError, OSError, ValueError,
    LookupError, ParseError,
)  # fmt: skip
"""what reading a damaged archive may end in"""


def read_musicxml(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """A part of a MusicXML score, plain or compressed."""
    if data[:2] == b"PK":
        data = _unpacked(data)
    marks = parse_marks(data, part)
    score = _parsed(marks.numbered, "musicxml", [])
    return _phrase(score, part, lambda note: marks.of_colour(note.style.color), marks)


def _unpacked(data: bytes) -> bytes:
    """The score inside a compressed file, its unpacked size checked before it is read."""
    most = limit("unpacked_mb") * 1_000_000
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = archive.namelist()
            inside = next(
                (n for n in names if n.endswith((".xml", ".musicxml")) and not n.startswith("META-INF")), None
            )
            if "META-INF/container.xml" in names:
                container = _limited(archive, "META-INF/container.xml", most)
                tree = fromstring(container, forbid_entities=True, forbid_external=True)
                listed = [e.get("full-path") for e in tree.iter() if e.tag.split("}")[-1] == "rootfile"]
                inside = next((n for n in listed if n in names), inside)
            if inside is None:
                raise DromicError("the compressed file holds no score; export it again")
            return _limited(archive, inside, most)
    except _DAMAGED as error:
        raise DromicError("the compressed score is damaged or cut short; export it again") from error
    except DefusedXmlException as error:
        raise DromicError("it declares entities, which a score never needs; export it again without them") from error


def _limited(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    """A member of the archive, read no further than so many bytes, whatever size it claims."""
    with archive.open(name) as member:
        content = member.read(most + 1)
    if len(content) > most:
        raise DromicError(f"unpacked it is over {most // 1_000_000} MB, more than any score needs; it is not opened")
    return content


@contextmanager
def _quiet_and_bare(heard: list[str]) -> Iterator[None]:
    """Collect what the library would print on standard error, which is ours alone; and keep it from beaming a tune, which
    takes nine tenths of its time, grows with the square of the notes, and is looked at by nobody here."""
    from music21 import environment, stream

    instead: dict[tuple[type, str], Any] = {
        (environment.Environment, "warn"): lambda self, msg, header=None: heard.append(str(msg)),
        (stream.Stream, "makeBeams"): lambda self, *args, **kinds: self,
    }
    theirs = {(of, name): getattr(of, name) for of, name in instead}
    for (of, name), ours in instead.items():
        setattr(of, name, ours)
    try:
        yield
    finally:
        for (of, name), was in theirs.items():
            setattr(of, name, was)


def _parsed(text: str, kind: str, heard: list[str]) -> Any:
    from music21 import converter
    from music21.exceptions21 import Music21Exception

    faults = (
        Music21Exception, ValueError, TypeError, LookupError, AttributeError, ArithmeticError, AssertionError,
        RecursionError, ParseError, NotImplementedError,
    )  # fmt: skip
    try:
        with warnings.catch_warnings(), _quiet_and_bare(heard):
            warnings.simplefilter("ignore")
            score = converter.parseData(text, format=kind)
            if not score.hasPartLikeStreams() and not hasattr(score, "parts"):
                raise DromicError("it holds no part with notes; choose another file")
            return score
    except faults as error:
        label = "MusicXML" if kind == "musicxml" else "ABC"
        detail = str(error).strip().splitlines()[:1] or [type(error).__name__]
        raise DromicError(f"its {label} cannot be understood ({detail[0][:120]}); check or export it again") from error


def _phrase(score: Any, part: int, marks_of: MarksOf, marks: ScoreMarks) -> Phrase:
    parts = list(score.parts)
    if not parts:
        raise DromicError("it holds no part; choose another file")
    if not 1 <= part <= len(parts):
        raise DromicError(f"there is no part {part}; the file holds {len(parts)}, so choose 1 to {len(parts)}")
    notices: list[str] = []
    chosen, tab = parts[part - 1], _tab_staff(parts, part - 1)
    if len(parts) > 1 + (tab is not None):
        notices.append(f"part {part} of {len(parts)} is read; choose another with --part")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        if chosen.atSoundingPitch is not True:
            chosen.toSoundingPitch(inPlace=True)  # a copy would take most of the time of reading
    sounding = chosen
    measures = list(sounding.getElementsByClass("Measure"))
    if not measures:
        measures = list(sounding.makeMeasures().getElementsByClass("Measure"))
    check_count("bars", len(measures), "bars", "split it")
    bars = _bars(measures, sounding)
    heard = list(_notes(measures, bars, marks_of, notices))
    if tab is not None:
        _take_positions(heard, list(_notes(list(tab.getElementsByClass("Measure")), bars, marks_of, [])))
    heard = with_graces(joined(heard), bars, notices)
    if marks.slurs:
        notices.append("plain slurs state no hammer-on or pull-off and are left out")
    events = gathered(heard)
    if not events:
        raise DromicError("there are no notes to plan; give it at least one note")
    notices += _kept_only(events, marks.left_out)
    notices += _odd_bars(bars)
    tempos = _tempos(measures)
    bars = paced(bars, tempos, notices)
    tuning = marks.tunings.get(part - 1)
    capo = marks.capos.get(part - 1, 0)
    instrument = presets.instrument_for(tuning, capo) if tuning else None
    if instrument is None and capo:
        instrument = presets.usual_instrument().with_capo(capo)
    title = score.metadata.bestTitle if score.metadata is not None else None
    return Phrase(
        title=title or "untitled",
        events=events,
        bars=bars,
        tempo=tempos[0][1] if tempos else 120.0,
        tempo_stated=bool(tempos),
        swing=marks.swing if marks.swing else Swing(),
        key=_key(sounding),
        instrument=instrument,
        sections=_sections(marks.sections.get(part - 1, ()), len(bars)),
        notices=tuple(notices),
    )


def _sections(marks: tuple[tuple[int, str], ...], bars: int) -> tuple[Section, ...]:
    """Sections from rehearsal marks: each up to the next."""
    marks = tuple(mark for mark in marks if mark[0] < bars)
    ends = [first - 1 for first, _ in marks[1:]] + [bars - 1]
    return tuple(Section(name, first, last) for (first, name), last in zip(marks, ends, strict=False))


def _kept_only(events: tuple[Event, ...], left_out: tuple[str, ...]) -> list[str]:
    """What is kept and not planned, and what is not even kept, a sentence each."""
    kept = sorted({m for e in events for n in e.notes for m in n.marks if m in KEPT_ONLY})
    notices = [f"kept and shown, but not planned: {', '.join(kept)}"] if kept else []
    return notices + ([f"left out, since nothing here stands for it: {', '.join(left_out)}"] if left_out else [])


def _odd_bars(bars: tuple[Bar, ...]) -> list[str]:
    """A sentence about bars that are longer than their metre, and one about those that are shorter and no pickup."""
    longer = [b.number for b in bars if b.length > b.metre.length]
    shorter = [b.number for b in bars[:-1] if b.length < b.metre.length and not b.lead and not _completed(bars, b)]
    return [
        f"{'bar' if len(found) == 1 else 'bars'} {', '.join(map(str, found[:8]))}"
        f"{f' and {len(found) - 8} more' if len(found) > 8 else ''} {'is' if len(found) == 1 else 'are'} {how} than the "
        "metre says; read as written"
        for found, how in ((longer, "longer"), (shorter, "shorter"))
        if found
    ]


def _completed(bars: tuple[Bar, ...], bar: Bar) -> bool:
    """Whether the bar after a short one is the rest of it."""
    after = bars[bars.index(bar) + 1]
    return bool(after.lead) and after.lead + after.length == after.metre.length and after.lead == bar.length


def _tab_staff(parts: list[Any], index: int) -> Any:
    """The tablature staff that belongs to the same part as a notation staff, if there is one."""

    def is_tab(staff: Any) -> bool:
        return any("TabClef" in c.classes for c in staff.recurse().getElementsByClass("Clef"))

    chosen = parts[index]
    name = str(chosen.id).split("-Staff")[0]
    if "-Staff" not in str(chosen.id) or is_tab(chosen):
        return None
    return next((p for p in parts if p is not chosen and str(p.id).startswith(f"{name}-Staff") and is_tab(p)), None)


def _take_positions(heard: list[HeardNote], from_tab: list[HeardNote]) -> None:
    """Strings, frets and the rest from the tablature staff, matched by time and pitch."""
    by_place: dict[tuple[Fraction, int, bool], list[NoteMarks]] = {}
    for note in from_tab:
        by_place.setdefault((note.onset, note.pitch, note.grace), []).append(note.marks)
    for note in heard:
        there = by_place.get((note.onset, note.pitch, note.grace))
        if there:
            mine, theirs = note.marks, there.pop(0)
            own = {n: getattr(mine, n) for n in ("string", "fret", "finger", "attack", "stroke")}
            note.marks = replace(
                theirs,
                **{name: value for name, value in own.items() if value is not None},
                marks=mine.marks | theirs.marks,
                bend=mine.bend or theirs.bend,
                tremolo=mine.tremolo or theirs.tremolo,
            )


def _bars(measures: list[Any], part: Any) -> tuple[Bar, ...]:
    """Bars with exact starts; short bars at the front or after a section are pickups."""
    bars: list[Bar] = []
    start = Fraction(0)
    metre = _COMMON
    endings = _endings(measures, part)
    for i, measure in enumerate(measures):
        signature = measure.timeSignature
        if signature is not None:
            metre = _metre(signature, metre)
        length = Fraction(measure.highestTime) or metre.length
        short = length < metre.length
        left, right = measure.leftBarline, measure.rightBarline
        section = i == 0 or "Repeat" in getattr(left, "classes", ()) or bars[-1].repeat_times or _ends(measures[i - 1])
        completes = bool(bars) and bars[-1].lead + bars[-1].length + length == metre.length
        lead = metre.length - length if short and (completes or (section and i + 1 < len(measures))) else Fraction(0)
        ends = right is not None and "Repeat" in right.classes and right.direction == "end"
        bars.append(
            Bar(
                number=int(measure.number),
                start=start,
                length=length,
                metre=metre,
                lead=lead,
                repeat_start=left is not None and "Repeat" in left.classes and left.direction == "start",
                repeat_times=int(right.times or 2) if ends else 0,
                endings=endings[i],
            )
        )
        start += length
    if len(bars) > 1 and bars[0].lead and bars[0].number == 1:
        bars = [replace(b, number=b.number - 1) for b in bars]
    return tuple(bars)


def _endings(measures: list[Any], part: Any) -> list[tuple[int, ...]]:
    """The endings every bar belongs to: from the first bar of a bracket to its last, which are all that the library holds."""
    found: list[tuple[int, ...]] = [()] * len(measures)
    for bracket in part.recurse().getElementsByClass("RepeatBracket"):
        held = [i for i, measure in enumerate(measures) if bracket.hasSpannedElement(measure)]
        for i in range(held[0], held[-1] + 1) if held else ():
            found[i] = (*found[i], *bracket.numberRange)
    return found


def _ends(measure: Any) -> bool:
    right = measure.rightBarline
    return right is not None and right.type in ("double", "final", "heavy-light", "heavy-heavy")


def _metre(signature: Any, before: Metre) -> Metre:
    if signature.numerator is None or not signature.denominator:
        return before
    numbers = re.findall(r"\d+", str(getattr(signature, "displaySequence", "")))
    upper, lower = int(signature.numerator), int(signature.denominator)
    groups = tuple(int(n) for n in numbers[::2]) if len(numbers) > 2 else ()
    if lower not in (1, 2, 4, 8, 16, 32) or not 1 <= upper <= 64:
        return before
    return Metre(upper, lower, groups if sum(groups) == upper else ())


def _notes(measures: list[Any], bars: tuple[Bar, ...], marks_of: MarksOf, notices: list[str]) -> Iterator[HeardNote]:
    voices = unpitched = microtones = 0
    for index, (measure, bar) in enumerate(zip(measures, bars, strict=False)):
        inner = list(measure.voices)
        source = inner[0] if inner else measure
        voices = max(voices, len(inner))
        for element in source.notes:
            if "Harmony" in element.classes:
                continue
            onset = bar.start + Fraction(element.getOffsetBySite(source))
            if inner:
                onset += Fraction(source.offset)
            grace = bool(element.duration.isGrace)
            duration = Fraction(0) if grace else Fraction(element.quarterLength)
            for note in element.notes if element.isChord else (element,):
                if not hasattr(note, "pitch"):
                    unpitched += 1
                    continue
                if duration <= 0 and not grace:
                    continue
                pitch = round(note.pitch.ps)
                microtones += pitch != note.pitch.ps
                tied = note.tie is not None and note.tie.type in ("stop", "continue")
                yield HeardNote(onset, duration, index, pitch, marks_of(note), tied, grace)
    for count, sentence in (
        (unpitched, "notes without a pitch are left out"),
        (microtones, "notes between the semitones are rounded"),
    ):
        if count:
            notices.append(f"{count} {sentence}")
    if voices > 1:
        notices.append(f"the first of {voices} voices is read, the others are left out")


def _key(part: Any) -> str | None:
    """The key the part begins in, where its mode is stated and major or minor."""
    first = next(iter(part.recurse().getElementsByClass("KeySignature")), None)
    mode = getattr(first, "mode", None)
    if first is None or mode not in ("major", "minor") or not hasattr(first, "tonic"):
        return None
    return Key(first.tonic.pitchClass, mode).name


def _quarters_a_minute(mark: Any) -> float | None:
    try:
        tempo: float | None = mark.getQuarterBPM()
    except OverflowError:  # a number of hundreds of digits
        return None
    return tempo


def _tempos(measures: list[Any]) -> list[tuple[int, float]]:
    """(bar's index, quarters a minute) of every tempo mark; of several in a bar the last before its middle, else the first."""
    found: list[tuple[int, float]] = []
    for index, measure in enumerate(measures):
        marks = [m for m in measure.recurse().getElementsByClass("MetronomeMark") if m.number or m.numberSounding]
        tempos = [(float(m.offset), t) for m in marks if (t := _quarters_a_minute(m)) and 10 <= t <= 1000]
        if tempos:
            early = [t for at, t in tempos if at <= float(measure.highestTime) / 2]
            found.append((index, round(float(early[-1] if early else tempos[0][1]), 6)))
    return found
