"""Rhythmic figures by name, told by their lengths alone in exact fractions of a quarter: a gallop is an eighth and two sixteenths, and
not a triplet. Common practice, no published source."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from dromic.core.music.phrase import Event, Phrase

_E = Fraction(1, 2)
"""Length of an eighth, quarters."""
_S = Fraction(1, 4)
"""Length of a sixteenth, quarters."""
_T = Fraction(1, 3)
"""Length of an eighth of a triplet, quarters."""
FIGURES: tuple[tuple[str, tuple[Fraction, ...], str], ...] = (
    ("gallop", (_E, _S, _S), "one long, two short, 8-16-16; a triplet is three alike in the same time"),
    ("reverse gallop", (_S, _S, _E), "two short, one long, 16-16-8; a gallop has the long one first"),
    (
        "triplet",
        (_T, _T, _T),
        "three alike in one beat; a gallop is 8-16-16, its first as long as the other two together",
    ),
    ("sixteenth triplet", (_T / 2, _T / 2, _T / 2), "three alike in half a beat, twice as fast as a triplet"),
    ("nine to the beat", (Fraction(1, 9),) * 9, "nine alike in one beat: a triplet in each third of it"),
    ("nine over two beats", (Fraction(2, 9),) * 9, "nine alike in two beats: each third of the two holds three"),
    ("long-short couplet", (Fraction(3, 4), _S), "dotted, 3 to 1; in three it is 2 to 1, which is softer"),
    ("long-short couplet in three", (2 * _T, _T), "2 to 1, as swung eighths; a dotted couplet is 3 to 1"),
    ("short-long couplet", (_S, Fraction(3, 4)), "1 to 3, the short one on the beat"),
)
"""name, lengths in quarters at its usual speed, and how it differs from its neighbours"""
FIGURE_WORDS = {name: words for name, _, words in FIGURES}
_SPEEDS = {Fraction(1): "", Fraction(1, 2): "half as fast", Fraction(2): "twice as fast"}
_ANY_SPEED = {
    "gallop",
    "reverse gallop",
    "triplet",
    "long-short couplet",
    "long-short couplet in three",
    "short-long couplet",
}
"""figures that are themselves at other speeds too; the others have names of their own"""
_OFF_THE_BEAT = {"gallop", "reverse gallop", "triplet"}


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure by name, from one event on, so many times running; how fast against its usual speed, and whether it begins off the
    beat."""

    name: str
    event: int
    times: int
    speed: Fraction = Fraction(1)
    off_the_beat: bool = False

    @property
    def words(self) -> str:
        """As it is said."""
        said = [
            self.name,
            *([_SPEEDS[self.speed]] if self.speed != 1 else []),
            *(["off the beat"] if self.off_the_beat else []),
        ]
        return ", ".join(said)


_KINDS: tuple[tuple[str, tuple[Fraction, ...], Fraction], ...] = tuple(
    (name, tuple(length / speed for length in lengths), speed)
    for speed in _SPEEDS for name, lengths, _ in FIGURES if speed == 1 or name in _ANY_SPEED
    if not (name == "triplet" and speed == 2)  # it has a name of its own
)  # fmt: skip


def figures(phrase: Phrase, bar: int | None = None) -> tuple[Figure, ...]:
    """The figures of a phrase in order, runs of the same joined: those on the beat first, at their usual speed before others, then
    in what is left over those off the beat. Of one `bar` only, by index, if one is given: those that lie in it whole, their events
    counted from the bar's first."""
    events = [e for e in phrase.events if bar is None or e.bar == bar]
    if not events:
        return ()
    onsets = [e.onset for e in events]
    after = next((e.onset for e in phrase.events if bar is not None and e.onset > onsets[-1]), events[-1].end)
    gaps = [b - a for a, b in zip(onsets, [*onsets[1:], after], strict=True)]
    taken = [False] * len(gaps)
    found: list[Figure] = []
    for off in (False, True):
        i = 0
        while i < len(gaps):
            kind = next((k for k in _KINDS if _fits(phrase, events, gaps, taken, i, k, off)), None)
            if kind is None:
                i += 1
                continue
            name, lengths, speed = kind
            found.append(Figure(name, i, 1, speed, off))
            taken[i : i + len(lengths)] = [True] * len(lengths)
            i += len(lengths)
    return tuple(_joined(sorted(found, key=lambda f: f.event)))


def _fits(
    phrase: Phrase, events: Sequence[Event], gaps: Sequence[Fraction], taken: Sequence[bool], at: int,
    kind: tuple[str, tuple[Fraction, ...], Fraction], off: bool,
) -> bool:  # fmt: skip
    """Whether a figure stands at an event, none of its notes in another one."""
    name, lengths, speed = kind
    end = at + len(lengths)
    if tuple(gaps[at:end]) != lengths or any(taken[at:end]):
        return False
    if off:
        return speed == 1 and name in _OFF_THE_BEAT
    measure = phrase.bars[events[at].bar]
    offset = measure.offset_of(events[at].onset)
    since = offset - measure.metre.beat_at(offset)[1]
    return since == 0 or (speed > 1 and since % sum(lengths) == 0)


def _joined(found: Sequence[Figure]) -> list[Figure]:
    """Figures that follow on each other without a gap count as one run."""
    lengths = {name: len(of) for name, of, _ in FIGURES}
    runs: list[Figure] = []
    for one in found:
        last = runs[-1] if runs else None
        same = last is not None and (last.name, last.speed, last.off_the_beat) == (
            one.name,
            one.speed,
            one.off_the_beat,
        )
        if last is not None and same and last.event + last.times * lengths[one.name] == one.event:
            runs[-1] = Figure(one.name, last.event, last.times + 1, one.speed, one.off_the_beat)
        else:
            runs.append(one)
    return runs
