"""The signs of ABC music code, one after the other: a table of patterns, tried in order at every place of a line. Each looks only
so far ahead, or a line of signs that never close would take for ever.

Source: the ABC music standard 2.1, section 4 (the tune body).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

_PATTERNS: tuple[tuple[str, str], ...] = (
    ("space", r"[ \t`]+"),
    ("remark", r"\[r:[^\]\n]{0,200}\]"),
    ("field", r"\[[A-Za-z]:[^\]\n]{0,200}\]"),
    ("bar", r"\.?:*(?:\[\||\|)(?:[|\]]|:)*|:{2,}"),
    ("ending", r"\[(?=\d)"),
    ("quote", r'"[^"\n]{0,400}"'),
    ("decoration", r"![^!|\n]{0,40}!|\+[a-zA-Z.()<>]{2,40}\+"),
    ("grace", r"\{/?[^}\n]{0,200}\}"),
    ("tuplet", r"\(\d+(?::\d*){0,2}"),
    ("slur", r"[()]"),
    ("note", r"(?:\^\^|__|\^|_|=)?[A-Ga-g][,']*(?:\d+)?/*(?:\d+)?"),
    ("rest", r"[zx](?:\d+)?/*(?:\d+)?"),
    ("bars-rest", r"[ZX]\d*"),
    ("chord", r"\[[^\[\]|\n]{0,200}\](?:\d+)?/*(?:\d+)?"),
    ("broken", r"[<>]+"),
    ("tie", r"-"),
    ("overlay", r"&+"),
    ("spacer", r"y\d*"),
    ("sign", r"[.~H-Wh-w](?!:)"),
    ("ignored", r"[\\$*;!+]"),
)
_SIGNS = re.compile("|".join(f"(?P<{name.replace('-', '_')}>{pattern})" for name, pattern in _PATTERNS))
ENDING = re.compile(r"\[?(\d+(?:[,-]\d+)*)(?:[.:](?!\|))?")
"""the numbers of an ending, where one may stand"""


@dataclass(frozen=True, slots=True)
class Sign:
    """One sign and where it stands; `kind` is `unknown` for what means nothing."""

    kind: str
    text: str
    line: int


def signs(line: str, number: int) -> Iterator[Sign]:
    """The signs of a line of music code, whose comment has been cut off."""
    at = 0
    while at < len(line):
        found = _SIGNS.match(line, at)
        if found is None:
            yield Sign("unknown", line[at], number)
            at += 1
            continue
        kind = str(found.lastgroup).replace("_", "-")
        yield Sign(kind, found[0], number)
        at = found.end()
        if kind in ("bar", "ending"):
            numbers = ENDING.match(line, at)
            if numbers:
                yield Sign("numbers", numbers[1], number)
                at = numbers.end()
