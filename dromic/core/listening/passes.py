"""A pass heard while it is played, against a click: it is cut into stretches, each judged as soon as it is over, and all of
them together say whether the pass was clean, and which hand to ask."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dromic.core.listening.due import Due, turns_of
from dromic.core.listening.report import NoteReport, TakeReport
from dromic.core.listening.verdicts import OK
from dromic.core.setup.listen_settings import LiveNumbers

MISSES: dict[str, str] = {
    "missed": "missed",
    "wrong": "wrong",
    "doubled": "noise",
    "late": "late",
    "early": "early",
}
"""verdicts that make a pass a missed one, with the fault the log knows them by; what is only weak or ends otherwise is told"""
EXTRA, UNEVEN = "noise", "uneven"


@dataclass(frozen=True)
class Stretch:
    """A part of a pass: the notes to align, numbered anew, of which those from `first` up to `last` are judged, and from when to
    when it sounds, in seconds from the first note."""

    due: tuple[Due, ...]
    first: int
    last: int
    start_s: float
    end_s: float

    @property
    def judged(self) -> tuple[Due, ...]:
        """The notes that are judged."""
        return self.due[self.first : self.last]


@dataclass(frozen=True, slots=True)
class StretchHeard:
    """What was heard of a stretch: the judged notes, sounds too many among them, seconds of playing for one of the plan. Silence
    where `notes` is empty."""

    stretch: Stretch
    notes: tuple[NoteReport, ...] = ()
    extra: int = 0
    ratio: float = 1.0
    behind_s: float = 0.0
    """how far the player's time lies behind the click's, the latency from playing to hearing taken off where it is known"""
    lost_s: float = 0.0
    """seconds of sound that the devices lost or gave twice meanwhile"""


@dataclass(frozen=True, slots=True)
class PassHeard:
    """A pass as it was heard: clean or missed, the hand and the fault to log, and a sentence. Where next to nothing of it was heard it
    is neither, and not `judged`; nor where some of it was lost."""

    clean: bool
    hand: str | None
    fault: str | None
    words: str
    judged: bool = True


def stretches(due: Sequence[Due], numbers: LiveNumbers) -> tuple[Stretch, ...]:
    """A pass cut between its turns. `numbers` are those of [live] in listen.toml."""
    turns = turns_of(due)
    cuts, began = [0], 0.0
    for turn, notes in enumerate(turns):
        if notes[0].start_s - began >= numbers.stretch_s:
            cuts.append(turn)
            began = notes[0].start_s
    before, after = int(numbers.before), int(numbers.after)
    if len(cuts) > 1 and len(turns) - cuts[-1] <= before:
        cuts.pop()  # a few notes at the end belong to the stretch before them
    return tuple(
        _stretch(turns, max(0, low - before), low, high, min(len(turns), high + after))
        for low, high in zip(cuts, [*cuts[1:], len(turns)], strict=True)
    )


def _stretch(turns: Sequence[Sequence[Due]], begin: int, low: int, high: int, end: int) -> Stretch:
    own = [one for turn in turns[begin:end] for one in turn]
    renumbered = tuple(replace(one, place=n, turn=one.turn - begin) for n, one in enumerate(own))
    first = sum(len(turn) for turn in turns[begin:low])
    last = first + sum(len(turn) for turn in turns[low:high])
    return Stretch(renumbered, first, last, own[0].start_s, max(one.end_s for one in own))


def stretch_heard(stretch: Stretch, report: TakeReport, ratio: float, behind_s: float) -> StretchHeard:
    """What of a report on all its notes is said of those judged."""
    notes = report.notes[stretch.first : stretch.last]
    inside = {one.note.index for one in stretch.judged}
    return StretchHeard(stretch, notes, sum(near in inside for _, near in report.extra), ratio, behind_s)


def pass_heard(
    heard: Sequence[StretchHeard], numbers: LiveNumbers, hard: float, way_known: bool = False
) -> PassHeard | None:
    """What all stretches of a pass come to; None where nothing was played at all. `hard` is the load from which on the plan is said
    to have known. Where the latency from playing to hearing is known it is told how far it lay off the click."""
    if not any(one.notes for one in heard):
        return None
    whole = sum(len(one.stretch.judged) for one in heard)
    wrong = [(note, due) for one in heard for note, due in zip(one.notes, one.stretch.judged, strict=False)
             if note.verdict in MISSES]  # fmt: skip
    told = [note.verdict for one in heard for note in one.notes if note.verdict != OK and note.verdict not in MISSES]
    silent, extra = sum(len(one.stretch.judged) for one in heard if not one.notes), sum(one.extra for one in heard)
    long = [
        one.ratio for one in heard if one.notes and one.stretch.end_s - one.stretch.start_s >= numbers.tempo_least_s
    ]
    strays = max(long, key=lambda r: abs(r - 1.0), default=1.0)
    fine = whole - silent - len(wrong)
    count = f"{fine} of {whole} notes"
    lost_s = sum(one.lost_s for one in heard)
    if lost_s > numbers.lost_s:
        return PassHeard(False, None, None, f"the sound devices lost {1000 * lost_s:.0f} ms of it", judged=False)
    there = whole - silent - sum(note.verdict == "missed" for note, _ in wrong)
    if there + extra < numbers.least_heard * whole:
        return PassHeard(False, None, None, f"{there} of {whole} notes heard", judged=False)
    if wrong or silent:
        hands = [due.hand for _, due in wrong if due.load > hard]
        hand = max(sorted(set(hands)), key=hands.count) if hands else None
        faults = [MISSES[note.verdict] for note, _ in wrong] + ["missed"] * bool(silent)
        fault = max(sorted(set(faults)), key=faults.count)
        words = _first(wrong) if wrong else "the rest was not heard"
        lost = 2 * fine < whole
        return PassHeard(False, hand, fault, f"{count}; {'not with the click, or another drill' if lost else words}")
    if extra:
        return PassHeard(False, None, EXTRA, f"{count}; {extra} too many")
    if abs(strays - 1.0) > numbers.tempo:
        way = "slower" if strays > 1 else "faster"
        return PassHeard(False, None, UNEVEN, f"{count}; {abs(strays - 1):.0%} {way} than the click")
    also = f"; {len(told)} {'/'.join(sorted(set(told)))}" if told else ""
    beside = _beside([one.behind_s for one in heard if one.notes], numbers) if way_known else ""
    return PassHeard(True, None, None, f"{count}{also}{beside}")


def _beside(behind_s: Sequence[float], numbers: LiveNumbers) -> str:
    """How far off the click the stretches lay, by the middle one; nothing where that is little."""
    off = sorted(behind_s)[len(behind_s) // 2]
    if abs(off) < numbers.beside_s:
        return ""
    return f"; {1000 * abs(off):.0f} ms {'behind' if off > 0 else 'before'} the click"


def _first(wrong: Sequence[tuple[NoteReport, Due]]) -> str:
    note, _ = wrong[0]
    ms = f" by {abs(note.error_ms):.0f} ms" if note.error_ms is not None and note.verdict in ("late", "early") else ""
    more = f", and {len(wrong) - 1} more" if len(wrong) > 1 else ""
    return f"note {note.index + 1} {note.verdict}{ms}{more}"
