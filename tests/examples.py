"""How many random cases a property is tried on: all of them in the whole suite, a few between commits."""

from __future__ import annotations

from hypothesis import settings

QUICK = "quick"
"""the profile of `./run quick`"""
FEW = 8


def examples(most: int) -> settings:
    """So many cases, or a few under the quick profile."""
    return settings(max_examples=min(most, FEW) if settings.get_current_profile_name() == QUICK else most)
