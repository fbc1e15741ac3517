"""Stretches of a pass, heard on their own: at any tempo, silence, another drill, off the click by a known time."""

from __future__ import annotations

import numpy as np
import pytest

from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.passes import pass_heard, stretches
from dromic.core.listening.performance import perform
from dromic.core.listening.verdicts import Manner
from dromic.sound.hearing.pass_listening import hear_stretch
from dromic.sound.take_render import LEAD_S, take_sound
from tests.core.drills.test_drills import material_of

SETTINGS = presets.listening()
LIVE, HARD = SETTINGS.live, SETTINGS.judge.hard


def heard(plan, tempo: float, played=None, off_s: float = 0.0, other=None):
    """The stretches of a pass whose sound comes so much later than the click has it; of `other`'s notes, if given."""
    due = due_notes(plan, tempo)
    played = played if played is not None else perform(due_notes(other or plan, tempo), SETTINGS, 0.0, 3)
    samples, rate = take_sound(played, plan.request.phrase, 3)
    found = []
    for stretch in stretches(due, LIVE):
        begin = max(0.0, LEAD_S + stretch.start_s - off_s - 0.1)
        part = samples[int(begin * rate) : int((LEAD_S + stretch.end_s - off_s + LIVE.margin_s) * rate)]
        at_s = LEAD_S + stretch.start_s - off_s - begin
        found.append(hear_stretch(stretch, part, at_s, LIVE.reach_s, tempo, Manner()))
    return found


@pytest.mark.parametrize("share", [0.45, 0.8, 1.0])
def test_a_clean_pass_is_clean_at_any_tempo(share):
    plan = material_of(2).plan
    found = heard(plan, plan.request.phrase.tempo * share)
    assert len(found) > 3 and sum(len(one.notes) for one in found) == len(due_notes(plan))
    whole = pass_heard(found, LIVE, HARD)
    assert whole is not None and whole.clean, whole


def test_how_far_off_the_click_is_told_where_the_way_is_known():
    plan = material_of(2).plan
    found = heard(plan, plan.request.phrase.tempo, off_s=0.06)
    assert [one.behind_s for one in found] == pytest.approx([0.06] * len(found), abs=0.01)
    words = pass_heard(found, LIVE, HARD, way_known=True).words
    assert "behind the click" in words and "click" not in pass_heard(found, LIVE, HARD).words
    on_time = heard(plan, plan.request.phrase.tempo)
    assert "click" not in pass_heard(on_time, LIVE, HARD, way_known=True).words


def test_another_drill_is_missed_and_silence_is_no_pass():
    plan = material_of(2).plan
    tempo = plan.request.phrase.tempo
    other = pass_heard(heard(plan, tempo, other=material_of(3).plan), LIVE, HARD)
    assert other is not None and not other.clean and "another drill" in other.words
    stretch = stretches(due_notes(plan, tempo), LIVE)[0]
    quiet = hear_stretch(stretch, np.random.default_rng(0).normal(0, 1e-4, 44100), 0.1, 0.3, tempo, Manner())
    assert quiet.notes == () and pass_heard([quiet], LIVE, HARD) is None
    rest = np.random.default_rng(0).normal(0, 0.02, 44100)  # of a click that was taken off
    assert hear_stretch(stretch, rest, 0.1, 0.3, tempo, Manner(), off=1.0).notes == ()
    assert hear_stretch(stretch, rest, 0.1, 0.3, tempo, Manner(), off=0.1).notes != ()


def test_a_note_left_out_in_the_middle_is_missed_where_it_was_due():
    plan = material_of(2).plan
    tempo = plan.request.phrase.tempo
    played = list(perform(due_notes(plan, tempo), SETTINGS, 0.0, 3))
    gone = len(played) // 2
    played[gone] = type(played[gone])(played[gone].due, None, None, 0.0, 0.0, "missed")
    found = pass_heard(heard(plan, tempo, played), LIVE, HARD)
    assert (
        not found.clean and found.fault == "missed" and f"note {played[gone].due.note.index + 1} missed" in found.words
    )
