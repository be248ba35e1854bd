"""Files as other programs write them: the same brick and the same L-shaped plate in many hands."""

from __future__ import annotations

import struct
from pathlib import Path

import pytest

from gullyrise.core.errors import Damaged
from gullyrise.core.intake.health import health_of
from gullyrise.core.part import Part
from gullyrise.core.reading import read

BRICK = [(0, 0, 0), (10, 0, 0), (10, 20, 0), (0, 20, 0), (0, 0, 30), (10, 0, 30), (10, 20, 30), (0, 20, 30)]
QUADS = [(3, 2, 1, 0), (4, 5, 6, 7), (0, 1, 5, 4), (1, 2, 6, 5), (2, 3, 7, 6), (3, 0, 4, 7)]
ELL = [(0, 0), (30, 0), (30, 10), (10, 10), (10, 30), (0, 30)]
PLATE = [(x, y, z) for z in (0, 5) for x, y in ELL]
POLYGONS = [tuple(range(5, -1, -1)), tuple(range(6, 12)), *((i, (i + 1) % 6, (i + 1) % 6 + 6, i + 6) for i in range(6))]
TRIANGLES = [corners for a, b, c, d in QUADS for corners in ((a, b, c), (a, c, d))]


def rows(points: list[tuple[float, ...]], lead: str = "", tail: str = "", end: str = "\n") -> str:
    return "".join(f"{lead}{' '.join(map(str, point))}{tail}{end}" for point in points)


def ascii_stl(end: str = "\n") -> str:
    out = ["solid brick"]
    for corners in TRIANGLES:
        out += [
            "facet normal 0 0 0",
            "outer loop",
            *(f"vertex {x} {y} {z}" for x, y, z in (BRICK[i] for i in corners)),
            "endloop",
        ]
        out.append("endfacet")
    return end.join([*out, "endsolid brick", ""])


def binary_stl(head: bytes, tail: bytes = b"") -> bytes:
    facets = [struct.pack("<12fH", 0, 0, 0, *(v for i in corners for v in BRICK[i]), 0) for corners in TRIANGLES]
    return head.ljust(80, b" ") + struct.pack("<I", len(facets)) + b"".join(facets) + tail


def ply(form: str, end: str = "\n") -> bytes:
    """Quads with colours, a property after the list, and an element that nobody asked for."""
    words = [
        "ply", f"format {form} 1.0", "comment made", "element vertex 8", "property float x", "property float y",
        "property float z", "property uchar red", "element face 6", "property list uchar int vertex_indices",
        "property uchar flags", "element edge 1", "property int a", "property int b", "end_header", "",
    ]  # fmt: skip
    head = end.join(words).encode()
    if form == "ascii":
        faces = [(4, *quad, 1) for quad in QUADS]
        return head + (rows(BRICK, tail=" 7", end=end) + rows(faces, end=end) + f"0 1{end}").encode()
    order = "<" if "little" in form else ">"
    vertices = b"".join(struct.pack(order + "3fB", *point, 7) for point in BRICK)
    return (
        head + vertices + b"".join(struct.pack(order + "B4iB", 4, *quad, 1) for quad in QUADS) + struct.pack(order + "2i", 0, 1)
    )


def mixed_ply(form: str) -> bytes:
    head = (
        f"ply\nformat {form} 1.0\nelement vertex 12\nproperty float x\nproperty float y\nproperty float z\n"
        "element face 8\nproperty list uchar int vertex_index\nend_header\n"
    ).encode()
    if form == "ascii":
        return head + (rows(PLATE) + rows([(len(polygon), *polygon) for polygon in POLYGONS])).encode()
    faces = [struct.pack(f"<B{len(polygon)}i", len(polygon), *polygon) for polygon in POLYGONS]
    return head + b"".join(struct.pack("<3f", *point) for point in PLATE) + b"".join(faces)


def obj_faces(polygons: list[tuple[int, ...]], form: str = "{}") -> str:
    return "".join("f " + " ".join(form.format(i + 1) for i in polygon) + "\n" for polygon in polygons)


BRICKS: dict[str, bytes] = {
    "shouting.stl": ascii_stl().upper().encode(),
    "windows.stl": ascii_stl("\r\n").encode(),
    "tabs.stl": ascii_stl().replace(" ", "\t").encode(),
    "marked.stl": b"\xef\xbb\xbf" + ascii_stl().encode(),
    "begins with the word.stl": binary_stl(b"solid thing from a program"),
    "trailing bytes.stl": binary_stl(b"solid thing", b"\0" * 37),
    "negative.obj": (rows(BRICK, "v ") + "".join("f " + " ".join(str(i - 8) for i in c) + "\n" for c in TRIANGLES)).encode(),
    "textured.obj": (rows(BRICK, "v ") + "vt 0 0\nvn 0 0 1\n" + obj_faces(QUADS, "{}/1/1")).encode(),
    "normals.obj": (rows(BRICK, "v ") + "vn 0 0 1\nusemtl red\ns off\n" + obj_faces(QUADS, "{}//1")).encode(),
    "coloured.obj": (rows(BRICK, "v ", " 0.5 0.5 0.5") + "l 1 2\np 3\n" + obj_faces(QUADS)).encode(),
    "continued.obj": (rows(BRICK, "v ") + obj_faces(QUADS).replace(" ", " \\\n ", 1)).encode(),
    "little.ply": ply("binary_little_endian"),
    "big.ply": ply("binary_big_endian"),
    "text.ply": ply("ascii"),
    "windows.ply": ply("ascii", "\r\n"),
    "commented.off": ("OFF\n# a brick\n8 6 0\n" + rows(BRICK) + rows([(4, *quad) for quad in QUADS])).encode(),
    "one line.off": ("OFF 8 6 12\n" + rows(BRICK) + rows([(4, *quad, 255, 0, 0) for quad in QUADS])).encode(),
    "coloured.off": ("COFF\n8 6 12\n" + rows(BRICK, tail=" 9 9 9 9") + rows([(4, *quad, 0.5) for quad in QUADS])).encode(),
    "bare.off": ("8 6 0\n" + rows(BRICK) + rows([(4, *quad) for quad in QUADS])).encode(),
}

PLATES: dict[str, bytes] = {
    "plate.obj": (rows(PLATE, "v ") + obj_faces(POLYGONS)).encode(),
    "plate.off": ("OFF\n12 8 0\n" + rows(PLATE) + rows([(len(polygon), *polygon) for polygon in POLYGONS])).encode(),
    "text plate.ply": mixed_ply("ascii"),
    "plate.ply": mixed_ply("binary_little_endian"),
}


def single(folder: Path, name: str, data: bytes) -> Part:
    path = folder / name
    path.write_bytes(data)
    part = read(path)
    assert len(part.bodies) == 1
    return part


@pytest.mark.parametrize("name", BRICKS)
def test_a_brick_is_a_brick_in_every_hand(name: str, tmp_path: Path) -> None:
    part = single(tmp_path, name, BRICKS[name])
    mesh = part.bodies[0].mesh
    assert part.box.size.tolist() == [10, 20, 30] and len(mesh.faces) == 12 and len(mesh.vertices) == 8
    assert mesh.area == pytest.approx(2200) and health_of(mesh).volume == pytest.approx(6000)
    assert health_of(mesh).watertight and not health_of(mesh).flipped_faces


@pytest.mark.parametrize("name", PLATES)
def test_concave_polygons_are_not_folded_over(name: str, tmp_path: Path) -> None:
    mesh = single(tmp_path, name, PLATES[name]).bodies[0].mesh
    assert mesh.area == pytest.approx(2 * 500 + 120 * 5)
    assert health_of(mesh).volume == pytest.approx(2500) and health_of(mesh).watertight


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("word.obj", b"v 0 0 0\nv 1 0 zero\nv 0 1 0\nf 1 2 3\n"),
        ("corner.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 x\n"),
        ("none.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n"),
        ("far.off", b"OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n"),
        ("short.off", b"OFF\n3 1 0\n0 0 0\n1 0\n0 1 0\n3 0 1 2\n"),
        ("far.ply", mixed_ply("ascii").replace(b"6 5 4 3 2 1 0", b"6 5 4 3 2 1 99")),
        ("two corners.stl", ascii_stl().replace("vertex 0 0 0\n", "", 1).encode()),
    ],
)
def test_wrong_words_are_named_not_swallowed(name: str, data: bytes, tmp_path: Path) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(Damaged, match=name):
        read(path)
