"""Colours and fonts of the two themes. Few colours, each with one meaning: picking hand, fretting hand, hurt."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from dromic.presets import DATA

FAMILY = "Atkinson Hyperlegible Next"
WEIGHTS = {"normal": 400, "strong": 600, "heavy": 700}
SMALL = 12
"""Type of what marks, px."""
BODY = 14
"""Type of what is read, px."""
HEAD = 18
"""Type of what heads, px."""
BIG = 44
"""Type of what is seen from the music stand, px."""


@dataclass(frozen=True, eq=False)  # there is one of each, and colours are asked for by the thousand
class Theme:
    """Colours as #rrggbb. `paper` lies under the chart, `panel` under controls."""

    name: str
    paper: str
    panel: str
    raised: str
    ink: str
    soft: str
    line: str
    faint_line: str
    pick: str
    fret: str
    band: str
    on_fret: str
    hurt: str
    focus: str

    @cache  # noqa: B019 - there are two themes, and they stay
    def colour(self, name: str, alpha: float = 1.0) -> QColor:
        return QColor(_colour(getattr(self, name), alpha))


@lru_cache(maxsize=512)
def _colour(name: str, alpha: float) -> QColor:
    colour = QColor(name)
    colour.setAlphaF(alpha)
    return colour


LIGHT = Theme(
    name="light", paper="#f7f4ed", panel="#ece7db", raised="#fdfbf6", ink="#1d2125", soft="#5c6268", line="#b9b2a3",
    faint_line="#dcd6c8", pick="#9a4308", fret="#17557f", band="#dbe6ea", on_fret="#ffffff", hurt="#b3002d", focus="#17557f",
)  # fmt: skip
DARK = Theme(
    name="dark", paper="#15181b", panel="#1d2125", raised="#262b30", ink="#f0ece3", soft="#a3a9af", line="#4a5158",
    faint_line="#2c3136", pick="#f2a65e", fret="#86bfec", band="#22313c", on_fret="#10161b", hurt="#ff7a94", focus="#86bfec",
)  # fmt: skip
THEMES = {t.name: t for t in (LIGHT, DARK)}


def load_fonts() -> None:
    """Make the shipped font known to the application."""
    if FAMILY in QFontDatabase.families():
        return
    folder = DATA / "fonts"
    for weight in WEIGHTS.values():
        QFontDatabase.addApplicationFontFromData((folder / f"AtkinsonHyperlegibleNext-{weight}.ttf").read_bytes())


@cache
def font(pixels: float, weight: str = "normal") -> QFont:
    """The shipped font at a size in pixels."""
    return QFont(_font(max(6, round(pixels)), weight))


@lru_cache(maxsize=128)
def _font(pixels: int, weight: str) -> QFont:
    made = QFont(FAMILY)
    made.setPixelSize(pixels)
    made.setWeight(QFont.Weight(WEIGHTS[weight]))
    return made


def relook(widget: QWidget, name: str) -> None:
    """Dress a widget as another of the style's names."""
    if widget.objectName() != name:
        widget.setObjectName(name)
        style = widget.style()
        if style is not None:
            style.unpolish(widget)
            style.polish(widget)


def apply(app: QApplication, theme: Theme) -> None:
    """Dress the whole application, unless it is dressed so."""
    sheet = style_of(theme)
    if app.styleSheet() == sheet:
        return
    if app.styleSheet():
        # dressing undressed widgets takes a fifth of dressing them over: 97 ms for 475 with every page made; and a style sheet hides
        # the style beneath it
        app.setStyleSheet("")
    # only what is not so yet, for each of these dresses every widget again; some platforms begin with this style
    style, wanted = app.style(), font(BODY)
    if style is None or style.name() != "fusion":
        app.setStyle("Fusion")
    if app.font() != wanted:
        app.setFont(wanted)
    palette = QPalette()
    role = QPalette.ColorRole
    for target, name in (
        (role.Window, "panel"), (role.Base, "raised"), (role.AlternateBase, "panel"), (role.Button, "raised"),
        (role.WindowText, "ink"), (role.Text, "ink"), (role.ButtonText, "ink"), (role.ToolTipBase, "raised"),
        (role.ToolTipText, "ink"), (role.Highlight, "focus"), (role.HighlightedText, "on_fret"), (role.Mid, "line"),
        (role.Link, "fret"), (role.PlaceholderText, "soft"),
    ):  # fmt: skip
        palette.setColor(target, theme.colour(name))
    for target in (role.WindowText, role.Text, role.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, target, theme.colour("soft", 0.75))
    app.setPalette(palette)
    app.setStyleSheet(sheet)


RADIUS = 4
"""Corners of every control, px."""
HIGH = 28
"""Least height of a control, px."""
TIGHT = 24
"""Least height of a row in a menu, px."""
STEP = 24
"""Width of a step of a number box, px."""


def style_of(theme: Theme) -> str:
    """The style sheet: controls of one flat family, on a grid of 4 px, in four sizes of type."""
    arrows = (DATA / "icons").as_posix()
    return f"""
        QToolTip {{ color: {theme.ink}; background: {theme.raised}; border: 1px solid {theme.line}; padding: 4px; }}
        QMainWindow, QWidget#side {{ background: {theme.panel}; }}
        QPushButton, QComboBox, QAbstractSpinBox, QLineEdit {{ border: 1px solid {theme.line}; border-radius: {RADIUS}px;
            background: {theme.raised}; color: {theme.ink}; min-height: {HIGH - 2}px; padding: 0 8px; }}
        QPushButton, QComboBox, QCheckBox, QTabBar, QListView, QTreeView {{ outline: none; }}  /* the ring shows the focus */
        QPushButton {{ padding: 0 12px; }}
        QPushButton:hover, QComboBox:hover {{ border-color: {theme.soft}; }}
        QPushButton:pressed, QPushButton:checked {{ background: {theme.band}; border-color: {theme.focus}; }}
        QPushButton:disabled, QComboBox:disabled, QAbstractSpinBox:disabled, QLineEdit:disabled
            {{ color: {theme.soft}; background: {theme.panel}; }}
        QPushButton::menu-indicator {{ subcontrol-position: right center; subcontrol-origin: padding; left: -8px; }}
        QComboBox::drop-down {{ border: none; width: 24px; }}
        QComboBox::down-arrow, QAbstractSpinBox::down-arrow, QPushButton::menu-indicator {{ image: url({arrows}/down-{theme.name}.png);
            width: 10px; height: 6px; }}
        QAbstractSpinBox::up-arrow {{ image: url({arrows}/up-{theme.name}.png); width: 10px; height: 6px; }}
        QAbstractSpinBox {{ max-height: {HIGH - 2}px; padding-right: 0; }}
        QAbstractSpinBox QLineEdit {{ border: none; min-height: 0; padding: 0; background: transparent; }}
        QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ border: none; background: transparent; width: {STEP}px;
            height: {HIGH - 2}px; subcontrol-origin: border; subcontrol-position: center right; }}
        QAbstractSpinBox::down-button {{ right: {STEP}px; }}
        QAbstractSpinBox::up-button:hover, QAbstractSpinBox::down-button:hover {{ background: {theme.band}; }}
        QPushButton#menu {{ padding: 0 28px 0 12px; }}
        QPushButton#place {{ border: none; border-bottom: 3px solid transparent; border-radius: 0; padding: 4px 14px;
            background: transparent; font-weight: 600; font-size: {HEAD}px; }}
        QPushButton#place:checked {{ border-bottom-color: {theme.focus}; }}
        QPushButton#place:disabled {{ font-weight: 400; }}
        QPushButton#fold {{ border: none; background: transparent; text-align: left; padding: 0 4px; color: {theme.ink}; }}
        QPushButton#begin {{ text-align: left; min-height: {HIGH + 6}px; }}
        QPushButton#quiet, QAbstractSpinBox#quiet {{ border-color: transparent; background: transparent; }}
        QCheckBox#quiet, QAbstractSpinBox#quiet {{ color: {theme.soft}; }}
        QCheckBox, QRadioButton {{ min-height: {HIGH}px; spacing: 8px; }}
        QTabWidget::pane {{ border: none; border-top: 1px solid {theme.line}; }}
        QTabBar {{ qproperty-drawBase: 0; }}
        QTabBar::tab {{ border: none; border-bottom: 3px solid transparent; background: transparent; color: {theme.soft};
            min-height: {HIGH - 3}px; padding: 0 12px; }}
        QTabBar::tab:selected {{ color: {theme.ink}; border-bottom-color: {theme.focus}; }}
        QListView, QTableView, QTreeView {{ border: 1px solid {theme.line}; border-radius: {RADIUS}px; background: {theme.raised}; }}
        QTreeView::item, QListView::item {{ min-height: {HIGH}px; }}
        QHeaderView::section {{ border: none; border-bottom: 1px solid {theme.line}; background: {theme.panel}; padding: 4px; }}
        QScrollBar {{ background: transparent; margin: 0; }}
        QScrollBar:vertical {{ width: 16px; }}
        QScrollBar:horizontal {{ height: 16px; }}
        QScrollBar::handle {{ background: {theme.line}; border-radius: {RADIUS}px; margin: 4px; }}
        QScrollBar::handle:vertical {{ min-height: {HIGH}px; }}
        QScrollBar::handle:horizontal {{ min-width: {HIGH}px; }}
        QScrollBar::handle:hover {{ background: {theme.soft}; }}
        QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
        QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
        QTableCornerButton::section {{ border: none; background: {theme.panel}; }}
        QMenu {{ border: 1px solid {theme.line}; background: {theme.raised}; padding: 4px; }}
        QMenu::item {{ padding: 4px 24px; border-radius: {RADIUS}px; min-height: {TIGHT}px; }}
        QMenu::item:selected {{ background: {theme.band}; color: {theme.ink}; }}
        QFrame#card {{ border: 1px solid {theme.line}; border-radius: {RADIUS}px; background: {theme.raised}; }}
        QFocusFrame {{ border: 2px solid {theme.focus}; border-radius: {RADIUS}px; }}
        QLabel#big {{ font-size: {BIG}px; font-weight: 700; }}
        QLabel#said {{ font-size: {HEAD}px; }}
        QLabel#stand {{ font-size: {2 * BODY}px; font-weight: 600; }}
        QLabel#huge {{ font-size: {2 * BIG}px; font-weight: 700; padding-right: 24px; }}
        QLabel#answer {{ font-size: {BODY}px; background: {theme.raised}; }}
        QLabel#pick, QLabel#fret, QLabel#ink {{ font-size: {BODY}px; font-weight: 600; }}
        QLabel#pick {{ color: {theme.pick}; }}
        QLabel#fret {{ color: {theme.fret}; }}
        QLabel#soft {{ color: {theme.soft}; }}
        QLabel#hurt {{ color: {theme.hurt}; font-weight: 600; }}
        QLabel#section {{ font-weight: 600; }}
        """
