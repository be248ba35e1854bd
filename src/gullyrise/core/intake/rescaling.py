"""A part read in another unit than it was taken to be in."""

from __future__ import annotations

from dataclasses import replace

from gullyrise.core.geometry import Transform
from gullyrise.core.intake.units import factor_of
from gullyrise.core.part import Body, Part


def rescaled(part: Part, unit: str) -> Part:
    """The part with the numbers of its file taken for that unit, which counts as given. Raises LimitsError for no unit."""
    factor = factor_of(unit) / factor_of(part.unit)
    bodies = tuple(body_times(body, factor) for body in part.bodies)
    return replace(part, unit=unit, unit_source="given", bodies=bodies)


def body_times(body: Body, factor: float) -> Body:
    """The body with all its lengths, placements and its exact surfaces times a factor."""
    exact = body.exact
    if exact is not None and factor != 1:
        # The kernel takes a second to load, and only solids need it.
        from gullyrise.core.solids.harvest import scaled

        exact = scaled(exact, factor)
    moved = []
    for place in body.placements:
        matrix = place.matrix.copy()
        matrix[:3, 3] *= factor
        moved.append(Transform(matrix))
    return replace(body.scaled(factor), placements=tuple(moved), exact=exact)
