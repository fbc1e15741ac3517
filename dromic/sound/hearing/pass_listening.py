"""A stretch of a pass, heard as soon as it is over."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dromic import presets
from dromic.core.listening.judging import judged
from dromic.core.listening.passes import Stretch, StretchHeard, stretch_heard
from dromic.core.listening.verdicts import Manner
from dromic.core.setup.listen_settings import ListenSettings
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.sound.hearing.bleed import loudest_moment
from dromic.sound.hearing.listening import bend_cents, found_by_ear, note_levels
from dromic.sound.string import Samples

SILENT_DB = -50.0
"""a stretch no louder than this was not played"""


def hear_stretch(
    stretch: Stretch, samples: Samples, at_s: float, reach_s: float, tempo: float, manner: Manner,
    go_on: Progress = lambda share: True, off: float = 0.0,
) -> StretchHeard:  # fmt: skip
    """What was played of a stretch. `samples` are one channel at the rate that is heard at; the stretch's first note is due at
    `at_s` in them, give or take `reach_s`. A loudspeaker was taken off them whose loudest moment was `off`."""
    settings = _live(presets.listening())
    rest = off * 10 ** (settings.live.bleed_rest_db / 20)
    if float(np.abs(samples).max(initial=0.0)) < 10 ** (SILENT_DB / 20) or loudest_moment(samples) < rest:
        return StretchHeard(stretch)
    start = at_s - stretch.due[0].start_s
    try:
        found = found_by_ear(stretch.due, samples, settings, go_on, (start, reach_s))
    except DromicError:
        return StretchHeard(stretch)  # sound, but no onset of any note
    report = judged(found, settings, tempo, note_levels(found, samples), bend_cents(found, samples), manner)
    onset = found.alignment.onset
    there = onset >= 0
    due = np.array([found.due[of[0]].start_s for of in found.turns])
    behind = float(np.median(found.heard.seconds[onset[there]] - (start + due[there]))) if there.any() else 0.0
    return stretch_heard(stretch, report, found.alignment.ratio, behind)


def _live(usual: ListenSettings) -> ListenSettings:
    """Numbers for what is known to be of this phrase, near a tempo that is known."""
    loosest = usual.live.loosest
    align = replace(usual.align, slowest=1 / (1 + loosest), fastest=1 + loosest, of_this_phrase=0.0)
    return replace(usual, align=align)
