"""What a MusicXML file states about strings, frets, fingers, strokes and attacks, taken from the XML itself.

Entities are refused; a DOCTYPE naming the public DTD is normal and nothing is fetched.
"""

from __future__ import annotations

import re
from contextlib import suppress
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import Element, ParseError, SubElement

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from dromic import presets
from dromic.core.music.phrase import Swing
from dromic.core.setup.instrument import MOST_FRETS
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import SHARP_NAMES, STEPS, note_number
from dromic.core.values.vocabulary import (
    FINGERS,
    HAMMER,
    HAMMER_NEW,
    MARKS,
    PICK,
    PLUCK,
    PLUCKERS,
    PULL,
    SLID_TO,
    SLIDE,
    TAP,
)
from dromic.formats.heard import NoteMarks
from dromic.formats.limits import check_count, limit
from dromic.formats.xml.staves import whole

_IN_TIME = ("note", "backup", "forward")
"""what moves the time within a measure"""
_PLUCK_NAMES = {**{f: f for f in PLUCKERS}, "e": "c", "x": "c", "ch": "c"}
_MARK_PATHS = {
    "accent": ("notations/articulations/accent", "notations/articulations/strong-accent"),
    "tremolo": ("notations/ornaments/tremolo",),
    "trill": ("notations/ornaments/trill-mark",),
    "vibrato": ("notations/ornaments/wavy-line",),
    "harmonic": ("notations/technical/harmonic",),
    "bend": ("notations/technical/bend",),
    "pop": ("notations/technical/snap-pizzicato",),
    "turn": tuple(
        f"notations/ornaments/{kind}turn" for kind in ("", "inverted-", "delayed-", "delayed-inverted-", "vertical-")
    ),
    "arpeggio": ("notations/arpeggiate",),
}
_READ = {
    "articulations": {"accent", "strong-accent", "scoop", "plop", "falloff", "doit"},
    "ornaments": {
        "tremolo", "trill-mark", "wavy-line", "turn", "inverted-turn", "delayed-turn", "delayed-inverted-turn",
        "vertical-turn", "accidental-mark",
    },
    "technical": {
        "harmonic", "bend", "snap-pizzicato", "fingering", "string", "fret", "pluck", "up-bow", "down-bow", "hammer-on",
        "pull-off", "tap", "other-technical",
    },
}  # fmt: skip
"""what is taken of each group of notations"""
_LONE = ("fermata", "non-arpeggiate", "dynamics", "other-notation")
"""notations that stand by themselves and are not kept"""


@dataclass(frozen=True, slots=True)
class ScoreMarks:
    """What the whole file states. `tuning` is low to high, per part; `slurs` whether any plain slur is written."""

    tunings: dict[int, tuple[int, ...]] = field(default_factory=dict)
    capos: dict[int, int] = field(default_factory=dict)
    swing: Swing = field(default_factory=Swing)
    slurs: bool = False
    sections: dict[int, tuple[tuple[int, str], ...]] = field(default_factory=dict)
    """(bar's index, name) of each rehearsal mark, per part"""
    left_out: tuple[str, ...] = ()
    """kinds of notation that are not kept"""


def parsed(data: bytes, part: int = 1) -> Element:
    """A score, parsed safely, to read a part of it; DromicError if it is not well-formed, declares entities, is not a
    score, or holds more than a score can."""
    try:
        root: Element = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise DromicError("it declares entities, which a score never needs; export it again without them") from error
    except ParseError as error:
        line = error.position[0]
        raise DromicError(
            "the XML breaks off or is not well-formed; export the file again", where=f"line {line}"
        ) from error
    except (ValueError, LookupError) as error:
        raise DromicError(f"its text cannot be decoded ({error}); save it as UTF-8") from error
    if root.tag == "score-timewise":
        raise DromicError(
            "it is written measure by measure (score-timewise), not read yet; export it as score-partwise"
        )
    if root.tag != "score-partwise":
        raise DromicError(f"it is XML but not a MusicXML score (it holds <{root.tag[:40]}>); choose a score file")
    _check_size(root, part)
    _check_octaves(root)
    for measure in root.iter("measure"):
        _chords_together(measure)
    _with_pitches(root)
    return root


def score_marks(root: Element) -> ScoreMarks:
    """What a parsed score states beside its notes."""
    tunings: dict[int, Any] = {}
    capos: dict[int, int] = {}
    for p, of in enumerate(root.findall("part")):
        for details in of.iter("staff-details"):
            tuning = _tuning(details)
            if tuning and p not in tunings:
                tunings[p] = tuning
            capo = whole(details.findtext("capo"))
            if capo is not None and 0 <= capo <= 12:
                capos.setdefault(p, capo)
    named = root.find("identification/miscellaneous/miscellaneous-field[@name='tuning']")
    if named is not None and 0 not in tunings:
        with suppress(DromicError):
            words = (named.text or "").split()
            tunings[0] = tuple(note_number(n) for n in words[:9])
    return ScoreMarks(
        tunings=tunings,
        capos=capos,
        swing=_swing(root),
        slurs=any(True for _ in root.iter("slur")),
        sections={p: _sections(of) for p, of in enumerate(root.findall("part"))},
        left_out=_left_out(root),
    )


def _sections(part: Element) -> tuple[tuple[int, str], ...]:
    most = limit("title_letters")
    found: dict[int, str] = {}
    for index, measure in enumerate(part.findall("measure")):
        for mark in measure.iterfind("direction/direction-type/rehearsal"):
            name = " ".join((mark.text or "").split())[:most]
            if name:
                found.setdefault(index, name)
    return tuple(found.items())


def _left_out(root: Element) -> tuple[str, ...]:
    """Names of notations that nothing here stands for, in words."""
    kinds = {e.tag for notations in root.iter("notations") for e in notations if e.tag in _LONE}
    for group, read in _READ.items():
        kinds |= {e.tag for found in root.iter(group) for e in found if e.tag not in read}
    return tuple(sorted(kind.replace("-", " ") for kind in kinds))


def _chords_together(measure: Element) -> None:
    """The notes of a chord one after the other, whatever stands between them, which the reader would take for the next note."""
    ordered: list[Element] = []
    moved = False
    for element in list(measure):
        if element.tag == "note" and element.find("chord") is not None:
            last = next((i for i in range(len(ordered) - 1, -1, -1) if ordered[i].tag in _IN_TIME), None)
            if last is not None and last + 1 < len(ordered) and ordered[last].tag == "note":
                ordered.insert(last + 1, element)
                moved = True
                continue
        ordered.append(element)
    if moved:
        measure[:] = ordered


def _with_pitches(root: Element) -> None:
    """A note that states a string and a fret and no pitch gets the pitch it has there: on the part's tuning, else a guitar's."""
    for part in root.findall("part"):
        tuning = next((t for d in part.iter("staff-details") if (t := _tuning(d))), presets.usual_instrument().tuning)
        for note in part.iter("note"):
            if any(note.find(tag) is not None for tag in ("pitch", "rest", "unpitched")):
                continue
            technical = note.find("notations/technical")
            string = whole(technical.findtext("string")) if technical is not None else None
            fret = whole(technical.findtext("fret")) if technical is not None else None
            if string is None or fret is None or not (1 <= string <= len(tuning) and 0 <= fret <= MOST_FRETS):
                continue
            number = tuning[len(tuning) - string] + fret
            name = SHARP_NAMES[number % 12]
            pitch = Element("pitch")
            SubElement(pitch, "step").text = name[0]
            if len(name) > 1:
                SubElement(pitch, "alter").text = "1"
            SubElement(pitch, "octave").text = str(number // 12 - 1)
            before = sum(note.find(tag) is not None for tag in ("grace", "cue", "chord"))
            note.insert(before, pitch)


def _check_size(root: Element, part: int) -> None:
    """Refuse what would keep the reader of notes busy for ever, or be refused after it has read everything."""
    parts = root.findall("part")
    check_count("xml_parts", len(parts), "parts", "export fewer")
    check_count("notes", sum(1 for _ in root.iter("note")), "notes in all its parts", "export one part")
    if 0 < part <= len(parts):
        check_count("events", sum(_begins(note) for note in parts[part - 1].iter("note")), "notes", "split it")
    for name, most, numbers in (
        ("beats in a bar", "xml_beats", (e.text for e in root.iter("beats"))),
        ("turns of a repeat", "repeats", (e.get("times") for e in root.iter("repeat"))),
        ("turns of a repeat", "repeats", (e.get("number") for e in root.iter("ending"))),
    ):
        for text in numbers:
            highest = max((int(digits[:12]) for digits in re.findall(r"\d+", text or "")), default=0)
            check_count(most, highest, name, "check it or export it again")


def _check_octaves(root: Element) -> None:
    """Refuse octaves no pitch can have, whose digits would keep the reader of notes busy, or break it."""
    for octave in root.iter("octave"):
        text = (octave.text or "").strip()
        if re.fullmatch(r"-?\d+", text) and not re.fullmatch(r"\d", text):
            raise DromicError(f"a note's octave is {text[:20]}; it must lie between 0 and 9: check or export it again")


def _begins(note: Element) -> bool:
    """Whether a note element begins an event: no rest, no further note of a chord, no end of a tie, in the first voice."""
    if any(note.find(tag) is not None for tag in ("rest", "chord")) or note.findtext("voice", "1").strip() != "1":
        return False
    return not any(tie.get("type") == "stop" for tie in note.findall("tie"))


def note_marks(element: Element) -> NoteMarks:
    technical = "notations/technical/"
    finger = (element.findtext(technical + "fingering") or "").strip().upper() or None
    pluck = _PLUCK_NAMES.get((element.findtext(technical + "pluck") or "").strip().lower())
    bow = "down" if element.find(technical + "down-bow") is not None else None
    bow = "up" if element.find(technical + "up-bow") is not None else bow
    marks = {name for name, paths in _MARK_PATHS.items() if any(element.find(p) is not None for p in paths)}
    if element.findtext("notehead") in ("x", "cross"):
        marks.add("dead")
    if any((m.text or "").strip() == "palm" for m in element.findall("play/mute")):
        marks.add("palm-mute")
    if any(t.get("type") == "let-ring" for t in element.findall("notations/tied")):
        marks.add("let-ring")
    marks |= {
        t for e in element.findall(technical + "other-technical") if (t := (e.text or "").strip().lower()) in MARKS
    }
    if element.find(technical + "bend/release") is not None:
        marks.add("release")
    if element.find(technical + "bend/pre-bend") is not None:
        marks.add("prebend")
    for name, path in (("slide-in", "scoop"), ("slide-in", "plop"), ("slide-out", "falloff"), ("slide-out", "doit")):
        if element.find(f"notations/articulations/{path}") is not None:
            marks.add(name)
    alter = element.findtext(technical + "bend/bend-alter") or "0"
    bend = abs(float(alter)) if re.fullmatch(r"\s*-?\d(\.\d+)?\s*", alter) else 0.0
    beams = whole(element.findtext("notations/ornaments/tremolo")) or 0
    attack, slid = _attack(element), _slid(element)
    if slid and (pluck or bow or attack in (PICK, PLUCK)):
        marks.add(SLID_TO)
    if pluck:
        attack = PLUCK
    elif attack == SLIDE and bow:
        attack = PICK
    return NoteMarks(
        string=whole(element.findtext(technical + "string")),
        fret=whole(element.findtext(technical + "fret")),
        finger=finger if finger in FINGERS else None,
        attack=attack,
        stroke=pluck or bow,
        marks=frozenset(marks),
        bend=min(bend, 6.0),
        tremolo=min(beams, 4),
    )


def _attack(element: Element) -> str | None:
    for other in element.findall("notations/technical/other-technical"):
        if (told := (other.text or "").strip()) in (PICK, PLUCK):
            return told
    tap = element.find("notations/technical/tap")
    if tap is not None:
        return HAMMER_NEW if tap.get("hand") == "left" else TAP
    for tag, attack in (("hammer-on", HAMMER), ("pull-off", PULL)):
        if any(e.get("type") == "stop" for e in element.findall(f"notations/technical/{tag}")):
            return attack
    return SLIDE if _slid(element) else None


def _slid(element: Element) -> bool:
    slides = element.findall("notations/slide") + element.findall("notations/glissando")
    return any(e.get("type") == "stop" for e in slides)


def _tuning(details: Element) -> tuple[int, ...] | None:
    lines: dict[int, int] = {}
    for entry in details.findall("staff-tuning"):
        line, octave = whole(entry.get("line")), whole(entry.findtext("tuning-octave"))
        step = (entry.findtext("tuning-step") or "").strip()
        if line is None or octave is None or step not in STEPS:
            return None
        alter = entry.findtext("tuning-alter") or "0"
        lines[line] = (
            12 * (octave + 1)
            + STEPS[step]
            + round(float(alter) if re.fullmatch(r"-?\d{1,2}(\.\d{1,6})?", alter) else 0)
        )
    tuning = tuple(lines[line] for line in sorted(lines))
    return tuning if 4 <= len(tuning) <= 9 else None


def _swing(root: Element) -> Swing:
    swing = next(root.iter("swing"), None)
    if swing is None or swing.find("straight") is not None:
        return Swing()
    first, second = whole(swing.findtext("first")), whole(swing.findtext("second"))
    unit = Fraction(1, 4) if swing.findtext("swing-type") == "16th" else Fraction(1, 2)
    if not first or not second or not 1 <= Fraction(first, second) <= 4:
        return Swing()
    return Swing(unit, Fraction(first, second))
