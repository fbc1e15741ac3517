"""The log of faults: each with its day and traceback, the file kept small; it lies beside nothing a player made."""

from __future__ import annotations

import traceback
from datetime import datetime
from pathlib import Path
from types import TracebackType

MOST_BYTES = 200_000
"""what is kept of the log, the latest faults"""


def write_down(path: Path, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    """Add a fault to the log; OSError where it cannot be written."""
    words = "".join(traceback.format_exception(kind, error, trace))
    entry = f"--- {datetime.now():%Y-%m-%d %H:%M:%S}\n{words}\n"
    path.parent.mkdir(parents=True, exist_ok=True)
    before = path.read_bytes() if path.exists() else b""
    path.write_bytes((before + entry.encode("utf-8", "backslashreplace"))[-MOST_BYTES:])


def read_log(path: Path) -> str:
    """What the log holds, empty where there is none."""
    try:
        return path.read_text("utf-8", "replace")
    except OSError:
        return ""
