"""A section as SVG or DXF, to scale in millimetres."""

from __future__ import annotations

from pathlib import Path

import ezdxf
import numpy as np
from ezdxf import units

from gullyrise.core.cutting import Section
from gullyrise.core.cutting.section import flat


def write_svg(section: Section, path: Path) -> None:
    """One path, filled by the NonZero rule; open chains are drawn dashed. Up in the picture is the frame's second direction."""
    rings = [(flat(loop.points, section.plane), loop.closed) for loop in section.loops]
    if rings:
        every = np.concatenate([ring for ring, _ in rings])
        low, high = every.min(axis=0), every.max(axis=0)
    else:
        low, high = np.zeros(2), np.ones(2)
    width, height = np.maximum(high - low, 1e-9)

    def words(ring: np.ndarray) -> str:
        # SVG's y points down.
        return " L ".join(f"{x - low[0]:.6f} {high[1] - y:.6f}" for x, y in ring)

    closed = " ".join(f"M {words(ring)} Z" for ring, is_closed in rings if is_closed)
    chains = " ".join(f"M {words(ring)}" for ring, is_closed in rings if not is_closed)
    path.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.6f}mm" height="{height:.6f}mm" '
        f'viewBox="0 0 {width:.6f} {height:.6f}">\n'
        f'<path d="{closed}" fill="#C9B99A" fill-rule="nonzero" stroke="#1F2A30" stroke-width="0.1"/>\n'
        f'<path d="{chains}" fill="none" stroke="#A33B2E" stroke-width="0.1" stroke-dasharray="1 0.5"/>\n</svg>\n',
        encoding="utf-8",
    )


def write_dxf(section: Section, path: Path) -> None:
    """Polylines in the plane's frame, DXF R2000, millimetres; open chains on a layer of their own."""
    document = ezdxf.new("R2000")
    document.units = units.MM
    document.layers.add("OUTLINE")
    document.layers.add("OPEN", color=1)
    space = document.modelspace()
    for loop in section.loops:
        layer = "OUTLINE" if loop.closed else "OPEN"
        space.add_lwpolyline(flat(loop.points, section.plane).tolist(), close=loop.closed, dxfattribs={"layer": layer})
    document.saveas(path)
