"""Where the fingers of the fretting hand lie at ease, what a fret asks of them, and how far neighbours spread.

The stance is a finger a fret, opened by the width of the frets as far as the hand opens at ease and closed as far as fingers
get beside each other. A finger presses anywhere in its fret: free over a share of its width behind the wire, so that what
is left over is a reach. Fingers are numbered 1 to 4, the thumb 5; lengths are mm along the neck from the nut.
"""

from __future__ import annotations

from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import FrettingHand, Player
from dromic.core.values.arrays import Floats, Ints

THUMB = 5
"""the number of the thumb among the fretting fingers"""
UNDER_HAND = 3
"""Frets from the first finger to the fourth, a finger a fret: what fits there needs no move."""
_UP_THE_NECK = 3
"""The first position in which an open string is no habit where its note lies under the hand."""
_BEYOND = 8
"""frets past the highest one for which places are worked out"""


class HandGeometry:
    """The sums of one hand on one instrument."""

    def __init__(self, instrument: Instrument, hand: FrettingHand, three_below: float = 0.0) -> None:
        """`three_below`: under this position the hand spans three frets, ring and little finger sharing the last."""
        self.instrument, self.hand, self.three_below = instrument, hand, three_below
        self.mm: Floats = np.asarray(instrument.fret_mm(np.arange(instrument.highest_fret + _BEYOND, dtype=float)))
        """[F]: each fret wire from the nut"""
        width = np.diff(self.mm, prepend=0.0)
        self.near: Floats = self.mm - np.maximum(0.0, hand.free_share * width - hand.behind_fret_mm)
        """[F]: the place nearest to the nut where a finger presses a fret without effort; the other end is its wire"""
        self._mm: list[float] = self.mm.tolist()
        self._near: list[float] = self.near.tolist()

    def fret_of(self, finger: int, position: int) -> int:
        """The fret a finger has by nature at a position."""
        shared = finger == 4 and position < self.three_below
        return position + finger - (2 if shared else 1)

    def offset_mm(self, finger: int, position: int) -> float:
        """The relaxed place of a finger from the index at a position."""
        if finger in (1, THUMB):
            return 0.0
        at = min(self.fret_of(finger, position), len(self._mm) - 1)
        stance: float = self._mm[at] - self._mm[position]
        return min(max(stance, self.hand.closed_mm[finger - 1]), self.hand.offsets_mm[finger - 1])

    def deviation_mm(self, finger: int, fret: int, position: int) -> float:
        """How far a finger is from its relaxed place, in mm, 0 where it presses at ease; over 0 is away from the index
        (or behind it, for the index itself), under 0 is crowded."""
        place = self._mm[position] + self.offset_mm(finger, position)
        if place < self._near[fret]:
            deviation: float = self._near[fret] - place
        elif place > self._mm[fret]:
            deviation = self._mm[fret] - place
        else:
            deviation = 0.0
        return abs(deviation) if finger in (1, THUMB) else deviation

    @cached_property
    def past_mm(self) -> Floats:
        """[5, F, P]: `deviation_mm` of every finger on every fret at every position."""
        frets = range(self.instrument.highest_fret + 1)
        return np.array([
            [[self.deviation_mm(finger, fret, position) for position in frets] for fret in frets]
            for finger in (1, 2, 3, 4, THUMB)
        ])  # fmt: skip

    @cached_property
    def own_fret(self) -> Ints:
        """[5, P]: `fret_of` every finger at every position; the thumb's is the fret it is on, wherever that is."""
        positions = range(self.instrument.highest_fret + 1)
        return np.array([[self.fret_of(finger, p) for p in positions] for finger in (1, 2, 3, 4, THUMB)])

    @cached_property
    def doubled(self) -> NDArray[np.bool_]:
        """[S + 1, P]: whether the pitch of an open string lies under a hand up the neck, on another string, a finger a fret."""
        frets = self.instrument.highest_fret + 1
        found = np.zeros((self.instrument.strings + 1, frets), dtype=bool)
        for string in range(1, self.instrument.strings + 1):
            for _, fret in self.instrument.places_of(self.instrument.open_pitch(string)):
                found[string, max(_UP_THE_NECK, fret - UNDER_HAND) : fret + 1] = True
        return found

    @cached_property
    def apart_mm(self) -> Floats:
        """[F, F]: how far two fingers on two frets are apart at least."""
        frets = np.arange(self.instrument.highest_fret + 1)
        higher, lower = np.maximum(frets[:, None], frets[None, :]), np.minimum(frets[:, None], frets[None, :])
        return np.asarray(np.maximum(self.near[higher] - self.mm[lower], 0.0))


@lru_cache(maxsize=8)
def hand_geometry(instrument: Instrument, hand: FrettingHand, bass_hand: str = "each") -> HandGeometry:
    """The sums of a hand on an instrument, kept; `bass_hand` is the habit of that name."""
    three = instrument.bass and bass_hand == "124"
    return HandGeometry(instrument, hand, hand.three_frets_below if three else 0.0)


def geometry_of(instrument: Instrument, player: Player) -> HandGeometry:
    """The sums of a player's hand on an instrument."""
    return hand_geometry(instrument, player.fretting, player.habits.bass_hand)
