"""Writes MusicXML 4.0: one part, one voice, with everything of a phrase that the format has a place for.

Source of the element names and their order: the MusicXML 4.0 schema of the W3C Music Notation Community Group; the
tests hold what is written against it.
"""

from __future__ import annotations

import io
import zipfile
from fractions import Fraction
from math import lcm
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from dromic.core.music.musical_keys import key_of
from dromic.core.music.phrase import Bar, Note, Phrase
from dromic.core.music.pieces import Piece, leads_to, natural_length, pieces_by_bar
from dromic.core.setup.instrument import Instrument
from dromic.core.values.metre import Metre
from dromic.core.values.note_lengths import IN_TIME_OF, Sign
from dromic.core.values.pitch import SHARP_NAMES
from dromic.core.values.vocabulary import HAMMER, HAMMER_NEW, PICK, PLUCK, PLUCKERS, PULL, SLIDE, TAP

TYPES = {
    "w": "whole", "h": "half", "q": "quarter", "e": "eighth", "s": "16th", "t": "32nd", "z": "64th",
}  # fmt: skip
_DOCTYPE = (
    '<?xml version="1.0" encoding="UTF-8" standalone="no"?>\n<!DOCTYPE score-partwise PUBLIC '
    '"-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">\n'
)
_CONTAINER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<container><rootfiles><rootfile full-path="score.musicxml" '
    'media-type="application/vnd.recordare.musicxml+xml"/></rootfiles></container>\n'
)
_SLURRED = {HAMMER: "hammer-on", PULL: "pull-off"}
_LOW_STRING = 40
"""open strings below this note number (E2) put the part in the bass clef"""


def _line(kind: str) -> dict[str, str]:
    """The ends of a slide, drawn as a line."""
    return {"type": kind, "number": "1", "line-type": "solid"}


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
    if any(e.grace and leads_to(phrase, i) is None for i, e in enumerate(phrase.events)):
        notices.append("grace notes that lead to no note right after them are plain notes")
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

    def measure(self, part: Element, index: int) -> None:
        bar = self.phrase.bars[index]
        measure = SubElement(part, "measure", number=str(bar.number))
        if bar.length < bar.metre.length:
            measure.set("implicit", "yes")
        self._left(measure, index)
        before = self.phrase.bars[index - 1] if index else None
        self._attributes(measure, bar, before)
        if index == 0:
            self._tempo(measure)
        section = next((s for s in self.phrase.sections if s.first == index), None)
        if section is not None:
            kind = SubElement(SubElement(measure, "direction", placement="above"), "direction-type")
            SubElement(kind, "rehearsal").text = section.name
        for piece in self.by_bar.get(index, []):
            self._piece(measure, piece)
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
            stated = key_of(self.phrase.key) if self.phrase.key else None
            SubElement(key, "fifths").text = str(stated.fifths if stated else 0)
            if stated is not None:
                SubElement(key, "mode").text = stated.mode
        time = SubElement(attributes, "time")
        SubElement(time, "beats").text = _beats(bar.metre)
        SubElement(time, "beat-type").text = str(bar.metre.lower)
        if before is not None:
            return
        clef = SubElement(attributes, "clef")
        if self.placed:
            SubElement(clef, "sign").text = "TAB"
            SubElement(clef, "line").text = "5"
        else:
            low = max(self.instrument.tuning) < _LOW_STRING + 12
            SubElement(clef, "sign").text = "F" if low else "G"
            SubElement(clef, "line").text = "4" if low else "2"
            SubElement(clef, "clef-octave-change").text = "-1"
        if not (self.placed or self.instrument.capo):
            return
        details = SubElement(attributes, "staff-details")
        SubElement(details, "staff-lines").text = str(self.instrument.strings if self.placed else 5)
        # strings are a tablature staff's: readers take any staff that states them for one
        for line, pitch in enumerate(self.instrument.tuning if self.placed else (), start=1):
            tuning = SubElement(details, "staff-tuning", line=str(line))
            name, octave = SHARP_NAMES[pitch % 12], pitch // 12 - 1
            SubElement(tuning, "tuning-step").text = name[0]
            if len(name) > 1:
                SubElement(tuning, "tuning-alter").text = "1"
            SubElement(tuning, "tuning-octave").text = str(octave)
        if self.instrument.capo:
            SubElement(details, "capo").text = str(self.instrument.capo)

    def _tempo(self, measure: Element) -> None:
        direction = SubElement(measure, "direction", placement="above")
        mark = SubElement(SubElement(direction, "direction-type"), "metronome")
        SubElement(mark, "beat-unit").text = "quarter"
        SubElement(mark, "per-minute").text = f"{self.phrase.tempo:g}"
        sound = SubElement(direction, "sound", tempo=f"{self.phrase.tempo:g}")
        swing = self.phrase.swing
        if swing.ratio != 1:
            entry = SubElement(sound, "swing")
            SubElement(entry, "first").text = str(swing.ratio.numerator)
            SubElement(entry, "second").text = str(swing.ratio.denominator)
            SubElement(entry, "swing-type").text = "eighth" if swing.unit == Fraction(1, 2) else "16th"

    def _piece(self, measure: Element, piece: Piece) -> None:
        for grace in piece.graces:
            self._chord(
                measure, grace, Piece(Fraction(0), Sign(Fraction(0), "e"), grace, self.phrase.events[grace].notes), True
            )
        if piece.event is None:
            note = SubElement(measure, "note")
            SubElement(note, "rest")
            self._timing(note, piece)
            if piece.tuplet_sign:
                _tuplet_sign(SubElement(note, "notations"), piece)
        else:
            self._chord(measure, piece.event, piece, False)

    def _chord(self, measure: Element, index: int, piece: Piece, grace: bool) -> None:
        for n, note in enumerate(piece.notes):
            element = SubElement(measure, "note")
            if grace:
                SubElement(element, "grace")
            if n:
                SubElement(element, "chord")
            name, octave = SHARP_NAMES[note.pitch % 12], note.pitch // 12 - 1
            pitch = SubElement(element, "pitch")
            SubElement(pitch, "step").text = name[0]
            if len(name) > 1:
                SubElement(pitch, "alter").text = "1"
            SubElement(pitch, "octave").text = str(octave)
            self._timing(element, piece, grace)
            if "dead" in note.marks:
                # the head comes after the lengths and before what is noted
                SubElement(element, "notehead").text = "x"
            notations = Element("notations")
            self._noted(notations, index, note, piece, first=not piece.tied_from)
            if n == 0 and piece.tuplet_sign:
                _tuplet_sign(notations, piece)
            if len(notations):
                element.append(notations)
            if "palm-mute" in note.marks:
                SubElement(SubElement(element, "play"), "mute").text = "palm"

    def _timing(self, note: Element, piece: Piece, grace: bool = False) -> None:
        if not grace:
            SubElement(note, "duration").text = str(int(piece.sign.length * self.divisions))
            for on, kind in ((piece.tied_from, "stop"), (piece.tied_to, "start")):
                if on:
                    SubElement(note, "tie", type=kind)
        SubElement(note, "voice").text = "1"
        sign = piece.sign
        if sign.base is None:
            return
        SubElement(note, "type").text = TYPES[sign.base]
        for _ in range(sign.dots):
            SubElement(note, "dot")
        if sign.tuplet:
            change = SubElement(note, "time-modification")
            SubElement(change, "actual-notes").text = str(sign.tuplet)
            SubElement(change, "normal-notes").text = str(IN_TIME_OF[sign.tuplet])

    def _noted(self, notations: Element, index: int, note: Note, piece: Piece, first: bool) -> None:
        for on, kind in ((piece.tied_from, "stop"), (piece.tied_to, "start")):
            if on:
                SubElement(notations, "tied", type=kind)
        if not piece.tied_to:
            self._leads(notations, index, note)
        if not first:
            return
        if "let-ring" in note.marks:
            SubElement(notations, "tied", type="let-ring")
        if note.attack == SLIDE or note.slid_to:
            SubElement(notations, "slide", _line("stop"))
        self._technical(notations, note)
        self._ornaments(notations, note)
        marks = [m for m in ("accent", "slide-in", "slide-out") if m in note.marks]
        if marks:
            articulations = SubElement(notations, "articulations")
            for mark in marks:
                SubElement(articulations, {"accent": "accent", "slide-in": "scoop", "slide-out": "falloff"}[mark])

    def _leads(self, notations: Element, index: int, note: Note) -> None:
        """The beginning of a hammer-on, pull-off or slide that the next event ends."""
        following = self.phrase.events[index + 1] if index + 1 < len(self.phrase.events) else None
        target = next((n for n in following.notes if n.string == note.string), None) if following else None
        if target is None:
            return
        if target.attack == SLIDE or target.slid_to:
            SubElement(notations, "slide", _line("start"))
        elif target.attack in _SLURRED:
            technical = SubElement(notations, "technical")
            SubElement(technical, _SLURRED[target.attack], type="start", number="1")

    def _technical(self, notations: Element, note: Note) -> None:
        technical = Element("technical")
        if note.stroke in ("down", "up"):
            SubElement(technical, f"{note.stroke}-bow")
        elif note.stroke:
            SubElement(technical, "pluck").text = note.stroke
        if note.finger is not None:
            SubElement(technical, "fingering").text = note.finger
        if note.string is not None:
            SubElement(technical, "string").text = str(note.string)
        if note.fret is not None:
            SubElement(technical, "fret").text = str(note.fret)
        if note.attack in _SLURRED:
            SubElement(technical, _SLURRED[note.attack], type="stop", number="1")
        if note.attack in (TAP, HAMMER_NEW):
            SubElement(technical, "tap", hand="right" if note.attack == TAP else "left")
        if "harmonic" in note.marks:
            SubElement(technical, "harmonic")
        if "bend" in note.marks:
            bend = SubElement(technical, "bend")
            SubElement(bend, "bend-alter").text = f"{note.bend:g}"
            if "prebend" in note.marks:
                SubElement(bend, "pre-bend")
            if "release" in note.marks:
                if "prebend" in note.marks:  # a bend is either, so it takes two
                    bend = SubElement(technical, "bend")
                    SubElement(bend, "bend-alter").text = f"{-note.bend:g}"
                SubElement(bend, "release")
        # a slide without a stroke would be read as one that is not struck
        attack = PICK if note.attack is None and note.stroke is None and note.slid_to else note.attack
        if attack == PICK or (attack == PLUCK and note.stroke not in PLUCKERS):
            SubElement(technical, "other-technical").text = attack
        if len(technical):
            notations.append(technical)

    def _ornaments(self, notations: Element, note: Note) -> None:
        ornaments = Element("ornaments")
        if "trill" in note.marks:
            SubElement(ornaments, "trill-mark")
        if "vibrato" in note.marks:
            SubElement(ornaments, "wavy-line", type="start", number="1")
            SubElement(ornaments, "wavy-line", type="stop", number="1")
        if "tremolo" in note.marks:
            SubElement(ornaments, "tremolo", type="single").text = str(note.tremolo)
        if len(ornaments):
            notations.append(ornaments)


def _tuplet_sign(notations: Element, piece: Piece) -> None:
    notations.insert(0, Element("tuplet", type=piece.tuplet_sign, number="1"))


def _beats(metre: Metre) -> str:
    return "+".join(map(str, metre.groups)) if metre.groups else str(metre.upper)
