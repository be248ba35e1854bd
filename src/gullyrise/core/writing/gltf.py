"""GLB by trimesh: metres, Y up, a mesh a body, a node a copy."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from gullyrise.core.geometry import Transform
from gullyrise.core.part import Body, Part
from gullyrise.core.writing.losses import Holds, lost

if TYPE_CHECKING:
    from trimesh.visual.material import PBRMaterial

_HOLDS = Holds(unit=True, names=True, copies=True, colours=True, exact_numbers=False)
# glTF's up is +Y and its front +Z; here up is +Z and the front is seen along +Y.
_LAID_DOWN = Transform(np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]]))


def write_glb(part: Part, path: Path) -> list[str]:
    """Keeps names, copies and colours."""
    # As in meshes.py: only those who write wait for it.
    import trimesh

    scene = trimesh.Scene()
    for body in part.bodies:
        made = trimesh.Trimesh(body.mesh.vertices / 1000, np.array(body.mesh.faces), process=False, validate=False)
        if body.colour is not None:
            made.visual = trimesh.visual.TextureVisuals(material=_material(body))
        for number, place in enumerate(body.placements, 1):
            matrix = place.then(_LAID_DOWN).matrix.copy()
            matrix[:3, 3] /= 1000
            node = body.name if body.count == 1 else f"{body.name} ({number})"
            if number == 1:
                scene.add_geometry(made, node_name=node, geom_name=body.name, transform=matrix)
            else:
                scene.graph.update(frame_to=node, matrix=matrix, geometry=body.name)
    path.write_bytes(trimesh.exchange.gltf.export_glb(scene, include_normals=False))
    return lost(part, "GLB", _HOLDS)


def _material(body: Body) -> PBRMaterial:
    from trimesh.visual.material import PBRMaterial

    linear = [_straight(value) for value in body.colour or (1.0, 1.0, 1.0)]
    return PBRMaterial(baseColorFactor=[*linear, 1.0], metallicFactor=0.0, roughnessFactor=0.9)


def _straight(value: float) -> float:
    """Linear light of a value on the sRGB curve (IEC 61966-2-1), which is what glTF's factors are."""
    return value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4
