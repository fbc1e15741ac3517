"""Open strings that sound with a note and are not meant to: the partials such a string has for itself, before the note's onset and
after it."""

from __future__ import annotations

import numpy as np

from dromic.core.listening.judging import Found
from dromic.core.listening.report import OtherString
from dromic.core.setup.listen_settings import JudgeNumbers
from dromic.sound.hearing.note_ends import own_bins, power, powers, window_size
from dromic.sound.hearing.rate import RATE
from dromic.sound.string import Samples

_MOVING = frozenset({"vibrato", "slide-in", "slide-out", "slide-to", "tremolo", "release"})
"""what passes through other pitches on its way"""
_LEAST_BINS = 2
"""Partials a string must have for itself."""
_RISEN = 0.7
"""Share of them that must come with the note."""
_AFTER = 0.6
"""Window's middle after an onset, as a share of its length."""
_BEFORE = 0.6
"""Window's middle before an onset, as a share of its length."""


def other_strings(found: Found, samples: Samples, numbers: JudgeNumbers) -> tuple[OtherString, ...]:
    """Which open strings are heard beside those played; strings whose partials are all shared with what is played are not told."""
    told: list[OtherString] = []
    onset, line, turns = found.alignment.onset, found.alignment.due_s, found.turns
    for turn, of in enumerate(turns):
        one = found.due[of[0]]
        moves = any(found.due[p].written.bend or found.due[p].note.marks & _MOVING for p in of)
        if onset[turn] < 0 or one.silent or not one.picked or moves:
            continue
        at = float(found.heard.seconds[onset[turn]])
        own = float(line[turn + 1]) - at if turn + 1 < len(line) else found.alignment.ratio * (one.end_s - one.start_s)
        size = window_size(own)
        near = tuple(
            {found.due[p].note.pitch for t in range(max(0, turn - 2), min(len(turns), turn + 2)) for p in turns[t]}
        )
        main = own_bins(one.note.pitch, (), size)
        loud = power(samples, at + _AFTER * size / RATE, main, size) / max(1, len(main))
        for string, pitch in one.open_beside:
            bins = own_bins(pitch, near, size)
            if pitch in near or len(bins) < _LEAST_BINS:
                continue
            after = powers(samples, at + _AFTER * size / RATE, bins, size)
            before = powers(samples, at - _BEFORE * size / RATE, bins, size)
            risen = 10 * np.log10(after / before) >= numbers.other_rise_db
            db = 10 * float(np.log10(after.mean() / loud))
            if risen.mean() >= _RISEN and db >= numbers.other_db:
                told.append(OtherString(one.note.index, string, db))
    return tuple(told)
