"""A take against its plan, from samples or MIDI to what is said of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path, PurePath

import numpy as np

from dromic import presets
from dromic.core.listening.due import Due, due_notes
from dromic.core.listening.judging import Found, Heard, found_in, judged
from dromic.core.listening.report import OtherString, TakeReport
from dromic.core.listening.verdicts import DRIVEN, Manner
from dromic.core.plan.plan import Plan
from dromic.core.setup.listen_settings import ListenSettings
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.sound.hearing.note_ends import Sounded, cents_off, levels
from dromic.sound.hearing.onsets import Hearing, Onsets
from dromic.sound.hearing.other_strings import other_strings
from dromic.sound.hearing.rate import at_rate
from dromic.sound.hearing.take_file import MIDI, Recording, midi_heard, recording
from dromic.sound.string import Samples

_MOST_TOLD = 3
_RINGS_ON_S = 2.0
"""how long after its end a note left ringing may be heard"""
_BACK = 24
"""notes before one that may still sound"""
_TOGETHER_S = 0.05
"""Seconds within which a note of a MIDI take belongs to an onset."""
_NOTHING_DB = -60.0
"""Level told of a MIDI note that has ended."""
_ALIKE = 0.98
"""Channels that correlate at this or more are treated as mono."""
_THINNED = 7
"""Step, in samples, of those that are compared for it."""


def check(
    plan: Plan, source: bytes | Path, name: str, manner: Manner | None = None, go_on: Progress = lambda share: True,
    skip_s: float = 0.0,
) -> TakeReport:  # fmt: skip
    """What is said of a take in a file, from a second on; DromicError where it cannot be heard or is none of this plan."""
    due = due_notes(plan)
    if not due:
        raise DromicError("there are no notes to listen for; write some first")
    settings, tempo = presets.listening(), plan.request.phrase.tempo
    if PurePath(name).suffix.lower() in MIDI:
        heard, notes = midi_heard(source, name, due)
        found = found_in(due, heard, settings)
        return judged(found, settings, tempo, _midi_levels(found, notes), None, manner)
    return check_sound(plan, recording(source, name, skip_s), manner, go_on)


def check_sound(
    plan: Plan, take: Recording, manner: Manner | None = None, go_on: Progress = lambda share: True
) -> TakeReport:
    """The same for a recording at hand. Of two channels that differ the one is taken that the plan is found in."""
    due = due_notes(plan)
    settings = presets.listening()
    best: tuple[float, Found, Samples] | None = None
    fault: DromicError | None = None
    tried = _channels(take.samples)
    for number, channel in enumerate(tried):
        samples = at_rate(channel, take.rate)

        def part(share: float, number: int = number) -> bool:
            return go_on((number + 0.8 * share) / len(tried))

        try:
            found = found_by_ear(due, samples, settings, part)
        except DromicError as error:
            fault = fault or error
            continue
        there = found.alignment.onset >= 0
        sure = found.alignment.share * float(np.mean(found.fits[there, found.alignment.onset[there]]))
        if best is None or sure > best[0]:
            best = (sure, found, samples)
    if best is None:
        assert fault is not None
        raise fault
    _, found, samples = best
    manner = manner or Manner()
    if take.clipped:
        manner = replace(manner, signal=DRIVEN)
    tempo = plan.request.phrase.tempo
    report = judged(found, settings, tempo, note_levels(found, samples), bend_cents(found, samples), manner)
    strings = other_strings(found, samples, settings.judge)
    return replace(report, said=(*take.said, *report.said, *_strings_words(plan, strings)), strings=strings)


def _strings_words(plan: Plan, strings: Sequence[OtherString]) -> list[str]:
    """Which strings sound that should not, in a sentence."""
    if not strings:
        return []
    bars = {note.index: note.bar_number for note in plan.notes}
    told = [f"string {one.string} with note {one.index + 1} (bar {bars[one.index]})" for one in strings[:_MOST_TOLD]]
    more = f" and {len(strings) - _MOST_TOLD} more" if len(strings) > _MOST_TOLD else ""
    return [f"Other strings sound: {', '.join(told)}{more}."]


def found_by_ear(
    due: Sequence[Due],
    samples: Samples,
    settings: ListenSettings,
    go_on: Progress,
    near: tuple[float, float] | None = None,
) -> Found:
    """The notes of a plan in samples. Where one is missing it is listened for again, more closely, at the time it was due."""
    pitches = sorted({one.pitch for one in due if not one.silent})
    hearing = Hearing(samples, pitches, go_on)
    found = found_in(due, _heard(hearing.onsets()), settings, near)
    missing = found.alignment.due_s[found.alignment.onset < 0]
    if not len(missing):
        return found
    closer = _heard(hearing.onsets(missing))
    return found_in(due, closer, settings, near) if len(closer.seconds) > len(found.heard.seconds) else found


def _heard(made: Onsets) -> Heard:
    return Heard(made.seconds, made.strength, made.db, made.speaks, made.pitches, made.rise_db, made.click_db)


def _channels(samples: Samples) -> list[Samples]:
    """The channels to try: one where all are alike, else each."""
    if samples.ndim == 1:
        return [samples]
    loud = [channel for channel in samples.T if max(float(channel.max()), -float(channel.min())) > 1e-3]
    if len(loud) == 2 and float(np.corrcoef(loud[0][::_THINNED], loud[1][::_THINNED])[0, 1]) > _ALIKE:
        return [samples.mean(axis=1)]
    return loud or [samples.mean(axis=1)]


def _sounds_on(one: Due) -> float:
    """Until when a note may be heard, in seconds of the plan."""
    return one.end_s + (_RINGS_ON_S if "let-ring" in one.note.marks else 0.0)


def note_levels(found: Found, samples: Samples) -> dict[int, tuple[float | None, float | None]]:
    """What is left of each note, by its place, late in its own time and in the time of the next."""
    notes, places = [], []
    line, turns = found.alignment.due_s, found.turns
    for turn, of in enumerate(turns):
        at = int(found.alignment.onset[turn])
        if at < 0:
            continue
        start = float(found.heard.seconds[at])
        near = [p for t in range(max(0, turn - 1), min(len(turns), turn + 3)) for p in turns[t]]
        for place in of:
            one = found.due[place]
            if one.silent or one.written.bend:
                continue
            rings = [p for p in range(max(0, place - _BACK), place) if _sounds_on(found.due[p]) > one.start_s]
            beside = tuple(
                found.due[p].note.pitch for p in (*near, *rings) if found.due[p].note.pitch != one.note.pitch
            )
            if any(
                found.due[p].note.pitch == one.note.pitch
                for t in range(turn + 1, min(len(turns), turn + 2))
                for p in turns[t]
            ):
                continue  # the same note again: nothing tells one from the other
            until = float(line[turn]) + found.alignment.ratio * (one.end_s - one.start_s)
            follows = float(line[turn + 1]) if turn + 1 < len(turns) else until
            onward = float(line[turn + 2]) if turn + 2 < len(turns) else until + (until - start)
            next_until = max(until, min(onward, until + (onward - follows)))
            if turn + 1 < len(turns) and any(found.due[p].note.string == one.note.string for p in turns[turn + 1]):
                next_until = until  # its string sounds anew: it cannot ring on
            following = turns[turn + 1] if turn + 1 < len(turns) else ()
            later = tuple(found.due[p].note.pitch for p in (*of, *following, *rings) if p != place)
            notes.append(
                Sounded(start, one.note.pitch + one.written.bend, until, next_until, beside, later, len(of) > 1)
            )
            places.append(place)
    return dict(zip(places, levels(samples, notes), strict=True))


def bend_cents(found: Found, samples: Samples) -> dict[int, float]:
    """How far each bend, by its place, lies off where it is to be held."""
    told = {}
    for turn, of in enumerate(found.turns):
        at = int(found.alignment.onset[turn])
        for place in of:
            one = found.due[place]
            if at < 0 or not one.written.bend or one.written.marks & {"release", "vibrato"}:
                continue
            start = float(found.heard.seconds[at])
            until = start + found.alignment.ratio * (one.end_s - one.start_s)
            off = cents_off(samples, start, until, one.note.pitch + one.written.bend)
            if off is not None:
                told[place] = off
    return told


def _midi_levels(
    found: Found, notes: Sequence[tuple[float, float, int]]
) -> dict[int, tuple[float | None, float | None]]:
    """The same of a MIDI performance, whose notes say when they end: there is all of a note, or nothing."""
    told: dict[int, tuple[float | None, float | None]] = {}
    line = found.alignment.due_s
    for turn, of in enumerate(found.turns):
        at = int(found.alignment.onset[turn])
        if at < 0:
            continue
        start = float(found.heard.seconds[at])
        for place in of:
            one = found.due[place]
            end = next((end for s, end, p in notes if p == one.note.pitch and abs(s - start) < _TOGETHER_S), None)
            if end is None:
                continue
            own = found.alignment.ratio * (one.end_s - one.start_s)
            gap = float(line[turn + 1] - line[turn]) if turn + 1 < len(line) else own
            told[place] = (
                0.0 if end > start + 0.5 * own else _NOTHING_DB,
                0.0 if end > float(line[turn]) + own + 0.5 * gap else _NOTHING_DB,
            )
    return told
