"""Renderings as WAV files, through soundfile."""

from __future__ import annotations

import io
from collections.abc import Iterable

import soundfile

from dromic.sound.render import Rendering
from dromic.sound.string import Samples


def wav_bytes(rendering: Rendering) -> bytes:
    """16-bit WAV of one channel."""
    return _written(rendering.pieces(), rendering.rate)


def samples_bytes(samples: Samples, rate: int) -> bytes:
    """The same of samples at hand."""
    return _written([samples], rate)


def _written(pieces: Iterable[Samples], rate: int) -> bytes:
    out = io.BytesIO()
    with soundfile.SoundFile(out, "w", rate, channels=1, format="WAV", subtype="PCM_16") as file:
        for piece in pieces:
            file.write(piece)
    return out.getvalue()
