"""The command line: parse the words, call one command, end every fault in one line and exit status 2."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from functools import cache
from typing import NoReturn

from dromic.cli.commands import (
    ask_command,
    convert_command,
    listen_commands,
    lists,
    move_command,
    places_command,
    plan_command,
    practice_commands,
    practise_command,
    rank_command,
)
from dromic.core.values.errors import DromicError
from dromic.processes import settle


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise DromicError(f"{message}; see {self.prog} --help")


@cache
def parser() -> argparse.ArgumentParser:
    """All commands with their options."""
    top = _Parser(prog="dromic", description="Plans both hands of picked phrases.")
    commands = top.add_subparsers(dest="command", required=True, parser_class=_Parser)
    plan_command.add_to(commands)
    convert_command.add_to(commands)
    practice_commands.add_to(commands)
    practise_command.add_to(commands)
    listen_commands.add_to(commands)
    places_command.add_to(commands)
    ask_command.add_to(commands)
    move_command.add_to(commands)
    rank_command.add_to(commands)
    lists.add_to(commands)
    return top


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; 0 when it did what was asked, 2 for bad input or an impossible request."""
    settle()
    try:
        options = parser().parse_args(arguments)
        sys.stdout.write(options.run(options))
    except DromicError as error:
        sys.stderr.write(f"dromic: {error}\n")
        return 2
    return 0
