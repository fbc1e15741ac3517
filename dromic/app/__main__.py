"""Runs the window as `python -m dromic.app`."""

import sys

from dromic.app.main import main

sys.exit(main())
