"""Doing what was done to a part's shape, the first time and whenever a job is opened."""

from __future__ import annotations

from typing import Any

import numpy as np

from gullyrise.core.geometry import Plane
from gullyrise.core.job.origins import Change, Finer, Repairs, Split, Unit
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress, silent


def done(part: Part, step: Change, progress: Progress = silent) -> tuple[Part, Any]:
    """(the part after a step, what there is to tell: the changes of repairs, else None)."""
    if isinstance(step, Unit):
        from gullyrise.core.intake.rescaling import rescaled

        progress("scaling", 0, 0)
        return rescaled(part, step.unit), None
    if isinstance(step, Repairs):
        from gullyrise.core.intake.repairs import repaired

        return repaired(part, step.mends, progress)
    if isinstance(step, Finer):
        from gullyrise.core.solids.harvest import refined

        return refined(part, step.chord, progress), None
    if isinstance(step, Split):
        from gullyrise.core.cutting.splitting import half_of

        progress("cutting it in two", 0, 0)
        return half_of(part, Plane(np.array(step.point), np.array(step.normal)), step.side, step.pegs), None
    from gullyrise.core.placing.stretching import stretched

    progress("making it larger or smaller", 0, 0)
    return stretched(part, np.array(step.linear)), None
