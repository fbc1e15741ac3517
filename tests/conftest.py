"""Tests run offscreen and keep their settings out of the user's own."""

import os
import tempfile

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="dromic-test-")

import pytest
from hypothesis import HealthCheck, settings

settings.register_profile(
    "steady", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow], print_blob=True
)
settings.load_profile("steady")


@pytest.fixture(autouse=True, scope="session")
def one_application(qapp):
    """Sheets make an application where there is none; the windows of other tests need theirs first."""
    return qapp


@pytest.fixture(autouse=True)
def nothing_waits_for_an_answer(monkeypatch):
    """A window that a test leaves with unsaved work asks nobody."""
    from PyQt6.QtWidgets import QMessageBox

    from dromic.app.files import Files

    monkeypatch.setattr(Files, "ask_unsaved", lambda self: QMessageBox.StandardButton.Discard)
