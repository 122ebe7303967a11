"""All colours, spaces and type sizes. Warm paper and dark ink by day, the same roles on dark ground by night."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QWidget


@dataclass(frozen=True, slots=True)
class Theme:
    """Colours by role, as #rrggbb."""

    name: str
    paper: str
    sheet: str
    card: str
    rule: str
    ink: str
    faded: str
    original: str
    original_soft: str
    dub: str
    dub_soft: str
    chosen: str
    chosen_edge: str
    calm: str
    firm: str
    hard: str
    calm_soft: str
    firm_soft: str
    hard_soft: str
    playhead: str
    speakers: tuple[str, ...]


DAY: Final = Theme(
    name="day", paper="#f6f1e6", sheet="#fbf8f1", card="#fffefb", rule="#ddd4c2", ink="#23303d", faded="#6b6a66",
    original="#2b587c", original_soft="#dfe7ec", dub="#a8451f", dub_soft="#f4e2d8", chosen="#fdebb0",
    chosen_edge="#8a6a10", calm="#3f7a52", firm="#8f6508", hard="#a62b22", calm_soft="#c9dccb", firm_soft="#ecd9a6",
    hard_soft="#eecac2", playhead="#b3261e",
    speakers=("#2b587c", "#77651d", "#5a3d80", "#20706a", "#93405f", "#4f6b24", "#8a4b1c", "#3b4a9a"),
)  # fmt: skip
NIGHT: Final = Theme(
    name="night", paper="#1c1f24", sheet="#22262c", card="#2a2f37", rule="#3d434d", ink="#ece6d9", faded="#a9a59b",
    original="#8fbbe0", original_soft="#2c3b49", dub="#ea9a76", dub_soft="#463028", chosen="#4d4527",
    chosen_edge="#e3c35a", calm="#8ccb9d", firm="#e0b64f", hard="#f08b80", calm_soft="#2f4a38", firm_soft="#51431d",
    hard_soft="#57302c", playhead="#ff7a70",
    speakers=("#8fbbe0", "#d4bf66", "#bfa2e6", "#78c9c2", "#e79ab8", "#a9c978", "#e0a777", "#9aa8f0"),
)  # fmt: skip

CONTRAST: Final = Theme(
    name="contrast", paper="#ffffff", sheet="#ffffff", card="#ffffff", rule="#595959", ink="#000000", faded="#3b3b3b",
    original="#003a7d", original_soft="#d6e6f7", dub="#8a1500", dub_soft="#f9dcd2", chosen="#ffe45c",
    chosen_edge="#4a3600", calm="#00512b", firm="#5c3d00", hard="#8f0000", calm_soft="#c4e8d0", firm_soft="#ffe0a0",
    hard_soft="#ffc9c2", playhead="#b00000",
    speakers=("#003a7d", "#5c4a00", "#57209b", "#005450", "#8c0f4f", "#2f5200", "#7a3800", "#1f2f9e"),
)  # fmt: skip
"""At least 7 to 1 for what is written, and lines that nobody misses."""
THEMES: Final = {theme.name: theme for theme in (DAY, NIGHT, CONTRAST)}
SPEAKER_COLOURS: Final = len(DAY.speakers)
"""Speakers beyond have the colours of the first again."""
TEXT_PT, SMALL_PT, TITLE_PT = 9.5, 8.0, 12.5
"""Sizes of type where the system's own is 9 points; with a larger one, all grow alike."""
_USUAL_PT: Final = 9.0
_SMALLEST, _LARGEST = 0.8, 2.5

_current: Theme = DAY
_scale = 1.0


def theme() -> Theme:
    """The theme in force."""
    return _current


def colour(role: str, alpha: int = 255) -> QColor:
    """A colour of the current theme by its role. Painting asks a hundred times a frame, so they are kept: no caller
    changes one."""
    return _colour(_current.name, role, alpha)


@lru_cache(maxsize=256)
def _colour(_theme: str, role: str, alpha: int) -> QColor:
    made = QColor(getattr(_current, role))
    made.setAlpha(alpha)
    return made


def speaker_colour(place: int) -> QColor:
    """The colour of the speaker at this place of the cast list."""
    return QColor(_current.speakers[place % len(_current.speakers)])


@lru_cache(maxsize=64)
def font(size: float = TEXT_PT, *, bold: bool = False, italic: bool = False) -> QFont:
    """The desk's type; kept like the colours."""
    made = QFont(QApplication.font())
    made.setPointSizeF(size * _scale)
    made.setBold(bold)
    made.setItalic(italic)
    return made


def tint(widget: QWidget, role: str) -> None:
    """Give a widget's words the colour of a role, or ``speaker0`` and on; they follow when the theme changes."""
    _mark(widget, "tint", role)


def tint_ground(widget: QWidget, place: int) -> None:
    """Fill a widget with the colour of the speaker at a place of the cast list."""
    _mark(widget, "fill", f"speaker{place % SPEAKER_COLOURS}")


def _mark(widget: QWidget, name: str, value: str) -> None:
    if widget.property(name) != value:
        widget.setProperty(name, value)
        style = widget.style()
        assert style is not None
        style.unpolish(widget)
        style.polish(widget)


def px(pixels: float) -> int:
    """A length that holds type, in the pixels it has with the system's size of type.

    >>> px(40)
    40
    """
    return round(pixels * _scale)


def theme_for(app: QApplication, chosen: str) -> Theme:
    """The theme that was chosen by name; by none, the one for what the system asks for."""
    hints = app.styleHints()
    if chosen in THEMES or hints is None:
        return THEMES.get(chosen, DAY)
    wishes = hints.accessibility()
    if wishes is not None and wishes.contrastPreference() == Qt.ContrastPreference.HighContrast:
        return CONTRAST
    return NIGHT if hints.colorScheme() == Qt.ColorScheme.Dark else DAY


def apply_theme(app: QApplication, wanted: Theme) -> None:
    """Put a theme in force for the whole application."""
    global _current, _scale
    _current = wanted
    base = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)
    if "DejaVu Sans" in QFontDatabase.families() and base.family() in ("", "Sans Serif", "Sans"):
        base.setFamily("DejaVu Sans")
    if base.pointSizeF() > 0:
        _scale = min(max(base.pointSizeF() / _USUAL_PT, _SMALLEST), _LARGEST)
    base.setPointSizeF(TEXT_PT * _scale)
    if app.font() != base:  # each of these dresses every widget anew
        app.setFont(base)
        font.cache_clear()
    if app.property("dressed") is None:
        app.setStyle("Fusion")
        app.setProperty("dressed", True)
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, name in (
        (roles.Window, "paper"), (roles.Base, "card"), (roles.AlternateBase, "sheet"), (roles.Button, "sheet"),
        (roles.WindowText, "ink"), (roles.Text, "ink"), (roles.ButtonText, "ink"), (roles.ToolTipBase, "card"),
        (roles.ToolTipText, "ink"), (roles.PlaceholderText, "faded"), (roles.Highlight, "original"),
        (roles.HighlightedText, "card"), (roles.Mid, "rule"), (roles.Dark, "rule"), (roles.Light, "card"),
        (roles.Link, "original"), (roles.LinkVisited, "original"),
    ):  # fmt: skip
        palette.setColor(role, colour(name))
    for role in (roles.WindowText, roles.Text, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, colour("faded"))
    app.setStyleSheet("")  # one sheet in place of another is worked out anew for every widget several times over
    app.setPalette(palette)
    app.setStyleSheet(_style_sheet(wanted))


def _style_sheet(t: Theme) -> str:
    return "".join(part(t) for part in (_buttons, _fields, _lists, _menus, _tints))


def _buttons(t: Theme) -> str:
    """Windows, tool tips and what is pressed."""
    return f"""
    QToolTip {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.rule}; padding: 4px; }}
    QMainWindow, QDialog {{ background: {t.paper}; }}
    QPushButton {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.rule}; border-radius: 5px;
        padding: 5px 11px; }}
    QPushButton:hover {{ border-color: {t.original}; }}
    QPushButton:focus {{ border: 2px solid {t.original}; padding: 4px 10px; }}
    QPushButton:disabled {{ color: {t.faded}; background: {t.paper}; }}
    QPushButton#continue {{ background: {t.original}; color: {t.card}; border: none; padding: 5px 16px;
        min-height: 24px; font-weight: bold; }}
    QPushButton#continue:disabled {{ background: {t.rule}; color: {t.faded}; }}
    QPushButton#continue:focus {{ border: 2px solid {t.chosen_edge}; padding: 3px 14px; }}
    QPushButton#version {{ text-align: left; padding: 5px 10px; min-width: 58px; }}
    QPushButton:checked {{ background: {t.chosen}; border-color: {t.chosen_edge}; }}
    QPushButton#version:checked {{ border: 2px solid {t.dub}; color: {t.dub}; padding: 4px 9px; }}
    QPushButton#take {{ text-align: left; padding: 4px 8px; }}
    QPushButton#take:checked {{ border: 2px solid {t.dub}; background: {t.dub_soft}; }}
    QPushButton#version:focus, QPushButton#take:focus {{ border: 2px solid {t.chosen_edge}; }}
    QPushButton#link {{ background: transparent; border: none; color: {t.original}; text-align: left; padding: 2px; }}
    QPushButton#link:focus {{ border: 1px solid {t.original}; }}
    QToolButton {{ background: transparent; border: none; border-radius: 6px; color: {t.ink}; padding: 4px; }}
    QToolButton[popupMode="2"] {{ padding-right: 16px; }}
    QToolButton::menu-indicator {{ subcontrol-origin: padding; subcontrol-position: right center; right: 2px; }}
    QToolButton:hover {{ background: {t.card}; }}
    QToolButton:checked {{ background: {t.chosen}; }}
    """


def _fields(t: Theme) -> str:
    """What is chosen in, ticked and written in."""
    return f"""
    QComboBox {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.rule}; border-radius: 5px;
        padding: 4px 8px; }}
    QComboBox:focus {{ border: 2px solid {t.original}; padding: 3px 7px; }}
    QComboBox:disabled {{ color: {t.faded}; background: {t.paper}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ border-left: 4px solid {t.card}; border-right: 4px solid {t.card};
        border-top: 5px solid {t.faded}; width: 0; height: 0; }}
    QCheckBox:focus, QRadioButton:focus {{ background: {t.chosen}; }}
    QToolButton:focus {{ border: 2px solid {t.original}; }}
    QPlainTextEdit, QLineEdit {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.rule};
        border-radius: 5px; padding: 3px 5px; }}
    QPlainTextEdit:focus, QLineEdit:focus {{ border: 1px solid {t.original}; }}
    QPlainTextEdit#wordingEdit:focus {{ border: 1px solid {t.dub}; }}
    """


def _lists(t: Theme) -> str:
    """Lists, tables and what is drawn along."""
    return f"""
    QListView, QTableView, QTreeView {{ background: {t.card}; border: 1px solid {t.rule}; border-radius: 5px; }}
    QHeaderView::section {{ background: {t.sheet}; color: {t.faded}; border: none; padding: 5px; }}
    QScrollBar:vertical {{ background: {t.paper}; width: 11px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {t.rule}; border-radius: 5px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QSlider::groove:horizontal {{ height: 4px; background: {t.rule}; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {t.faded}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ background: {t.card}; border: 2px solid {t.faded}; width: 10px; margin: -5px 0;
        border-radius: 7px; }}
    QSlider::handle:horizontal:focus {{ border-color: {t.original}; background: {t.chosen}; }}
    QAbstractItemView:focus {{ border: 1px solid {t.original}; border-radius: 5px; }}
    QProgressBar {{ border: 1px solid {t.rule}; border-radius: 4px; background: {t.card}; height: 10px; }}
    QProgressBar::chunk {{ background: {t.original}; border-radius: 3px; }}
    """


def _menus(t: Theme) -> str:
    """Menus, and labels that are pale."""
    return f"""
    QMenuBar {{ background: {t.paper}; color: {t.ink}; }}
    QMenuBar::item {{ background: transparent; padding: 3px 8px; }}
    QMenuBar::item:selected {{ background: {t.chosen}; }}
    QMenu {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.rule}; }}
    QMenu::item:selected {{ background: {t.chosen}; color: {t.ink}; }}
    QLabel[faded="true"] {{ color: {t.faded}; }}
    """


def _tints(t: Theme) -> str:
    """Roles and speakers, by the property that names them."""
    roles = (
        f'*[tint="{role}"] {{ color: {getattr(t, role)}; }}\n'
        for role in ("ink", "faded", "original", "dub", "calm", "hard", "rule")
    )
    speakers = (
        f'*[tint="speaker{n}"] {{ color: {shade}; }}\n'
        f'*[fill="speaker{n}"] {{ background: {shade}; border-radius: 3px; }}\n'
        for n, shade in enumerate(t.speakers)
    )
    return "".join((*roles, *speakers))
