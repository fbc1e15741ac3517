"""The instrument in millimetres: tuning, neck and strings.

Conventions: string 1 is the highest-pitched; fret numbers count from the capo. Fret n lies L(1 - 2^(-n/12)) from the
nut (equal temperament, L the scale length).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dromic.core.values.checks import check_range, check_ranged_fields, check_whole, ranged
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_name

MIN_STRINGS = 4
"""A bass."""
MAX_STRINGS = 9
"""An extended guitar; arrays by string have one more."""
MOST_FRETS = 36
BASS_BELOW = 52


@dataclass(frozen=True, slots=True)
class Instrument:
    """A fretted instrument. `tuning` holds the open strings' note numbers, low to high, capo left out."""

    name: str
    label: str
    tuning: tuple[int, ...]
    scale_mm: float = ranged("mm", 400, 1000, "length of the sounding open string")
    frets: int = ranged("frets", 5, 36, "number of frets")
    capo: int = ranged("frets", 0, 12, "fret of the capo, 0 for none")
    nut_spacing_mm: float = ranged("mm", 4, 20, "from string to string at the nut")
    bridge_spacing_mm: float = ranged("mm", 5, 25, "from string to string at the bridge")
    pick_from_bridge_mm: float = ranged("mm", 10, 300, "where the pick meets the strings")
    body_fret: int = ranged("frets", 5, 36, "fret where the neck meets the body")
    action_mm: float = ranged("mm", 0.3, 8, "height of the strings over the twelfth fret; kept, and used by no sum yet")

    def __post_init__(self) -> None:
        if not MIN_STRINGS <= len(self.tuning) <= MAX_STRINGS:
            raise DromicError(f"tuning has {len(self.tuning)} strings; it must have {MIN_STRINGS} to {MAX_STRINGS}")
        for number in self.tuning:
            check_whole("tuning", number, 0, 127)
        check_ranged_fields(self)

    @property
    def strings(self) -> int:
        """How many there are."""
        return len(self.tuning)

    @property
    def bass(self) -> bool:
        """Whether it is a bass: its highest string lies under the guitar's low octave (E3)."""
        return max(self.tuning) < BASS_BELOW

    @property
    def highest_fret(self) -> int:
        """The last playable fret, counted from the capo."""
        return self.frets - self.capo

    @property
    def tuning_names(self) -> tuple[str, ...]:
        """The open strings by name, low to high."""
        return tuple(note_name(n) for n in self.tuning)

    @property
    def pick_spacing_mm(self) -> float:
        """String spacing where the pick works, between the nut's and the bridge's."""
        share = self.pick_from_bridge_mm / self.scale_mm
        return self.bridge_spacing_mm + (self.nut_spacing_mm - self.bridge_spacing_mm) * share

    def open_pitch(self, string: int) -> int:
        """Note number of an open string, the capo counted in."""
        check_whole("string", string, 1, self.strings)
        return self.tuning[self.strings - string] + self.capo

    def pitch_at(self, string: int, fret: int) -> int:
        """Note number at a string and fret; DromicError outside the neck."""
        check_whole("fret", fret, 0, self.highest_fret)
        return self.open_pitch(string) + fret

    def fret_mm(self, fret: float | NDArray[np.float64]) -> NDArray[np.float64]:
        """Distance from the nut in mm of a fret, or of each of an array [...] of frets, counted from the capo."""
        return np.asarray(self.scale_mm * (1.0 - 2.0 ** (-(np.asarray(fret, float) + self.capo) / 12.0)))

    def places_of(self, pitch: int) -> tuple[tuple[int, int], ...]:
        """Every (string, fret) that sounds a note number, from string 1 on."""
        found = []
        for string in range(1, self.strings + 1):
            fret = pitch - self.open_pitch(string)
            if 0 <= fret <= self.highest_fret:
                found.append((string, fret))
        return tuple(found)

    def range_names(self) -> str:
        """The lowest and highest note, for messages."""
        low = min(self.tuning) + self.capo
        return f"{note_name(low)} to {note_name(max(self.tuning) + self.frets)}"

    def with_tuning(self, tuning: tuple[int, ...], label: str = "own tuning") -> Instrument:
        """The same instrument tuned otherwise; `tuning` low to high, in MIDI note numbers."""
        return replace(self, tuning=tuning, label=label)

    def with_capo(self, capo: int) -> Instrument:
        """The same instrument with a capo, 0 for none. Raises DromicError beyond fret 12."""
        check_range("capo", capo, 0, 12, "frets")
        return replace(self, capo=capo)
