"""Writes a file whole or not at all: whatever happens meanwhile, the old one or the new one stands under its name.

What is written lies beside the file until it is whole, locked as long as its writer lives, so that what a killed writer
left can be told from what is being written, and cleared.
"""

from __future__ import annotations

import errno
import fcntl
import os
import stat
import tempfile
from contextlib import suppress
from pathlib import Path

from dromic.core.values.errors import DromicError

_NEW = ".dromic-new"
_ADVICE = {
    errno.ENOSPC: "the disk is full; free some space, or save it elsewhere",
    errno.EDQUOT: "your share of the disk is used up; free some space, or save it elsewhere",
    errno.EACCES: "it may not be written there; save it elsewhere",
    errno.EPERM: "it may not be written there; save it elsewhere",
    errno.EROFS: "that place is read-only; save it elsewhere",
    errno.ENOENT: "there is no such folder; save it elsewhere",
    errno.ENAMETOOLONG: "the name is too long; choose a shorter one",
    errno.ELOOP: "it is a link that leads to itself; save it elsewhere",
}


_users_mask: list[int] = []
"""what the user takes from the permissions of new files, once everything else is kept to the owner"""


def keep_to_the_owner() -> None:
    """From now on whatever this program makes is its owner's alone to read, but for what is saved where the user says: that is as the
    user's own mask has it."""
    if not _users_mask:
        _users_mask.append(os.umask(0o077))


def save(path: Path, data: bytes, private: bool = False) -> None:
    """Replace a file's content in one step; DromicError says why it could not be done, and the old file then stands. A `private` one
    is its owner's alone to read."""
    try:
        path = _resolved(path)
        if path.exists() and not os.access(path, os.W_OK):
            raise PermissionError(errno.EACCES, "read-only")
        handle, name = tempfile.mkstemp(prefix=f".{path.name[:40]}.", suffix=_NEW, dir=path.parent)
        new = Path(name)
        try:
            with os.fdopen(handle, "wb") as file:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
                new.chmod(0o600 if private else _mode(path))
                new.replace(path)
        except BaseException:
            with suppress(OSError):
                new.unlink()
            raise
        _settle(path.parent)
    except OSError as error:
        advice = _ADVICE.get(error.errno or 0, f"it cannot be written ({error.strerror or error}); save it elsewhere")
        raise DromicError(f"not saved: {advice}", path=path.name) from error


def _resolved(path: Path) -> Path:
    """Where a path leads; OSError for a link that leads to itself, which Python 3.13 leaves as it is and older ones end with
    RuntimeError."""
    try:
        found = path.resolve()
    except RuntimeError:
        found = path
    if found.is_symlink():
        raise OSError(errno.ELOOP, "a loop of links")
    return found


def clear_leftovers(folder: Path) -> int:
    """Remove what killed writers left in a folder, and say how many; what is still being written stays."""
    cleared = 0
    with suppress(OSError):
        for path in folder.glob(f".*{_NEW}"):
            with suppress(OSError), path.open("rb") as file:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                path.unlink()
                cleared += 1
    return cleared


def held(path: Path) -> bool:
    """Whether another holds the lock on a file; the system lets go of it with its process. What cannot be opened is held by none."""
    try:
        handle = os.open(path, os.O_RDWR)
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(handle)
    return False


def _mode(path: Path) -> int:
    """The permissions a file has, or a new one gets."""
    if path.exists():
        return stat.S_IMODE(path.stat().st_mode)
    mask = _users_mask[0] if _users_mask else os.umask(0)
    if not _users_mask:
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
