"""The sets of facts that rows of the price list read, each with its shape, its unit and what it says.

Letters of shapes: K nodes of the fretting hand, K' those before; G groups of strings, R ways of the picking hand, G' and R' those
before; M memories of it. Fingers go 1 to 4 and the thumb last. A fact without a shape is one for all.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

FRETTING, PICKING, BOTH = "fretting", "picking", "both"


@dataclass(frozen=True, slots=True)
class FactSet:
    """What rows about one thing may read. `in_turn` says whether its times follow one another (they add up) or go side by side (the
    longest counts)."""

    hand: str
    level: str
    what: str
    facts: Mapping[str, str]
    in_turn: bool = False


SHAPE, FIGURE, MOVE, SLIDING, SLURRING = "shape", "figure", "move", "slide", "slur"
FRET_STEP = "fretting step"
PLACE, STROKE, FIRST, EVENT = "place", "stroke", "first stroke", "event"
SWING, STRIKE, PLUCK, BEAT = "swing", "strike", "pluck", "beat"
KNOT, LIMIT = "knot", "limit"

_SHAPE = {
    "fret": "[K, 5] the fret of each finger, 0 where it is up",
    "under": "[K, 5] strings under each finger",
    "position": "[K] the fret that the first finger has by nature",
    "past_mm": "[K, 5] how far each finger is past its relaxed place, under 0 short of it",
    "past_fret": "[K, 5] frets from each finger's own fret to the one it is on",
    "past_body": "[K, 5] frets past the neck's joint with the body",
    "three_frets": "[K] whether the hand spans three frets there",
    "stopped": "[K] notes held down",
    "open_notes": "[K] notes that sound with no finger of this hand down",
    "off_line": "[K] sum of squares by which tips are off the line in which the hand lies across the strings, in strings",
    "bridged": "[K] whether fingers are left that could press one by one what one lies flat for, over a string it does not sound",
    "apart_mm": "[K, 6] how far two fingers are apart at least, by pair; under 0 where not both are down",
    "side_by_side": "[K] fingers past two side by side on one fret, where one lying flat would damp nothing; 0.0 for fewer notes",
    "arched": "[K] fingers that lie flat and arch over open strings that sound beside them; 0.0 where no string is open",
    "bend": "[K, 5] semitones each finger bends",
    "shaken": "[K, 5] notes to which each finger gives vibrato",
    "touching": "whether the fingers only touch the strings",
    "let_go": "[K] notes that should go on sounding and are let go",
}
_LINE = {
    "first_position": "whether the bar lies in first position: not (0), by habit (1), or but for stated places elsewhere (2)",
    "low_tune": "whether every pitch of the whole line can be had low on the neck",
    "stray": "[K, 5] fingers that are not on the fret they have in first position",
    "unusual": "[K] notes under other fingers than a cell that comes again gives them; 0.0 where there is none",
}
_MOVE = {
    "shifted": "[K', K] whether the hand moves along the neck",
    "shift_mm": "[K', K] how far",
    "guided": "[K', K] whether a finger stays on a string of its own meanwhile",
    "fresh": "[K', K] whether a finger comes down that was up",
    "planted": "[K', K] whether that is a lower finger of the same string, which can be down already",
    "rolled": "[K', K, 4] fingers that rock to a neighbour string; 0.0 where none does",
    "laid": "[K', K, 4] fingers laid flat to reach a farther string; 0.0 where none is",
    "jumped": "[K', K] whether a finger leaves its fret while the hand stays",
    "walked": "[K', K] whether the hand shifts and one finger alone plays two frets of a string",
    "amid": "[K', K] whether a note is open though it lies under the hand, which is up the neck",
    "changed": "[K', K] notes that stay, or come again at once, under another finger; 0.0 where none does",
    "travel_mm": "[K', K] the way of all fingers from chord to chord; 0.0 where there are none",
    "longest_mm": "[K', K] the way of that finger which has the longest, under 0 where none goes; 0.0 where there are no chords",
    "arrived": "[K', K] fingers of a chord that were not down in the chord before; 0.0 where there are none",
    "formed": "[K', K] notes of a chord, up to four, for which the hand is formed anew; 0.0 where there are no chords",
    "gripped": "[K] notes stopped in the shape that is moved to, up to three",
    "struck": "whether a stroke sounds the shape that is moved to",
    "refingered": "[K', K] fingers changed between two chords of one shape; 0.0 where there are none",
    "refingered_held": "[K', K] whether a note that goes on sounding changes its finger; False where none goes on",
    "pair": "[K', K] the pair of fingers that play one note each while the hand stays, as a place in PAIRS, -1 for none",
    "pair_mm": "[K', K] how far that pair is apart at least",
    "crossed": "[K', K] whether the higher of these fingers is on the lower fret",
    "turned": "[K', K] whether on one fret the higher of them is on the lower string",
    "separate": "[K', K] whether they share a fret on neighbour strings",
    "apart_in_row": "[K', K] whether they do in a row over three strings or more; False where there is none",
}
_SLIDE = {
    "slide_mm": "[K', K] how far the finger slides",
}
_SLUR = {
    "attack": "what sounds the note: a slur, a hammer from nowhere, or a stroke that may follow no other fret of its string",
    "hammered": "[K', K] whether another finger comes down higher on the string while the hand stays; False where it is no slur",
    "pulled": "[K', K] whether the string sounds lower with a lower finger or none; False where it is no slur",
    "slid": "[K', K] whether the finger goes along the string; False where it is no slur",
    "one_string": "[K', K] whether it is the string that sounded before",
    "moved": "[K', K] whether it is another fret than the one before",
    "finger": "[K] the finger of the one note, 0 where it is open or there are several",
}
_FRET_STEP = {
    "fret_load": "[K', K] the time a move of the fretting hand takes by the time there is",
    "hurry": "[K', 1] the share of that time a ready finger takes, up to a limit",
    "strain": "[K', K] what shape and move come to",
    "weak": "[K', K] what weak pairs of fingers come to at full hurry",
}
_PLACE = {
    "sign": "[G, R] the pick's stroke, 1 down, -1 up, 0 where it does not strike",
    "gaps": "[G, R] damped strings that the stroke crosses",
    "plucking": "[R, 5] the bare fingers that pluck",
    "away": "[G, R] strings that they are away from their natural ones",
    "unpicked": "whether the note goes unpicked by choice, and that has a price",
    "again": "[G, R] whether it is struck though a grace of its group, or the note, has been struck before",
    "alone": "[G, R] whether it goes unstruck though nothing of its group has been struck",
    "accent": "whether the note is louder than its neighbours",
    "leads": "whether others are slurred to it",
}
_STROKE = {
    "swung": "[G', R', G, R] whether it goes the other way than the stroke before, or away to a string that it cannot carry on to",
    "repeated": "[G', R', G, R] whether it is the same stroke again, the silent return included",
    "inside": "[G', R', G, R] whether it starts in the gap between two strings",
    "carried": "[G', R', G, R] whether it carries on to the next string",
    "through": "[G', R', G, R] whether it carries on over a string",
    "hop_bits": "[G', R', G, R] log2(1 + 2 hops) of the strings passed over; of the same stroke again those beyond the first",
    "left_out": "[G', R', G, R] strings left out between the two, where the pick does not carry through over them",
    "from_clear": "[G', R', G, R] whether the stroke before ends clear of the strings",
    "outermost": "[G', R', G, R] whether it ends on the outermost string",
    "separated": "whether each string gets an attack of its own",
    "buried": "[G', R', G, R] whether a hop starts between the strings",
    "leaned": "[G', R', G, R] whether the lean changes",
}
_FIRST = {
    "first_sign": "[G, R] the pick's stroke, 0 where it has not struck",
    "free": "whether either stroke may begin",
    "beside_pick": "whether the school plucks beside the pick",
    "not_leading": "[R] whether of fingers that take turns another than the first begins; 0.0 where none do",
}
_EVENT = {
    "gap_ms": "time from the event before",
    "since_tap_ms": "time since the picking hand last tapped; endless where it did not",
    "palm_moved": "whether the palm lies on the strings here and did not before, or the reverse",
    "tremolo_ms": "time of one stroke of the tremolo before; endless where there is none",
}
_SWING = {
    "stroke_ms": "[G', R', G, R] time the move takes",
    "against_swing": "[G', R', G, R] whether the stroke goes against the swing of the hand; False where that does not count",
}
_STRIKE = {
    "kind": "[G', R', G, R] the kind of the pick's move, as a place in KINDS",
    "swing_ms": "[G', R', G, R] time the move takes as the hand swings",
    "pick_gap_ms": "[G', R', 1, 1] time since the pick last struck, or one number",
    "since_pluck_ms": "[G', R', 1, 1] time since a finger last plucked; endless where none did",
    "since_own_ms": "[G', R', 1, R] time since the fingers that pluck beside the pick did, endless where none does",
    "pick_load": "[G', R', G, R] the largest load of the move",
    "stroke_sign": "[G, R] the pick's stroke, 1 down, -1 up",
    "twice": "[G', R', 1, 1] whether a grace of the note's group has been struck before; False where there is none",
    "after_pluck": "whether the event before was plucked for certain",
    "allowed": "[kinds] whether the school takes each kind of move",
    "new_string": "the stroke that the school starts every string with, 1 down, -1 up, 0 for either",
    "come_to": "[G', R', 1, 1] how the string before was come to: anyhow (0), from inside (1), in a sweep (2)",
    "comes_to": "[G, R] how this string is come to",
    "sweeps": "whether the school forbids to enter a sweep on its second string",
}
_PLUCK = {
    "since_pick_ms": "[..., G, R] time since the pick last struck, endless where it did not",
    "since_last_ms": "[..., G, R] time since a finger last plucked",
    "same_finger_ms": "[..., G, R] time since the fingers that pluck now did themselves",
    "same": "[..., G, R] whether the finger that last plucked plucks again",
    "raked": "[..., G, R] whether it rakes on to the next lower string",
    "above_pick": "[..., G, R] whether the finger plucks above the pick's string",
    "in_order": "[..., G, R] whether fingers and strings go the same way",
    "single": "[R] whether one finger alone plucks",
    "in_turn": "whether fingers take turns, as without a pick on a bass",
    "ordered": "whether the strings are known, so that the order of the fingers is a rule",
    "only_plucked": "whether nothing but a finger may take the note",
    "unplucked": "[..., G, R] whether no finger has plucked lately",
    "pluck_load": "[..., G, R] the largest load of the move",
}
_BEAT = {
    "against_beat": "[...] whether strokes go against their places in the beat",
    "beat_load": "[...] loads of the moves to them",
    "beats": "the share of the full price that the school asks for that",
    "limit_load": "the load at which the price ends",
}
_KNOT = {"knot_load": "the load that both hands moving in one gap add"}
_LIMIT = {
    "any_load": "[...] loads of moves of either hand",
    "limit_load": "the load that the ceiling of the plan of least work allows; endless without a limit",
}

FACT_SETS: Mapping[str, FactSet] = {
    SHAPE: FactSet(FRETTING, "shape", "one way of holding an event", {**_SHAPE, **_LINE}),
    FIGURE: FactSet(FRETTING, "figure", "the same, beside what the whole line says of it", {**_SHAPE, **_LINE}),
    MOVE: FactSet(FRETTING, "move", "from one shape to the next, without a slide", _MOVE),
    SLIDING: FactSet(FRETTING, "move", "from one shape to the next by a slide", _SLIDE),
    SLURRING: FactSet(FRETTING, "move", "what a note's attack asks of the move to it", _SLUR),
    FRET_STEP: FactSet(FRETTING, "step", "a move of the fretting hand in the time there is", _FRET_STEP),
    PLACE: FactSet(PICKING, "place", "one way of sounding an event", _PLACE),
    STROKE: FactSet(PICKING, "move", "from one stroke of the pick to the next", _STROKE, in_turn=True),
    FIRST: FactSet(PICKING, "first", "the way in which a phrase begins", _FIRST),
    EVENT: FactSet(PICKING, "step", "what an event asks however it is struck", _EVENT),
    SWING: FactSet(PICKING, "step", "a move of the pick as the hand swings", _SWING, in_turn=True),
    STRIKE: FactSet(PICKING, "step", "a stroke of the pick in the time there is", _STRIKE),
    BEAT: FactSet(PICKING, "step", "strokes and their places in the beat", _BEAT),
    PLUCK: FactSet(PICKING, "step", "a pluck of bare fingers in the time there is", _PLUCK),
    KNOT: FactSet(BOTH, "step", "both hands moving in one gap", _KNOT),
    LIMIT: FactSet(BOTH, "step", "a load against the ceiling of the plan of least work", _LIMIT),
}
PAIRS = ((1, 2), (2, 3), (3, 4), (1, 3), (2, 4), (1, 4))
"""pairs of fingers, neighbours first"""
