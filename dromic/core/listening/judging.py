"""From onsets that were heard to what is said of a take. Every threshold is a setting of listen.toml, and an estimate."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.core.listening.alignment import Alignment, aligned, pitch_fits
from dromic.core.listening.due import Due, turns_of
from dromic.core.listening.evenness import evenness, ratios, smeared, steadiness, technique
from dromic.core.listening.report import NoteReport, TakeReport, Worst
from dromic.core.listening.verdicts import DRIVEN, Evidence, Manner, verdict_of
from dromic.core.setup.listen_settings import JudgeNumbers, ListenSettings
from dromic.core.values.arrays import Floats
from dromic.core.values.errors import DromicError

_MOST_WORST = 3
"""Stretches told as the worst."""
_FITS = 0.5
"""Share of the pitch evidence from which on an onset speaks for the note."""
_SHORTEST_GAP_S = 0.01
_TREND_NOTES = 10
"""Notes from which on loudness is told by pitch."""
_TREND_SEMITONES = 5
"""Semitones they must span for it."""
_MOST_TREND = 200
"""Notes looked at for it at most."""
UNEXPECTED = "unexpected"
"""a cause the plan does not know"""
_WEIGHTS = {
    "missed": 120.0,
    "wrong": 100.0,
    "doubled": 60.0,
    "weak": 40.0,
    "short": 30.0,
    "ringing": 30.0,
    "loud": 20.0,
}
"""ms that a verdict counts as much as"""
_FAST = 0.96
"""Seconds of a take for one of the plan, under which it is told as faster."""
_SLOW = 1.04
"""And over which as slower."""


@dataclass(frozen=True)
class Heard:
    """What was heard of a take: onsets with strength, loudness, [onsets, pitches] what speaks after each, and by how many dB more
    there is after it than before: in all, and of a pick's or a finger's click."""

    seconds: Floats
    strength: Floats
    db: Floats
    speaks: Floats
    pitches: tuple[int, ...]
    rise_db: Floats
    click_db: Floats

    def struck(self, numbers: JudgeNumbers, signal: str) -> np.ndarray:
        """[onsets], which were struck by pick or finger, as far as can be heard; the others may be a string's own pulses. An
        overdriven signal has clicks of its own."""
        if signal == DRIVEN:
            return np.asarray(self.rise_db >= numbers.click_or_rise_db)
        return np.asarray((self.click_db >= numbers.click_db) | (self.rise_db >= numbers.click_or_rise_db))


@dataclass(frozen=True)
class Found:
    """Which onset belongs to which turn of what is played."""

    due: tuple[Due, ...]
    heard: Heard
    alignment: Alignment
    fits: Floats
    turns: tuple[tuple[int, ...], ...]
    """the notes, by their place, of each turn"""


def found_in(
    due: Sequence[Due], heard: Heard, settings: ListenSettings, near: tuple[float, float] | None = None
) -> Found:
    """Align what was heard with what is due; DromicError where nothing was heard, or it is no take of this phrase. `near` is when
    the plan's second 0 falls, if that is known, and how far off it may be, in seconds."""
    if not len(heard.seconds):
        raise DromicError("nothing is heard in this take; check the input and its level")
    turns = [[one.place for one in turn] for turn in turns_of(due)]
    pitches = [[due[p].pitch for p in turn if not due[p].silent] for turn in turns]
    fits = pitch_fits(pitches, heard.speaks, heard.pitches)
    times = np.array([due[turn[0]].start_s for turn in turns])
    alignment = aligned(times, heard.seconds, heard.strength, fits, settings.align, near)
    there = alignment.onset >= 0
    fitting = (
        float(np.mean([fits[i, j] > 0.5 for i, j in enumerate(alignment.onset) if j >= 0])) if there.any() else 0.0
    )
    if alignment.share < settings.align.of_this_phrase or fitting < settings.align.of_this_phrase:
        raise DromicError(
            f"this is no take of this phrase, as far as can be heard: {there.sum()} of {len(turns)} notes are found, "
            f"{fitting:.0%} of them at their pitch; choose another take, or the phrase it is of"
        )
    return Found(tuple(due), heard, alignment, fits, tuple(map(tuple, turns)))


Levels = Mapping[int, tuple[float | None, float | None]]


def judged(
    found: Found, settings: ListenSettings, tempo: float, levels: Levels | None = None, cents: Mapping[int, float] | None = None,
    manner: Manner | None = None,
) -> TakeReport:  # fmt: skip
    """What is said of a take. `tempo` is the plan's in quarters a minute; `levels` what is left of a note (by
    its place) late in its own time and in the time of the next, in dB against how it began; `cents` how far bends lie off."""
    numbers, line, onset = settings.judge, found.alignment.due_s, found.alignment.onset
    manner = manner or Manner()
    signal = manner.signal
    loud, doubled, off, apart = _loudness(found), _doubled(found, numbers, signal), cents or {}, _apart(found, numbers)
    gaps = np.diff(line, append=line[-1] + (line[-1] - line[-2] if len(line) > 1 else 1.0))
    reports: list[NoteReport] = []
    last: tuple[int, float] | None = None
    for turn, places in enumerate(found.turns):
        at = int(onset[turn])
        heard = float(found.heard.seconds[at]) if at >= 0 else None
        error = heard - float(line[turn]) if heard is not None else None
        gap = gap_share = None
        if heard is not None and last is not None and last[0] == turn - 1:
            meant = float(line[turn] - line[turn - 1])
            gap = (heard - last[1]) - meant
            gap_share = gap / max(meant, _SHORTEST_GAP_S)
        fits = float(found.fits[turn, at]) if at >= 0 else 0.0
        sure = fits * (0.5 + 0.5 * float(found.heard.strength[at])) if at >= 0 else _absent(found, turn)
        for place in places:
            one = found.due[place]
            seen = Evidence(
                one, heard, error, float(min(gaps[turn], gaps[max(0, turn - 1)])), fits, loud.get(place), turn in doubled,
                *(levels or {}).get(place, (None, None)), off.get(place),
            )  # fmt: skip
            reports.append(NoteReport(
                one.note.index, one.note.event, float(line[turn]), heard, _ms(error), _ms(gap), gap_share, loud.get(place),
                off.get(place), verdict_of(seen, numbers, manner), round(sure, 3), one.load,
                _ms(apart[turn][1]) if turn in apart else None,
            ))  # fmt: skip
        last = (turn, heard) if heard is not None else last
    return _whole(found, reports, doubled, {extra for extra, _ in apart.values()}, tempo, settings, signal)


def _ms(seconds: float | None) -> float | None:
    return None if seconds is None else 1000.0 * seconds


def _absent(found: Found, turn: int) -> float:
    """How sure it is that a note is missing: the less so the more onsets lie near where it was due."""
    near = np.abs(found.heard.seconds - found.alignment.due_s[turn])
    return 0.95 if float(near.min()) > 0.03 else 0.6


def _loudness(found: Found) -> dict[int, float]:
    """dB of each note, by its place, against what those sounded in the same way, as many at once, have at its pitch."""
    values: dict[str, list[tuple[int, float]]] = {}
    for turn, places in enumerate(found.turns):
        at = int(found.alignment.onset[turn])
        if at < 0:
            continue
        for place in places:
            values.setdefault(f"{len(places)} {technique(found.due[place])}", []).append(
                (place, float(found.heard.db[at]))
            )
    told: dict[int, float] = {}
    for of in values.values():
        db = np.array([v for _, v in of])
        pitch = np.array([found.due[place].note.pitch for place, _ in of], dtype=float)
        rest = db - _slope(pitch, db) * (pitch - np.median(pitch))
        told |= {place: float(x) for (place, _), x in zip(of, rest - np.median(rest), strict=True)}
    return told


def _slope(pitch: Floats, db: Floats) -> float:
    """By how many dB a semitone notes [notes] differ: the median of the slopes between any two (Theil and Sen's estimator); 0
    for few notes or a small range."""
    if len(pitch) < _TREND_NOTES or np.ptp(pitch) < _TREND_SEMITONES:
        return 0.0
    few = np.random.default_rng(0).permutation(len(pitch))[
        :_MOST_TREND
    ]  # by chance: a figure repeats, and so would every nth note
    over, under = np.triu_indices(len(few), 1)
    apart, more = pitch[few][under] - pitch[few][over], db[few][under] - db[few][over]
    return float(np.median(more[apart != 0] / apart[apart != 0])) if apart.any() else 0.0


def _doubled(found: Found, numbers: JudgeNumbers, signal: str) -> set[int]:
    """Turns of which a second onset of the same note is heard."""
    onset, heard = found.alignment.onset, found.heard
    struck = heard.struck(numbers, signal)
    of = {int(j): turn for turn, j in enumerate(onset) if j >= 0}
    twice = set()
    for extra in found.alignment.extra:
        after = {j: 1000 * (heard.seconds[extra] - heard.seconds[j]) for j in of}
        before = [j for j in of if numbers.one_stroke_ms < after[j] <= numbers.double_ms]
        if before:
            turn = of[max(before)]
            again = struck[extra] and heard.strength[extra] > numbers.double_strength
            if again and found.fits[turn, extra] > _FITS:
                twice.add(turn)
    return twice


def _of_a_stroke(second: float, onsets_s: Floats, numbers: JudgeNumbers) -> bool:
    """Whether an onset is so close to one of others [onsets] that one stroke made both: its noise and its sound."""
    return bool((1000 * np.abs(onsets_s - second) <= numbers.one_stroke_ms).any())


def _apart(found: Found, numbers: JudgeNumbers) -> dict[int, tuple[int, float]]:
    """Turns before which the pick is heard without the finger: (its onset, how long before in seconds). Only where the onset before
    has not the note's pitch, and the note's own has."""
    onset, heard = found.alignment.onset, found.heard
    told: dict[int, tuple[int, float]] = {}
    for turn, at in enumerate(onset):
        one = found.due[found.turns[turn][0]]
        if at < 1 or at - 1 not in found.alignment.extra or not one.picked or not one.note.fret or one.silent:
            continue
        before = float(heard.seconds[at] - heard.seconds[at - 1])
        own = found.fits[turn, at] > _FITS > found.fits[turn, at - 1]
        if own and numbers.apart_least_ms <= 1000 * before <= numbers.apart_ms:
            told[turn] = (int(at) - 1, before)
    return told


def _whole(
    found: Found,
    reports: list[NoteReport],
    doubled: set[int],
    noises: set[int],
    tempo: float,
    settings: ListenSettings,
    signal: str,
) -> TakeReport:
    alignment, heard = found.alignment, found.heard
    of = [int(j) for j in alignment.onset]
    near = alignment.due_s
    doubles = {
        extra for extra in alignment.extra
        if any(0 < heard.seconds[extra] - heard.seconds[of[t]] <= settings.judge.double_ms / 1000 for t in doubled)
    }  # fmt: skip
    begins = min((heard.seconds[j] for j in of if j >= 0), default=0.0)  # what sounds before it is no part of the take
    numbers, matched = settings.judge, heard.seconds[[j for j in of if j >= 0]]
    unsure = np.inf if signal == DRIVEN else numbers.extra_sure
    least = np.where(heard.struck(numbers, signal), numbers.extra_strength, unsure)
    extra = tuple(
        (float(heard.seconds[j]), found.due[found.turns[int(np.argmin(np.abs(near - heard.seconds[j])))][0]].note.index)
        for j in alignment.extra
        if j not in doubles and j not in noises and heard.seconds[j] > begins and heard.strength[j] > least[j]
        and not _of_a_stroke(heard.seconds[j], matched, numbers)
    )  # fmt: skip
    errors = np.array([r.error_ms for r in reports if r.error_ms is not None])
    loud = np.array([r.db for r in reports if r.db is not None])
    fitting = [found.fits[i, j] for i, j in enumerate(of) if j >= 0]
    times = np.array([found.due[places[0]].start_s for places in found.turns])
    heard_s = np.array([heard.seconds[j] if j >= 0 else np.nan for j in of])
    uneven = ratios(found.due, found.turns, heard_s)
    said = []
    own = tempo / alignment.ratio
    if not _FAST <= alignment.ratio <= _SLOW:
        said.append(
            f"Played {'faster' if alignment.ratio < 1 else 'slower'} than planned: {own:.0f} instead of {tempo:.0f}."
        )
    return TakeReport(
        own, float(alignment.due_s[0]), round(alignment.share * float(np.mean(fitting)) if fitting else 0.0, 3), tuple(reports),
        extra, float(np.sqrt(np.mean(errors**2))) if len(errors) else 0.0, float(loud.std()) if len(loud) else 0.0,
        uneven[0].played if uneven else None, _worst(found, reports, settings.judge), (*said, *smeared(found.due, reports)),
        evenness(found.due, reports), uneven, steadiness(times, near, tempo),
        sounded=tuple(sorted({float(heard.seconds[j]) for j in of if j >= 0} | {float(heard.seconds[j]) for j in doubles | noises}
                     | {second for second, _ in extra})),
    )  # fmt: skip


def _worst(found: Found, reports: Sequence[NoteReport], settings: JudgeNumbers) -> tuple[Worst, ...]:
    """The worst places, none beside another: how far off the note and the gap before it are."""
    firsts = {places[0]: turn for turn, places in enumerate(found.turns)}
    ranked = []
    for place, report in enumerate(reports):
        if place in firsts and report.verdict != "ok":
            off = abs(report.error_ms or 0.0)
            ranked.append((_WEIGHTS.get(report.verdict, 0.0) + off, firsts[place], report))
    taken: list[int] = []
    worst: list[Worst] = []
    for _, turn, report in sorted(ranked, key=lambda r: -r[0]):
        if len(worst) == _MOST_WORST:
            break
        if any(abs(turn - other) < 2 for other in taken):
            continue
        taken.append(turn)
        one = found.due[found.turns[turn][0]]
        before = found.due[found.turns[turn - 1][0]].note.index if turn else one.note.index
        notes = (before, one.note.index) if turn else (one.note.index,)
        likely = one.kind if one.load > settings.hard else UNEXPECTED
        off = round(report.error_ms or 0.0, 1)
        worst.append(Worst(notes, report.verdict, off, likely, one.hand, one.note.event, one.load))
    return tuple(worst)
