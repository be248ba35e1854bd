"""Looking at verdicts."""

from __future__ import annotations

from collections.abc import Callable

from gullyrise.core.checks.registry import checks
from gullyrise.desktop.commands.needs import A_MILL, A_PART
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.checks.clearance_matrix import Matrix
from gullyrise.desktop.features.checks.evidence_overlay import EvidenceOverlay
from gullyrise.desktop.features.checks.findings import Findings
from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.checks.setups import SetupsFinder
from gullyrise.desktop.state.workbench import Workbench

traveller = ActionsOn(Traveller, "K")
findings = ActionsOn(Findings, "K")
evidence_shown = ActionsOn(EvidenceOverlay)
matrix = ActionsOn(Matrix)
setups = ActionsOn(SetupsFinder)
model = ActionsOn(Workbench)


def _show(check: str) -> Callable[[Traveller], None]:
    return lambda traveller: traveller.show_check(check)


for _row in (check.ROW for check in checks().values()):
    _keys = (f"K {_row.second_key}",) if _row.second_key else ()
    traveller(f"check.{_row.id}", f"Show {_row.title.lower()}", *_keys, do=_show(_row.id), needs=A_PART)
traveller("check.none", "No colours", "K N", do=lambda it: it.show_check(None))
findings("check.next-finding", "Next finding", "N", do=lambda it: it.step(1), needs=A_PART)
findings("check.previous-finding", "Previous finding", "Shift+N", do=lambda it: it.step(-1), needs=A_PART)
findings("check.accept", "Accept the flagged finding", "K Y", do=lambda it: it.ask_for_note(), needs=A_PART)
findings("check.take-back", "Take back an acceptance", "K U", do=lambda it: it.take_back(), needs=A_PART)
traveller("check.thinnest", "List the thinnest places", "K P", do=lambda it: it.list_thinnest(), needs=A_PART)
evidence_shown("check.ball-cut", "Cut through the ball", "K B", do=lambda it: it.cut_through_ball(), needs=A_PART)
matrix("check.matrix", "Clearance matrix", "K G", do=lambda it: it.open(), needs=A_PART)
setups("check.setups", "Find the fewest set-ups", "K S", do=lambda it: it.find(), needs=(A_PART, A_MILL))
setups("check.setup-from-face", "Set-up from the selected face", "K D", do=lambda it: it.from_face(), needs=(A_PART, A_MILL))
model("check.again", "Run again what was not run", "K A", do=lambda it: it.run_again(), needs=A_PART)
