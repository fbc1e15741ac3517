"""A passage of a plan as steps, and steps laid into the bars of a phrase of its own, with strings, fingers and strokes stated."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from dromic.core.editing import edit
from dromic.core.editing.edit_bars import inserted_bars
from dromic.core.music.phrase import Bar, Note, Phrase
from dromic.core.plan.plan import Plan
from dromic.core.setup.instrument import Instrument
from dromic.core.values.metre import Metre
from dromic.core.values.vocabulary import UNSTRUCK

FOUR = Metre(4, 4)
_SHORTEST = Fraction(1, 8)


@dataclass(frozen=True, slots=True)
class Step:
    """Notes that sound together (none for a rest), and the time to the next step in quarters."""

    notes: tuple[Note, ...]
    length: Fraction

    @property
    def struck(self) -> bool:
        """Whether the picking hand sounds it."""
        return bool(self.notes) and self.notes[0].attack not in UNSTRUCK

    @property
    def lead(self) -> Note:
        """Its first note."""
        return self.notes[0]


def playing_order(plan: Plan) -> tuple[int, ...]:
    """The events of a plan as they are written, each once."""
    return tuple(range(len(plan.events)))


def step_of(plan: Plan, event: int) -> Step:
    """An event as the plan has it played, lasting until the next one, or as long as it sounds before a jump back."""
    notes = tuple(
        Note(
            n.pitch, n.duration, n.string, n.fret, n.finger, n.attack, n.stroke if n.stroke != "none" else None,
            n.marks, *_as_written(plan, n.event, n.pitch),
        )
        for n in plan.events[event]
    )  # fmt: skip
    onset = plan.events[event][0].onset
    last = event + 1 == len(plan.events)
    length = (plan.request.phrase.end if last else plan.events[event + 1][0].onset) - onset
    return Step(notes, max(length, _SHORTEST))


def _as_written(plan: Plan, event: int, pitch: int) -> tuple[float, int, str]:
    """What a plan leaves as the phrase has it: how far a note is bent, its tremolo, and the player's words at it."""
    written = next((n for n in plan.request.phrase.events[event].notes if n.pitch == pitch), None)
    return (written.bend, written.tremolo, written.words) if written is not None else (0.0, 0, "")


def steps_of(plan: Plan, events: Iterable[int]) -> tuple[Step, ...]:
    """The steps of several events, one after the other."""
    return tuple(step_of(plan, event) for event in events)


def laid(
    steps: Sequence[Step], title: str, tempo: float, instrument: Instrument, metre: Metre = FOUR,
    paces: Callable[[int], float] | None = None,
) -> Phrase:  # fmt: skip
    """A phrase of steps from its first bar on; a slur or slide that begins it is struck, since nothing comes before."""
    total = sum((step.length for step in steps), Fraction(0))
    bars = max(1, -(-total // metre.length))
    phrase = Phrase(title, (), (Bar(1, Fraction(0), metre.length, metre),), tempo, True, instrument=instrument)
    if bars > 1:
        phrase = inserted_bars(phrase, 1, int(bars) - 1)
    if paces is not None:
        phrase = replace(phrase, bars=tuple(replace(b, pace=paces(i)) for i, b in enumerate(phrase.bars)))
    sounds: list[tuple[Fraction, Note]] = []
    now = Fraction(0)
    for step in steps:
        for note in step.notes:
            sounds.append((now, replace(_first(note, not sounds), duration=min(note.duration, step.length))))
        now += step.length
    return edit.with_sounds(phrase, sounds)


def _first(note: Note, first: bool) -> Note:
    return replace(note, attack=None) if first and note.attack in ("hammer", "pull", "slide") else note


def opened(steps: Sequence[Step], instrument: Instrument) -> tuple[Step, ...]:
    """The picking hand's part alone: the same strokes on open strings; what is not struck lengthens what is before it."""
    found: list[Step] = []
    for step in steps:
        if not step.struck:
            if found:
                found[-1] = replace(found[-1], length=found[-1].length + step.length)
            continue
        notes = tuple(
            Note(instrument.open_pitch(n.string), step.length, n.string, 0, "0", n.attack, n.stroke, words=n.words)
            for n in step.notes if n.string is not None
        )  # fmt: skip
        found.append(Step(notes, step.length))
    return tuple(found)


def unpicked(steps: Sequence[Step]) -> tuple[Step, ...]:
    """The fretting hand's part alone: every note hammered, or pulled where a finger comes off a higher fret of its string.
    An open string that nothing is pulled off to stays silent."""
    found: list[Step] = []
    last: dict[int, int] = {}
    for step in steps:
        notes = []
        for n in step.notes:
            if n.string is None or n.fret is None:
                continue
            before = last.get(n.string)
            sounding = bool(found) and _plays(found[-1], n.string)
            if sounding and (before or 0) > n.fret:
                attack = "pull"
            elif not n.fret:
                continue
            else:
                attack = "hammer" if sounding and (before or 0) < n.fret else "hammer-new"
            notes.append(replace(n, attack=attack, stroke=None, finger=n.finger if n.fret else "0"))
            last[n.string] = n.fret
        found.append(Step(tuple(notes), step.length))
    return tuple(found)


def _plays(step: Step, string: int) -> bool:
    return any(n.string == string for n in step.notes)


def even(steps: Sequence[Step], lengths: Sequence[Fraction]) -> tuple[Step, ...]:
    """The same steps in another rhythm, its lengths round and round."""
    return tuple(replace(step, length=lengths[i % len(lengths)]) for i, step in enumerate(steps))
