"""The words of the trade in which phrases, pins and plans say how a note is sounded: attacks, strokes, fingers, marks."""

from __future__ import annotations

PICK, PLUCK, HAMMER, PULL, SLIDE, HAMMER_NEW, TAP = "pick", "pluck", "hammer", "pull", "slide", "hammer-new", "tap"
ATTACKS = (PICK, PLUCK, HAMMER, PULL, SLIDE, HAMMER_NEW, TAP)
UNSTRUCK = (HAMMER, PULL, SLIDE, HAMMER_NEW, TAP)
# manners the planner itself thinks in; a plan names what becomes of them
SLUR = "slur"
"""hammer, pull or slide, whichever the frets and fingers make of it"""
SLURS = (HAMMER, PULL, SLIDE, SLUR)
PINCH = "pinch"
"""the pick on the lowest string of a chord and bare fingers on the others, at once"""
STAY = "stay"
"""of a struck note in a school of one stroke a string: it may not follow another fret of its string"""
SILENT = "silent"
"""of a hammer from nowhere that the planner chooses: its string may not have sounded just before"""
DOWN, UP = "down", "up"
SIGN = {DOWN: 1, UP: -1}
"""strokes as the sums take them: down the strings, towards the floor, is positive"""
PLUCKERS = ("p", "i", "m", "a", "c")
STROKES = (DOWN, UP, *PLUCKERS)
FINGERS = ("0", "1", "2", "3", "4", "T")
SLID_TO = "slide-to"
"""the mark of a note that a finger slides to and the picking hand strikes; one that is not struck has the attack `slide`"""
MARKS = {
    "dead": "dead note, damped so that no pitch sounds",
    "palm-mute": "damped by the picking hand's palm",
    "accent": "louder than its neighbours",
    "let-ring": "left sounding past its length",
    "vibrato": "vibrato",
    "tremolo": "tremolo picking",
    "trill": "trill",
    "harmonic": "harmonic",
    "bend": "bent upwards",
    "release": "a bend let down again",
    "prebend": "bent already when it sounds: beforehand, or held from the note before",
    "grace": "grace note, which steals its time",
    SLID_TO: "slid to along its string, and struck",
    "slide-in": "slid into from nowhere",
    "slide-out": "slid out of",
    "slap": "slapped with the thumb",
    "pop": "popped: pulled off the board",
    "turn": "turn",
    "arpeggio": "chord rolled, string after string",
    "strum": "strummed",
    "rake": "raked: damped strings brushed on the way to it",
}
KEPT_ONLY = ("slap", "pop", "turn", "arpeggio", "strum", "rake")
"""marks that are kept and shown, and of which a plan takes no notice"""
PLAIN = (*KEPT_ONLY, "harmonic", "trill", "slide-in", "slide-out")
"""marks of notes that are planned as plain ones"""
SLURRED, PICKED = "slurred", "picked"
GRACE_WAYS = (SLURRED, PICKED)
"""how grace notes are sounded of which nothing is stated: one stroke for the grace and its note, or one each"""
BEFORE, ON = "before", "on"
GRACE_TIMES = (BEFORE, ON)
"""whose time graces take: that of the note before, or of the note they lead to"""
