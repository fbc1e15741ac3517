"""Runs the command line as `python -m dromic.cli`."""

import sys

from dromic.cli.main import main

sys.exit(main())
