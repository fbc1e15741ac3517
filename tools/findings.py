"""Writes docs/findings.md, the kinds of findings with what is said and what helps: `python -m tools.findings`."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from dromic import presets
from dromic.core.findings.findings import RULES
from dromic.core.plan.finding import Finding
from dromic.core.questions.remedies import with_remedies
from dromic.core.reports.explain import remedy_text
from dromic.core.search.planner import solve
from dromic.core.setup.choices import Choices
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook
from dromic.plan_requests import first_choices, request_for
from tools.finding_pictures import NECK, PICK, draw_all

FILE = Path(__file__).parents[1] / "docs" / "findings.md"
BOOK = presets.DATA / "songs" / "copper-wren.dromic"
DRAWN = {*PICK, *NECK}
FASTER = (1.0, 1.25, 1.6)
"""Times their tempo at which the demo pieces are asked for, until every kind has been met that they have."""
HEAD = """# What a plan can find

Each kind of finding, the hand it is about, and what is said and offered where the band's own pieces meet it. A sentence about
time begins with the tempo up to which the place fits, an estimate; what it stands on in milliseconds and millimetres is told on
asking. Made by `python -m tools.findings`; a test holds the kinds to the rules.

In the drawings the pick is looked at along the strings, or fingers on a piece of the neck, as they were (rings) and as they are to
be (dots); red is what takes the time.

| kind | hand | when | as it is said | what helps | drawing |
|---|---|---|---|---|---|
"""


def findings_text() -> str:
    """The whole file."""
    met = _met()
    lines = []
    for rule in RULES:
        usual = rule.advice or (
            "slow down to what fits, or make this move faster" if rule.timed and not rule.own else ""
        )
        said, helps = met.get(rule.name, ("none in these pieces", usual))
        helps = helps or usual
        drawing = f"![{rule.label}](findings/{rule.name}.png)" if rule.name in DRAWN else ""
        lines.append(f"| {rule.label} | {rule.hand} | {rule.meaning} | {said} | {helps} | {drawing} |\n")
    return HEAD + "".join(lines)


def _met() -> dict[str, tuple[str, str]]:
    """For each rule that the pieces meet its first sentence, one with a remedy if there is any, and what helps there."""
    found: dict[str, tuple[str, str]] = {}
    changed: set[str] = set()
    for finding, helps in _told():
        if finding.rule not in found or (finding.remedy is not None and finding.rule not in changed):
            found[finding.rule] = (finding.text, helps)
        if finding.remedy is not None:
            changed.add(finding.rule)
    return found


def _told() -> Iterator[tuple[Finding, str]]:
    for faster in FASTER:
        for entry in read_songbook(BOOK.read_bytes()).entries:
            first = first_choices(entry.phrase, entry.choices or Choices())
            for school in dict.fromkeys((first.school, "alternate", "economy", "free")):
                chosen = replace(first, school=school, tempo=faster * first.tempo)
                try:
                    solved = solve(request_for(entry.phrase, chosen, presets.players()))
                    plan = with_remedies(solved, presets.other_leans(), schools=presets.carrying_schools())
                except DromicError:
                    continue
                for finding in plan.findings:
                    remedy = finding.remedy
                    yield finding, finding.advice if remedy is None else f"try: {remedy_text(plan, remedy)}"


if __name__ == "__main__":
    draw_all(FILE.with_suffix(""))
    FILE.write_text(findings_text(), "utf-8")
