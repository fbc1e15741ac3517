"""The stroke each event would have by its place in the beat, in the schools that leave it open, and up to which load that counts.

Going against it has its full price where there is time, and nothing at the limit: the ceiling of the plan of least work less a small
share, or some times the tempo asked for where the ceiling lies higher. A move past the limit costs instead, so that going with the
beat takes no more from the ceiling. Where a habit names the stroke of a note, the beat does not. That downs belong on the beat and
ups off it is common practice, no published source; the prices are estimates.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf

from dromic.core.hands.articulation_options import EventOptions, places_taken
from dromic.core.plan.request import Request
from dromic.core.timing.beat_positions import places
from dromic.core.timing.pick_timing import Rhythm


@dataclass(frozen=True, slots=True)
class BeatWishes:
    """The stroke that every event wants, 1 down, -1 up, 0 for none, and the load at which going against it is free."""

    wished: tuple[int, ...]
    limit_load: float = inf

    @property
    def limited(self) -> bool:
        """Whether there is a limit at all."""
        return self.limit_load < inf


def beat_wishes(
    request: Request, unit: str, offers: Sequence[EventOptions], rhythm: Rhythm, limit: float | None
) -> BeatWishes:
    """What the beat wants. `limit` is the ceiling of the plan of least work in quarters a minute; without one, or in a school that
    asks nothing of the beat, all is free."""
    judging, phrase, habits = request.player.judging, request.phrase, request.player.habits
    if limit is None or not judging.beat_price * request.school.beats:
        return BeatWishes((0,) * len(phrase.events))
    by_place, taken = places(phrase, unit), places_taken(phrase, offers)
    wished = tuple(
        0
        if phrase.events[at].grace
        or (offer.accent and habits.accents_down)
        or (offer.leads and habits.first_attack != "either")
        else -1 if by_place[at] % 2 else 1
        for at, offer in zip(taken, offers, strict=True)
    )  # fmt: skip
    most = min(limit * (1 - judging.beat_share), judging.beat_room * rhythm.asked.phrase.tempo)
    return BeatWishes(wished, rhythm.phrase.tempo / most)
