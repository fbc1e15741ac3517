"""What differs between two similar passages, bar against bar, note against note, in words; and which notes are the same
in both."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from dromic.core.editing.edit import Span, cut
from dromic.core.music.phrase import Event, Note, Phrase
from dromic.core.setup.choices import Choices
from dromic.core.values.pitch import note_name

_FACETS = (
    ("attack", "sounded"), ("stroke", "stroke"), ("finger", "finger"), ("duration", "length"), ("marks", "marks"),
    ("bend", "bend"),
)  # fmt: skip


def differences(one: Phrase, other: Phrase) -> list[str]:
    """Every difference in the order of time, a sentence each; none where they are the same."""
    found = []
    if one.tempo != other.tempo:
        found.append(f"tempo: {one.tempo:g}, there {other.tempo:g}")
    if len(one.bars) != len(other.bars):
        found.append(f"bars: {len(one.bars)}, there {len(other.bars)}")
    for index in range(min(len(one.bars), len(other.bars))):
        a, b = one.bars[index], other.bars[index]
        if a.metre != b.metre or a.length != b.length:
            found.append(f"bar {a.number}: {a.metre} of {a.length} quarters, there {b.metre} of {b.length}")
        if a.pace != b.pace:
            found.append(f"bar {a.number}: tempo {one.tempo_in(index):.4g}, there {other.tempo_in(index):.4g}")
        ours, theirs = _bar(one, index), _bar(other, index)
        for at in sorted(set(ours) | set(theirs)):
            found += [
                f"bar {a.number}, {_beat(one, index, at)}: {words}" for words in _moment(ours.get(at), theirs.get(at))
            ]
    return found


def parts_differ(phrase: Phrase, first: tuple[int, int], second: tuple[int, int]) -> list[str]:
    """The differences between two runs of bars of one phrase, by index, both ends included."""
    one, other = (cut(phrase, Span(phrase.bars[a].start, phrase.bars[b].end)) for a, b in (first, second))
    return differences(one, other)


def _bar(phrase: Phrase, index: int) -> dict[Fraction, Event]:
    return {e.onset - phrase.bars[index].start: e for e in phrase.events if e.bar == index}


def _beat(phrase: Phrase, index: int, at: Fraction) -> str:
    bar = phrase.bars[index]
    beat, start, _ = bar.metre.beat_at(at + bar.lead)
    rest = at + bar.lead - start
    return f"beat {beat + 1}" + (f" + {rest}" if rest else "")


def _moment(ours: Event | None, theirs: Event | None) -> list[str]:
    if ours is None or theirs is None:
        told = ours or theirs
        assert told is not None
        names = " ".join(_name(n) for n in told.notes)
        return [f"{names}, there nothing" if theirs is None else f"nothing, there {names}"]
    a, b = [_name(n) for n in ours.notes], [_name(n) for n in theirs.notes]
    if a != b:
        return [f"{' '.join(a)}, there {' '.join(b)}"]
    found = []
    for x, y in zip(ours.notes, theirs.notes, strict=True):
        for field, words in _FACETS:
            if getattr(x, field) != getattr(y, field):
                found.append(f"{_name(x)} {words} {_said(getattr(x, field))}, there {_said(getattr(y, field))}")
    return found


def _name(note: Note) -> str:
    if note.string is not None and note.fret is not None:
        return f"{note.string}.{note.fret}"
    return note_name(note.pitch)


def _said(value: object) -> str:
    if isinstance(value, frozenset):
        return " ".join(sorted(value)) or "none"
    return "not said" if value is None else str(value)


def followed(choices: Choices, before: Phrase, after: Phrase) -> Choices:
    """Choices for an edited phrase: the pins of notes that are still there, wherever they stand now."""
    if (not choices.pins and not choices.overrides) or before.events == after.events:
        return choices
    return choices.renumbered(same_events(before, after))


def same_events(before: Phrase, after: Phrase) -> dict[int, int]:
    """Where the events of a phrase stand in an edited one. They count as the same from both ends of the phrase inwards,
    as far as their pitches agree."""
    old, new = ([tuple(sorted(n.pitch for n in e.notes)) for e in phrase.events] for phrase in (before, after))
    ahead = _agreeing(old, new)
    behind = min(_agreeing(old[::-1], new[::-1]), len(old) - ahead, len(new) - ahead)
    places = {n: n for n in range(ahead)}
    places |= {len(old) - n: len(new) - n for n in range(1, behind + 1)}
    if len(old) == len(new):
        places |= {n: n for n, (a, b) in enumerate(zip(old, new, strict=True)) if a == b}
    return places


def _agreeing(one: Sequence[object], other: Sequence[object]) -> int:
    """How many items two lists have alike from their start on."""
    return next((n for n, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))
