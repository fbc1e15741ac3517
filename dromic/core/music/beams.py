"""Which short notes of a bar hang together under beams: those of one beat with no rest between; and where stems go.

Common practice (any primer of notation), with no source of its own.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby

from dromic.core.music.phrase import Bar
from dromic.core.music.pieces import Piece

FLAGS = {"e": 1, "s": 2, "t": 3, "z": 4}
"""of a sign's base"""


@dataclass(frozen=True, slots=True)
class Drawn:
    """A note's stem, up or down, empty for none; and what each of its beams does there, the outermost first: begin, continue,
    end, or a hook forward or backward."""

    stem: str = ""
    beams: tuple[str, ...] = ()


def drawn_of(pieces: Sequence[Piece], bar: Bar, middle: int) -> dict[int, Drawn]:
    """How the notes of a bar are drawn, by the number of their piece; `middle` is the note number of the staff's middle line."""

    def place(number: int) -> tuple[bool, int]:
        piece = pieces[number]
        beat, _, _ = bar.metre.beat_at(bar.offset_of(piece.at))
        return piece.event is not None and piece.sign.base in FLAGS, beat

    found: dict[int, Drawn] = {}
    for (short, _), numbers in groupby(range(len(pieces)), place):
        sounding = [n for n in numbers if pieces[n].event is not None]
        for together in [sounding] if short else [[n] for n in sounding]:
            flags = [FLAGS.get(pieces[n].sign.base or "", 0) for n in together]
            stem = _stem([note.pitch for n in together for note in pieces[n].notes], middle)
            beams = joined_flags(flags) if short else iter([()])
            for n, beam in zip(together, beams, strict=True):
                found[n] = Drawn(stem if pieces[n].sign.base != "w" else "", beam)
    return found


def _stem(pitches: list[int], middle: int) -> str:
    """Away from the note that lies farthest from the middle line; down for one on it."""
    farthest = max(pitches, key=lambda pitch: abs(pitch - middle), default=middle)
    return "up" if farthest < middle else "down"


def joined_flags(flags: Sequence[int]) -> Iterator[tuple[str, ...]]:
    """What each beam does at each of some notes that hang together, by how many flags they have; nothing for a lone one."""
    for i, own in enumerate(flags):
        before = flags[i - 1] if i else 0
        after = flags[i + 1] if i + 1 < len(flags) else 0
        if not before and not after:
            yield ()
            continue
        yield tuple(_beam(level <= before, level <= after, bool(before)) for level in range(1, own + 1))


def _beam(before: bool, after: bool, follows: bool) -> str:
    if before and after:
        return "continue"
    if after:
        return "begin"
    if before:
        return "end"
    return "backward hook" if follows else "forward hook"
