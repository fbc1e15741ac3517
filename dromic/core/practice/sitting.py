"""A sitting over one phrase or several: a cold take of each, a warm-up on the piece, then the whole and its hard places by turns.

Minutes go by need: a phrase that is far from its target has more of them, and in a phrase the whole has most, unless a place sticks
out. Drills come by turns in short blocks (interleaving: Shea and Morgan 1979; Carter and Grahn 2016 for music), the whole comes cold
before anything else each day (retention is the proof of learning: Kantak and Winstein 2012). Shares and lengths are settings of
practice.toml."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property
from statistics import median

from dromic.core.drills.drill import BOTH, FRETTING, PICKING, Drill
from dromic.core.drills.drill_kinds import AS_WRITTEN, BY_NAME
from dromic.core.plan.plan import Plan
from dromic.core.practice.ladder import Rung, at_target, plateau_days
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.log_summary import History
from dromic.core.practice.todays_work import Work
from dromic.core.setup.practice_settings import SessionNumbers
from dromic.core.values.errors import DromicError

COUNT_IN = 4
"""quarters before a round begins"""
COLD, WARM, DRILL = "cold take", "warm-up", "drill"
WHOLE = "whole"
SORE = "Hands hurt: no playing today. Rest them; if it lasts or gets worse, ask a clinician or a teacher."
NEVER_CLEAN = "Nothing of it was clean for {days} days: today it is taken apart, slower and in fewer notes."
_HAND_ALONE = {PICKING: ("open", "pair"), FRETTING: ("hammered", "chords")}


@dataclass(frozen=True)
class Piece:
    """A phrase that is practised: whose passes it makes, today's work on it, and what was played of it in this sitting."""

    of: PhraseName
    work: Work
    played: tuple[Pass, ...] = ()

    def passes(self, drill: Drill) -> list[Pass]:
        """All that is known of a drill, in its order."""
        return [*self.work.history.by_drill.get(drill.name, ()), *(p for p in self.played if p.drill == drill.name)]

    @cached_property
    def whole(self) -> Drill | None:
        """All of it, as a drill."""
        return next((d for d in self.work.drills if d.kind == WHOLE), None)

    @cached_property
    def narrow(self) -> tuple[Drill, ...]:
        """What goes over the hardest places: the limiting hand alone, the move, the move joined; none that its school refuses."""
        drills = self.work.drills
        hardest = max(self.work.plan.moves, key=lambda m: m.load, default=None)
        hand = hardest.hand if hardest is not None else BOTH
        kinds = ("move", "seam", "join", *_HAND_ALONE.get(hand, ()), "rhythm")
        found = [next((d for d in drills if d.kind == kind), None) for kind in kinds]
        return tuple(d for d in found if d is not None and own_load(self.work, d) is not None)

    @cached_property
    def sticks_out(self) -> float:
        """How far the hardest move stands over the middle of all, as a share of it; 0 where all are alike."""
        loads = [m.load for m in self.work.plan.moves]
        return max(loads) / max(median(loads), 1e-6) - 1.0 if loads else 0.0

    def rung(self, drill: Drill, today: date) -> Rung:
        """The next tempo of a drill."""
        notes = set(self.work.notes_of(drill))
        wider = [
            p.tempo for p in self.played if p.clean and notes <= set(p.notes) and p.drill.split(":")[0] in AS_WRITTEN
        ]
        own = BY_NAME[drill.kind].as_written
        return self.work.next_rung(
            drill, self.passes(drill), today, self.ceiling(drill), max(wider, default=None) if own else None
        )

    def known(self, today: date) -> bool:
        """Whether the whole was played on an earlier day."""
        return self.whole is not None and any(p.day < today for p in self.passes(self.whole))

    def ceiling(self, drill: Drill) -> float | None:
        """The tempo that a drill's own phrase ends at, an estimate."""
        load = own_load(self.work, drill)
        return self.work.target / load if load else None

    def reached(self, today: date) -> bool:
        """Whether the whole was clean at the target as often today as counts as reached."""
        whole = self.whole
        if whole is None:
            return True
        here = [p for p in self.passes(whole) if p.day == today]
        count = self.work.settings.ladder.clean_at_target
        return len(here) >= count and all(p.clean and at_target(p.tempo, self.work.target) for p in here[-count:])

    def behind(self, today: date) -> float:
        """How far the whole is from its target, as a share of it."""
        if self.whole is None or self.reached(today):
            return 0.0
        clean = max((p.tempo for p in self.passes(self.whole) if p.clean), default=0.0)
        return max(0.05, 1.0 - clean / self.work.target)


@dataclass(frozen=True)
class Asked:
    """One pass that is asked for."""

    piece: int
    drill: Drill
    what: str
    rung: Rung
    round_s: float
    load: float | None
    """of the drill's own phrase at that tempo, an estimate"""
    ceiling: float | None


@dataclass(frozen=True)
class Sitting:
    """How far a sitting is. Nothing here waits for a clock: what a pass took is told with it."""

    pieces: tuple[Piece, ...]
    today: date
    minutes: float
    spent_s: float = 0.0
    by_drill: tuple[tuple[int, str, float], ...] = ()
    """(piece, drill, seconds) of the passes after the warm-up, in their order"""
    cold: tuple[int, ...] = ()
    """pieces whose cold take is over"""
    soreness: int = 0

    def next(self) -> Asked | None:
        """The next pass; None when the sitting is over."""
        playable = [n for n, piece in enumerate(self.pieces) if piece.whole is not None]
        if self.soreness >= 3 or not playable or self.spent_s >= 60 * self.minutes:
            return None
        for n in playable:
            if n not in self.cold:
                return self._asked(n, _whole_of(self.pieces[n]), COLD)
        if all(self.pieces[n].reached(self.today) for n in playable):
            return None
        warm_s = 60 * min(self._session.warm_up_min, self._session.short_share * self.minutes)
        if self.spent_s < warm_s:
            known = [n for n in playable if self.pieces[n].known(self.today) and not self.pieces[n].reached(self.today)]
            if known:  # what is new begins slowly by itself
                return self._asked(known[0], _whole_of(self.pieces[known[0]]), WARM, self.spent_s / warm_s)
        number, drill = self._turn(playable)
        return self._asked(number, drill, DRILL)

    def after(self, asked: Asked, one: Pass, seconds: float) -> Sitting:
        """With a pass that was played, and how long it took with its rest."""
        piece = self.pieces[asked.piece]
        pieces = list(self.pieces)
        pieces[asked.piece] = replace(piece, played=(*piece.played, one))
        turns = (*self.by_drill, (asked.piece, asked.drill.name, seconds)) if asked.what == DRILL else self.by_drill
        cold = (*self.cold, asked.piece) if asked.what == COLD else self.cold
        return replace(
            self, pieces=tuple(pieces), spent_s=self.spent_s + seconds, by_drill=turns, cold=cold,
            soreness=max(self.soreness, one.soreness),
        )  # fmt: skip

    @property
    def _session(self) -> SessionNumbers:
        return self.pieces[0].work.settings.session

    def _asked(self, n: int, drill: Drill, what: str, warm: float = 1.0) -> Asked:
        """A pass; `warm` is how far the warm-up is, as a share of it."""
        piece = self.pieces[n]
        rung = self._warm(piece, drill, warm) if what == WARM else piece.rung(drill, self.today)
        load = own_load(piece.work, drill)
        quarters = float(drill.phrase.end) + COUNT_IN
        return Asked(
            n, drill, what, rung, 60 * quarters / rung.tempo,
            load * rung.tempo / piece.work.target if load else None, piece.ceiling(drill),
        )  # fmt: skip

    def _warm(self, piece: Piece, drill: Drill, share: float) -> Rung:
        """Slow and loose at first, on the piece itself, and up to what holds."""
        clean = max((p.tempo for p in piece.passes(drill) if p.clean), default=piece.work.target)
        tempo = min(clean, piece.work.target) * (self._session.warm_share + (1.0 - self._session.warm_share) * share)
        return Rung(round(tempo, 2), "warm-up: loose, with rest strokes on the open strings, a little faster each time")

    def _turn(self, playable: Sequence[int]) -> tuple[int, Drill]:
        """Which drill has had least of the minutes meant for it; a drill goes on for a short block first."""
        if self.by_drill:
            piece, name, _ = self.by_drill[-1]
            block = 0
            for at, other, _ in reversed(self.by_drill):
                if (at, other) != (piece, name):
                    break
                block += 1
            if block < self._session.block and not self.pieces[piece].reached(self.today):
                drill = next((d for d in self.pieces[piece].work.drills if d.name == name), None)
                if drill is not None:
                    return piece, drill
        shares = self._shares(playable)
        total = sum(seconds for *_, seconds in self.by_drill)
        had: dict[tuple[int, str], float] = {}
        for piece, name, seconds in self.by_drill:
            had[piece, name] = had.get((piece, name), 0.0) + seconds
        return max(
            shares, key=lambda key: shares[key] * total - had.get((key[0], key[1].name), 0.0) + 1e-6 * shares[key]
        )

    def _shares(self, playable: Sequence[int]) -> dict[tuple[int, Drill], float]:
        """Of the minutes after the warm-up, by piece and drill; 1 in sum."""
        behind = {n: self.pieces[n].behind(self.today) for n in playable}
        total = sum(behind.values()) or 1.0
        found: dict[tuple[int, Drill], float] = {}
        for n in playable:
            share, piece = behind[n] / total, self.pieces[n]
            places = self._places(piece)
            apart = min(1.0, self._places_share(piece)) if places else 0.0
            if share:
                found[n, _whole_of(self.pieces[n])] = share * (1 - apart)
                for drill in places:
                    found[n, drill] = share * apart / len(places)
        return found

    def _places_share(self, piece: Piece) -> float:
        """What the hard places have of a phrase's minutes."""
        if never_clean(piece.work.history, self.today, self._session.never_days):
            return 1.0 - self._session.whole_least
        whole = _whole_of(piece)
        if plateau_days(piece.passes(whole), self.today) >= piece.work.settings.ladder.plateau_days:
            return self._session.plateau_share
        return 0.0 if piece.sticks_out < self._session.sticks_out else self._session.places_share

    def _places(self, piece: Piece) -> tuple[Drill, ...]:
        """Two drills of the hard places, other ones each day."""
        drills = [d for d in piece.narrow if not clean_at(piece, d)]
        if not drills:
            return ()
        first = self.today.toordinal() % len(drills)
        return tuple(dict.fromkeys(drills[(first + k) % len(drills)] for k in range(2)))

    # what is said

    @property
    def said(self) -> str:
        """What the player is told before the first pass; empty where there is nothing to say."""
        if self.soreness >= 3:
            return SORE
        days = self._session.never_days
        if any(never_clean(p.work.history, self.today, days) for p in self.pieces):
            return NEVER_CLEAN.format(days=int(days))
        return ""

    def best(self) -> list[tuple[Piece, str, float, float | None]]:
        """The drills that were clean today: piece, name, fastest tempo, and the fastest of all days before."""
        found = []
        for piece in self.pieces:
            for name in dict.fromkeys(p.drill for p in piece.played):
                now = max((p.tempo for p in piece.played if p.drill == name and p.clean), default=None)
                before = max((p.tempo for p in piece.work.history.by_drill.get(name, ()) if p.clean), default=None)
                if now is not None:
                    found.append((piece, name, now, before))
        return sorted(found, key=lambda entry: -(entry[2] - (entry[3] or 0.0)))

    def tomorrow(self) -> str:
        """One sentence for the next day."""
        if self.soreness >= 3:
            return SORE
        if all(piece.reached(self.today) for piece in self.pieces):
            return (
                "All of it was clean at the target: play it cold tomorrow, then set a faster target or another piece."
            )
        piece = max(self.pieces, key=lambda p: p.behind(self.today))
        whole = _whole_of(piece)
        clean = max((p.tempo for p in piece.passes(whole) if p.clean), default=None)
        at = f"it was clean at {clean:.0f} of {piece.work.target:g}" if clean else "it was not clean yet"
        return f"{piece.of.title}: a cold take first, then the whole and its hard place by turns; {at}."


def _whole_of(piece: Piece) -> Drill:
    """All of a piece that has a whole."""
    assert piece.whole is not None
    return piece.whole


def own_load(work: Work, drill: Drill) -> float | None:
    """The largest load of a drill's own phrase at the target, by its own plan (an estimate); None where its school refuses it."""
    try:
        own = work.own_plan(drill)
    except DromicError:
        return None
    return load_of(own, drill.hand)


def load_of(plan: Plan, hand: str) -> float:
    """The largest load of a hand, or of both, in a plan; of what is never limited next to nothing."""
    loads = [{PICKING: m.pick_load or 0.0, FRETTING: m.fret_load}.get(hand, m.load) for m in plan.moves]
    return max(loads, default=0.0) or 1e-3


def clean_at(piece: Piece, drill: Drill) -> bool:
    """Whether a drill was clean at the target lately."""
    return any(p.clean and at_target(p.tempo, piece.work.target) for p in piece.passes(drill)[-10:])


def never_clean(history: History, today: date, days: float) -> bool:
    """Whether on as many days of practice as that, the last ones before today, nothing was clean."""
    by_day: dict[date, bool] = {}
    for one in history.recent:
        if one.day < today:
            by_day[one.day] = by_day.get(one.day, False) or one.clean
    last = sorted(by_day)[-math.ceil(days) :]
    return len(last) >= days and not any(by_day[day] for day in last)
