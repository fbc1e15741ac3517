"""Renderings as WAV files, through soundfile."""

from __future__ import annotations

import io

import soundfile

from dromic.sound.render import Rendering
from dromic.sound.string import Samples


def wav_bytes(rendering: Rendering) -> bytes:
    """16-bit WAV of one channel."""
    return samples_bytes(rendering.samples, rendering.rate)


def samples_bytes(samples: Samples, rate: int) -> bytes:
    """The same of samples at hand."""
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype="PCM_16")
    return out.getvalue()
