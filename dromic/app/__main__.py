"""Runs the window, as `python -m dromic.app` and as the installed `dromic-window`.

Python's collector is held off while the modules load: it would look through all of them again and again, which takes a
fifth of the start. `main` lets it go on once the window stands.
"""

import gc
import sys


def start() -> int:
    """Start the window with the arguments of the command line; the exit status."""
    gc.disable()
    from dromic.store.saving import keep_to_the_owner

    keep_to_the_owner()
    from dromic.app.main import main

    return main()


if __name__ == "__main__":
    sys.exit(start())
