"""Where the fingers of the fretting hand lie at ease, what a fret asks of them, and how far neighbours spread.

The stance is a finger a fret, opened by the width of the frets as far as the hand opens at ease and closed as far as fingers
get beside each other. A finger presses anywhere in its fret: free over a share of its width behind the wire, so that what
is left over is a reach. Fingers are numbered 1 to 4, the thumb 5; lengths are mm along the neck from the nut.
"""

from __future__ import annotations

from functools import cached_property, lru_cache

import numpy as np

from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import FrettingHand, Player
from dromic.core.values.arrays import Floats

THUMB = 5
"""the number of the thumb among the fretting fingers"""
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
    def pair_rest_mm(self) -> Floats:
        """[6, 6]: how far two fingers lie apart at ease at most, by their numbers; endless where there is no pair."""
        found = np.full((6, 6), np.inf)
        for low in range(1, 5):
            for high in range(low + 1, 5):
                found[low, high] = found[high, low] = sum(self.hand.spread_mm[low - 1 : high - 1])
        return found

    @cached_property
    def pair_price(self) -> Floats:
        """[6, 6]: the price of a spread past rest by the stretch unit: neighbours give way like springs in a row."""
        found = np.zeros((6, 6))
        for low in range(1, 5):
            for high in range(low + 1, 5):
                soft = sum(1.0 / max(p, 1e-6) for p in self.hand.spread_prices[low - 1 : high - 1])
                found[low, high] = found[high, low] = 1.0 / soft
        return found

    @cached_property
    def spread_prices(self) -> Floats:
        """[6, F, 6, F]: what it costs a finger on a fret and another on another to be down at once, 0 where there is no
        pair."""
        frets = np.arange(len(self.mm))
        higher, lower = np.maximum(frets[:, None], frets[None, :]), np.minimum(frets[:, None], frets[None, :])
        apart = np.maximum(self.near[higher] - self.mm[lower], 0.0)
        excess = np.maximum(apart[None, :, None, :] - self.pair_rest_mm[:, None, :, None], 0.0)
        return np.asarray(self.pair_price[:, None, :, None] * (excess / self.hand.stretch_unit_mm) ** 2)


@lru_cache(maxsize=8)
def hand_geometry(instrument: Instrument, hand: FrettingHand, bass_hand: str = "each") -> HandGeometry:
    """The sums of a hand on an instrument, kept; `bass_hand` is the habit of that name."""
    three = instrument.bass and bass_hand == "124"
    return HandGeometry(instrument, hand, hand.three_frets_below if three else 0.0)


def geometry_of(instrument: Instrument, player: Player) -> HandGeometry:
    """The sums of a player's hand on an instrument."""
    return hand_geometry(instrument, player.fretting, player.habits.bass_hand)
