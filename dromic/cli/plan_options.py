"""The options of `dromic plan`, and the requests they come to."""

from __future__ import annotations

import argparse
import re
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.core.errors import DromicError
from dromic.core.lock import FIELDS, WHOLE, Lock
from dromic.core.metre import UNITS
from dromic.core.phrase import Phrase
from dromic.core.plan import Request
from dromic.core.player import Habits, Player
from dromic.core.school import LEGATO
from dromic.core.settle import settled
from dromic.formats.table import read, readable

KEEPS = ("positions", "fingers", "strokes", "attacks")
MOST_ALTERNATIVES = 20


def add_options(command: Any) -> None:
    add = command.add_argument
    add("file", type=Path, help=" ".join(readable()))
    add("--school", metavar="NAME", help=f"{' '.join(presets.schools())}, or all")
    add("--pulse", choices=UNITS, help="unit of the pulse, for pulse and downs")
    add("--skip-through", choices=("on", "off"), default="on", help="economy carries through over a skipped string")
    add("--rest-through", choices=("on", "off"), default="on", help="carried notes rest on the next string")
    add("--tune", type=int, default=1, metavar="N", help="the Nth tune of a book or songbook")
    add("--unroll", action="store_true", help="write repeats out")
    add("--start", choices=("down", "up", "either"), help="stroke of the first picked note")
    add("--pattern", metavar="STROKES", help="for the school pattern, such as ddu")
    add("--instrument", metavar="NAME", help=f"{' '.join(presets.instruments())}, or a tuning low to high")
    add("--player", metavar="NAME", default="fluent", help=f"{' '.join(presets.players())}, or a player file")
    add("--lean", choices=tuple(presets.leans()), help="which stroke ends clear")
    add("--tempo", type=float, metavar="BPM", help="quarter notes a minute")
    add("--keep", default="positions,attacks", metavar="LIST", help=f"any of {','.join(KEEPS)}, or none")
    add("--legato", choices=LEGATO, default="never", help="which picked notes may go unpicked")
    add("--bars", metavar="A-B", help="a passage")
    add("--part", type=int, default=1, metavar="N", help="a part")
    add("--repeat", action="store_true", help="the passage loops, and the seam is planned too")
    add("--dial", type=float, metavar="Q", help="1 for least work, up to 8 for the highest ceiling")
    add("--habit", action="append", default=[], metavar="NAME=VALUE", help=f"one of {' '.join(_habit_names())}")
    add("--lock", action="append", default=[], metavar="N:WHAT=VALUE", help=f"pin a note's {' '.join(FIELDS)}")
    add("--override", action="append", default=[], metavar="N=STROKE", help="a stroke of your own against the school")
    add("--alternatives", type=int, default=1, metavar="K", help="so many plans that really differ")
    add("--frontier", action="store_true", help="weigh both hands' work and unpicked notes instead")
    add("--json", action="store_true", help="JSON on standard output")


def requests_of(options: argparse.Namespace) -> list[Request]:
    """What to plan, one request a school."""
    phrase = read(options.file, options.tune, options.part)
    instrument = presets.instrument_named(options.instrument) if options.instrument else phrase.instrument
    phrase = settled(phrase, instrument or presets.instruments()["guitar"])
    if options.unroll:
        phrase = phrase.unrolled()
    if options.bars:
        phrase = phrase.passage(*_bars(options.bars))
    if options.tempo is not None:
        phrase = phrase.at_tempo(options.tempo)
    assert phrase.instrument is not None
    if not 1 <= options.alternatives <= MOST_ALTERNATIVES:
        raise DromicError(f"--alternatives is {options.alternatives}; it must lie between 1 and {MOST_ALTERNATIVES}")
    player = player_named(options.player, options.lean)
    if options.dial is not None:
        player = replace(player, judging=replace(player.judging, dial=options.dial))
    for text in options.habit:
        player = replace(player, habits=_with_habit(player.habits, text))
    return [
        Request(
            phrase=phrase,
            instrument=phrase.instrument,
            player=player,
            school=presets.schools()[name],
            pulse=options.pulse,
            start=options.start,
            skip_through=options.skip_through == "on",
            keep=_keep(options.keep),
            repeat=options.repeat,
            legato=options.legato,
            pattern=options.pattern or "",
            rest_through=options.rest_through == "on",
            overrides=tuple(_override(phrase, text) for text in options.override),
            locks=tuple(lock for text in options.lock for lock in _locks(phrase, text)),
        )
        for name in _schools(options.school or phrase.school or "free")
    ]


def _habit_names() -> list[str]:
    return [f.name.replace("_", "-") for f in fields(Habits)]


def _with_habit(habits: Habits, text: str) -> Habits:
    """Habits with one changed, written as hold=lift or free-fingers=on."""
    name, _, value = text.partition("=")
    field = name.replace("-", "_")
    if name not in _habit_names() or not value:
        raise DromicError(f"--habit is {text!r}; write NAME=VALUE with one of {', '.join(_habit_names())}")
    if isinstance(getattr(habits, field), bool):
        if value not in ("on", "off"):
            raise DromicError(f"--habit {name} is {value!r}; it must be on or off")
        return replace(habits, **{field: value == "on"})
    return replace(habits, **{field: value})


def player_named(name: str, lean: str | None) -> Player:
    """A starting player or one from a file, with another lean if asked for."""
    if name in presets.players():
        player = presets.players()[name]
    elif Path(name).suffix or Path(name).exists():
        player = presets.player_from_file(Path(name))
    else:
        raise DromicError(
            f"there is no player {name!r}; choose one of {', '.join(presets.players())}, or a player file"
        )
    return player.with_leans(presets.leans()[lean]) if lean else player


def _schools(name: str) -> list[str]:
    if name == "all":
        return list(presets.schools())
    if name not in presets.schools():
        raise DromicError(f"there is no school {name!r}; choose one of {', '.join(presets.schools())}, or all")
    return [name]


def _keep(text: str) -> frozenset[str]:
    words = frozenset(w.strip() for w in text.split(",") if w.strip())
    if words == {"none"}:
        return frozenset()
    wrong = words - set(KEEPS)
    if wrong:
        raise DromicError(f"--keep cannot hold {sorted(wrong)[0]!r}; choose any of {','.join(KEEPS)}, or none")
    return words


def _bars(text: str) -> tuple[int, int]:
    first, _, last = text.partition("-")
    last = last or first
    if not (first.isdecimal() and last.isdecimal()) or int(first) > int(last):
        raise DromicError(f"--bars is {text!r}; write it as 3-6")
    return int(first), int(last)


def _note_at(phrase: Phrase, number: int) -> tuple[int, int]:
    """(event, note within it) of a note numbered from 1, lower notes of a chord first."""
    places = [(e, n) for e, event in enumerate(phrase.events) for n in range(len(event.notes))]
    if not 1 <= number <= len(places):
        raise DromicError(f"there is no note {number}; the phrase has {len(places)}")
    return places[number - 1]


def _locks(phrase: Phrase, text: str) -> list[Lock]:
    """Locks such as 7:string=5,fret=3 or, for a passage, 3-8:position=5."""
    match = re.fullmatch(r"(\d+)(?:-(\d+))?:(\w+=[\w-]+(?:,\w+=[\w-]+)*)", text)
    if not match:
        raise DromicError(f"--lock is {text!r}; write it as 7:string=5,finger=2, or 3-8:position=5 for a passage")
    first, last = int(match[1]), int(match[2] or match[1])
    found = []
    for number in range(first, last + 1):
        event, note = _note_at(phrase, number)
        for pair in match[3].split(","):
            field, value = pair.split("=")
            found.append(Lock(event, note, field, int(value) if field in WHOLE and value.isdecimal() else value))
    return found


def _override(phrase: Phrase, text: str) -> tuple[int, str]:
    match = re.fullmatch(r"(\d+)=(down|up)", text)
    if not match:
        raise DromicError(f"--override is {text!r}; write it as 7=up")
    return _note_at(phrase, int(match[1]))[0], match[2]
