"""Writes a file whole or not at all: whatever happens meanwhile, the old one or the new one stands under its name."""

from __future__ import annotations

import errno
import os
import stat
import tempfile
from contextlib import suppress
from pathlib import Path

from dromic.core.errors import DromicError

_ADVICE = {
    errno.ENOSPC: "the disk is full; free some space, or save it elsewhere",
    errno.EDQUOT: "your share of the disk is used up; free some space, or save it elsewhere",
    errno.EACCES: "it may not be written there; save it elsewhere",
    errno.EPERM: "it may not be written there; save it elsewhere",
    errno.EROFS: "that place is read-only; save it elsewhere",
    errno.ENOENT: "there is no such folder; save it elsewhere",
    errno.ENAMETOOLONG: "the name is too long; choose a shorter one",
}


def save(path: Path, data: bytes) -> None:
    """Replace a file's content in one step; DromicError says why it could not be done, and the old file then stands."""
    path = path.resolve()
    try:
        if path.exists() and not os.access(path, os.W_OK):
            raise PermissionError(errno.EACCES, "read-only")
        handle, name = tempfile.mkstemp(prefix=f".{path.name[:40]}.", suffix=".new", dir=path.parent)
        new = Path(name)
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            new.chmod(_mode(path))
            new.replace(path)
        except BaseException:
            with suppress(OSError):
                new.unlink()
            raise
        _settle(path.parent)
    except OSError as error:
        advice = _ADVICE.get(error.errno or 0, f"it cannot be written ({error.strerror or error}); save it elsewhere")
        raise DromicError(f"not saved: {advice}", path=path.name) from error


def _mode(path: Path) -> int:
    """The permissions a file has, or a new one gets."""
    if path.exists():
        return stat.S_IMODE(path.stat().st_mode)
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def _settle(folder: Path) -> None:
    """Have the folder's new entry on disk too."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
