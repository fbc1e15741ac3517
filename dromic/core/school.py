"""Schools: named ways of choosing strokes, as permissions for one and the same search."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.checks import check_choice

# kinds of moves of the picking hand, in the order of their codes
KINDS = (
    "same-string", "repeat", "carry-through", "outside", "inside", "skip-outside", "skip-inside", "skip-through",
    "back", "pluck", "legato", "rest",
)  # fmt: skip
KIND_CODE = {kind: code for code, kind in enumerate(KINDS)}
PLACE_RULES = ("any", "pulse", "downs")
STARTS = ("down", "up", "either", "place")


@dataclass(frozen=True, slots=True)
class School:
    """What a school allows. `kinds` are the moves it permits between picked notes; `places` says whether the place in
    the beat fixes the stroke; `start` is the first stroke when nobody chose one; `rests` whether carried notes rest."""

    name: str
    label: str
    text: str
    kinds: frozenset[str]
    kinds_without_skip_through: frozenset[str]
    places: str
    start: str
    rests: bool

    def __post_init__(self) -> None:
        check_choice("places", self.places, PLACE_RULES)
        check_choice("start", self.start, STARTS)
        for kind in self.kinds | self.kinds_without_skip_through:
            check_choice("kind of move", kind, KINDS)

    def allowed(self, skip_through: bool) -> frozenset[str]:
        return self.kinds if skip_through else self.kinds_without_skip_through
