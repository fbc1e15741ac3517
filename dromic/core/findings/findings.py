"""Findings: the places of a plan where it hurts, one small rule each, with evidence and a sentence.

A rule looks at a finished plan and yields what it saw; how severe it is is decided once, here, from the load, and what
it costs ranks it: the part of the objective its load makes up, or for what has no load a cost the rule names.
Add a rule by adding an entry to the table of its hand.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dromic.core.findings import rules_both, rules_fretting, rules_picking
from dromic.core.findings.evidence import Evidence, Rule, Seen
from dromic.core.hands.load_cost import load_price
from dromic.core.plan.finding import Finding
from dromic.core.plan.plan import Plan
from dromic.core.setup.player import Judging

RULES: tuple[Rule, ...] = (*rules_picking.RULES, *rules_fretting.RULES, *rules_both.RULES)


def find(plan: Plan) -> tuple[Finding, ...]:
    """All findings of a plan, dearest first; none for a clean one."""
    judging = plan.request.player.judging
    evidence = Evidence(plan)
    found: list[tuple[float, Finding]] = []
    for rule in RULES:
        for seen in rule.look(evidence):
            severity = "severe" if seen.load >= judging.severe_load else "major" if seen.load > 1 else "minor"
            notes = tuple(evidence.leads[e].index for e in seen.events)
            at = notes[0 if seen.whole else -1]
            found.append(
                (_cost(seen, judging), Finding(rule.name, notes, severity, seen.load, rule.hand, seen.text, at))
            )
    return tuple(f for _, f in sorted(found, key=lambda p: (-p[0], p[1].notes)))


def _cost(seen: Seen, judging: Judging) -> float:
    return seen.cost or float(load_price(np.array(seen.load), judging.dial, judging.over_price))


def by_place(findings: Sequence[Finding]) -> list[list[Finding]]:
    """Findings that share their place, since one change would mend them, the dearest place first."""
    places: dict[tuple[int, ...], list[Finding]] = {}
    for finding in findings:
        places.setdefault(finding.notes[-2:], []).append(finding)
    return list(places.values())
