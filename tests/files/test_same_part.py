"""One part written in many ways reads as one part: laws of the readers over layout, order, units, copies and mirrors."""

from __future__ import annotations

import struct
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.intake.health import health_of
from gullyrise.core.job.origins import Repairs, Unit
from gullyrise.core.part import Body, Part, Piece, Siblings, bodies_from
from gullyrise.core.reading import ReadOptions, read
from gullyrise.core.report.intake import part_figures
from gullyrise.core.writing import write
from gullyrise.workers.receiving import GroupShapes, PreviewRepairs, Reshape, WriteParts

BALL = zoo.mesh_of(Manifold.sphere(9, 20).translate((3, -4, 5)) - Manifold.cube((4, 30, 4), True).translate((3, -4, 5)))
"""A ball with a square hole through it: curved and flat, not alike from any two sides."""


def lines_of(mesh: Mesh, start: int) -> tuple[list[str], list[str]]:
    corners = [f"{x:.17g} {y:.17g} {z:.17g}" for x, y, z in mesh.vertices.tolist()]
    return corners, [f"{a + start} {b + start} {c + start}" for a, b, c in mesh.faces.tolist()]


def obj_plain(mesh: Mesh) -> bytes:
    corners, faces = lines_of(mesh, 1)
    return "\n".join([*(f"v {line}" for line in corners), *(f"f {line}" for line in faces)]).encode()


def obj_untidy(mesh: Mesh) -> bytes:
    """Tabs, indents, comments, continued lines, normals and textures, faces before the next vertices, negative indices."""
    corners, faces = lines_of(mesh, 1)
    half = len(corners) // 2
    text = [f"\tv\t{line.replace(' ', '   ')}   # corner" for line in corners[:half]] + ["vn 0 0 1", "vt 0 0", ""]
    text += [f"v {line}" for line in corners[half:]]
    for number, line in enumerate(faces):
        a, b, c = (int(word) for word in line.split())
        if number % 3 == 0:
            text.append(f"f {a}/1/1 {b}//1 \\\n  {c}/1")
        elif number % 3 == 1:
            text.append(f"f {a - len(corners) - 1} {b - len(corners) - 1} {c - len(corners) - 1} # counted back")
        else:
            text.append(f"usemtl clay\n   f {a} {b} {c}  ")
    return "\r\n".join(text).encode()


def off_plain(mesh: Mesh) -> bytes:
    corners, faces = lines_of(mesh, 0)
    return "\n".join([f"OFF\n{len(corners)} {len(faces)} 0", *corners, *(f"3 {line}" for line in faces)]).encode()


def off_untidy(mesh: Mesh) -> bytes:
    corners, faces = lines_of(mesh, 0)
    body = [f"{line} 255 0 0 # red\n" for line in corners] + [f"  3  {line} 0.2 0.4 0.6\n\n" for line in faces]
    return ("# a ball\r\nCOFF # with colours\r\n" + f"{len(corners)}  {len(faces)}\n" + "".join(body)).encode()


def ply_text(mesh: Mesh) -> bytes:
    corners, faces = lines_of(mesh, 0)
    head = (
        f"ply\nformat ascii 1.0\ncomment mm\nelement vertex {len(corners)}\n"
        "property uchar red\nproperty double z\nproperty double x\n"
        f"property double y\nelement face {len(faces)}\nproperty list uchar int vertex_indices\nend_header\n"
    )
    turned = [" ".join(["255", line.split()[2], *line.split()[:2]]) for line in corners]
    return (head + "\n".join([*turned, *(f"3 {line}" for line in faces)]) + "\n").encode()


def ply_big_endian(mesh: Mesh) -> bytes:
    head = (
        f"ply\nformat binary_big_endian 1.0\nelement vertex {len(mesh.vertices)}\nproperty double x\nproperty double y\n"
        f"property double z\nelement face {len(mesh.faces)}\nproperty list uchar uint vertex_index\nend_header\n"
    )
    faces = b"".join(struct.pack(">BIII", 3, *face) for face in mesh.faces.tolist())
    return head.encode() + mesh.vertices.astype(">f8").tobytes() + faces


def stl_text(indent: str, between: str) -> Callable[[Mesh], bytes]:
    def write_it(mesh: Mesh) -> bytes:
        out = ["solid ball"]
        for triangle in mesh.triangles().tolist():
            out.append(f"{indent}facet normal{between}0{between}0{between}1\n{indent * 2}outer loop")
            out += [f"{indent * 3}vertex{between}" + between.join(f"{value:.17g}" for value in corner) for corner in triangle]
            out.append(f"{indent * 2}endloop\n{indent}endfacet")
        return "\n".join([*out, "endsolid ball"]).encode()

    return write_it


WAYS: dict[str, Callable[[Mesh], bytes]] = {
    "plain.obj": obj_plain, "untidy.obj": obj_untidy, "plain.off": off_plain, "untidy.off": off_untidy, "text.ply": ply_text,
    "big-endian.ply": ply_big_endian, "tight.stl": stl_text("", " "), "usual.stl": stl_text("  ", " "),
    "tabs.stl": stl_text("\t", "\t"), "wide.stl": stl_text("    ", "   "),
}  # fmt: skip


@pytest.mark.parametrize("way", WAYS)
def test_a_part_is_the_same_however_its_file_is_laid_out(way: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / way
    path.write_bytes(WAYS[way](BALL))
    for portion in (1 << 20, 1_000, 97):
        # Pieces that end anywhere in the text must not change what is read.
        monkeypatch.setattr("gullyrise.core.reading.numbers.portions.__defaults__", (portion,))
        (body,) = read(path).bodies
        assert len(body.mesh.faces) == len(BALL.faces) and len(body.mesh.vertices) == len(BALL.vertices)
        assert body.mesh.signed_volume == pytest.approx(BALL.signed_volume, rel=1e-12)
        assert body.mesh.area == pytest.approx(BALL.area, rel=1e-12) and health_of(body.mesh).watertight
        assert body.mesh.box.low == pytest.approx(BALL.box.low, abs=1e-12)


places = st.builds(
    lambda x, y, z, degrees, mirror: Transform(np.diag([mirror, 1.0, 1.0, 1.0]))
    .then(Transform.turned(np.array([x, y, z + 1.5]), degrees))
    .then(Transform.moved(np.array([x, y, z]) * 90)),
    st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1), st.floats(0, 360), st.sampled_from([1.0, -1.0]),
)  # fmt: skip


@settings(max_examples=20, deadline=None)
@given(st.lists(places, min_size=1, max_size=3), st.sampled_from(["3mf", "glb", "obj", "ply", "stl"]))
def test_copies_turned_and_mirrored_come_back_where_they_stood(stands: list[Transform], ending: str) -> None:
    part = Part("ball", "ball", "stl", "mm", "declared", (Body("ball", "mesh", BALL, tuple(stands)),))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"out.{ending}"
        write(part, path)
        back = read(path)
    assert back.whole().signed_volume == pytest.approx(len(stands) * BALL.signed_volume, rel=1e-4), "outside stays outside"
    assert back.box.low == pytest.approx(part.box.low, abs=2e-4) and back.box.high == pytest.approx(part.box.high, abs=2e-4)
    assert part_figures(back, 300)["triangles"] == len(stands) * len(BALL.faces)


@settings(max_examples=20, deadline=None)
@given(st.sampled_from(["mm", "cm", "m", "inch", "foot", "micron"]), places)
def test_a_unit_that_is_given_scales_what_is_read_and_nothing_else(unit: str, place: Transform) -> None:
    factor = {"mm": 1, "cm": 10, "m": 1000, "inch": 25.4, "foot": 304.8, "micron": 0.001}[unit]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "ball.off"
        path.write_bytes(off_plain(BALL.placed(place)))
        plain, scaled = read(path), read(path, ReadOptions(unit=unit))
    assert scaled.box.size == pytest.approx(plain.box.size * factor, rel=1e-12) and scaled.unit_source == "given"
    again = Reshape(plain, Unit(unit=unit), 300.0).run(lambda *_: None)
    assert again.figures["size"] == pytest.approx(scaled.box.size) and again.figures["unit_source"] == "given"
    assert again.figures["volume"] == pytest.approx(BALL.signed_volume * factor**3, rel=1e-9)


# --- pieces into bodies ----------------------------------------------------------------------------------------------


def test_pieces_of_one_mesh_are_copies_and_stretched_ones_bodies_of_their_own() -> None:
    away = Transform.moved(np.array([50.0, 0, 0]))
    stretched = Transform(np.diag([2.0, 1, 1, 1]))
    pieces = [
        Piece("ball", BALL, Transform.identity(), ("rack",)), Piece("ball", BALL, away, ("rack (2)",), (1, 0, 0)),
        Piece("ball", BALL, stretched), Piece("", BALL, away),
    ]  # fmt: skip
    bodies = bodies_from(pieces, 10.0)
    assert [(body.name, body.count) for body in bodies] == [("ball", 2), ("ball [2]", 1), ("body 3", 1)]
    assert bodies[0].trails == (("rack",), ("rack (2)",)) and bodies[1].trails == ()
    assert bodies[0].placements[1].matrix[0, 3] == pytest.approx(500), "places are in mm as well"
    assert bodies[1].mesh.signed_volume == pytest.approx(2000 * BALL.signed_volume)


def test_assemblies_of_one_name_are_numbered_only_among_their_own() -> None:
    siblings = Siblings()
    assert siblings.below((), "rack") == ("rack",) and siblings.below((), "rack") == ("rack (2)",)
    assert siblings.below(("rack",), "rack") == ("rack", "rack") and siblings.below(("rack",), "shelf") == ("rack", "shelf")


# --- work on parts ---------------------------------------------------------------------------------------------------


def test_shapes_are_told_apart_whatever_their_place_and_triangles() -> None:
    turn = Transform.turned(np.array([1.0, -2, 0.5]), 77).then(Transform.moved(np.array([9.0, 9, 9])))
    mirrored = BALL.placed(Transform(np.diag([-1.0, 1, 1, 1])))
    slot = zoo.mesh_of(zoo.t_slot())
    finer = zoo.mesh_of(zoo.t_slot().refine(3)).placed(turn)
    handed = zoo.mesh_of(zoo.block((0, 0, 0), (9, 5, 2)) + zoo.block((0, 0, 0), (3, 2, 7)))
    other_hand = handed.placed(Transform(np.diag([-1.0, 1, 1, 1])))
    empty = Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    meshes = (BALL, slot, BALL.placed(turn), mirrored, finer, handed, other_hand, handed.placed(turn), empty)
    assert GroupShapes(meshes).run(lambda *_: None) == (0, 1, 0, 0, 1, 2, 3, 2, 4), (
        "a mirror image is another shape, unless it is not"
    )


def test_mends_are_done_in_turn_and_reported_each(tmp_path: Path) -> None:
    holed = BALL.only(np.arange(len(BALL.faces)) != 5)
    turned = Mesh(holed.vertices, np.where((np.arange(len(holed.faces)) == 9)[:, None], holed.faces[:, ::-1], holed.faces))
    part = Part("ball", "ball.stl", "stl", "mm", "given", (Body("ball", "mesh", turned, (Transform.identity(),)),))
    seen = PreviewRepairs(part).run(lambda *_: None)
    assert {name: [change.count for _, change in changes] for name, changes in seen.items()} == {"winding": [1], "holes": [1]}
    made = Reshape(part, Repairs(mends=("winding", "holes")), 300.0).run(lambda *_: None)
    changes = made.told
    assert [(number, change.repair, change.count) for number, change in changes] == [(0, "winding", 1), (0, "holes", 1)]
    assert changes[1][1].volume[0] is None and changes[1][1].volume[1] == pytest.approx(BALL.signed_volume)
    assert made.figures["volume"] == pytest.approx(BALL.signed_volume) and made.ready is not None
    said = WriteParts(((str(tmp_path / "ball.stl"), ((made.part, Transform.identity(), "ball"),)),)).run(lambda *_: None)
    assert any("single precision" in sentence for sentence in said)
    loaded = trimesh.load(tmp_path / "ball.stl")
    assert loaded.is_watertight and loaded.volume == pytest.approx(BALL.signed_volume, rel=1e-5)
