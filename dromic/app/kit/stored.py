"""The window's settings, read with care: whatever stands in the file, the program starts."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QByteArray, QSettings

MOST_RECENT = 8


def damaged(settings: QSettings) -> list[str]:
    """What of the settings cannot be read, a sentence each."""
    name = Path(settings.fileName()).name
    if settings.status() != QSettings.Status.NoError:
        return [f"the settings in {name} cannot be read, and are taken as new"]
    wanted: dict[str, type | tuple[type, ...]] = {
        "theme": str,
        "strings": str,
        "hints": str,
        "plays": str,
        "folder": str,
        "geometry": QByteArray,
        "recent": (list, str),
    }
    wrong = [n for n, kind in wanted.items() if settings.contains(n) and not isinstance(_value(settings, n), kind)]
    return [f"{', '.join(wrong)} in {name} cannot be read, and are as new"] if wrong else []


def text(settings: QSettings, name: str, default: str = "") -> str:
    """A setting that is a text; the default for anything else."""
    value = _value(settings, name)
    return value if isinstance(value, str) else default


def blob(settings: QSettings, name: str) -> QByteArray | None:
    value = _value(settings, name)
    return value if isinstance(value, QByteArray) else None


def recent(settings: QSettings) -> list[Path]:
    """The files opened lately that are still there, the latest first."""
    names = _value(settings, "recent")
    if isinstance(names, str):  # a list of one comes back as itself
        names = [names]
    found = [Path(n) for n in names if isinstance(n, str) and n] if isinstance(names, list) else []
    return [path for path in found if _is_there(path)][:MOST_RECENT]


def remember(settings: QSettings, path: Path) -> None:
    """Put a file at the head of those opened lately."""
    kept = [path, *(p for p in recent(settings) if p != path)][:MOST_RECENT]
    settings.setValue("recent", [str(p) for p in kept])


def _value(settings: QSettings, name: str) -> object:
    try:
        return settings.value(name)
    except (TypeError, ValueError, SystemError):  # a kind of value this toolkit has no word for
        return None


def _is_there(path: Path) -> bool:
    try:
        return path.exists()
    except (OSError, ValueError):
        return False
