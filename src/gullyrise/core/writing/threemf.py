"""3MF by lib3mf: millimetres, a mesh object a body, a build item a copy."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from gullyrise.core.errors import WriteError
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.transform import MIRROR
from gullyrise.core.part import Colour, Part
from gullyrise.core.writing.losses import Holds, lost

_HOLDS = Holds(unit=True, names=True, copies=True, colours=True, exact_numbers=False)


def write_3mf(part: Part, path: Path) -> list[str]:
    """Keeps names, copies and the unit. Raises WriteError with the library's reason."""
    import lib3mf
    from lib3mf import get_wrapper

    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    try:
        paints = _Paints(lib3mf, model)
        for body in part.bodies:
            plain = [place for place in body.placements if not place.mirrors]
            # The format knows no mirrors: what is mirrored is a shape of its own.
            flipped = [MIRROR.then(place) for place in body.placements if place.mirrors]
            for mesh, places in ((body.mesh, plain), (body.mesh.placed(MIRROR), flipped)):
                if not places:
                    continue
                made = model.AddMeshObject()
                made.SetName(body.name)
                made.SetGeometry(_positions(lib3mf, mesh.vertices), _triangles(lib3mf, mesh.faces))
                if body.colour is not None:
                    made.SetObjectLevelProperty(*paints.of(body.colour))
                for place in places:
                    model.AddBuildItem(made, _transform(lib3mf, place))
        model.QueryWriter("3mf").WriteToFile(str(path))
    except lib3mf.ELib3MFException as error:
        raise WriteError(f"{part.name} cannot be written as 3MF: {error}; repair the mesh first.") from error
    return lost(part, "3MF", _HOLDS)


class _Paints:
    """The base materials of a model, one a colour."""

    def __init__(self, lib3mf: Any, model: Any) -> None:
        self._lib3mf, self._model = lib3mf, model
        self._group: Any = None
        self._known: dict[Colour, int] = {}

    def of(self, colour: Colour) -> tuple[int, int]:
        """(resource, property) of a colour."""
        if self._group is None:
            self._group = self._model.AddBaseMaterialGroup()
        if colour not in self._known:
            red, green, blue = (round(value * 255) for value in colour)
            shown = self._lib3mf.Color(red, green, blue, 255)
            self._known[colour] = self._group.AddMaterial(f"#{red:02x}{green:02x}{blue:02x}", shown)
        return self._group.GetResourceID(), self._known[colour]


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
