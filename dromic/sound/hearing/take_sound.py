"""The sound of a take where it lies on the disk: what of it is heard is read, and nothing else."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from dromic.core.values.errors import DromicError
from dromic.sound.hearing.take_file import Recording, recording
from dromic.sound.string import Samples


@dataclass(frozen=True)
class FileSound:
    """A sound file from a second on."""

    path: Path
    skip_s: float = 0.0

    def piece(self, start_s: float, end_s: float) -> tuple[Samples, int]:
        """(samples of one channel, their rate) between two seconds; DromicError where the file is gone."""
        import soundfile

        try:
            with soundfile.SoundFile(self.path) as file:
                rate = int(file.samplerate)
                first = min(file.frames, max(0, round((self.skip_s + start_s) * rate)))
                file.seek(first)
                samples = file.read(
                    max(1, round((self.skip_s + end_s) * rate) - first), dtype="float32", always_2d=True
                )
        except (RuntimeError, OSError, ValueError) as error:
            raise DromicError(
                "its sound cannot be read any more; the notes are still there", path=self.path.name
            ) from error
        return np.asarray(samples.mean(axis=1)), rate

    def recording(self) -> Recording:
        """All of it."""
        return recording(self.path, self.path.name, self.skip_s)


@dataclass(frozen=True)
class HeldSound:
    """The same of a recording at hand."""

    held: Recording

    def piece(self, start_s: float, end_s: float) -> tuple[Samples, int]:
        """(samples of one channel, their rate) between two seconds."""
        rate = self.held.rate
        part = self.held.samples[max(0, int(start_s * rate)) : max(1, int(end_s * rate))]
        return (part.mean(axis=1) if part.ndim == 2 else part), rate

    def recording(self) -> Recording:
        """All of it."""
        return self.held
