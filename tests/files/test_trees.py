"""Trees, names, colours, metadata and exact facts, from files of independent libraries; and what goes out comes back."""

from __future__ import annotations

import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import trimesh
from fuzz import amf_of
from makers import at, pipe, plate, write_assembly_step
from OCP.BRep import BRep_Builder
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf
from OCP.IGESCAFControl import IGESCAFControl_Writer
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

import zoo
from gullyrise.core.errors import Damaged, ReadError, UnsafeContent, WriteError
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.facts import CURVES, SURFACES
from gullyrise.core.part import Body, Part
from gullyrise.core.reading import ReadOptions, read
from gullyrise.core.reading.folders import files_below
from gullyrise.core.report.intake import part_figures
from gullyrise.core.solids.harvest import harvest, refined, shape_of
from gullyrise.core.writing import write
from gullyrise.core.writing.placed import together

RIVER = (0.12, 0.44, 0.47)


def document_of(nested: bool) -> TDocStd_Document:
    """A station of two plates and, in an assembly that stands twice, a pipe, all of it turned; colours on products."""
    document = TDocStd_Document(TCollection_ExtendedString("doc"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    paints = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    root, inner = tool.NewShape(), tool.NewShape()
    one, other = tool.AddShape(plate(), False), tool.AddShape(pipe(), False)
    for label, name in ((root, "station"), (inner, "gauge"), (one, "plate"), (other, "pipe")):
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))
    colour = Quantity_Color(*RIVER, Quantity_TypeOfColor.Quantity_TOC_sRGB)
    paints.SetColor(other, colour, XCAFDoc_ColorType.XCAFDoc_ColorSurf)
    quarter = gp_Trsf()
    quarter.SetValues(0, -1, 0, 100, 1, 0, 0, 0, 0, 0, 1, 0)
    for place in (at(0, 0, 0), TopLoc_Location(quarter)):
        tool.AddComponent(root, one, place)
    if nested:
        tool.AddComponent(inner, other, at(0, 50, 0))
        for x in (0, 60):
            tool.AddComponent(root, inner, at(x, 0, 5))
    else:
        tool.AddComponent(root, other, at(0, 50, 0))
    tool.UpdateAssemblies()
    return document


@pytest.mark.parametrize(("schema", "words"), [("AP203", "CONFIG"), ("AP214IS", "AUTOMOTIVE"), ("AP242DIS", "AP242")])
def test_step_of_every_protocol_keeps_its_tree_names_and_colours(schema: str, words: str, tmp_path: Path) -> None:
    path = tmp_path / "station.stp"
    # The kernel takes the protocol up when a writer is made.
    Interface_Static.SetCVal_s("write.step.schema", schema)
    STEPCAFControl_Writer()
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    writer.Transfer(document_of(nested=True), STEPControl_AsIs)
    writer.Write(str(path))
    Interface_Static.SetCVal_s("write.step.schema", "AP214IS")
    assert words in path.read_text(encoding="utf-8")[:4000] or schema == "AP203"
    part = read(path)
    box, tube = part.bodies
    assert (box.name, box.count, box.colour) == ("plate", 2, None)
    assert tube.trails == (("station", "gauge"), ("station", "gauge (2)")) and box.trails == (("station",),) * 2
    assert tube.colour == pytest.approx(RIVER, abs=1e-6)
    low, high = box.boxes()[1].low, box.boxes()[1].high
    assert low == pytest.approx([80, 0, 0], abs=1e-6) and high == pytest.approx([100, 10, 30], abs=1e-6)
    assert tube.volume == pytest.approx(np.pi * 270) and part_figures(part, 300)["volume"] == pytest.approx(12_000 + 540 * np.pi)


def test_a_body_that_nobody_named_is_not_called_by_its_writer(tmp_path: Path) -> None:
    from OCP.STEPControl import STEPControl_Writer

    writer = STEPControl_Writer()
    writer.Transfer(plate(), STEPControl_AsIs)
    writer.Write(str(tmp_path / "foot.step"))
    assert "Open CASCADE" in (tmp_path / "foot.step").read_text(encoding="utf-8")
    assert [body.name for body in read(tmp_path / "foot.step").bodies] == ["foot"]


def test_iges_keeps_names_colours_and_loose_faces_become_one_body(tmp_path: Path) -> None:
    path = tmp_path / "station.igs"
    Interface_Static.SetIVal_s("write.iges.brep.mode", 1)
    writer = IGESCAFControl_Writer()
    writer.Transfer(document_of(nested=False))
    writer.Write(str(path))
    Interface_Static.SetIVal_s("write.iges.brep.mode", 0)
    figures = part_figures(read(path), 300)
    assert figures["volume"] == pytest.approx(12_000 + 270 * np.pi, rel=1e-6)
    assert sum(body["count"] for body in figures["bodies"]) == 3 and all(body["watertight"] for body in figures["bodies"])


def test_compounds_within_compounds_of_a_brep_are_assemblies(tmp_path: Path) -> None:
    inner, outer, builder = TopoDS_Compound(), TopoDS_Compound(), BRep_Builder()
    for compound in (inner, outer):
        builder.MakeCompound(compound)
    builder.Add(inner, pipe())
    builder.Add(inner, BRepPrimAPI_MakeSphere(3.0).Shape())
    for place in (at(0, 0, 0), at(20, 0, 0)):
        builder.Add(outer, inner.Located(place))
    builder.Add(outer, plate())
    BRepTools.Write_s(outer, str(tmp_path / "c.brep"))
    part = read(tmp_path / "c.brep")
    twice = (2, (("group",), ("group (2)",)))
    assert [(body.count, body.trails) for body in part.bodies] == [twice, twice, (1, ())]


# --- exact facts -----------------------------------------------------------------------------------------------------


def fact(body: Body, kind: str) -> int:
    assert body.facts is not None
    (found,) = np.flatnonzero(body.facts.surface == SURFACES.index(kind))
    return int(found)


def test_every_kind_of_surface_is_told_with_its_numbers() -> None:
    axis = np.array([1.0, 2.0, 2.0]) / 3
    frame = gp_Ax2(gp_Pnt(5, -4, 3), gp_Dir(*axis))
    (cone,) = harvest("cone", BRepPrimAPI_MakeCone(frame, 6.0, 2.0, 8.0).Shape(), None).bodies
    at_cone = fact(cone, "cone")
    facts = cone.facts
    assert facts is not None and facts.counts() == {"plane": 2, "cone": 1}
    assert facts.second[at_cone] == pytest.approx(np.degrees(np.arctan(4 / 8)))
    assert facts.origin[at_cone] == pytest.approx(np.array([5, -4, 3]) + 12 * axis), "the tip lies where the sides meet"
    assert abs(facts.axis[at_cone] @ axis) == pytest.approx(1) and not facts.hollow[at_cone]
    (ball,) = harvest("ball", BRepPrimAPI_MakeSphere(gp_Pnt(1, 2, 3), 7.0).Shape(), None).bodies
    assert (
        ball.facts is not None and ball.facts.radius.tolist() == pytest.approx([7.0]) and ball.centre == pytest.approx((1, 2, 3))
    )
    assert ball.facts.origin[0] == pytest.approx([1, 2, 3]) and ball.facts.area.sum() == pytest.approx(4 * np.pi * 49)
    (ring,) = harvest("ring", BRepPrimAPI_MakeTorus(frame, 9.0, 2.5).Shape(), None).bodies
    assert ring.facts is not None and (ring.facts.radius[0], ring.facts.second[0]) == pytest.approx((9.0, 2.5))
    assert ring.volume == pytest.approx(2 * np.pi**2 * 9 * 2.5**2)


def test_a_bore_is_hollow_and_triangles_know_their_faces_and_edges() -> None:
    (tube,) = harvest("pipe", pipe(), 0.01).bodies
    facts, anatomy = tube.facts, tube.anatomy
    assert facts is not None and anatomy is not None
    round_faces = np.flatnonzero(facts.surface == SURFACES.index("cylinder"))
    assert dict(zip(facts.radius[round_faces], facts.hollow[round_faces], strict=True)) == {5.0: False, 4.0: True}
    for face in round_faces:
        corners = tube.mesh.vertices[tube.mesh.faces[anatomy.face_of == face]].reshape(-1, 3)
        assert np.linalg.norm(corners[:, :2], axis=1) == pytest.approx(np.full(len(corners), facts.radius[face]))
    assert facts.curve.tolist() == [CURVES.index("circle")] * 4 and sorted(facts.bend) == pytest.approx([4, 4, 5, 5])
    assert sorted(facts.length) == pytest.approx(sorted(2 * np.pi * r for r in (4, 4, 5, 5)))
    for edge in range(4):
        line = facts.points[facts.starts[edge] : facts.starts[edge + 1]]
        assert np.linalg.norm(line - facts.middle[edge], axis=1) == pytest.approx(np.full(len(line), facts.bend[edge]))
    larger = tube.scaled(25.4)
    assert larger.facts is not None and larger.facts.radius[round_faces] == pytest.approx(facts.radius[round_faces] * 25.4)


@pytest.mark.parametrize("chord", [0.5, 0.05, 0.005])
def test_triangles_keep_to_the_stated_chord_error_and_can_be_made_finer(chord: float) -> None:
    part = Part("pipe", "pipe", "step", "mm", "declared", tuple(harvest("pipe", pipe(), 0.5).bodies))
    made = refined(part, chord)
    (body,) = made.bodies
    assert body.chord_error == chord and body.volume == part.bodies[0].volume
    middles = body.mesh.triangles().mean(axis=1)
    sides = np.abs(body.mesh.normals()[:, 2]) < 0.5
    radius = np.linalg.norm(middles[sides, :2], axis=1)
    assert np.minimum(np.abs(radius - 5), np.abs(radius - 4)).max() <= chord
    assert shape_of(body.exact or b"").IsNull() is False


def test_a_wish_for_too_many_triangles_is_met_in_part_and_said(monkeypatch: pytest.MonkeyPatch) -> None:
    from gullyrise.core.solids import meshing

    monkeypatch.setattr(meshing, "MOST_TRIANGLES", 2_000)
    found = harvest("ball", BRepPrimAPI_MakeSphere(7.0).Shape(), 1e-3)
    (body,) = found.bodies
    assert len(body.mesh.faces) < 4_000 and body.chord_error is not None and body.chord_error > 1e-3
    assert len(found.notes) == 1 and "instead of 0.001" in found.notes[0] and "triangles" in found.notes[0]


def test_a_surface_of_very_many_spans_is_meshed_coarser_with_a_note_and_its_error_is_measured(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.collections import Array2_gp_Pnt
    from OCP.GeomAPI import GeomAPI_PointsToBSplineSurface

    from gullyrise.core.solids import meshing

    monkeypatch.setattr(meshing, "_RESISTS", 400)
    points = Array2_gp_Pnt(1, 30, 1, 30)
    for i in range(30):
        for j in range(30):
            points.SetValue(i + 1, j + 1, gp_Pnt(i * 2.0, j * 2.0, float(np.sin(i * 0.7) * np.cos(j * 0.9))))
    surface = GeomAPI_PointsToBSplineSurface()
    surface.Interpolate(points)
    found = harvest("terrain", BRepBuilderAPI_MakeFace(surface.Surface(), 1e-6).Face(), None)
    (body,) = found.bodies
    assert any("spans resists" in note for note in found.notes) and body.volume is None
    assert body.chord_error is not None and body.chord_error > 1e-3 * np.hypot(58, 58)
    assert body.facts is not None and body.facts.counts() == {"other": 1}


# --- 3MF, AMF, glTF --------------------------------------------------------------------------------------------------

MODEL = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<model unit="{unit}" '
    'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02" '
    'xmlns:p="http://schemas.microsoft.com/3dmanufacturing/production/2015/06" requiredextensions="p">{inside}</model>'
)
RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="{target}" Id="r1" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)
TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
CORNER = (
    "<mesh><vertices>"
    + "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in ((0, 0, 0), (6, 0, 0), (0, 6, 0), (0, 0, 6)))
    + "</vertices><triangles>"
    + "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in ((0, 2, 1), (0, 1, 3), (1, 2, 3), (2, 0, 3)))
    + "</triangles></mesh>"
)
UUID = "0f4fa2a5-5c11-4d3e-9a52-7d6d6ca3e0{:02d}"


def production_3mf(path: Path, unit: str) -> None:
    """Bodies in a model part of their own, components within components, one mirrored; colour and metadata."""
    sub = MODEL.format(
        unit=unit,
        inside='<resources><basematerials id="7"><base name="clay" displaycolor="#B5473AFF"/></basematerials>'
        f'<object id="1" name="corner" type="model" pid="7" pindex="0" p:UUID="{UUID.format(1)}">{CORNER}</object>'
        "</resources><build/>",
    )
    root = MODEL.format(
        unit=unit,
        inside='<metadata name="Title">Gauging station</metadata><resources>'
        f'<object id="2" name="pair" type="model" p:UUID="{UUID.format(2)}"><components>'
        f'<component p:path="/3D/sub.model" objectid="1" p:UUID="{UUID.format(3)}"/>'
        f'<component p:path="/3D/sub.model" objectid="1" transform="-1 0 0 0 1 0 0 0 1 -2 0 0" p:UUID="{UUID.format(4)}"/>'
        "</components></object>"
        f'<object id="3" name="row" type="model" p:UUID="{UUID.format(5)}"><components>'
        f'<component objectid="2" p:UUID="{UUID.format(6)}"/>'
        f'<component objectid="2" transform="1 0 0 0 1 0 0 0 1 0 50 0" p:UUID="{UUID.format(7)}"/>'
        "</components></object></resources>"
        f'<build p:UUID="{UUID.format(8)}">'
        f'<item objectid="3" transform="0 1 0 -1 0 0 0 0 1 100 0 0" p:UUID="{UUID.format(9)}"/></build>',
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("[Content_Types].xml", TYPES)
        archive.writestr("_rels/.rels", RELATIONS.format(target="/3D/3dmodel.model"))
        archive.writestr("3D/_rels/3dmodel.model.rels", RELATIONS.format(target="/3D/sub.model"))
        archive.writestr("3D/3dmodel.model", root)
        archive.writestr("3D/sub.model", sub)


@pytest.mark.parametrize(
    ("unit", "ours", "mm"),
    [("millimeter", "mm", 1), ("inch", "inch", 25.4), ("micron", "micron", 1e-3), ("foot", "foot", 304.8), ("meter", "m", 1000)],
)
def test_3mf_of_several_model_parts_with_nested_and_mirrored_components(unit: str, ours: str, mm: float, tmp_path: Path) -> None:
    production_3mf(tmp_path / "row.3mf", unit)
    part = read(tmp_path / "row.3mf")
    (body,) = part.bodies
    assert (part.unit, body.name, body.count) == (ours, "corner", 4)
    assert body.trails == (("row", "pair"), ("row", "pair"), ("row", "pair (2)"), ("row", "pair (2)"))
    assert body.colour == pytest.approx((0xB5 / 255, 0x47 / 255, 0x3A / 255)) and ("Title", "Gauging station") in part.metadata
    # A quarter turn about Z and 100 along X: the row that ran along +Y runs along -X.
    assert part.box.low == pytest.approx(np.array([44, -8, 0]) * mm) and part.box.high == pytest.approx(
        np.array([100, 6, 6]) * mm
    )
    assert all(copy.signed_volume == pytest.approx(36 * mm**3, rel=1e-5) for copy in body.copies())


def test_amf_constellations_units_colours_and_zipped_text(tmp_path: Path) -> None:
    text = amf_of(trimesh.creation.box((10, 20, 30)))
    (tmp_path / "plain.amf").write_text(text.replace("millimeter", "inch"))
    part = read(tmp_path / "plain.amf")
    (body,) = part.bodies
    assert (part.format, part.unit, part.unit_source, body.name, body.count) == ("amf", "inch", "declared", "lid", 2)
    assert body.colour == (0.7, 0.5, 0.3) and body.trails == (("pair",), ("pair",)) and part.metadata == (("name", "silt trap"),)
    first, second = body.boxes()
    assert first.low == pytest.approx(np.array([-5, -5, -15]) * 25.4) and first.high == pytest.approx(
        np.array([15, 5, 15]) * 25.4
    )
    assert second.low == pytest.approx(np.array([-5, 50, -15]) * 25.4)
    with zipfile.ZipFile(tmp_path / "zipped.amf", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("zipped.amf", text)
    assert read(tmp_path / "zipped.amf").box.size == pytest.approx([20, 75, 30])


def test_volumes_of_an_amf_object_are_bodies_and_turns_come_in_the_order_x_y_z(tmp_path: Path) -> None:
    text = amf_of(trimesh.creation.box((10, 20, 30)))
    inner = text[text.index("<volume") : text.index("</volume>") + 9]
    text = text.replace(inner, inner + inner.replace(' materialid="3"', ""))
    text = text.replace("<deltax>5</deltax><rz>90</rz>", "<rx>90</rx><ry>90</ry>")
    (tmp_path / "two.amf").write_text(text)
    part = read(tmp_path / "two.amf")
    assert [(body.name, body.count) for body in part.bodies] == [("lid, volume 1", 2), ("lid, volume 2", 2)]
    assert part.bodies[1].colour is None and part.bodies[0].boxes()[0].size == pytest.approx([20, 30, 10])


@pytest.mark.parametrize(
    ("spoil", "error", "words"),
    [
        (lambda text: '<!DOCTYPE amf [<!ENTITY a "b">]>' + text.partition("?>")[2], UnsafeContent, "entities"),
        (lambda text: text.replace("millimeter", "cubit"), Damaged, "cubit"),
        (lambda text: text[:-200], Damaged, "breaks"),
        (lambda text: text.replace('objectid="0"', 'objectid="5"'), ReadError, "contain one another"),
        (lambda text: text.replace("<v1>0</v1>", "", 1), Damaged, "three corners"),
        (lambda text: text.replace("<x>", "<x>one\n", 1), Damaged, "'one .*' stands where a number should be"),
        (lambda text: "<amf>" + "<object>" * 200, Damaged, "without end"),
    ],
)  # fmt: skip
def test_an_amf_that_cannot_be_used_says_why(spoil: object, error: type, words: str, tmp_path: Path) -> None:
    (tmp_path / "bad.amf").write_text(spoil(amf_of(trimesh.creation.box())))  # type: ignore[operator]
    with pytest.raises(error, match=words):
        read(tmp_path / "bad.amf")


def test_glb_of_the_library_keeps_nodes_mirrors_and_colours(tmp_path: Path) -> None:
    scene = trimesh.Scene()
    block = trimesh.creation.box((0.01, 0.02, 0.03))
    block.visual = trimesh.visual.TextureVisuals(
        material=trimesh.visual.material.PBRMaterial(baseColorFactor=[1.0, 0.2140, 0.0, 1.0])
    )
    scene.graph.update(frame_to="rack", matrix=trimesh.transformations.translation_matrix([0, 0.1, 0]))
    scene.add_geometry(block, node_name="left", geom_name="block", parent_node_name="rack")
    scene.graph.update(frame_from="rack", frame_to="right", geometry="block", matrix=np.diag([-1.0, 1, 1, 1]))
    scene.export(tmp_path / "rack.glb")
    part = read(tmp_path / "rack.glb")
    (body,) = part.bodies
    assert body.count == 2 and body.trails[0][-1] == "rack" and body.colour == pytest.approx((1.0, 0.5, 0.0), abs=2e-3)
    assert all(copy.signed_volume == pytest.approx(6000, rel=1e-5) for copy in body.copies()), "a mirrored copy stays outside out"
    assert part.box.middle == pytest.approx([0, 0, 100], abs=1e-4) and part.box.size == pytest.approx([10, 30, 20], rel=1e-5)


@pytest.mark.parametrize("kind", ["stl", "ply", "obj"])
def test_files_of_a_third_library_come_in_exactly(kind: str, tmp_path: Path) -> None:
    from vtkmodules.vtkFiltersCore import vtkTriangleFilter
    from vtkmodules.vtkFiltersSources import vtkCubeSource
    from vtkmodules.vtkIOGeometry import vtkOBJWriter, vtkSTLWriter
    from vtkmodules.vtkIOPLY import vtkPLYWriter

    cube, triangles = vtkCubeSource(), vtkTriangleFilter()
    cube.SetXLength(10), cube.SetYLength(20), cube.SetZLength(30)
    triangles.SetInputConnection(cube.GetOutputPort())
    for binary in (False, True):
        writer = {"stl": vtkSTLWriter, "ply": vtkPLYWriter, "obj": vtkOBJWriter}[kind]()
        writer.SetInputConnection((triangles if kind == "stl" else cube).GetOutputPort())
        writer.SetFileName(str(tmp_path / f"cube.{kind}"))
        if kind != "obj":
            (writer.SetFileTypeToBinary if binary else writer.SetFileTypeToASCII)()
        writer.Write()
        figures = part_figures(read(tmp_path / f"cube.{kind}"), 300)
        assert figures["volume"] == pytest.approx(6000) and figures["area"] == pytest.approx(2200) and figures["triangles"] == 12


# --- going out -------------------------------------------------------------------------------------------------------


def painted(path: Path) -> Part:
    write_assembly_step(path, "MM")
    part = read(path)
    return replace(part, bodies=tuple(replace(body, colour=RIVER) for body in part.bodies))


@pytest.mark.parametrize(
    ("ending", "kept"),
    [("step", {"names", "copies", "trails", "colours", "solids"}), ("3mf", {"names", "copies", "colours"}),
     ("glb", {"names", "copies", "colours"}), ("obj", {"names"}), ("ply", set()), ("stl", set())],
)  # fmt: skip
def test_each_writer_keeps_what_it_can_and_says_the_rest(ending: str, kept: set[str], tmp_path: Path) -> None:
    part = painted(tmp_path / "in.step")
    said = " ".join(write(part, tmp_path / f"out.{ending}"))
    back = read(tmp_path / f"out.{ending}")
    by_name = {body.name: body for body in back.bodies}
    assert ("plate" in by_name) == ("names" in kept) and ("holds no names" in said) == ("names" not in kept)
    assert (sorted(body.count for body in back.bodies) == [2, 3]) == ("copies" in kept) == ("holds no copies" not in said)
    assert any(any(body.trails) for body in back.bodies) == ("trails" in kept) == ("Assemblies" not in said)
    assert ("Colours are not" in said) == ("colours" not in kept) == (back.bodies[0].colour is None)
    assert ("exact surfaces" in said) == ("solids" not in kept) == (back.bodies[0].kind == "mesh")
    if "colours" in kept:
        assert by_name["pipe"].colour == pytest.approx(RIVER, abs=0.01)
    assert back.whole().signed_volume == pytest.approx(part.whole().signed_volume, rel=1e-6)
    assert back.whole().box.low == pytest.approx(part.whole().box.low, abs=1e-4)


def test_placed_parts_go_out_where_they_stand_mirrored_ones_too(tmp_path: Path) -> None:
    solid = painted(tmp_path / "in.step")
    mesh = zoo.part(zoo.mesh_of(zoo.t_slot()), "slot")
    away = Transform.turned(np.array([1.0, 1, 0]), 50).then(Transform.moved(np.array([200.0, 10, 5])))
    mirror = Transform(np.diag([-1.0, 1, 1, 1]))
    whole = together(((solid, mirror, solid.name), (mesh, away, mesh.name)), "bed")
    wanted = solid.whole().placed(mirror).signed_volume + mesh.whole().signed_volume
    for ending in ("3mf", "glb", "stl"):
        write(whole, tmp_path / f"bed.{ending}")
        back = read(tmp_path / f"bed.{ending}")
        assert back.whole().signed_volume == pytest.approx(wanted, rel=1e-5) and back.whole().box.high == pytest.approx(
            whole.whole().box.high, abs=1e-3
        )
    said = write(whole, tmp_path / "bed.step")
    back = read(tmp_path / "bed.step")
    assert "1 body is a mesh" in " ".join(said) and {body.kind for body in back.bodies} == {"solid"}
    assert sum((body.volume or 0) * body.count for body in back.bodies) == pytest.approx(3 * 6000 + 540 * np.pi)
    assert back.box.low == pytest.approx([-90, 0, 0], abs=1e-5) and back.box.high == pytest.approx([5, 55, 35], abs=1e-5)
    with pytest.raises(WriteError, match="triangles only"):
        write(mesh, tmp_path / "mesh.step")


def test_a_solid_read_in_another_unit_is_written_in_it(tmp_path: Path) -> None:
    write_assembly_step(tmp_path / "in.step", "MM")
    part = read(tmp_path / "in.step", ReadOptions(unit="inch"))
    write(part, tmp_path / "out.step")
    assert read(tmp_path / "out.step").bodies[0].volume == pytest.approx(6000 * 25.4**3, rel=1e-9)


# --- folders ---------------------------------------------------------------------------------------------------------


def test_part_files_of_a_folder_come_by_name_without_hidden_ones_and_links(tmp_path: Path) -> None:
    for name in ("b.STL", "a.step", "deep/c.obj", "deep/readme.txt", ".hidden/d.stl"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_text("x")
    (tmp_path / "deep" / "round").symlink_to(tmp_path)
    assert [Path(name).name for name in files_below(tmp_path)] == ["a.step", "b.STL", "c.obj"]
    assert files_below(tmp_path / ".hidden" / "none") == []
