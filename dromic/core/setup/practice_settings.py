"""The numbers of practice: tempo ladders, sessions, drills."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class PracticeSettings:
    """The numbers of practice.toml; docs/model.md tells what each does."""

    ladder: Mapping[str, float]
    session: Mapping[str, float]
    hardest: int
    around: int
    joined: int
    adding: int
    ramp: tuple[float, ...]
    spacing_days: tuple[float, ...]
