"""What a long run found so far, in a file: a run that was broken off goes on from there (`--journal FILE`)."""

from __future__ import annotations

import json
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any


class Journal:
    """Answers by key, a line each; in memory alone where no file is named."""

    def __init__(self, path: Path | None = None) -> None:
        self._path, self._turn = path, threading.Lock()
        self._known: dict[str, Any] = {}
        if path is not None and path.exists():
            for line in path.read_text("utf-8").splitlines():
                try:
                    self._known.update([json.loads(line)])
                except ValueError:  # the run was broken off in the middle of it
                    continue

    def of(self, key: str, find: Callable[[], Any]) -> Any:
        """The answer under a key; found out where it is not known yet."""
        with self._turn:
            if key in self._known:
                return self._known[key]
        answer = find()
        with self._turn:
            self._known[key] = answer
            if self._path is not None:
                with self._path.open("a", encoding="utf-8") as file:
                    file.write(json.dumps([key, answer]) + "\n")
        return answer


def asked_journal() -> Journal:
    """The one named on the command line."""
    return Journal(Path(sys.argv[sys.argv.index("--journal") + 1]) if "--journal" in sys.argv else None)
