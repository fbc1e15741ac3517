"""What the window can be told by key or menu, as one table, and the songbook's menu."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidget

from dromic import presets
from dromic.app.frame.pages import SOUND_OF_THEIR_OWN
from dromic.app.window.shell import Shell
from dromic.core.setup.choices import Choices
from dromic.core.values.errors import DromicError

_KEY = QKeySequence.StandardKey
Act = Callable[[Shell], object]
Keys = list[str | QKeySequence.StandardKey]


def ask_decision(window: Shell) -> None:
    """Keep the plan chosen on Weigh, once the player has said why."""
    if window.pages.place != "Weigh":
        window.notify("Go to Weigh (F4) first: a plan is chosen there, then kept", False)
    else:
        window.pages.weigh.ask_keep()


def write_out(window: Shell) -> None:
    """The open phrase with its repeats written out, as one of its own."""
    try:
        window.open_book.write_out()
    except DromicError as error:
        window.notify(str(error), False)


def rank_collection(window: Shell) -> None:
    """Rank a folder or a book of tunes by what these hands can play."""
    from dromic.app.collection.ranking_dialog import RankingDialog
    from dromic.collection import Wanted

    request = window.plan.request if window.plan is not None else None
    choices = window.open_book.choices if request is not None else Choices()

    def wanted(target: float | None) -> Wanted:
        player = request.player if request is not None else presets.players()["fluent"]
        return Wanted(Choices(school=choices.school, legato=choices.legato), player, target)

    book = window.open_book
    dialog = RankingDialog(
        wanted, window.plan_place.chart.theme, phrases=book.book.phrases, open_at=book.index, parent=window.plan_place
    )
    dialog.open_asked.connect(window.open_file)
    dialog.page_asked.connect(book.turn_to)
    dialog.phrase_asked.connect(book.add_phrase)
    dialog.open()


def copy_phrase(window: Shell) -> None:
    """A copy of the open phrase; where that was practised, its history is asked about."""
    entry = window.open_book.entry
    window.open_book.copy_phrase()
    window.claims.copied(entry, window.open_book.entry)


# name, keys, what it does, whether it stands in the songbook's menu
_ACTIONS: tuple[tuple[str, Keys, Act, bool] | None, ...] = (
    ("New songbook", ["Ctrl+N"], lambda w: w.new_book(), True),
    ("Open…", [_KEY.Open], lambda w: w.files.ask_open(), True),
    ("Save", [_KEY.Save], lambda w: w.files.save(), True),
    ("Save as…", ["Ctrl+Shift+S"], lambda w: w.files.ask_save(), True),
    ("Reload from disk", [], lambda w: w.files.reload(), True),
    ("Export this phrase…", ["Ctrl+Shift+E"], lambda w: w.papers.export(), True),
    ("Print the sheet…", [_KEY.Print], lambda w: w.papers.print_sheet(), True),
    None,
    ("New phrase", ["Ctrl+Shift+N"], lambda w: w.open_book.add_phrase(), True),
    ("Copy of this phrase", [], copy_phrase, True),
    ("Written out, its repeats with it", [], write_out, True),
    ("Phrase up", [], lambda w: w.open_book.move_phrase(-1), True),
    ("Phrase down", [], lambda w: w.open_book.move_phrase(1), True),
    ("What differs: a phrase, or a part…", [], lambda w: w.ask_differences(), True),
    ("Delete this phrase", [], lambda w: w.open_book.drop_phrase(), True),
    ("Next phrase", ["Ctrl+PgDown"], lambda w: w.turn_page(1), True),
    ("Previous phrase", ["Ctrl+PgUp"], lambda w: w.turn_page(-1), True),
    ("Side by side for these hands…", ["Ctrl+Shift+R"], rank_collection, True),
    None,
    ("The first five minutes, a guide", ["Shift+F1"], lambda w: w.show_guide(), True),
    ("The hints again", [], lambda w: w.hints.begin_again(), True),
    ("What went wrong…", [], lambda w: w.show_what_failed(), True),
    ("Quit", ["Ctrl+Q"], lambda w: w.close(), True),
    ("Undo", [_KEY.Undo], lambda w: w.open_book.undo.undo(), False),
    ("Redo", [_KEY.Redo, "Ctrl+Shift+Z"], lambda w: w.open_book.undo.redo(), False),
    ("Other theme", ["Ctrl+T"], lambda w: w.looks.switch_theme(), False),
    ("Strings the other way up", ["Ctrl+U"], lambda w: w.looks.turn_strings(), True),
    ("Write", ["F2"], lambda w: w.pages.go_to("Write"), False),
    ("Plan", ["F3"], lambda w: w.pages.plan_all(), False),
    ("Weigh", ["F4"], lambda w: w.pages.go_to("Weigh"), False),
    ("Shed", ["Ctrl+5"], lambda w: w.pages.go_to("Shed"), False),
    ("Listen", ["Ctrl+6"], lambda w: w.pages.go_to("Listen"), False),
    ("Keep the plan chosen on Weigh", ["Ctrl+D"], ask_decision, False),
    ("The hands", ["F7"], lambda w: w.pages.go_to("Hands"), False),
    ("Plan the selection alone", ["Shift+F3"], lambda w: w.pages.plan_selection(), False),
    ("Find a key", ["F1"], lambda w: w.pages.find_key(), False),
    # on Shed a session has a sound of its own
    ("Play", ["F5"], lambda w: None if w.pages.place in SOUND_OF_THEIR_OWN else w.transport.toggle(), False),
    ("Zoom in", ["Ctrl++", "Ctrl+="], lambda w: w.pages.zoom(1.25), False),
    ("Zoom out", ["Ctrl+-"], lambda w: w.pages.zoom(0.8), False),
    ("Whole phrase", ["Ctrl+0"], lambda w: w.plan_place.chart.zoom_to_all(), False),
    ("Next finding", ["F8"], lambda w: w.plan_place.next_finding(1), False),
    ("Previous finding", ["Shift+F8"], lambda w: w.plan_place.next_finding(-1), False),
    ("Try the remedy", ["F9"], lambda w: w.plan_place.apply_remedy(), False),
    ("The neck, shown or not", ["Ctrl+K"], lambda w: w.plan_place.toggle_neck(), False),
    ("Large, for the music stand", ["F11"], lambda w: w.pages.toggle_stand(), False),
    ("To the chart", ["F6"], lambda w: w.pages.to_the_chart(), False),
)


def window_actions(shell: Shell, window: QWidget) -> list[QAction | None]:
    """Gives a window its actions; answers those of the songbook's menu, None for a line between."""
    in_book: list[QAction | None] = []
    for entry in _ACTIONS:
        if entry is None:
            in_book.append(None)
            continue
        text, keys, act, listed = entry
        action = QAction(text, window)
        action.setShortcuts(sequences(keys))
        action.triggered.connect(lambda _checked=False, act=act: act(shell))
        window.addAction(action)
        if listed:
            in_book.append(action)
    return in_book


def sequences(keys: Keys) -> list[QKeySequence]:
    """Keys as the platform has them, each once: one that stands twice is taken for two, and then does nothing."""
    return list({made.toString(): made for made in map(QKeySequence, keys)}.values())


def book_menu(shell: Shell, window: QWidget, actions: list[QAction | None]) -> QMenu:
    """The songbook's menu, with the files opened lately."""
    menu = QMenu(window)
    for action in actions:
        if action is None:
            menu.addSeparator()
        else:
            menu.addAction(action)
    recent = menu.addMenu("Open lately")
    assert recent is not None

    def list_recent() -> None:
        recent.clear()
        for path in shell.files.recent:
            recent.addAction(path.name, lambda path=path: shell.open_file(path))

    recent.aboutToShow.connect(list_recent)
    return menu
