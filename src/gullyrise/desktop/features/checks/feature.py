"""The checks beside the bench, their findings, and what of them is marked in the view."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QSize

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.checks import commands as commands
from gullyrise.desktop.features.checks.clearance_matrix import Matrix
from gullyrise.desktop.features.checks.clearance_panel import ClearanceMatrix
from gullyrise.desktop.features.checks.evidence_overlay import EvidenceOverlay
from gullyrise.desktop.features.checks.finding_pictures import FindingPictures
from gullyrise.desktop.features.checks.findings import Findings
from gullyrise.desktop.features.checks.findings_list import FindingsList
from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.checks.setups import SetupsFinder
from gullyrise.desktop.ports import Navigator, Sections


@dataclass(frozen=True, slots=True)
class ChecksFeature:
    traveller: Traveller
    findings: Findings
    findings_list: FindingsList
    pictures: FindingPictures
    evidence: EvidenceOverlay
    matrix: Matrix
    matrix_panel: ClearanceMatrix
    setups: SetupsFinder


def attach(context: Context, navigator: Navigator, sections: Sections) -> ChecksFeature:
    model, notifier, viewport, palette = context.model, context.notifier, context.viewport, context.palette
    traveller = Traveller(model, palette)
    panel = ClearanceMatrix(palette, viewport)
    findings = Findings(context.window, model, notifier, navigator, traveller.views)
    pictures = FindingPictures(context.window, model)
    listed = FindingsList(findings, pictures, palette)
    traveller.add_foot(listed)
    evidence = EvidenceOverlay(context.window, model, notifier, viewport, sections, pictures)
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

    context.floating.add_slip(panel, lambda room: QSize(560, min(panel.wanted_height(), 340, room.height() - 130)))
    context.panels.set_right(traveller)
    for part in (traveller, listed, panel):
        context.looks.changed.connect(part.wear)
    context.commands.serve(traveller, findings, evidence, matrix, setups)
    return ChecksFeature(traveller, findings, listed, pictures, evidence, matrix, panel, setups)
