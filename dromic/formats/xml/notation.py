"""MusicXML into phrases.

One staff, its first voice with chords; what is left out is said, a sentence each.
"""

from __future__ import annotations

import io
import lzma
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from xml.etree.ElementTree import Element, ParseError

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
from dromic.formats.xml.staves import Measure, Staff, groups_of, metre_of, staves_of, whole
from dromic.formats.xml.xml_marks import ScoreMarks, note_marks, parsed, score_marks

_COMMON = Metre(4, 4)
_VALUES = (1, 2, 4, 8, 16, 32)
"""Note values that a metre here can have."""
_MOST_BEATS = 64
"""Beats that it has at most."""
_DAMAGED = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError, RuntimeError, OSError, ValueError,
    LookupError, ParseError,
)  # fmt: skip
"""what reading a damaged archive may end in"""


def read_musicxml(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """A part of a MusicXML score, plain or compressed."""
    if data[:2] == b"PK":
        data = _unpacked(data)
    root = parsed(data, part)
    return _phrase(root, part, score_marks(root))


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


def _phrase(root: Element, part: int, marks: ScoreMarks) -> Phrase:
    staves = staves_of(root)
    if not staves:
        raise DromicError("it holds no part; choose another file")
    if not 1 <= part <= len(staves):
        raise DromicError(f"there is no part {part}; the file holds {len(staves)}, so choose 1 to {len(staves)}")
    notices: list[str] = []
    chosen, tab = staves[part - 1], _tab_staff(staves, part - 1)
    if len(staves) > 1 + (tab is not None):
        notices.append(f"part {part} of {len(staves)} is read; choose another with --part")
    measures = chosen.measures
    check_count("bars", len(measures), "bars", "split it")
    bars = _bars(measures)
    heard = list(_notes(measures, bars, notices))
    if tab is not None:
        _take_positions(heard, list(_notes(tab.measures, bars, [])))
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
    tuning = marks.tunings.get(chosen.part)
    capo = marks.capos.get(chosen.part, 0)
    instrument = presets.instrument_for(tuning, capo) if tuning else None
    if instrument is None and capo:
        instrument = presets.usual_instrument().with_capo(capo)
    return Phrase(
        title=_title(root) or "untitled",
        events=events,
        bars=bars,
        tempo=tempos[0][1] if tempos else 120.0,
        tempo_stated=bool(tempos),
        swing=marks.swing if marks.swing else Swing(),
        key=_key(chosen),
        instrument=instrument,
        sections=_sections(marks.sections.get(chosen.part, ()), len(bars)),
        notices=tuple(notices),
    )


def _title(root: Element) -> str:
    """The work's title, else the movement's, on one line."""
    found = (root.findtext(path) or "" for path in ("work/work-title", "movement-title"))
    return next((title for words in found if (title := " ".join(words.split()))), "")


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


def _tab_staff(staves: list[Staff], index: int) -> Staff | None:
    """The tablature staff that belongs to the same part as a notation staff, if there is one."""
    chosen = staves[index]
    others = (s for s in staves if s is not chosen and s.part == chosen.part and s.tab)
    return None if chosen.tab else next(others, None)


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


def _bars(measures: list[Measure]) -> tuple[Bar, ...]:
    """Bars with exact starts; short bars at the front or after a section are pickups."""
    bars: list[Bar] = []
    start = Fraction(0)
    metre = _COMMON
    for i, measure in enumerate(measures):
        if measure.metre is not None:
            metre = _metre(measure.metre, metre)
        length = measure.length or metre.length
        short = length < metre.length
        section = i == 0 or measure.repeats_left or bars[-1].repeat_times or measures[i - 1].ends
        completes = bool(bars) and bars[-1].lead + bars[-1].length + length == metre.length
        lead = metre.length - length if short and (completes or (section and i + 1 < len(measures))) else Fraction(0)
        bars.append(
            Bar(
                number=measure.number, start=start, length=length, metre=metre, lead=lead, repeat_start=measure.repeat_start,
                repeat_times=measure.repeat_times, endings=measure.endings,
            )
        )  # fmt: skip
        start += length
    if len(bars) > 1 and bars[0].lead and bars[0].number == 1:
        bars = [replace(b, number=b.number - 1) for b in bars]
    return tuple(bars)


def _metre(time: Element, before: Metre) -> Metre:
    upper, lower = metre_of(time) or (0, 0)
    if lower not in _VALUES or not 1 <= upper <= _MOST_BEATS:
        return before
    groups = tuple(beats for beats, _ in groups_of(time))
    return Metre(upper, lower, groups if len(groups) > 1 and sum(groups) == upper else ())


def _notes(measures: list[Measure], bars: tuple[Bar, ...], notices: list[str]) -> Iterator[HeardNote]:
    voices = unpitched = microtones = 0
    for index, (measure, bar) in enumerate(zip(measures, bars, strict=False)):
        voices = max(voices, len(measure.voices))
        for note in measure.first_voice:
            if note.pitch is None:
                unpitched += 1
            elif note.duration > 0 or note.grace:
                pitch = round(note.pitch)
                microtones += pitch != note.pitch
                marks = note_marks(note.element)
                yield HeardNote(bar.start + note.at, note.duration, index, pitch, marks, note.tied, note.grace)
    for count, sentence in (
        (unpitched, "notes without a pitch are left out"),
        (microtones, "notes between the semitones are rounded"),
    ):
        if count:
            notices.append(f"{count} {sentence}")
    if voices > 1:
        notices.append(f"the first of {voices} voices is read, the others are left out")


def _key(staff: Staff) -> str | None:
    """The key the staff begins in, where its mode is stated and major or minor."""
    key = staff.key
    fifths = None if key is None else key.findtext("fifths")
    mode = "" if key is None else (key.findtext("mode") or "").strip()
    number = whole(fifths.strip().lstrip("-")) if fifths else None
    if fifths is None or number is None or mode not in ("major", "minor"):
        return None
    turned = -number if fifths.strip().startswith("-") else number
    return Key((7 * turned + (9 if mode == "minor" else 0)) % 12, mode).name


def _tempos(measures: list[Measure]) -> list[tuple[int, float]]:
    """(bar's index, quarters a minute) of every tempo mark; of several in a bar the last before its middle, else the first."""
    found: list[tuple[int, float]] = []
    for index, measure in enumerate(measures):
        tempos = sorted(((at, t) for at, t in measure.tempos if 10 <= t <= 1000), key=lambda one: one[0])
        if tempos:
            early = [t for at, t in tempos if at <= measure.length / 2]
            found.append((index, round(early[-1] if early else tempos[0][1], 6)))
    return found
