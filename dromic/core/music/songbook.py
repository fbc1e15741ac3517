"""A songbook: its entries in the player's order, each a phrase with what the player chose for it and which plans were kept."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from uuid import UUID, uuid4, uuid5

from dromic.core.music.phrase import Bar, Phrase
from dromic.core.setup.choices import Choices
from dromic.core.setup.decision import Decision
from dromic.core.setup.instrument import Instrument
from dromic.core.values.checks import check_text
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre

MOST_ID = 64
"""letters of an id"""
_READ_FROM_FILES = UUID("6b7a51a0-6b52-4d3c-9c0e-5d1f6c1c7a5e")
"""the namespace of ids computed for what came without one; drawn once"""


def new_id() -> str:
    """The id of an entry that is made now (RFC 9562, version 4)."""
    return str(uuid4())


def id_from(book: str, place: object, phrase: Phrase) -> str:
    """The id of an entry that was read without one, computed from its book's name, its place in it and its notes, so that
    reading it again gives the same (RFC 9562, version 5)."""
    notes = " ".join(f"{e.onset}:{','.join(f'{n.pitch}/{n.duration}' for n in e.notes)}" for e in phrase.events)
    name = f"{book}\n{place}\n{notes}".encode("utf-8", "replace")
    return str(uuid5(_READ_FROM_FILES, name.decode()))


def id_of_played(name: str, phrase: Phrase) -> str:
    """The id of a phrase of a foreign file, computed from what it plays: onsets, pitches, lengths, and strings where they are stated;
    so that it stays whatever the file is called and wherever in it the phrase stands (RFC 9562, version 5). One that plays nothing
    is known by `name`, its file's."""
    notes = " ".join(
        f"{e.onset}:{','.join(f'{n.pitch}/{n.duration}/{n.string or 0}' for n in e.notes)}" for e in phrase.events
    )
    return str(uuid5(_READ_FROM_FILES, f"plays\n{notes or name}".encode("utf-8", "replace").decode()))


@dataclass(frozen=True, slots=True)
class Entry:
    """A phrase, and beside it what is not music: `choices` is None as long as the player has chosen nothing for it;
    `decisions` are the plans that were kept, the latest last. The `id` stays whatever becomes of the phrase, its title and
    its file; `copy_of` is the id of the entry it was copied from, empty for none."""

    phrase: Phrase
    choices: Choices | None = None
    decisions: tuple[Decision, ...] = ()
    id: str = field(default_factory=new_id)
    copy_of: str = ""

    def __post_init__(self) -> None:
        check_text("id of a phrase", self.id, MOST_ID)
        if self.copy_of:
            check_text("id of the phrase it is a copy of", self.copy_of, MOST_ID)

    @property
    def decision(self) -> Decision | None:
        """The plan that holds: the one kept last."""
        return self.decisions[-1] if self.decisions else None

    def copied(self, phrase: Phrase) -> Entry:
        """A copy under an id of its own, with a phrase made from this one."""
        return replace(self, phrase=phrase, id=new_id(), copy_of=self.id)

    def decided(self, decision: Decision) -> Entry:
        """With one more plan kept and chosen; it takes the place of one kept under the same label."""
        others = tuple(d for d in self.decisions if d.label != decision.label)
        return replace(self, choices=decision.choices, decisions=(*others, decision))

    def without_decision(self, decision: Decision) -> Entry:
        """With a plan that was kept let go; the one kept before it holds, if there is one."""
        return replace(self, decisions=tuple(d for d in self.decisions if d != decision))


@dataclass(frozen=True, slots=True)
class Songbook:
    """Entries under one title, each with an id that no other has; at least one, whose phrase may be empty."""

    title: str
    entries: tuple[Entry, ...]
    about: str = ""

    def __post_init__(self) -> None:
        if not self.entries:
            raise DromicError("a songbook holds at least one phrase")
        if len({e.id for e in self.entries}) < len(self.entries):
            raise DromicError("two phrases of a songbook have one id")

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
