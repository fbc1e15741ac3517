"""Glances of saved work, a small file for each songbook in a folder of their own: the start view draws them and plans nothing."""

from __future__ import annotations

import hashlib
import json
from contextlib import suppress
from pathlib import Path

from dromic.core.reports.glance import Glance, as_json, from_json
from dromic.core.values.errors import DromicError
from dromic.store.saving import save

MOST_KEPT = 64
"""files; the oldest go"""
_LARGEST = 200_000
"""bytes of a file that is read"""


class Glances:
    """`folder` is made when the first is kept."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def _place(self, path: Path) -> Path:
        return (
            self.folder
            / f"{hashlib.sha1(str(path).encode('utf-8', 'surrogatepass'), usedforsecurity=False).hexdigest()}.json"
        )

    def keep(self, path: Path, glance: Glance) -> None:
        """Keep the glance of a songbook; one that cannot be kept is gone without, since it can be made again."""
        with suppress(OSError, DromicError, RuntimeError):
            self.folder.mkdir(parents=True, exist_ok=True)
            save(self._place(path.resolve()), json.dumps(as_json(glance)).encode(), private=True)
            kept = sorted(self.folder.glob("*.json"), key=lambda one: one.stat().st_mtime)
            for old in kept[:-MOST_KEPT]:
                old.unlink(missing_ok=True)

    def of(self, path: Path) -> Glance | None:
        """The glance of a songbook; None where there is none that can be read."""
        try:
            return read_glance(self._place(path.resolve()))
        except (OSError, RuntimeError):
            return None


def read_glance(file: Path) -> Glance | None:
    """One glance from a file; None where it cannot be read as one."""
    try:
        if file.stat().st_size > _LARGEST:
            return None
        return from_json(json.loads(file.read_text("utf-8")))
    except (OSError, ValueError, TypeError, KeyError, OverflowError, RecursionError):
        return None
