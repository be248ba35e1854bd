"""Notes and pictures for the record."""

from __future__ import annotations

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.record import commands as commands
from gullyrise.desktop.features.record.controller import RecordController


def attach(context: Context) -> RecordController:
    record = RecordController(context.model, context.notifier, context.preferences, context.files, context.viewport)
    context.commands.serve(record)
    return record
