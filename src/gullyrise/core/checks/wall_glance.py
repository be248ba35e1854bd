"""A first look at thickness: what can be shown of a very large part while its walls are being measured.

Source: J. Ma, S. W. Bae, S. Choi, "3D medial axis point approximation using nearest neighbors and the normal field", The Visual
Computer 28 (2012), here as published, against samples: near edges it reads too thin, which is why it gives no verdict.
"""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.ball import OPPOSED
from gullyrise.core.geometry.sampling import spread

_CROWD, _ASKED, _STEPS = 60_000, 20_000, 12


def glance_at(mesh: Mesh, cap: float) -> np.ndarray:
    """(m,) float32 thickness of each face, mm, from a sample near it in the order of faces; NaN where none says anything.

    cap : readings end there, mm. Notes: faces that follow one another in a file lie side by side, so that each may take the
    reading of the sample at its share of the area; no search is needed.
    """
    crowd = spread(mesh, _CROWD, every_face=False)
    values = np.full(len(mesh.faces), np.nan, dtype=np.float32)
    if not len(crowd.points):
        return values
    asked = crowd.take(np.arange(0, len(crowd.points), max(1, len(crowd.points) // _ASKED)))
    tree = cKDTree(crowd.points)
    radius = np.full(len(asked.points), cap / 2)
    cosine = np.full(len(radius), -1.0)
    active = np.arange(len(radius))
    for _ in range(_STEPS):
        centre = asked.points[active] - asked.normals[active] * radius[active, None]
        found, which = tree.query(centre)
        distance, index = np.asarray(found), np.asarray(which)
        away = asked.points[active] - crowd.points[index]
        lean = 2 * np.einsum("ij,ij->i", away, asked.normals[active])
        with np.errstate(divide="ignore", invalid="ignore"):
            smaller = np.einsum("ij,ij->i", away, away) / lean
        deeper = (distance < radius[active] * 0.98) & (lean > 0) & (smaller > 0) & (smaller < radius[active])
        active, smaller, index = active[deeper], smaller[deeper], index[deeper]
        if not len(active):
            break
        radius[active] = smaller
        toward = crowd.points[index] - asked.points[active] + asked.normals[active] * smaller[:, None]
        cosine[active] = np.einsum("ij,ij->i", toward, asked.normals[active]) / smaller
    reading = np.where(cosine < OPPOSED, 2 * radius, np.nan)
    share = np.cumsum(mesh.face_areas())
    nearest = np.searchsorted(np.cumsum(asked.weight), share / share[-1] * asked.weight.sum()).clip(0, len(reading) - 1)
    like = np.einsum("ij,ij->i", asked.normals[nearest], mesh.normals()) > 0.8
    values[like] = reading[nearest[like]]
    return values
