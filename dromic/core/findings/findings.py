"""Findings: the places of a plan where it hurts, one small rule each, with evidence and a sentence.

A rule looks at a finished plan and yields what it saw; how severe it is is decided once, here, from the load, and what
it costs ranks it: the part of the objective its load makes up, or for what has no load a cost the rule names.
Add a rule by adding an entry to the table of its hand.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dromic.core.findings import rules_both, rules_fretting, rules_picking
from dromic.core.findings.evidence import BOTH, FRETTING, PICKING, Evidence, Rule, Seen
from dromic.core.plan.finding import FASTER_PLACES, Finding
from dromic.core.plan.plan import Plan
from dromic.core.prices.load_price import load_price
from dromic.core.setup.player import Judging

_HANDS = (PICKING, FRETTING)
RULES: tuple[Rule, ...] = (*rules_picking.RULES, *rules_fretting.RULES, *rules_both.RULES)
_OWN = frozenset(rule.name for rule in RULES if rule.own)


def find(plan: Plan) -> tuple[Finding, ...]:
    """All findings of a plan, dearest first; none for a clean one. A place is told once for each hand, with its strongest
    reason, and a run of equal findings is one."""
    judging = plan.request.player.judging
    evidence = Evidence(plan)
    found: list[tuple[float, int, Finding]] = []
    for order, rule in enumerate(RULES):
        for seen in rule.look(evidence):
            severity = "severe" if seen.load >= judging.severe_load else "major" if seen.load > 1 else "minor"
            notes = tuple(evidence.leads[e].index for e in seen.events)
            finding = Finding(
                rule.name, notes, severity, seen.load, rule.hand, _sentence(plan, rule, seen), notes[0 if seen.whole else -1],
                advice=_advice(plan, rule, seen), detail=seen.detail,
            )  # fmt: skip
            found.append((_cost(seen, judging), order, finding))
    found.sort(key=lambda f: (-f[0], f[1], f[2].notes))
    return _equal_ones(_runs(_told_once([f for _, _, f in found])))


def _sentence(plan: Plan, rule: Rule, seen: Seen) -> str:
    """What is said of a place: of what takes time first the tempo up to which it fits."""
    if not seen.load or not rule.timed:
        return seen.text
    fits = plan.request.phrase.tempo / seen.load
    return (
        f"Fits up to about {fits:.0f}: {seen.text}"
        if seen.load > 1
        else f"Goes to about {fits:.0f} at most: {seen.text}"
    )


def _advice(plan: Plan, rule: Rule, seen: Seen) -> str:
    """What would help at a place if no single change does: slower, or an ability with its number."""
    if seen.load <= 1 or rule.advice or not rule.timed:
        return rule.advice
    slower = f"slow down to about {plan.request.phrase.tempo / seen.load:.0f} quarters a minute"
    return f"{slower}, or get {seen.need}" if seen.need else slower


def _told_once(findings: Sequence[Finding]) -> list[Finding]:
    """Findings without those whose place has been told for their hand, or of both hands where either has been."""
    told: set[tuple[str, int]] = set()
    kept = []
    for finding in findings:
        if finding.rule not in _OWN:
            here = {(hand, finding.at) for hand in (_HANDS if finding.hand == BOTH else (finding.hand,))}
            if here & told:
                continue
            told |= here
        kept.append(finding)
    return kept


def _runs(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    """Findings with those of one rule that follow each other, move after move, made one at the place of the dearest."""
    by_rule: dict[str, list[int]] = {}
    for n, finding in enumerate(findings):
        if len(finding.notes) == 2 and finding.rule not in _OWN:
            by_rule.setdefault(finding.rule, []).append(n)
    merged: dict[int, Finding] = {}
    dropped: set[int] = set()
    for numbers in by_rule.values():
        runs: list[list[int]] = []
        for n in sorted(numbers, key=lambda n: findings[n].notes):
            if runs and findings[n].notes[0] == findings[runs[-1][-1]].notes[1]:
                runs[-1].append(n)
            else:
                runs.append([n])
        for run in (r for r in runs if len(r) > 1):
            merged[min(run)] = _run([findings[n] for n in run], findings[min(run)])
            dropped |= set(run) - {min(run)}
    return tuple(merged.get(n, finding) for n, finding in enumerate(findings) if n not in dropped)


def _equal_ones(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    """Findings with those made one that fit and say the same of several places, whose numbers are all alike."""
    by_text: dict[tuple[str, str], list[Finding]] = {}
    for finding in findings:
        if finding.load <= 1 and finding.rule not in _OWN:
            by_text.setdefault((finding.rule, finding.text), []).append(finding)
    found = []
    for finding in findings:
        alike = by_text.get((finding.rule, finding.text), [finding])
        if alike[0] is not finding:
            continue
        if len(alike) > 1:
            text = f"{finding.text}; {len(alike)} such places, the last at note {max(f.at for f in alike) + 1}"
            finding = replace(finding, text=text)
        found.append(finding)
    return tuple(found)


def _run(run: Sequence[Finding], dearest: Finding) -> Finding:
    notes = tuple(sorted({n for f in run for n in f.notes}))
    text = f"{dearest.text}; {len(run)} times running, notes {notes[0] + 1} to {notes[-1] + 1}"
    return replace(dearest, notes=notes, text=text)


def _cost(seen: Seen, judging: Judging) -> float:
    return seen.cost or float(load_price(np.array(seen.load), judging.dial, judging.over_price))


def by_place(findings: Sequence[Finding]) -> list[list[Finding]]:
    """Findings that share their place, since one change would mend them, the dearest place first."""
    places: dict[tuple[int, ...], list[Finding]] = {}
    for finding in findings:
        places.setdefault(finding.notes[-2:], []).append(finding)
    return list(places.values())


def most_helpful(findings: Sequence[Finding]) -> Finding | None:
    """The finding whose remedy brings the highest ceiling, the dearest of those that bring the same; where none has a remedy, the
    dearest of those that say what helps. None while remedies have not been looked for."""
    # another way over the whole neck is offered, not urged
    mended = [f for f in findings if f.remedy is not None and f.rule != FASTER_PLACES]
    if mended:
        return max(mended, key=lambda f: np.inf if f.remedy is None or f.remedy.ceiling is None else f.remedy.ceiling)
    return next((f for f in findings if f.tried and f.advice), None)
