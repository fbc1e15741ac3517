"""The numbers of rendered sound: what strings, drums and clicks do. None of them enters a plan."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dromic.core.values.checks import check_ranged_fields, ranged


@dataclass(frozen=True, slots=True)
class MixNumbers:
    """How sounds are put together."""

    level: float = ranged("", 0, 1, "level of all that sounds")
    chord: float = ranged(
        "", 0, 1, "each of n notes struck together sounds n to minus this power of what it would alone"
    )
    knee: float = ranged("", 0, 1, "what is louder is bent back, so that nothing reaches 1")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class StringNumbers:
    """What a plucked string does."""

    decay_s: float = ranged("s", 0.05, 30, "time for a middle string at note 52 (E3) to fall by 60 dB")
    decay_slope: float = ranged("", 0.5, 1.5, "the same a semitone higher, as a multiple")
    bright: float = ranged("", 0, 1, "share of the loop's high end kept at each pass: 0 dull, 1 bright")
    bass_bright: float = ranged("", 0, 1, "the same for strings tuned below E2")
    pluck_at: float = ranged(
        "", 0.01, 0.5, "place of the pick, as a share of the string's length: a notch in the spectrum"
    )
    fade_ms: float = ranged("ms", 0, 1000, "fade at a note's end")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class MuteNumbers:
    """What muting does to a note."""

    palm_decay: float = ranged("", 0, 1, "decay of a palm-muted note, as a share of an open one's")
    palm_bright: float = ranged("", 0, 1, "its high end, as a share of an open one's")
    dead_decay_ms: float = ranged("ms", 1, 1000, "decay of a dead note: a thud")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class BendNumbers:
    """How pitches move."""

    rise_ms: float = ranged("ms", 1, 5000, "rise of a bend, or half the note if that is shorter")
    vibrato_hz: float = ranged("Hz", 0, 50, "rate of vibrato")
    vibrato_semitones: float = ranged("semitones", 0, 12, "depth of vibrato")
    slide_ms: float = ranged("ms", 1, 5000, "time in which a slide arrives")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class ClickNumbers:
    """The click."""

    beat_hz: float = ranged("Hz", 20, 20000, "pitch of a beat's click")
    first_hz: float = ranged("Hz", 20, 20000, "pitch of the click on the first beat of a bar")
    length_ms: float = ranged("ms", 1, 1000, "length of a click")
    level: float = ranged("", 0, 1, "level of a click")
    inside_level: float = ranged("", 0, 1, "level of clicks inside a beat, as a share of the others'")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class DrumNumbers:
    """One drum of the groove: a tone that falls, and noise."""

    length_ms: float = ranged("ms", 1, 5000, "length of its sound")
    decay_ms: float = ranged("ms", 1, 5000, "time in which it falls to 1/e")
    hz: float = ranged("Hz", 20, 20000, "pitch it falls to")
    drop: float = ranged("", 0, 100, "how much higher it begins, as a share")
    drop_ms: float = ranged("ms", 1, 5000, "time in which it drops by most of that")
    noise: float = ranged("", 0, 1, "share of noise")
    level: float = ranged("", 0, 1, "its level")

    def __post_init__(self) -> None:
        check_ranged_fields(self)


@dataclass(frozen=True, slots=True)
class SoundSettings:
    """The numbers of sound.toml. `manner` is loudness and brightness of the pluck, against a picked note, by technique."""

    rate: int
    """samples a second"""
    mix: MixNumbers
    string: StringNumbers
    manner: Mapping[str, tuple[float, float]]
    mute: MuteNumbers
    bend: BendNumbers
    click: ClickNumbers
    groove: Mapping[str, DrumNumbers]
