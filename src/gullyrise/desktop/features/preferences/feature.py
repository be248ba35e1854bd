"""The sheets of settings and of keys."""

from __future__ import annotations

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.preferences import commands as commands
from gullyrise.desktop.features.preferences.sheets import PreferenceSheets


def attach(context: Context) -> PreferenceSheets:
    sheets = PreferenceSheets(context.window, context.preferences, context.commands)
    context.commands.serve(sheets)
    return sheets
