"""Where players disagree: both sides of each point with their reasons, and where each is chosen. Trade opinions, from no one source;
a point is one entry."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.setup.player import Player


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a point: what is done, and why, in a sentence. `value` is what the habit has where it is one."""

    label: str
    why: str
    value: object = None


@dataclass(frozen=True, slots=True)
class Disagreement:
    """A point, its sides, and where a side is taken. `habit` names the habit of a player that holds it, if one does."""

    point: str
    sides: tuple[Side, ...]
    where: str
    habit: str = ""

    def taken(self, player: Player) -> Side | None:
        """The side that a player has taken, where a habit holds it."""
        if not self.habit:
            return None
        return next((s for s in self.sides if s.value == getattr(player.habits, self.habit)), None)


HANDS, BESIDE, WRITE, PRACTICE = "Hands, on this page", "Plan, beside the chart", "Write", "Shed, How I practise"
DISAGREEMENTS: tuple[Disagreement, ...] = (
    Disagreement("The pick lands on the next string", (
        Side("always on strong downs", "A stroke that lands has its weight and its end given by the string: it is even.", True),
        Side("only where there is time", "Landing takes time to get off again; quick notes are struck freely.", False),
    ), HANDS, "rest_downs"),
    Disagreement("In a sweep", (
        Side("the pick rests through", "One motion falls from string to string: nothing to time but the fall.", True),
        Side("each string its own attack", "Notes of one motion come uneven; an attack of its own can be placed.", False),
    ), HANDS, "rest_through"),
    Disagreement("A change of string", (
        Side("alternate on", "The hand never stops its swing; what comes out turned around is learned turned around."),
        Side("carry through, or begin each string down", "The way that costs least is taken, and the swing follows it."),
    ), f"{BESIDE}: School (Alternate; Economy, New string down); a stroke set against it says what follows"),
    Disagreement("What alternation hangs on", (
        Side("the beat", "The same place in the bar has always the same stroke, so the feel stays."),
        Side("the last struck note", "Every stroke reverses the one before: no stroke is left out."),
    ), f"{BESIDE}: School (Pulse; Alternate)"),
    Disagreement("Downs or alternation", (
        Side("downs down to a length and up to a tempo", "Downs are heavier and alike; they are kept for as long as they last."),
        Side("eighths alternate already", "What will alternate at speed is practised so when slow."),
    ), f"{BESIDE}: School Downs and its Pulse; {HANDS}: Schools of downs alternate above"),
    Disagreement("Which change is awkward", (
        Side("the inside one", "Between two strings the pick has little room, and must turn in it."),
        Side("the outside one", "Around two strings the way is longer, and overshoots."),
    ), f"{HANDS}: An inside change against an outside one, over or under 1; Measure my hands, on Shed, finds it"),
    Disagreement("When fingers lift", (
        Side("before the next note", "A finger that is off already is free for what comes.", "lift"),
        Side("with the next note", "The line is joined without ringing over.", "until-next"),
        Side("after the next has sounded", "No gap can be heard, and the hand stays calm.", "overlap"),
        Side("late, it rings", "Notes of a chord are to sound together.", "ring"),
    ), HANDS, "hold"),
    Disagreement("The same fret on the next string", (
        Side("roll, or a light barre", "One finger has the shortest way, and the others stay free.", "roll"),
        Side("a finger each", "A rolled finger lets both strings ring, or neither.", "separate"),
        Side("either, whichever costs less", "It depends on the tempo and on what follows.", "either"),
    ), HANDS, "same_fret"),
    Disagreement("Contact of the hand", (
        Side("floating", "Nothing holds the hand back on its way across.", "floating"),
        Side("on its heel", "The hand knows where it is, and dampens what is low.", "heel"),
        Side("on its palm", "The low strings are quiet, at the price of reach.", "palm"),
        Side("on the little finger", "A planted finger measures the distance.", "little"),
        Side("on the thumb", "On a bass the thumb rests, and dampens, a string below.", "thumb"),
    ), HANDS, "contact"),
    Disagreement("Motion across the strings", (
        Side("as small as possible", "What moves little is quick.", "small"),
        Side("let the hand travel", "On wide patterns the angle stays what it was.", "travels"),
    ), f"{HANDS}; and how many strings small reaches", "motion"),
    Disagreement("The lean", (
        Side("changes with the direction", "Each stroke ends clear where it has to."),
        Side("one grip for all", "One motion is learned, and nothing to change between notes."),
    ), f"{HANDS}: Can change the lean between strokes; {BESIDE}: Lean"),
    Disagreement("The turn at the top", (
        Side("a slur", "The pick gains the time of a stroke to turn."),
        Side("strike both ways", "All notes sound alike; a slur is softer."),
    ), f"{BESIDE}: Legato (turnarounds; never); What if offers both, with what each costs"),
    Disagreement("Which hand first", (
        Side("the fretting hand", "The pick cannot find strings for fingers that do not know their way."),
        Side("the picking hand", "Rhythm is in the pick; on open strings it is heard alone."),
    ), PRACTICE),
    Disagreement("Tempo", (
        Side("slow until clean, then up", "What is practised wrong is learned wrong."),
        Side("fast every day after warming up", "Fast motions are others than slow ones quickened, and must be met."),
    ), f"{PRACTICE}: the ladder; drills get harder by changes a second too"),
    Disagreement("Even or lilted", (
        Side("even", "Evenness is the measure of control."),
        Side("long-short", "The music lilts: so should the practice."),
    ), f"{WRITE}: Swing"),
    Disagreement("The top string in hybrid", (
        Side("the little finger is trained", "A finger a string: none is needed twice.", "mac"),
        Side("ring or middle instead", "A strong finger sounds like the others, where the two top strings do not meet.", "ma"),
        Side("the middle alone", "Least to learn; one string at a time.", "m"),
    ), HANDS, "hybrid_fingers"),
)  # fmt: skip
