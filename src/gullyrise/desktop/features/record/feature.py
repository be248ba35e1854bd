"""Notes and pictures for the record."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.record import commands as commands
from gullyrise.desktop.features.record.controller import RecordController
from gullyrise.desktop.features.record.report_controller import ReportController


@dataclass(frozen=True, slots=True)
class RecordFeature:
    record: RecordController
    report: ReportController


def attach(context: Context) -> RecordFeature:
    record = RecordController(context.model, context.notifier, context.preferences, context.files, context.viewport)
    report = ReportController(context.window, context.model, context.notifier, context.preferences, context.files)
    context.commands.serve(record, report)
    return RecordFeature(record, report)
