"""The outlines of a section as SVG, DXF and CSV, to scale in millimetres."""

from __future__ import annotations

import csv
from collections.abc import Callable
from dataclasses import replace
from io import StringIO
from pathlib import Path

import numpy as np

from gullyrise.core.cutting import Section
from gullyrise.core.geometry import Floats
from gullyrise.core.geometry.outline import Outline, circle_of, rounded
from gullyrise.core.geometry.plane import flat


def outlines_of(section: Section, arcs_within: float = 0.0) -> tuple[Outline, ...]:
    """The outlines laid flat in the frame of their plane. arcs_within : mm within which corners on a circle become an arc; 0
    leaves them as they are."""
    out = []
    for loop in section.loops:
        ring = flat(loop.points, section.plane)
        plain = Outline(ring, np.zeros(len(ring)), loop.closed)
        made = rounded(ring, closed=loop.closed, within=arcs_within) if arcs_within else plain
        out.append(replace(made, body=loop.body))
    return tuple(out)


def extent_of(outlines: tuple[Outline, ...]) -> tuple[Floats, Floats]:
    """Lowest and highest place (2,) of all outlines, mm; a unit square without any."""
    if not outlines:
        return np.zeros(2), np.ones(2)
    places = np.concatenate([*(one.points for one in outlines), *(_bulging(one) for one in outlines)])
    return places.min(axis=0), places.max(axis=0)


def _bulging(outline: Outline) -> Floats:
    """(n, 2) where arcs reach farthest along either axis."""
    starts, ends, bulges = outline.ways()
    out = []
    for a, b, bulge in zip(starts, ends, bulges, strict=True):
        if not bulge:
            continue
        centre, radius = circle_of(a, b, float(bulge))
        for way in ((1, 0), (0, 1), (-1, 0), (0, -1)):
            place = centre + radius * np.array(way, dtype=float)
            beyond = (b - a)[0] * (place - a)[1] - (b - a)[1] * (place - a)[0]
            if beyond * bulge < 0:
                out.append(place)
    return np.array(out).reshape(-1, 2)


def write_svg(outlines: tuple[Outline, ...], path: Path) -> None:
    """A file of `svg_of`."""
    path.write_text(svg_of(outlines), encoding="utf-8")


def svg_of(outlines: tuple[Outline, ...], stroke: float = 0.1) -> str:
    """One path, filled by the NonZero rule; open chains are drawn dashed. Up in the picture is the frame's second direction.
    stroke : width of its lines, mm"""
    low, high = extent_of(outlines)
    width, height = np.maximum(high - low, 1e-9)

    def place(at: Floats) -> str:
        # SVG's y points down.
        return f"{at[0] - low[0]:.6f} {high[1] - at[1]:.6f}"

    def words(one: Outline) -> str:
        out = [f"M {place(one.points[0])}"]
        for a, b, bulge in zip(*one.ways(), strict=True):
            if not bulge:
                out.append(f"L {place(b)}")
                continue
            centre, radius = circle_of(a, b, float(bulge))
            # In quarters at most: SVG finds the middle of an arc from its ends, which half a circle leaves open to rounding.
            count = int(np.ceil(abs(4 * np.arctan(bulge)) / (np.pi / 2) - 1e-9))
            for k in range(1, count + 1):
                turn = np.arctan2(*(a - centre)[::-1]) + 4 * np.arctan(bulge) * k / count
                at = b if k == count else centre + radius * np.array([np.cos(turn), np.sin(turn)])
                out.append(f"A {radius:.6f} {radius:.6f} 0 0 {int(bulge < 0)} {place(at)}")
        return " ".join([*out, "Z"] if one.closed else out)

    closed = " ".join(words(one) for one in outlines if one.closed)
    chains = " ".join(words(one) for one in outlines if not one.closed)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.6f}mm" height="{height:.6f}mm" '
        f'viewBox="0 0 {width:.6f} {height:.6f}">\n'
        f'<path d="{closed}" fill="#C9B99A" fill-rule="nonzero" stroke="#1F2A30" stroke-width="{stroke:g}"/>\n'
        f'<path d="{chains}" fill="none" stroke="#A33B2E" stroke-width="{stroke:g}" '
        f'stroke-dasharray="{10 * stroke:g} {5 * stroke:g}"/>\n</svg>\n'
    )


def write_dxf(outlines: tuple[Outline, ...], path: Path) -> None:
    """Polylines of lines and arcs in the plane's frame, DXF R2000, millimetres; open chains on a layer of their own."""
    # Half a second to come in: every worker that cuts would wait for what only this file needs.
    import ezdxf
    from ezdxf import units

    document = ezdxf.new("R2000")
    document.units = units.MM
    document.layers.add("OUTLINE")
    document.layers.add("OPEN", color=1)
    space = document.modelspace()
    for one in outlines:
        rows = np.column_stack([one.points, one.bulge]).tolist()
        layer = "OUTLINE" if one.closed else "OPEN"
        space.add_lwpolyline(rows, format="xyb", close=one.closed, dxfattribs={"layer": layer})
    document.saveas(path)


def write_csv(outlines: tuple[Outline, ...], figures: list[tuple[str, float, str]], path: Path) -> None:
    """Figures of the section, then the corners of its outlines with the bulge of the way that follows each. figures : (name,
    value, unit)"""
    text = StringIO()
    rows = csv.writer(text, lineterminator="\n")
    rows.writerow(["figure", "value", "unit"])
    rows.writerows([name, f"{value:.9g}", unit] for name, value, unit in figures)
    rows.writerow([])
    rows.writerow(["outline", "closed", "x mm", "y mm", "bulge"])
    for number, one in enumerate(outlines, 1):
        for (x, y), bulge in zip(one.points.tolist(), one.bulge.tolist(), strict=True):
            rows.writerow([number, "yes" if one.closed else "no", f"{x:.6f}", f"{y:.6f}", f"{bulge:.9g}"])
    path.write_text(text.getvalue(), encoding="utf-8")


Figures = list[tuple[str, float, str]]
EXPORTS: dict[str, tuple[str, Callable[[tuple[Outline, ...], Figures, Path], None]]] = {
    ".dxf": ("Drawing, DXF", lambda outlines, _, path: write_dxf(outlines, path)),
    ".svg": ("Drawing, SVG", lambda outlines, _, path: write_svg(outlines, path)),
    ".csv": ("Table, CSV", write_csv),
}
"""What a section can be saved as, by the ending of the file: what that is, and what writes it."""
