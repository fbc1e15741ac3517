"""Kinds of pick and fret moves in words: as a sentence, as the way a note is reached, and as an entry of a list."""

from __future__ import annotations

from typing import NamedTuple


class PickWords(NamedTuple):
    """One kind of pick move, in three ways."""

    sentence: str
    """what the picking hand does"""
    by: str
    """by what a note is reached"""
    listed: str
    """in a list of counts"""


PICK_KINDS = {
    "same-string": PickWords("the stroke reverses on the string", "the other stroke on its string", "same string"),
    "repeat": PickWords("the same stroke comes again", "the same stroke again", "repeated"),
    "carry-through": PickWords("the pick carries through to the next string", "carrying through", "carried through"),
    "outside": PickWords("the pick changes string from outside", "an outside change", "outside"),
    "inside": PickWords("the pick turns back between the strings", "an inside change", "inside"),
    "skip-outside": PickWords("the pick skips strings from outside", "a skip from outside", "skip, outside"),
    "skip-inside": PickWords("the pick skips strings from inside", "a skip from inside", "skip, from inside"),
    "skip-through": PickWords(
        "the stroke carries on over the skipped string", "carrying on over a string", "skip, carried on"
    ),
    "back": PickWords(
        "the same stroke again on a string behind", "the same stroke on a string behind", "back with the same stroke"
    ),
    "pluck": PickWords("a bare finger plucks", "a bare finger", "by a finger"),
    "legato": PickWords("the pick rests", "a slur", "slurred"),
    "rest": PickWords("the pick starts afresh", "a fresh start", "after a rest"),
}
FRET_KINDS = {
    "hold": "the fingers stay", "finger": "a finger comes down", "roll": "one finger rolls to the next string",
    "shift": "the hand shifts", "stretch": "a finger stretches", "jump": "the same finger jumps",
    "open": "the fingers may lift", "slide": "the finger slides", "barre": "a finger lies flat",
}  # fmt: skip
