"""Notes as a file has them, on their way to the events of a phrase: ties joined, grace notes given time, chords gathered, tempo marks
laid on bars."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass, replace
from fractions import Fraction

from dromic import presets
from dromic.core.music.phrase import Bar, Event, Note


@dataclass(frozen=True, slots=True)
class NoteMarks:
    """What a file states of one note beside its pitch and time."""

    string: int | None = None
    fret: int | None = None
    finger: str | None = None
    attack: str | None = None
    stroke: str | None = None
    marks: frozenset[str] = frozenset()
    bend: float = 0.0
    tremolo: int = 0


@dataclass(slots=True)
class HeardNote:
    """One sounding note on its way to an event, times from the start of the part."""

    onset: Fraction
    duration: Fraction
    bar: int
    pitch: int
    marks: NoteMarks
    tied: bool
    grace: bool = False


def with_graces(heard: list[HeardNote], bars: tuple[Bar, ...], notices: list[str]) -> list[HeardNote]:
    """Grace notes given the time just before the note they lead to, stolen from what sounds before it; at the very start they begin
    the phrase, and their note comes later by so much."""
    full = [n for n in heard if not n.grace]
    starts = sorted({n.onset for n in full})
    leading: dict[Fraction, list[HeardNote]] = {}
    for note in heard:
        if note.grace:
            leading.setdefault(note.onset, []).append(note)
    ending = sorted(full, key=lambda n: n.onset + n.duration)
    ends = [n.onset + n.duration for n in ending]
    bar_starts = [b.start for b in bars]
    usual = Fraction(presets.data("limits.toml")["grace_quarters"])
    for onset, graces in leading.items():
        before = starts[bisect_left(starts, onset) - 1] if bisect_left(starts, onset) else Fraction(0)
        led = [n for n in full if n.onset == onset]
        room = onset - before if onset else min((n.duration for n in led), default=Fraction(0))
        each = min(usual, room / (2 * len(graces)))
        if not each:
            notices.append("grace notes that lead to no note at the very start are left out")
            continue
        first = onset - each * len(graces) if onset else onset
        for note in led if not onset else ():
            note.onset, note.duration = each * len(graces), note.duration - each * len(graces)
        for note in ending[bisect_right(ends, first) : bisect_right(ends, onset)]:
            if note.onset < first:
                note.duration = first - note.onset
        for n, note in enumerate(graces):
            note.onset, note.duration = first + n * each, each
            note.bar = bisect_right(bar_starts, note.onset) - 1
            full.append(note)
    return full


def joined(heard: list[HeardNote]) -> list[HeardNote]:
    """Tied notes lengthen the one they continue; a pitch written twice at once counts once."""
    kept: list[HeardNote] = []
    at: dict[Fraction, list[HeardNote]] = {}
    ending: dict[tuple[Fraction, int], HeardNote] = {}
    for note in sorted(heard, key=lambda n: n.onset):
        before = ending.pop((note.onset, note.pitch), None) if note.tied else None
        if before is not None:
            before.duration += note.duration
            ending[(before.onset + before.duration, note.pitch)] = before
            continue
        group = at.setdefault(note.onset, [])
        if note.grace:
            kept.append(note)
        elif not any(n.pitch == note.pitch and n.marks.string == note.marks.string for n in group):
            group.append(note)
            kept.append(note)
            ending[(note.onset + note.duration, note.pitch)] = note
    return kept


def gathered(heard: list[HeardNote]) -> tuple[Event, ...]:
    """Notes that start together become one event."""
    at: dict[Fraction, list[HeardNote]] = {}
    for note in sorted(heard, key=lambda n: n.onset):
        at.setdefault(note.onset, []).append(note)
    events = []
    for onset, group in sorted(at.items()):
        notes = tuple(
            Note(
                n.pitch,
                n.duration,
                n.marks.string,
                n.marks.fret,
                n.marks.finger,
                n.marks.attack,
                n.marks.stroke,
                n.marks.marks | ({"grace"} if n.grace else frozenset()),
                n.marks.bend,
                n.marks.tremolo,
            )
            for n in sorted(group, key=lambda n: n.pitch)
            if 0 <= n.pitch <= 127
        )
        if notes:
            events.append(Event(onset, notes, group[0].bar))
    return tuple(events)


def paced(bars: tuple[Bar, ...], tempos: list[tuple[int, float]], notices: list[str]) -> tuple[Bar, ...]:
    """Bars with their tempo as a share of the first one stated."""
    if len({tempo for _, tempo in tempos}) < 2:
        return bars
    first = now = tempos[0][1]
    at = dict(tempos)
    made = []
    for index, bar in enumerate(bars):
        now = at.get(index, now)
        made.append(replace(bar, pace=round(now / first, 6)))
    low, high = min(t for _, t in tempos), max(t for _, t in tempos)
    notices.append(f"its tempo changes, from {low:.4g} to {high:.4g} a minute; ceilings go by {first:g}")
    return tuple(made)
