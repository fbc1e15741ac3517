"""The other reading of notes that the player doubts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

from dromic.core.editing.edit import sounds_of, with_sounds
from dromic.core.music.phrase import Note, Phrase
from dromic.core.setup.instrument import Instrument


def doubtful(phrase: Phrase) -> Iterator[tuple[Fraction, Note]]:
    """The notes that are doubted, with their onsets."""
    return ((onset, note) for onset, note in sounds_of(phrase) if note.doubt)


def read_otherwise(note: Note, instrument: Instrument) -> Note:
    """The other reading of a note, which doubts it the other way round; without a place where the neck has not that fret."""
    pitch = min(127, max(0, note.pitch + note.doubt))
    fret = None if note.fret is None else note.fret + note.doubt
    there = fret is None or 0 <= fret <= instrument.highest_fret
    return replace(
        note, pitch=pitch, doubt=-note.doubt, fret=fret if there else None, string=note.string if there else None, finger=None
    )  # fmt: skip


def other_reading(phrase: Phrase, instrument: Instrument, only: tuple[Fraction, Note] | None = None) -> Phrase:
    """The phrase with every doubtful note, or `only` one, read the other way."""
    sounds = (
        (o, read_otherwise(n, instrument) if n.doubt and only in (None, (o, n)) else n) for o, n in sounds_of(phrase)
    )
    return with_sounds(phrase, sounds)


def with_words(phrase: Phrase, onset: Fraction, note: Note, words: str, doubt: int) -> Phrase:
    """The phrase with the player's words, and the semitones to its other reading, at one note."""
    said = replace(note, words=words, doubt=doubt)
    return with_sounds(phrase, [(o, said if (o, n) == (onset, note) else n) for o, n in sounds_of(phrase)])
