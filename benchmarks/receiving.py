"""Opening 1.3M-triangle files of every mesh format, against the fastest library reader at hand for each; time and memory."""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from importlib import import_module
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


def by_vtk(name: str, room: str = "vtkIOGeometry") -> Callable[[Path], Any]:
    def load(path: Path) -> Any:
        made = getattr(import_module(f"vtkmodules.{room}"), name)()
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
    "binary.ply": (by_vtk("vtkPLYReader", "vtkIOPLY"), by_trimesh),
    "ascii.ply": (by_vtk("vtkPLYReader", "vtkIOPLY"), by_trimesh),
    "mesh.off": (by_vtk("vtkOFFReader"), by_igl, by_trimesh),
    "mesh.3mf": (by_lib3mf,),
    "mesh.amf": (by_elementtree,),
    "mesh.glb": (by_trimesh, by_vtk("vtkGLTFReader")),
}
_SLOW = ("ascii.stl", "mesh.3mf", "mesh.amf")
"""What takes seconds."""
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


def write_3mf(mesh: trimesh.Trimesh, path: Path) -> None:
    body = Body("ball", "mesh", Mesh(np.asarray(mesh.vertices), np.asarray(mesh.faces)), (Transform.identity(),))
    write(Part("ball", "ball", "stl", "mm", "assumed", (body,)), path)


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
            write_3mf(made, path)
        else:
            made.export(path)
        yield name, path
        path.unlink()


def alone(which: str, name: str, path: Path, tiny: Path) -> tuple[float, int]:
    """(seconds, bytes of memory at the peak) of one load in a fresh process, its modules loaded beforehand with a tiny file."""
    words = [sys.executable, "-m", "benchmarks.receiving", which, name, str(path), str(tiny)]
    done = subprocess.run(words, capture_output=True, text=True, timeout=600, check=False)
    said = done.stdout.split()
    return (float(said[-2]), int(said[-1])) if done.returncode == 0 else (float("nan"), 0)


def one(which: str, name: str, path: Path, tiny: Path) -> None:
    """What `alone` runs. which : `ours` or the place in THEIRS"""
    load = ours if which == "ours" else THEIRS[name][int(which)]
    load(tiny)
    Path("/proc/self/clear_refs").write_text("5")
    before = _peak()
    start = time.perf_counter()
    kept = load(path)
    print(time.perf_counter() - start, _peak() - before)
    del kept


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
        elif name == "mesh.3mf":
            write_3mf(warm, tiny)
        else:
            warm.export(tiny)
        # What takes tenths of a second varies by half from run to run, and one side is not to have all the luck.
        mine: list[tuple[float, int]] = []
        theirs: list[float] = []
        for _ in range(2 if name in _SLOW else 6):
            mine.append(alone("ours", name, path, tiny))
            theirs += [alone(str(place), name, path, tiny)[0] for place in range(len(THEIRS[name]))]
        best = min(taken for taken in theirs if taken == taken)
        wanted = "at most 1.5" if name in _ASCII else "at most 2"
        memory = max(peak for _, peak in mine) / arrays
        yield Ratio(
            f"opening 1.3M triangles, {name}", min(taken for taken, _ in mine), best, wanted, f"memory {memory:.1f} of 6 arrays"
        )


def info_of_200(folder: Path) -> Ratio:
    """`info` on 200 small files in one call: seconds of processor time in all, against 10."""
    for number in range(200):
        kind = ("stl", "obj", "ply", "off", "glb")[number % 5]
        trimesh.creation.icosphere(2, 5 + number / 10).export(folder / f"small-{number}.{kind}")
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    files = sorted(str(path) for path in folder.glob("small-*"))
    subprocess.run([sys.executable, "-m", "gullyrise", "info", *files, "--json", "-"], capture_output=True, check=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    taken = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    return Ratio("info on 200 small files, processor time", taken, 10.0, "at most 1 (10 s)")


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        for ratio in all_of(Path(folder)):
            print(ratio.line(), flush=True)
        print(info_of_200(Path(folder)).line(), flush=True)
    return 0


if __name__ == "__main__":
    if len(sys.argv) > 1:
        one(sys.argv[1], sys.argv[2], Path(sys.argv[3]), Path(sys.argv[4]))
    else:
        sys.exit(main())
