"""Pitches in ABC: keys and modes, accidentals that last through a bar, clefs and shifts that move what is written.

Source: the ABC music standard 2.1 (abcnotation, December 2011), sections 3.1.14 (keys), 4.1 and 4.2 (pitch, accidentals),
4.6 (clefs and transposition) and 11.3 (accidentals last through the bar for the note in every octave).
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from dromic.core.harmony.musical_keys import Key
from dromic.core.values.pitch import STEPS

MIDDLE_C = 60
_SHARPS = "FCGDAEB"
_FIFTHS = {"C": 0, "D": 2, "E": 4, "F": -1, "G": 1, "A": 3, "B": 5}
_MODES = {"maj": 0, "ion": 0, "mix": -1, "dor": -2, "m": -3, "min": -3, "aeo": -3, "phr": -4, "loc": -5, "lyd": 1}
_ACCIDENTALS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}
_KEY = re.compile(r"\s*([A-G])([#b]?)\s*([A-Za-z]*)")
_PIPES = {"F": 1, "C": 1}
"""the Highland pipes' scale: F and C sharp, G natural, whether the signature says so (Hp) or not (HP)"""
_OCTAVE = re.compile(r"\boctave=([+-]?\d)|(?:clef=)?\b(?:treble|bass|alto|tenor|none)\d?([+-]8)|\btranspose=([+-]?\d+)")


@dataclass(frozen=True, slots=True)
class Signature:
    """The accidental of each letter, and the key where it is a major or minor one."""

    letters: dict[str, int] = field(default_factory=dict)
    name: str | None = None


def signature(text: str, before: Signature) -> Signature:
    """What a K: field sets; one that only names a clef leaves the signature `before`."""
    text = text.strip()
    if text[:2] in ("HP", "Hp"):
        return Signature(dict(_PIPES))
    words = text.split()
    if not words or words[0] == "none":
        return Signature() if words else before
    found = _KEY.match(text)
    explicit = dict(_explicit(words[1:] if found or words[0] == "exp" else words))
    if words[0] == "exp":
        return Signature(explicit)
    if found is None:
        return Signature({**before.letters, **explicit}, before.name) if explicit else before
    mode = found[3][:3].lower() if not found[3].lower().startswith("m") or len(found[3]) > 1 else "m"
    if mode in ("mid", "cle", "oct", "tra", "sta", "tre", "bas", "alt", "ten", "non", "exp"):
        mode = ""  # a word of the clef stands right behind the tonic
    fifths = _FIFTHS[found[1]] + 7 * {"#": 1, "b": -1, "": 0}[found[2]] + _MODES.get(mode, 0)
    fifths = max(-7, min(7, fifths))
    letters = (
        dict.fromkeys(_SHARPS[:fifths], 1) if fifths > 0 else dict.fromkeys(_SHARPS[fifths:] if fifths else "", -1)
    )
    major = _MODES.get(mode, 0) == 0
    tonic = (STEPS[found[1]] + {"#": 1, "b": -1, "": 0}[found[2]]) % 12
    named = Key(tonic, "major" if major else "minor").name if major or _MODES.get(mode) == -3 else None
    return Signature({**letters, **explicit}, named if not explicit else None)


def _explicit(words: list[str]) -> list[tuple[str, int]]:
    found = (re.fullmatch(r"(\^\^|__|\^|_|=)([A-Ga-g])", word) for word in words)
    return [(f[2].upper(), _ACCIDENTALS[f[1]]) for f in found if f]


def shift_of(text: str) -> int | None:
    """The semitones by which a K: or V: field says that the tune sounds off what is written; None where it says nothing."""
    found = list(_OCTAVE.finditer(text))
    if not found:
        return None
    return sum(12 * int(f[1] or 0) + (12 if f[2] == "+8" else -12 if f[2] else 0) + int(f[3] or 0) for f in found)


class Pitches:
    """The pitches of a voice as it goes on: a key, and what has been altered in this bar."""

    def __init__(self, key: Signature, altered: dict[str, int] | None = None) -> None:
        self.key = key
        self.altered = altered or {}

    def bar(self) -> None:
        """A new bar: what was altered in the last one holds no longer."""
        self.altered = {}

    def pitch(self, accidental: str, letter: str, octaves: str, tied: int | None = None) -> int:
        """The MIDI number of a note as written; `tied` is the pitch it is tied from, whose accidental goes on."""
        step = letter.upper()
        base = MIDDLE_C + STEPS[step] + 12 * (letter.islower() + octaves.count("'") - octaves.count(","))
        if accidental:
            self.altered[step] = _ACCIDENTALS[accidental]
        elif tied is not None and abs(tied - base) <= 2:
            return tied
        return base + self.altered.get(step, self.key.letters.get(step, 0))
