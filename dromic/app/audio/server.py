"""Whether the system's sound server answers. Asked before a device is begun: a device begun while the server is gone, or before the
toolkit has found it again, ends the program inside the server's own library."""

from __future__ import annotations

import os
import socket
import struct
import time
from pathlib import Path

_WAIT_S = 0.3
_FOUND_AGAIN_S = 5.0
"""until the toolkit has found a server again that was begun anew: it looks every three seconds"""
_CREDENTIALS = "3i"
"""what the system says of who listens at a socket: process, user, group (socket(7), SO_PEERCRED)"""


class _Seen:
    """Who answered last, and when it was first seen to be another."""

    process: int | None = None
    since = 0.0


def place() -> Path | None:
    """The socket the server listens at; None where it is reached in another way, or there is none."""
    named = os.environ.get("PULSE_SERVER", "")
    if named:
        return Path(named.removeprefix("unix:")) if named.startswith(("unix:", "/")) else None
    folder = os.environ.get("XDG_RUNTIME_DIR")
    found = Path(folder) / "pulse" / "native" if folder else None
    return found if _Seen.process is not None or (found is not None and found.exists()) else None


def answers() -> bool:
    """Whether a device may be begun; True where nothing can be told."""
    where = place()
    if where is None:
        return True
    try:
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as asked:
            asked.settimeout(_WAIT_S)
            asked.connect(str(where))
            size = struct.calcsize(_CREDENTIALS)
            process, _, _ = struct.unpack(_CREDENTIALS, asked.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, size))
    except OSError:
        _Seen.process = -1  # whoever comes next is another
        return False
    if _Seen.process is not None and process != _Seen.process:
        _Seen.since = time.monotonic()
    _Seen.process = process
    return time.monotonic() - _Seen.since > _FOUND_AGAIN_S or _Seen.since == 0.0
