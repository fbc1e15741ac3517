"""The options of `dromic plan`, and the requests they come to."""

from __future__ import annotations

import argparse
import re
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.core.editing.edit import retuned
from dromic.core.editing.unrolling import choices_written_out
from dromic.core.music.octaves import AS_FILED, GUITAR, read_as
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import Entry, id_from
from dromic.core.music.stated_positions import resolve_positions
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.practice.log_pass import PhraseName
from dromic.core.search.meant_pins import solve_meant, stated
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.setup.choices import Choices
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.pin import FIELDS, WHOLE, Pin
from dromic.core.setup.player import Habits, Player
from dromic.core.setup.school import LEGATO
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import UNITS
from dromic.core.values.vocabulary import GRACE_TIMES, GRACE_WAYS
from dromic.formats.table import read_entry, readable
from dromic.plan_requests import instrument_for, keep_of, not_here, request_by
from dromic.store.folders import players_folder
from dromic.store.roster import Roster

KEEPS = ("positions", "fingers", "strokes", "attacks")
OCTAVES = {"file": AS_FILED, "guitar": GUITAR}
MOST_ALTERNATIVES = 20


def one_plan(options: argparse.Namespace, what: str) -> Plan:
    """The plan that options ask for, where just one will do; `what` is made from it."""
    return one_named(options, what)[0]


def one_named(options: argparse.Namespace, what: str) -> tuple[Plan, PhraseName]:
    """The same, and whose passes and takes it makes: of a passage those of the whole phrase."""
    asked = asked_of(options)
    if len(asked.requests) > 1:
        raise DromicError(f"{what} one plan; choose one school")
    return judge(asked.solve(asked.requests[0])), asked.name


def add_options(command: Any, file_needed: bool = True, several: bool = False) -> None:
    add = command.add_argument
    add("file", type=Path, nargs="+" if several else None if file_needed else "?", help=" ".join(readable()))
    add("--school", metavar="NAME", help=f"{' '.join(presets.schools())}, or all")
    add("--pulse", choices=UNITS, help="unit of the pulse, for pulse and downs")
    add(
        "--skip-through",
        choices=("on", "off"),
        help="economy carries through over a skipped string; else the player's habit",
    )
    add("--rest-through", choices=("on", "off"), help="carried notes rest on the next string; else the player's habit")
    add("--tune", type=int, default=1, metavar="N", help="the Nth tune of a book or songbook")
    add("--octave", choices=tuple(OCTAVES), help="pitches as the file has them, or an octave below, as guitarists read")
    add("--way", type=int, metavar="N", help="as it was kept in the songbook, the Nth way, 1 the first")
    add("--unroll", action="store_true", help="write repeats out")
    add("--start", choices=("down", "up", "either"), help="stroke of the first picked note")
    add("--pattern", metavar="STROKES", help="for the school pattern, such as ddu")
    add(
        "--instrument",
        metavar="NAME",
        help=f"{' '.join(presets.instruments())}, a tuning low to high, or an instrument file",
    )
    add(
        "--retuned",
        choices=("frets", "pitches"),
        default="frets",
        help="what stays on another instrument, where both are written",
    )
    add("--player", metavar="NAME", help=f"{' '.join(presets.players())}, or a player file")
    add("--lean", choices=tuple(presets.leans()), help="which stroke ends clear")
    add("--tempo", type=float, metavar="BPM", help="quarter notes a minute")
    add("--keep", metavar="LIST", help=f"any of {','.join(KEEPS)}, or none; else positions,attacks")
    add("--legato", choices=LEGATO, help="which picked notes may go unpicked")
    add("--graces", choices=GRACE_WAYS, help="unmarked grace notes: one stroke for grace and note, or one each")
    add("--grace-time", choices=GRACE_TIMES, help="whose time they take: the note's before, or their own note's")
    add("--bars", metavar="A-B", help="a passage")
    add("--part", type=int, default=1, metavar="N", help="a part")
    add("--repeat", action=argparse.BooleanOptionalAction, help="the passage loops, and the seam is planned too")
    add("--dial", type=float, metavar="Q", help="1 for least work, up to 8 for the highest ceiling")
    add("--habit", action="append", default=[], metavar="NAME=VALUE", help=f"one of {' '.join(_habit_names())}")
    add("--pin", "--lock", action="append", default=[], metavar="N:WHAT=VALUE", help=f"pin a note's {' '.join(FIELDS)}")
    add("--override", action="append", default=[], metavar="N=STROKE", help="a stroke of your own against the school")
    add("--alternatives", type=int, default=1, metavar="K", help="so many plans that really differ")
    add("--frontier", action="store_true", help="weigh both hands' work and unpicked notes instead")
    add("--json", action="store_true", help="JSON on standard output")


@dataclass(frozen=True)
class Requests:
    """What is planned: one request a school. What the file states is `meant` where the player's own choices keep it: then
    it yields where it cannot hold; what an option keeps does not. `entry` is what it was made from, `name` whose passes and takes it
    makes."""

    requests: list[Request]
    meant: bool
    entry: Entry
    name: PhraseName

    def solve(self, request: Request) -> Solved:
        return solve_meant(request) if self.meant else solve(request)


def asked_of(options: argparse.Namespace) -> Requests:
    """What the options ask for; what they leave open is as the entry's own choices say, if it has any."""
    if not 1 <= options.alternatives <= MOST_ALTERNATIVES:
        raise DromicError(f"--alternatives is {options.alternatives}; it must lie between 1 and {MOST_ALTERNATIVES}")
    entry = read_entry(options.file, options.tune, options.part)
    if options.octave:
        entry = replace(entry, phrase=read_as(entry.phrase, OCTAVES[options.octave]))
    own, meant = _kept(entry, options.way) if options.way is not None else entry.choices, False
    chosen = own or Choices(tempo=entry.phrase.tempo, school=entry.phrase.school or "free")
    chosen = replace(
        chosen,
        **{
            n: v
            for n in ("legato", "graces", "grace_time", "pattern", "repeat")
            if (v := getattr(options, n)) is not None
        },
    )
    instrument = _instrument(options.instrument) if options.instrument else instrument_for(entry.phrase, chosen)
    chosen = chosen.fitting(instrument)[0]
    if options.retuned == "pitches":
        written = resolve_positions(entry.phrase, entry.phrase.instrument or presets.usual_instrument())
        entry = replace(entry, phrase=retuned(written, instrument, keep_frets=False))
    phrase = resolve_positions(entry.phrase, instrument)
    if options.unroll:
        phrase, chosen = phrase.unrolled(), choices_written_out(phrase, chosen)
    if options.bars:
        whole, phrase = phrase, phrase.passage(*bar_numbers(options.bars))
        chosen = _within(chosen, whole, phrase)
    phrase = phrase.at_tempo(options.tempo if options.tempo is not None else chosen.tempo)
    player, notices = _player(options, chosen)
    if options.keep is not None:
        keep = _keep(options.keep)
    else:
        keep = keep_of(chosen) if own is not None else frozenset({"positions", "attacks"})
        meant = own is not None
    phrase = replace(phrase, notices=(*phrase.notices, *notices, *_not_kept(phrase, keep, options.keep is None)))
    schools = _schools(options.school or chosen.school)
    if len(schools) > 1:
        chosen = replace(chosen, pins=(), overrides=())  # one school's pins are no other's
    pins = [pin for text in options.pin for pin in _pins_of(phrase, text)]
    chosen = chosen.pinned(*pins)
    for text in options.override:
        chosen = chosen.overridden(*_override(phrase, text))
    chosen = replace(chosen, unit=options.pulse or chosen.unit)
    requests = []
    for school in schools:
        start = options.start or (chosen.start if school == chosen.school else "")
        under = replace(chosen, school=school, start=start)
        requests.append(request_by(phrase, under, instrument, player, keep, yields=own is not None))
    name = PhraseName(entry.phrase.title, entry.id)
    if options.bars or options.unroll:  # what was chosen and kept counts the events of the whole phrase as written
        entry = Entry(phrase, id=id_from(entry.id, f"{options.bars} {options.unroll}", phrase), copy_of=entry.id)
    return Requests(requests, meant, entry, name)


def _instrument(text: str) -> Instrument:
    """A preset by name, a tuning, or an instrument file."""
    path = Path(text)
    return presets.instrument_from_file(path) if path.suffix == ".toml" else presets.instrument_named(text)


def _kept(entry: Entry, number: int) -> Choices:
    """The choices of a plan that was kept."""
    count = len(entry.decisions)
    if not 1 <= number <= count:
        holds = f"holds {count} kept {'plan' if count == 1 else 'plans'}" if count else "holds no kept plan"
        raise DromicError(f"--way is {number}; this phrase {holds}")
    return entry.decisions[number - 1].choices


def _player(options: argparse.Namespace, chosen: Choices) -> tuple[Player, list[str]]:
    """Who plays, and a sentence if the one chosen for the phrase is not at hand."""
    at_hand = Roster(players_folder()).players
    notices = [] if options.player else not_here(Choices(player=chosen.player), at_hand)
    named = options.player and player_named(options.player)
    player = named or at_hand.get(chosen.player) or presets.players()["fluent"]
    lean = options.lean or chosen.lean
    if lean in presets.leans():
        player = player.with_leans(presets.leans()[lean])
    if options.dial is not None:
        player = replace(player, judging=replace(player.judging, dial=options.dial))
    for text in options.habit:
        player = replace(player, habits=_with_habit(player.habits, text))
    for habit in ("skip_through", "rest_through"):
        if (on := getattr(options, habit)) is not None:
            player = replace(player, habits=replace(player.habits, **{habit: on == "on"}))
    return player, notices


def _not_kept(phrase: Phrase, keep: frozenset[str], by_default: bool) -> list[str]:
    """A sentence where the file states strokes or fingers that are left to the planner, unless that was asked for."""
    found = stated(phrase)
    named = [
        f"{n} {what}" for what, n in (("strokes", found.strokes), ("fingers", found.fingers)) if n and what not in keep
    ]
    if not named or not by_default:
        return []
    return [
        f"{' and '.join(named)} written in the file are not kept; --keep positions,attacks,strokes,fingers keeps them"
    ]


def _within(chosen: Choices, whole: Phrase, passage: Phrase) -> Choices:
    """Choices for a passage of bars."""
    numbers = {bar.number for bar in passage.bars}
    first = next(i for i, e in enumerate(whole.events) if whole.bars[e.bar].number in numbers)
    return chosen.within(first, len(passage.events))


def _habit_names() -> list[str]:
    return [f.name.replace("_", "-") for f in fields(Habits)]


def _with_habit(habits: Habits, text: str) -> Habits:
    """Habits with one changed, written as hold=lift or free-fingers=on."""
    name, _, value = text.partition("=")
    field = name.replace("-", "_")
    if name not in _habit_names() or not value:
        raise DromicError(f"--habit is {text!r}; write NAME=VALUE with one of {', '.join(_habit_names())}")
    changed: dict[str, Any] = {field: value}
    if isinstance(getattr(habits, field), bool):
        if value not in ("on", "off"):
            raise DromicError(f"--habit {name} is {value!r}; it must be on or off")
        changed = {field: value == "on"}
    return replace(habits, **changed)


def player_named(name: str) -> Player:
    """A starting player or one from a file."""
    if name in presets.players():
        return presets.players()[name]
    if Path(name).suffix or Path(name).exists():
        return presets.player_from_file(Path(name))
    raise DromicError(f"there is no player {name!r}; choose one of {', '.join(presets.players())}, or a player file")


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


def bar_numbers(text: str) -> tuple[int, int]:
    """The first and the last of bars written as 3-6."""
    first, _, last = text.partition("-")
    last = last or first
    if not (first.isdecimal() and last.isdecimal()) or int(first) > int(last):
        raise DromicError(f"--bars is {text!r}; write it as 3-6")
    return int(first), int(last)


def bars_between(phrase: Phrase, text: str) -> tuple[int, int]:
    """The first and the last bar by index, both counted in, of numbers such as 3-6."""
    low, high = bar_numbers(text)
    found = [i for i, bar in enumerate(phrase.bars) if low <= bar.number <= high]
    if not found:
        raise DromicError(
            f"there are no bars {text}; the phrase has {phrase.bars[0].number} to {phrase.bars[-1].number}"
        )
    return found[0], found[-1]


def _note_at(phrase: Phrase, number: int) -> tuple[int, int]:
    """(event, note within it as pins count) of a note numbered from 1 as in the plan's JSON: the notes of a chord from
    the highest-numbered string down, or from the lowest pitch up where strings are left open."""
    places = []
    for e, event in enumerate(phrase.events):
        order = range(len(event.notes))
        strings = [n.string for n in event.notes]
        places += [(e, n) for n in (sorted(order, key=lambda i: -(strings[i] or 0)) if all(strings) else order)]
    if not 1 <= number <= len(places):
        raise DromicError(f"there is no note {number}; the phrase has {len(places)}")
    return places[number - 1]


def _pins_of(phrase: Phrase, text: str) -> list[Pin]:
    """Pins such as 7:string=5,fret=3 or, for a passage, 3-8:position=5."""
    match = re.fullmatch(r"(\d+)(?:-(\d+))?:(\w+=[\w-]+(?:,\w+=[\w-]+)*)", text)
    if not match:
        raise DromicError(f"--pin is {text!r}; write it as 7:string=5,finger=2, or 3-8:position=5 for a passage")
    first, last = int(match[1]), int(match[2] or match[1])
    found = []
    for number in range(first, last + 1):
        event, note = _note_at(phrase, number)
        for pair in match[3].split(","):
            field, value = pair.split("=")
            found.append(Pin(event, note, field, int(value) if field in WHOLE and value.isdecimal() else value))
    return found


def _override(phrase: Phrase, text: str) -> tuple[int, str]:
    match = re.fullmatch(r"(\d+)=(down|up)", text)
    if not match:
        raise DromicError(f"--override is {text!r}; write it as 7=up")
    return _note_at(phrase, int(match[1]))[0], match[2]
