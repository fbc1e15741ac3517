"""What taps, tremolo and the palm ask of the picking hand at each event, however that is struck."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import inf
from typing import Any

from dromic.core.hands.articulation_options import EventOptions
from dromic.core.music.phrase import Phrase
from dromic.core.prices.facts import EVENT, PICKING
from dromic.core.prices.row import LOAD, PriceList, numbers_of
from dromic.core.setup.player import Player
from dromic.core.values.vocabulary import TAP, UNSTRUCK


@dataclass(frozen=True, slots=True)
class _Asked:
    """The facts of one event, times in ms."""

    numbers: Mapping[str, Any] = field(compare=False)
    gap_ms: float
    since_tap_ms: float = inf
    palm_moved: bool = False
    tremolo_ms: float = inf


def load_floors(
    phrase: Phrase, player: Player, prices: PriceList, ms: Sequence[float], offers: Sequence[EventOptions]
) -> list[float]:
    """The load that each event has whatever else the picking hand does: none where no tap, no tremolo and no change of the palm comes
    before it; `ms` are the times of the events."""
    loads, numbers = [0.0] * len(offers), numbers_of(player, PICKING)
    known: dict[_Asked, float] = {}
    last_tap: int | None = None
    for i, offer in enumerate(offers):
        if i and not set(offer.attacks) <= set(UNSTRUCK):
            before, event = phrase.events[i - 1], phrase.events[i]
            beams = max(n.tremolo for n in before.notes)
            palm_moved = event.marked("palm-mute") != before.marked("palm-mute")
            if not beams and not palm_moved and last_tap is None:
                continue
            asked = _Asked(
                numbers, ms[i] - ms[i - 1],
                since_tap_ms=ms[i] - ms[last_tap] if last_tap is not None else inf,
                palm_moved=palm_moved,
                tremolo_ms=60000.0 / phrase.tempo_in(before.bar) / 2**beams if beams else inf,
            )  # fmt: skip
            if asked not in known:
                known[asked] = float(prices.most(EVENT, LOAD, asked))
            loads[i] = known[asked]
        if TAP in offer.attacks:
            last_tap = i
    return loads
