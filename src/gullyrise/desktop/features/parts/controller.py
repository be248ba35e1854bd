"""What is done to the chosen parts as they were received: their units, meshes, mends and faults, and going into an assembly."""

from __future__ import annotations

from gullyrise.desktop.features.checks.findings import Findings
from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.parts.panel import PartsPanel
from gullyrise.desktop.ports import Notifier
from gullyrise.desktop.state.document_model import BenchJob


class PartWork:
    """Of the parts that are chosen."""

    def __init__(self, model: BenchJob, notifier: Notifier, parts: PartsPanel, traveller: Traveller, findings: Findings) -> None:
        self._model, self._notifier, self._parts = model, notifier, parts
        self._traveller, self._findings = traveller, findings

    def go_inside(self) -> None:
        if not self._parts.tree.enter_chosen():
            self._notifier.say("What is chosen is in no assembly of its own; choose a body of one, or a file of several.", False)

    def refine(self) -> None:
        for number in sorted(self._model.selection):
            self._model.receiving.refine(number)

    def set_unit(self, unit: str) -> None:
        for number in sorted(self._model.selection):
            self._model.receiving.set_unit(number, unit)

    def next_fault(self) -> None:
        self._traveller.show_check("health")
        self._findings.step(1)

    def mend(self) -> None:
        """Does all mends that would change them."""
        for number in sorted(self._model.selection):
            standing = self._model.job.standing(number)
            found = self._model.receiving.previews_of(standing) if standing is not None else None
            if standing is None or found is None:
                self._notifier.say("What mends would change is being found out; try again in a moment.", False)
            elif not found:
                self._notifier.say(f"No mend would change {standing.name}.", False)
            else:
                self._model.receiving.mend(number, tuple(found))
