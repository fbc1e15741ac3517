"""Takes as files: read block by block, bounded before anything is read, heard in a process of their own that can be ended."""

from __future__ import annotations

import io
import time
import warnings

import mido
import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import resample_poly

from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.core.listening.verdicts import Manner
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled
from dromic.sound.hearing.listening import check
from dromic.sound.hearing.rate import RATE, Resampler
from dromic.sound.hearing.take_file import check_size, midi_heard, recording
from dromic.sound.hearing.take_sound import FileSound
from dromic.sound.take_render import take_sound
from dromic.store import reading
from tests.core.drills.test_drills import material_of
from tests.examples import examples


@given(
    st.sampled_from([8000, 11025, 22050, 44100, 48000, 96000, 192000, 44101]), st.integers(1, 5000), st.integers(1, 2000),
    st.integers(1, 2),
)  # fmt: skip
@examples(40)
def test_blocks_brought_to_the_rate_are_what_the_whole_is(rate, frames, block, channels):
    sound = np.random.default_rng(frames).normal(0, 0.1, (frames, channels)).astype(np.float32)
    resampler = Resampler(rate, channels)
    found = np.concatenate([*(resampler.feed(sound[n : n + block]) for n in range(0, frames, block)), resampler.end()])
    divisor = np.gcd(RATE, rate)
    whole = resample_poly(sound, RATE // divisor, rate // divisor, axis=0)
    assert found.shape == whole.shape and np.allclose(found, whole, atol=1e-5)


def wav(samples, rate=RATE, subtype="PCM_16"):
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype=subtype)
    return out.getvalue()


PLAN = material_of(2).plan
SOUND = np.random.default_rng(1).normal(0, 0.1, (RATE // 2, 8))


def test_many_channels_are_mixed_down_and_two_are_kept():
    assert recording(wav(SOUND), "x").samples.shape == (RATE // 2, 1)
    assert np.allclose(recording(wav(SOUND), "x").samples[:, 0], SOUND.mean(axis=1), atol=1e-4)
    assert recording(wav(SOUND[:, :2]), "x").samples.shape == (RATE // 2, 2)
    assert len(recording(wav(SOUND[:, :1], 22050), "x", skip_s=0.5).samples) == RATE // 2


def test_what_is_too_much_is_refused_before_it_is_read(monkeypatch, tmp_path):
    limits = presets.data("limits.toml")
    monkeypatch.setattr(soundfile.SoundFile, "blocks", lambda *_, **__: pytest.fail("it was read"))
    monkeypatch.setitem(limits, "take_msamples", 0.1)
    with pytest.raises(DromicError, match="million samples"):
        recording(wav(SOUND), "x")
    monkeypatch.setitem(limits, "take_minutes", 0.001)
    with pytest.raises(DromicError, match="minutes"):
        recording(wav(SOUND), "x")
    monkeypatch.setitem(limits, "take_mb", 0.01)
    (tmp_path / "x.wav").write_bytes(wav(SOUND))
    with pytest.raises(DromicError, match="of up to"):
        check_size(tmp_path / "x.wav")


@pytest.mark.parametrize("loud", [1e38, 1e300, np.inf, np.nan])
def test_no_warning_of_a_library_comes_before_the_sentence(loud):
    with warnings.catch_warnings(), pytest.raises(DromicError):
        warnings.simplefilter("error")
        check(PLAN, wav(SOUND[:, :1] * loud, subtype="DOUBLE"), "x.wav")


def test_a_clipped_take_says_so_whatever_the_blocks(monkeypatch):
    clipped = np.clip(SOUND[:, :1] * 20, -1.0, 1.0)
    found = set()
    for block in (1 << 16, 1000, 77):
        monkeypatch.setattr("dromic.sound.hearing.take_file._BLOCK", block)
        found.add(recording(wav(clipped), "x").clipped)
    assert len(found) == 1 and found.pop() > 10


def midi(notes, tempo=500_000):
    """(beat, length, pitch) of each note as a file whose tempo doubles after the first beat."""
    file, track, now = mido.MidiFile(ticks_per_beat=480), mido.MidiTrack(), 0
    events = [(0, mido.MetaMessage("set_tempo", tempo=tempo)), (480, mido.MetaMessage("set_tempo", tempo=tempo // 2))]
    for beat, length, pitch in notes:
        events += [(round(480 * beat), mido.Message("note_on", note=pitch, velocity=80)),
                   (round(480 * (beat + length)), mido.Message("note_off", note=pitch, velocity=0))]  # fmt: skip
    for tick, message in sorted(events, key=lambda one: one[0]):
        track.append(message.copy(time=tick - now))
        now = tick
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def test_a_midi_take_has_the_times_of_its_tempos():
    """As mido plays the same file."""
    data = midi([(0, 0.5, 52), (1, 0.5, 55), (3, 1, 59)])
    heard, notes = midi_heard(data, "x.mid", due_notes(PLAN))
    now, onsets = 0.0, []
    for message in mido.MidiFile(file=io.BytesIO(data)):
        now += message.time
        onsets += [now] if message.type == "note_on" and message.velocity else []
    assert heard.seconds.tolist() == pytest.approx(onsets) and [end for _, end, _ in notes] == pytest.approx(
        [0.25, 0.625, 1.25]
    )
    with pytest.raises(DromicError, match="notes; takes of up to"):
        midi_heard(midi([(n / 20, 0.01, 50) for n in range(15_100)]), "x.mid", due_notes(PLAN))


@pytest.fixture
def take(tmp_path):
    plan = PLAN
    samples, rate = take_sound(perform(due_notes(plan), presets.listening(), 0.3, 2), plan.request.phrase, 2)
    path = tmp_path / "take.wav"
    path.write_bytes(wav(samples, rate))
    yield plan, path
    reading._LISTENER.stop()


def test_a_take_is_heard_in_a_process_beside_as_in_this_one(take):
    plan, path = take
    shares = []
    report = reading.hear_file(plan, path, "take.wav", Manner(), lambda share: shares.append(share) or True)
    assert report == check(plan, path, "take.wav", Manner())
    with pytest.raises(DromicError, match="no take of this phrase"):
        reading.hear_file(material_of(5).plan, path, "take.wav", Manner())
    samples, rate = FileSound(path).piece(0.1, 0.2)
    assert len(samples) == rate // 10


def test_what_is_not_wanted_any_more_ends_with_its_process(take):
    plan, path = take
    reading.hear_file(plan, path, "take.wav", Manner())
    process = reading._LISTENER._process
    with pytest.raises(Cancelled):
        reading.hear_file(plan, path, "take.wav", Manner(), lambda share: False)
    assert not process.is_alive()


def test_a_process_that_is_killed_while_it_hears_is_told(take):
    plan, path = take
    kills = []

    def kill(_share):
        process = reading._LISTENER._process
        if process is not None and process not in kills:
            kills.append(process)
            process.kill()
        return True

    with pytest.raises(DromicError, match="stopped from outside"):
        reading.hear_file(plan, path, "take.wav", Manner(), kill)
    assert len(kills) == 2  # it was tried once more
    end = time.monotonic() + 20
    while any(process.is_alive() for process in kills) and time.monotonic() < end:
        time.sleep(0.05)
    assert not any(process.is_alive() for process in kills)
