"""The matrix of clearances: every pair in view, what is wanted of each, and the one that is looked at."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from pydantic import ValidationError

from gullyrise.core.checks.clearances import GAP, Evidence, Pair, judged_pair
from gullyrise.core.checks.clearances import Limits as ClearanceLimits
from gullyrise.core.checks.protocol import Finding, Outcome
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.spots import spot
from gullyrise.core.job import PlacedPart
from gullyrise.core.machines import Limits
from gullyrise.core.machines.limits import PairGap
from gullyrise.desktop.features.checks import text
from gullyrise.desktop.features.checks.clearance_panel import ClearanceMatrix
from gullyrise.desktop.ports import FloatingLayout, Navigator, Notifier
from gullyrise.desktop.state.task_runner import RunningTask
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.workers.clearing import MOST_BODIES, PairsOf

_MOST_KEPT = 20_000
_Key = tuple[str, bytes, str, bytes]


class Matrix:
    """Ties the panel to what was measured. Of one part the check's own evidence is shown; several are measured as they stand."""

    def __init__(
        self, model: Workbench, notifier: Notifier, navigator: Navigator, floating: FloatingLayout, panel: ClearanceMatrix
    ) -> None:
        self._model, self._notifier, self._navigator, self._floating, self._panel = model, notifier, navigator, floating, panel
        self._names: dict[str, tuple[str, ...]] = {}
        """Of the bodies of a part, in order."""
        self._pairs: dict[_Key, tuple[Transform, tuple[Pair, ...]]] = {}
        """What was measured between two parts as they stood, or between the bodies of one; and where the first one stood then."""
        self._asked: tuple[_Key, ...] = ()
        self._errand: RunningTask | None = None
        panel = self._panel
        panel.chosen.connect(self._choose)
        panel.wish_set.connect(self._wish)
        panel.closed.connect(panel.hide)
        self._model.results.changed.connect(self.refresh)
        self._model.document.changed.connect(self.refresh)
        self._model.selection.changed.connect(self.refresh)

    def open(self) -> None:
        self._model.shown.show_measure("clearances")
        self._panel.show()
        self._panel.raise_()
        # What failed, or was cancelled, is tried again when the matrix is opened.
        self._asked = ()
        self._floating.settle()
        self.refresh()

    def refresh(self) -> None:
        panel = self._panel
        if panel.isHidden():
            return
        names, pairs, bodies = self._measured()
        limits = self._limits()
        judged = {(pair.a, pair.b): judged_pair(pair, limits) for pair in pairs}
        panel.show_pairs(names, pairs, judged, limits, bodies)
        self._floating.settle()

    def _limits(self) -> ClearanceLimits:
        found: Limits = self._model.checks.cache.limits(self._model.job)
        return ClearanceLimits(found.min_gap or 0.0, found.pair_gaps)

    def _measured(self) -> tuple[tuple[str, ...], tuple[Pair, ...], int]:
        """(names, pairs, how many bodies there are in all); without names while they are measured."""
        parts = self._model.selection.in_view()
        if len(parts) == 1:
            found = self._model.checks.cache.evidence(parts[0], "clearances")
            evidence = found[0].evidence if found is not None else None
            return (evidence.bodies, evidence.pairs, len(evidence.bodies)) if isinstance(evidence, Evidence) else ((), (), 0)
        shown, bodies = _first_of(parts)
        keys = {_key(a, b): (at, at + on) for at, a in enumerate(shown) for on, b in enumerate(shown[at:])}
        missing = tuple(key for key in keys if key not in self._pairs)
        if missing:
            self._ask(shown, {key: keys[key] for key in missing})
            return (), (), 0
        names = tuple(name for one in shown for name in self._names[_called(one)])
        pairs = tuple(pair for key, (at, _) in keys.items() for pair in self._as_it_stands(key, shown[at]))
        return names, pairs, max(bodies, len(names))

    def _ask(self, parts: list[PlacedPart], wanted: dict[_Key, tuple[int, int]]) -> None:
        """Measures what is not known yet; what was asked before and is still under way is not wanted any more."""
        if self._errand is not None:
            if self._asked == tuple(wanted):
                return
            self._model.recall(self._errand)
        self._asked = tuple(wanted)
        work = PairsOf(tuple((one.name, one.part, one.placement) for one in parts), tuple(wanted.values()))

        def came(found: tuple[tuple[tuple[str, ...], ...], tuple[tuple[Pair, ...], ...]]) -> None:
            names, pairs = found
            while len(self._pairs) + len(wanted) > _MOST_KEPT:
                del self._pairs[next(iter(self._pairs))]
            self._names |= {_called(one): own for one, own in zip(parts, names, strict=True)}
            for (key, (at, _)), own in zip(wanted.items(), pairs, strict=True):
                self._pairs[key] = parts[at].placement, own
            self._asked = ()
            self.refresh()

        self._errand = self._model.aside(work, came)

    def _as_it_stands(self, key: _Key, placed: PlacedPart) -> tuple[Pair, ...]:
        """Bodies of one part go with it wherever it is put."""
        stood, pairs = self._pairs[key]
        if stood is placed.placement or key[1]:
            return pairs
        by = stood.inverse().then(placed.placement)
        return tuple(replace(pair, between=pair.between.placed(by)) for pair in pairs)

    def _wish(self, a: str, b: str, kind: str, gap: float | None) -> None:
        """What is wanted of a pair is a limit of the job: it is judged by it, and undone like any."""
        before = self._model.job.given.pair_gaps or ()
        others = tuple(pair for pair in before if not pair.is_of(a, b))
        try:
            own = () if kind == "as all" else (PairGap.model_validate({"a": a, "b": b, "kind": kind, "gap": gap}),)
        except ValidationError as error:
            self._notifier.say(text.IS_NO_GAP.format(gap, error.errors()[0]["msg"].lower()), True)
            return
        self._model.document.edit(text.WANTED_OF.format(a, b), lambda job: job.with_limit("pair_gaps", (*others, *own) or None))

    def _choose(self, a: str, b: str) -> None:
        """Flies to where a pair is nearest, or runs into each other."""
        _, pairs, _ = self._measured()
        pair = next((one for one in pairs if (one.a, one.b) == (a, b)), None)
        parts = self._model.selection.in_view()
        if pair is None or not parts:
            return
        outcome = judged_pair(pair, self._limits())
        owner, finding = self._as_finding(outcome, parts)
        self._navigator.fly_to(owner, finding)

    def _as_finding(self, outcome: Outcome, parts: list[PlacedPart]) -> tuple[PlacedPart, Finding]:
        """The pair's finding, or its gap as one; of several parts its places are the machine's, and are told in the first
        one's."""
        own = self._model.results.row("clearances", dict(self._model.document.active_checks())["clearances"])
        first = parts[0]
        worst = outcome.worst
        assert worst is not None
        measured = outcome.measured
        lines = np.array([[measured["point_a"], measured["point_b"]]])
        made = outcome.findings[0] if outcome.findings else Finding("gap", worst.value, "mm", worst.at, lines=lines, code=GAP)
        if len(parts) == 1:
            # The one in the traveller, where there is one, so that it is flagged there too.
            same = next((one for one in own.findings if _is_same(one[1], made)), None)
            return same or (first, made)
        back = first.placement.inverse()
        at = back.apply(np.array(made.at)[None])[0]
        drawn = back.apply(lines.reshape(-1, 3)).reshape(-1, 2, 3)
        return first, Finding(made.what, made.value, made.unit, spot(at), lines=drawn, code=made.code, of=made.of)


def _is_same(a: Finding, b: Finding) -> bool:
    return (a.code, a.of, a.at) == (b.code, b.of, b.at)


def _first_of(parts: list[PlacedPart]) -> tuple[list[PlacedPart], int]:
    """As many as a table can hold, and how many bodies all of them have."""
    counts = [sum(len(body.placements) for body in one.part.bodies) for one in parts]
    fit = int((np.cumsum(counts) <= MOST_BODIES).sum())
    return parts[: max(fit, 1)], sum(counts)


def _called(placed: PlacedPart) -> str:
    return f"{placed.digest} {placed.name}"


def _key(a: PlacedPart, b: PlacedPart) -> _Key:
    if a is b:
        return _called(a), b"", "", b""
    return _called(a), a.placement.matrix.tobytes(), _called(b), b.placement.matrix.tobytes()
