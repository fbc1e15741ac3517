"""Takes that the player kept: the sound as it was heard, and beside it what was said of every note, so that days can be laid side by
side without hearing them again. Thrown away ones are gone for good when the folder is next cleared."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

from dromic.core.values.errors import DromicError
from dromic.store.folders import data_folder
from dromic.store.recorder import Recorder, mend
from dromic.store.saving import save

_ENTRY, _THROWN = ".json", ".thrown"
_STAMP = "%Y%m%d-%H%M%S-%f"


@dataclass(frozen=True, slots=True)
class KeptTake:
    """A take of a phrase: when, what it is called, its tempo in quarters a minute, and of every note (its number, how far off in ms
    or None, the verdict). `size` is what it takes on the disk, in bytes; `suffix` the kind of sound, nothing for none."""

    at: datetime
    phrase: str
    name: str
    tempo: float
    timing_ms: float
    loudness_db: float
    notes: tuple[tuple[int, float | None, str], ...]
    suffix: str = ""
    size: int = 0
    kept: bool = True
    """whether the player said so; a recording is on disk before, and stands among the takes until it is kept or thrown away"""

    @property
    def number(self) -> str:
        """What it is filed under."""
        return self.at.strftime(_STAMP)

    @property
    def fine(self) -> int:
        """How many notes were as they are meant."""
        return sum(verdict == "ok" for _, _, verdict in self.notes)


class Takes:
    """The kept takes of a folder; it is made when the first one is kept."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or data_folder() / "takes"

    def keep(self, take: KeptTake, sound: bytes) -> KeptTake:
        """Keep a take with its sound; DromicError where it cannot be."""
        try:
            self._of(take.phrase).mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise DromicError(f"no take can be kept: {error.strerror}", path=self.folder.name) from error
        if sound:
            save(self._path(take, take.suffix), sound, private=True)
        made = replace(take, size=len(sound))
        save(self._path(take, _ENTRY), json.dumps(_entry(made)).encode(), private=True)
        return made

    def begin(self, take: KeptTake, rate: int) -> Recorder:
        """A recording that is written while it runs, filed as not kept yet; DromicError where it cannot be."""
        try:
            self._of(take.phrase).mkdir(parents=True, exist_ok=True, mode=0o700)
        except OSError as error:
            raise DromicError(f"nothing can be recorded: {error.strerror}", path=self.folder.name) from error
        recorder = Recorder(self._path(take, take.suffix), rate)
        save(self._path(take, _ENTRY), json.dumps(_entry(replace(take, kept=False))).encode(), private=True)
        return recorder

    def ended(self, take: KeptTake) -> KeptTake:
        """The same when the recording is over, with what it takes on the disk."""
        path = self._path(take, take.suffix)
        made = replace(take, kept=False, size=path.stat().st_size if path.exists() else 0)
        save(self._path(take, _ENTRY), json.dumps(_entry(made)).encode(), private=True)
        return made

    def mend(self) -> int:
        """Set right what killed writers left, and say how many recordings there were."""
        mended = 0
        for path in self.folder.glob(f"*/*{_ENTRY}"):
            take = _read(path)
            if take is not None and not take.kept and not take.size:
                with suppress(DromicError, OSError):
                    if mend(path.with_suffix(take.suffix)):
                        self.ended(take)
                        mended += 1
        return mended

    def of(self, phrase: str) -> tuple[KeptTake, ...]:
        """The takes of a phrase, the oldest first; what cannot be read is left out."""
        found = [take for path in sorted(self._of(phrase).glob(f"*{_ENTRY}")) if (take := _read(path)) is not None]
        return tuple(take for take in found if take.phrase == phrase)

    def sound(self, take: KeptTake) -> bytes:
        """The sound of a take; DromicError where it is not there any more."""
        try:
            return self._path(take, take.suffix).read_bytes()
        except OSError as error:
            raise DromicError(
                f"its sound cannot be read ({error.strerror}); the notes are still there", path=take.name
            ) from error

    def throw(self, take: KeptTake) -> None:
        """Throw a take away; it can be brought back until the folder is cleared."""
        for suffix in (take.suffix, _ENTRY):
            path = self._path(take, suffix)
            if suffix and path.exists():
                path.rename(path.with_name(path.name + _THROWN))

    def bring_back(self, take: KeptTake) -> None:
        """Undo that."""
        for suffix in (take.suffix, _ENTRY):
            path = self._path(take, suffix)
            thrown = path.with_name(path.name + _THROWN)
            if suffix and thrown.exists():
                thrown.rename(path)

    def clear(self) -> None:
        """Let thrown ones go for good."""
        for path in self.folder.rglob(f"*{_THROWN}"):
            with suppress(OSError):
                path.unlink()

    def _of(self, phrase: str) -> Path:
        """The folder of a phrase: no other phrase's takes are read to show its own."""
        return self.folder / hashlib.sha256(phrase.encode()).hexdigest()[:16]

    def _path(self, take: KeptTake, suffix: str) -> Path:
        return self._of(take.phrase) / f"{take.number}{suffix}"


def _entry(take: KeptTake) -> dict[str, Any]:
    return {"dromic": 1, **asdict(take), "at": take.at.isoformat(), "notes": [list(note) for note in take.notes]}


def _read(path: Path) -> KeptTake | None:
    try:
        held = json.loads(path.read_text("utf-8"))
        return _taken(held)
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return None


def _taken(held: Mapping[str, Any]) -> KeptTake:
    notes = tuple((int(n), None if e is None else float(e), str(v)) for n, e, v in held["notes"])
    return KeptTake(
        datetime.fromisoformat(held["at"]), str(held["phrase"]), str(held["name"]), float(held["tempo"]),
        float(held["timing_ms"]), float(held["loudness_db"]), notes, str(held["suffix"]), int(held["size"]),
        bool(held.get("kept", True)),
    )  # fmt: skip
