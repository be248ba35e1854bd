"""Sections against known areas and against an independent library."""

from __future__ import annotations

import csv
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import trimesh
from ezdxf.entities import LWPolyline
from ezdxf.math import bulge_to_arc
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree
from manifold3d import Manifold
from shapely.geometry import LineString, MultiPoint, Polygon
from shapely.ops import polygonize

import gauge
import zoo
from gullyrise.core.cutting import cut
from gullyrise.core.cutting.along import area_along
from gullyrise.core.cutting.fill import filled, shared
from gullyrise.core.cutting.thickness import disc_at, ways_of
from gullyrise.core.errors import PlaneError
from gullyrise.core.geometry import Mesh, Plane, Transform
from gullyrise.core.geometry.blocks import blocks_of
from gullyrise.core.geometry.outline import Outline, rounded
from gullyrise.core.report.outlines import extent_of, outlines_of, write_csv, write_dxf, write_svg
from gullyrise.core.solids.sections import exact_section


@pytest.mark.parametrize("turn", range(3))
def test_the_ring_of_a_tube(turn: int) -> None:
    place = zoo.TURNS[turn]
    mesh = zoo.mesh_of(zoo.tube(8, 6, 30, 64)).placed(place)
    plane = Plane(place.apply(np.array([[0, 0, 11.0]]))[0], place.matrix[:3, :3] @ np.array([0, 0, 1.0]))
    found = cut([mesh], plane)
    polygon = 64 / 2 * np.sin(2 * np.pi / 64)
    assert found.area == pytest.approx(polygon * (64 - 36), rel=1e-9)
    assert sorted(np.sign([loop.area for loop in found.loops])) == [-1, 1], "an outline and a hole"
    assert found.centroid == pytest.approx(plane.point, abs=1e-9)
    assert found.open_length == 0


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from(["vertex", "edge", "face", "free"]))
def test_area_agrees_with_an_independent_library(seed: int, through: str) -> None:
    random = np.random.default_rng(seed)
    solid = Manifold.hull_points(random.normal(size=(14, 3)) * 10) - Manifold.sphere(3, 12)
    mesh = zoo.mesh_of(solid)
    normal = random.normal(size=3)
    point = {
        "vertex": mesh.vertices[0],
        "edge": mesh.vertices[mesh.faces[0, :2]].mean(axis=0),
        "face": mesh.centroids()[0],
        "free": random.normal(size=3),
    }[through]
    found = cut([mesh], Plane(point, normal))
    plane = found.plane
    u, v = plane.frame()
    # The library slices at a height over z, so the solid is turned until the plane lies there.
    matrix = np.column_stack([np.vstack([u, v, plane.normal]), -np.vstack([u, v, plane.normal]) @ plane.point])
    expected = solid.transform(matrix).slice(0.0)
    assert found.area == pytest.approx(expected.area(), rel=1e-6, abs=1e-6)
    assert found.open_length == 0


def test_faces_in_the_plane_are_met_once_or_not_at_all() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    assert [cut([mesh], Plane.across(2, z)).area for z in (0.0, 5.0, 10.0)] == pytest.approx([0, 100, 100])


def test_an_open_mesh_gives_chains_and_says_so() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    opened = mesh.only(mesh.normals()[:, 0] < 0.9)
    found = cut([opened], Plane.across(2, 5))
    assert found.area == 0 and found.open_length == pytest.approx(30)
    assert [loop.closed for loop in found.loops] == [False]


def test_a_body_within_a_body_counts_once() -> None:
    both = [zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10))), zoo.mesh_of(zoo.block((3, 3, 3), (6, 6, 6)))]
    joined = Mesh(np.vstack([m.vertices for m in both]), np.vstack([both[0].faces, both[1].faces + 8]))
    assert cut([joined], Plane.across(2, 5)).area == pytest.approx(100)


def test_wrong_winding_does_not_change_the_area() -> None:
    mesh = zoo.mesh_of(zoo.tube(8, 6, 30, 32))
    faces = mesh.faces.copy()
    faces[::3] = faces[::3, ::-1]
    assert cut([Mesh(mesh.vertices, faces)], Plane.across(2, 7)).area == pytest.approx(cut([mesh], Plane.across(2, 7)).area)


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_the_area_curve_is_that_of_single_cuts(axis: int) -> None:
    mesh = zoo.mesh_of(zoo.tube(8, 6, 30, 32) + zoo.block((12, 0, 0), (20, 9, 9)))
    curve = area_along([mesh], np.eye(3)[axis], 23)
    single = [cut([mesh], Plane.across(axis, station)).area for station in curve.stations]
    assert curve.area == pytest.approx(single, abs=1e-9) and curve.sure.all()


def test_an_open_place_of_the_curve_is_marked() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    assert not area_along([mesh.only(mesh.normals()[:, 0] < 0.9)], np.eye(3)[2], 9).sure[2:-2].any()


@pytest.mark.parametrize("words", ["x=1", "Y=-2.5", " z = 0 ", "0,0,1,0,0,2", "1,2,3,-1,0,0"])
def test_planes_are_read(words: str) -> None:
    assert np.linalg.norm(Plane.from_words(words).normal) == pytest.approx(1)


@pytest.mark.parametrize("words", ["", "w=1", "x=", "1,2,3", "0,0,0,0,0,0", "x=nan", "1,2,3,4,5,inf"])
def test_words_that_are_no_plane_get_a_sentence(words: str) -> None:
    with pytest.raises(PlaneError):
        Plane.from_words(words)


@settings(max_examples=10, deadline=None)
@given(st.integers(0, 2), st.integers(0, 2))
def test_the_areas_along_an_axis_add_up_to_the_volume(axis: int, turn: int) -> None:
    """Cavalieri's principle."""
    for solid in (zoo.t_slot(), zoo.tube(8, 6.8, 30, 64), zoo.hollow_box(30, 2)):
        mesh = zoo.mesh_of(solid).placed(zoo.TURNS[turn])
        curve = area_along([mesh], np.eye(3)[axis], 2000)
        assert np.trapezoid(curve.area, curve.stations) == pytest.approx(mesh.signed_volume, rel=2e-3)
        assert curve.sure.all()


def _by_other_libraries(mesh: Mesh, plane: Plane) -> tuple[float, float]:
    """(area, length of all outlines): segments by trimesh, rings by shapely, inside by trimesh's rays."""
    theirs = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    u, v = plane.frame()
    pieces = trimesh.intersections.mesh_plane(theirs, plane.normal, plane.point).reshape(-1, 3) - plane.point
    flat = np.round(np.column_stack([pieces @ u, pieces @ v]).reshape(-1, 2, 2), 9)
    rings = list(polygonize([LineString(piece) for piece in flat if not np.array_equal(*piece)]))
    inner = [ring.representative_point() for ring in rings]
    filled = theirs.contains([plane.point + at.x * u + at.y * v for at in inner]) if rings else []
    return sum(ring.area for ring, here in zip(rings, filled, strict=True) if here), float(
        np.linalg.norm(np.diff(flat, axis=1), axis=2).sum()
    )


def _compare_in_a_face(random: np.random.Generator) -> None:
    """A terrace whose step lies in the plane: from above its foot is seen, from below the whole step; both are hulls of
    points."""

    def some(count: int, reach: float, low: float, high: float) -> tuple[Manifold, Polygon]:
        foot = np.column_stack([random.uniform(-reach, reach, (count, 2)), np.zeros(count)])
        rest = np.column_stack([random.uniform(-reach, reach, (count, 2)), random.uniform(low, high, count)])
        return Manifold.hull_points(np.concatenate([foot, rest])), MultiPoint(foot[:, :2]).convex_hull

    (under, step), (over, foot) = some(7, 10, -9, -1), some(6, 2, 1, 9)
    mesh = zoo.mesh_of(under + over)
    for way, seen in ((1.0, step), (-1.0, foot)):
        found = cut([mesh], Plane(np.zeros(3), np.array([0, 0, way])))
        assert found.area == pytest.approx(seen.area, rel=1e-9) and found.perimeter == pytest.approx(seen.length, rel=1e-9)
        assert found.open_length == 0


@pytest.mark.parametrize("seed", range(100))
def test_a_hundred_random_meshes_have_the_area_and_outline_that_others_find(seed: int) -> None:
    """To 1e-9, through vertices, along edges, in faces and free."""
    random = np.random.default_rng(seed)
    if seed % 4 == 3:
        _compare_in_a_face(random)
        return
    solid = Manifold.hull_points(random.normal(size=(14, 3)) * 10) - Manifold.sphere(3, 12)
    solid += Manifold.cylinder(20, 3, 2, 9, True).rotate((30, 40, 50))
    mesh = zoo.mesh_of(solid)
    face = int(random.integers(len(mesh.faces)))
    corners, normal = mesh.vertices[mesh.faces[face]], random.normal(size=3)
    through = ("free", "vertex", "edge")[seed % 4]
    if through == "edge":
        normal = np.cross(corners[1] - corners[0], normal)
    plane = Plane(random.normal(size=3) if through == "free" else corners[0], normal)
    found = cut([mesh], plane)
    area, length = _by_other_libraries(mesh, found.plane)
    if found.area == 0:
        length = 0.0  # Where only an edge touches the plane, they tell that edge.
    assert found.area == pytest.approx(area, rel=1e-9, abs=1e-12) and found.perimeter == pytest.approx(length, rel=1e-9, abs=1e-9)
    assert found.open_length == 0


@pytest.mark.parametrize("turn", range(3))
def test_second_moments_are_those_of_the_drawing(turn: int) -> None:
    place = zoo.TURNS[turn]
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (40, 10, 30)) - zoo.block((10, -1, 10), (30, 11, 20))).placed(place)
    plane = Plane(place.apply(np.array([[3.0, 4.0, 15.0]]))[0], place.matrix[:3, :3] @ np.array([0, 1.0, 0]))
    found = cut([mesh], plane)
    expected = sorted([(40 * 30**3 - 20 * 10**3) / 12, (30 * 40**3 - 10 * 20**3) / 12])
    assert found.area == pytest.approx(40 * 30 - 20 * 10) and found.second is not None
    assert np.linalg.eigvalsh(found.second) == pytest.approx(expected, rel=1e-9)
    box = found.box()
    assert box is not None and float(np.prod(box[1] - box[0])) >= 1200 - 1e-9


def test_where_the_area_leaps_both_sides_are_told() -> None:
    steps = zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 5)) + zoo.block((5, 5, 4), (15, 15, 17.3)))
    curve = area_along([steps], np.array([0, 0, 1.0]))
    assert curve.jumps == pytest.approx([0, 5, 17.3]) and curve.ends == pytest.approx(np.array([[0, 17.3]]))
    for at, below, above in ((0, 0, 400), (5, 400, 100), (17.3, 100, 0)):
        near = np.abs(curve.stations - at) < 1e-4
        assert curve.area[near].tolist() == pytest.approx([below, above])
    assert len(curve.stations) > 200 and (np.diff(curve.stations) >= 0).all()


def test_the_curve_runs_along_any_direction() -> None:
    place = zoo.TURNS[2]
    mesh = zoo.mesh_of(zoo.t_slot())
    straight = area_along([mesh], np.array([0, 0, 1.0]))
    turned = area_along([mesh.placed(place)], place.matrix[:3, :3] @ np.array([0, 0, 1.0]))
    shift = float(place.matrix[:3, 3] @ turned.direction)
    assert np.interp(straight.stations + shift, turned.stations, turned.area) == pytest.approx(straight.area, abs=2.0)


@pytest.mark.parametrize("place", zoo.TURNS)
def test_a_solid_is_cut_from_its_own_surfaces(place: Transform) -> None:
    solid = gauge.solid()
    for height, area, border in ((12.0, 4000 - 45 * np.pi - (49 - 12.25 * np.pi), None), (23.0, 25 * np.pi, 10 * np.pi)):
        plane = Plane(place.apply(np.array([[1.0, 2.0, height]]))[0], place.matrix[:3, :3] @ np.array([0, 0, 1.0]))
        found = exact_section(solid.exact, place, plane)
        rough = cut([solid.mesh.placed(place)], plane)
        assert found.area == pytest.approx(area, abs=1e-7) and rough.area == pytest.approx(area, rel=6e-3)
        assert sum(one.area for one in found.outlines) == pytest.approx(area, abs=1e-7), "lines and arcs, not chords"
        assert sum(one.length for one in found.outlines) == pytest.approx(found.perimeter, abs=1e-7)
        if border is not None:
            assert found.perimeter == pytest.approx(border, abs=1e-7)
            assert found.second == pytest.approx(np.eye(2) * np.pi * 5**4 / 4, abs=1e-5)


def test_a_plane_in_a_face_of_a_solid_shows_what_lies_under_it() -> None:
    for height, area in ((20.0, 4000.0), (0.0, 0.0)):
        found = exact_section(gauge.bar().exact, Transform.identity(), Plane.across(2, height + 10 if height else 0.0))
        assert found.area == pytest.approx(100.0 if area else 0.0) and found.beside > 0


def _ring(sides: int, radius: float, middle: tuple[float, float] = (0.0, 0.0)) -> np.ndarray:
    turn = np.linspace(0, 2 * np.pi, sides, endpoint=False) + 0.1
    return np.column_stack([np.cos(turn), np.sin(turn)]) * radius + middle


def test_corners_on_a_circle_are_an_arc_and_others_are_not() -> None:
    whole = rounded(_ring(60, 7.0, (3, -2)), closed=True, within=1e-6)
    assert whole.area == pytest.approx(49 * np.pi) and whole.length == pytest.approx(14 * np.pi)
    assert whole.circles()[0][0] == pytest.approx([3, -2]) and whole.step == pytest.approx(2 * np.pi / 60)
    half = np.linspace(-np.pi / 2, np.pi / 2, 17)
    right = np.column_stack([10 + 5 * np.cos(half), 5 * np.sin(half)])
    for start in (0, 5, 20):
        slot = rounded(np.roll(np.concatenate([right, -right]), start, axis=0), closed=True, within=1e-6)
        assert slot.area == pytest.approx(200 + 25 * np.pi) and slot.length == pytest.approx(40 + 10 * np.pi)
    chamfered = np.array([[1, 0], [9, 0], [10, 1], [10, 9], [9, 10], [1, 10], [0, 9], [0, 1]], dtype=float)
    assert not rounded(chamfered, closed=True, within=1e-3).bulge.any(), "all corners on one circle, and yet no circle"
    assert not rounded(_ring(8, 5.0), closed=True, within=1e-3).bulge.any(), "an octagon is meant"


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_an_outline_of_lines_and_arcs_measures_what_its_drawing_does(seed: int) -> None:
    random = np.random.default_rng(seed)
    turn = np.sort(random.uniform(0, 2 * np.pi, 9))
    outline = Outline(np.column_stack([np.cos(turn), np.sin(turn)]) * 20, random.uniform(-0.4, 0.4, 9), True)
    drawn = outline.drawn(1e-5)
    ahead = np.roll(drawn, -1, axis=0)
    area = float((drawn[:, 0] * ahead[:, 1] - drawn[:, 1] * ahead[:, 0]).sum()) / 2
    length = float(np.linalg.norm(ahead - drawn, axis=1).sum())
    assert outline.area == pytest.approx(area, rel=1e-3) and outline.length == pytest.approx(length, rel=1e-3)


def test_the_thickness_of_a_flat_cut_is_that_of_the_disc_that_fits() -> None:
    block = np.array([[0, 0], [30, 0], [30, 10], [0, 10.0]])
    hole = _ring(120, 2.0, (15, 5))[::-1]
    ways = ways_of([block, hole])
    for place, thickness in (((5, 2), 10.0), ((5, 8), 10.0), ((29.5, 5), 10.0), ((15, 1), 3.0)):
        found = disc_at(ways, np.array(place, dtype=float))
        assert found is not None and found.thickness == pytest.approx(thickness, abs=0.01), place
    assert disc_at(ways, np.array([15.0, 5.0])) is None and disc_at(ways, np.array([-1.0, 5.0])) is None
    rod = disc_at(ways_of([_ring(40, 6.0)]), np.array([4.9, 1.3]))
    assert rod is not None and rod.thickness == pytest.approx(12, rel=0.01), "facets beside one another are no wall"


def test_a_cut_face_fills_what_the_section_measures() -> None:
    mesh = zoo.mesh_of(zoo.tube(8, 6, 30, 40)).placed(zoo.TURNS[1])
    plane = Plane(mesh.box.middle, zoo.TURNS[1].matrix[:3, :3] @ np.array([0.2, 0.1, 1.0]))
    fill = filled(mesh, blocks_of(mesh), plane)
    assert fill is not None and not fill.chains
    corners = fill.places[fill.faces]
    a, b = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    assert np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() / 2 == pytest.approx(cut([mesh], plane).area)
    assert filled(mesh, blocks_of(mesh), Plane(plane.point + 100, plane.normal)) is None
    square, apart = (np.array([[0, 0], [4, 0], [4, 4], [0, 4.0]]), np.array([[9, 0], [10, 0], [10, 1.0]]))
    both = shared([(square,), (square + 2,), (apart,)])
    assert len(both) == 1 and sorted(np.ptp(both[0], axis=0)) == pytest.approx([2, 2])


def test_drawings_opened_by_others_have_the_area_and_the_size(tmp_path: Path) -> None:
    place = zoo.TURNS[1]
    plane = Plane(place.apply(np.array([[1.0, 2.0, 12.0]]))[0], place.matrix[:3, :3] @ np.array([0, 0, 1.0]))
    exact = exact_section(gauge.solid().exact, place, plane)
    section = cut([gauge.solid().mesh.placed(place)], plane)
    for name, outlines, area in (("exact", exact.outlines, exact.area), ("triangles", outlines_of(section), section.area)):
        write_dxf(outlines, tmp_path / f"{name}.dxf")
        write_svg(outlines, tmp_path / f"{name}.svg")
        low, high = extent_of(outlines)
        drawing = ezdxf.readfile(tmp_path / f"{name}.dxf")
        rings = [_flattened(one) for one in drawing.modelspace()]
        assert drawing.dxfversion == "AC1015" and drawing.units == 4, "R2000, in millimetres"
        whole = sum(Polygon(ring).area if Polygon(ring).exterior.is_ccw else -Polygon(ring).area for ring in rings)
        assert whole == pytest.approx(area, rel=1e-6)
        every = np.concatenate(rings)
        assert np.ptp(every, axis=0) == pytest.approx(high - low, abs=1e-3)
        root = etree.parse(tmp_path / f"{name}.svg").getroot()
        assert [float(root.get(side).removesuffix("mm")) for side in ("width", "height")] == pytest.approx(high - low, abs=1e-5)
        assert _svg_area(root[0].get("d")) == pytest.approx(area, rel=1e-5)
    write_csv(exact.outlines, [("area", exact.area, "mm²")], tmp_path / "table.csv")
    rows = list(csv.reader((tmp_path / "table.csv").read_text(encoding="utf-8").splitlines()))
    assert float(rows[1][1]) == pytest.approx(exact.area) and len(rows) == 4 + sum(len(one.points) for one in exact.outlines)


def _flattened(polyline: LWPolyline) -> np.ndarray:
    """Places along its lines and arcs, as its own library understands bulges."""
    rows = polyline.get_points("xyb")
    out = []
    for (x, y, bulge), (ahead_x, ahead_y, _) in zip(rows, [*rows[1:], rows[0]], strict=True):
        out.append((x, y))
        if bulge:
            centre, start, end, radius = bulge_to_arc((x, y), (ahead_x, ahead_y), bulge)
            turn = np.linspace(start, end if end > start else end + 2 * np.pi, 2000)[1:-1]
            turn = turn if bulge > 0 else turn[::-1]
            out += list(zip(centre.x + radius * np.cos(turn), centre.y + radius * np.sin(turn), strict=True))
    return np.array(out)


def _svg_area(words: str) -> float:
    """Of a path of M, L, A and Z, its arcs drawn by the rule of the SVG standard (implementation notes F.6.5)."""
    total, ring, here = 0.0, [], np.zeros(2)
    tokens = words.split()
    while tokens:
        letter = tokens.pop(0)
        if letter == "Z":
            points = np.array(ring)
            ahead = np.roll(points, -1, axis=0)
            total -= float((points[:, 0] * ahead[:, 1] - points[:, 1] * ahead[:, 0]).sum()) / 2
            continue
        numbers = [float(tokens.pop(0)) for _ in range(7 if letter == "A" else 2)]
        end = np.array(numbers[-2:])
        if letter == "M":
            ring = []
        elif letter == "A":
            radius, large, sweeps = numbers[0], bool(numbers[3]), bool(numbers[4])
            half = (here - end) / 2
            off = np.sqrt(max(radius**2 / (half @ half) - 1, 0.0)) * (-1 if large == sweeps else 1)
            centre = off * np.array([half[1], -half[0]]) + (here + end) / 2
            a, b = (np.arctan2(*(at - centre)[::-1]) for at in (here, end))
            turn = (b - a) % (2 * np.pi) if sweeps else -((a - b) % (2 * np.pi))
            ring += [centre + radius * np.array([np.cos(a + turn * k / 400), np.sin(a + turn * k / 400)]) for k in range(1, 400)]
        ring.append(end)
        here = end
    return total
