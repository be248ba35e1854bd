"""A part made larger or smaller: its shape itself changes, so that every check sees the new one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.errors import PlacingError
from gullyrise.core.geometry import Floats, Transform
from gullyrise.core.part import Body, Part, renamed

LEAST, MOST = 1e-4, 1e4


def stretch_of(turn: Floats, factors: Floats) -> Floats:
    """(3, 3) in a part's own coordinates what factors along the machine's axes are, for a part turned by (3, 3)."""
    return np.asarray(np.linalg.inv(turn) @ np.diag(factors) @ turn)


def stretched(part: Part, linear: Floats) -> Part:
    """The part under a linear map (3, 3) of its own coordinates. Raises PlacingError for one that is too strong or mirrors.

    Uniform factors keep a solid's surfaces what they are; else they become free-form ones, and copies that the map treats
    differently become bodies of their own.
    """
    scales = np.linalg.svd(linear, compute_uv=False)
    if not np.isfinite(linear).all() or scales.min() < LEAST or scales.max() > MOST or np.linalg.det(linear) <= 0:
        raise PlacingError(f"A part can be made {LEAST:g} to {MOST:,.0f} times as large; choose another factor.")
    factor = float(scales.mean())
    if np.allclose(linear, np.eye(3) * factor, atol=1e-9 * factor):
        from gullyrise.core.intake.rescaling import body_times

        return replace(part, bodies=tuple(body_times(body, factor) for body in part.bodies))
    bodies = [one for body in part.bodies for one in _each(body, linear)]
    return replace(part, bodies=tuple(renamed(bodies)))


def _each(body: Body, linear: Floats) -> list[Body]:
    out = []
    for copy, place in enumerate(body.placements):
        matrix = np.eye(4)
        matrix[:3, :3] = linear
        own = place.then(Transform(matrix))
        if body.exact is not None and not place.mirrors:
            from gullyrise.core.solids.harvest import drawn_out

            fresh = drawn_out(body.name, body.exact, own)
        else:
            fresh = Body(body.name, "mesh", body.mesh.placed(own), (Transform.identity(),))
        out.append(replace(fresh, trails=(body.trail(copy),) if body.trails else (), colour=body.colour))
    return out
