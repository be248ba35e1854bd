"""Settings and keys."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.preferences.sheets import PreferenceSheets


@action("help.keys", "Key sheet", "F1")
def keys(sheets: PreferenceSheets) -> None:
    sheets.open_keys()


@action("help.settings", "Settings", "Ctrl+,")
def settings(sheets: PreferenceSheets) -> None:
    sheets.open_settings()
