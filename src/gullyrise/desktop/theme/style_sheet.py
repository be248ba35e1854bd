"""The style sheet."""

from __future__ import annotations

from types import SimpleNamespace

from PyQt6.QtGui import QPalette
from PyQt6.QtWidgets import QApplication

from gullyrise.desktop.theme.icons import FOLDER
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import HEAD, SMALL, type_of

_Role = QPalette.ColorRole
FAILED = "colour of what fails"
_ROLES = {
    "panel": (_Role.Light, _Role.Window, _Role.Button),
    "field": (_Role.AlternateBase, _Role.Base, _Role.ToolTipBase),
    "ink": (_Role.BrightText, _Role.WindowText, _Role.Text, _Role.ButtonText, _Role.ToolTipText),
    "quiet": (_Role.Shadow, _Role.PlaceholderText),
    "line": (_Role.Mid,),
    "ground": (_Role.Midlight,),
    "ground_far": (_Role.Dark,),
    "accent": (_Role.Link, _Role.Highlight),
    "on_accent": (_Role.LinkVisited, _Role.HighlightedText),
}
"""Roles of Qt's palette that take a colour of ours; the first is what the style sheet names, and sets on no widget itself."""
_WORDS = {
    "panel": "light", "field": "alternate-base", "ink": "bright-text", "quiet": "shadow", "line": "mid", "ground": "midlight",
    "ground_far": "dark", "accent": "link", "on_accent": "link-visited",
}  # fmt: skip
"""Those first roles as style sheets write them."""


def dress(application: QApplication, palette: Palette) -> None:
    """Puts the theme on the whole application."""
    colours = QPalette()
    for use, roles in _ROLES.items():
        for role in roles:
            colours.setColor(role, palette.colour(use))
    application.setPalette(colours)
    # A style sheet has no role left for it.
    application.setProperty(FAILED, palette.failed)
    if not application.styleSheet():
        application.setFont(type_of())
        application.setStyleSheet(style_sheet())
        return
    # Another sheet would have every rule asked of every widget again, for a fifth of a second. The rules stay, and only take
    # their colours anew.
    for widget in application.allWidgets():
        style = widget.style()
        if style is not None:
            style.polish(widget)
        widget.update()


def style_sheet() -> str:
    """Spacing on a grid of 4 px; focus is always seen. Colours are those of the palette, by their roles."""
    p = SimpleNamespace(**{use: f"palette({word})" for use, word in _WORDS.items()})
    i = SimpleNamespace(**{name: f'url("{(FOLDER / name).as_posix()}.svg")' for name in ("tick", "down", "up", "right")})
    return f"""
    QMainWindow, QWidget#centre {{ background: {p.panel}; }}
    QWidget[panel="true"] {{ background: {p.panel}; }}
    QFrame[rule="true"] {{ background: {p.line}; border: none; }}
    QLabel[role="head"] {{ font-size: {SMALL}px; font-weight: 600; color: {p.quiet}; letter-spacing: 1px; }}
    QLabel[role="quiet"] {{ color: {p.quiet}; font-size: {SMALL}px; }}
    QLabel[role="strong"] {{ font-weight: 600; }}
    QLabel[role="title"] {{ font-size: {HEAD}px; font-weight: 600; }}
    QPushButton, QToolButton {{ background: {p.panel}; border: 1px solid {p.line}; border-radius: 4px; padding: 4px 12px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {p.accent}; }}
    QPushButton:checked, QToolButton:checked {{ background: {p.accent}; color: {p.on_accent}; border-color: {p.accent}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {p.accent}; padding: 3px 11px; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {p.quiet}; }}
    QPushButton[flat="true"] {{ border-color: transparent; padding: 4px 8px; text-align: left; }}
    QPushButton[flat="true"]:hover {{ background: {p.ground}; }}
    QPushButton[finding="true"] {{ border: 1px solid transparent; border-radius: 4px; padding: 2px 4px; text-align: left;
      background: transparent; min-height: 42px; }}
    QPushButton[finding="true"]:hover {{ background: {p.ground}; }}
    QPushButton[finding="true"]:checked {{ background: {p.ground}; color: {p.ink}; border-color: {p.accent}; }}
    QPushButton[finding="true"]:focus {{ border: 2px solid {p.accent}; padding: 1px 3px; }}
    QPushButton[small="true"], QToolButton[small="true"] {{ padding: 2px 6px; font-size: {SMALL}px; min-width: 0; }}
    QPushButton[small="true"]:focus, QToolButton[small="true"]:focus {{ padding: 1px 5px; }}
    QPushButton[family="true"] {{ border: 1px solid transparent; padding: 5px 7px; }}
    QPushButton[family="true"]:hover {{ background: {p.ground}; }}
    QPushButton[family="true"]:checked {{ background: {p.ground_far}; color: {p.ink}; border-color: transparent; }}
    QPushButton[family="true"]:focus {{ border: 2px solid {p.accent}; padding: 4px 6px; }}
    QPushButton[job="true"] {{ font-size: {HEAD}px; font-weight: 600; padding: 4px 6px; }}
    QPushButton[job="true"]:focus {{ padding: 3px 5px; }}
    QToolButton[bare="true"] {{ border-color: transparent; padding: 4px; background: transparent; }}
    QToolButton[bare="true"]:hover {{ background: {p.ground}; }}
    QToolButton[bare="true"]:focus {{ padding: 3px; }}
    QFileDialog QToolButton {{ padding: 3px; }}
    QFileDialog QToolButton:focus {{ padding: 2px; }}
    QListView#card_rows {{ background: {p.panel}; border: none; outline: none; }}
    QLineEdit#card_search {{ margin: 4px 8px; }}
    QPushButton[small="true"]::menu-indicator {{ width: 0; image: none; }}
    QWidget[floating="true"] {{ background: {p.panel}; border: 1px solid {p.line}; border-radius: 6px; }}
    QWidget[floating="true"] QLabel, QWidget[floating="true"] QSlider {{ border: none; }}
    QWidget[floating="true"] QToolButton {{ border-color: transparent; }}
    QWidget[floating="true"] QToolButton:hover, QWidget[floating="true"] QToolButton:focus {{ border-color: {p.accent}; }}
    QLabel[role="upright"] {{ background: {p.line}; }}
    QDialog {{ background: {p.panel}; }}
    QMenu {{ background: {p.field}; border: 1px solid {p.line}; padding: 4px; }}
    QMenu::item {{ padding: 4px 20px; border-radius: 3px; }}
    QMenu::item:selected {{ background: {p.ground_far}; }}
    QMenu::item:disabled {{ color: {p.quiet}; }}
    QMenu::separator {{ height: 1px; background: {p.line}; margin: 4px 8px; }}
    QMenu::indicator {{ width: 14px; height: 14px; left: 4px; }}
    QMenu::indicator:checked {{ image: {i.tick}; }}
    QListWidget {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px; outline: none; }}
    QListWidget::item {{ padding: 4px 8px; color: {p.ink}; }}
    QListWidget::item:selected {{ background: {p.line}; color: {p.ink}; }}
    QListWidget::item:hover {{ background: {p.ground}; }}
    QSlider::groove:horizontal {{ height: 4px; background: {p.line}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ width: 12px; margin: -5px 0; background: {p.accent}; border-radius: 6px; }}
    QSlider:focus {{ border: 1px solid {p.accent}; border-radius: 4px; }}
    QWidget[floating="true"] QSlider:focus {{ border: 1px solid {p.accent}; }}
    QCheckBox, QRadioButton {{ spacing: 6px; padding: 2px; border: 1px solid transparent; border-radius: 4px; }}
    QCheckBox:focus, QRadioButton:focus {{ border-color: {p.accent}; }}
    QCheckBox::indicator, QRadioButton::indicator {{ width: 14px; height: 14px; border: 1px solid {p.quiet}; border-radius: 3px;
      background: {p.field}; }}
    QRadioButton::indicator {{ border-radius: 8px; }}
    QCheckBox::indicator:hover, QRadioButton::indicator:hover {{ border-color: {p.accent}; }}
    QCheckBox::indicator:checked, QTreeView::indicator:checked, QListView::indicator:checked {{ image: {i.tick};
      border-color: {p.accent}; }}
    QRadioButton::indicator:checked {{ border: 5px solid {p.accent}; width: 6px; height: 6px; }}
    QCheckBox::indicator:disabled, QRadioButton::indicator:disabled {{ border-color: {p.line}; }}
    QComboBox {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px; padding: 3px 22px 3px 8px; }}
    QComboBox:hover {{ border-color: {p.accent}; }}
    QComboBox:focus {{ border: 2px solid {p.accent}; padding: 2px 21px 2px 7px; }}
    QComboBox:disabled {{ color: {p.quiet}; }}
    QComboBox::drop-down {{ subcontrol-origin: border; subcontrol-position: center right; width: 20px; border: none; }}
    QComboBox::down-arrow {{ image: {i.down}; width: 14px; height: 14px; }}
    QSpinBox::up-button, QDoubleSpinBox::up-button {{ subcontrol-origin: border; subcontrol-position: top right; width: 16px;
      border: none; background: transparent; }}
    QSpinBox::down-button, QDoubleSpinBox::down-button {{ subcontrol-origin: border; subcontrol-position: bottom right;
      width: 16px; border: none; background: transparent; }}
    QSpinBox::up-arrow, QDoubleSpinBox::up-arrow {{ image: {i.up}; width: 10px; height: 10px; }}
    QSpinBox::down-arrow, QDoubleSpinBox::down-arrow {{ image: {i.down}; width: 10px; height: 10px; }}
    QTabWidget::pane {{ border: 1px solid {p.line}; border-radius: 4px; background: {p.panel}; top: -1px; }}
    QTabBar::tab {{ background: transparent; color: {p.quiet}; padding: 6px 14px; border: none;
      border-bottom: 2px solid transparent; }}
    QTabBar::tab:hover {{ color: {p.ink}; }}
    QTabBar::tab:selected {{ color: {p.ink}; border-bottom: 2px solid {p.accent}; }}
    QTabBar::tab:focus {{ border: 1px solid {p.accent}; border-bottom: 2px solid {p.accent}; }}
    QTextEdit, QPlainTextEdit {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px; padding: 3px;
      selection-background-color: {p.accent}; selection-color: {p.on_accent}; }}
    QTextEdit:focus, QPlainTextEdit:focus {{ border: 2px solid {p.accent}; padding: 2px; }}
    QLineEdit, QDoubleSpinBox, QSpinBox {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px;
      padding: 3px 6px; selection-background-color: {p.accent}; selection-color: {p.on_accent}; }}
    QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus {{ border: 2px solid {p.accent}; padding: 2px 5px; }}
    QDoubleSpinBox[limit="true"], QLineEdit[three="true"] {{ padding: 3px 2px; }}
    QDoubleSpinBox[limit="true"]:focus, QLineEdit[three="true"]:focus {{ padding: 2px 1px; }}
    QDoubleSpinBox[small="true"] {{ padding: 1px 4px; font-size: {SMALL}px; min-width: 0; }}
    QDoubleSpinBox[small="true"]:focus {{ padding: 0 3px; }}
    QComboBox QAbstractItemView {{ background: {p.field}; color: {p.ink}; border: 1px solid {p.line}; }}
    QTreeView, QTableView {{ background: {p.panel}; border: none; outline: none; }}
    QTreeView::item, QTableView::item {{ padding: 4px 2px; border: none; }}
    QTreeView::item:hover {{ background: {p.ground}; }}
    QTreeView::item:selected, QTableView::item:selected {{ background: {p.line}; color: {p.ink}; }}
    QTreeView::branch {{ background: transparent; }}
    QTreeView::branch:selected {{ background: {p.line}; }}
    QTreeView::branch:has-children:closed {{ image: {i.right}; }}
    QTreeView::branch:has-children:open {{ image: {i.down}; }}
    QTreeView:focus, QTableView:focus, QListWidget:focus {{ border: 1px solid {p.accent}; }}
    QTableView {{ gridline-color: {p.line}; }}
    QTableCornerButton::section {{ background: {p.panel}; border: none; }}
    QHeaderView {{ background: {p.panel}; border: none; }}
    QHeaderView::up-arrow {{ image: {i.up}; width: 10px; height: 10px; }}
    QHeaderView::down-arrow {{ image: {i.down}; width: 10px; height: 10px; }}
    QHeaderView::section {{ background: {p.panel}; color: {p.quiet}; border: none; border-bottom: 1px solid {p.line};
      padding: 4px 4px; font-size: {SMALL}px; }}
    QScrollArea {{ border: none; background: {p.panel}; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {p.line}; border-radius: 4px; min-height: 24px; margin: 1px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {p.line}; border-radius: 4px; min-width: 24px; margin: 1px; }}
    QScrollBar::handle:hover {{ background: {p.quiet}; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QSplitter::handle {{ background: {p.line}; }}
    QToolTip {{ background: {p.field}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
    QProgressBar {{ background: {p.ground}; border: 1px solid {p.line}; border-radius: 3px; height: 8px; }}
    QProgressBar::chunk {{ background: {p.accent}; border-radius: 2px; }}
    """
