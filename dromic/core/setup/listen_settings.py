"""The numbers of listening: how takes are aligned, judged and, by the simulated player, made."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.values.checks import check_ranged_fields, ranged


@dataclass(frozen=True, slots=True)
class JudgeNumbers:
    """From where on something is said of a note."""

    late_ms: float = ranged("ms", 0, 5000, "onset this much after its time is late, at least")
    late_share: float = ranged("", 0, 1, "and at least this share of the shorter gap beside it")
    hammer_wider: float = ranged("", 0, 1000, "times as wide for hammered and pulled notes, whose onsets are softer")
    weak_db: float = ranged(
        "dB", -80, 80, "level under the median of its technique from which on a note is weak, over it loud"
    )
    driven_db: float = ranged("dB", -80, 80, "the same for an overdriven take, whose level says little")
    short_db: float = ranged(
        "dB", -80, 80, "decay late in a note's own time from which on it is cut short, where notes are to connect"
    )
    ringing_db: float = ranged("dB", -80, 80, "decay in the time of the next note under which a note rings over")
    touching_db: float = ranged("dB", -80, 80, "the same where notes are to end with the next, or before it")
    fits: float = ranged("", 0, 1, "share of pitch evidence under which an onset is another note than the one due")
    double_ms: float = ranged("ms", 0, 5000, "second onset of the same note within this time doubles it")
    double_strength: float = ranged("", 0, 1, "onset strength under which nothing is doubled")
    click_db: float = ranged(
        "dB",
        -80,
        80,
        "an onset after which there is so much more over 4 kHz was struck; a low string's own pulses are not",
    )
    click_or_rise_db: float = ranged(
        "dB",
        -80,
        80,
        "and so is one after which there is so much more in all: where hiss covers the click, or overdrive makes its own",
    )
    other_rise_db: float = ranged(
        "dB",
        -80,
        80,
        "an open string beside those played counts as sounding when there is so much more of it than before",
    )
    other_db: float = ranged("dB", -80, 80, "and its level against the note")
    one_stroke_ms: float = ranged("ms", 0, 5000, "onsets closer than this are one stroke")
    apart_ms: float = ranged(
        "ms", 0, 5000, "onset without the note's pitch at most this long before it: the pick without the finger"
    )
    apart_least_ms: float = ranged("ms", 0, 5000, "and at least this long before it")
    hard: float = ranged("", 0, 1, "load from which on the plan had foretold the fault")
    cents: float = ranged("cents", 0, 200, "error of a bend from which on it is told")
    extra_strength: float = ranged("", 0, 1, "onset strength under which an onset that belongs to nothing is not told")
    extra_sure: float = ranged("", 0, 1, "the same for onsets that were not struck")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class AlignNumbers:
    """How onsets are laid on the notes due."""

    slowest: float = ranged("", 0, 1, "slowest tempo looked at, as a share of the plan's")
    fastest: float = ranged("", 0, 1000, "fastest tempo looked at, as a multiple of the plan's")
    tempo_step: float = ranged("", 0, 1, "step between tempos looked at, as a share")
    drift: float = ranged(
        "", 0, 1, "share by which a gap may stray from the tempo around it before it costs as much as a missed note"
    )
    spread_ms: float = ranged("ms", 0, 5000, "standard deviation of onsets about their times")
    missed: float = ranged("", 0, 1000, "cost of a missed note, in squared standard deviations")
    extra: float = ranged("", 0, 1000, "cost of an onset that belongs to nothing, times its strength")
    pitch: float = ranged("", 0, 1000, "cost of an onset whose pitch speaks for another note")
    most_skipped: int = ranged("", 1, 100, "notes or onsets passed over in one step at most")
    reach_s: float = ranged(
        "s", -10, 3600, "distance from the straight line of the tempo at which onsets are looked for"
    )
    of_this_phrase: float = ranged("", 0, 1, "share of notes found under which it is no take of the phrase")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class LiveNumbers:
    """Passes heard while they are played, against the click."""

    stretch_s: float = ranged("s", -10, 3600, "length of the stretches in which a pass is judged")
    before: int = ranged("", 0, 100, "notes before a stretch that help to align it")
    after: int = ranged("", 0, 100, "notes after a stretch that help to align it")
    margin_s: float = ranged("s", -10, 3600, "how long after its time a late note is waited for")
    reach_s: float = ranged(
        "s",
        -10,
        3600,
        "how far from the click a stretch is looked for while the latency from playing to hearing is not measured",
    )
    reach_measured_s: float = ranged(
        "s", -10, 3600, "distance from the click at which a stretch is looked for once the latency is measured"
    )
    tempo: float = ranged("", 0, 1, "share by which the tempo of a clean stretch may stray from the click's")
    tempo_least_s: float = ranged("s", -10, 3600, "length of a stretch under which it tells no tempo")
    beside_s: float = ranged(
        "s",
        -10,
        3600,
        "off the click on the whole by more than this is told, where the latency of the input is measured",
    )
    lost_s: float = ranged(
        "s",
        -10,
        3600,
        "sound lost by the devices from which a pass is not marked: a note may come as much early or late",
    )
    least_heard: float = ranged(
        "", 0, 1, "onsets, as a share of its notes, under which a pass is not marked: noises of a room are few"
    )
    loosest: float = ranged("", 0, 1, "share by which a stretch's tempo may stray to be found at all")
    bleed_rest_db: float = ranged(
        "dB",
        -80,
        80,
        "what is left of a click once it is taken off is no louder against it: less than that is nobody playing",
    )
    bleed_s: float = ranged("s", -10, 3600, "how long after a click the microphone may still hear it")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class PerformNumbers:
    """How the simulated player plays."""

    timing_ms: float = ranged("ms", 0, 5000, "standard deviation of onsets as planned")
    timing_over_ms: float = ranged("ms", 0, 5000, "more of it for each unit of load over 0.85, times the level")
    late_share: float = ranged(
        "", 0, 1, "how late a move over its ceiling comes, as a share of its gap for each unit over, times the level"
    )
    loud_db: float = ranged("dB", -80, 80, "standard deviation of levels as planned")
    weak_db: float = ranged("dB", -80, 80, "how much weaker a stroke is that has no time")
    ceiling_at_full: float = ranged("", 0, 1, "share by which loads count as more at level 1")
    fault: float = ranged("", 0, 1, "share of notes that go wrong at level 1 whatever their load")
    doubled_ms: float = ranged("ms", 0, 5000, "from a doubled note's first onset to its second")
    short_at: float = ranged("", 0, 1, "share of its time at which a note cut short ends")
    ring_share: float = ranged("", 0, 1, "share of the next note's time at which a note that rings over ends")
    brush: float = ranged("", 0, 1, "share of picked notes with which an open string is brushed at level 1")
    brush_db: float = ranged("dB", -80, 80, "level of a brushed string against the note")
    apart: float = ranged(
        "", 0, 1, "share of notes, for each unit of load over 0.85, with which the hands are out of step"
    )
    apart_ms: float = ranged("ms", 0, 5000, "time by which they are, give or take two fifths")
    bend_cents: float = ranged("cents", 0, 200, "standard deviation of a bend's pitch at level 1")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class LatencyNumbers:
    """From playing to hearing, measured with clicks."""

    clicks: int = ranged("", 2, 100, "clicks of a measurement")
    tempo: float = ranged("quarters a minute", 1, 1000, "tempo of the clicks")
    least_s: float = ranged("s", -10, 3600, "least latency: a clap may come before its click")
    most_s: float = ranged("s", -10, 3600, "largest latency looked for")
    agree_s: float = ranged("s", -10, 3600, "spread within which clicks or claps agree")
    need: float = ranged("", 0, 1, "share of them that must agree")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class ListenSettings:
    """The numbers of listen.toml."""

    judge: JudgeNumbers
    align: AlignNumbers
    live: LiveNumbers
    perform: PerformNumbers
    latency: LatencyNumbers
