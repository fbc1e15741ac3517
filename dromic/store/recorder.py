"""Writes a recording to disk while it runs, so that nothing but its last moment can be lost; and mends what a killed writer left,
whose header lies about its length. A writer holds a lock on its file as long as it lives."""

from __future__ import annotations

import fcntl
import io
import os
import shutil
from collections.abc import Callable, Mapping
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from dromic.core.values.errors import DromicError
from dromic.sound.string import Samples
from dromic.store.saving import held, save

if TYPE_CHECKING:
    import soundfile

_FLUSH_S = 0.5
"""Seconds of sound after which what is written is given to the system."""
_BLOCK = 1024
"""Frames read at once: what of a block lies before a break is lost."""
_LOOK_S = 2.0
"""how often the room on the disk is looked at"""
_LONGEST_S = 86400.0
"""a header that says more was never finished"""


class Recorder:
    """One channel of 16 bits as FLAC; DromicError where the disk does not take it."""

    def __init__(self, path: Path, rate: int) -> None:
        import soundfile

        self.path, self.rate, self.frames, self._unflushed = path, rate, 0, 0
        try:
            self._lock = os.open(path, os.O_RDWR | os.O_CREAT, 0o600)
        except OSError as error:
            raise DromicError(f"a recording cannot be written ({error.strerror})", path=path.name) from error
        try:
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self._file: soundfile.SoundFile | None = soundfile.SoundFile(
                path, "w", samplerate=rate, channels=1, subtype="PCM_16", format="FLAC"
            )
        except (OSError, RuntimeError) as error:
            os.close(self._lock)
            raise DromicError(f"a recording cannot be written ({error})", path=path.name) from error

    def write(self, samples: Samples) -> None:
        """So much more."""
        if self._file is None or not len(samples):
            return
        try:
            self._file.write(np.clip(samples, -1.0, 1.0))
            self.frames += len(samples)
            self._unflushed += len(samples)
            if self._unflushed >= _FLUSH_S * self.rate:
                self._file.flush()
                self._unflushed = 0
        except (OSError, RuntimeError) as error:
            self.close()
            raise DromicError(
                f"the recording ends here: the disk does not take it ({error})", path=self.path.name
            ) from error

    def close(self) -> None:
        """The recording is over; its header says how long it is."""
        file, self._file = self._file, None
        if file is not None:
            try:
                file.close()
            except (OSError, RuntimeError) as error:
                raise DromicError(f"the recording could not be finished ({error})", path=self.path.name) from error
            finally:
                os.close(self._lock)


class RecordingBounds:
    """How long a recording may go on: minutes, and room on the disk. What is to come is told once, before it does."""

    def __init__(
        self, limits: Mapping[str, Any], free: Callable[[Path], int] = lambda path: shutil.disk_usage(path).free
    ) -> None:
        self._limits, self._free = limits, free
        self._told: set[str] = set()
        self._looked_s = -_LOOK_S

    def look(self, seconds: float, folder: Path) -> tuple[str, bool]:
        """(what is to be told now, nothing for nothing; whether the recording is over) after so many seconds."""
        limits, most_s = self._limits, self._limits["record_minutes"] * 60
        if seconds >= most_s:
            return f"The recording ends here: takes of up to {limits['record_minutes']} minutes are heard", True
        if seconds >= most_s - limits["record_told_s"] and self._first("minutes"):
            return f"The recording ends in {limits['record_told_s']} seconds: longer takes are not heard", False
        if seconds - self._looked_s < _LOOK_S:
            return "", False
        self._looked_s = seconds
        try:
            free_mb = self._free(folder) / 1e6
        except OSError:
            return "", False
        if free_mb < limits["record_least_mb"]:
            return f"The recording ends here: the disk has only {free_mb:.0f} MB left", True
        if free_mb < limits["record_told_mb"] and self._first("room"):
            return f"The disk has {free_mb:.0f} MB left: at {limits['record_least_mb']} MB the recording ends", False
        return "", False

    def _first(self, what: str) -> bool:
        first = what not in self._told
        self._told.add(what)
        return first


def mend(path: Path) -> bool:
    """Give a recording whose writer was killed a header that is true; whether it had to be. What cannot be read, or is being written,
    stays as it is."""
    import soundfile

    if held(path):
        return False
    blocks: list[Samples] = []
    # a recording that was never finished is read up to its break, where the library gives up
    with suppress(OSError, RuntimeError), soundfile.SoundFile(path) as file:
        rate = int(file.samplerate)
        if file.frames <= _LONGEST_S * rate:
            return False
        while len(block := file.read(_BLOCK, dtype="int16")):
            blocks.append(block)
    if not blocks:
        return False
    out = io.BytesIO()
    soundfile.write(out, np.concatenate(blocks), rate, format="FLAC", subtype="PCM_16")
    save(path, out.getvalue(), private=True)
    return True
