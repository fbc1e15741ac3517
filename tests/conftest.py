"""Tests run offscreen and keep their settings out of the user's own."""

import contextlib
import gc
import importlib
import os
import tempfile

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ |= {
    f"XDG_{name}_HOME": tempfile.mkdtemp(prefix="dromic-test-") for name in ("CONFIG", "DATA", "STATE", "CACHE")
}

# It says things while it is loaded, and the tests' handler of what the toolkit says is Python: another thread that has the
# interpreter and wants the loader would wait for ever. The application itself has no such handler.
with contextlib.suppress(ImportError):
    importlib.import_module("PyQt6.QtMultimedia")

import pytest
from hypothesis import HealthCheck, settings

from tests import durations
from tests.examples import FEW, QUICK

settings.register_profile(
    "steady", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow], print_blob=True
)
settings.register_profile(QUICK, settings.get_profile("steady"), max_examples=FEW)
settings.load_profile("steady")


def pytest_addoption(parser):
    parser.addoption(durations.RENEW, action="store_true", help="write down how long the slow cases take")


def pytest_configure(config):
    if config.getoption(durations.RENEW) and not hasattr(config, "workerinput"):
        config.pluginmanager.register(durations.Renewal())


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(config, items):
    durations.mark(config, items)


def pytest_collection_finish():
    """What was collected is here to stay: Python's collector need not go through it again and again."""
    gc.collect()
    gc.freeze()


@pytest.fixture(autouse=True, scope="session")
def one_application(qapp):
    """Sheets make an application where there is none; the windows of other tests need theirs first, with the font that ships."""
    from dromic.app.kit import theme

    theme.load_fonts()
    return qapp


@pytest.fixture
def bare_window(qtbot, tmp_path):
    """A window on a folder of its own, nothing opened yet."""
    from PyQt6.QtCore import QSettings
    from PyQt6.QtWidgets import QMessageBox

    from dromic.app.kit import theme
    from dromic.app.window.window import MainWindow

    theme.load_fonts()
    made = MainWindow(QSettings(str(tmp_path / "w.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    yield made
    made.files.ask_unsaved = lambda: QMessageBox.StandardButton.Discard  # whatever the test had it answer
    assert made.close()


@pytest.fixture(scope="session")
def demo_solved():
    """(request, its solution, that with remedies) of the demo's first phrase as a window asks for it, once for all of them."""
    from dromic import presets
    from dromic.app.window.window import demo_songbook
    from dromic.core.questions.remedies import with_remedies
    from dromic.core.search.meant_pins import solve_meant
    from dromic.core.setup.choices import Choices
    from dromic.formats.table import read
    from dromic.plan_requests import first_choices, request_for

    phrase = read(demo_songbook(), 1)
    request = request_for(phrase, first_choices(phrase, Choices()), presets.players())
    solved = solve_meant(request)
    return request, solved, with_remedies(solved, presets.other_leans())


@pytest.fixture
def demo_window(qtbot, bare_window, demo_solved, monkeypatch):
    """A window with the first phrase of the demo planned. All but the search and the remedies of this one request is its own."""
    from dromic.app.book import planning
    from dromic.app.window.window import demo_songbook
    from dromic.core.questions import remedies

    (asked, answer, advised), solve, advise = demo_solved, planning.solve_meant, remedies.with_remedies
    monkeypatch.setattr(planning, "solve_meant", lambda r, *rest: answer if r == asked else solve(r, *rest))
    monkeypatch.setattr(remedies, "with_remedies", lambda s, *rest: advised if s is answer else advise(s, *rest))
    bare_window.open_file(demo_songbook(), 1)
    qtbot.waitUntil(lambda: bare_window.plan is not None, timeout=20000)
    return bare_window


@pytest.fixture(autouse=True)
def nothing_waits_for_an_answer(monkeypatch):
    """A window that a test leaves with unsaved work asks nobody."""
    from PyQt6.QtWidgets import QMessageBox

    from dromic.app.book.files import Files
    from dromic.app.listen.listen_place import ListenPlace

    monkeypatch.setattr(Files, "ask_unsaved", lambda self: QMessageBox.StandardButton.Discard)
    monkeypatch.setattr(ListenPlace, "ask_unkept", lambda self, count: QMessageBox.StandardButton.Ignore)
