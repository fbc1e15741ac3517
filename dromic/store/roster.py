"""The players at hand: those that ship with Dromic, and the user's own, each a file in a folder of theirs."""

from __future__ import annotations

import re
from pathlib import Path

from dromic import presets
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from dromic.store.saving import save

SUFFIX = ".toml"


class Roster:
    """Players by name. The starting players cannot be changed; a change of one makes a player of one's own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.own: dict[str, Player] = {}
        self.notices: list[str] = []
        """what could not be read, a sentence each"""
        for path in self._files():
            try:
                self.own[path.stem] = presets.player_from_file(path)
            except DromicError as error:
                self.notices.append(str(error))
        self._unsaved: set[str] = set()

    def _files(self) -> list[Path]:
        try:
            return sorted(self.folder.glob(f"*{SUFFIX}")) if self.folder.is_dir() else []
        except OSError as error:
            self.notices.append(f"players cannot be read from {self.folder}: {error.strerror or error}")
            return []

    @property
    def players(self) -> dict[str, Player]:
        return {**presets.players(), **self.own}

    def named(self, name: str) -> Player:
        """A player by name, the first starting player where there is none of that name any more."""
        return self.players.get(name) or presets.players()["fluent"]

    def fresh_name(self, label: str) -> str:
        """A name for a new player, after its label, that no other has."""
        stem = re.sub(r"[^a-z0-9]+", "-", label.lower()).strip("-") or "player"
        names = (stem, *(f"{stem}-{n}" for n in range(2, len(self.players) + 3)))
        return next(name for name in names if name not in self.players)

    def put(self, player: Player) -> None:
        """Take a player of one's own, or another state of one; `flush` brings it to the disk."""
        self.own[player.name] = player
        self._unsaved.add(player.name)

    def drop(self, name: str) -> None:
        """Forget a player of one's own, and its file."""
        self.own.pop(name, None)
        self._unsaved.add(name)

    def flush(self) -> None:
        """Write what has changed; DromicError where it cannot be written."""
        for name in sorted(self._unsaved):
            path = self.folder / f"{name}{SUFFIX}"
            if name in self.own:
                try:
                    self.folder.mkdir(parents=True, exist_ok=True)
                except OSError as error:
                    raise DromicError(
                        f"players cannot be kept there: {error.strerror}", path=str(self.folder)
                    ) from error
                save(path, player_bytes(self.own[name]), private=True)
            else:
                try:
                    path.unlink(missing_ok=True)
                except OSError as error:
                    raise DromicError(f"it cannot be removed: {error.strerror}", path=path.name) from error
            self._unsaved.discard(name)


def player_bytes(player: Player) -> bytes:
    """A player as the bytes of a player file."""
    import tomli_w  # wanted only when something is written

    return tomli_w.dumps(presets.player_entry(player)).encode()
