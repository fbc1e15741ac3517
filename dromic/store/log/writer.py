"""Writes to the log beside everything else: what is kept is handed over and done in its order. While another program holds the log, or
it cannot be written, what waits stands in a file of its own, is tried again and again, and is taken up at the next start."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import asdict
from datetime import date
from itertools import takewhile
from typing import Any

from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.log_summary import Goal
from dromic.core.values.errors import DromicError
from dromic.store.log.errors import LogHeld
from dromic.store.log.exchange import pass_entry, pass_from
from dromic.store.log.logbook import Logbook, new_uid
from dromic.store.log.rows import placed
from dromic.store.log.waiting import Aside, Deed, left, passes_of

FIRST_S = 0.25
"""Seconds for which a held log is waited for before what waits is put aside."""
TRY_S = 0.2
"""At each later try."""
LAST_S = 0.3
"""And when the window closes."""
AGAIN_S = 1.0
"""from one try to the next"""
_LEFT = "left by the last window"
_NO_DEED = (KeyError, TypeError, ValueError, AttributeError)


def _keep(book: Logbook, given: dict[str, Any], wait_s: float) -> None:
    good: list[tuple[Pass, str]] = []
    for entry, uid in zip(given["passes"], given["uids"], strict=True):
        with suppress(DromicError):  # one of a damaged file holds up no other
            good.append((pass_from(entry), str(uid)))
    book.add([one for one, _ in good], [uid for _, uid in good], wait_s)


def _take_back(book: Logbook, given: dict[str, Any], wait_s: float) -> None:
    book.take_back(map(str, given["uids"]), wait_s)


def _note(book: Logbook, given: dict[str, Any], wait_s: float) -> None:
    book.note(str(given["uid"]), str(given["text"]), wait_s)


def _set_goal(book: Logbook, given: dict[str, Any], wait_s: float) -> None:
    ready = date.fromisoformat(given["ready"]) if given["ready"] else None
    target = None if given["target"] is None else float(given["target"])
    book.set_goal(PhraseName(**given["of"]), Goal(target, ready), wait_s)


_DONE: dict[str, Callable[[Logbook, dict[str, Any], float], None]] = {
    "keep": _keep,
    "take back": _take_back,
    "note": _note,
    "goal": _set_goal,
}


def _first_of(deeds: Sequence[Deed]) -> tuple[Deed, int]:
    """The first deed, and how many it stands for: passes that wait one behind the other are kept at once, however slow the disk is."""
    keeping = list(takewhile(_keeps, deeds))
    if len(keeping) < 2:
        return deeds[0], 1
    given = {key: [one for deed in keeping for one in deed.given[key]] for key in ("passes", "uids")}
    return Deed("keep", given), len(keeping)


def _keeps(deed: Deed) -> bool:
    """Whether a deed keeps passes, each known by something; one of a damaged file may not."""
    passes, uids = (deed.given.get(key) for key in ("passes", "uids"))
    return deed.what == "keep" and isinstance(passes, list) and isinstance(uids, list) and len(passes) == len(uids)


class LogWriter:
    """Does one deed after the other on a thread of its own. `told` hears sentences, (words, whether all is well), and `done` that the
    log changed; both on that thread."""

    def __init__(
        self, book: Logbook, told: Callable[[str, bool], object] = lambda *_: None, done: Callable[[], object] = lambda: None
    ) -> None:  # fmt: skip
        self.book, self._told, self._done = book, told, done
        self._deeds: list[Deed] = []
        """what is not in the log yet, in its order"""
        self._turn = threading.Condition()
        self._begun = self._closed = False
        self._aside = Aside(book.path)
        self._why = ""
        """what was told last of why it waits"""
        self._thread = threading.Thread(target=self._work, daemon=True)
        self._thread.start()

    def keep(self, passes: Sequence[Pass]) -> list[str]:
        """Keep passes; gives what each is known by."""
        uids = [new_uid() for _ in passes]
        self._hand_over(Deed("keep", {"passes": [pass_entry(placed(one)) for one in passes], "uids": uids}))
        return uids

    def take_back(self, uids: Sequence[str]) -> None:
        """Take passes back."""
        self._hand_over(Deed("take back", {"uids": list(uids)}))

    def note(self, uid: str, text: str) -> None:
        """Put a note on a pass."""
        self._hand_over(Deed("note", {"uid": uid, "text": text}))

    def set_goal(self, of: PhraseName, goal: Goal) -> None:
        """What is worked towards with a phrase."""
        ready = goal.ready.isoformat() if goal.ready else None
        self._hand_over(Deed("goal", {"of": asdict(of), "target": goal.target, "ready": ready}))

    @property
    def waiting(self) -> int:
        """How many passes are not in the log yet."""
        with self._turn:
            return passes_of(self._deeds)

    def settled(self, seconds: float) -> bool:
        """Wait until all is in the log, or is known to wait; whether it is in."""
        with self._turn:
            self._turn.wait_for(lambda: self._begun and (not self._deeds or self._why not in ("", _LEFT)), seconds)
            return self._begun and not self._deeds

    def close(self) -> None:
        """The window closes: what is still not in the log waits for the next start."""
        with self._turn:
            self._closed = True
            self._turn.notify_all()
        self._thread.join()
        self._aside.close()

    def _hand_over(self, deed: Deed) -> None:
        with self._turn:
            self._deeds.append(deed)
            self._turn.notify_all()

    def _work(self) -> None:
        with suppress(DromicError):
            self.book.make()  # the first pass waits for no file to be made
        self._take_up()
        while True:
            with self._turn:
                self._turn.wait_for(lambda: bool(self._deeds) or self._closed)
                if not self._deeds:
                    return
                (deed, count), closed, waits = _first_of(self._deeds), self._closed, bool(self._why)
            try:
                _DONE[deed.what](self.book, deed.given, LAST_S if closed else TRY_S if waits else FIRST_S)
            except _NO_DEED:  # a line of a file that was not written to its end
                pass
            except DromicError as error:
                self._put_aside(error)
                if self._rest():
                    return
                continue
            self._is_in(count)

    def _rest(self) -> bool:
        """Until the next try: what comes meanwhile is put aside at once. Whether the window has closed."""
        until = time.monotonic() + AGAIN_S
        while not self._closed and (left_s := until - time.monotonic()) > 0:
            with self._turn:
                deeds = list(self._deeds)
            self._aside.write(deeds)
            with self._turn:
                self._turn.wait_for(lambda: self._closed or len(self._deeds) > len(deeds), left_s)  # noqa: B023
        return self._closed

    def _is_in(self, count: int) -> None:
        with self._turn:
            del self._deeds[:count]
            over, rest = self._why, list(self._deeds)
            if not rest:
                self._why = ""
            self._turn.notify_all()
        if over:
            self._aside.write(rest)
            if not rest:
                self._told("What waited is in the log", True)
        self._done()

    def _put_aside(self, error: DromicError) -> None:
        """What waits is on disk, and why is told once."""
        with self._turn:
            deeds = list(self._deeds)
        wrong = self._aside.write(deeds)
        count = passes_of(deeds)
        what = f"{count} {'pass waits' if count == 1 else 'passes wait'}" if count else "what you changed waits"
        why = "another program holds the log" if isinstance(error, LogHeld) else str(error)
        if wrong:
            why, what = f"{why}, and nothing can be put aside ({wrong})", f"{what} in memory alone"
        first = self._why in ("", _LEFT)
        with self._turn:
            self._why = why
            self._turn.notify_all()
        if first:
            self._told(f"{why[:1].upper()}{why[1:]}; {what}, and will be kept when it can be", False)

    def _take_up(self) -> None:
        """What waited when the last windows closed, or were killed, comes first."""
        for deeds, forget in left(self.book.path):
            with self._turn:
                self._deeds[:0] = deeds
                rest = list(self._deeds)
            if deeds and self._aside.write(rest):
                forget(False)  # it cannot be put aside here: it stays where it was
                with self._turn:
                    del self._deeds[: len(deeds)]
                continue
            forget(True)
            if deeds:
                with self._turn:
                    self._why = _LEFT
        with self._turn:
            self._begun = True
            self._turn.notify_all()
