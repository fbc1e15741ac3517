"""Rendering: pitches in tune, notes where they are written to the sample, and what each technique does to a sound.

Frequencies are checked against equal temperament (A4 = 440 Hz, ISO 16) by the autocorrelation of what is rendered.
"""

from __future__ import annotations

import io
import tracemalloc
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
import soundfile

from dromic import presets
from dromic.core.editing.edit import Span
from dromic.core.music.songbook import empty_phrase
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import frequency_hz
from dromic.core.values.progress import Cancelled
from dromic.formats.text.quick_line import parse
from dromic.sound.render import RenderRequest, render
from dromic.sound.string import pluck
from dromic.sound.tape import Tape, taped
from dromic.sound.wav import wav_bytes
from tests.phrases import GUITAR

RATE = 44100


def line(text, bars=1):
    return parse(text, empty_phrase("x", GUITAR, bars), GUITAR).phrase


def heard_hz(sound, near):
    """The frequency of a sound, looked for within a semitone of where it should be."""
    sound = sound - sound.mean()
    spectrum = np.fft.rfft(sound, 4 * len(sound))
    match = np.fft.irfft(np.abs(spectrum) ** 2)
    low, high = int(RATE / near / 1.06), int(RATE / near * 1.06) + 2
    peak = low + int(match[low:high].argmax())
    a, b, c = match[peak - 1 : peak + 2]
    return RATE / (peak + 0.5 * (a - c) / (a - 2 * b + c))


@pytest.mark.parametrize("pitch", [28, 40, 52, 64, 76, 88])
def test_strings_are_in_tune(pitch):
    hz = frequency_hz(pitch)
    sound = pluck(hz, RATE, RATE, 3.0, 0.5, 1.0, 0.14, seed=1)
    cents = 1200 * np.log2(heard_hz(sound[2000:], hz) / hz)
    assert abs(cents) < 5


def test_a_string_falls_by_60_db_in_its_time():
    sound = pluck(220.0, 2 * RATE, RATE, 1.0, 1.0, 1.0, 0.14, seed=1)
    level = [np.sqrt(np.mean(sound[a : a + 2205] ** 2)) for a in (0, RATE)]
    assert 20 * np.log10(level[1] / level[0]) == pytest.approx(-60, abs=5)  # tuning between samples dulls a little more


def onsets(samples):
    """Where silence ends: the first sample after at least 5 ms without any."""
    loud = np.flatnonzero(np.abs(samples) > 1e-9)
    return [int(loud[0]), *(int(b) for a, b in pairwise(loud) if b - a > RATE // 200)]


def test_notes_begin_on_their_very_sample():
    phrase = line("6.0=z:e r 5.2=z r 1.3=z:q r")
    samples = render(phrase.at_tempo(97.0), RenderRequest()).samples()
    expected = [round(float(e.onset) * 60 / 97.0 * RATE) for e in phrase.events]
    assert all(abs(a - b) <= 1 for a, b in zip(onsets(samples), expected, strict=True))


def test_slower_is_later_and_not_lower():
    phrase = line("5.0:h 5.0")
    slow, plain = render(phrase, RenderRequest(tempo=60.0)), render(phrase, RenderRequest())
    assert slow.music_s == pytest.approx(2 * plain.music_s)
    slow_hz, plain_hz = (heard_hz(made.samples()[3000:40000], 110) for made in (slow, plain))
    assert slow_hz == pytest.approx(plain_hz, rel=0.002)


def test_techniques_are_heard():
    def level(text):
        samples = render(line(text), RenderRequest()).samples()[: RATE // 2]
        return float(np.sqrt(np.mean(samples**2)))

    assert level("6.0_:w") < 0.6 * level("6.0:w") < level("6.0!:w")
    assert level("6.0x:w") < 0.5 * level("6.0:w")

    def hz(text, near):
        return heard_hz(render(line(text), RenderRequest()).samples()[30000:60000], near)

    assert hz("3.7^2:w", frequency_hz(64)) == pytest.approx(frequency_hz(64), rel=0.004)
    assert hz("3.7^=2:w", frequency_hz(64)) == pytest.approx(frequency_hz(64), rel=0.004)
    began = render(line("3.7^=2:w"), RenderRequest()).samples()[2000:8000]
    assert heard_hz(began, frequency_hz(64)) == pytest.approx(frequency_hz(64), rel=0.004)  # bent from the start
    assert hz("3.7:w", frequency_hz(62)) == pytest.approx(frequency_hz(62), rel=0.004)
    # slid to and struck: the note before glides up to it
    slid = render(line("3.7:h 3.9{slide-to}:h"), RenderRequest()).samples()
    end = slice(RATE - RATE // 20, RATE - RATE // 100)
    held = render(line("3.7:h 3.9:h"), RenderRequest()).samples()
    assert np.abs(slid[: RATE // 2] - held[: RATE // 2]).max() < 1e-6 < np.abs(slid[end] - held[end]).max()
    struck = render(line("6.3:h 6.5:h"), RenderRequest()).samples()
    hammered = render(line("6.3:h h6.5:h"), RenderRequest()).samples()
    second = slice(len(struck) // 2 - RATE // 4, len(struck) // 2)
    assert np.abs(hammered[second]).max() < np.abs(struck[second]).max()


def test_click_count_in_and_where_it_is():
    phrase = line("6.0:q 6.0 6.0 6.0")
    made = render(phrase, RenderRequest(click=True, count_in=True))
    assert made.seconds[0] == pytest.approx(2.0) and made.music_s == pytest.approx(4.0)
    assert made.at(1.0) is None and made.at(2.0) == 0 and float(made.at(3.0)) == pytest.approx(2, abs=0.01)
    assert onsets(made.samples()[: 2 * RATE])[:2] == pytest.approx([1, RATE // 2], abs=2)


def test_repeats_are_played_out_and_followed():
    phrase = line("|: 6.0:w :| 5.0:w")
    made = render(phrase, RenderRequest())
    assert made.written == (0, 0, 4) and float(made.at(3.0)) == pytest.approx(2.0, abs=0.01)


def test_a_passage_sounds_alone():
    phrase = line("6.0:q 5.2 4.2 3.1 | 2.0:w")
    made = render(phrase, RenderRequest(span=Span(Fraction(1), Fraction(3))))
    assert made.music_s == pytest.approx(1.0) and made.at(0.1) == Fraction(6, 5)
    assert heard_hz(made.samples()[1000:18000], frequency_hz(47)) == pytest.approx(frequency_hz(47), rel=0.01)
    with pytest.raises(DromicError, match="nothing to play"):
        render(line("r:w"), RenderRequest())
    with pytest.raises(Cancelled):
        render(phrase, RenderRequest()).samples(lambda share: False)


def test_pieces_join_without_a_seam():
    """A chord that rings across many pieces is the same sound as its notes, each laid down whole."""
    made = render(line("6.0*:q 5.2* 4.2*:h | r:w"), RenderRequest(tempo=40.0))
    pieces = list(made.pieces())
    assert len(pieces) > 10 and {len(p) for p in pieces[:-1]} == {RATE}
    whole = np.zeros(made.length)
    for one in made.sounds:
        sound = one.level * one.make()[: made.length - one.at]
        whole[one.at : one.at + len(sound)] += sound
    assert np.abs(np.concatenate(pieces) - presets.sound().mix.level * whole).max() < 1e-12


def test_a_chord_is_not_much_louder_than_a_note_and_nothing_is_cut_off():
    def rms(text):
        return float(np.sqrt(np.mean(render(line(text), RenderRequest()).samples()[:RATE] ** 2)))

    assert 0.5 < rms("6.3+5.2+4.0+3.0+2.0+1.3:w") / rms("6.3:w") < 2
    loud = render(line("6.3+5.2+4.0+3.0+2.0+1.3:s " * 8), RenderRequest(click=True)).samples()
    assert np.abs(loud).max() < 1.0 and (np.abs(loud) == np.abs(loud).max()).sum() < 3


def test_a_tape_is_put_down_as_far_as_it_is_wanted():
    made = render(line("6.0:w | 5.0:w | 4.0:w | 3.0:w"), RenderRequest(tail=False))
    tape = Tape(made.length, made.rate, made.pieces()).put_down(ahead_s=3.0)
    assert tape.length_s == pytest.approx(8.0) and tape.data[: 3 * RATE].any() and not tape.data[3 * RATE :].any()
    with pytest.raises(Cancelled):
        tape.put_down(lambda share: share < 0.6)
    whole = made.samples()
    tape.put_down()
    assert np.abs(tape.samples(np.arange(len(tape))) - whole).max() < 1e-4
    assert tape.samples(np.array([len(tape) + 5])) == tape.samples(np.array([5]))  # round and round
    assert taped(whole, RATE).data.tobytes() == tape.data.tobytes()
    short = Tape(2 * RATE, RATE, [np.ones(RATE)]).put_down()
    assert short.data[:RATE].all() and not short.data[RATE:].any()


def test_an_hour_is_made_without_holding_it():
    """Of a sound that goes on for an hour only what rings is held, not all that was made."""
    made = render(line(" | ".join(["6.3:e 6.5 5.3 5.5 4.2 4.5 3.2 3.4"] * 900)), RenderRequest(tempo=60.0))
    tracemalloc.start()
    try:
        for n, piece in enumerate(made.pieces()):
            assert len(piece) <= RATE
            if n == 60:
                break
        assert made.length > 3590 * RATE and tracemalloc.get_traced_memory()[1] < 20e6
    finally:
        tracemalloc.stop()


def test_wav_files_hold_what_was_rendered():
    made = render(line("6.0:w"), RenderRequest())
    samples, rate = soundfile.read(io.BytesIO(wav_bytes(made)))
    assert rate == RATE and len(samples) == made.length
    assert np.abs(samples - made.samples()).max() < 1e-4
