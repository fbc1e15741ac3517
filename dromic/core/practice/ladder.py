"""At which tempo to go on: first rungs, steps after clean passes, back after misses, bursts, rests, plateaus. The rules are
told in docs/model.md; every number is a setting of practice.toml."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from operator import attrgetter

from dromic.core.practice.log_pass import Pass
from dromic.core.setup.practice_settings import Ladder

SLOW, FAST, SCAN = "slow until clean", "fast often", "scan"
SCHOOLS = (SLOW, FAST, SCAN)
_day = attrgetter("day")
_SAME = 0.005
"""tempos closer than this share are one"""


@dataclass(frozen=True, slots=True)
class Rung:
    """What to do next: the tempo in quarters a minute, why, and whether it is a burst, or a rest in seconds is due first."""

    tempo: float
    reason: str
    burst: bool = False
    rest_s: float = 0.0
    plateau: bool = False


def first_tempo(target: float, ceiling: float | None, numbers: Ladder) -> float:
    """Where to begin what nobody has practised yet: a share of the target, never over a share of the ceiling."""
    tempo = numbers.first_of_target * target
    return min(tempo, numbers.first_of_ceiling * ceiling) if ceiling else tempo


def next_rung(
    passes: Sequence[Pass], today: date, target: float, ceiling: float | None, numbers: Ladder,
    school: str = SLOW, before: tuple[float, date] | None = None,
) -> Rung:  # fmt: skip
    """The next tempo of a drill from its passes, in the order they were played, the last one last. `before` is the fastest clean
    tempo ever and the day it was last played, where passes are those of recent days alone."""
    known = [p for p in passes if p.attentive]
    here = known[bisect_left(known, today, key=_day) : bisect_right(known, today, key=_day)]
    if school == SCAN:
        return _scanned(here, target, ceiling, numbers)
    if not here:
        return _first_today(known, today, target, ceiling, numbers, school, before)
    last = here[-1]
    tempo = last.tempo
    if last.burst:
        held = next((p.tempo for p in reversed(here) if not p.burst), first_tempo(target, ceiling, numbers))
        return Rung(held, "after the burst, back to where it is clean")
    run = _run([p for p in here if not p.burst], tempo)
    if not last.clean:
        misses = sum(not p.clean for p in here[-5:])
        rest = numbers.rest_s if misses >= numbers.rest_misses else 0.0
        if run >= numbers.misses_to_back:
            back = tempo * (1 - numbers.back)
            return Rung(back, f"{run} misses in a row: {numbers.back:.0%} slower", rest_s=rest)
        return Rung(tempo, "once more at this tempo", rest_s=rest)
    if run < numbers.clean_to_step:
        return Rung(tempo, f"clean {run} of {numbers.clean_to_step:.0f}; once more at this tempo")
    if tempo >= target * (1 - _SAME):
        return Rung(target, "clean at the target: keep it, or go on to the next drill")
    stalled = plateau_days(known, today)
    at_best = tempo >= (best_clean(known) or 0.0) * (1 - numbers.step)
    if stalled >= numbers.plateau_days and at_best:
        return Rung(
            tempo, f"no faster for {stalled} days: take fewer notes, one hand alone, or another plan", plateau=True
        )
    steps = len({round(p.tempo, 1) for p in here if p.clean and not p.burst})
    first_here = next(i for i, p in enumerate(here) if not p.burst and abs(p.tempo - tempo) <= _SAME * tempo)
    if steps % int(numbers.burst_every) == 0 and not any(p.burst for p in here[first_here:]):
        burst = min(tempo * (1 + numbers.burst), max(target, tempo))
        if burst > tempo * (1 + _SAME):
            return Rung(burst, "a short burst a step above, then back", burst=True)
    return Rung(min(tempo * (1 + numbers.step), target), f"clean {run} times in a row: {numbers.step:.0%} faster")


def _scanned(here: Sequence[Pass], target: float, ceiling: float | None, numbers: Ladder) -> Rung:
    """Once at every tempo from slow to past the target, clean or not, and from the front again."""
    low, high = first_tempo(target, ceiling, numbers), target * (1 + numbers.burst)
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
    """The fastest tempo of a clean pass, bursts left aside."""
    return max((p.tempo for p in passes if p.clean and not p.burst), default=None)


def plateau_days(passes: Sequence[Pass], today: date) -> int:
    """On how many days it was practised, today included, since the fastest clean pass was first reached."""
    best = best_clean(passes)
    if best is None:
        return 0
    first = next(p.day for p in passes if p.clean and not p.burst and p.tempo >= best * (1 - _SAME))
    return len({p.day for p in passes if first < p.day <= today})


def _first_today(
    known: Sequence[Pass], today: date, target: float, ceiling: float | None, numbers: Ladder, school: str,
    before: tuple[float, date] | None,
) -> Rung:  # fmt: skip
    best = max((t for t in (best_clean(known), before and before[0]) if t), default=None)
    if best is None:
        tempo = first_tempo(target, ceiling, numbers)
        share = tempo / target
        limited = ceiling is not None and tempo < numbers.first_of_target * target * (1 - _SAME)
        why = f"{numbers.first_of_ceiling:.0%} of its ceiling" if limited else f"{share:.0%} of the target"
        return Rung(tempo, f"not practised yet: {why}")
    last = known[-1].day if known else before[1] if before else today
    away = max(0, (today - last).days - 1)
    share = numbers.fast_often if school == FAST else numbers.again
    less = min(away * numbers.away_a_day, numbers.away_most)
    told = f"; {away} {'day' if away == 1 else 'days'} missed: {less:.0%} less" if away else ""
    return Rung(min(best * share * (1 - less), target), f"{share:.0%} of what was clean last{told}")


def _run(passes: Sequence[Pass], tempo: float) -> int:
    """How many passes in a row, up to the last, went as the last one did, at its tempo."""
    count = 0
    for one in reversed(passes):
        if one.clean != passes[-1].clean or abs(one.tempo - tempo) > _SAME * tempo:
            break
        count += 1
    return count
