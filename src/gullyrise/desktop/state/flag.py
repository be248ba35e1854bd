"""The finding that is flagged on the bench, for as long as it is true of what stands there."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.job import PlacedPart
from gullyrise.desktop.state.check_results import CheckResults
from gullyrise.desktop.state.document_model import DocumentModel

_NEAR_MM = 0.5
"""Measured anew, a finding is the same one where it lies no further from where it was."""


class Flag(QObject):
    """held : (id of the part, finding), None without one"""

    changed = pyqtSignal()

    def __init__(self, document: DocumentModel, results: CheckResults) -> None:
        super().__init__()
        self._document, self._results = document, results
        self.held: tuple[int, Finding] | None = None
        self._listed = False
        self._stood: tuple[PlacedPart, ...] = ()
        results.changed.connect(self._look_again)
        document.changed.connect(self._look_again)

    def put(self, placed: int, finding: Finding) -> None:
        self.held, self._stood = (placed, finding), self._document.job.parts
        self._listed = any(one is finding for one in self._found(placed) or ())

    def drop(self) -> None:
        self.held = None

    @property
    def stands(self) -> bool:
        """Whether it is of what is there: a place on a part goes along with the part, what lies between two goes with neither."""
        if self.held is None or self._stood is self._document.job.parts:
            return self.held is not None
        number, finding = self.held
        between = not finding.own and (finding.lines is not None or finding.solid is not None)
        now = {one.id: one for one in self._document.job.parts}
        if between:
            return all(now.get(one.id) is one for one in self._stood)
        return any(one.part is now[number].part for one in self._stood if one.id == number and number in now)

    def _found(self, number: int) -> list[Finding] | None:
        """What the checks find at a part now; None where one of them has not measured it yet."""
        placed = self._document.job.part(number)
        rows = [self._results.row(name, check, [placed]) for name, check in self._document.active_checks()] if placed else []
        if any(row.running for row in rows):
            return None
        return [finding for row in rows for owner, finding in row.findings if owner.id == number]

    def _look_again(self) -> None:
        """Puts the flag on the same finding as it was measured anew; without one it goes."""
        if self.held is None:
            return
        number, finding = self.held
        if self._document.job.part(number) is None:
            self._end()
            return
        if self._stood is self._document.job.parts and not self._listed:
            return
        found = self._found(number)
        if found is None:
            return
        same = next((one for one in found if one is finding), None)
        if same is None and self._listed:
            alike = [one for one in found if one.unit == finding.unit and (one.solid is None) == (finding.solid is None)]
            off = [float(np.linalg.norm(np.subtract(one.at, finding.at))) for one in alike]
            same = alike[int(np.argmin(off))] if off and min(off) <= _NEAR_MM else None
        if same is not None:
            self._stood = self._document.job.parts
            if same is not finding:
                self.held = number, same
                self.changed.emit()
        elif self._listed or not self.stands:
            self._end()

    def _end(self) -> None:
        self.held = None
        self.changed.emit()
