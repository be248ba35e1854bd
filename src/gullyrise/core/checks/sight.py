"""From where a finding can be seen: what a picture of it needs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.checks.protocol import Outcome, Snapshot
from gullyrise.core.geometry import Points
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.spots import spot

_MOST_TRIANGLES = 250_000
_MOST_FINDINGS = 60


def directions() -> Points:
    """(n, 3) unit directions all round, those that a person would choose first: a little from above, then level."""
    out = []
    for elevation in (30, 10, 60, -20, 85, -60):
        step = 30 if abs(elevation) < 70 else 90
        for heading in range(0, 360, step):
            h, e = np.radians(heading), np.radians(elevation)
            out.append([np.sin(h) * np.cos(e), -np.cos(h) * np.cos(e), np.sin(e)])
    return np.array(out)


def with_sight(outcomes: tuple[Outcome, ...], snapshot: Snapshot) -> tuple[Outcome, ...]:
    """The outcomes with a clear direction for each finding that has one; very large parts are left as they are.

    Notes: of the free directions that is taken which has the most free ones round it, so that a flag at the foot of a
    pocket is looked at down its middle.
    """
    if snapshot.part.triangles > _MOST_TRIANGLES or not any(outcome.findings for outcome in outcomes):
        return outcomes
    whole = snapshot.part.whole()
    scene = RayScene(whole)
    around = directions()
    alike = around @ around.T > np.cos(np.radians(40))
    lift = 2e-3 * whole.box.diagonal
    left = _MOST_FINDINGS
    out = []
    for outcome in outcomes:
        findings = []
        for finding in outcome.findings:
            if left > 0:
                left -= 1
                origins = np.array(finding.at) + around * lift
                free = scene.bare_first_hits(origins, around) < 0
                if free.any():
                    best = int(np.argmax(np.where(free, alike @ free.astype(float), -1.0)))
                    finding = replace(finding, seen_from=spot(around[best]))
            findings.append(finding)
        out.append(replace(outcome, findings=tuple(findings)))
    return tuple(out)
