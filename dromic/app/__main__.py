"""Runs the window as `python -m dromic.app`.

Python's collector is held off while the modules load: it would look through all of them again and again, which takes a
fifth of the start. `main` lets it go on once the window stands.
"""

import gc
import sys

gc.disable()

from dromic.app.main import main  # noqa: E402

sys.exit(main())
