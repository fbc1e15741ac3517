"""Keys and the notes in them: names, degrees, and which key a phrase most likely stands in.

Sources: scale degrees as in any primer of harmony; the key profiles of C. Krumhansl, Cognitive Foundations of Musical
Pitch, 1990 (Krumhansl and Kessler's probe-tone ratings), as they are commonly quoted.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from dromic.core.harmony.chords import Chord
from dromic.core.music.phrase import Phrase
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import STEPS

MAJOR = (0, 2, 4, 5, 7, 9, 11)
"""Steps of the major scale, semitones over its key note."""
MINOR = (0, 2, 3, 5, 7, 8, 10)
"""Steps of the natural minor scale, semitones over its key note."""
_PROFILES = {
    "major": (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88),
    "minor": (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17),
}
_NAMES = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
_MINOR_NAMES = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "G#", "A", "Bb", "B")
_TEXT = re.compile(r"([A-Ga-g])([#b]?)\s*(m|min|minor|maj|major|)", re.IGNORECASE)
_FIFTHS_OF_C = {"major": 0, "minor": -3}


@dataclass(frozen=True, slots=True)
class Key:
    """A major or minor key by its tonic's pitch class, 0 for C."""

    tonic: int
    mode: str

    @property
    def name(self) -> str:
        """As players write it: D, Bm."""
        return _NAMES[self.tonic] if self.mode == "major" else _MINOR_NAMES[self.tonic] + "m"

    @property
    def words(self) -> str:
        """The key as it is said."""
        return f"{self.name.rstrip('m')} {self.mode}"

    @property
    def scale(self) -> tuple[int, ...]:
        """Pitch classes from the tonic up."""
        return tuple((self.tonic + s) % 12 for s in (MAJOR if self.mode == "major" else MINOR))

    @property
    def fifths(self) -> int:
        """Sharps of its signature, flats less than 0, from -6 to 6."""
        fifths = (self.tonic * 7 + _FIFTHS_OF_C[self.mode]) % 12
        return fifths - 12 if fifths > 6 else fifths

    def degree(self, pitch: int) -> int | None:
        """The degree of a note, 1 to 7; None outside the key."""
        scale = self.scale
        return scale.index(pitch % 12) + 1 if pitch % 12 in scale else None


def key_of(text: str) -> Key:
    """A key as it is written: D, F# major, Bm; DromicError if it is none."""
    match = _TEXT.fullmatch(text.strip())
    if match is None:
        raise DromicError(f"{text!r} is not a key; write D for major, Bm for minor")
    letter, sign, mode = match.groups()
    tonic = (STEPS[letter.upper()] + {"#": 1, "b": -1, "": 0}[sign]) % 12
    minor = mode == "m" or mode.lower().startswith("min")
    return Key(tonic, "minor" if minor else "major")


def likely_key(phrase: Phrase) -> Key | None:
    """The key whose profile goes best with how long each pitch class sounds; None for a phrase without notes."""
    weights = np.zeros(12)
    for event in phrase.events:
        for note in event.notes:
            if "dead" not in note.marks:
                weights[note.pitch % 12] += float(note.duration)
    if not weights.any():
        return None
    best = max(
        ((float(np.corrcoef(np.roll(profile, tonic), weights)[0, 1]), tonic, mode)
         for mode, profile in _PROFILES.items() for tonic in range(12)),
        default=None, key=lambda found: found[0] if np.isfinite(found[0]) else -2.0,
    )  # fmt: skip
    return Key(best[1], best[2]) if best is not None else None


def place_words(pitch: int, key: Key, chord: Chord | None = None) -> str:
    """What a note is: its degree in a key or that it lies outside, and its place in the chord it sounds in."""
    degree = key.degree(pitch)
    words = f"degree {degree} of {key.words}" if degree else f"outside {key.words}"
    if chord is None:
        return words
    tone = chord.tone(pitch)
    return f"{words}, {tone} of {chord.words}" if tone else f"{words}, no note of {chord.words}"
