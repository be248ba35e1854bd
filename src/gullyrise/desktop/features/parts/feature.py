"""The parts of the job, and what was found out about each as it came in."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.job.visibility import Key
from gullyrise.desktop.context import Context
from gullyrise.desktop.features.parts import commands as commands
from gullyrise.desktop.features.parts.controller import PANEL, PartsController
from gullyrise.desktop.features.parts.list_export import ListExport
from gullyrise.desktop.features.parts.panel import PartsPanel
from gullyrise.desktop.features.parts.questions import Questions
from gullyrise.desktop.features.parts.report_panel import ReportPanel
from gullyrise.desktop.features.parts.shape_groups import ShapeGroups
from gullyrise.desktop.ports import CheckView, FindingSteps, Navigator

_COLUMNS = {"tree": "parts.columns", "list": "parts.list_columns"}


@dataclass(frozen=True, slots=True)
class PartsFeature:
    panel: PartsPanel
    report: ReportPanel
    controller: PartsController
    list_export: ListExport
    questions: Questions


def attach(context: Context, navigator: Navigator, checks: CheckView, findings: FindingSteps) -> PartsFeature:
    model, preferences = context.model, context.preferences
    panel = PartsPanel(model, context.palette, ShapeGroups(model))
    report = ReportPanel(model, context.palette)
    work = PartsController(model, context.notifier, navigator, checks, findings, context.panels, panel, report)
    export = ListExport(context.notifier, context.files, context.viewport.aside, panel)
    questions = Questions(model, context.notifier, report.refresh)

    def see(keys: list[Key], seen: bool) -> None:
        chosen = frozenset(keys)
        model.shown.look(model.shown.visibility.showing(chosen) if seen else model.shown.visibility.hiding(chosen))

    def show_columns() -> None:
        panel.tree.columns.show(preferences["parts.columns"])
        panel.table.columns.show(preferences["parts.list_columns"])

    panel.selected.connect(model.selection.select_bodies)
    panel.wanted.connect(context.commands.do)
    panel.visibility_wanted.connect(see)
    panel.framing_wanted.connect(lambda: context.commands.do("view.all"))
    panel.columns_changed.connect(lambda which, ids: preferences.set(_COLUMNS[which], ids))
    context.panels.add_left(panel)
    context.panels.add_slot(PANEL, report)
    context.panels.slot_changed.connect(report.refresh)
    preferences.follow(("parts.",), show_columns)
    for part in (panel, report):
        context.looks.changed.connect(part.wear)
    context.commands.serve(panel, work, export)
    return PartsFeature(panel, report, work, export, questions)
