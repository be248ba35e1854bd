"""STL, OBJ and PLY by trimesh; millimetres, copies as they stand in the file."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from gullyrise.core.part import Part
from gullyrise.core.writing.losses import Holds, lost


def write_stl(part: Part, path: Path) -> list[str]:
    """Binary STL of all copies."""
    # Half a second to come in, and only those who write have to wait for it.
    import trimesh

    mesh = part.whole()
    made = trimesh.Trimesh(np.array(mesh.vertices), np.array(mesh.faces), process=False, validate=False)
    path.write_bytes(trimesh.exchange.stl.export_stl(made))
    return lost(part, "STL", Holds(exact_numbers=False))


def write_ply(part: Part, path: Path) -> list[str]:
    """Binary PLY of all copies, double precision."""
    mesh = part.whole()
    header = (
        "ply\nformat binary_little_endian 1.0\ncomment millimetres\n"
        f"element vertex {len(mesh.vertices)}\nproperty double x\nproperty double y\nproperty double z\n"
        f"element face {len(mesh.faces)}\nproperty list uchar int vertex_indices\nend_header\n"
    )
    faces = np.empty(len(mesh.faces), dtype=[("n", "u1"), ("corners", "<i4", 3)])
    faces["n"], faces["corners"] = 3, mesh.faces
    path.write_bytes(header.encode() + mesh.vertices.astype("<f8").tobytes() + faces.tobytes())
    return lost(part, "PLY", Holds())


def write_obj(part: Part, path: Path) -> list[str]:
    """OBJ with one object a copy."""
    offset, text = 1, ["# millimetres"]
    for name, _, mesh in part.copies():
        text.append("o " + "_".join(name.split()))
        text.append("\n".join("v {:.12g} {:.12g} {:.12g}".format(*row) for row in mesh.vertices.tolist()))
        text.append("\n".join("f {} {} {}".format(*row) for row in (mesh.faces.astype(np.int64) + offset).tolist()))
        offset += len(mesh.vertices)
    path.write_text("\n".join(text) + "\n", encoding="utf-8")
    return lost(part, "OBJ", Holds(names=True))
