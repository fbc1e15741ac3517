"""Edits of a phrase's bars: insert, repeat and delete them, their metre, repeats, endings and sections."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from dromic.core.editing.edit import INSTANT, Span, copied, pasted, sounds_of, with_room, with_sounds
from dromic.core.music.phrase import Bar, Phrase, Section
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre


def _rebarred(phrase: Phrase, bars: Iterable[Bar]) -> Phrase:
    """The phrase with other bars, their starts and numbers put in order; its notes stay where they are in time."""
    found: list[Bar] = []
    start, number = Fraction(0), None
    for bar in bars:
        number = bar.number if number is None else number + 1
        found.append(replace(bar, start=start, number=number))
        start += bar.length
    made = replace(phrase, bars=tuple(found), events=())
    return with_sounds(made, sounds_of(phrase))


def inserted_bars(phrase: Phrase, index: int, count: int = 1) -> Phrase:
    """The phrase with silent bars before the bar at an index (or at the end), like the one before them."""
    like = phrase.bars[max(index - 1, 0)]
    fresh = replace(
        like, length=like.metre.length, lead=Fraction(0), repeat_start=False, repeat_times=0, endings=()
    )  # fmt: skip
    at = phrase.bars[index].start if index < len(phrase.bars) else phrase.end
    by = count * fresh.length
    sounds = [(o + by if o >= at else o, n) for o, n in sounds_of(phrase)]
    bars = [*phrase.bars[:index], *[fresh] * count, *phrase.bars[index:]]
    if index == 0:
        bars[0] = replace(bars[0], number=phrase.bars[0].number)
    sections = tuple(
        Section(s.name, s.first + count * (s.first >= index), s.last + count * (s.last >= index))
        for s in phrase.sections
    )
    made = _rebarred(replace(phrase, events=()), bars)
    return replace(with_sounds(made, sounds), sections=sections)


def deleted_bars(phrase: Phrase, first: int, last: int) -> Phrase:
    """The phrase without the bars from one index to another, both included; the only bar is emptied instead."""
    start, end = phrase.bars[first].start, phrase.bars[last].end
    sounds = [(o - (end - start) if o >= end else o, n) for o, n in sounds_of(phrase) if not start <= o < end]
    kept = [*phrase.bars[:first], *phrase.bars[last + 1 :]]
    if not kept:
        kept = [replace(phrase.bars[0], repeat_start=False, repeat_times=0, endings=())]
    elif first == 0:
        kept[0] = replace(kept[0], number=phrase.bars[0].number)
    gone = last - first + 1
    sections = []
    for section in phrase.sections:
        bars = [b for b in range(section.first, section.last + 1) if not first <= b <= last]
        if bars:
            low, high = (b - gone if b > last else b for b in (bars[0], bars[-1]))
            sections.append(Section(section.name, low, high))
    made = _rebarred(replace(phrase, events=(), sections=()), kept)
    return replace(with_sounds(made, sounds), sections=tuple(sections))


def repeated_bar(phrase: Phrase, index: int) -> Phrase:
    """The phrase with a bar played again right after itself, in place of what the next bar holds if that is silent,
    else with a bar put in."""
    bar = phrase.bars[index]
    clip = copied(phrase, Span(bar.start, bar.end))
    following = index + 1
    silent = following < len(phrase.bars) and not any(e.bar == following for e in phrase.events)
    if not silent or phrase.bars[following].length != bar.length:
        phrase = inserted_bars(phrase, following)
    return pasted(with_room(phrase, bar.end), bar.end, clip)


def with_metre(phrase: Phrase, index: int, metre: Metre) -> Phrase:
    """The phrase with another metre from a bar on, up to the next change; notes keep their times."""
    old = phrase.bars[index].metre
    bars = list(phrase.bars)
    for n in range(index, len(bars)):
        if bars[n].metre != old:
            break
        short = n == 0 and bars[n].length < bars[n].metre.length and bars[n].length < metre.length
        length = bars[n].length if short else metre.length
        bars[n] = replace(bars[n], metre=metre, length=length, lead=metre.length - length)
    made = _rebarred(phrase, bars)
    until = max((e.onset for e in made.events), default=Fraction(0))
    return with_room(made, until)


def with_pickup(phrase: Phrase, length: Fraction) -> Phrase:
    """The phrase with a pickup of a length for its first bar (0 for a full one); what follows moves with it."""
    first = phrase.bars[0]
    full = first.metre.length
    if not 0 <= length < full:
        raise DromicError(f"a pickup is shorter than its bar of {full} quarters; it was to be {length}")
    pickup = bool(first.lead)
    if not length:
        return deleted_bars(phrase, 0, 0) if pickup and len(phrase.bars) > 1 else phrase
    if not pickup:
        phrase = inserted_bars(phrase, 0)
    by = length - phrase.bars[0].length
    sounds = [(o + by if o >= phrase.bars[0].end else min(o, length - INSTANT), n) for o, n in sounds_of(phrase)]
    bars = [replace(phrase.bars[0], length=length, lead=full - length, number=0), *phrase.bars[1:]]
    return with_sounds(_rebarred(replace(phrase, events=()), bars), sounds)


def with_repeat(phrase: Phrase, first: int, last: int, times: int) -> Phrase:
    """The phrase with the bars from one index to another played so many times (1 takes the repeat away)."""
    bars = list(phrase.bars)
    bars[first] = replace(bars[first], repeat_start=times > 1)
    bars[last] = replace(bars[last], repeat_times=times if times > 1 else 0)
    return replace(phrase, bars=tuple(bars))


def with_ending(phrase: Phrase, first: int, last: int, turns: tuple[int, ...]) -> Phrase:
    """The phrase with the bars from one index to another played on some turns only (none for on all)."""
    bars = list(phrase.bars)
    for n in range(first, last + 1):
        bars[n] = replace(bars[n], endings=turns)
    return replace(phrase, bars=tuple(bars))


def with_section(phrase: Phrase, first: int, last: int, name: str) -> Phrase:
    """The phrase with a named section over some bars, in place of those it meets; no name takes them away."""
    kept = [s for s in phrase.sections if s.last < first or s.first > last]
    made = [*kept, Section(name, first, last)] if name else kept
    return replace(phrase, sections=tuple(sorted(made, key=lambda s: s.first)))
