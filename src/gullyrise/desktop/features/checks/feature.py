"""The checks beside the bench, their findings, and what of them is marked in the view."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QSize

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.checks import commands as commands
from gullyrise.desktop.features.checks.clearance_matrix import Matrix
from gullyrise.desktop.features.checks.clearance_panel import ClearanceMatrix
from gullyrise.desktop.features.checks.evidence_overlay import EvidenceOverlay
from gullyrise.desktop.features.checks.findings import Findings
from gullyrise.desktop.features.checks.findings_list import FindingsList
from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.checks.setups import SetupsFinder
from gullyrise.desktop.ports import Navigator, Sections
from gullyrise.desktop.widgets.placing import in_the_corner


@dataclass(frozen=True, slots=True)
class ChecksFeature:
    traveller: Traveller
    findings: Findings
    findings_list: FindingsList
    evidence: EvidenceOverlay
    matrix: Matrix
    matrix_panel: ClearanceMatrix
    setups: SetupsFinder


def attach(context: Context, navigator: Navigator, sections: Sections) -> ChecksFeature:
    model, notifier, viewport, palette = context.model, context.notifier, context.viewport, context.palette
    traveller = Traveller(model, palette)
    panel = ClearanceMatrix(palette, viewport)
    findings = Findings(context.window, model, notifier, navigator, traveller.views)
    listed = FindingsList(findings, palette)
    traveller.add_foot(listed, first=True)
    evidence = EvidenceOverlay(context.window, model, notifier, viewport, sections)
    setups = SetupsFinder(model, notifier, context.status)
    matrix = Matrix(model, notifier, navigator, context.floating, panel)
    traveller.limit_set.connect(lambda name, value: model.document.set_limit(name, value))
    traveller.limit_dragged.connect(model.document.set_limit)
    traveller.wanted.connect(context.commands.do)
    traveller.finding_chosen.connect(navigator.fly_to)
    listed.wanted.connect(context.commands.do)
    listed.gone_to.connect(findings.go_to)
    listed.accepted.connect(findings.accept)
    context.scene.putting.connect(evidence.show_flags)

    def settle(room: QSize) -> None:
        panel.resize(min(560, room.width() - 20), min(max(room.height() - 130, 200), panel.wanted_height(), 340))
        in_the_corner(panel, room)

    context.floating.add(settle)
    context.panels.set_right(traveller)
    for part in (traveller, listed, panel):
        context.looks.changed.connect(part.wear)
    context.commands.serve(traveller, findings, evidence, matrix, setups)
    return ChecksFeature(traveller, findings, listed, evidence, matrix, panel, setups)
