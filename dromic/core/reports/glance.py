"""A plan at a glance: as much of it as a thumbnail shows, small enough to be kept beside the songbook and drawn without planning."""

from __future__ import annotations

from dataclasses import asdict, dataclass

from dromic.core.plan.plan import Plan

_LEADING = 0.65
"""share of what is shown that leads up to the worst place"""
MOST_NOTES = 96
"""the first so many notes are kept"""


@dataclass(frozen=True, slots=True)
class GlanceNote:
    """One event: when it sounds, in seconds, on which strings with which frets and fingers, its stroke, and the loads of both hands on
    the way to it."""

    at_s: float
    end_s: float
    strings: tuple[int, ...]
    frets: tuple[int, ...]
    fingers: tuple[str, ...]
    stroke: str
    pick: float
    fret: float


@dataclass(frozen=True, slots=True)
class Glance:
    """A phrase, its tempo and its ceiling with its range in quarters a minute (None where nothing limits it; an estimate)."""

    title: str
    tempo: float
    ceiling: float | None
    low: float | None
    high: float | None
    strings: int
    notes: tuple[GlanceNote, ...]

    @property
    def end_s(self) -> float:
        return self.notes[-1].end_s if self.notes else 0.0

    @property
    def words(self) -> str:
        """The ceiling against the tempo asked for."""
        if self.ceiling is None:
            return "nothing limits it"
        return f"about {self.ceiling:.0f}, asked {self.tempo:g}"

    def from_s(self, long_s: float) -> float:
        """Where to begin, in seconds, so that so much of it shows the place that hurts most with what leads there."""
        worst = max(self.notes, key=lambda n: max(n.pick, n.fret))
        return max(0.0, min(worst.at_s - _LEADING * long_s, self.end_s - long_s))


def glance_of(plan: Plan) -> Glance:
    """The glance of a plan."""
    arriving = {move.to: move for move in plan.onward}
    notes = []
    for event, played in enumerate(plan.events[:MOST_NOTES]):
        move = arriving.get(event)
        notes.append(GlanceNote(
            round(played[0].start_s, 4), round(max(n.end_s for n in played), 4), tuple(n.string for n in played),
            tuple(n.fret for n in played), tuple(n.finger for n in played), played[0].stroke,
            round(move.pick_load or 0.0, 3) if move is not None else 0.0, round(move.fret_load, 3) if move is not None else 0.0,
        ))  # fmt: skip
    low, high = plan.ceiling_range or (None, None)
    phrase = plan.request.phrase
    return Glance(phrase.title, phrase.tempo, plan.ceiling, low, high, plan.request.instrument.strings, tuple(notes))


def as_json(glance: Glance) -> dict[str, object]:
    """For a file."""
    return asdict(glance)


def from_json(data: object) -> Glance:
    """Back from a file; ValueError, TypeError or KeyError for what is none."""
    if not isinstance(data, dict):
        raise ValueError("no glance")
    notes = tuple(
        GlanceNote(
            float(n["at_s"]), float(n["end_s"]), tuple(int(s) for s in n["strings"]), tuple(int(f) for f in n["frets"]),
            tuple(str(f) for f in n["fingers"]), str(n["stroke"]), float(n["pick"]), float(n["fret"]),
        )
        for n in data["notes"]
    )  # fmt: skip
    strings = int(data["strings"])
    if not notes or any(not n.strings or not all(1 <= s <= strings for s in n.strings) for n in notes):
        raise ValueError("no notes on its strings")
    ceiling, low, high = (None if data[k] is None else float(data[k]) for k in ("ceiling", "low", "high"))
    return Glance(str(data["title"]), float(data["tempo"]), ceiling, low, high, strings, notes)
