"""Notes and pictures for the record."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.record import commands as commands
from gullyrise.desktop.features.record.controller import RecordController
from gullyrise.desktop.features.record.overlay import PinnedNotes
from gullyrise.desktop.features.record.panel import PANEL, RecordPanel
from gullyrise.desktop.features.record.report_controller import ReportController


@dataclass(frozen=True, slots=True)
class RecordFeature:
    record: RecordController
    report: ReportController
    panel: RecordPanel


def attach(context: Context) -> RecordFeature:
    record = RecordController(
        context.model, context.notifier, context.preferences, context.files, context.viewport, context.panels
    )
    panel = RecordPanel(lambda: context.model.job, context.commands.do)
    panel.changed.connect(record.put)
    context.panels.add_slot(PANEL, panel)
    context.viewport.add_overlay(PinnedNotes(lambda: context.model.job, lambda: context.palette))
    context.model.document.changed.connect(panel.refresh)
    context.model.document.changed.connect(context.viewport.update)
    report = ReportController(context.window, context.model, context.notifier, context.preferences, context.files)
    context.commands.serve(record, report)
    return RecordFeature(record, report, panel)
