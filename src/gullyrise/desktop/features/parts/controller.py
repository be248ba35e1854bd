"""What is done to the chosen parts as they were received: their units, meshes, repairs and faults, and going into an assembly."""

from __future__ import annotations

from gullyrise.desktop.features.parts import text
from gullyrise.desktop.features.parts.panel import PartsPanel
from gullyrise.desktop.features.parts.report_panel import ReportPanel
from gullyrise.desktop.ports import CheckView, FindingSteps, Navigator, Notifier, PanelPlaces
from gullyrise.desktop.state.workbench import Workbench

PANEL = "report"
"""The name of the receiving report's place."""


class PartsController:
    """Of the parts that are chosen."""

    def __init__(
        self, model: Workbench, notifier: Notifier, navigator: Navigator, checks: CheckView, findings: FindingSteps,
        panels: PanelPlaces, parts: PartsPanel, report: ReportPanel,
    ) -> None:  # fmt: skip
        self._model, self._notifier, self._navigator, self._parts = model, notifier, navigator, parts
        self._checks, self._findings, self._panels = checks, findings, panels
        receiving = model.loader
        report.unit_set.connect(receiving.set_unit)
        report.refused_dismissed.connect(receiving.dismiss_refused)
        report.repairs_wanted.connect(receiving.repair)
        report.material_set.connect(receiving.set_material)
        report.finer_wanted.connect(receiving.refine)
        report.reload_wanted.connect(lambda number: receiving.reload([number]))
        report.part_chosen.connect(lambda number: model.selection.select({number}))
        report.fault_chosen.connect(self.step_fault)

    def swap_report(self) -> None:
        """The receiving report in its place, or nothing there."""
        self._panels.show_slot("" if self._panels.slot == PANEL else PANEL)

    def go_inside(self) -> None:
        if not self._parts.tree.enter_chosen():
            self._notifier.say(text.IN_NO_ASSEMBLY, False)

    def refine(self) -> None:
        for number in sorted(self._model.selection.parts):
            self._model.loader.refine(number)

    def set_unit(self, unit: str) -> None:
        for number in sorted(self._model.selection.parts):
            self._model.loader.set_unit(number, unit)

    def next_fault(self) -> None:
        self._checks.show_check("health")
        self._findings.step(1)

    def repair(self) -> None:
        """Does all repairs that would change them."""
        for number in sorted(self._model.selection.parts):
            placed = self._model.job.part(number)
            found = self._model.loader.previews_of(placed) if placed is not None else None
            if placed is None or found is None:
                self._notifier.say(text.REPAIRS_NOT_KNOWN_YET, False)
            elif not found:
                self._notifier.say(text.NO_REPAIR.format(placed.name), False)
            else:
                self._model.loader.repair(number, tuple(found))

    def reload(self) -> None:
        """Reads the chosen parts anew, else those whose files have changed, else all."""
        model = self._model
        numbers = model.selection.parts or frozenset(model.loader.stale) or {placed.id for placed in model.job.parts}
        model.loader.reload(numbers)

    def step_fault(self, number: int, code: str) -> None:
        """Flies to the next fault of a kind on a part, and flags it."""
        placed = self._model.job.part(number)
        found = self._model.results.outcomes_of(placed, "health") if placed is not None else None
        findings = [finding for finding in found[0].findings if finding.code == code] if found else []
        if placed is None or not findings:
            return
        self._checks.show_check("health")
        flagged = self._model.flag.held
        here = next((at for at, one in enumerate(findings) if flagged is not None and flagged[1] is one), -1)
        self._navigator.fly_to(placed, findings[(here + 1) % len(findings)])
