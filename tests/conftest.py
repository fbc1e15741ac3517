"""Tests run offscreen and keep their settings out of the user's own."""

import os
import tempfile

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="dromic-test-")

from hypothesis import HealthCheck, settings

settings.register_profile(
    "steady", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow], print_blob=True
)
settings.load_profile("steady")
