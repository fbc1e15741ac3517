"""The octave of a phrase: music for guitar and bass is written an octave above its sound, other tunes are not.

Common practice of notation, no published source.
"""

from __future__ import annotations

from dataclasses import replace

from dromic.core.music.phrase import Event, Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError

AS_FILED, GUITAR = "", "guitar"
"""as the file has it; an octave below, as guitarists and bassists read"""
_OCTAVE = 12
_BELOW = "an octave below"
"""what every sentence about it holds, so that it goes when it is true no longer"""


def read_as(phrase: Phrase, how: str) -> Phrase:
    """The phrase as its file has it, or an octave below; strings and frets that no longer fit their pitches are left open.
    DromicError where a note would leave what can be written."""
    if phrase.read_as == how:
        return phrase
    by = -_OCTAVE if how == GUITAR else _OCTAVE
    pitches = [n.pitch + by for e in phrase.events for n in e.notes]
    if pitches and not (min(pitches) >= 0 and max(pitches) <= 127):
        raise DromicError("an octave away its notes could not be written down; leave it as it is")
    said = tuple(sentence for sentence in phrase.notices if _BELOW not in sentence)
    return replace(phrase, events=tuple(_moved(event, by) for event in phrase.events), read_as=how, notices=said)


def _moved(event: Event, by: int) -> Event:
    notes = (replace(n, pitch=n.pitch + by, string=None, fret=None, finger=None) for n in event.notes)
    return replace(event, notes=tuple(notes))


def fret_needed(phrase: Phrase, instrument: Instrument) -> int | None:
    """The highest fret that has to be played, each note as low on the neck as it goes; None where a note is not on it."""
    most = 0
    for pitch in {n.pitch for e in phrase.events for n in e.notes}:
        frets = [fret for _, fret in instrument.places_of(pitch)]
        if not frets:
            return None
        most = max(most, min(frets))
    return most


def for_guitar(phrase: Phrase, instrument: Instrument) -> Phrase:
    """A tune whose file says nothing of its octave, read an octave below if all of it lies on the instrument there; said."""
    lower = read_as(phrase, GUITAR) if _low_enough(phrase) else phrase
    fret = fret_needed(lower, instrument)
    if lower is phrase or fret is None:
        return phrase
    written = fret_needed(phrase, instrument)
    instead = "" if written is None else f" instead of {written}"
    said = (
        f"read as guitar music, {_BELOW} what is written (up to fret {fret}{instead}); Octave on Write, or --octave file, "
        "reads it as written"
    )
    return replace(lower, notices=(*lower.notices, said))


def with_offer(phrase: Phrase, instrument: Instrument, from_fret: int) -> Phrase:
    """A phrase whose file says nothing of its octave and that goes over a fret, with the offer to read it an octave below."""
    if any(n.string is not None for e in phrase.events for n in e.notes) or not _low_enough(phrase):
        return phrase
    fret = fret_needed(phrase, instrument)
    lower = fret_needed(read_as(phrase, GUITAR), instrument)
    if lower is None or lower > from_fret or (fret is not None and fret <= from_fret):
        return phrase
    needs = "lies above the neck" if fret is None else f"needs frets up to {fret}"
    said = (
        f"it {needs}; {_BELOW}, as guitarists read, it would need no more than fret {lower}: --octave guitar, or Octave "
        "on Write"
    )
    return replace(phrase, notices=(*phrase.notices, said))


def _low_enough(phrase: Phrase) -> bool:
    return all(n.pitch >= _OCTAVE for e in phrase.events for n in e.notes)
