"""Numbers along the rulers of the bed; apart from `shapes`, so that the interface needs no VTK for them."""

from __future__ import annotations

import numpy as np

from gullyrise.core.machines import Machine


def ruler_marks(machine: Machine) -> list[tuple[np.ndarray, str]]:
    """Places and words of the ruler's numbers, every 50 mm along the front and right edges."""
    box = machine.envelope.box
    front = [(np.array([box.low[0] + step, box.low[1] - 12, 0.0]), f"{step:.0f}") for step in np.arange(0, box.size[0] + 1, 50)]
    right = [(np.array([box.high[0] + 12, box.low[1] + step, 0.0]), f"{step:.0f}") for step in np.arange(50, box.size[1] + 1, 50)]
    return front + right


def axis_length(machine: Machine) -> float:
    """mm that the machine's axes are drawn long."""
    return float(machine.envelope.box.size[:2].min()) / 3
