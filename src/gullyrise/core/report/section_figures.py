"""What a section measures, as rows for a table or a tooltip."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from gullyrise.core.cutting.section import Section
from gullyrise.core.report.outlines import extent_of

if TYPE_CHECKING:
    # The kernel takes two seconds to load, and a window needs it only in its workers.
    from gullyrise.core.solids.sections import ExactSection


def figures_of(section: Section, exact: ExactSection | None) -> list[tuple[str, float, str]]:
    """(name, value, unit) of a section. exact : the same of solids, as far as the kernel has it"""
    source = exact if exact is not None else section
    out = [("area", float(source.area), "mm²"), ("outline", float(source.perimeter), "mm")]
    centre = section.centroid
    if exact is not None and exact.centroid is not None:
        u, v = section.plane.frame()
        centre = section.plane.point + exact.centroid[0] * u + exact.centroid[1] * v
    if centre is not None:
        out += [(f"centroid {axis}", float(centre[k]), "mm") for k, axis in enumerate("XYZ")]
    second = exact.second if exact is not None else section.second
    if second is not None:
        least, most = np.linalg.eigvalsh(second)
        out += [
            ("second moment along u", float(second[0, 0]), "mm⁴"), ("second moment along v", float(second[1, 1]), "mm⁴"),
            ("product of u and v", float(second[0, 1]), "mm⁴"), ("largest second moment", float(most), "mm⁴"),
            ("smallest second moment", float(least), "mm⁴"),
        ]  # fmt: skip
    box = section.box()
    if box is not None:
        low, high = extent_of(tuple(exact.outlines)) if exact is not None and exact.outlines else box
        out += [("width", float(high[0] - low[0]), "mm"), ("height", float(high[1] - low[1]), "mm")]
    if section.open_length:
        out.append(("open outlines", float(section.open_length), "mm"))
    return out
