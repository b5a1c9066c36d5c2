"""The look: paper and ink by day, the same family by night."""

import pathlib
from dataclasses import dataclass

from PyQt6.QtGui import QColor, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication

import hulmo.assets

ASSETS = pathlib.Path(hulmo.assets.__file__).parent

TEXT_FONT = "Cabin"
HEAD_FONT = "Vollkorn"


@dataclass(frozen=True)
class Theme:
    """Colours of one theme (#rrggbb), and the page behind looks without sky (sRGB 0 to 1)."""

    name: str
    panel: str
    page: str
    ink: str
    quiet: str
    line: str
    accent: str
    on_accent: str
    wash: str
    warn: str
    paper_high: tuple[float, float, float]
    paper_low: tuple[float, float, float]


DAY = Theme(
    "day", "#f2ede1", "#fbf8f0", "#25302f", "#6b6759", "#d8d1bf", "#1f5f66", "#fbf8f0", "#dbe5df", "#8a4b12",
    (0.90, 0.885, 0.845), (0.79, 0.785, 0.75),
)  # fmt: skip
NIGHT = Theme(
    "night", "#23292a", "#1b2021", "#e6e0d0", "#979a8d", "#3a4242", "#79b6b4", "#14201f", "#2e3d3d", "#e0a25c",
    (0.20, 0.215, 0.215), (0.135, 0.145, 0.145),
)  # fmt: skip

_STYLE = """
* {{ font-family: "{text}"; font-size: 13px; color: {ink}; outline: none; }}
QMainWindow, QWidget#panel, QDialog, QMessageBox, QFileDialog {{ background: {panel}; }}
QWidget#heading {{ background: {panel}; border-bottom: 1px solid {line}; }}
QWidget#reading {{ background: {panel}; border-top: 1px solid {line}; }}
QWidget#reading QLabel {{ color: {quiet}; }}
QWidget#reading QLabel#under {{ color: {ink}; }}
QWidget#route {{ background: {panel}; border-right: 1px solid {line}; }}
QScrollArea#cards, QScrollArea#cards > QWidget > QWidget {{ background: {panel}; border: none; }}
QScrollArea#routescroll {{ border: none; background: {panel}; }}
QScrollArea#cards {{ border-left: 1px solid {line}; }}
QLabel#title {{ font-family: "{head}"; font-size: 17px; }}
QLabel#cardtitle {{ font-family: "{head}"; font-size: 15px; }}
QLabel#quiet {{ color: {quiet}; font-size: 12px; }}
QLabel#caption {{ color: {quiet}; font-size: 11px; padding: 1px 0 0 6px; max-height: 14px; }}
QFrame#finder {{ background: {page}; border: 1px solid {accent}; border-radius: 8px; }}
QFrame#finder QListWidget {{ border: none; background: {page}; }}
QLabel#wrong {{ color: {warn}; font-size: 12px; }}
QLabel#number {{ font-size: 13px; }}
QFrame#card {{ background: {page}; border: 1px solid {line}; border-radius: 6px; }}
QFrame#rule {{ background: {line}; border: none; max-height: 1px; min-height: 1px; }}
QToolButton, QPushButton {{ background: transparent; border: 1px solid transparent; border-radius: 5px;
  padding: 4px 8px; }}
QToolButton#tool {{ padding: 1px 8px; }}
QToolButton#beside {{ padding: 1px 3px; }}
QPushButton {{ border-color: {line}; background: {page}; padding: 6px 12px; }}
QToolButton:hover, QPushButton:hover {{ background: {wash}; }}
QToolButton:focus, QPushButton:focus {{ border-color: {accent}; }}
QToolButton:disabled, QPushButton:disabled {{ color: {quiet}; }}
QToolButton:checked {{ background: {wash}; color: {accent}; border-color: {wash}; }}
QToolButton:checked:focus {{ border-color: {accent}; }}
QWidget#heading[compact="true"] QToolButton {{ padding: 4px 3px; }}
QToolButton::menu-indicator {{ image: none; }}
QToolButton::menu-button {{ border: none; width: 14px; }}
QPushButton#main {{ background: {accent}; color: {on_accent}; border-color: {accent}; font-weight: 600; }}
QPushButton#main:focus {{ border: 2px solid {ink}; }}
QPushButton#main:hover {{ background: {ink}; color: {page}; }}
QPushButton#main:disabled {{ background: {line}; color: {quiet}; border-color: {line}; }}
QPushButton#stage {{ font-family: "{head}"; font-size: 15px; text-align: left; padding: 0px 12px; border-radius: 0;
  background: transparent; border: 1px solid transparent; }}
QPushButton#stage:hover {{ background: {wash}; }}
QPushButton#stage:checked {{ color: {accent}; border-left: 3px solid {accent}; padding-left: 10px; }}
QPushButton#stage:focus {{ border-color: {accent}; }}
QLineEdit, QComboBox {{ background: {page}; border: 1px solid {line}; border-radius: 4px; padding: 3px 6px;
  selection-background-color: {accent}; selection-color: {on_accent}; }}
QLineEdit:focus, QComboBox:focus {{ border-color: {accent}; }}
QLineEdit#value {{ border-color: transparent; background: transparent; padding: 1px 3px; font-weight: 600; }}
QLineEdit#value:hover {{ border-color: {line}; }}
QLineEdit#value:focus {{ border-color: {accent}; background: {page}; }}
QComboBox QAbstractItemView {{ background: {page}; border: 1px solid {line}; selection-background-color: {wash};
  selection-color: {ink}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url({assets}/icons/down.svg); width: 11px; height: 11px; }}
QListView, QTreeView {{ background: {page}; border: 1px solid {line}; border-radius: 4px;
  selection-background-color: {wash}; selection-color: {ink}; }}
QHeaderView::section {{ background: {panel}; border: none; border-bottom: 1px solid {line}; padding: 4px; }}
QMenu {{ background: {page}; border: 1px solid {line}; padding: 4px; }}
QMenu::item {{ padding: 5px 22px 5px 12px; border-radius: 4px; }}
QMenu::item:selected {{ background: {wash}; }}
QToolTip {{ background: {page}; color: {ink}; border: 1px solid {line}; padding: 4px 6px; }}
QListView:focus, QTreeView:focus {{ border-color: {accent}; }}
QCheckBox {{ spacing: 7px; border: 1px solid transparent; border-radius: 3px; padding: 1px; }}
QCheckBox:focus {{ border-color: {accent}; }}
QScrollBar:vertical {{ background: transparent; width: 9px; }}
QScrollBar::handle:vertical {{ background: {line}; border-radius: 4px; min-height: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
QProgressBar {{ background: {page}; border: 1px solid {line}; border-radius: 4px; max-height: 12px; }}
QProgressBar::chunk {{ background: {accent}; border-radius: 3px; }}
QFrame#notice {{ background: {page}; border: 1px solid {warn}; border-left: 5px solid {warn}; border-radius: 5px; }}
QWidget#swatch:focus {{ border: 1px solid {accent}; }}
"""


def load_fonts() -> None:
    """Make the shipped fonts known to the application."""
    for file in sorted((ASSETS / "fonts").glob("*.[ot]tf")):
        QFontDatabase.addApplicationFont(str(file))


def apply(application: QApplication, theme: Theme) -> None:
    """Give the whole application a theme."""
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, theme.panel),
        (QPalette.ColorRole.Base, theme.page),
        (QPalette.ColorRole.AlternateBase, theme.panel),
        (QPalette.ColorRole.Button, theme.page),
        (QPalette.ColorRole.WindowText, theme.ink),
        (QPalette.ColorRole.Text, theme.ink),
        (QPalette.ColorRole.ButtonText, theme.ink),
        (QPalette.ColorRole.Highlight, theme.accent),
        (QPalette.ColorRole.HighlightedText, theme.on_accent),
        (QPalette.ColorRole.ToolTipBase, theme.page),
        (QPalette.ColorRole.ToolTipText, theme.ink),
        (QPalette.ColorRole.PlaceholderText, theme.quiet),
    ):
        palette.setColor(role, QColor(colour))
    application.setPalette(palette)
    values = {key: value for key, value in theme.__dict__.items() if isinstance(value, str)}
    sheet = _STYLE.format(text=TEXT_FONT, head=HEAD_FONT, assets=ASSETS.as_posix(), **values)
    if application.styleSheet() != sheet:  # it is worked out for every widget anew
        application.setStyleSheet(sheet)
