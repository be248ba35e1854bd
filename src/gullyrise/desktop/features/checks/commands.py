"""Looking at verdicts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.core.checks.registry import checks
from gullyrise.desktop.commands.needs import A_MILL, A_PART
from gullyrise.desktop.commands.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.features.checks.clearance_matrix import Matrix
    from gullyrise.desktop.features.checks.evidence_overlay import EvidenceOverlay
    from gullyrise.desktop.features.checks.findings import Findings
    from gullyrise.desktop.features.checks.panel import Traveller
    from gullyrise.desktop.features.checks.setups import SetupsFinder
    from gullyrise.desktop.state.workbench import Workbench


def _show(check: str) -> Run:
    def run(traveller: Traveller) -> None:
        traveller.show_check(check)

    return run


for _row in (check.ROW for check in checks().values()):
    _keys = (f"K {_row.second_key}",) if _row.second_key else ()
    action(f"check.{_row.id}", f"Show {_row.title.lower()}", *_keys, needs=A_PART)(_show(_row.id))


@action("check.none", "No colours", "K N")
def none(traveller: Traveller) -> None:
    traveller.show_check(None)


@action("check.next-finding", "Next finding", "N", needs=A_PART)
def next_finding(findings: Findings) -> None:
    findings.step(1)


@action("check.previous-finding", "Previous finding", "Shift+N", needs=A_PART)
def previous_finding(findings: Findings) -> None:
    findings.step(-1)


@action("check.accept", "Accept the flagged finding with a note", "K Y", needs=A_PART)
def accept(findings: Findings) -> None:
    findings.ask_for_note()


@action("check.take-back", "Take back an acceptance", "K U", needs=A_PART)
def take_back(findings: Findings) -> None:
    findings.take_back()


@action("check.thinnest", "List the thinnest places", "K P", needs=A_PART)
def thinnest(traveller: Traveller) -> None:
    traveller.list_thinnest()


@action("check.ball-cut", "Cut through the ball", "K B", needs=A_PART)
def ball_cut(evidence_shown: EvidenceOverlay) -> None:
    evidence_shown.cut_through_ball()


@action("check.matrix", "Matrix of clearances", "K G", needs=A_PART)
def matrix(matrix: Matrix) -> None:
    matrix.open()


@action("check.setups", "Find the fewest set-ups", "K S", needs=(A_PART, A_MILL))
def setups(setups: SetupsFinder) -> None:
    setups.find()


@action("check.setup-from-face", "Set-up from the chosen face", "K D", needs=(A_PART, A_MILL))
def setup_from_face(setups: SetupsFinder) -> None:
    setups.from_face()


@action("check.again", "Run again what was not run", "K A", needs=A_PART)
def again(model: Workbench) -> None:
    model.run_again()
