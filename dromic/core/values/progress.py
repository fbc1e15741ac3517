"""How long work tells how far it is, and hears that nobody waits for it any more."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[float], bool]
"""Called with the share done, 0 to 1; answers whether to go on."""


class Cancelled(Exception):
    """Whoever asked for the work wants it no more."""
