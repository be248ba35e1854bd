"""Names for the array shapes that the core passes about."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
"""(n, 3) float64, millimetres (or unit directions where said)."""
Floats = NDArray[np.float64]
"""(n,) float64."""
Faces = NDArray[np.int32]
"""(m, 3) int32, rows of vertex indices, counter-clockwise seen from outside."""
Ints = NDArray[np.int64]
"""(n,) int64."""
Bools = NDArray[np.bool_]


def frozen(array: NDArray[Any], dtype: Any) -> NDArray[Any]:
    """A contiguous read-only array of that dtype, sharing memory where it already is one."""
    out = np.ascontiguousarray(array, dtype=dtype)
    if out.flags.writeable:
        out = out.view()
        out.flags.writeable = False
    return out


def crossed(a: Points, b: Points) -> Points:
    """(n, 3) cross products of rows. Written out: the library's general product takes three times as long."""
    out = np.empty(np.broadcast_shapes(a.shape, b.shape))
    out[:, 0] = a[:, 1] * b[:, 2] - a[:, 2] * b[:, 1]
    out[:, 1] = a[:, 2] * b[:, 0] - a[:, 0] * b[:, 2]
    out[:, 2] = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return out


def unit_rows(vectors: Points) -> Points:
    """Rows scaled to length one; zero rows stay zero."""
    length = np.sqrt(np.einsum("ij,ij->i", vectors, vectors))
    length[length == 0] = 1.0
    return np.asarray(vectors / length[:, None])
