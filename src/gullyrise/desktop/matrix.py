"""The matrix of clearances: every pair in view, what is wanted of each, and the one that is looked at."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from pydantic import ValidationError

from gullyrise.core.checks.clearances import Evidence, Pair, judged_pair
from gullyrise.core.checks.clearances import Limits as ClearanceLimits
from gullyrise.core.checks.protocol import Finding, Outcome
from gullyrise.core.geometry import Transform
from gullyrise.core.job import Standing
from gullyrise.core.machines import Limits
from gullyrise.core.machines.limits import PairGap
from gullyrise.workers.clearing import PairsOf

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


class Matrix:
    """Ties the panel to what was measured. Of one part the check's own evidence is shown; several are measured as they stand."""

    def __init__(self, window: Window) -> None:
        self._window, self._model = window, window.model
        self._asked: tuple[tuple[int, Transform], ...] = ()
        self._found: tuple[tuple[str, ...], tuple[Pair, ...]] | None = None
        panel = window.matrix_panel
        panel.chosen.connect(self._choose)
        panel.wish_set.connect(self._wish)
        panel.closed.connect(panel.hide)
        self._model.outcomes_changed.connect(self.refresh)
        self._model.job_changed.connect(self.refresh)
        self._model.selection_changed.connect(self.refresh)

    def open(self) -> None:
        self._model.show_measure("clearances")
        self._window.matrix_panel.show()
        self._window.matrix_panel.raise_()
        self._window.settle_overlays()
        self.refresh()

    def refresh(self) -> None:
        panel = self._window.matrix_panel
        if panel.isHidden():
            return
        names, pairs = self._measured()
        limits = self._limits()
        judged = {(pair.a, pair.b): judged_pair(pair, limits) for pair in pairs}
        panel.show_pairs(names, pairs, judged, limits)
        self._window.settle_overlays()

    def _limits(self) -> ClearanceLimits:
        found: Limits = self._model.judging.outcomes.limits(self._model.job)
        return ClearanceLimits(found.min_gap or 0.0, found.pair_gaps)

    def _measured(self) -> tuple[tuple[str, ...], tuple[Pair, ...]]:
        standings = self._model.in_view()
        if len(standings) == 1:
            found = self._model.judging.outcomes.evidence(standings[0], "clearances")
            evidence = found[0].evidence if found is not None else None
            return (evidence.bodies, evidence.pairs) if isinstance(evidence, Evidence) else ((), ())
        asked = tuple((one.id, one.placement) for one in standings)
        if len(asked) == len(self._asked) and all(a[0] == b[0] and a[1] is b[1] for a, b in zip(asked, self._asked, strict=True)):
            return self._found or ((), ())
        self._asked, self._found = asked, None
        if standings:
            work = PairsOf(tuple((one.name, one.part, one.placement) for one in standings))

            def came(found: tuple[tuple[str, ...], tuple[Pair, ...]]) -> None:
                if self._asked is asked:
                    self._found = found
                    self.refresh()

            self._model.aside(work, came)
        return (), ()

    def _wish(self, a: str, b: str, kind: str, gap: float | None) -> None:
        """What is wanted of a pair is a limit of the job: it is judged by it, and undone like any."""
        before = self._model.job.given.pair_gaps or ()
        others = tuple(pair for pair in before if not pair.is_of(a, b))
        try:
            own = () if kind == "as all" else (PairGap.model_validate({"a": a, "b": b, "kind": kind, "gap": gap}),)
        except ValidationError as error:
            self._window.notices.say(f"{gap} is no gap: {error.errors()[0]['msg'].lower()}.", True)
            return
        self._model.edit(f"Wanted of {a} and {b}", lambda job: job.with_limit("pair_gaps", (*others, *own) or None))

    def _choose(self, a: str, b: str) -> None:
        """Flies to where a pair is nearest, or runs into each other."""
        _, pairs = self._measured()
        pair = next((one for one in pairs if (one.a, one.b) == (a, b)), None)
        standings = self._model.in_view()
        if pair is None or not standings:
            return
        outcome = judged_pair(pair, self._limits())
        owner, finding = self._as_finding(outcome, standings)
        self._window.looking.fly_to(owner, finding)

    def _as_finding(self, outcome: Outcome, standings: list[Standing]) -> tuple[Standing, Finding]:
        """The pair's finding, or its gap as one; of several parts its places are the machine's, and are told in the first
        one's."""
        own = self._model.row("clearances", dict(self._model.active_checks())["clearances"])
        first = standings[0]
        worst = outcome.worst
        assert worst is not None
        measured = outcome.measured
        lines = np.array([[measured["point_a"], measured["point_b"]]])
        made = outcome.findings[0] if outcome.findings else Finding("gap", worst.value, "mm", worst.at, lines=lines)
        if len(standings) == 1:
            # The one in the traveller, where there is one, so that it is flagged there too.
            same = next((one for one in own.findings if one[1].what == made.what and one[1].at == made.at), None)
            return same or (first, made)
        back = first.placement.inverse()
        at = back.apply(np.array(made.at)[None])[0]
        drawn = back.apply(lines.reshape(-1, 3)).reshape(-1, 2, 3)
        return first, Finding(made.what, made.value, made.unit, (float(at[0]), float(at[1]), float(at[2])), lines=drawn)
