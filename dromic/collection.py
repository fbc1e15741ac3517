"""A whole collection planned for one pair of hands, on all cores: files are read and tunes planned in worker processes, which
give back a few numbers each, so that memory does not grow with the collection; what is done already is not done again."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass, replace
from functools import partial
from pathlib import Path

from dromic.core.music.phrase import Phrase
from dromic.core.plan.request import Request
from dromic.core.plan.write_back import POSITIONS, phrase_with_plan
from dromic.core.questions.questions import nearest_ability
from dromic.core.reports.ranking import Away, Ranked, ranked_of
from dromic.core.search.planner import judge, solve
from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.formats.table import read, readable, titles
from dromic.plan_requests import first_choices, request_for
from dromic.plan_workers import Workers, go_on

NEAR = 0.8
"""of a target: tunes whose ceiling lies above this share and under the target are asked which ability is missing"""
_PIECE = 24
"""tunes sent to the workers at a time: so much is lost when it is stopped"""
_MOST_KEPT = 50_000_000
"""bytes kept between runs, of all collections and wishes; beyond, it is begun anew"""
_FORM = 3
"""of what is kept between runs; another one is made anew"""


@dataclass(frozen=True, slots=True)
class Tune:
    """A tune of a collection: its file, its number in it, and its title."""

    path: Path
    number: int
    title: str


@dataclass(frozen=True, slots=True)
class Wanted:
    """How a collection is planned: the choices, the hands, and the tempo asked for (None for each tune's own)."""

    choices: Choices
    player: Player
    target: float | None = None

    @property
    def sign(self) -> str:
        """What tells these wishes from others."""
        held = json.dumps([_FORM, asdict(self.choices), asdict(self.player), self.target], default=str, sort_keys=True)
        return hashlib.sha256(held.encode()).hexdigest()[:16]


def tunes_of(place: Path) -> list[Tune]:
    """The tunes of a folder, whatever lies under it, or of one file; DromicError where there are none. Files that cannot be read are
    told when their turn comes."""
    if place.is_dir():
        files = sorted(
            Path(folder) / name for folder, _, names in os.walk(place) for name in names
            if Path(name).suffix.lower() in readable()
        )  # fmt: skip
    else:
        files = [place]
    found: list[Tune] = []
    for path in files:
        try:
            names = titles(path)
        except DromicError:
            if path == place:
                raise
            names = []
        found += [Tune(path, n, name) for n, name in enumerate(names, start=1)] or [Tune(path, 1, path.stem)]
    if not found:
        raise DromicError("holds no tunes; choose a folder with files that can be read", path=place.name)
    return found


def rank(
    tunes: Sequence[Tune], wanted: Wanted, kept: Path | None = None, progress: Progress = lambda share: True,
    workers: int | None = None,
) -> list[Ranked]:  # fmt: skip
    """What is said of each tune, in their order. What was ranked before under the same wishes is taken from the file `kept`, where
    each piece of the work is put down as it is done. Cancelled when `progress` says no."""
    if kept is not None and kept.exists() and kept.stat().st_size > _MOST_KEPT:
        kept.unlink()
    held = _held(kept, wanted.sign)
    keys = [_key(tune) for tune in tunes]
    todo = [n for n, key in enumerate(keys) if key not in held]
    pool = Workers(workers)
    try:
        for start in range(0, len(todo), _PIECE):
            piece = todo[start : start + _PIECE]
            done = len(tunes) - len(todo) + start

            def share(part: float, done: int = done, piece: Sequence[int] = piece) -> bool:
                return progress((done + part * len(piece)) / len(tunes))

            answers = pool.run([partial(ranked, tunes[n], wanted) for n in piece], share)
            new = {keys[n]: answer for n, answer in zip(piece, answers, strict=True)}
            held |= new
            _put_down(kept, wanted.sign, new)
    finally:
        pool.close()
    progress(1.0)
    return [held[key] for key in keys]


def ranked(tune: Tune, wanted: Wanted) -> Ranked:
    """In a worker: one tune read and planned; why not, where it cannot be."""
    try:
        phrase = read(tune.path, tune.number)
    except DromicError as error:
        return Ranked(str(tune.path), tune.number, tune.title, refused=str(error))
    return ranked_phrase(phrase, wanted, str(tune.path), tune.number, tune.title)


def rank_phrases(
    named: Sequence[tuple[str, Phrase]], wanted: Wanted, progress: Progress = lambda share: True, workers: int | None = None
) -> list[Ranked]:  # fmt: skip
    """What is said of each of some phrases at hand, numbered from 1 in their order; nothing is kept."""
    pool = Workers(workers)
    try:
        tasks = [partial(ranked_phrase, phrase, wanted, "", n, name) for n, (name, phrase) in enumerate(named, start=1)]
        return pool.run(tasks, progress)
    finally:
        pool.close()


def placed(phrase: Phrase, wanted: Wanted) -> tuple[Phrase, Instrument]:
    """A phrase with the strings and frets that its plan has, so that its shape can be moved, and its instrument."""
    request = _request(phrase, wanted)
    return phrase_with_plan(request.phrase, judge(solve(request)), frozenset({POSITIONS})), request.instrument


def _request(phrase: Phrase, wanted: Wanted) -> Request:
    chosen = first_choices(phrase, wanted.choices)
    tempo = wanted.target or chosen.tempo
    school = wanted.choices.school or chosen.school
    chosen = replace(chosen, school=school, tempo=tempo, player=wanted.player.name, lean=OWN)
    return request_for(phrase, chosen, {wanted.player.name: wanted.player})


def ranked_phrase(phrase: Phrase, wanted: Wanted, name: str, number: int, title: str) -> Ranked:
    """In a worker: one phrase planned; why not, where it cannot be."""
    try:
        solved = solve(_request(phrase, wanted), go_on)
        made = ranked_of(judge(solved), name, number, phrase.title or title)
        made = replace(made, tempo=phrase.tempo)
        asked = wanted.target
        if asked and NEAR * asked <= made.top < asked:
            found = nearest_ability(solved, asked, go_on)
            if found is not None:
                ability, factor = found
                now = ability.get(wanted.player)
                better = now * factor if ability.better > 0 else now / factor
                made = replace(made, away=Away(ability.label, factor, better, now, ability.unit))
        return made
    except DromicError as error:
        return Ranked(name, number, title, refused=str(error))


def _key(tune: Tune) -> str:
    """What tells a tune, as its file is now, from any other."""
    try:
        about = tune.path.stat()
        marks = f"{about.st_mtime_ns} {about.st_size}"
    except OSError:
        marks = ""
    return f"{tune.path.resolve()} {tune.number} {marks}"


def _held(kept: Path | None, sign: str) -> dict[str, Ranked]:
    """What was put down before under the same wishes; a line that was cut off is as if it were not there."""
    found: dict[str, Ranked] = {}
    for line in _lines(kept):
        try:
            entry = json.loads(line)
            if entry["sign"] == sign:
                found[str(entry["key"])] = _ranked(entry["tune"])
        except (ValueError, KeyError, TypeError):
            continue
    return found


def _lines(kept: Path | None) -> Iterator[str]:
    if kept is not None and kept.exists():
        with kept.open(encoding="utf-8", errors="replace") as file:
            yield from file


def _ranked(entry: dict[str, object]) -> Ranked:
    away, between = entry.pop("away"), entry.pop("ceiling_range")
    made = Ranked(**entry)  # type: ignore[arg-type]
    return replace(
        made, needs=tuple(made.needs), away=Away(**away) if isinstance(away, dict) else None,
        ceiling_range=(float(between[0]), float(between[1])) if isinstance(between, list) else None,
    )  # fmt: skip


def _put_down(kept: Path | None, sign: str, new: dict[str, Ranked]) -> None:
    if kept is None:
        return
    try:
        kept.parent.mkdir(parents=True, exist_ok=True)
        with kept.open("a", encoding="utf-8") as file:
            for key, one in new.items():
                file.write(json.dumps({"sign": sign, "key": key, "tune": asdict(one)}) + "\n")
    except OSError:
        return  # it is only made anew the next time
