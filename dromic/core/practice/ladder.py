"""At which tempo to go on: the first rung, the first of a day, steps large while it is easy and small near the limit, rests,
plateaus. The rules are told in docs/model.md; every number is a setting of practice.toml."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from operator import attrgetter

from dromic.core.practice.limit import Belief
from dromic.core.practice.log_pass import Pass
from dromic.core.setup.practice_settings import Ladder, LimitNumbers

BEST, SLOW, FAST, SCAN = "what lifts you most", "slow until clean", "fast often", "scan"
SCHOOLS = (BEST, SLOW, FAST, SCAN)
_ODDS: dict[str, tuple[float, ...]] = {SLOW: (0.0, 1.0, 0.0), FAST: (0.0, 0.0, 1.0)}
"""of the ideas of what makes a limit grow, where a player holds one of them"""
_day = attrgetter("day")
_SAME = 0.005
"""tempos closer than this share are one"""
_LATELY = 300
"""passes of a drill that are looked at one by one"""


@dataclass(frozen=True, slots=True)
class Rung:
    """What to do next: the tempo in quarters a minute, why, and whether it is a burst, or a rest in seconds is due first."""

    tempo: float
    reason: str
    burst: bool = False
    rest_s: float = 0.0
    plateau: bool = False


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of a drill beside its passes: its `ceiling` by the hands planned for, the fastest it was ever clean, and whether
    hands may climb today."""

    ceiling: float | None = None
    clean: float | None = None
    climb: bool = True


def first_tempo(target: float, ceiling: float | None, numbers: Ladder) -> float:
    """Where to begin what nobody has practised yet: a share of the target, never over a share of the ceiling."""
    tempo = numbers.first_of_target * target
    return min(tempo, numbers.first_of_ceiling * ceiling) if ceiling else tempo


def at_target(tempo: float, target: float) -> bool:
    """Whether a tempo counts as the target."""
    return tempo >= target * (1 - _SAME)


def belief_of(passes: Sequence[Pass], target: float, known: Known, numbers: LimitNumbers, school: str = BEST) -> Belief:
    """What passes played with attention, in their order, tell of a drill's limit."""
    usual = known.ceiling or target
    if known.clean:
        usual = max(usual, known.clean)
    start = Belief.of(usual, numbers.spread, numbers, _ODDS.get(school, ()))
    return start.over([p for p in passes if p.attentive][-_LATELY:])


def next_rung(
    passes: Sequence[Pass], today: date, target: float, ladder: Ladder, limits: LimitNumbers,
    known: Known | None = None, school: str = BEST, belief: Belief | None = None,
) -> Rung:  # fmt: skip
    """The next tempo of a drill from its passes, in the order they were played, the last one last. `belief` is that of the passes
    before today, where it is at hand."""
    known = known or Known()
    of = [p for p in passes if p.attentive]
    first = bisect_left(of, today, key=_day)
    here = of[first : bisect_right(of, today, key=_day)]
    if school == SCAN:
        return _scanned(here, target, known.ceiling, ladder)
    best = max((t for t in (best_clean(of), known.clean) if t), default=None)
    if not of and best is None:
        return _first_ever(target, known, ladder)
    believed = (belief or belief_of(of[:first], target, known, limits, school)).over(here).on(today)
    plateau = plateau_days(of, today)
    if not here:
        return _first_today(best, believed, target, ladder)
    last = here[-1]
    rest = ladder.rest_s if _rest_is_due(here, ladder) else 0.0
    if not known.climb:
        least = here[0].tempo
        tempo = least if last.clean else min(least, last.tempo * (1 - ladder.back))
        return Rung(tempo, "hands are sore: no faster today", rest_s=rest)
    run = _run(here, last.tempo)
    if last.clean and at_target(last.tempo, target):
        if run >= ladder.clean_at_target:
            return Rung(target, "clean at the target: keep it, or go on to the next drill")
        return Rung(target, f"clean {run} of {ladder.clean_at_target} at the target; once more")
    wanted, why = _wanted(believed, target, best, ladder)
    if plateau >= ladder.plateau_days and wanted < target:
        more = min(ladder.plateau_more * (plateau - ladder.plateau_days + 1), ladder.plateau_most)
        wanted, why = (
            wanted * (1 + more),
            f"no faster for {plateau} days: a little more than it holds, and another way to it",
        )
    wanted = min(wanted, target)
    if not last.clean:
        wanted = min(wanted, last.tempo)  # nobody is asked for more after a miss
        if run >= ladder.misses_to_back and last.tempo < ladder.easy * believed.limit:
            return Rung(last.tempo * (1 - ladder.back), f"{run} misses in a row: {ladder.back:.0%} slower", rest_s=rest)
    stalled = plateau >= ladder.plateau_days
    if last.clean and run < ladder.clean_to_step and wanted > last.tempo:
        return Rung(last.tempo, f"clean {run} of {ladder.clean_to_step}; once more", rest_s=rest, plateau=stalled)
    if wanted < target and abs(wanted / last.tempo - 1) < ladder.least_step:
        return Rung(
            last.tempo,
            "once more at this tempo" if not last.clean else f"{why}; once more",
            rest_s=rest,
            plateau=stalled,
        )
    return Rung(wanted, why, rest_s=rest, plateau=stalled)


def _first_ever(target: float, known: Known, ladder: Ladder) -> Rung:
    tempo = first_tempo(target, known.ceiling, ladder)
    limited = known.ceiling is not None and tempo < ladder.first_of_target * target * (1 - _SAME)
    why = f"{ladder.first_of_ceiling:.0%} of its ceiling" if limited else f"{tempo / target:.0%} of the target"
    return Rung(tempo, f"not practised yet: {why}")


def _first_today(best: float | None, believed: Belief, target: float, ladder: Ladder) -> Rung:
    """One pass to check by, below what was clean."""
    clean = min(best, believed.limit) if best else believed.limit
    return Rung(min(ladder.check * clean, target), f"a check: {ladder.check:.0%} of what is clean by now")


def _wanted(believed: Belief, target: float, best: float | None, ladder: Ladder) -> tuple[float, str]:
    """The tempo a pass is worth most at, and why."""
    limit, share = believed.limit, believed.share
    sure = limit * (1 - ladder.careful * max(0.0, believed.spread - ladder.sure))
    if target <= sure * max(ladder.go_over, share):
        return target, "the target is within reach: try it"
    tempo = share * sure
    if best and tempo > best * (1 + ladder.least_step) and share <= 1.0:
        return tempo, "it has room: a larger step"
    if share > 1.0:
        return tempo, "a little over what holds: that has lifted it most"
    return tempo, f"{share:.0%} of what it holds by now: there it grows most"


def _rest_is_due(here: Sequence[Pass], ladder: Ladder) -> bool:
    """After so many misses among the last five, and none of the five before a rest counts again."""
    if here[-1].clean:
        return False
    since = 0
    for n in range(1, len(here) + 1):
        lately = here[max(since, n - 5) : n]
        if sum(not p.clean for p in lately) >= ladder.rest_misses:
            if n == len(here):
                return True
            since = n
    return False


def _scanned(here: Sequence[Pass], target: float, ceiling: float | None, numbers: Ladder) -> Rung:
    """Once at every tempo from slow to past the target, clean or not, and from the front again."""
    low, high = first_tempo(target, ceiling, numbers), target * (1 + numbers.over)
    tempo = here[-1].tempo * (1 + numbers.scan_step) if here else low
    if tempo > high:
        found = broken_band(here)
        told = (
            f"it breaks between {found[0]:.0f} and {found[1]:.0f}"
            if found
            else "no band breaks between slower and faster"
        )
        return Rung(low, f"the scan is through: {told}")
    return Rung(tempo, "a scan: once at every tempo, clean or not")


def broken_band(passes: Sequence[Pass]) -> tuple[float, float] | None:
    """The tempos between slow and fast that break down: from the slowest to the fastest of those at which it was missed more often
    than clean, with cleaner ones on either side; None where what is missed is only what is fastest, or nothing is."""
    by_tempo: dict[float, list[bool]] = {}
    for one in passes:
        by_tempo.setdefault(round(one.tempo), []).append(one.clean)
    tempos = sorted(by_tempo)
    good = [2 * sum(by_tempo[t]) >= len(by_tempo[t]) for t in tempos]
    if True not in good:
        return None
    first, last = good.index(True), len(good) - 1 - good[::-1].index(True)
    bad = [t for t, fine in zip(tempos[first : last + 1], good[first : last + 1], strict=True) if not fine]
    return (bad[0], bad[-1]) if bad else None


def best_clean(passes: Sequence[Pass]) -> float | None:
    """The fastest tempo of a clean pass."""
    return max((p.tempo for p in passes if p.clean), default=None)


def plateau_days(passes: Sequence[Pass], today: date) -> int:
    """On how many days it was practised, today included, since the fastest clean pass was first reached."""
    best = best_clean(passes)
    if best is None:
        return 0
    first = next(p.day for p in passes if p.clean and p.tempo >= best * (1 - _SAME))
    return len({p.day for p in passes if first < p.day <= today})


def _run(passes: Sequence[Pass], tempo: float) -> int:
    """How many passes in a row, up to the last, went as the last one did, at its tempo."""
    count = 0
    for one in reversed(passes):
        if one.clean != passes[-1].clean or abs(one.tempo - tempo) > _SAME * tempo:
            break
        count += 1
    return count
