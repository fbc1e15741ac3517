"""A phrase cut into what can be written down: notes and rests that lie in one bar each, with signs for their lengths.

Grace notes give the time they stole back to what was before them, and stand before the note they lead to.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction

from dromic.core.music.graces import graces_before, written_onset
from dromic.core.music.phrase import Event, Note, Phrase
from dromic.core.values.note_lengths import BASES, IN_TIME_OF, Sign, signs_of


@dataclass(slots=True)
class Piece:
    """A stretch of one bar from `at`: an event's notes or silence, and whether it is tied to what is around it."""

    at: Fraction
    sign: Sign
    event: int | None
    notes: tuple[Note, ...] = ()
    tied_from: bool = False
    tied_to: bool = False
    graces: list[int] = field(default_factory=list)
    tuplet_sign: str = ""
    """start or stop where a bracket over a tuplet begins or ends"""


def pieces_by_bar(phrase: Phrase) -> dict[int, list[Piece]]:
    """All time of a phrase in pieces, by the index of their bar."""
    found: dict[int, list[Piece]] = {}
    for piece, bar in _pieces(phrase):
        found.setdefault(bar, []).append(piece)
    for pieces in found.values():
        _sign_tuplets(pieces)
    return found


def natural_length(phrase: Phrase, index: int) -> Fraction:
    """How long an event is when it lasts up to the next one at most."""
    event = phrase.events[index]
    following = phrase.events[index + 1].onset if index + 1 < len(phrase.events) else phrase.end
    return min(following - event.onset, max(n.duration for n in event.notes))


def _pieces(phrase: Phrase) -> Iterator[tuple[Piece, int]]:
    leading = {main: list(graces) for main, graces in graces_before(phrase).items()}
    graces = {grace for group in leading.values() for grace in group}
    full = [i for i in range(len(phrase.events)) if i not in graces]
    now = Fraction(0)
    for n, i in enumerate(full):
        event = phrase.events[i]
        starts = written_onset(phrase, i)
        yield from _silence(phrase, now, starts)
        following = phrase.events[full[n + 1]].onset if n + 1 < len(full) else phrase.end
        lead = leading.get(full[n + 1], []) if n + 1 < len(full) else []
        end = event.onset + min(following - event.onset, max(x.duration for x in event.notes))
        if lead and end == phrase.events[lead[0]].onset:
            end = following
        sounded = list(_sounded(phrase, i, event, starts, end))
        if sounded:
            sounded[0][0].graces = leading.get(i, [])
        yield from sounded
        now = max(starts, end)
    yield from _silence(phrase, now, phrase.end)


def _sounded(phrase: Phrase, index: int, event: Event, starts: Fraction, end: Fraction) -> Iterator[tuple[Piece, int]]:
    parts = list(_split(phrase, starts, end))
    for n, (at, sign, bar) in enumerate(parts):
        yield Piece(at, sign, index, event.notes, tied_from=n > 0, tied_to=n + 1 < len(parts)), bar


def _silence(phrase: Phrase, start: Fraction, end: Fraction) -> Iterator[tuple[Piece, int]]:
    for at, sign, bar in _split(phrase, start, end):
        yield Piece(at, sign, None), bar


def _split(phrase: Phrase, start: Fraction, end: Fraction) -> Iterator[tuple[Fraction, Sign, int]]:
    """Signs for a stretch of time, none over a bar line."""
    while start < end:
        bar = phrase.bar_at(start)
        upto = min(end, phrase.bars[bar].end) if bar + 1 < len(phrase.bars) else end
        for sign in signs_of(upto - start):
            yield start, sign, bar
            start += sign.length
        start = upto


def _sign_tuplets(pieces: list[Piece]) -> None:
    """Brackets over tuplets: from the first of a run until it fills a whole number of plain notes."""
    run: list[Piece] = []
    for piece in [*pieces, Piece(Fraction(0), Sign(Fraction(0)), None)]:
        if run and piece.sign.tuplet != run[0].sign.tuplet:
            run = []
        if not piece.sign.tuplet:
            continue
        run.append(piece)
        unit = min((BASES[p.sign.base] for p in run if p.sign.base), default=Fraction(1))
        whole = sum((p.sign.length for p in run), Fraction(0)) / (unit * IN_TIME_OF[piece.sign.tuplet])
        if whole.denominator == 1 and len(run) > 1:
            run[0].tuplet_sign, run[-1].tuplet_sign = "start", "stop"
            run = []
