"""The demo songbook's pieces as they are asked for in the window."""

from __future__ import annotations

from pathlib import Path

from dromic import presets
from dromic.core.plan.request import Request
from dromic.core.setup.choices import Choices
from dromic.formats.document.document import read_songbook
from dromic.plan_requests import first_choices, request_for

BOOK = Path(presets.DATA) / "songs" / "copper-wren.dromic"


def demo_requests() -> list[Request]:
    """One for each piece, for the player and in the school that it names."""
    entries = read_songbook(BOOK.read_bytes()).entries
    return [
        request_for(one.phrase, one.choices or first_choices(one.phrase, Choices()), presets.players())
        for one in entries
    ]
