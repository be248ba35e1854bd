"""The sections that a job keeps, with its saved views: each with its flat profile as a drawing and its figures."""

from __future__ import annotations

import numpy as np

from gullyrise.core.cutting.section import cut as cut_through
from gullyrise.core.job import Job
from gullyrise.core.number_words import number
from gullyrise.core.report.outlines import extent_of, outlines_of, svg_of
from gullyrise.core.report.report_model import Picture, SectionPart
from gullyrise.core.report.section_figures import figures_of

_FINE = 2.5e-3
_TOLD = ("area", "outline", "width", "height", "open outlines")


def section_parts(job: Job, left_out: frozenset[int]) -> tuple[SectionPart, ...]:
    """One for each cut of each saved view that meets something. left_out : ids of parts that are not told of"""
    out = []
    for view in job.views:
        for number_of, cut in enumerate(view.cuts, 1):
            meshes = []
            for placed in job.parts:
                if placed.id in left_out:
                    continue
                places = [(body, place) for body in placed.part.bodies for place in body.placements]
                touched = [one for copy, one in enumerate(places) if cut.touches((placed.id, copy))]
                meshes += [body.mesh.placed(place).placed(placed.placement) for body, place in touched]
            found = cut_through(meshes, cut.plane)
            if not found.loops:
                continue
            outlines = outlines_of(found)
            low, high = extent_of(outlines)
            caption = view.name if len(view.cuts) == 1 else f"{view.name}, {number_of}"
            out.append(
                SectionPart(
                    caption=f"{caption}: {cut.words}",
                    picture=Picture(view.picture, view.name) if view.picture and number_of == 1 else None,
                    drawing=svg_of(outlines, stroke=_FINE * float(np.max(high - low))),
                    rows=tuple(
                        (name, f"{number(value)} {unit}") for name, value, unit in figures_of(found, None) if name in _TOLD
                    ),
                )
            )
    return tuple(out)
