"""Schools: named ways of choosing strokes, as permissions for one and the same search."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.values.checks import check_choice
from dromic.core.values.errors import DromicError

# kinds of moves of the picking hand, in the order of their codes
KINDS = (
    "same-string", "repeat", "carry-through", "outside", "inside", "skip-outside", "skip-inside", "skip-through",
    "back", "pluck", "legato", "rest",
)  # fmt: skip
KIND_CODE = {kind: code for code, kind in enumerate(KINDS)}
PLACE_RULES = ("any", "pulse", "downs", "pattern")
STARTS = ("down", "up", "either", "place")
PLUCKS = ("stated", "hybrid", "fingers", "free")
LEGATO = ("never", "turnarounds", "anywhere")
MOST_PATTERN = 64


@dataclass(frozen=True, slots=True)
class School:
    """What a school allows.

    `kinds` are the moves it permits between picked notes; `places` says what fixes the stroke beforehand; `start` is
    the first stroke when nobody chose one; `rests` whether carried notes rest on the next string. `new_string` is the
    stroke every new string must start with, if one is asked for; `one_motion` forbids to enter a chain of
    carry-throughs on its second string; `plucks` says which notes bare fingers take; `legato` which may go unpicked;
    `one_stroke` allows one stroke at most per stay on a string; `turns` says whether the school lives by strokes that
    fall on the beat, so that strokes turned around are worth telling; `beats` how much of its full price a stroke
    against its place in the beat costs where the school leaves it open.
    """

    name: str
    label: str
    text: str
    kinds: frozenset[str]
    kinds_without_skip_through: frozenset[str]
    places: str
    start: str
    rests: bool
    new_string: str = ""
    one_motion: bool = False
    plucks: str = "stated"
    legato: str = "never"
    one_stroke: bool = False
    turns: bool = False
    beats: float = 0.0
    pattern: str = ""
    faster: str = ""
    """the school of down-strokes' stand-in above the tempo from which its player alternates"""

    def __post_init__(self) -> None:
        check_choice("places", self.places, PLACE_RULES)
        check_choice("start", self.start, STARTS)
        check_choice("new_string", self.new_string, ("", "down", "up"))
        check_choice("plucks", self.plucks, PLUCKS)
        check_choice("legato", self.legato, LEGATO)
        for kind in self.kinds | self.kinds_without_skip_through:
            check_choice("kind of move", kind, KINDS)

    def allowed(self, skip_through: bool) -> frozenset[str]:
        """The kinds of moves it allows, by whether it may carry on over a skipped string."""
        return self.kinds if skip_through else self.kinds_without_skip_through


def pattern_signs(pattern: str) -> tuple[int, ...]:
    """A stroke pattern such as ddu as +1 for every d and -1 for every u; DromicError for anything else."""
    if not pattern or len(pattern) > MOST_PATTERN or set(pattern.lower()) - {"d", "u"}:
        raise DromicError(f"the pattern {pattern!r} is not one; write 1 to {MOST_PATTERN} letters d and u, such as ddu")
    return tuple(1 if letter == "d" else -1 for letter in pattern.lower())
