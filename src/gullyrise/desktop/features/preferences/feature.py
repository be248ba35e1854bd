"""The sheets of settings and of keys."""

from __future__ import annotations

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.preferences import commands as commands
from gullyrise.desktop.features.preferences.sheets import Sheets


def attach(context: Context) -> Sheets:
    sheets = Sheets(context.window, context.preferences, context.commands)
    context.commands.serve(sheets)
    return sheets
