"""Runs the command line, as `python -m dromic.cli` and as the installed `dromic`."""

import os
import sys
from pathlib import Path

from dromic.cli.main import main
from dromic.store.saving import keep_to_the_owner


def start() -> int:
    """Run a command with the words of the command line; the exit status. Output that nobody takes is told in a sentence, but not
    where its reader has left."""
    keep_to_the_owner()
    try:
        status = main()
        if sys.stdout is not None:
            sys.stdout.flush()
        return status
    except BrokenPipeError:
        status = 0
    except (OSError, ValueError, AttributeError) as error:
        if sys.stdout is not None and not isinstance(error, OSError):
            raise
        reason = error.strerror if isinstance(error, OSError) else "it is closed"
        if sys.stderr is not None:
            sys.stderr.write(f"dromic: the output cannot be written ({reason}); send it elsewhere\n")
        status = 2
    # what is left in the buffer has nowhere to go, and is not tried again at the end
    sys.stdout = Path(os.devnull).open("w", encoding="utf-8")  # noqa: SIM115
    return status


if __name__ == "__main__":
    sys.exit(start())
