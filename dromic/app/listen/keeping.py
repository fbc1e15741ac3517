"""What becomes of takes: kept or thrown away as the player says, their notes into the log of practice."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from dromic import presets
from dromic.app.book.log_keeper import LogKeeper
from dromic.app.kit.worker import Worker
from dromic.app.listen.taking import Take, Taking
from dromic.core.listening.due import due_notes
from dromic.core.listening.lessons import passes_of
from dromic.core.listening.report import TakeReport
from dromic.core.values.errors import DromicError
from dromic.store.takes import KeptTake, Takes


class Keeping(QObject):
    """Follows one taking. Sound is packed off the interface's thread."""

    changed = pyqtSignal()
    noticed = pyqtSignal(str, bool)

    def __init__(
        self,
        taking: Taking,
        folder: Path,
        keeper: LogKeeper,
        now: Callable[[], datetime] = datetime.now,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.taking, self.takes, self.keeper, self.now = taking, Takes(folder), keeper, now
        self.thrown: list[KeptTake] = []
        self._done: dict[str, TakeReport] = {}
        """what was kept last, and what went into the log last: neither is done twice; its sound is not held on to"""
        self._logged: list[str] = []
        """what the passes that went into the log last are known by"""
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_kept)
        self.worker.refused.connect(lambda words: self.noticed.emit(f"The take could not be kept: {words}", False))
        self.takes.clear()
        taking.takes, taking.changed_on_disk = self.takes, self.changed.emit

    def kept(self) -> tuple[KeptTake, ...]:
        """The takes of the phrase that stands open."""
        plan = self.taking.planning.plan
        return self.takes.of(self.taking.planning.name) if plan is not None else ()

    def keep(self) -> None:
        """Keep the take that is looked at."""
        take = self.taking.take
        if take is None or self._done.get("kept") is take.report:
            self.noticed.emit("There is no take to keep" if take is None else "This take is kept already", False)
            return
        self._done["kept"] = take.report
        entry = _entry(take, self.now())
        recorded, sound = take.recorded, take.sound

        def job(_go_on: object) -> KeptTake:
            from dromic.sound.hearing.take_file import flac_bytes

            if recorded is not None:  # its sound is there already
                return self.takes.say_kept(replace(entry, at=recorded.at, size=recorded.size, skip_s=recorded.skip_s))
            return self.takes.keep(entry, flac_bytes(sound.recording()) if sound is not None else take.midi)

        self.worker.start(job)

    @property
    def logged(self) -> bool:
        """Whether the take that is looked at went into the log."""
        return self.taking.take is not None and self._done.get("logged") is self.taking.take.report

    def log(self) -> None:
        """What the take says of each move goes into the log; asked again, out of it."""
        take = self.taking.take
        if self.logged:
            self._out_of_the_log()
            return
        if take is None:
            self.noticed.emit("There is no take", False)
            return
        request, hard = take.plan.request, presets.listening().judge.hard
        passes = passes_of(
            take.report,
            due_notes(take.plan),
            take.of,
            self.now(),
            request.player.name,
            request.school.name,
            hard,
        )
        self._logged = self.keeper.keep(passes)
        self._done["logged"] = take.report
        self.changed.emit()
        missed = sum(not one.clean for one in passes)
        self.noticed.emit(
            f"In the log: {len(passes) - missed} clean runs of notes at {take.report.tempo:.0f}, {missed} moves missed",
            True,
        )

    def _out_of_the_log(self) -> None:
        self.keeper.take_back(self._logged)
        del self._done["logged"]
        self.noticed.emit("Out of the log again", True)
        self.changed.emit()

    def throw(self, take: KeptTake) -> None:
        """Throw a kept take away."""
        self._moved(lambda: self.takes.throw(take))
        self.taking.recorded.pop(take.number, None)
        self.thrown.append(take)
        self.changed.emit()

    def bring_back(self) -> None:
        """Undo that, the last one first."""
        if self.thrown:
            take = self.thrown.pop()
            self._moved(lambda: self.takes.bring_back(take))
            self.changed.emit()

    def _moved(self, move: Callable[[], None]) -> None:
        try:
            move()
        except OSError as error:
            self.noticed.emit(f"The take stays where it is: {error.strerror}", False)

    def _was_kept(self, take: object) -> None:
        assert isinstance(take, KeptTake)
        self.taking.recorded.pop(take.number, None)
        self.noticed.emit(f"Kept: {take.size / 1e6:.1f} MB", True)
        self.changed.emit()

    @property
    def unkept(self) -> tuple[KeptTake, ...]:
        """What was recorded in this session and neither kept nor thrown away."""
        return tuple(self.taking.recorded.values())

    def keep_all(self) -> None:
        """Keep what was recorded in this session, unheard where it was not heard."""
        for take in self.unkept:
            try:
                self.takes.say_kept(take)
            except DromicError as error:
                self.noticed.emit(f"The take could not be kept: {error}", False)
                continue
            del self.taking.recorded[take.number]

    def throw_all(self) -> None:
        """Throw it away."""
        for take in self.unkept:
            self.throw(take)

    def close(self) -> None:
        """The window closes."""
        self.worker.close()


def _entry(take: Take, at: datetime) -> KeptTake:
    report = take.report
    notes = tuple((n.index, None if n.error_ms is None else round(n.error_ms, 1), n.verdict) for n in report.notes)
    suffix = ".flac" if take.sound is not None else ".mid"
    return KeptTake(
        at, take.of.title, take.name, round(report.tempo, 2), round(report.timing_ms, 2),
        round(report.loudness_db, 2), notes, suffix, phrase_id=take.of.id,
    )  # fmt: skip
