"""A plan as text for a terminal: tablature with counts, strokes and fingers, then the totals and findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from dromic import presets
from dromic.core.findings.findings import by_place
from dromic.core.music.phrase import Bar
from dromic.core.plan.finding import OF_THE_PLAYER
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.questions.alternatives import Balance
from dromic.core.reports.ceiling_words import stands_on
from dromic.core.reports.comparison import MEASURES, differing, fastest
from dromic.core.reports.counts.count_rows import counts
from dromic.core.reports.explain import many, remedy_text
from dromic.core.timing.beat_counting import count
from dromic.core.values.pitch import SHARP_NAMES

WIDTH = 110
MOST_PLACES = 12
_STROKE = {"down": "D", "up": "U", "none": "."}
_ATTACK = {"hammer": "h", "pull": "p", "slide": "s", "hammer-new": "H", "tap": "t", "pluck": "", "pick": ""}


_MOST_DIFFERING = 12
"""notes listed that plans play otherwise"""


def table(plan: Plan) -> str:
    """The whole answer as readable lines."""
    return "\n".join([*_head(plan), "", *_tablature(plan), *_totals(plan), *_counts(plan), "", *_findings(plan)]) + "\n"


def beside_each_other(plans: Sequence[Plan]) -> str:
    """Plans of one phrase by what they are compared by, and where each differs from the fastest."""
    top = fastest(plans)
    assert top is not None
    names = [p.request.school.name for p in plans]
    rows = [("", names), *((m.label, [m.text(p) for p in plans]) for m in MEASURES)]
    others = [differing(p, plans[top]) for p in plans]
    rows.append((f"Notes played otherwise than {names[top]}", [str(len(o)) for o in others]))
    wide = max(len(label) for label, _ in rows)
    cells = [max(len(row[n]) for _, row in rows) for n in range(len(plans))]
    lines = [
        f"{label:<{wide}}  " + "  ".join(f"{c:>{w}}" for c, w in zip(row, cells, strict=True)) for label, row in rows
    ]
    for name, events in zip(names, others, strict=True):
        if events:
            notes = ", ".join(str(plans[top].events[e][0].index + 1) for e in events[:_MOST_DIFFERING])
            lines.append(
                f"{name} plays otherwise than {names[top]} at notes {notes}"
                + (" …" if len(events) > _MOST_DIFFERING else "")
            )
    return "\n".join(lines) + "\n"


def _head(plan: Plan) -> Iterator[str]:
    request = plan.request
    yield f"{request.phrase.title}: {request.school.label}, {request.instrument.label}, {request.player.label}"
    yield (
        f"the pick meets the strings {request.instrument.pick_from_bridge_mm:.0f} mm from the bridge, "
        f"{request.player.depth_mm:.1f} mm deep; the hand: {request.player.habits.contact}"
    )
    if plan.ceiling is not None and plan.ceiling_range is not None and plan.ceiling_sustained is not None:
        low, high = plan.ceiling_range
        verdict = "above" if plan.ceiling >= request.phrase.tempo else "BELOW"
        yield (
            f"ceiling about {plan.ceiling:.0f} (estimate, {low:.0f} to {high:.0f}; sustained {plan.ceiling_sustained:.0f}), "
            f"{verdict} the tempo asked for, {request.phrase.tempo:g}"
        )
    if plan.limit is not None:
        yield stands_on(plan.limit, request.player, presets.players().values())
    for sentence in plan.notices:
        yield f"note: {sentence}"


_MARKS = {"accent": ">", "bend": "b", "vibrato": "~", "tremolo": "%", "harmonic": "*", "let-ring": "&"}
"""what stands beside a fret for a mark"""
_LEGEND = {
    "rest": "rest: the string a stroke comes to rest on, f where it is free", "waits": "waits: the string at which the pick waits",
    "palm": "palm: x where it lies on", "lean": "lean: the way the pick leans, by its first letters",
}  # fmt: skip
_EXTRA: tuple[tuple[str, Callable[[Plan, PlanNote], str]], ...] = (
    ("rest", lambda plan, n: str(n.rest_on) if n.rest_on else "f" if n.stroke in ("down", "up") else ""),
    ("waits", lambda plan, n: str(n.waits_at) if n.waits_at else ""),
    ("palm", lambda plan, n: "x" if "palm-mute" in n.marks else ""),
    ("lean", lambda plan, n: "".join(word[0] for word in n.lean.split("-")) if n.stroke in ("down", "up") else ""),
)
"""rows below the fingers, each where it has something to tell: the string a stroke comes to rest on (f, free), the string at which
the pick waits, the palm, the lean where it changes"""


def _extra(plan: Plan) -> list[str]:
    """The names of the rows that have something to tell."""
    leads = plan.leads
    tells = {
        "rest": any(n.rest_on for n in leads), "waits": any(n.waits_at for n in leads),
        "palm": any("palm-mute" in n.marks for n in leads), "lean": len({n.lean for n in leads if n.stroke in ("down", "up")}) > 1,
    }  # fmt: skip
    return [name for name, _ in _EXTRA if tells[name]]


def _columns(plan: Plan) -> Iterator[tuple[int, dict[str, str]]]:
    """For each event its bar and what stands in each row."""
    strings = plan.request.instrument.strings
    for chord in range(len(plan.events)):
        notes = plan.events[chord]
        lead = notes[0]
        cell = {str(s): "" for s in range(1, strings + 1)}
        for note in notes:
            fret = "x" if "dead" in note.marks else str(note.fret)
            cell[str(note.string)] = (
                _ATTACK[note.attack] + fret + "".join(sign for mark, sign in _MARKS.items() if mark in note.marks)
            )
        cell["stroke"] = _STROKE.get(lead.stroke, lead.stroke)
        cell["finger"] = "".join(n.finger for n in notes)
        cell |= {name: of(plan, lead) for name, of in _EXTRA}
        cell["count"] = count(plan.request.phrase, chord)
        yield plan.request.phrase.events[chord].bar, cell


def _tablature(plan: Plan) -> Iterator[str]:
    instrument = plan.request.instrument
    strings = [str(s) for s in range(1, instrument.strings + 1)]
    names = {str(s): f"{SHARP_NAMES[instrument.open_pitch(s) % 12]:<2}" for s in range(1, instrument.strings + 1)}
    extra = _extra(plan)
    parts = {section.first: section.name for section in plan.request.phrase.sections}
    rows = [*(["part"] if parts else []), "count", *strings, "stroke", "finger", *extra]
    bars = plan.request.phrase.bars
    lines: dict[str, str] = {}

    def flush(end: str = "|") -> Iterator[str]:
        for row in rows:
            if row != "part" or lines[row].strip() != row:
                yield (lines[row] + (end if row in strings else "")).rstrip()
        yield ""

    bar = None
    for event_bar, cell in _columns(plan):
        cell["part"] = parts.get(event_bar, "") if event_bar != bar else ""
        width = max(len(cell[row]) for row in rows) + 1
        if not lines or len(lines["count"]) + width > WIDTH:
            if lines:
                yield from flush()
            lines = {row: f"{names.get(row, row):<7}" for row in rows}
            bar = None
        if event_bar != bar:
            sign = _bar_sign(bars[event_bar - 1] if event_bar else None, bars[event_bar])
            for row in rows:
                lines[row] += sign if row in strings else " " * len(sign)
            bar = event_bar
        for row in rows:
            lines[row] += cell[row].ljust(width, "-" if row in strings else " ")
    yield from flush(":|" if bars[-1].repeat_times else "|")
    if extra:
        yield "; ".join(_LEGEND[name] for name in extra)


def _bar_sign(before: Bar | None, bar: Bar) -> str:
    """The line before a bar, with the signs of repeats and the number of its ending."""
    ends = ":" if before is not None and before.repeat_times else ""
    number = (
        "".join(map(str, bar.endings)) + "."
        if bar.endings and (before is None or bar.endings != before.endings)
        else ""
    )
    return f"{ends}|{':' if bar.repeat_start else ''}{number}"


def _totals(plan: Plan) -> Iterator[str]:
    t = plan.totals
    yield (
        f"{t.picked} picked, {t.plucked} plucked, {t.legato} unpicked; passes over {t.hops} strings in all, "
        f"{t.buried_hops} of the moves buried; {many(t.carry_through, 'carry-through')}, {t.outside} outside, {t.inside} inside"
    )
    yield (
        f"{t.changes} string changes ({t.changes_per_second:.1f} a second), pick travel {t.pick_travel_mm:.0f} mm; "
        f"{t.shifts} shifts ({t.shift_mm:.0f} mm), stretch up to {t.max_stretch_mm:.0f} mm, {t.rolls} rolls, {t.knots} knots"
    )


def _counts(plan: Plan) -> Iterator[str]:
    for group in counts(plan):
        yield f"{group.title}, counted"
        yield from (f"  {row.label.lower()}: {row.words}" for row in group.rows)


def _findings(plan: Plan) -> Iterator[str]:
    if not plan.findings:
        yield "No findings: nothing hurts at this tempo."
    places = by_place(plan.findings)
    for place in places[:MOST_PLACES]:
        first = place[0]
        names = ", ".join(f.rule for f in place)
        bar = plan.notes[first.at].bar_number
        yield f"bar {bar}, note {first.at + 1}: {first.text} [{names}; {first.severity}]"
        yield from (f"    also: {other.text} [{other.rule}]" for other in place[1:])
        if first.remedy is not None:
            yield f"    try: {remedy_text(plan, first.remedy)}"
        elif first.advice:
            yield f"    what helps: {first.advice}"
    more = len(places) - MOST_PLACES
    if more > 0:
        yield f"and {more} smaller places"
        yield from (f.text for place in places[MOST_PLACES:] for f in place if f.rule in OF_THE_PLAYER)


def frontier_table(balances: tuple[Balance, ...]) -> str:
    """The frontier as readable lines, fewest notes left unpicked first."""
    lines = ["unpicked  picking work  fretting work  ceiling (estimate)  strokes"]
    for b in balances:
        leads = {n.event: n.stroke for n in b.plan.notes}
        strokes = "".join(_STROKE.get(s, s) for s in leads.values())
        ceiling = "none" if b.plan.ceiling is None else f"{b.plan.ceiling:.0f}"
        lines.append(f"{b.unpicked:>8}  {b.picking_work:>12.2f}  {b.fretting_work:>13.2f}  {ceiling:>18}  {strokes}")
    return "\n".join(lines) + "\n"
