"""Writes MusicXML 4.0: one part with everything of a phrase that the format has a place for. Where all notes have strings it is
a staff of notation over one of tablature; else notation alone.

Source of the element names and their order: the MusicXML 4.0 schema of the W3C Music Notation Community Group; the
tests hold what is written against it.
"""

from __future__ import annotations

import io
import zipfile
from fractions import Fraction
from math import lcm
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from dromic.core.harmony.musical_keys import Key, key_of, likely_key
from dromic.core.harmony.spelling import spelled
from dromic.core.music.beams import Drawn, drawn_of, joined_flags
from dromic.core.music.graces import graces_before
from dromic.core.music.phrase import Bar, Phrase
from dromic.core.music.pieces import Piece, natural_length, pieces_by_bar
from dromic.core.setup.instrument import Instrument
from dromic.core.values.metre import Metre
from dromic.core.values.note_lengths import IN_TIME_OF, Sign
from dromic.formats.xml.notations import ALONE, NOTATION, TABLATURE, Staff, notations_of
from dromic.formats.xml.staves import TYPES

_DOCTYPE = (
    '<?xml version="1.0" encoding="UTF-8" standalone="no"?>\n<!DOCTYPE score-partwise PUBLIC '
    '"-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">\n'
)
_CONTAINER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<container><rootfiles><rootfile full-path="score.musicxml" '
    'media-type="application/vnd.recordare.musicxml+xml"/></rootfiles></container>\n'
)
_LOW_STRING = 40
"""open strings below this note number (E2) put the part in the bass clef"""
_MIDDLE_LINE = {"G": 59, "F": 38}
"""note numbers that sound where the middle line of a staff is, B and D, both clefs an octave down"""


def musicxml_bytes(phrase: Phrase, instrument: Instrument) -> bytes:
    """The score of a phrase."""
    root = Element("score-partwise", version="4.0")
    SubElement(SubElement(root, "work"), "work-title").text = phrase.title
    writer = _Writer(phrase, instrument)
    if not writer.placed:  # a tablature staff states them itself
        kept = SubElement(SubElement(root, "identification"), "miscellaneous")
        SubElement(kept, "miscellaneous-field", name="tuning").text = " ".join(instrument.tuning_names)
    listed = SubElement(SubElement(root, "part-list"), "score-part", id="P1")
    SubElement(listed, "part-name").text = instrument.label
    part = SubElement(root, "part", id="P1")
    for index in range(len(phrase.bars)):
        writer.measure(part, index)
    indent(root, " ")
    return (_DOCTYPE + tostring(root, encoding="unicode") + "\n").encode()


def compressed_bytes(phrase: Phrase, instrument: Instrument) -> bytes:
    """The score of a phrase in a compressed container, as the format's own tutorial has it."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in (
            ("mimetype", b"application/vnd.recordare.musicxml"),
            ("META-INF/container.xml", _CONTAINER.encode()),
            ("score.musicxml", musicxml_bytes(phrase, instrument)),
        ):
            # the same phrase is the same file, whenever it is written
            entry = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
            stored = name == "mimetype"
            archive.writestr(entry, content, zipfile.ZIP_STORED if stored else zipfile.ZIP_DEFLATED)
    return out.getvalue()


def not_carried(phrase: Phrase) -> list[str]:
    """What the score leaves out, a sentence each."""
    notices = []
    for i, event in enumerate(phrase.events):
        if any(n.duration != natural_length(phrase, i) for n in event.notes):
            notices.append("notes that sound into the next, or shorter than their chord, end with it")
            break
    if sum(e.grace for e in phrase.events) > sum(map(len, graces_before(phrase).values())):
        notices.append("grace notes that lead to no note right after them are plain notes")
    ends = [s.first - 1 for s in phrase.sections[1:]] + [len(phrase.bars) - 1]
    if any(s.last != end for s, end in zip(phrase.sections, ends, strict=False)):
        notices.append("where a section ends before the next begins")
    if phrase.school:
        notices.append("the school")
    return notices


class _Writer:
    def __init__(self, phrase: Phrase, instrument: Instrument) -> None:
        self.phrase, self.instrument = phrase, instrument
        times = [Fraction(1), *(e.onset for e in phrase.events), *(n.duration for e in phrase.events for n in e.notes)]
        times += [b.start for b in phrase.bars] + [b.end for b in phrase.bars]
        self.divisions = lcm(*(t.denominator for t in times), 16)
        self.placed = bool(phrase.events) and all(
            n.string is not None and n.fret is not None for e in phrase.events for n in e.notes
        )
        self.by_bar = pieces_by_bar(phrase)
        self.key = key_of(phrase.key) if phrase.key else None
        self.spelling = self.key or likely_key(phrase)
        self.staves = (NOTATION, TABLATURE) if self.placed else (ALONE,)
        self.low = max(instrument.tuning) < _LOW_STRING + 12
        self.middle = _MIDDLE_LINE["F" if self.low else "G"]

    def measure(self, part: Element, index: int) -> None:
        bar = self.phrase.bars[index]
        measure = SubElement(part, "measure", number=str(bar.number))
        if bar.lead:  # the rest of a bar begun before it, or a pickup: readers count it on from there
            measure.set("implicit", "yes")
        self._left(measure, index)
        before = self.phrase.bars[index - 1] if index else None
        self._attributes(measure, bar, before)
        if before is None or bar.pace != before.pace:
            self._tempo(measure, self.phrase.tempo_in(index), first=before is None)
        section = next((s for s in self.phrase.sections if s.first == index), None)
        if section is not None:
            kind = SubElement(SubElement(measure, "direction", placement="above"), "direction-type")
            SubElement(kind, "rehearsal").text = section.name
        pieces = self.by_bar.get(index, [])
        for staff in self.staves:
            if staff is TABLATURE:
                back = SubElement(measure, "backup")
                SubElement(back, "duration").text = str(int(bar.length * self.divisions))
            drawn = drawn_of(pieces, bar, self.middle) if staff.notation else {}
            for number, piece in enumerate(pieces):
                self._piece(measure, piece, staff, drawn.get(number, Drawn()))
        self._right(measure, index)

    def _left(self, measure: Element, index: int) -> None:
        bar = self.phrase.bars[index]
        starts = bar.endings and (index == 0 or self.phrase.bars[index - 1].endings != bar.endings)
        if bar.repeat_start or starts:
            line = SubElement(measure, "barline", location="left")
            if starts:
                SubElement(line, "ending", number=",".join(map(str, bar.endings)), type="start")
            if bar.repeat_start:
                SubElement(line, "repeat", direction="forward")

    def _right(self, measure: Element, index: int) -> None:
        bar = self.phrase.bars[index]
        last = index + 1 == len(self.phrase.bars)
        stops = bar.endings and (last or self.phrase.bars[index + 1].endings != bar.endings)
        if bar.repeat_times or stops or last:
            line = SubElement(measure, "barline", location="right")
            if last or bar.repeat_times:
                SubElement(line, "bar-style").text = "light-heavy"
            if stops:
                SubElement(line, "ending", number=",".join(map(str, bar.endings)), type="stop")
            if bar.repeat_times:
                SubElement(line, "repeat", direction="backward", times=str(bar.repeat_times))

    def _attributes(self, measure: Element, bar: Bar, before: Bar | None) -> None:
        if before is not None and before.metre == bar.metre:
            return
        attributes = SubElement(measure, "attributes")
        if before is None:
            SubElement(attributes, "divisions").text = str(self.divisions)
            key = SubElement(attributes, "key")
            SubElement(key, "fifths").text = str(self.key.fifths if self.key else 0)
            if self.key is not None:
                SubElement(key, "mode").text = self.key.mode
        time = SubElement(attributes, "time")
        SubElement(time, "beats").text = _beats(bar.metre)
        SubElement(time, "beat-type").text = str(bar.metre.lower)
        if before is None:
            self._staves(attributes)

    def _staves(self, attributes: Element) -> None:
        """Clefs; and the strings, which are a tablature staff's: readers take any staff that states them for one."""
        if self.placed:
            SubElement(attributes, "staves").text = "2"
        numbered = {"number": "1"} if self.placed else {}
        clef = SubElement(attributes, "clef", numbered)
        SubElement(clef, "sign").text = "F" if self.low else "G"
        SubElement(clef, "line").text = "4" if self.low else "2"
        SubElement(clef, "clef-octave-change").text = "-1"
        if self.placed:
            clef = SubElement(attributes, "clef", number="2")
            SubElement(clef, "sign").text = "TAB"
            SubElement(clef, "line").text = "5"
        if not (self.placed or self.instrument.capo):
            return
        details = SubElement(attributes, "staff-details", {"number": "2"} if self.placed else {})
        SubElement(details, "staff-lines").text = str(self.instrument.strings if self.placed else 5)
        for line, pitch in enumerate(self.instrument.tuning if self.placed else (), start=1):
            tuning = SubElement(details, "staff-tuning", line=str(line))
            _pitch(tuning, pitch, None, "tuning-")
        if self.instrument.capo:
            SubElement(details, "capo").text = str(self.instrument.capo)

    def _tempo(self, measure: Element, tempo: float, first: bool) -> None:
        direction = SubElement(measure, "direction", placement="above")
        mark = SubElement(SubElement(direction, "direction-type"), "metronome")
        SubElement(mark, "beat-unit").text = "quarter"
        SubElement(mark, "per-minute").text = f"{tempo:.10g}"
        sound = SubElement(direction, "sound", tempo=f"{tempo:.10g}")
        if not first:
            return
        swing = self.phrase.swing
        if swing.ratio != 1:
            entry = SubElement(sound, "swing")
            SubElement(entry, "first").text = str(swing.ratio.numerator)
            SubElement(entry, "second").text = str(swing.ratio.denominator)
            SubElement(entry, "swing-type").text = "eighth" if swing.unit == Fraction(1, 2) else "16th"

    def _piece(self, measure: Element, piece: Piece, staff: Staff, drawn: Drawn) -> None:
        beams = tuple(joined_flags((1,) * len(piece.graces)))
        for grace, beamed in zip(piece.graces, beams, strict=True):
            notes = self.phrase.events[grace].notes
            short = Piece(Fraction(0), Sign(Fraction(0), "e"), grace, notes)
            self._chord(measure, grace, short, staff, Drawn("up", beamed), grace=True)
        if piece.event is not None:
            self._chord(measure, piece.event, piece, staff, drawn)
            return
        note = SubElement(measure, "note")
        if not staff.notation:
            note.set("print-object", "no")
        SubElement(note, "rest")
        self._timing(note, piece, staff, Drawn())
        if piece.tuplet_sign and staff.notation:
            _tuplet_sign(SubElement(note, "notations"), piece)

    def _chord(
        self, measure: Element, index: int, piece: Piece, staff: Staff, drawn: Drawn, grace: bool = False
    ) -> None:
        for n, note in enumerate(piece.notes):
            element = SubElement(measure, "note")
            if grace:
                SubElement(element, "grace")
            if n:
                SubElement(element, "chord")
            _pitch(SubElement(element, "pitch"), note.pitch, self.spelling)
            self._timing(element, piece, staff, drawn, grace, first=n == 0, dead="dead" in note.marks)
            notations = notations_of(self.phrase, index, note, piece, staff)
            if n == 0 and piece.tuplet_sign and staff.notation:
                _tuplet_sign(notations, piece)
            if len(notations):
                element.append(notations)
            if "palm-mute" in note.marks and staff.notation:
                SubElement(SubElement(element, "play"), "mute").text = "palm"

    def _timing(
        self, note: Element, piece: Piece, staff: Staff, drawn: Drawn, grace: bool = False, first: bool = False,
        dead: bool = False,
    ) -> None:  # fmt: skip
        """What lies between a note's pitch and its notations, in the order the schema asks for."""
        if not grace:
            SubElement(note, "duration").text = str(int(piece.sign.length * self.divisions))
            for on, kind in ((piece.tied_from, "stop"), (piece.tied_to, "start")):
                if on:
                    SubElement(note, "tie", type=kind)
        SubElement(note, "voice").text = str(staff.voice)
        sign = piece.sign
        if sign.base is not None:
            SubElement(note, "type").text = TYPES[sign.base]
            for _ in range(sign.dots):
                SubElement(note, "dot")
            if sign.tuplet:
                change = SubElement(note, "time-modification")
                SubElement(change, "actual-notes").text = str(sign.tuplet)
                SubElement(change, "normal-notes").text = str(IN_TIME_OF[sign.tuplet])
            if drawn.stem or (piece.event is not None and not staff.notation):
                SubElement(note, "stem").text = drawn.stem if staff.notation else "none"
        if dead:
            SubElement(note, "notehead").text = "x"
        if staff.number:
            SubElement(note, "staff").text = str(staff.number)
        for level, beam in enumerate(drawn.beams if first and staff.notation else (), start=1):
            SubElement(note, "beam", number=str(level)).text = beam


def _pitch(parent: Element, pitch: int, key: Key | None, prefix: str = "") -> None:
    letter, alter, octave = spelled(pitch, key)
    SubElement(parent, prefix + "step").text = letter
    if alter:
        SubElement(parent, prefix + "alter").text = str(alter)
    SubElement(parent, prefix + "octave").text = str(octave)


def _tuplet_sign(notations: Element, piece: Piece) -> None:
    notations.insert(0, Element("tuplet", type=piece.tuplet_sign, number="1"))


def _beats(metre: Metre) -> str:
    return "+".join(map(str, metre.groups)) if metre.groups else str(metre.upper)
