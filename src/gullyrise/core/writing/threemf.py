"""3MF by lib3mf: millimetres, a mesh object a body, a build item a copy."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from gullyrise.core.errors import WriteError
from gullyrise.core.geometry import Transform
from gullyrise.core.part import Part


def write_3mf(part: Part, path: Path) -> list[str]:
    """Keeps names, copies and the unit. Raises WriteError with the library's reason."""
    import lib3mf
    from lib3mf import get_wrapper

    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    try:
        for body in part.bodies:
            made = model.AddMeshObject()
            made.SetName(body.name)
            made.SetGeometry(_positions(lib3mf, body.mesh.vertices), _triangles(lib3mf, body.mesh.faces))
            for place in body.placements:
                model.AddBuildItem(made, _transform(lib3mf, place))
        model.QueryWriter("3mf").WriteToFile(str(path))
    except lib3mf.ELib3MFException as error:
        raise WriteError(f"{part.name} cannot be written as 3MF: {error}; mend the mesh first.") from error
    said = ["3MF rounds coordinates to single precision."]
    if any(body.kind == "solid" for body in part.bodies):
        said.append("3MF holds no exact surfaces; triangles are written.")
    return said


def _positions(lib3mf: Any, vertices: np.ndarray) -> Any:
    """The library's own array type, filled in one copy."""
    packed = np.ascontiguousarray(vertices, dtype=np.float32)
    return (lib3mf.Position * len(packed)).from_buffer_copy(packed.tobytes())


def _triangles(lib3mf: Any, faces: np.ndarray) -> Any:
    packed = np.ascontiguousarray(faces, dtype=np.uint32)
    return (lib3mf.Triangle * len(packed)).from_buffer_copy(packed.tobytes())


def _transform(lib3mf: Any, place: Transform) -> Any:
    out = lib3mf.Transform()
    for row in range(4):
        for column in range(3):
            out.Fields[row][column] = float(place.matrix[column, row])
    return out
