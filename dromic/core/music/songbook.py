"""A songbook: its entries in the player's order, each a phrase with what the player chose for it and which plans were kept."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from dromic.core.music.phrase import Bar, Phrase
from dromic.core.setup.choices import Choices
from dromic.core.setup.decision import Decision
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre


@dataclass(frozen=True, slots=True)
class Entry:
    """A phrase, and beside it what is not music: `choices` is None as long as the player has chosen nothing for it;
    `decisions` are the plans that were kept, the latest last."""

    phrase: Phrase
    choices: Choices | None = None
    decisions: tuple[Decision, ...] = ()

    @property
    def decision(self) -> Decision | None:
        """The plan that holds: the one kept last."""
        return self.decisions[-1] if self.decisions else None

    def decided(self, decision: Decision) -> Entry:
        """With one more plan kept and chosen; it takes the place of one kept under the same label."""
        others = tuple(d for d in self.decisions if d.label != decision.label)
        return replace(self, choices=decision.choices, decisions=(*others, decision))

    def without_decision(self, decision: Decision) -> Entry:
        """With a plan that was kept let go; the one kept before it holds, if there is one."""
        return replace(self, decisions=tuple(d for d in self.decisions if d != decision))


@dataclass(frozen=True, slots=True)
class Songbook:
    """Entries under one title; at least one, whose phrase may be empty."""

    title: str
    entries: tuple[Entry, ...]
    about: str = ""

    def __post_init__(self) -> None:
        if not self.entries:
            raise DromicError("a songbook holds at least one phrase")

    @classmethod
    def of(cls, title: str, phrases: Iterable[Phrase], about: str = "") -> Songbook:
        """A songbook of phrases for which nothing has been chosen yet."""
        return cls(title, tuple(Entry(p) for p in phrases), about)

    @property
    def phrases(self) -> tuple[Phrase, ...]:
        """The phrases alone, in their order."""
        return tuple(e.phrase for e in self.entries)

    @property
    def titles(self) -> list[str]:
        """Their titles."""
        return [e.phrase.title for e in self.entries]

    def with_entry(self, index: int, entry: Entry) -> Songbook:
        """The songbook with one entry replaced."""
        return replace(self, entries=(*self.entries[:index], entry, *self.entries[index + 1 :]))

    def inserted(self, index: int, entry: Entry) -> Songbook:
        """The songbook with one entry more, before the one at `index`."""
        return replace(self, entries=(*self.entries[:index], entry, *self.entries[index:]))

    def without(self, index: int) -> Songbook:
        """The songbook without one entry; DromicError if it is the only one."""
        return replace(self, entries=(*self.entries[:index], *self.entries[index + 1 :]))

    def moved(self, index: int, to: int) -> Songbook:
        """The songbook with one entry at another place."""
        rest = self.without(index)
        return rest.inserted(to, self.entries[index])


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
    """A songbook to be written: one empty phrase."""
    return Songbook.of("Untitled", (empty_phrase("Phrase 1", instrument),))
