"""The user's own instruments, measured: each a file in a folder of theirs, to be exported and imported as it is."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from dromic import presets
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.store.saving import save

SUFFIX = ".toml"


class InstrumentShelf:
    """Instruments of one's own, by the names of their files. `notices` says what could not be read."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.notices: list[str] = []

    def instruments(self) -> dict[str, Instrument]:
        """What stands there now, by name."""
        found: dict[str, Instrument] = {}
        self.notices = []
        try:
            paths = sorted(self.folder.glob(f"*{SUFFIX}")) if self.folder.is_dir() else []
        except OSError as error:
            self.notices.append(f"instruments cannot be read from {self.folder}: {error.strerror or error}")
            paths = []
        for path in paths:
            try:
                found[path.stem] = presets.instrument_from_file(path)
            except DromicError as error:
                self.notices.append(str(error))
        return found

    def put(self, instrument: Instrument) -> str:
        """Keep an instrument under its label; answers its name. DromicError where it cannot be written."""
        name = re.sub(r"[^a-z0-9]+", "-", instrument.label.lower()).strip("-") or "instrument"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise DromicError(f"instruments cannot be kept there: {error.strerror}", path=str(self.folder)) from error
        save(self.folder / f"{name}{SUFFIX}", instrument_bytes(replace(instrument, name=name)), private=True)
        return name

    def drop(self, name: str) -> None:
        """Forget an instrument; DromicError where its file cannot be removed."""
        try:
            (self.folder / f"{name}{SUFFIX}").unlink(missing_ok=True)
        except OSError as error:
            raise DromicError(f"it cannot be removed: {error.strerror}", path=f"{name}{SUFFIX}") from error


def instrument_bytes(instrument: Instrument) -> bytes:
    """An instrument as the bytes of an instrument file."""
    import tomli_w  # wanted only when something is written

    return tomli_w.dumps(presets.instrument_entry(instrument)).encode()
