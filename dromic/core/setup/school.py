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
BEAT_PLACES = ("beat", "grid", "even", "odd")
"""places in the bar that a school can ask for strokes at: on the beat; on the grid of its unit; and its even and odd places there, the
beat divided as far as its notes divide it"""
STARTS = ("down", "up", "either", "place")
PLUCKS = ("stated", "hybrid", "fingers", "free")
LEGATO = ("never", "turnarounds", "anywhere")
MOST_PATTERN = 64


@dataclass(frozen=True, slots=True)
class School:
    """What a school allows."""

    name: str
    label: str
    text: str
    kinds: frozenset[str]
    """moves of the pick it permits between picked notes"""
    kinds_without_skip_through: frozenset[str]
    """the same for a player who does not carry a stroke on over a skipped string"""
    start: str
    """first stroke where nobody chose one; `place`: that of its place in the bar or the pattern"""
    rests: bool
    """whether carried notes rest on the next string"""
    strokes: tuple[tuple[str, str], ...] = ()
    """(place in the bar, stroke): the first place that holds decides; elsewhere the search chooses"""
    unit: str = ""
    """unit of the places where nobody chose one; empty: what the phrase suggests"""
    new_string: str = ""
    """stroke that every new string starts with; empty: either"""
    one_motion: bool = False
    """forbids to enter a chain of carry-throughs on its second string"""
    plucks: str = "stated"
    """notes that bare fingers take"""
    legato: str = "never"
    """notes that may go unpicked"""
    one_stroke: bool = False
    """allows one stroke at most per stay on a string"""
    turns: bool = False
    """whether the school lives by strokes on the beat, so that strokes turned around are told"""
    beats: float = 0.0
    """share of the full price that a stroke against its place in the beat costs where the school leaves it open"""
    pattern: str = ""
    """strokes counted over struck notes, such as ddu; empty: none"""
    faster: str = ""
    """school used instead above the tempo from which the player alternates; empty: none"""

    def __post_init__(self) -> None:
        for place, stroke in self.strokes:
            check_choice("place of a stroke", place, BEAT_PLACES)
            check_choice("stroke", stroke, ("down", "up"))
        check_choice("start", self.start, STARTS)
        check_choice("new_string", self.new_string, ("", "down", "up"))
        check_choice("plucks", self.plucks, PLUCKS)
        check_choice("legato", self.legato, LEGATO)
        for kind in self.kinds | self.kinds_without_skip_through:
            check_choice("kind of move", kind, KINDS)

    @property
    def strokes_open(self) -> bool:
        """Whether the search chooses every stroke."""
        return not self.strokes and not self.pattern

    @property
    def swings(self) -> bool:
        """Whether every place in the bar has its stroke, so that the hand swings with the beat."""
        return {"even", "odd"} <= {place for place, _ in self.strokes}

    def allowed(self, skip_through: bool) -> frozenset[str]:
        """The kinds of moves it allows, by whether it may carry on over a skipped string."""
        return self.kinds if skip_through else self.kinds_without_skip_through


def pattern_signs(pattern: str) -> tuple[int, ...]:
    """A stroke pattern such as ddu as +1 for every d and -1 for every u; DromicError for anything else."""
    if not pattern or len(pattern) > MOST_PATTERN or set(pattern.lower()) - {"d", "u"}:
        raise DromicError(f"the pattern {pattern!r} is not one; write 1 to {MOST_PATTERN} letters d and u, such as ddu")
    return tuple(1 if letter == "d" else -1 for letter in pattern.lower())
