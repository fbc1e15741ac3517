"""Why a stroke goes against its place in the beat: what the other one would ask of the picking hand."""

from __future__ import annotations

from collections.abc import Iterator

from dromic.core.plan.plan import Against
from dromic.core.search.decoded_path import Path
from dromic.core.setup.school import KINDS
from dromic.core.values.vocabulary import PICK, PINCH


def strokes_against(path: Path) -> tuple[Against | None, ...]:
    """For every event that is struck against its place in the beat that of the two moves the other stroke would bring which the
    school leaves out, or the dearer one; None for the others. Of schools that ask nothing of the beat none is told."""
    wished = path.layers.builder.beats.wished
    return tuple(
        _against(path, i) if sound.picked and wished[i] == -sound.sign else None for i, sound in enumerate(path.sounds)
    )


def _against(path: Path, i: int) -> Against:
    part, group, way = path.place(i)
    places = part.places
    same = (places.sign[group] != places.sign[group, way]) & (places.lean[group] == places.lean[group, way])
    others = same.nonzero()[0]
    if not others.size:
        return Against("", 0.0, i)
    allowed = path.layers.request.school.allowed(path.layers.request.skip_through)
    moves = list(_moves(path, i, int(others[0])))
    return max(moves, key=lambda m: (m.kind not in allowed, m.load), default=Against("rest", 0.0, i))


def _moves(path: Path, i: int, other: int) -> Iterator[Against]:
    """The moves to event i struck the other way and from it to the event picked next."""
    rhythm, builder = path.layers.rhythm.asked, path.layers.builder
    following = next(
        (j for j in range(i + 1, len(path.sounds)) if path.last_picked[j] == i and path.sounds[j].picked), -1
    )
    for a, b in ((path.last_picked[i], i), (i, following)):
        if min(a, b) < 0 or rhythm.rested(a, b):
            continue
        (from_part, from_group, from_way), (part, group, way) = path.place(a), path.place(b)
        if part.attack not in (PICK, PINCH) or from_part.attack not in (PICK, PINCH):
            continue
        moves = path.layers.picks.moves(from_part.left, part.places)
        on = (from_group, other if a == i else from_way, group, other if b == i else way)
        time = float(builder.costs.times(moves, builder.parity_of(a, b))[on])
        yield Against(KINDS[int(moves.kind[on])], time / rhythm.gap_ms(a, b), b)
