"""A phrase: what is to be played, in exact time, with whatever string, fret, finger and stroke is already known.

Conventions: onsets and durations are `fractions.Fraction` of a quarter note from the start of the phrase; silence is
time that no event covers; tied notes are one note; the notes of an event sound together and stand in order of pitch,
the lowest first (of two of one pitch, the one on the lower string).
"""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction

from dromic.core.setup.instrument import MAX_STRINGS, MOST_FRETS, Instrument
from dromic.core.values.checks import check_choice, check_range, check_text, check_whole
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.vocabulary import ATTACKS, FINGERS, MARKS, SLID_TO, STROKES, UNSTRUCK

MOST_NUMBER = 1_000_000
"""over any number a bar can have"""
MOST_WORDS = 120
"""Letters a note may say."""
MOST_DOUBT = 24
"""Semitones its other reading may be away."""
_FINEST_PACE = 1_000_000
"""denominator up to which shares of a tempo are told apart"""


@dataclass(frozen=True, slots=True)
class Note:
    """One sounding note. Whatever is None is for the planner to choose."""

    pitch: int
    duration: Fraction
    string: int | None = None
    fret: int | None = None
    finger: str | None = None
    attack: str | None = None
    stroke: str | None = None
    marks: frozenset[str] = frozenset()
    bend: float = 0.0
    """semitones a bend rises"""
    tremolo: int = 0
    """beams of tremolo picking: 1 for eighths, 2 for sixteenths, 3 for thirty-seconds"""
    words: str = ""
    """what the player wants to be reminded of at this note"""
    doubt: int = 0
    """semitones from the pitch to its other reading, where the player doubts it"""

    def __post_init__(self) -> None:
        check_range("bend", self.bend, 0, 6, "semitones")
        check_whole("tremolo", self.tremolo, 0, 4)
        check_whole("doubt", self.doubt, -MOST_DOUBT, MOST_DOUBT, "semitones")
        if self.words:
            check_text("words at a note", self.words, MOST_WORDS)
        check_whole("pitch", self.pitch, 0, 127)
        if self.string is not None:
            check_whole("string", self.string, 1, MAX_STRINGS)
        if self.fret is not None:
            check_whole("fret", self.fret, 0, MOST_FRETS)
        if self.duration <= 0:
            raise DromicError(f"duration is {self.duration}; it must be over 0")
        if self.finger is not None:
            check_choice("finger", self.finger, FINGERS)
        if self.attack is not None:
            check_choice("attack", self.attack, ATTACKS)
        if self.stroke is not None:
            check_choice("stroke", self.stroke, STROKES)
        for mark in self.marks:
            check_choice("mark", mark, tuple(MARKS))
        implied = {m for m, on in (("bend", self.bend), ("tremolo", self.tremolo)) if on}
        if not implied <= self.marks:
            object.__setattr__(self, "marks", self.marks | implied)

    @property
    def slid_to(self) -> bool:
        """Whether a finger slides to it and it is struck all the same."""
        return SLID_TO in self.marks and self.attack not in UNSTRUCK


@dataclass(frozen=True, slots=True)
class Event:
    """Notes that start together; `bar` is the index of their bar in the phrase."""

    onset: Fraction
    notes: tuple[Note, ...]
    bar: int = 0

    def __post_init__(self) -> None:
        if not self.notes:
            raise DromicError("an event must hold at least one note; a rest is a silence between events")
        if len(self.notes) > 1:
            object.__setattr__(self, "notes", tuple(sorted(self.notes, key=lambda n: (n.pitch, -(n.string or 0)))))

    @property
    def end(self) -> Fraction:
        """When its longest note ends, in quarters from the start of the phrase."""
        return self.onset + max(n.duration for n in self.notes)

    @property
    def attack(self) -> str | None:
        """The attack the event's notes state, if they do; a chord's first stated one counts for all of it."""
        return next((n.attack for n in self.notes if n.attack), None)

    @property
    def stroke(self) -> str | None:
        """The stroke its notes state, if they do."""
        return next((n.stroke for n in self.notes if n.stroke), None)

    @property
    def struck(self) -> bool:
        """Whether the picking hand sounds it, as far as the phrase states."""
        return self.attack not in UNSTRUCK

    @property
    def slid_to(self) -> bool:
        """Whether a finger slides to it and it is struck all the same."""
        return any(n.slid_to for n in self.notes)

    @property
    def grace(self) -> bool:
        """Whether it is an ornament that steals its time."""
        return all("grace" in n.marks for n in self.notes)

    @property
    def words(self) -> str:
        """What its notes remind the player of."""
        return "; ".join(n.words for n in self.notes if n.words)

    def marked(self, mark: str) -> bool:
        """Whether any of its notes has a mark."""
        return any(mark in n.marks for n in self.notes)


@dataclass(frozen=True, slots=True)
class Bar:
    """A bar as written. `lead` is what a pickup lacks at its front, so that places are counted back from the next bar."""

    number: int
    start: Fraction
    length: Fraction
    metre: Metre
    lead: Fraction = Fraction(0)
    repeat_start: bool = False
    repeat_times: int = 0
    endings: tuple[int, ...] = ()
    pace: float = 1.0
    """its tempo as a share of the phrase's, where the tempo changes inside the phrase"""

    def __post_init__(self) -> None:
        check_range("pace of a bar", self.pace, 0.05, 20.0)
        check_whole("bar number", self.number, -MOST_NUMBER, MOST_NUMBER)
        check_whole("repeat", self.repeat_times, 0, MOST_NUMBER)
        for ending in self.endings:
            check_whole("ending", ending, 0, MOST_NUMBER)

    def offset_of(self, onset: Fraction) -> Fraction:
        """Offset of an onset from the bar line where this bar would begin if it were full."""
        return onset - self.start + self.lead

    @property
    def end(self) -> Fraction:
        """In quarters from the start of the phrase."""
        return self.start + self.length

    @property
    def usual_lead(self) -> Fraction:
        """What a bar lacks at its front if nothing else is said: only the first may be a pickup."""
        return max(self.metre.length - self.length, Fraction(0)) if not self.start else Fraction(0)


@dataclass(frozen=True, slots=True)
class Swing:
    """Long-short pairs: `unit` is the written length of each of the pair, `ratio` the first to the second."""

    unit: Fraction = Fraction(1, 2)
    ratio: Fraction = Fraction(1)

    def __post_init__(self) -> None:
        check_range("swing ratio", self.ratio, 1, 4)
        check_choice("swing unit", self.unit, (Fraction(1, 2), Fraction(1, 4)))

    def warp(self, beat_time: Fraction) -> Fraction:
        """Where a written time sounds, both in quarters, counted from a bar line."""
        pair = 2 * self.unit
        whole, inside = divmod(beat_time, pair)
        first = pair * self.ratio / (self.ratio + 1)
        warped = (
            inside * first / self.unit
            if inside <= self.unit
            else first + (inside - self.unit) * (pair - first) / self.unit
        )
        return whole * pair + warped


@dataclass(frozen=True, slots=True)
class Section:
    """A named run of bars, `first` to `last` by index, both included."""

    name: str
    first: int
    last: int

    def __post_init__(self) -> None:
        check_whole("first bar of a section", self.first, 0, MOST_NUMBER)
        check_whole("last bar of a section", self.last, self.first, MOST_NUMBER)


@dataclass(frozen=True, slots=True)
class Phrase:
    """Events and bars in order, with the tempo in quarter notes a minute and, where stated, the instrument. One that is
    still to be written holds no events."""

    title: str
    events: tuple[Event, ...]
    bars: tuple[Bar, ...]
    tempo: float = 120.0
    tempo_stated: bool = False
    swing: Swing = field(default_factory=Swing)
    sections: tuple[Section, ...] = ()
    instrument: Instrument | None = None
    school: str | None = None
    about: str = ""
    key: str | None = None
    """as players write it (D, Bm), where somebody has said it"""
    read_as: str = ""
    """guitar, where it sounds an octave below what its file has; else as the file has it"""
    notices: tuple[str, ...] = ()
    """What the reader left out or assumed, a sentence each."""
    _lines: tuple[Fraction, ...] = field(init=False, repr=False, compare=False)
    """where each bar begins in quarters at the phrase's tempo; empty where the tempo does not change"""

    def __post_init__(self) -> None:
        if not self.bars:
            raise DromicError("a phrase needs at least one bar")
        check_range("tempo", self.tempo, 10, 1000, "quarter notes a minute")
        object.__setattr__(self, "_lines", self._begun() if any(bar.pace != 1.0 for bar in self.bars) else ())
        last = None
        for event in self.events:
            if last is not None and event.onset <= last:
                raise DromicError(f"events must be in order of onset; {event.onset} follows {last}")
            check_whole("bar of an event", event.bar, 0, len(self.bars) - 1)
            last = event.onset

    def numbered_notes(self) -> Iterator[tuple[int, int, Event, Note]]:
        """(note index, event index, event, note), in the order of the command line's JSON."""
        index = 0
        for e, event in enumerate(self.events):
            for note in event.notes:
                yield index, e, event, note
                index += 1

    def seconds_at(self, time: Fraction) -> float:
        """Seconds from the start of the phrase, swing counted in, of a time in quarters."""
        return self.quarters_at(time) * 60.0 / self.tempo

    def quarters_at(self, time: Fraction) -> float:
        """The same in quarters at the phrase's tempo."""
        return float(self._warped(time))

    @property
    def paced(self) -> bool:
        """Whether the tempo changes inside it."""
        return bool(self._lines)

    def tempo_in(self, bar: int) -> float:
        """The tempo of a bar by index, in quarters a minute."""
        return self.tempo * self.bars[bar].pace

    def _begun(self) -> tuple[Fraction, ...]:
        """Where bars begin, in quarters at the phrase's tempo."""
        lines = [Fraction(0)]
        for bar in self.bars:
            lines.append(lines[-1] + self._inside(bar, bar.end))
        return tuple(lines)

    def _inside(self, bar: Bar, time: Fraction) -> Fraction:
        """From the bar's beginning to a time, in quarters at the phrase's tempo."""
        swung = self.swing.warp(bar.offset_of(time)) - self.swing.warp(bar.lead)
        return swung / Fraction(bar.pace).limit_denominator(_FINEST_PACE)

    def _warped(self, time: Fraction) -> Fraction:
        if self._lines:
            at = self.bar_at(time)
            return self._lines[at] + self._inside(self.bars[at], time)
        if self.swing.ratio == 1:
            return time
        bar = self.bars[0]
        for candidate in self.bars:
            if candidate.start > time:
                break
            bar = candidate
        return bar.start - bar.lead + self.swing.warp(bar.offset_of(time)) - self._front()

    def _front(self) -> Fraction:
        """What the swing takes from the very start, so that the phrase starts at 0 s."""
        first = self.bars[0]
        return first.start - first.lead + self.swing.warp(first.lead)

    def titled(self, title: str) -> Phrase:
        """The same phrase under another title."""
        return replace(self, title=title)

    def at_tempo(self, tempo: float) -> Phrase:
        """The same phrase at another tempo, in quarters a minute."""
        return replace(self, tempo=tempo)

    @property
    def end(self) -> Fraction:
        """When its last bar ends, in quarters."""
        return self.bars[-1].end

    def bar_at(self, time: Fraction) -> int:
        """Index of the bar that holds a time; the last one for any time past the end."""
        return max(0, bisect_right(self.bars, time, key=lambda bar: bar.start) - 1)

    def with_events(self, events: Iterable[Event]) -> Phrase:
        """The same bars with other events."""
        return replace(self, events=tuple(events))

    def passage(self, first: int, last: int) -> Phrase:
        """The bars with numbers first..last; onsets then count from the passage's start."""
        chosen = [i for i, b in enumerate(self.bars) if first <= b.number <= last]
        if not chosen:
            numbers = f"{self.bars[0].number} to {self.bars[-1].number}"
            raise DromicError(f"there are no bars {first}-{last}; the bars are numbered {numbers}")
        low, high = chosen[0], chosen[-1]
        start = self.bars[low].start
        bars = tuple(replace(b, start=b.start - start) for b in self.bars[low : high + 1])
        events = tuple(replace(e, onset=e.onset - start, bar=e.bar - low) for e in self.events if low <= e.bar <= high)
        if not events:
            raise DromicError(f"bars {first}-{last} hold no notes; choose bars with at least one note")
        sections = tuple(
            Section(s.name, max(s.first, low) - low, min(s.last, high) - low)
            for s in self.sections
            if s.last >= low and s.first <= high
        )
        return replace(self, bars=bars, events=events, sections=sections)

    def playing_order(self) -> list[int]:
        """Indices of the bars as played: repeats taken, first and second endings chosen."""
        order: list[int] = []
        start, index, turn = 0, 0, 1
        while index < len(self.bars):
            bar = self.bars[index]
            if bar.repeat_start and index != start:
                start, turn = index, 1
            if not bar.endings or turn in bar.endings:
                order.append(index)
            skipped = bool(bar.endings) and turn not in bar.endings
            if bar.repeat_times > turn and not skipped:
                index, turn = start, turn + 1
                continue
            after_last = turn > 1 and ((bar.repeat_times and turn >= bar.repeat_times) or bool(bar.endings))
            index += 1
            if after_last and not (index < len(self.bars) and self.bars[index].endings):
                start, turn = index, 1
        return order

    @property
    def played_events(self) -> int:
        """How many events sound when the repeats are taken."""
        if not any(bar.repeat_times for bar in self.bars):
            return len(self.events)
        inside = Counter(e.bar for e in self.events)
        return sum(inside[bar] for bar in self.playing_order())

    def unrolled(self) -> Phrase:
        """The phrase written out in playing order; a phrase without repeats comes back unchanged."""
        order = self.playing_order()
        if order == list(range(len(self.bars))):
            return self
        by_bar: dict[int, list[Event]] = {}
        for event in self.events:
            by_bar.setdefault(event.bar, []).append(event)
        bars: list[Bar] = []
        events: list[Event] = []
        now = Fraction(0)
        for new, old in enumerate(order):
            bar = self.bars[old]
            bars.append(replace(bar, start=now, repeat_start=False, repeat_times=0, endings=()))
            events.extend(replace(e, onset=e.onset - bar.start + now, bar=new) for e in by_bar.get(old, ()))
            now += bar.length
        return replace(self, bars=tuple(bars), events=tuple(events), sections=())
