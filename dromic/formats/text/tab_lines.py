"""The lines of a text of tablature: which are strings, which belong to them from above or below, which state what holds for all.

Whatever is passed around: names or none, words before and behind rows, bar lines of several kinds, marks above or below. Common
practice, no published source.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from dromic.core.setup.instrument import MAX_STRINGS, MIN_STRINGS
from dromic.formats.text.tab_write import LABELS

DASHES = "-–—─―=."
_SIGNS = frozenset(DASHES + "0123456789xXhHpPbBrRtTnsS/\\~^v<>()[]{}*|‖:!o ")
_NAMED = re.compile(r"(?:^|(?<=[\s:]))([A-Ga-g][#b]?-?\d?)\s*([|‖:]+)")
_BARE = re.compile(r"^\s*([|‖][|‖:]*|(?=[-–—─―=\dxX/\\]))")
_LABEL = re.compile(rf"^({'|'.join(LABELS)})\b(.*)$")
_PALM = re.compile(r"(?:P\.?\s?M\.?|palm mut\w*)[\s.|>:-]*", re.IGNORECASE)
_RING = re.compile(r"let ring[\s.|>:-]*", re.IGNORECASE)
_LETTERS = re.compile(r"\s*[WHQESTwhqest]\.?(?:\s+[WHQESTwhqest]\.?)+\s*")
_WORD = re.compile(r"[A-Za-z]{4}|\b(?:riff|part)\b", re.IGNORECASE)
_TURNS = re.compile(r"\(?\s*(?:play\s+)?(?:x\s?(\d{1,2})|(\d{1,2})\s?x|(\d{1,2})\s+times)\s*\)?", re.IGNORECASE)
_TUPLETS = re.compile(r"\s*[\[|-]*3[\]|-]*(?:\s+[\[|-]*3[\]|-]*)*\s*")
_STROKES = (
    (frozenset("DU"), {"D": "D", "U": "U"}),
    (frozenset("v^"), {"v": "D", "^": "U"}),
    (frozenset("nNvV⊓∏"), {"n": "D", "N": "D", "⊓": "D", "∏": "D", "v": "U", "V": "U"}),
)
"""signs of strokes that stand together in a line, and what each means: arrows, or the signs of bowing"""


_SPACES = 80
"""between a row and what stands behind it at most; a setting of ours"""
NAMED_WITHIN = 200
"""columns in which the name of a string is looked for; a setting of ours"""


@dataclass(slots=True)
class Block:
    """Lines that belong together: strings from the highest down, each from the first column of the text on, and what stands
    above or below them."""

    strings: list[str]
    names: list[str]
    above: dict[str, str] = field(default_factory=dict)
    """by label: as our own writer has them, and `palm`, `ring`, `marks` (strokes), `rhythm`"""
    turns: int = 0
    """how often it is played, where that stands behind a row"""
    words: list[str] = field(default_factory=list)
    """what else stands behind rows"""

    @property
    def kind(self) -> tuple[int, tuple[str, ...]]:
        """What blocks of one part have in common."""
        return len(self.strings), tuple(n.lower() for n in self.names)


@dataclass(frozen=True, slots=True)
class _Row:
    name: str
    body: str
    behind: str


def blocks_of(lines: list[str]) -> tuple[list[Block], list[str]]:
    """The blocks of a text, and what of it was seen and not read, a sentence each."""
    found: list[Block] = []
    said: list[str] = []
    above: dict[str, str] = {}
    run: list[_Row] = []
    rows = [_row(line) for line in lines]
    for n, (line, row) in enumerate(zip([*lines, ""], [*rows, None], strict=True)):
        if row is not None:
            run.append(row)
            continue
        if run:
            made = _cut(run)
            if made:
                made[0].above = above
                above = {}
            found += made
        follows = bool(run) and bool(found)
        run = []
        kind = _annotation(line)
        if kind is None:
            if _TUPLETS.fullmatch(line) and "the tuplets written above are not read" not in said:
                said.append("the tuplets written above are not read")
            continue
        below = follows and not (n + 1 < len(lines) and rows[n + 1] is not None)
        (found[-1].above if below else above)[kind[0]] = kind[1]
    return found, said


def _annotation(line: str) -> tuple[str, str] | None:
    """What a line that is no string says of those it stands at: (label, text); None for words."""
    if label := _LABEL.match(line):
        return label[1], " " * len(label[1]) + label[2]
    plain = line.strip()
    if not plain:
        return None
    if _PALM.search(line) and not _PALM.sub("", line).strip(" |-."):
        return "palm", line
    if _RING.search(line) and not _RING.sub("", line).strip(" |-."):
        return "ring", line
    signs = frozenset(plain.replace(" ", ""))
    for these, meaning in _STROKES:
        if signs <= these and len(plain.split()) > 1 and all(len(word) == 1 for word in plain.split()):
            return "marks", "".join(meaning.get(c, " ") for c in line)
    if _LETTERS.fullmatch(line):
        return "rhythm", line.lower()
    return None


def _row(line: str) -> _Row | None:
    """A line as a string of tablature; None for one that is none."""
    if _LABEL.match(line):
        return None
    for named in _NAMED.finditer(line, 0, NAMED_WITHIN):
        row = _made(line, named.end(), named[1], named[2])
        if row is not None:
            return row
    bare = _BARE.match(line)
    return _made(line, bare.end(), "", bare[1]) if bare else None


def _made(line: str, start: int, name: str, wall: str) -> _Row | None:
    body, behind = line[start:], ""
    cut = _last_wall(body)
    tail = body[cut:].lstrip()
    if cut and (_WORD.search(tail) or not set(tail) & set(DASHES[:5])):
        body, behind = body[:cut], tail
    elif words := re.search(r"\s{2,}(\(?[xX]\s?\d+\)?|\d+\s?[xX]|[A-Za-z][A-Za-z .]{3,}\d*)$", body):
        body, behind = body[: words.start()], words[1]
    walled = wall.strip() and re.search(r"[|‖:]\s*$", body)
    if walled and not set(body) & set(DASHES) and re.fullmatch(r"[\s\d|xX:‖]+", body):
        body = body.replace(" ", "-")
    dashes = sum(c in DASHES for c in body)
    strange = sum(c not in _SIGNS for c in body)
    if dashes < 2 or strange > dashes or (not wall.strip() and (strange or 2 * dashes < len(body.strip()))):
        return None
    if wall.strip() == ":" and "|" not in body:  # colons as bar lines
        body = body.replace(":", "|")
        wall = "|"
    opens = wall.rstrip().endswith((":",)) and wall.strip() != ":"
    lead = " " * (start - 1) + (":" if opens else " ") if start else ""
    return _Row(name, lead + body, behind.strip())


def _last_wall(body: str) -> int:
    """Where what stands behind a row begins: after the last bar line, or a colon after it, that is followed by words; 0 where
    there is nothing."""
    last_bar = max(body.rfind("|"), body.rfind("‖"))
    end = len(body.rstrip())
    for at in range(end - 1, max(last_bar, 0) - 1, -1):
        if body[at] in "|‖:" and (after := body[at + 1 : at + 1 + _SPACES].lstrip()) and after[0] not in "|‖:-":
            return at + 1
    return 0


def _cut(run: list[_Row]) -> list[Block]:
    """Rows that stand together as blocks: a rule above is none of them, and two systems may follow without a line between."""
    while len(run) > MIN_STRINGS and not run[0].name and run[1].name and not set(run[0].body) - set(DASHES + " "):
        run = run[1:]
    size = len(run)
    names = [r.name for r in run]
    for n in (6, 4, 5, 7, 8, 9):
        periodic = len(run) > n and len(run) % n == 0 and all(a == b for a, b in zip(names, names[n:], strict=False))
        if periodic and (names[0] or len(run) > MAX_STRINGS):
            size = n
            break
    if not MIN_STRINGS <= size <= MAX_STRINGS:
        return []
    found = []
    for start in range(0, len(run), size):
        rows = run[start : start + size]
        block = Block([r.body for r in rows], [r.name for r in rows])
        for row in rows:
            turns = _TURNS.fullmatch(row.behind)
            if turns:
                block.turns = int(turns[1] or turns[2] or turns[3])
            elif row.behind:
                block.words.append(row.behind)
        found.append(block)
    return found
