"""The numbers of listening: how takes are aligned, judged and, by the simulated player, made."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ListenSettings:
    """The numbers of listen.toml; docs/model.md tells what each does."""

    judge: Mapping[str, float]
    align: Mapping[str, float]
    perform: Mapping[str, float]
    live: Mapping[str, float]
