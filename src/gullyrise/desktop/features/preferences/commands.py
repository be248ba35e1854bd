"""Settings and keys."""

from __future__ import annotations

from gullyrise.desktop.commands.registry import JOB, ActionsOn
from gullyrise.desktop.features.preferences.sheets import PreferenceSheets

sheets = ActionsOn(PreferenceSheets, JOB)

sheets("help.keys", "Key sheet", "F1", do=lambda it: it.open_keys())
sheets("help.settings", "Settings", "Ctrl+,", do=lambda it: it.open_settings())
sheets("help.about", "About Gullyrise", do=lambda it: it.open_about())
