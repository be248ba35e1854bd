"""Opening 1.3M-triangle files of every mesh format, against the fastest library reader at hand for each; time and memory."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import trimesh

from benchmarks.timing import Ratio
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.part import Body, Part
from gullyrise.core.reading import read
from gullyrise.core.writing import write


def ours(path: Path) -> Any:
    return read(path)


def by_vtk(name: str) -> Callable[[Path], Any]:
    def load(path: Path) -> Any:
        import vtkmodules.vtkIOGeometry as geometry
        import vtkmodules.vtkIOPLY as ply

        reader = getattr(geometry, name, None) or getattr(ply, name)
        made = reader()
        made.SetFileName(str(path))
        made.Update()
        return made.GetOutput()

    return load


def by_igl(path: Path) -> Any:
    import igl

    return igl.read_triangle_mesh(str(path))


def by_trimesh(path: Path) -> Any:
    return trimesh.load(path, process=False)


def by_lib3mf(path: Path) -> Any:
    from lib3mf import get_wrapper

    model = get_wrapper().CreateModel()
    model.QueryReader("3mf").ReadFromFile(str(path))
    meshes = model.GetMeshObjects()
    meshes.MoveNext()
    mesh = meshes.GetCurrentMeshObject()
    return mesh.GetVertices(), mesh.GetTriangleIndices()


def by_elementtree(path: Path) -> Any:
    """No library at hand knows AMF; this is the plain way through the standard library's parser."""
    from xml.etree import ElementTree

    mesh = ElementTree.parse(path).getroot().find("object/mesh")
    assert mesh is not None
    corners = mesh.iterfind("vertices/vertex/coordinates")
    points = np.array([[float(one.findtext(axis) or 0) for axis in "xyz"] for one in corners])
    faces = [[int(one.findtext(side) or 0) for side in ("v1", "v2", "v3")] for one in mesh.iterfind("volume/triangle")]
    return points, np.array(faces)


THEIRS: dict[str, tuple[Callable[[Path], Any], ...]] = {
    "binary.stl": (by_vtk("vtkSTLReader"), by_trimesh),
    "ascii.stl": (by_vtk("vtkSTLReader"), by_igl, by_trimesh),
    "mesh.obj": (by_vtk("vtkOBJReader"), by_igl, by_trimesh),
    "binary.ply": (by_vtk("vtkPLYReader"), by_trimesh),
    "ascii.ply": (by_vtk("vtkPLYReader"), by_trimesh),
    "mesh.off": (by_vtk("vtkOFFReader"), by_igl, by_trimesh),
    "mesh.3mf": (by_lib3mf,),
    "mesh.amf": (by_elementtree,),
    "mesh.glb": (by_trimesh, by_vtk("vtkGLTFReader")),
}
_ASCII = ("ascii.stl", "mesh.obj", "ascii.ply", "mesh.off", "mesh.amf")


def write_amf(mesh: trimesh.Trimesh, path: Path) -> None:
    with path.open("w") as stream:
        stream.write('<?xml version="1.0" encoding="UTF-8"?>\n<amf unit="millimeter">\n<object id="0"><mesh><vertices>\n')
        for x, y, z in mesh.vertices.tolist():
            stream.write(f"<vertex><coordinates><x>{x:.9g}</x><y>{y:.9g}</y><z>{z:.9g}</z></coordinates></vertex>\n")
        stream.write("</vertices><volume>\n")
        for a, b, c in mesh.faces.tolist():
            stream.write(f"<triangle><v1>{a}</v1><v2>{b}</v2><v3>{c}</v3></triangle>\n")
        stream.write("</volume></mesh></object></amf>\n")


def make_files(folder: Path) -> Iterator[tuple[str, Path]]:
    """The files, each written by a library that is not ours but for 3MF and AMF, and taken away once it has been used."""
    made = trimesh.creation.icosphere(8, 60.0)
    for name in THEIRS:
        path = folder / name
        if name == "ascii.stl":
            made.export(path, file_type="stl_ascii")
        elif name == "ascii.ply":
            made.export(path, encoding="ascii")
        elif name == "mesh.amf":
            write_amf(made, path)
        elif name == "mesh.3mf":
            body = Body("ball", "mesh", Mesh(np.asarray(made.vertices), np.asarray(made.faces)), (Transform.identity(),))
            write(Part("ball", "ball", "stl", "mm", "assumed", (body,)), path)
        else:
            made.export(path)
        yield name, path
        path.unlink()


def alone(load: Callable[[Path], Any], path: Path) -> tuple[float, int]:
    """(seconds, bytes of memory at the peak) of one load in a process of its own, its modules loaded beforehand by a first try."""
    ours_end, theirs_end = os.pipe()
    child = os.fork()
    if child == 0:
        try:
            Path("/proc/self/clear_refs").write_text("5")
            before = _peak()
            start = time.perf_counter()
            kept = load(path)
            taken = time.perf_counter() - start
            os.write(theirs_end, f"{taken} {_peak() - before}".encode())
            del kept
        finally:
            os._exit(0)
    os.close(theirs_end)
    with os.fdopen(ours_end) as stream:
        said = stream.read()
    os.waitpid(child, 0)
    taken, peak = said.split() if said else ("nan", "0")
    return float(taken), int(peak)


def _peak() -> int:
    words = Path("/proc/self/status").read_text()
    return int(words.split("VmHWM:")[1].split()[0]) * 1024


def all_of(folder: Path) -> Iterator[Ratio]:
    """A ratio a format; `more` says the peak of memory in multiples of the arrays (24 bytes a vertex, 12 a triangle)."""
    small = folder / "small"
    small.mkdir()
    arrays = 655_362 * 24 + 1_310_720 * 12
    warm = trimesh.creation.icosphere(1, 1.0)
    for name, path in make_files(folder):
        tiny = small / name
        if name == "mesh.amf":
            write_amf(warm, tiny)
        elif name != "mesh.3mf":
            warm.export(tiny)
        for load in (ours, *THEIRS[name]):
            if tiny.exists():
                load(tiny)
        mine = [alone(ours, path) for _ in range(2)]
        theirs = {load: min(alone(load, path) for _ in range(2)) for load in THEIRS[name]}
        best = min(taken for taken, _ in theirs.values() if taken == taken)
        wanted = "at most 1.5" if name in _ASCII else "at most 2"
        memory = max(peak for _, peak in mine) / arrays
        yield Ratio(
            f"opening 1.3M triangles, {name}", min(taken for taken, _ in mine), best, wanted, f"memory {memory:.1f} of 6 arrays"
        )


def main() -> int:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        for ratio in all_of(Path(folder)):
            print(ratio.line(), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
