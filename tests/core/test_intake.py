"""Truths and laws of receiving: shells, crossings, repairs, holes, units, materials, the parts list."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.geometry import Box, Mesh, Transform
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.intake.crossings import crossings_of
from gullyrise.core.intake.health import health_of
from gullyrise.core.intake.holes import borders
from gullyrise.core.intake.materials import BY_ID as MATERIALS
from gullyrise.core.intake.materials import mass
from gullyrise.core.intake.repairs import BY_ID, REPAIRS, changed
from gullyrise.core.intake.rescaling import rescaled
from gullyrise.core.intake.shells import shells_in
from gullyrise.core.intake.units import doubt, plain
from gullyrise.core.job import PlacedPart
from gullyrise.core.part import Body, Part
from gullyrise.core.report.intake import centre_of, part_figures
from gullyrise.core.report.parts_list import COLUMNS, as_csv, as_document, rows_of

BRICK = zoo.mesh_of(zoo.block((0, 0, 0), (10, 20, 30)))
turns = st.builds(
    lambda x, y, z, degrees: Transform.turned(np.array([x, y, z + 1.5]), degrees).then(Transform.moved(np.array([x, y, z]) * 40)),
    st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1), st.floats(0, 360),
)  # fmt: skip


# --- shells and crossings --------------------------------------------------------------------------------------------


def test_each_shell_is_told_for_what_it_is() -> None:
    hollow = zoo.mesh_of(zoo.hollow_box(20, 4))
    outside = zoo.mesh_of(zoo.block((40, 0, 0), (50, 10, 10)))
    chip = zoo.mesh_of(zoo.block((70, 0, 0), (70.2, 0.2, 0.2)))
    found = health_of(merged([hollow, Mesh(outside.vertices, outside.faces[:, ::-1]), chip]))
    assert (found.shells, found.cavities, found.inside_out, found.strays) == (4, 1, 1, 1)
    assert found.volume == pytest.approx(20**3 - 12**3 + 1000 + 0.008)
    shells = found.parts
    assert shells.volume[shells.cavity].tolist() == pytest.approx([-(12.0**3)])
    assert shells.faces(shells.inside_out).sum() == 12


def test_a_cavity_in_a_wall_with_a_hole_is_still_a_cavity() -> None:
    hollow = zoo.mesh_of(zoo.hollow_box(20, 4).refine_to_length(4.0))
    holed = hollow.only(np.argmax(hollow.centroids()[:, 0]) != np.arange(len(hollow.faces)))
    found = health_of(holed)
    assert not found.watertight and found.volume is None and (found.cavities, found.inside_out) == (1, 0)


@settings(max_examples=25, deadline=None)
@given(turns, st.floats(0.5, 9.5))
def test_two_boxes_cross_where_they_meet_however_they_are_turned(turn: Transform, into: float) -> None:
    other = BRICK.placed(Transform.moved(np.array([10 - into, 3.0, 4.0])))
    mesh = merged([BRICK, other]).placed(turn)
    found = crossings_of(mesh)
    assert len(found.pairs) > 0
    own = found.places @ np.linalg.inv(turn.matrix)[:3, :3].T + np.linalg.inv(turn.matrix)[:3, 3]
    for low, high in (((0, 0, 0), (10, 20, 30)), ((10 - into, 3, 4), (20 - into, 23, 34))):
        assert (own >= np.array(low) - 1e-6).all() and (own <= np.array(high) + 1e-6).all(), "on both"


def test_sound_surfaces_do_not_cross_themselves_and_crossings_agree_with_every_pair() -> None:
    assert len(crossings_of(zoo.mesh_of(zoo.t_slot())).pairs) == 0
    assert len(crossings_of(zoo.mesh_of(zoo.sphere_shell(10, 8, 32))).pairs) == 0
    random = np.random.default_rng(3)
    for _ in range(20):
        corners = random.uniform(0, 3, (9, 3, 3)) + random.uniform(0, 4, (9, 1, 3))
        soup = joined(corners.reshape(-1, 3), np.arange(27).reshape(-1, 3))
        wanted = {(a, b) for a in range(9) for b in range(a + 1, 9) if _cross(corners[a], corners[b])}
        assert {tuple(pair) for pair in crossings_of(soup).pairs.tolist()} == wanted


def _cross(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether a side of one triangle goes through the other, by exact volumes of tetrahedra in general position."""

    def volume(p: np.ndarray, q: np.ndarray, r: np.ndarray, s: np.ndarray) -> float:
        return float(np.dot(np.cross(q - p, r - p), s - p))

    def through(start: np.ndarray, end: np.ndarray, t: np.ndarray) -> bool:
        if volume(*t, start) * volume(*t, end) > 0:
            return False
        sides = [volume(start, end, t[i], t[(i + 1) % 3]) for i in range(3)]
        return all(side > 0 for side in sides) or all(side < 0 for side in sides)

    return any(through(one[i], one[(i + 1) % 3], other) for one, other in ((a, b), (b, a)) for i in range(3))


# --- repairs -----------------------------------------------------------------------------------------------------------


def broken(how: str) -> tuple[Mesh, int]:
    """A brick with one fault, and how much of it there is."""
    random = np.random.default_rng(7)
    v, f = BRICK.vertices, BRICK.faces
    if how == "join":
        soup = v[f].reshape(-1, 3) + random.normal(0, 1e-6, (36, 3))
        return joined(soup, np.arange(36).reshape(-1, 3)), 28
    if how == "degenerate":
        a, b, c = f[0]
        points = np.vstack([v, (v[a] + v[b]) / 2])
        return Mesh(points, np.vstack([[[a, 8, c], [8, b, c], [b, 8, a]], f[1:]])), 1
    if how == "duplicates":
        return Mesh(v, np.vstack([f, f[:3], f[5:6][:, ::-1]])), 4
    if how == "winding":
        turned = f.copy()
        turned[[1, 4, 9]] = turned[[1, 4, 9]][:, ::-1]
        return Mesh(v, turned), 3
    if how == "holes":
        return BRICK.only(np.arange(12) != 7), 1
    if how == "inside-out":
        return Mesh(v, f[:, ::-1]), 1
    chip = zoo.mesh_of(zoo.block((50, 0, 0), (50.1, 0.1, 0.1)))
    return merged([BRICK, chip, chip.placed(Transform.moved(np.array([0, 9.0, 0])))]), 2


@settings(max_examples=40, deadline=None)
@given(st.sampled_from([repair.id for repair in REPAIRS]), turns)
def test_each_mend_mends_its_fault_and_counts_it_wherever_the_part_lies(how: str, turn: Transform) -> None:
    mesh, count = broken(how)
    mesh = mesh.placed(turn)
    made, change = changed(BY_ID[how], mesh)
    assert change.count == count
    found = health_of(made)
    assert found.watertight and found.volume == pytest.approx(6000, rel=1e-6)
    assert not (found.flipped_faces or found.degenerate_faces or found.duplicate_faces or found.nonmanifold_edges)
    assert found.inside_out == found.strays == 0 and change.volume[1] == pytest.approx(6000, rel=1e-6)


@pytest.mark.parametrize("repair", REPAIRS, ids=lambda repair: repair.id)
def test_a_mend_leaves_a_sound_part_and_other_faults_alone(repair: object) -> None:
    sound = zoo.mesh_of(zoo.sphere_shell(10, 8, 32))
    made, change = changed(repair, sound)  # type: ignore[arg-type]
    assert made is sound and change.count == 0
    for how in [one.id for one in REPAIRS if one is not repair and {one.id, repair.id} != {"join", "holes"}]:  # type: ignore[attr-defined]
        mesh, _ = broken(how)
        if not (repair.id == "holes" and how in ("winding", "duplicates")):  # type: ignore[attr-defined]
            assert changed(repair, mesh)[1].count == 0, f"{repair.id} on {how}"  # type: ignore[arg-type,attr-defined]


def test_the_open_ends_of_a_tube_are_closed_as_rings_not_as_lids() -> None:
    tube = zoo.mesh_of(zoo.tube(10, 8, 30, 48))
    mantle = tube.only(np.abs(tube.normals()[:, 2]) < 0.9)
    assert [len(ring) for ring in borders(mantle)] == [48] * 4
    made, change = changed(BY_ID["holes"], mantle)
    assert change.count == 4 and health_of(made).volume == pytest.approx(tube.signed_volume)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 40))
@example(1363, 33)  # A face that nothing adjoins, in the middle of a hole.
def test_holes_in_a_ball_are_closed_and_its_volume_comes_back(seed: int, missing: int) -> None:
    ball = zoo.mesh_of(Manifold.sphere(10, 32))
    gone = np.random.default_rng(seed).choice(len(ball.faces), missing, replace=False)
    made, change = changed(BY_ID["holes"], ball.only(np.delete(np.arange(len(ball.faces)), gone)))
    found = health_of(made)
    assert change.count > 0 and found.watertight and not found.flipped_faces
    assert found.volume == pytest.approx(ball.signed_volume, rel=0.02)


def _faults(mesh: Mesh) -> dict[str, int]:
    found = health_of(mesh)
    counts = ("nonmanifold_edges", "flipped_faces", "degenerate_faces", "duplicate_faces", "inside_out", "strays")
    return {name: getattr(found, name) for name in counts} | {"crossings": len(crossings_of(mesh).pairs)}


def _worn(seed: int) -> Mesh:
    """One of many kinds of bodies with holes torn into it: neighbouring, alone, along edges, in thin walls, in several shells."""
    random = np.random.default_rng(seed)
    bodies = (
        Manifold.sphere(10, int(random.integers(6, 40))), Manifold.cylinder(12, 5, 2, int(random.integers(3, 40))),
        zoo.block((0, 0, 0), (20, 14, 9)) - Manifold.cylinder(20, 3, 3, 24).translate((8, 7, -3)),
        zoo.block((0, 0, 0), (20, 14, 9)) - zoo.block((0.4, 0.4, 0.4), (19.6, 13.6, 8.6)),
        zoo.block((0, 0, 0), (9, 9, 9)) + zoo.block((9, 9, 0), (18, 18, 9)),
    )  # fmt: skip
    mesh = zoo.mesh_of(bodies[seed % len(bodies)].refine(int(random.integers(1, 4))))
    if random.random() < 0.5:
        mesh = Mesh(mesh.vertices.astype(np.float32), mesh.faces)
    count = len(mesh.faces)
    gone = random.choice(count, max(1, int(count * random.uniform(0.01, 0.6))), replace=False)
    if random.random() < 0.4:
        middle = mesh.centroids()[random.integers(count)]
        gone = np.flatnonzero(np.linalg.norm(mesh.centroids() - middle, axis=1) < random.uniform(1, 9))
    return mesh.only(np.setdiff1d(np.arange(count), gone))


def _exact_volume(mesh: Mesh) -> Fraction:
    """By fractions: the witness that rounds nothing."""
    whole = Fraction(0)
    for face in mesh.faces:
        (a, b, c), (d, e, f), (g, h, i) = ([Fraction(float(value)) for value in mesh.vertices[corner]] for corner in face)
        whole += a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)
    return whole / 6


@settings(max_examples=150, deadline=None)
@given(turns, st.floats(-7, 1), st.floats(-1, 3), st.booleans(), st.booleans())
def test_a_plate_is_inside_out_where_it_is_so_exactly_and_thick_enough_to_tell(
    move: Transform, thin: float, far: float, single: bool, turned: bool
) -> None:
    plate = zoo.mesh_of(zoo.block((0, 0, 0), (7.0, 5.0, 10.0**thin)))
    places = move.apply(plate.vertices) + np.array([1.0, -0.7, 0.4]) * 10.0**far
    places = places.astype(np.float32).astype(float) if single else places
    mesh = Mesh(places, plate.faces[:, ::-1] if turned else plate.faces)
    told = bool(shells_in(mesh).inside_out.any())
    negative = _exact_volume(mesh) < 0
    assert not told or (negative and turned)
    assert told or not negative or 10.0**thin < 4 * 2.0**-23 * np.abs(places).max()


@settings(max_examples=100, deadline=None)
@given(turns, st.sampled_from([0.0, 1.0, 400.0]), st.booleans(), st.sampled_from([(0, 2, 1, 0, 3, 2), (0, 3, 1, 1, 3, 2)]))
def test_a_flat_piece_closed_by_its_own_other_side_has_no_way_to_be_turned(
    move: Transform, far: float, single: bool, behind: tuple[int, ...]
) -> None:
    places = move.apply(np.array([[-3.0, -2, 0], [3, -2, 0], [3, 2, 0], [-3, 2, 0]])) + far * np.array([0.3, 1.0, -0.6])
    places = places.astype(np.float32).astype(float) if single else places
    faces = np.array([0, 1, 2, 0, 2, 3, *behind]).reshape(-1, 3)
    found = shells_in(Mesh(places, faces))
    assert found.closed.all() and not (found.inside_out | found.cavity).any()
    found = shells_in(Mesh(places, faces[:, [1, 0, 2]]))
    assert found.closed.all() and not (found.inside_out | found.cavity).any()


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 100_000))
# What is closed is a shell that is inside out, which nobody could tell while it was open.
@example(2738)
# Two faces in one plane, closed by their other sides: they enclose nothing, but for the rounding of their numbers.
@example(8900)
def test_closing_holes_makes_nothing_that_health_then_faults(seed: int) -> None:
    mesh = _worn(seed)
    if not len(mesh.faces):
        return
    before = _faults(mesh)
    made, change = changed(BY_ID["holes"], mesh)
    after = _faults(made)
    assert {name: count for name, count in after.items() if count > before[name]} == {}
    assert (change.count > 0) == (made is not mesh) and change.open_edges[1] <= change.open_edges[0]


def test_a_hole_whose_shortest_chord_is_an_edge_already_is_closed_another_way() -> None:
    # A tent of two faces stands over one diagonal of the hole: along that diagonal there are two faces already.
    v = np.array([[0, 0, 0], [4, 0, 0], [4, 4, 0.5], [0, 4, 0], [2, 2, 4]], dtype=float)
    outer = [[0, 3, 4], [3, 2, 4], [2, 1, 4], [1, 0, 4]]
    wing = np.vstack([v, [[5, 5, 5], [-1, -1, 5]]])
    mesh = Mesh(wing, np.array([*outer, [0, 2, 5], [2, 0, 6]]))
    made, _ = changed(BY_ID["holes"], mesh)
    assert health_of(made).nonmanifold_edges == 0


def test_a_large_crooked_hole_is_left_and_said() -> None:
    ball = zoo.mesh_of(Manifold.sphere(10, 64))
    ragged = ball.only(ball.centroids()[:, 2] + 2 * np.sin(4 * np.arctan2(*ball.centroids()[:, :2].T)) < 0)
    made, change = changed(BY_ID["holes"], ragged)
    assert made is ragged and change.count == 0 and change.open_edges[0] == change.open_edges[1] > 0


# --- units, mass, centre ---------------------------------------------------------------------------------------------


def test_likely_units_come_with_the_doubt_and_numbers_are_written_out() -> None:
    inches = doubt(np.array([1.5, 1.5, 0.375]), 320.0)
    assert inches is not None and inches.answers[0] == "inch" and "38.1 x 38.1 x 9.525 mm" in inches.why
    metres = doubt(np.array([0.02, 0.03, 0.01]), 320.0)
    assert metres is not None and metres.answers[0] == "m"
    microns = doubt(np.array([10_000.0, 5000, 20]), 320.0)
    assert microns is not None and microns.answers == ("micron",) and "10,000 mm" in microns.why
    assert doubt(np.array([40.2, 13.7, 8.1]), 320.0) is None and doubt(np.zeros(3), 320.0) is None
    assert [plain(x) for x in (0.0254, 12.5, 1234.5, 1e6)] == ["0.0254", "12.5", "1,234", "1,000,000"]


@settings(max_examples=20, deadline=None)
@given(st.sampled_from(["inch", "cm", "m", "micron", "foot"]), turns)
def test_a_part_read_in_another_unit_is_the_same_part_larger(unit: str, turn: Transform) -> None:
    body = Body("brick", "mesh", BRICK, (turn, turn.then(Transform.moved(np.array([50.0, 0, 0])))))
    part = Part("brick", "brick.stl", "stl", "mm", "assumed", (body,))
    factor = {"inch": 25.4, "cm": 10, "m": 1000, "micron": 0.001, "foot": 304.8}[unit]
    made = rescaled(part, unit)
    assert (made.unit, made.unit_source) == (unit, "given")
    assert made.box.low == pytest.approx(part.box.low * factor) and made.box.size == pytest.approx(part.box.size * factor)
    assert part_figures(made, 320)["volume"] == pytest.approx(12_000 * factor**3)
    assert rescaled(made, "mm").box.size == pytest.approx(part.box.size)


@settings(max_examples=20, deadline=None)
@given(turns)
def test_the_centre_of_mass_is_that_of_every_copy(turn: Transform) -> None:
    body = Body("brick", "mesh", Mesh(BRICK.vertices, BRICK.faces[:, ::-1]), (Transform.moved(np.array([0, 0, 60.0])), turn))
    found = centre_of(Part("b", "b", "stl", "mm", "assumed", (body,)))
    wanted = (np.array([5, 10, 75.0]) + turn.apply(np.array([[5.0, 10, 15]]))[0]) / 2
    assert found == pytest.approx(wanted)
    hole = replace(body, mesh=BRICK.only(np.arange(12) != 3))
    assert centre_of(Part("b", "b", "stl", "mm", "assumed", (hole,))) is None


def test_mass_is_volume_times_density() -> None:
    assert mass(1000.0, MATERIALS["pla"]) == pytest.approx(1.24) and mass(1e6, MATERIALS["steel"]) == pytest.approx(7850)


# --- the parts list --------------------------------------------------------------------------------------------------


def placed(number: int, name: str, bodies: tuple[Body, ...]) -> PlacedPart:
    part = Part(name, f"{name}.step", "step", "mm", "declared", bodies)
    figures = part_figures(part, 320)
    return PlacedPart(number, part, Box(np.zeros(3), np.ones(3)), figures, name, Transform.identity())


def places(count: int) -> tuple[Transform, ...]:
    return tuple(Transform.moved(np.array([40.0 * step, 0, 0])) for step in range(count))


BOLT = zoo.mesh_of(Manifold.cylinder(20, 3, 3, 24))
JOB = (
    placed(
        1, "winch",
        (
            Body("bolt", "mesh", BOLT, places(4), trails=(("winch", "drum"),) * 3 + (("winch", "foot"),)),
            Body("plate", "mesh", BRICK, places(1), trails=(("winch", "foot"),)),
        ),
    ),
    placed(2, "spares", (Body("bolt [2]", "mesh", BOLT, places(2)), Body("=SUM(A1)", "mesh", BRICK, places(1)))),
)  # fmt: skip
SHAPES = {(1, 0): 0, (1, 1): 1, (2, 0): 0, (2, 1): 1}


def test_bodies_are_counted_each_by_name_and_by_shape() -> None:
    def counted(grouping: str, trail: tuple[str, ...] = ()) -> dict[str, int]:
        return {row.name: row.count for row in rows_of(JOB, grouping, SHAPES, trail)}  # type: ignore[arg-type]

    assert counted("each") == {"bolt": 4, "plate": 1, "bolt [2]": 2, "=SUM(A1)": 1}
    assert counted("name") == {"bolt": 6, "plate": 1, "=SUM(A1)": 1}
    assert counted("shape") == {"bolt": 6, "plate / =SUM(A1)": 2}
    assert counted("each", ("winch", "winch", "drum")) == {"bolt": 3}
    assert counted("name", ("winch",)) == {"bolt": 4, "plate": 1} and counted("name", ("nothing",)) == {}
    (bolts,) = [row for row in rows_of(JOB, "name", SHAPES) if row.name == "bolt"]
    assert bolts.parts == ("winch", "spares") and bolts.assemblies == ("winch › drum", "winch › foot")
    assert bolts.grams == pytest.approx(BOLT.signed_volume * 1.24e-3) and bolts.bodies == ((1, 0), (2, 0))


def test_the_list_goes_out_as_it_stands_and_starts_no_formula() -> None:
    rows = rows_of(JOB, "name", SHAPES)
    fields = ["name", "count", "size", "volume", "watertight", "parts"]
    lines = list(csv.reader(io.StringIO(as_csv(rows, fields))))
    assert lines[0] == ["Name", "Qty", "Size, mm", "Volume, mm³", "Closed", "Files"]
    assert (
        lines[1][0] == "bolt"
        and lines[1][1] == "6"
        and lines[1][2].startswith("6.000 x")
        and lines[1][4:] == ["yes", "winch, spares"]
    )
    assert lines[3][0] == "'=SUM(A1)" and lines[2][3] == "6000.000"
    document = as_document(rows, fields, "name")
    assert document["schema"] == "gullyrise.parts-list/1" and document["rows"][0]["count"] == 6
    assert document["rows"][2]["name"] == "=SUM(A1)" and list(document["rows"][0]) == fields
    assert len(list(csv.reader(io.StringIO(as_csv(rows, [field for field, _ in COLUMNS])), dialect="excel"))) == 4
