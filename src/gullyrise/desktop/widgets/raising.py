"""Windows that stand beside the main one."""

from __future__ import annotations

from typing import TypeVar

from PyQt6.QtWidgets import QWidget

W = TypeVar("W", bound=QWidget)


def raised(sheet: W) -> W:
    """Shown, before the others."""
    sheet.show()
    sheet.raise_()
    sheet.activateWindow()
    return sheet
