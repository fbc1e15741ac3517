"""The numbers of practice: how tempos climb, what a session is made of. docs/model.md tells what each does."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.values.checks import check_ranged_fields, ranged


@dataclass(frozen=True, slots=True)
class Ladder:
    """How tempos climb from pass to pass and from day to day."""

    first_of_target: float = ranged("", 0, 1, "first tempo as a share of the target")
    first_of_ceiling: float = ranged("", 0, 1, "first tempo at most, as a share of the ceiling")
    check: float = ranged("", 0, 1, "where a day begins, as a share of what is clean by then")
    clean_to_step: int = ranged("", 1, 100, "clean passes in a row at a tempo before a faster one")
    clean_at_target: int = ranged("", 1, 100, "clean passes in a row at the target that count as reached")
    go_over: float = ranged("", 0, 2, "the target is tried up to this share of the limit")
    least_step: float = ranged("", 0, 1, "tempos nearer than this share are not told apart")
    careful: float = ranged("", 0, 10, "standard deviations of a limit left below it while it is unsure")
    sure: float = ranged("", 0, 1, "standard deviation from which on a limit counts as sure")
    misses_to_back: int = ranged("", 1, 100, "misses in a row where it should hold, before a step back")
    easy: float = ranged("", 0, 1, "share of the limit under which it should hold")
    back: float = ranged("", 0, 1, "step back, as a share of the tempo")
    rest_misses: int = ranged("", 1, 5, "misses among the last five passes from which on a rest is due")
    rest_s: int = ranged("s", 0, 3600, "length of a rest")
    plateau_days: int = ranged("days", 0, 365, "days without a faster clean pass from which on it is called a plateau")
    plateau_more: float = ranged("", 0, 1, "share tried more on each day of a plateau")
    plateau_most: float = ranged("", 0, 1, "and at most")
    over: float = ranged("", 0, 1, "share over the target that a scan ends at")
    scan_step: float = ranged("", 0, 1, "step from pass to pass of a scan, as a share of the tempo")
    soreness_less: float = ranged("", 0, 1, "less for each degree of soreness (0 to 3), as a share of the tempo")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class LimitNumbers:
    """What is believed of a drill's limit before a pass, and how fast that may change."""

    spread: float = ranged("", 0, 1, "standard deviation of a limit's logarithm before the first pass")
    slope: float = ranged("", 1, 1000, "slope of clean into missed, per share of the tempo")
    lapse: float = ranged("", 0, 0.5, "share of passes missed at any tempo")
    gain: float = ranged("", 0, 1, "share that a limit grows by in a pass at best, before anything is known")
    gain_spread: float = ranged("", 0, 1, "standard deviation of that")
    gain_wander: float = ranged("", 0, 1, "by how much that may change from pass to pass")
    wander: float = ranged("", 0, 1, "share a limit may move by from pass to pass for no known reason")
    night: float = ranged("", 0, 1, "share of a limit lost over a night")
    day_off: float = ranged("", 0, 1, "share lost over each further day without practice")
    most_off: float = ranged("", 0, 1, "share lost at most")
    night_spread: float = ranged("", 0, 1, "standard deviation of what a night does")
    cold: float = ranged("", 0, 1, "share that cold hands lack at first")
    cold_passes: float = ranged("", 1, 1000, "passes until they are warm")
    tired: float = ranged("", 0, 1, "share lost with every pass of a day")
    odds_near: float = ranged("", 0, 1000, "odds that what is near the limit makes it grow")
    odds_clean: float = ranged("", 0, 1000, "odds that only clean passes do")
    odds_fast: float = ranged("", 0, 1000, "odds that what is a little too fast does")
    judge_from: float = ranged("", 0, 1, "spread of a limit from which on the ideas are judged by its passes")
    reopen: float = ranged("", 0, 1, "share of the odds that goes back to what they were at first with every pass")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class SessionNumbers:
    """How a session is laid out."""

    warm_up_min: float = ranged("min", 0, 240, "slow, loose playing at the beginning")
    cool_down_min: float = ranged("min", 0, 240, "slow playing at the end")
    break_every_min: float = ranged("min", 0, 240, "playing from one break to the next")
    break_min: float = ranged("min", 0, 240, "length of a break")
    drill_min: float = ranged("min", 0, 240, "one drill")
    long_min: float = ranged("min", 0, 240, "a drill of the whole or of a section")
    keep_clean_min: float = ranged("min", 0, 240, "one thing that is clean already, kept clean")
    short_share: float = ranged("", 0, 1, "share of a session that the warm-up takes at most")
    rotate: float = ranged("", 0, 1000, "places a kind of drill goes up in the order for each day without it")
    new_kind_days: float = ranged("days", 0, 365, "days without it that a kind never practised counts for")
    warm_share: float = ranged("", 0, 1, "tempo of the warm-up, as a share of what was clean")
    block: int = ranged("", 1, 100, "passes of a drill before another has its turn")
    places_share: float = ranged("", 0, 1, "share of a phrase's minutes for its hard places, where one sticks out")
    plateau_share: float = ranged("", 0, 1, "and while the whole gets no faster")
    sticks_out: float = ranged(
        "", 0, 100, "by how much the hardest move stands over the middle of all for that, as a share of it"
    )
    never_days: float = ranged("days", 1, 365, "days without a clean pass from which on something is changed")
    whole_least: float = ranged("", 0, 1, "share of the whole then")
    spacing_days: tuple[float, ...] = ranged(
        "days", 0, 365, "days until a drill clean near its target comes round again, by the days in a row that it was"
    )

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class PassNumbers:
    """What is a pass, and what is none."""

    clean_share: float = ranged("", 0, 1, "share of its round under which a clean pass was none")
    bounce_s: float = ranged("s", -10, 3600, "two contacts of a key or a pedal closer than this are one")
    tap_least: float = ranged("quarters a minute", 1, 1000, "slowest tempo that taps can give")
    tap_most: float = ranged("quarters a minute", 1, 1000, "fastest tempo that taps can give")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class DrillNumbers:
    """What drills are cut from."""

    hardest: int = ranged("", 1, 100, "hardest moves that drills are made of")
    around: int = ranged("", 0, 100, "events on either side of a hard move")
    joined: int = ranged("", 0, 100, "events on either side of it when it is joined to its neighbours")
    adding: int = ranged("", 1, 1000, "notes of an adding drill at most")
    ramp: tuple[float, ...] = ranged("", 0, 1, "tempos of a ramp, as shares of its highest")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class LearningNumbers:
    """How rates are learned from passes and measured."""

    steepness: float = ranged(
        "", 1, 1000, "slope of the logistic by which clean turns into missed at the ceiling, per share of the tempo"
    )
    spread: float = ranged("", 0, 1, "prior standard deviation of a rate, as a share of its starting number")
    known: float = ranged("", 0, 1, "a rate is known when it is sure to within this share")
    measure_spread: float = ranged(
        "", 0, 1, "prior standard deviation of a limit, as a share of what the present numbers say"
    )
    measure_sure: float = ranged("", 0, 1, "a limit is measured when it is sure to within this share")
    measure_most: int = ranged("", 1, 1000, "passes after which measuring a limit ends in any case")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class PracticeSettings:
    """The numbers of practice.toml."""

    ladder: Ladder
    limit: LimitNumbers
    session: SessionNumbers
    passes: PassNumbers
    drills: DrillNumbers
    learning: LearningNumbers
