"""The numbers of practice: how tempos climb, what a session is made of. docs/model.md tells what each does."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.values.checks import check_ranged_fields, ranged


@dataclass(frozen=True, slots=True)
class Ladder:
    """How tempos climb from pass to pass and from day to day."""

    first_of_target: float = ranged("", 0, 1, "first tempo as a share of the target")
    first_of_ceiling: float = ranged("", 0, 1, "first tempo at most, as a share of the ceiling")
    clean_to_step: int = ranged("", 1, 100, "clean passes in a row before a step up")
    misses_to_back: int = ranged("", 1, 100, "misses in a row before a step back")
    step: float = ranged("", 0, 1, "step up, as a share of the tempo")
    back: float = ranged("", 0, 1, "step back, as a share of the tempo")
    burst: float = ranged("", 0, 1, "burst: a short pass over the tempo, by this share of it")
    burst_every: int = ranged("", 1, 100, "steps up between bursts")
    rest_misses: int = ranged("", 1, 5, "misses among the last five passes from which on a rest is due")
    rest_s: int = ranged("s", 0, 3600, "length of a rest")
    again: float = ranged("", 0, 1, "where the next day begins, as a share of the best clean tempo")
    away_a_day: float = ranged("", 0, 1, "less for each day away after the first, as a share")
    away_most: float = ranged("", 0, 1, "less at most for days away, as a share")
    plateau_days: int = ranged("days", 0, 365, "days without a faster clean pass from which on it is called a plateau")
    fast_often: float = ranged(
        "", 0, 1, "where the fast way of raising tempos begins after a warm-up, as a share of the best clean tempo"
    )
    scan_step: float = ranged("", 0, 1, "step from pass to pass of a scan, as a share of the tempo")
    soreness_less: float = ranged("", 0, 1, "less for each degree of soreness (0 to 3), as a share of the tempo")

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
    session: SessionNumbers
    passes: PassNumbers
    drills: DrillNumbers
    learning: LearningNumbers
