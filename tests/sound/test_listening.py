"""Takes heard against plans: performed ones of known truth, channels, rates, other phrases, silence, clipping; onsets by mir_eval."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import mir_eval.onset
import numpy as np
import pytest

from bench.listen import scored
from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import frequency_hz
from dromic.sound.hearing.listening import check, check_sound
from dromic.sound.hearing.note_ends import cents_off
from dromic.sound.hearing.onsets import onsets
from dromic.sound.hearing.rate import RATE
from dromic.sound.hearing.take_file import Recording, checked
from dromic.sound.stretch import slowed
from dromic.sound.string import pluck
from dromic.sound.take_render import LEAD_S, take_sound
from dromic.sound.wav import samples_bytes
from tests.core.drills.test_drills import material_of

SETTINGS = presets.listening()


@pytest.fixture(scope="module")
def plan():
    return material_of(2).plan


def sound_of(plan, level: float = 0.0, seed: int = 1, faster: float = 1.0):
    played = perform(due_notes(plan), SETTINGS, level, seed, faster)
    return played, *take_sound(played, plan.request.phrase, seed)


@pytest.mark.parametrize(("tune", "school"), [(1, "pulse"), (2, "alternate"), (3, "sweep"), (4, "hybrid"), (8, "free")])
def test_a_take_that_follows_the_plan_yields_no_complaint(tune, school):
    plan = material_of(tune, school).plan
    played, samples, rate = sound_of(plan)
    report = check_sound(plan, Recording(samples, rate))
    assert [n.verdict for n in report.notes if n.verdict != "ok"] == [] and not report.extra and not report.worst
    assert report.tempo == pytest.approx(plan.request.phrase.tempo, rel=0.005)
    errors = [n.heard_s - p.start_s - LEAD_S for n, p in zip(report.notes, played, strict=True)]
    assert np.mean(np.abs(errors)) < 0.004


@pytest.mark.parametrize("faster", [1.25, 0.75])
def test_a_take_faster_or_slower_is_known_as_such(plan, faster):
    _, samples, rate = sound_of(plan, faster=faster)
    report = check_sound(plan, Recording(samples, rate))
    assert report.tempo == pytest.approx(plan.request.phrase.tempo * faster, rel=0.01)
    assert ("faster" if faster > 1 else "slower") in " ".join(report.said)
    assert sum(n.verdict != "ok" for n in report.notes) <= 1


def test_what_was_missed_and_weak_is_told_and_nothing_is_blamed_for_it(plan):
    told = Counter()
    for seed in range(3):
        played, samples, rate = sound_of(plan, 1.0, seed)
        score = scored(plan, played, samples, rate, LEAD_S)
        told += Counter(score.told)
        told_at = np.array([mir_eval.onset.f_measure(score.truth, score.found, window=w)[0] for w in (0.05, 0.025)])
        assert (told_at >= [0.97, 0.93]).all()
        assert sum(abs(error) < 40 for error in score.errors) / score.notes >= 0.98
    for kind in ("missed", "weak"):
        right = told[(kind, kind)]
        wrong = sum(n for (meant, said), n in told.items() if (meant == kind) != (said == kind))
        assert 2 * right / (2 * right + wrong) >= 0.9, kind


def test_onsets_of_plain_plucks_of_known_times():
    times = 0.3 + np.cumsum(np.full(40, 0.083))  # twelve a second
    out = np.zeros(int(4.2 * RATE))
    for n, at in enumerate(times):
        start, length = int(at * RATE), int(0.083 * RATE)
        out[start : start + length] += pluck(frequency_hz(52 + 5 * (n % 4)), length, RATE, 2.0, 0.5, 1.0, 0.14, n)
    found = onsets(out, (52, 57, 62, 67))
    assert mir_eval.onset.f_measure(times, found.seconds, window=0.025)[0] >= 0.97
    assert np.abs(found.seconds[: len(times)] - times).mean() < 0.004
    assert (found.speaks[:40].argmax(axis=1) == np.arange(40) % 4).mean() > 0.9


def test_the_click_in_the_other_channel_is_left_out_and_rates_do_not_matter(plan):
    _, samples, rate = sound_of(plan)
    click = np.zeros(len(samples))
    click[:: rate // 3] = 0.9
    both = check_sound(plan, Recording(np.stack([click, samples], axis=1), rate))
    assert not both.faults
    half = check_sound(plan, Recording(samples[::2], rate // 2))
    assert len(half.faults) <= 2 and half.tempo == pytest.approx(both.tempo, rel=0.002)


def test_other_phrases_silence_and_wrong_files_are_told(plan):
    other = material_of(3).plan
    _, samples, rate = sound_of(other)
    with pytest.raises(DromicError, match="no take of this phrase"):
        check_sound(plan, Recording(samples, rate))
    with pytest.raises(DromicError, match="silent"):
        check(plan, samples_bytes(np.zeros(RATE), RATE), "take.wav")
    with pytest.raises(DromicError, match="no sound file"):
        check(plan, b"RIFF but no more", "take.wav")
    with pytest.raises(DromicError, match="no MIDI file"):
        check(plan, b"MThd", "take.mid")


def test_clipping_is_said_and_loudness_judged_mildly(plan):
    _, samples, rate = sound_of(plan)
    take = checked(np.clip(samples[:, None] * 4, -1, 1), rate, "take.wav")
    assert take.clipped and "clipped" in take.said[0]
    assert "clipped" in " ".join(check_sound(plan, take).said)


@pytest.mark.parametrize("cents", [-40.0, -12.0, 0.0, 18.0, 35.0])
def test_a_held_pitch_is_read_to_a_few_cents(cents):
    hz = frequency_hz(64) * 2 ** (cents / 1200)
    held = pluck(hz, RATE, RATE, 3.0, 0.5, 1.0, 0.14, 7)
    assert cents_off(held, 0.0, 1.0, 64) == pytest.approx(cents, abs=8)


@pytest.mark.parametrize("share", [0.75, 0.5])
def test_slowed_at_its_pitch(share):
    rate, hz = 44100, 220.0
    tone = np.sin(2 * np.pi * hz * np.arange(2 * rate) / rate)
    slow = np.concatenate(list(slowed(tone, rate, share)))
    assert len(slow) == pytest.approx(len(tone) / share, rel=0.01)
    spectrum = np.abs(np.fft.rfft(slow * np.hanning(len(slow))))
    assert np.argmax(spectrum) * rate / len(slow) == pytest.approx(hz, rel=0.01)


def test_a_string_brushed_beside_the_note_is_told_and_nothing_else_is(plan):
    """The open third string brushed with every eighth note."""
    played = list(perform(due_notes(plan), SETTINGS, 0.0, 2))
    brushed = [n for n, one in enumerate(played) if n % 8 == 3 and one.due.open_beside]
    for n in brushed:
        played[n] = replace(played[n], brushed=played[n].due.open_beside[0])
    samples, rate = take_sound(played, plan.request.phrase, 2)
    report = check_sound(plan, Recording(samples, rate))
    told = {(one.index, one.string) for one in report.strings}
    meant = {(played[n].due.note.index, played[n].brushed[0]) for n in brushed}
    assert told <= meant and len(told) >= 2  # strings whose partials are all played anyhow are not told
    assert "Other strings sound" in " ".join(report.said)


def test_the_pick_without_the_finger_is_told_where_the_sound_shows_it(plan):
    played = list(perform(due_notes(plan), SETTINGS, 0.0, 4))
    late = [n for n, one in enumerate(played) if one.due.note.fret and one.due.picked and n % 9 == 5]
    for n in late:
        played[n] = replace(played[n], apart_s=0.040)
    samples, rate = take_sound(played, plan.request.phrase, 4)
    notes = check_sound(plan, Recording(samples, rate)).notes
    told = [n for n, note in enumerate(notes) if note.apart_ms is not None]
    assert told and set(told) <= set(late)
    assert np.median([notes[n].apart_ms for n in told]) == pytest.approx(40.0, abs=3.0)
    plain, *_ = sound_of(plan)
    assert not any(one.apart_s or one.brushed for one in plain)


def test_a_string_that_beats_with_itself_makes_no_click_and_a_pick_does():
    time = np.arange(int(1.5 * RATE)) / RATE
    low = frequency_hz(30)
    string = sum(np.sin(2 * np.pi * k * low * time) / k for k in range(1, 12)) * np.exp(-1.5 * time)
    swell = 1 + 0.9 * np.sin(2 * np.pi * 4 * time - 1.0)  # two directions of one string, out of tune by 4 Hz
    pick = np.zeros_like(time)
    at = int(0.8 * RATE)
    pick[at : at + 400] = np.random.default_rng(1).normal(0.0, 0.5, 400) * np.exp(-np.arange(400) / 100)
    heard = onsets(string * swell + pick, [30])
    picked = int(np.argmin(np.abs(heard.seconds - 0.8)))
    assert heard.seconds[picked] == pytest.approx(0.8, abs=0.01) and heard.click_db[picked] > 10
    assert all(click < SETTINGS.judge.click_db for n, click in enumerate(heard.click_db) if n not in (0, picked))
