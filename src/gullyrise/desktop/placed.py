"""Boxes of parts as they stand, from the figures that came with them: no arrays are touched."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Box
from gullyrise.core.job import Standing


def placed_box(standings: list[Standing]) -> Box | None:
    """The box round parts on the bench, mm."""
    boxes = [standing.ground for standing in standings]
    if not boxes:
        return None
    return Box(np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0))
