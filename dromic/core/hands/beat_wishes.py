"""What a stroke against its place in the beat costs, in the schools that leave it open: the full price where there is time.

There is time as far as a move does not come near the limit, which is the ceiling of the plan of least work less a small share, or
some times the tempo asked for where the ceiling lies higher. At the limit the price is nothing, and a move past it costs instead,
so that going with the beat takes no more from the ceiling. Where a habit names the stroke of a note, the beat does not. That downs
belong on the beat and ups off it is common practice, no published source; the prices are estimates.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dromic.core.hands.articulation_options import EventOptions, places_taken
from dromic.core.plan.request import Request
from dromic.core.timing.beat_positions import places
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.values.arrays import Floats, Ints


class BeatWishes:
    """The stroke each event would have by its place in the beat, and what the other costs. `limit` is the ceiling of the plan of
    least work in quarters a minute; without one, or in a school that asks nothing of the beat, all is free."""

    def __init__(
        self, request: Request, unit: str, offers: Sequence[EventOptions], rhythm: Rhythm, limit: float | None
    ) -> None:
        judging, phrase, tempo = request.player.judging, request.phrase, rhythm.phrase.tempo
        self.full, self.over = judging.beat_price * request.school.beats, judging.beat_over_price
        self.wished: tuple[int, ...] = (0,) * len(phrase.events)
        self.limit_load = np.inf
        if limit is None or not self.full:
            return
        by_place, taken = places(phrase, unit), places_taken(phrase, offers)
        habits = request.player.habits
        self.wished = tuple(
            0
            if phrase.events[at].grace
            or (offer.accent and habits.accents_down)
            or (offer.leads and habits.first_attack != "either")
            else -1 if by_place[at] % 2 else 1
            for at, offer in zip(taken, offers, strict=True)
        )  # fmt: skip
        self.limit_load = tempo / min(limit * (1 - judging.beat_share), judging.beat_room * rhythm.asked.phrase.tempo)

    def first(self, signs: Ints) -> Floats:
        """What strokes cost at the first event, before which there is all the time, an array like the signs."""
        return np.where(signs == -self.wished[0], self.full, 0.0) if self.wished[0] else np.zeros(signs.shape)

    @property
    def limited(self) -> bool:
        """Whether there is a limit at all."""
        return self.limit_load < np.inf

    def past(self, load: Floats) -> Floats:
        """What moves of these loads cost for lying past the limit, an array like them."""
        return np.asarray(self.over * np.maximum(0.0, load / self.limit_load - 1.0))

    def price(self, i: int, signs: Ints, load: Floats) -> Floats:
        """What strokes cost for where they lie in the beat, at an event that moves of these loads lead to; `load` is [..., G, R],
        `signs` [G, R]."""
        room = np.maximum(0.0, 1.0 - load / self.limit_load)
        return np.asarray(np.where(signs == -self.wished[i], self.full * room, 0.0))
