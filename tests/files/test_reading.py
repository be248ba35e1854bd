"""Files of every format, written by independent libraries, read back to exact values."""

from __future__ import annotations

import re
from pathlib import Path
from zipfile import ZipFile

import numpy as np
import pytest
import trimesh
from makers import write_assembly_step, write_compound_brep, write_sphere_iges, write_tube_iges

import zoo
from gullyrise.core.errors import Damaged
from gullyrise.core.intake.units import doubt
from gullyrise.core.reading import ReadOptions, read
from gullyrise.core.report.intake import part_figures
from gullyrise.core.writing import write


def box(size: tuple[float, float, float] = (10, 20, 30)) -> trimesh.Trimesh:
    return trimesh.creation.box(size)


@pytest.mark.parametrize(
    ("ending", "more"),
    [("stl", {}), ("stl", {"file_type": "stl_ascii"}), ("ply", {}), ("ply", {"encoding": "ascii"}), ("off", {}), ("obj", {})],
)
def test_a_mesh_comes_out_as_it_went_in(tmp_path: Path, ending: str, more: dict[str, str]) -> None:
    path = tmp_path / f"plate.{ending}"
    box().export(path, **{"file_type": ending, **more})
    part = read(path)
    (body,) = part.bodies
    assert (part.format, part.unit, part.unit_source, body.name) == (ending, "mm", "assumed", "plate")
    assert body.mesh.signed_volume == pytest.approx(6000) and len(body.mesh.vertices) == 8
    assert part.box.size == pytest.approx([10, 20, 30])


def test_objects_and_groups_of_an_obj_are_bodies(tmp_path: Path) -> None:
    path = tmp_path / "pair.obj"
    path.write_text(
        "mtllib ../../../etc/passwd\no lid\nv 0 0 0\nv 9 0 0\nv 0 9 0\nv 0 0 9\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n"
        "g knob\nv 20 0 0\nv 21 0 0\nv 20 1 0\nv 20 0 1\nf -4 -2 -3\nf -4 -3 -1\nf -3 -2 -1\nf -2 -4 -1\n"
    )
    part = read(path)
    assert [body.name for body in part.bodies] == ["lid", "knob"]
    assert [body.mesh.signed_volume for body in part.bodies] == pytest.approx([121.5, 1 / 6])


def test_glb_nodes_place_copies_in_metres_with_z_up(tmp_path: Path) -> None:
    scene = trimesh.Scene()
    scene.add_geometry(box((0.01, 0.02, 0.03)), geom_name="block", node_name="a")
    scene.graph.update(frame_to="b", geometry="block", matrix=trimesh.transformations.translation_matrix([0.05, 0.04, 0]))
    path = tmp_path / "two.glb"
    scene.export(path)
    part = read(path)
    (body,) = part.bodies
    assert (part.unit, part.unit_source, body.count) == ("m", "declared", 2)
    assert body.mesh.signed_volume == pytest.approx(6000)
    # 40 mm along the file's Y is up here.
    assert part.box.size == pytest.approx([60, 30, 60])


@pytest.mark.parametrize(("unit", "mm"), [("mm", 1), ("inch", 25.4), ("micron", 0.001), ("m", 1000)])
def test_a_given_unit_overrules(tmp_path: Path, unit: str, mm: float) -> None:
    box().export(tmp_path / "b.stl")
    part = read(tmp_path / "b.stl", ReadOptions(unit=unit))
    assert part.unit_source == "given" and part.box.size == pytest.approx(np.array([10, 20, 30]) * mm)


def test_3mf_keeps_units_components_and_build_transforms(tmp_path: Path) -> None:
    import lib3mf
    from lib3mf import get_wrapper

    model = get_wrapper().CreateModel()
    model.SetUnit(lib3mf.ModelUnit.Inch)
    mesh = model.AddMeshObject()
    mesh.SetName("gland")
    corners = [(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)]
    mesh.SetGeometry(
        [lib3mf.Position(ctypes_floats(lib3mf, xyz)) for xyz in corners],
        [lib3mf.Triangle(ctypes_ints(abc)) for abc in [(0, 2, 1), (0, 1, 3), (1, 2, 3), (2, 0, 3)]],
    )
    pair = model.AddComponentsObject()
    for x in (0.0, 2.0):
        pair.AddComponent(mesh, moved(lib3mf, x, 1.0))
    model.AddBuildItem(pair, moved(lib3mf, 10.0, 1.0))
    model.AddBuildItem(mesh, moved(lib3mf, -5.0, -1.0))
    path = tmp_path / "pair.3mf"
    model.QueryWriter("3mf").WriteToFile(str(path))
    part = read(path)
    (body,) = part.bodies
    assert (part.unit, part.unit_source, body.name, body.count) == ("inch", "declared", "gland", 3)
    assert body.mesh.signed_volume == pytest.approx(25.4**3 / 6)
    assert all(copy.signed_volume > 0 for copy in body.copies()), "a mirrored copy keeps its outside outside"
    assert part.box.low[0] == pytest.approx(-6 * 25.4) and part.box.high[0] == pytest.approx(13 * 25.4)


def ctypes_floats(lib3mf: object, xyz: tuple[float, float, float]) -> object:
    import ctypes

    return (ctypes.c_float * 3)(*xyz)


def ctypes_ints(abc: tuple[int, int, int]) -> object:
    import ctypes

    return (ctypes.c_uint32 * 3)(*abc)


def moved(lib3mf: object, x: float, mirror: float) -> object:
    transform = lib3mf.Transform()
    for axis in range(3):
        transform.Fields[axis][axis] = mirror if axis == 0 else 1.0
    transform.Fields[3][0] = x
    return transform


@pytest.mark.parametrize("unit", ["MM", "INCH", "M"])
def test_step_assemblies_have_names_counts_exact_figures_and_their_unit(tmp_path: Path, unit: str) -> None:
    path = tmp_path / "station.step"
    write_assembly_step(path, unit)
    part = read(path)
    assert part.unit == {"MM": "mm", "INCH": "inch", "M": "m"}[unit] and part.unit_source == "declared"
    plate, pipe = part.bodies
    assert (plate.name, plate.count, pipe.name, pipe.count) == ("plate", 3, "pipe", 2)
    assert plate.volume == pytest.approx(6000) and plate.area == pytest.approx(2200)
    assert pipe.volume == pytest.approx(np.pi * (25 - 16) * 30, rel=1e-9)
    assert pipe.area == pytest.approx(2 * np.pi * 9 * 30 + 2 * np.pi * 9, rel=1e-9)
    assert plate.kind == "solid" and plate.chord_error is not None
    assert part.box.low == pytest.approx([-5, 0, 0], abs=1e-6) and part.box.high == pytest.approx([90, 55, 35], abs=1e-6)
    figures = part_figures(part, 300)
    assert figures["volume"] == pytest.approx(3 * 6000 + 2 * np.pi * 270, rel=1e-9)
    assert all(body["watertight"] for body in figures["bodies"])


def test_step_with_a_given_unit_scales_from_the_declared_one(tmp_path: Path) -> None:
    write_assembly_step(tmp_path / "s.step", "MM")
    part = read(tmp_path / "s.step", ReadOptions(unit="cm"))
    assert part.bodies[0].volume == pytest.approx(6000 * 1000)


def test_brep_solids_are_bodies_and_equal_ones_copies(tmp_path: Path) -> None:
    write_compound_brep(tmp_path / "c.brep")
    part = read(tmp_path / "c.brep")
    assert [(body.count, round(body.volume or 0, 3)) for body in part.bodies] == [(3, 6000.0), (1, round(np.pi * 270, 3))]
    assert part.unit_source == "assumed"


@pytest.mark.parametrize(("unit", "solid"), [("MM", 0), ("IN", 1)])
def test_iges_faces_are_sewn_to_solids(tmp_path: Path, unit: str, solid: int) -> None:
    write_tube_iges(tmp_path / "t.igs", unit, solid)
    part = read(tmp_path / "t.igs")
    assert part.unit == {"MM": "mm", "IN": "inch"}[unit]
    assert part.bodies[0].volume == pytest.approx(np.pi * 270, rel=1e-6)


@pytest.mark.parametrize("ending", ["stl", "obj", "ply", "3mf"])
def test_round_trips_keep_shape_copies_and_names(tmp_path: Path, ending: str) -> None:
    write_assembly_step(tmp_path / "s.step", "MM")
    part = read(tmp_path / "s.step")
    said = write(part, tmp_path / f"out.{ending}")
    back = read(tmp_path / f"out.{ending}")
    assert back.whole().signed_volume == pytest.approx(part.whole().signed_volume, rel=1e-6)
    assert back.box.size == pytest.approx(part.whole().box.size, rel=1e-6)
    assert said and all(sentence.endswith(".") for sentence in said)
    if ending == "3mf":
        assert [(body.name, body.count) for body in back.bodies] == [("plate", 3), ("pipe", 2)]
        assert back.unit_source == "declared"
    if ending == "obj":
        assert len(back.bodies) == 5


@pytest.mark.parametrize(
    ("size", "doubted"),
    [
        ((1.5, 1.5, 0.375), True), ((0.02, 0.03, 0.01), True), ((800.0, 10.0, 10.0), True), ((60.0, 30.0, 22.0), False),
        ((25.4, 50.8, 12.7), False), ((3.9375, 2.0625, 1.0), True), ((10_000.0, 20.0, 3.0), True), ((40.2, 13.7, 8.1), False),
    ],
)  # fmt: skip
def test_a_unit_is_doubted_with_evidence(size: tuple[float, float, float], doubted: bool) -> None:
    found = doubt(np.array(size), 320.0)
    assert (found is not None) is doubted
    assert found is None or (("read as" in found.why) == bool(found.answers))
    assert found is None or not re.search(r"\de[+-]?\d", found.why), "numbers are written out"


def test_a_face_that_closes_on_itself_encloses_something(tmp_path: Path) -> None:
    write_sphere_iges(tmp_path / "ball.igs", 10.0)
    body = read(tmp_path / "ball.igs").bodies[0]
    assert body.volume == pytest.approx(4 / 3 * np.pi * 1000) and body.area == pytest.approx(400 * np.pi)


@pytest.mark.parametrize(
    ("space", "read_at_all"),
    [
        ("http://schemas.microsoft.com/3dmanufacturing/material/2015/02", True),
        ("http://schemas.microsoft.com/3dmanufacturing/beamlattice/2017/02", False),
        ("http://example.invalid/bent/2099", False),
    ],
)
def test_a_3mf_that_needs_an_extension_which_changes_its_shape_is_refused(space: str, read_at_all: bool, tmp_path: Path) -> None:
    plain = tmp_path / "plain.3mf"
    write(zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (10, 20, 30))), "brick"), plain)
    needing = tmp_path / "needing.3mf"
    with ZipFile(plain) as source, ZipFile(needing, "w") as target:
        for name in source.namelist():
            data = source.read(name)
            if name.endswith(".model"):
                data = re.sub(rb"<model ", f'<model xmlns:q="{space}" requiredextensions="q" '.encode(), data, count=1)
            target.writestr(name, data)
    if read_at_all:
        assert read(needing).bodies[0].mesh.signed_volume == pytest.approx(6000)
    else:
        with pytest.raises(Damaged, match=re.escape(space)):
            read(needing)
