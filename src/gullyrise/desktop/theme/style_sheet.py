"""The style sheet."""

from __future__ import annotations

from types import SimpleNamespace

from PyQt6.QtGui import QPalette
from PyQt6.QtWidgets import QApplication

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
    return f"""
    QMainWindow, QWidget#centre {{ background: {p.panel}; }}
    QWidget[panel="true"] {{ background: {p.panel}; }}
    QFrame[rule="true"] {{ background: {p.line}; border: none; }}
    QLabel[role="head"] {{ font-size: {SMALL}px; font-weight: 600; color: {p.quiet}; letter-spacing: 1px; }}
    QLabel[role="quiet"] {{ color: {p.quiet}; font-size: {SMALL}px; }}
    QLabel[role="title"] {{ font-size: {HEAD}px; font-weight: 600; }}
    QPushButton, QToolButton {{ background: {p.panel}; border: 1px solid {p.line}; border-radius: 4px; padding: 4px 12px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {p.accent}; }}
    QPushButton:checked, QToolButton:checked {{ background: {p.accent}; color: {p.on_accent}; border-color: {p.accent}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {p.accent}; padding: 3px 11px; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {p.quiet}; }}
    QPushButton[flat="true"] {{ border-color: transparent; padding: 4px 8px; text-align: left; }}
    QPushButton[flat="true"]:hover {{ background: {p.ground}; }}
    QPushButton[small="true"], QToolButton[small="true"] {{ padding: 2px 6px; font-size: {SMALL}px; min-width: 0; }}
    QPushButton[small="true"]:focus, QToolButton[small="true"]:focus {{ padding: 1px 5px; }}
    QPushButton[small="true"]::menu-indicator {{ width: 0; image: none; }}
    QWidget[floating="true"] {{ background: {p.panel}; border: 1px solid {p.line}; border-radius: 6px; }}
    QWidget[floating="true"] QLabel, QWidget[floating="true"] QSlider {{ border: none; }}
    QWidget[floating="true"] QToolButton {{ border-color: transparent; }}
    QWidget[floating="true"] QToolButton:hover, QWidget[floating="true"] QToolButton:focus {{ border-color: {p.accent}; }}
    QLabel[role="upright"] {{ background: {p.line}; }}
    QDialog {{ background: {p.panel}; }}
    QMenu {{ background: {p.field}; border: 1px solid {p.line}; padding: 4px; }}
    QMenu::item {{ padding: 4px 20px; }}
    QMenu::item:selected {{ background: {p.ground_far}; }}
    QListWidget {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px; outline: none; }}
    QListWidget::item {{ padding: 4px 8px; color: {p.ink}; }}
    QListWidget::item:selected {{ background: {p.line}; color: {p.ink}; }}
    QListWidget::item:hover {{ background: {p.ground}; }}
    QSlider::groove:horizontal {{ height: 4px; background: {p.line}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ width: 12px; margin: -5px 0; background: {p.accent}; border-radius: 6px; }}
    QSlider:focus {{ border: 1px solid {p.accent}; border-radius: 4px; }}
    QWidget[floating="true"] QSlider:focus {{ border: 1px solid {p.accent}; }}
    QCheckBox:focus {{ color: {p.accent}; }}
    QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {p.quiet}; border-radius: 3px; background: {p.field}; }}
    QCheckBox::indicator:checked {{ background: {p.accent}; border-color: {p.accent}; }}
    QLineEdit, QDoubleSpinBox, QSpinBox {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px;
      padding: 3px 6px; selection-background-color: {p.accent}; selection-color: {p.on_accent}; }}
    QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus {{ border: 2px solid {p.accent}; padding: 2px 5px; }}
    QDoubleSpinBox[small="true"] {{ padding: 1px 4px; font-size: {SMALL}px; min-width: 0; }}
    QDoubleSpinBox[small="true"]:focus {{ padding: 0 3px; }}
    QComboBox QAbstractItemView {{ background: {p.field}; color: {p.ink}; border: 1px solid {p.line}; }}
    QTreeView, QTableView {{ background: {p.panel}; border: none; outline: none; }}
    QTreeView::item, QTableView::item {{ padding: 4px 2px; border: none; }}
    QTreeView::item:hover {{ background: {p.ground}; }}
    QTreeView::item:selected, QTableView::item:selected {{ background: {p.line}; color: {p.ink}; }}
    QHeaderView::section {{ background: {p.panel}; color: {p.quiet}; border: none; border-bottom: 1px solid {p.line};
      padding: 4px 4px; font-size: {SMALL}px; }}
    QScrollArea {{ border: none; background: {p.panel}; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {p.line}; border-radius: 4px; min-height: 24px; margin: 1px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {p.line}; border-radius: 4px; min-width: 24px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QSplitter::handle {{ background: {p.line}; }}
    QToolTip {{ background: {p.field}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
    QProgressBar {{ background: {p.ground}; border: 1px solid {p.line}; border-radius: 3px; height: 8px; }}
    QProgressBar::chunk {{ background: {p.accent}; border-radius: 2px; }}
    """
