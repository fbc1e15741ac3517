"""Every line of docs/capabilities.md: its place is opened in the window, its command run on the demo songbook, its answer searched."""

from __future__ import annotations

import re
import shlex
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QComboBox, QTabWidget

from dromic.app.write.write_commands import COMMAND
from dromic.cli.main import main
from dromic.core.reports.comparison import MEASURES
from dromic.core.reports.counts.count_rows import counts
from dromic.core.reports.places.lists import BY_NAME
from tests.broken import DEMO

DOCUMENT = Path(__file__).parents[2] / "docs" / "capabilities.md"
LINES = [
    tuple(cell.strip() for cell in line.strip().strip("|").split("|"))
    for line in DOCUMENT.read_text().splitlines()
    if line.startswith("| ") and not line.startswith(("| what", "|---"))
]
FEWEST = 80


def opened(window, qtbot, place: str) -> None:
    """Open a place of the window; AssertionError or KeyError where it is not there."""
    kind, name = place.split(": ", 1)
    if kind == "Write key":
        window.pages.go_to("Write")
        assert any(COMMAND[name].label in text for text in _texts(window.pages.write.key_list.tree))
    elif kind == "Phrase":
        window.pages.go_to("Write")
        assert getattr(window.pages.write.panel, name).isVisible()
    elif kind == "Lists":
        page = _plan_tab(window, "Counts")
        at = page.what.findData(name)
        assert at > 0 and page.what.itemText(at) == BY_NAME[name].title
        page.what.setCurrentIndex(at)
        assert page.places.count() > 0
    elif kind == "Counted":
        page = _plan_tab(window, "Counts")
        page.what.setCurrentIndex(0)
        labels = [row.label for group in counts(window.plan) for row in group.rows]
        assert name in labels and page.list.isVisible()
    elif kind == "Choices":
        window.pages.go_to("Plan")
        window.plan_place.panel.more.setChecked(True)
        box = getattr(window.plan_place.panel, name)
        assert isinstance(box, QComboBox) and box.isVisible() and box.count() > 1
    elif kind == "Hands":
        window.pages.go_to("Hands")
        row = window.pages.hands.numbers.get(name) or window.pages.hands.habits[name]
        window.pages.hands.tabs.setCurrentIndex(
            next(n for n in (0, 1) if window.pages.hands.tabs.widget(n).isAncestorOf(_box(row)))
        )
        assert _box(row).isVisible()
    elif kind == "Weigh":
        window.pages.go_to("Weigh")
        weigh = window.pages.weigh
        if hasattr(weigh, name):
            assert getattr(weigh, name).isVisible()
        else:
            pages = [weigh.tabs.tabText(n) for n in range(weigh.tabs.count())]
            table = weigh.ways.table
            weigh.ways.arrange("table")
            labels = [table.verticalHeaderItem(n).text() for n in range(table.rowCount())]
            asked = [weigh.questions.list.item(n).text() for n in range(weigh.questions.list.count())]
            assert name in (*pages, *labels, *(m.label for m in MEASURES)) or any(t.startswith(name) for t in asked)
    elif kind == "Menu":
        assert any(a.text().startswith(name) for a in window.actions())
    elif kind == "Tab":
        assert _plan_tab(window, name).isVisible()
    else:
        _page(window, name)


def _box(row):
    return next(w for w in vars(row).values() if hasattr(w, "isVisible") and w.parent() is not None)


def _page(window, name: str) -> None:
    if name == "Questions":
        window.pages.go_to("Weigh")
        window.pages.weigh.tabs.setCurrentWidget(window.pages.weigh.questions)
        assert window.pages.weigh.questions.list.count() >= 6
    elif name == "Disagreements":
        window.pages.go_to("Hands")
        window.pages.hands.tabs.setCurrentWidget(window.pages.hands.sides)
        assert "(yours)" in window.pages.hands.sides.toPlainText()
    elif name == "Large":
        window.pages.toggle_stand()
        assert window.pages.place == "Stand"
        window.pages.toggle_stand()
    else:
        window.pages.go_to(name)
        assert window.pages.place == name


def _plan_tab(window, name: str):
    window.pages.go_to("Plan")
    tabs: QTabWidget = window.plan_place.tabs
    at = next(n for n in range(tabs.count()) if tabs.tabText(n).startswith(name))
    tabs.setCurrentIndex(at)
    return tabs.widget(at)


def _texts(tree) -> list[str]:
    tops = [tree.topLevelItem(n) for n in range(tree.topLevelItemCount())]
    return [top.child(n).text(0) for top in tops for n in range(top.childCount())]


def test_every_place_named_is_there(qtbot, demo_window):
    assert len(LINES) >= FEWEST and all(len(cells) == 4 for cells in LINES)
    missing = []
    for what, place, _, _ in LINES:
        try:
            opened(demo_window, qtbot, place)
        except (AssertionError, KeyError, AttributeError, StopIteration) as error:
            missing.append(f"{what}: {place} ({type(error).__name__} {error})"[:200])
    assert not missing


@pytest.mark.parametrize(
    ("command", "answer"),
    sorted({(command, answer) for _, _, command, answer in LINES if command}),
    ids=lambda text: text[:60],
)
def test_every_command_named_answers(command, answer, tmp_path, capsys):
    match = re.fullmatch(r"`dromic (.*)`", command)
    assert match is not None
    words = [str(DEMO) if w == "SONGS" else w.replace("MADE", str(tmp_path / "made")) for w in shlex.split(match[1])]
    assert main(words) == 0
    said = capsys.readouterr().out
    assert answer in said if answer else (said.strip() or (tmp_path / "made.line").exists())
