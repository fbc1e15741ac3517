"""What is noted at a note in MusicXML: ties, strokes, places, slurs, slides, bends, ornaments; each on the staff that shows it."""

from __future__ import annotations

from dataclasses import dataclass
from xml.etree.ElementTree import Element, SubElement

from dromic.core.music.phrase import Note, Phrase
from dromic.core.music.pieces import Piece
from dromic.core.values.vocabulary import HAMMER, HAMMER_NEW, PICK, PLUCK, PLUCKERS, PULL, SLIDE, TAP

_SLURRED = {HAMMER: "hammer-on", PULL: "pull-off"}
OTHER_TECHNIQUES = ("slap", "pop", "strum", "rake")
"""marks the format has no element for: its element for other techniques names them"""


@dataclass(frozen=True, slots=True)
class Staff:
    """A staff: its number (0 for a part's only one), its voice, and whether it shows strings and frets, and all else."""

    number: int
    voice: int
    places: bool
    notation: bool


ALONE = Staff(0, 1, places=True, notation=True)
NOTATION = Staff(1, 1, places=False, notation=True)
TABLATURE = Staff(2, 5, places=True, notation=False)


def _line(kind: str) -> dict[str, str]:
    """The ends of a slide, drawn as a line."""
    return {"type": kind, "number": "1", "line-type": "solid"}


def notations_of(phrase: Phrase, index: int, note: Note, piece: Piece, staff: Staff) -> Element:
    """The notations of a note of the event `index`, empty where there are none; the tuplet's sign not among them."""
    notations = Element("notations")
    for on, kind in ((piece.tied_from, "stop"), (piece.tied_to, "start")):
        if on:
            SubElement(notations, "tied", type=kind)
    if not piece.tied_to:
        _leads(notations, phrase, index, note, staff)
    if piece.tied_from:
        return notations
    if "let-ring" in note.marks and staff.notation:
        SubElement(notations, "tied", type="let-ring")
    if note.attack == SLIDE or note.slid_to:
        SubElement(notations, "slide", _line("stop"))
    _technical(notations, note, staff)
    if not staff.notation:
        return notations
    _ornaments(notations, note)
    if "arpeggio" in note.marks:
        SubElement(notations, "arpeggiate")
    marks = [m for m in ("accent", "slide-in", "slide-out") if m in note.marks]
    if marks:
        articulations = SubElement(notations, "articulations")
        for mark in marks:
            SubElement(articulations, {"accent": "accent", "slide-in": "scoop", "slide-out": "falloff"}[mark])
    return notations


def _leads(notations: Element, phrase: Phrase, index: int, note: Note, staff: Staff) -> None:
    """The beginning of a hammer-on, pull-off or slide that the next event ends."""
    following = phrase.events[index + 1] if index + 1 < len(phrase.events) else None
    target = next((n for n in following.notes if n.string == note.string), None) if following else None
    if target is None:
        return
    if target.attack == SLIDE or target.slid_to:
        SubElement(notations, "slide", _line("start"))
    elif target.attack in _SLURRED and staff.notation:
        technical = SubElement(notations, "technical")
        SubElement(technical, _SLURRED[target.attack], type="start", number="1")


def _technical(notations: Element, note: Note, staff: Staff) -> None:
    technical = Element("technical")
    if staff.notation:
        if note.stroke in ("down", "up"):
            SubElement(technical, f"{note.stroke}-bow")
        elif note.stroke:
            SubElement(technical, "pluck").text = note.stroke
        if note.finger is not None:
            SubElement(technical, "fingering").text = note.finger
    if staff.places:
        if note.string is not None:
            SubElement(technical, "string").text = str(note.string)
        if note.fret is not None:
            SubElement(technical, "fret").text = str(note.fret)
    if note.attack in _SLURRED and staff.notation:
        SubElement(technical, _SLURRED[note.attack], type="stop", number="1")
    if note.attack in (TAP, HAMMER_NEW) and staff.notation:
        SubElement(technical, "tap", hand="right" if note.attack == TAP else "left")
    if "harmonic" in note.marks and staff.notation:
        SubElement(technical, "harmonic")
    if "bend" in note.marks and staff.places:
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
    if staff.notation and (attack == PICK or (attack == PLUCK and note.stroke not in PLUCKERS)):
        SubElement(technical, "other-technical").text = attack
    if staff.notation:
        for mark in OTHER_TECHNIQUES:
            if mark in note.marks:
                SubElement(technical, "other-technical").text = mark
    if len(technical):
        notations.append(technical)


def _ornaments(notations: Element, note: Note) -> None:
    ornaments = Element("ornaments")
    if "trill" in note.marks:
        SubElement(ornaments, "trill-mark")
    if "turn" in note.marks:
        SubElement(ornaments, "turn")
    if "vibrato" in note.marks:
        SubElement(ornaments, "wavy-line", type="start", number="1")
        SubElement(ornaments, "wavy-line", type="stop", number="1")
    if "tremolo" in note.marks:
        SubElement(ornaments, "tremolo", type="single").text = str(note.tremolo)
    if len(ornaments):
        notations.append(ornaments)
