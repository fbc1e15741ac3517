"""Renderings as WAV files, through soundfile."""

from __future__ import annotations

import io

import soundfile

from dromic.sound.render import Rendering


def wav_bytes(rendering: Rendering) -> bytes:
    """16-bit WAV of one channel."""
    out = io.BytesIO()
    soundfile.write(out, rendering.samples, rendering.rate, format="WAV", subtype="PCM_16")
    return out.getvalue()
