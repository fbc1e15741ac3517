"""The instruments, players, leans and schools that ship with Dromic, read from its data files."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import asdict, fields, is_dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any, TypeVar, get_type_hints

from dromic.core.setup.instrument import Instrument
from dromic.core.setup.listen_settings import ListenSettings
from dromic.core.setup.player import FrettingHand, Habits, Judging, Lean, PickingHand, Player
from dromic.core.setup.practice_settings import PracticeSettings
from dromic.core.setup.school import KINDS, School
from dromic.core.setup.sound_settings import DrumNumbers, SoundSettings
from dromic.core.values.checks import check_range
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_number

_SCHOOL_OPTIONS = (
    "unit",
    "new_string",
    "one_motion",
    "plucks",
    "legato",
    "one_stroke",
    "turns",
    "beats",
    "pattern",
    "faster",
)
MOST_PLAYER_BYTES = 100_000
"""of a player file; ours have 3 kB"""
_TIME_UNITS = ("ms", "ms/mm", "ms/bit")


S = TypeVar("S", ListenSettings, PracticeSettings)
DATA = Path(__file__).parent / "data"
"""the folder of what ships with Dromic"""


_MOST_PARTS = 8
"""parts that a dotted name of a user's file may have: ours have two"""
_PART, _NESTED = re.compile(r"[^\s.=,\[\]{}#]+"), re.compile(rf"(?:x[ \t]*\.[ \t]*){{{_MOST_PARTS},}}")


@cache
def data(name: str) -> dict[str, Any]:
    """A data file of the package, by name."""
    return tomllib.loads((DATA / name).read_text("utf-8"))


def _inherited(table: Mapping[str, Any], name: str) -> dict[str, Any]:
    """An entry with what it takes over from the entry it is `like`."""
    entry = dict(table[name])
    like = entry.pop("like", None)
    return {**_inherited(table, like), **entry} if like else entry


@cache
def instruments() -> dict[str, Instrument]:
    table = data("instruments.toml")
    return {name: _instrument(name, _inherited(table, name)) for name in table}


def _instrument(name: str, entry: Mapping[str, Any]) -> Instrument:
    tuning = tuple(note_number(n) for n in entry["tuning"])
    return Instrument(name=name, tuning=tuning, capo=0, **{k: v for k, v in entry.items() if k != "tuning"})


@cache
def leans() -> dict[str, tuple[Lean, ...]]:
    return {name: tuple(Lean(**s) for s in entry["states"]) for name, entry in data("players.toml")["leans"].items()}


def other_leans() -> dict[str, tuple[Lean, ...]]:
    """The single leans worth trying as a change, by what they do in words."""
    return {e["does"]: leans()[name] for name, e in data("players.toml")["leans"].items() if "does" in e}


def lean_labels() -> dict[str, str]:
    return {name: entry["label"] for name, entry in data("players.toml")["leans"].items()}


@cache
def players() -> dict[str, Player]:
    table = data("players.toml")["players"]
    return {name: _player(name, _inherited(table, name)) for name in table}


def default_lean(player: str) -> str:
    """The name of a starting player's own lean."""
    return str(_inherited(data("players.toml")["players"], player)["lean"])


def _player(name: str, entry: Mapping[str, Any]) -> Player:
    slower = entry.get("slower", 1.0)
    check_range("slower", slower, 0.1, 10, "times")
    return Player(
        name=name,
        label=entry["label"],
        picking=_numbers(PickingHand, entry["picking"], slower),
        fretting=replace(_numbers(FrettingHand, entry["fretting"], slower), **entry.get("own", {})),
        judging=_numbers(Judging, entry["judging"]),
        habits=Habits(**entry["habits"]),
        leans=tuple(Lean(**s) for s in entry["leans"]) if "leans" in entry else leans()[entry["lean"]],
        depth_mm=entry["depth_mm"],
        clearance_mm=entry["clearance_mm"],
    )


def _numbers(kind: Any, entry: Mapping[str, Any], slower: float = 1.0, where: str = "") -> Any:
    """A group of numbers; times grow with `slower`. A missing or unknown name is said, and where."""
    units = {f.name: f.metadata["unit"] for f in fields(kind)}
    _same_names(where or kind.__name__, entry, units)
    values = {}
    for name, value in entry.items():
        if isinstance(value, bool | str):
            raise DromicError(f"{name} must be a number, not {value!r:.40}")
        scale = slower if units[name] in _TIME_UNITS else 1
        values[name] = tuple(v * scale for v in value) if isinstance(value, list) else value * scale
    return kind(**values)


def _same_names(where: str, held: Iterable[str], wanted: Iterable[str]) -> None:
    """Refuse a name that is missing or unknown."""
    for name in sorted(set(held) ^ set(wanted)):
        raise DromicError(f"{name} is {'missing' if name in wanted else 'not a field'}", where=where)


def _own_table(path: Path) -> dict[str, Any]:
    """The table of a user's own file; ValueError or RecursionError where it is none, or nests its names without end (each part of a
    dotted name is a table in a table, and takes memory)."""
    text = path.read_text("utf-8")
    if _NESTED.search(_PART.sub("x", text)):
        raise ValueError(f"its names are nested over {_MOST_PARTS} deep")
    return tomllib.loads(text)


def player_from_file(path: Path) -> Player:
    """A player file: one TOML table like an entry of the starting players, `like` naming one of them."""
    try:
        if not path.is_file():
            raise DromicError("is no file that can be read", path=path.name)
        if path.stat().st_size > MOST_PLAYER_BYTES:
            raise DromicError(f"is over {MOST_PLAYER_BYTES // 1000} kB, too large for a player file", path=path.name)
        entry = _own_table(path)
    except OSError as error:
        raise DromicError(f"cannot be read: {error.strerror}", path=path.name) from error
    except (ValueError, RecursionError) as error:
        raise DromicError(f"is not a player file: {str(error)[:120]}", path=path.name) from error
    like = entry.pop("like", "fluent")
    table = data("players.toml")["players"]
    if not isinstance(like, str) or like not in table:
        raise DromicError(f"like is {like!r:.40}; it must be one of: {', '.join(table)}", path=path.name)
    try:
        return _player(path.stem, _laid_over(_inherited(table, like), entry))
    except DromicError as error:
        raise error.at(path.name) from error
    except (KeyError, TypeError, AttributeError, ValueError, ArithmeticError) as error:
        raise DromicError(f"holds a wrong entry: {str(error)[:120]}", path=path.name) from error


def _laid_over(base: Mapping[str, Any], entry: Mapping[str, Any]) -> dict[str, Any]:
    """A starting player's table with what a file says instead; DromicError for a name or a group out of place."""
    merged = dict(base)
    for name, value in entry.items():
        if name not in base and name not in ("slower", "leans"):
            raise DromicError(f"{name} is not a field of a player; they are: {', '.join(sorted(base))}, leans, slower")
        group = base.get(name)
        if isinstance(group, dict) != isinstance(value, dict):
            wanted = "a table of named values" if isinstance(group, dict) else "one value"
            raise DromicError(f"{name} is {value!r}; it must be {wanted}")
        merged[name] = {**group, **value} if isinstance(group, dict) else value
    return merged


def player_entry(player: Player) -> dict[str, Any]:
    """A player as the table of a player file, every value in it."""
    entry: dict[str, Any] = {"like": "fluent", "label": player.label, "slower": 1.0}
    entry |= {"depth_mm": player.depth_mm, "clearance_mm": player.clearance_mm}
    entry["leans"] = [asdict(lean) for lean in player.leans]
    for group in ("habits", "picking", "fretting", "judging"):
        entry[group] = {k: list(v) if isinstance(v, tuple) else v for k, v in asdict(getattr(player, group)).items()}
    return entry


@cache
def schools() -> dict[str, School]:
    return {name: _school(name, entry) for name, entry in data("schools.toml").items()}


def school_at(name: str, player: Player, tempo: float) -> School:
    """A school as a player goes by it at a tempo (quarters a minute): those of down-strokes may go over to alternating."""
    school = schools()[name]
    over = player.judging.alternate_over
    if not school.faster or not over or tempo <= over:
        return school
    return replace(schools()[school.faster], name=name, label=f"{school.label}, alternating")


def carrying_schools() -> dict[str, School]:
    """The schools worth going over to where a line alternates and does not fit, by name."""
    return {"economy": schools()["economy"]}


def _school(name: str, entry: Mapping[str, Any]) -> School:
    kinds = frozenset(KINDS) if entry["kinds"] == "all" else frozenset(entry["kinds"])
    return School(
        name=name,
        label=entry["label"],
        text=entry["text"],
        kinds=kinds,
        kinds_without_skip_through=frozenset(entry.get("kinds_without_skip_through", kinds)),
        start=entry["start"],
        rests=entry["rests"],
        strokes=tuple(entry.get("strokes", {}).items()),
        **{k: entry[k] for k in _SCHOOL_OPTIONS if k in entry},
    )


def usual_instrument() -> Instrument:
    """The one meant where nothing is said."""
    return instruments()["guitar"]


def instrument_for(tuning: tuple[int, ...], capo: int = 0) -> Instrument:
    """The instrument of a tuning: a preset's measures where the tuning is a preset's, else by its highest string."""
    for preset in instruments().values():
        if preset.tuning == tuning:
            return preset.with_capo(capo)
    bass = max(tuning) < note_number("D3")
    base = instruments()["bass4"] if bass else usual_instrument()
    return base.with_tuning(tuning).with_capo(capo)


def instrument_entry(instrument: Instrument) -> dict[str, Any]:
    """The measures of an instrument as plain values, capo left out, as an instrument file has them."""
    measured = {f.name: getattr(instrument, f.name) for f in fields(instrument) if f.metadata and f.name != "capo"}
    return {"label": instrument.label, "tuning": list(instrument.tuning_names), **measured}


def instrument_of(name: str, entry: Mapping[str, Any]) -> Instrument:
    """The instrument of such an entry; what it leaves open is as on the usual one. DromicError for what does not belong there."""
    base = instrument_entry(usual_instrument())
    for field_name in sorted(set(entry) - set(base)):
        raise DromicError(f"{field_name:.40} is no measure of an instrument; choose of {', '.join(base)}")
    try:
        return _instrument(name, {**base, **entry})
    except (TypeError, ValueError, AttributeError) as error:
        raise DromicError(f"it is no instrument: {str(error)[:100]}") from error


def instrument_from_file(path: Path) -> Instrument:
    """An instrument file: one TOML table of its label, tuning and measures."""
    try:
        if not path.is_file() or path.stat().st_size > MOST_PLAYER_BYTES:
            raise DromicError("is no instrument file that can be read", path=path.name)
        return instrument_of(path.stem, _own_table(path))
    except OSError as error:
        raise DromicError(f"cannot be read: {error.strerror}", path=path.name) from error
    except DromicError as error:
        raise error.at(path.name) from error
    except (ValueError, RecursionError) as error:
        raise DromicError(f"is not an instrument file: {str(error)[:120]}", path=path.name) from error


def measured_otherwise(instrument: Instrument) -> bool:
    """Whether an instrument has measures of its own, beyond those that its name or its tuning gives it."""
    return instrument_named(name_of(instrument)) != instrument.with_capo(0)


def name_of(instrument: Instrument) -> str:
    """What `instrument_named` makes the instrument of, capo left out: a preset's name, or its tuning."""
    bare = instrument.with_capo(0)
    names = (name for name, preset in instruments().items() if preset == bare)
    return next(names, ",".join(instrument.tuning_names))


def instrument_named(text: str) -> Instrument:
    """A preset by name, or a tuning low to high such as E2,A2,D3,G3,B3,E4."""
    if text in instruments():
        return instruments()[text]
    if "," not in text:
        raise DromicError(
            f"there is no instrument {text!r}; choose one of {', '.join(instruments())}, or give a tuning low to high "
            "such as E2,A2,D3,G3,B3,E4"
        )
    return instrument_for(tuple(note_number(n) for n in text.split(",")))


@cache
def listening() -> ListenSettings:
    """The numbers of listening, as they ship."""
    return _numbers_of(ListenSettings, "listen.toml")


@cache
def practice() -> PracticeSettings:
    """The numbers of practice, as they ship."""
    return _numbers_of(PracticeSettings, "practice.toml")


@cache
def sound() -> SoundSettings:
    """The numbers of rendered sound, as they ship."""
    tables, name = data("sound.toml"), "sound.toml"
    kinds = get_type_hints(SoundSettings)
    _same_names(name, tables, kinds)
    parts = {
        table: _numbers(kind, tables[table], where=f"{name}, [{table}]")
        for table, kind in kinds.items()
        if is_dataclass(kind)
    }
    manner = {how: (loud, bright) for how, (loud, bright) in tables["manner"].items()}
    groove = {
        drum: _numbers(DrumNumbers, of, where=f"{name}, [groove.{drum}]") for drum, of in tables["groove"].items()
    }
    return SoundSettings(rate=tables["rate"], manner=manner, groove=groove, **parts)


def _numbers_of(settings: type[S], name: str) -> S:
    """A data file as a dataclass of dataclasses, a table each; DromicError where a table or a number is missing or unknown."""
    tables, kinds = data(name), get_type_hints(settings)
    _same_names(name, tables, kinds)
    return settings(
        **{table: _numbers(kind, tables[table], where=f"{name}, [{table}]") for table, kind in kinds.items()}
    )
