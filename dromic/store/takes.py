"""Takes that the player kept: the sound as it was heard, and beside it what was said of every note, so that days can be laid side by
side without hearing them again. Thrown away ones are gone for good when the folder is next cleared."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

from dromic.core.practice.log_pass import PhraseName
from dromic.core.values.errors import DromicError
from dromic.store.folders import data_folder
from dromic.store.recorder import Recorder, mend
from dromic.store.saving import held as is_held
from dromic.store.saving import save

_ENTRY = ".json"
"""What is known of a take, JSON."""
_PLAYED = ".played"
"""What was played: the songbook of the phrase, and the plan, JSON."""
_THROWN = ".thrown"
"""What was thrown away."""
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
    phrase_id: str = ""
    """of the phrase, empty where a take was kept under a title alone"""
    skip_s: float = 0.0
    """seconds of the sound before the take itself: the bar counted in"""

    @property
    def of(self) -> PhraseName:
        """Whose take it is."""
        return PhraseName(self.phrase, self.phrase_id)

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
            self._of(take.of).mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise DromicError(f"no take can be kept: {error.strerror}", path=self.folder.name) from error
        if sound:
            save(self._path(take, take.suffix), sound, private=True)
        made = replace(take, size=len(sound))
        save(self._path(take, _ENTRY), json.dumps(_entry(made)).encode(), private=True)
        return made

    def begin(self, take: KeptTake, rate: int, played: bytes = b"") -> Recorder:
        """A recording that is written while it runs, filed as not kept yet, and beside it what is played; DromicError where it cannot
        be."""
        try:
            self._of(take.of).mkdir(parents=True, exist_ok=True, mode=0o700)
        except OSError as error:
            raise DromicError(f"nothing can be recorded: {error.strerror}", path=self.folder.name) from error
        recorder = Recorder(self._path(take, take.suffix), rate)
        if played:
            save(self._path(take, _PLAYED), played, private=True)
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

    def of(self, name: PhraseName) -> tuple[KeptTake, ...]:
        """The takes of a phrase, the oldest first; what cannot be read is left out."""
        found = [take for path in sorted(self._of(name).glob(f"*{_ENTRY}")) if (take := _read(path)) is not None]
        return tuple(take for take in found if take.of.key == name.key)

    def moved(self, takes: Iterable[KeptTake], to: PhraseName) -> tuple[KeptTake, ...]:
        """Have takes hang on another phrase, or on a title alone; gives them as they are then."""
        found = []
        for take in takes:
            made = replace(take, phrase=to.title, phrase_id=to.id)
            with suppress(OSError, DromicError):
                self._of(to).mkdir(parents=True, exist_ok=True, mode=0o700)
                for suffix in (take.suffix, _PLAYED):
                    if suffix and self._path(take, suffix).exists():
                        self._path(take, suffix).rename(self._path(made, suffix))
                save(self._path(made, _ENTRY), json.dumps(_entry(made)).encode(), private=True)
                self._path(take, _ENTRY).unlink()
                found.append(made)
        return tuple(found)

    def pending(self) -> list[KeptTake]:
        """The recordings that are not kept yet, the newest first; those that are being written are left out."""
        found = [
            take for path in self.folder.glob(f"*/*{_ENTRY}") if (take := _read(path)) is not None and not take.kept
        ]
        return sorted((t for t in found if not is_held(self.path(t))), key=lambda t: t.at, reverse=True)

    def say_kept(self, take: KeptTake) -> KeptTake:
        """Keep a recording as it lies there, unheard."""
        made = replace(take, kept=True)
        save(self._path(take, _ENTRY), json.dumps(_entry(made)).encode(), private=True)
        return made

    def played(self, take: KeptTake) -> bytes:
        """The songbook of the phrase that a recording is of, as it was; DromicError where it is not there."""
        try:
            return json.dumps(json.loads(self._path(take, _PLAYED).read_text("utf-8"))["songbook"]).encode()
        except (OSError, ValueError, KeyError, TypeError) as error:
            raise DromicError(
                "what was played in it is not there any more; open the phrase itself", path=take.name
            ) from error

    def path(self, take: KeptTake) -> Path:
        """Where its sound lies."""
        return self._path(take, take.suffix)

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
        for suffix in (take.suffix, _ENTRY, _PLAYED):
            path = self._path(take, suffix)
            if suffix and path.exists():
                path.rename(path.with_name(path.name + _THROWN))

    def bring_back(self, take: KeptTake) -> None:
        """Undo that."""
        for suffix in (take.suffix, _ENTRY, _PLAYED):
            path = self._path(take, suffix)
            thrown = path.with_name(path.name + _THROWN)
            if suffix and thrown.exists():
                thrown.rename(path)

    def clear(self) -> None:
        """Let thrown ones go for good."""
        for path in self.folder.rglob(f"*{_THROWN}"):
            with suppress(OSError):
                path.unlink()

    def _of(self, name: PhraseName) -> Path:
        """The folder of a phrase: no other phrase's takes are read to show its own."""
        words = name.key if name.id else name.title
        return self.folder / hashlib.sha256(words.encode()).hexdigest()[:16]

    def _path(self, take: KeptTake, suffix: str) -> Path:
        return self._of(take.of) / f"{take.number}{suffix}"


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
        bool(held.get("kept", True)), str(held.get("phrase_id", "")),
        float(held.get("skip_s", 0.0)),
    )  # fmt: skip
