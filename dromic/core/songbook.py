"""A songbook: phrases kept together, in the player's order."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dromic.core.errors import DromicError
from dromic.core.instrument import Instrument
from dromic.core.metre import Metre
from dromic.core.phrase import Bar, Phrase


@dataclass(frozen=True, slots=True)
class Songbook:
    """Phrases under one title; at least one, which may be empty."""

    title: str
    phrases: tuple[Phrase, ...]
    about: str = ""

    def __post_init__(self) -> None:
        if not self.phrases:
            raise DromicError("a songbook holds at least one phrase")

    @property
    def titles(self) -> list[str]:
        return [p.title for p in self.phrases]

    def with_phrase(self, index: int, phrase: Phrase) -> Songbook:
        return replace(self, phrases=(*self.phrases[:index], phrase, *self.phrases[index + 1 :]))

    def inserted(self, index: int, phrase: Phrase) -> Songbook:
        return replace(self, phrases=(*self.phrases[:index], phrase, *self.phrases[index:]))

    def without(self, index: int) -> Songbook:
        """The songbook without one phrase; DromicError if it is the only one."""
        return replace(self, phrases=(*self.phrases[:index], *self.phrases[index + 1 :]))

    def moved(self, index: int, to: int) -> Songbook:
        rest = self.without(index)
        return rest.inserted(to, self.phrases[index])


def empty_phrase(title: str, instrument: Instrument, bars: int = 4, metre: Metre | None = None) -> Phrase:
    """A phrase to be written: so many bars of silence."""
    metre = metre or Metre(4, 4)
    return Phrase(
        title=title,
        events=(),
        bars=tuple(Bar(n + 1, n * metre.length, metre.length, metre) for n in range(bars)),
        tempo_stated=True,
        instrument=instrument,
    )


def empty_songbook(instrument: Instrument) -> Songbook:
    return Songbook("Untitled", (empty_phrase("Phrase 1", instrument),))
