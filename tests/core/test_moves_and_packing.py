"""Moves, packing, collisions, turns and sizes: laws and known answers."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

import zoo
from gullyrise.core.errors import PlacingError
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.geometry.nearest import Tree
from gullyrise.core.geometry.round_faces import axis_about
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.placed_part import Hull
from gullyrise.core.machines import Limits
from gullyrise.core.machines.library import machine_named
from gullyrise.core.machines.machine import Machine
from gullyrise.core.placing import moves
from gullyrise.core.placing.circle import least_circle
from gullyrise.core.placing.colliding import Stand, Yard
from gullyrise.core.placing.fixture_shapes import SIZES, FixtureShape, fixture_part
from gullyrise.core.placing.footprint import footprint, rectangle
from gullyrise.core.placing.packing import Thing, Wishes, arrange, free_place
from gullyrise.core.placing.stretching import stretch_of, stretched
from gullyrise.core.placing.turning import (
    Room,
    best_turn,
    best_turn_about_z,
    excess,
    hull_points,
    ruled_out,
    thinned,
    witnesses,
)
from gullyrise.core.reading.belonging import belonging
from gullyrise.core.safe_files import fill_safely

HERON, DIPPER = machine_named("heron-220"), machine_named("dipper-260")
BARE = Machine.model_validate(
    {"id": "bare", "name": "Bare", "process": "print", "envelope": {"shape": "box", "size": [220, 220, 250]}}
)
numbers = st.floats(-50, 50)


def block(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    return zoo.mesh_of(zoo.block(at, (at[0] + x, at[1] + y, at[2] + z)))


def some_turn(seed: int) -> Transform:
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(rng=np.random.default_rng(seed)).as_matrix()
    return Transform(matrix)


def rigid(move: Transform) -> bool:
    return move.is_rigid and not move.mirrors


# --- moves -------------------------------------------------------------------------------------------------------------


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_moves_do_what_they_are_called(seed: int) -> None:
    rng = np.random.default_rng(seed)
    points = some_turn(seed).apply(rng.normal(size=(30, 3)) * [20, 8, 3]) + rng.uniform(-80, 80, 3)
    assert moves.dropped(points).apply(points)[:, 2].min() == pytest.approx(0, abs=1e-9)
    middle = moves.middle_of(moves.to_middle(points, np.array([110.0, 90, 0])).apply(points))
    assert middle[:2] == pytest.approx([110, 90]) and middle[2] == pytest.approx(moves.middle_of(points)[2])
    placed = moves.to_place(points, 5.0, None, 2.0).apply(points)
    assert moves.middle_of(placed)[:2] == pytest.approx([5.0, moves.middle_of(points)[1]])
    assert placed[:, 2].min() == pytest.approx(2.0)
    normal = rng.normal(size=3)
    laid = moves.laid_on(points, normal)
    assert rigid(laid) and laid.apply(points)[:, 2].min() == pytest.approx(0, abs=1e-9)
    assert laid.matrix[:3, :3] @ normal / np.linalg.norm(normal) == pytest.approx([0, 0, -1], abs=1e-9)
    flipped = moves.mirrored(points, 1)
    assert flipped.mirrors and flipped.then(flipped).matrix == pytest.approx(np.eye(4), abs=1e-9)
    assert moves.middle_of(flipped.apply(points)) == pytest.approx(moves.middle_of(points))


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000))
def test_the_shortest_turn_is_one_and_is_shortest(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, b = rng.normal(size=3), rng.normal(size=3)
    if seed % 5 == 0:
        b = -a
    if seed % 5 == 1:
        b = 3 * a
    turn = moves.shortest_turn(a, b)
    a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
    assert rigid(turn) and turn.matrix[:3, :3] @ a == pytest.approx(b, abs=1e-9)
    angle = np.arccos(np.clip((np.trace(turn.matrix[:3, :3]) - 1) / 2, -1, 1))
    assert angle == pytest.approx(np.arccos(np.clip(a @ b, -1, 1)), abs=1e-6)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_faces_are_laid_against_and_axes_onto_others(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, n, b, m = (rng.normal(size=3) * 10 for _ in range(4))
    against = moves.face_against(a, n, b, m)
    unit = m / np.linalg.norm(m)
    assert rigid(against) and against.matrix[:3, :3] @ n / np.linalg.norm(n) == pytest.approx(-unit, abs=1e-9)
    landed = against.apply(a[None])[0]
    assert (landed - b) @ unit == pytest.approx(0, abs=1e-9)
    assert np.cross(landed - a, unit) == pytest.approx(np.zeros(3), abs=1e-8), "nothing is shifted across the plane"
    onto = moves.axis_onto(a, n, b, m)
    landed = onto.apply(a[None])[0]
    assert np.linalg.norm(np.cross(landed - b, unit)) == pytest.approx(0, abs=1e-8)
    assert abs(onto.matrix[:3, :3] @ n / np.linalg.norm(n) @ unit) == pytest.approx(1)


# --- turns -------------------------------------------------------------------------------------------------------------


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000))
def test_the_least_circle_holds_all_and_no_smaller_one_does(seed: int) -> None:
    rng = np.random.default_rng(seed)
    points = rng.normal(size=(int(rng.integers(1, 40)), 2)) * rng.uniform(0.1, 10, 2) + 100
    if seed % 4 == 0:
        points[:, 1] = points[:, 0]
    middle, radius = least_circle(points)
    away = np.linalg.norm(points - middle, axis=1)
    assert away.max() <= radius + 1e-9
    # Moving the middle any way brings some point farther off: the circle is carried from all sides.
    for angle in np.linspace(0, 2 * np.pi, 16, endpoint=False):
        shifted = middle + 1e-3 * np.array([np.cos(angle), np.sin(angle)])
        assert np.linalg.norm(points - shifted, axis=1).max() > radius - 1e-9


@pytest.mark.parametrize("round_", [False, True])
@settings(max_examples=15, deadline=None)
@given(seed=st.integers(0, 10_000))
def test_the_turn_about_z_is_as_good_as_the_best_of_a_fine_search(round_: bool, seed: int) -> None:
    rng = np.random.default_rng(seed)
    points = rng.normal(size=(12, 3)) * [40, 15, 5]
    room = Room(60.0, float(rng.uniform(20, 60)), 50.0, round_)
    found = best_turn_about_z(points, room)
    assert found.excess == pytest.approx(excess(points @ found.matrix.T, room), abs=1e-9)
    searched = min(
        excess(points @ Transform.turned(np.array([0, 0, 1.0]), angle).matrix[:3, :3].T, room) for angle in np.arange(0, 180, 0.5)
    )
    assert found.excess <= searched + 1e-9


@pytest.mark.parametrize(
    ("sides", "fits"),
    [((300, 10, 10), True), ((390, 5, 5), True), ((399, 5, 5), False), ((401, 5, 5), False), ((300, 200, 10), True),
     ((225, 225, 10), True), ((225, 225, 225), False), ((330, 60, 60), False), ((222, 222, 222), False)],
)  # fmt: skip
@pytest.mark.parametrize("seed", [1, 2])
def test_a_bar_that_fits_is_found_and_one_that_cannot_is_proved_so(
    sides: tuple[float, float, float], fits: bool, seed: int
) -> None:
    points = some_turn(seed).apply(block(*sides).vertices)
    found = best_turn(points, Room(220, 220, 250, False))
    assert found.excess == pytest.approx(excess(points @ found.matrix.T, Room(220, 220, 250, False)), abs=1e-6)
    assert (found.excess <= 0) == fits and (fits or found.proved)


@pytest.mark.parametrize(("length", "fits"), [(390, True), (403, False), (420, False)])
def test_bars_in_a_round_room(length: float, fits: bool) -> None:
    found = best_turn(some_turn(3).apply(block(length, 10, 10).vertices), Room(250, 250, 320, True))
    assert (found.excess <= 0) == fits and (fits or found.proved)


@pytest.mark.parametrize("kind", ["ball", "plate", "spikes", "flat"])
def test_the_corners_kept_of_many_points_reach_as_far_as_all_of_them(kind: str) -> None:
    rng = np.random.default_rng(3)
    points = rng.normal(size=(60_000, 3))
    if kind == "ball":
        points /= np.linalg.norm(points, axis=1)[:, None]
    elif kind == "plate":
        points = np.round(points * [40, 30, 0.1], 1)
    elif kind == "spikes":
        points[::997] *= rng.uniform(1, 60, (len(points[::997]), 1))
    else:
        points[:, 2] = 5.0
    kept = hull_points(points)
    turns = Rotation.random(300, rng=np.random.default_rng(4)).as_matrix().reshape(-1, 3)
    assert (kept @ turns.T).max(axis=0) == pytest.approx((points @ turns.T).max(axis=0), abs=1e-9)
    assert kind in ("ball", "flat") or len(kept) < 3_000
    assert len(thinned(points, 500)) < 1_500


def test_a_fine_ball_is_found_not_to_fit_where_a_coarse_search_would_let_it_in() -> None:
    points = np.random.default_rng(5).normal(size=(200_000, 3))
    points *= 50 / np.linalg.norm(points, axis=1)[:, None]
    size = float(np.ptp(points, axis=0).min())
    assert best_turn(points, Room(100.01, 100.01, 100.01, False)).excess <= 0
    tight = best_turn(points, Room(size - 0.05, 120, 120, False))
    assert tight.excess > 0


def test_a_proof_is_not_given_away() -> None:
    """Where a turn fits, nothing is ruled out, however tight: the best of the search is 0.02 mm inside."""
    points = block(216, 40, 40).vertices
    tight = best_turn(points, Room(170, 170, 50, False))
    room = Room(170 + tight.excess + 0.02, 170 + tight.excess + 0.02, 50, False)
    assert excess(points @ tight.matrix.T, room) < 0
    found, proved = ruled_out(witnesses(some_turn(9).apply(points)), room)
    assert not proved or found is not None


# --- packing -----------------------------------------------------------------------------------------------------------


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000))
def test_a_footprint_covers_all_that_the_thing_covers(seed: int) -> None:
    rng = np.random.default_rng(seed)
    mesh = zoo.mesh_of(zoo.t_slot()).placed(some_turn(seed)).placed(Transform.moved(rng.uniform(-100, 100, 3)))
    made = footprint(mesh, 1.3)
    share = rng.dirichlet([1, 1, 1], size=(len(mesh.faces), 40))
    places = np.einsum("mkc,mcd->mkd", share, mesh.triangles()).reshape(-1, 3)[:, :2]
    at = np.minimum(((places - made.low) / 1.3).astype(int), np.array(made.cells.shape) - 1)
    assert made.cells[at[:, 0], at[:, 1]].all()
    assert (made.cells <= rectangle(mesh, 1.3).cells).all()


@pytest.mark.parametrize("seed", range(3))
def test_a_footprint_taken_in_portions_is_the_same(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    mesh = zoo.mesh_of(zoo.t_slot()).placed(some_turn(seed))
    whole = footprint(mesh, 0.4).cells
    monkeypatch.setattr("gullyrise.core.placing.footprint._PORTION", 500)
    assert np.array_equal(footprint(mesh, 0.4).cells, whole)


def mixed(count: int, seed: int) -> list[Thing]:
    rng = np.random.default_rng(seed)
    out = []
    for number in range(count):
        a, b, c = rng.uniform(8, 30, 3)
        made = [block(a, b, c), zoo.mesh_of(zoo.t_slot()), zoo.mesh_of(zoo.tube(12, 9, 20, 24)), block(a, 6, 4)][number % 4]
        out.append(Thing(number, made.placed(Transform.moved(rng.uniform(-200, 200, 3)))))
    return out


@pytest.mark.slow
@pytest.mark.parametrize("machine", [HERON, DIPPER], ids=lambda machine: machine.id)
@pytest.mark.parametrize("outline", ["footprint", "rectangle"])
def test_arranged_things_are_inside_and_clear_of_each_other(machine: Machine, outline: str) -> None:
    things = mixed(24, 5)
    limits = machine.full_limits()
    packed = arrange(things, machine, limits, Wishes(2.0, outline), [])  # type: ignore[arg-type]
    assert set(packed.moves) == {thing.id for thing in things} and not packed.left and packed.bed_count == 1
    placed = [thing.mesh.placed(packed.moves[thing.id]) for thing in things]
    assert all(mesh.vertices[:, 2].min() == pytest.approx(0, abs=1e-9) for mesh in placed)
    assert all(rigid(move) for move in packed.moves.values())
    assert min(Tree(a).gap_to(Tree(b)).distance for a, b in itertools.combinations(placed, 2)) >= 2.0 - 1e-6
    every = np.concatenate([mesh.vertices for mesh in placed])
    if machine is DIPPER:
        assert np.hypot(every[:, 0], every[:, 1]).max() <= 125
    else:
        assert every[:, :2].min() >= 4 - 1e-9 and every[:, :2].max() <= 216 + 1e-9
        clips = [((x > 202) | (x < 18)) & (y < 9) for x, y in [every[:, :2].T]]
        assert not np.any(clips)


def test_things_alike_share_a_footprint_wherever_they_stand() -> None:
    shape = zoo.mesh_of(zoo.t_slot())
    things = [Thing(n, shape.placed(Transform.moved(np.array([60.0 * n, -17.0 * n, n]))), "slot") for n in range(9)]
    packed = arrange(things, HERON, HERON.full_limits(), Wishes(1.0), [])
    placed = [thing.mesh.placed(packed.moves[thing.id]) for thing in things]
    assert all(mesh.vertices.min() >= -1e-9 and mesh.vertices[:, :2].max() <= 216 for mesh in placed)
    assert min(Tree(a).gap_to(Tree(b)).distance for a, b in itertools.combinations(placed, 2)) >= 1.0 - 1e-6


def test_a_full_bed_opens_a_second_and_says_what_no_bed_holds() -> None:
    things = [Thing(n, block(100, 100, 10)) for n in range(5)] + [Thing(9, block(300, 20, 5)), Thing(10, block(20, 20, 400))]
    packed = arrange(things, BARE, BARE.full_limits(), Wishes(3.0), [])
    assert set(packed.left) == {9, 10}
    assert packed.bed_count == 2 and sorted(packed.beds.values()) == [0, 0, 0, 0, 1]


def test_what_is_fixed_is_packed_round() -> None:
    pillar = block(60, 60, 30, (80, 80, 0))
    packed = arrange([Thing(n, block(50, 50, 5)) for n in range(4)], BARE, BARE.full_limits(), Wishes(4.0), [pillar])
    placed = [block(50, 50, 5).placed(packed.moves[n]) for n in range(4)]
    assert min(Tree(mesh).gap_to(Tree(pillar)).distance for mesh in placed) >= 4.0
    move = free_place(block(50, 50, 5, (400, 0, 7)), BARE, Limits(), [pillar])
    assert move is not None
    assert Tree(block(50, 50, 5, (400, 0, 7)).placed(move)).gap_to(Tree(pillar)).distance >= 0
    assert free_place(block(230, 10, 5), BARE, Limits(), []) is None


def test_what_is_a_hundred_times_larger_than_the_bed_is_left_out_and_stood_beside_without_being_looked_at_closely() -> None:
    vast = zoo.mesh_of(zoo.tube(40_000, 39_000, 30_000, 200))
    packed = arrange([Thing(0, vast), Thing(1, block(50, 50, 5))], BARE, BARE.full_limits(), Wishes(4.0), [])
    assert packed.left == (0,) and set(packed.moves) == {1}
    assert arrange([Thing(0, vast)], BARE, BARE.full_limits(), Wishes(4.0), []).left == (0,)
    assert free_place(vast, BARE, Limits(), []) is None
    wall = block(100_000, 90, 50, (-50_000, -20, 0))
    (low,) = (
        block(50, 50, 5).placed(move).box.low
        for move in arrange([Thing(1, block(50, 50, 5))], BARE, BARE.full_limits(), Wishes(4.0), [wall]).moves.values()
    )
    assert low[1] >= 70 + 4, "what reaches over the bed is kept clear of"


@pytest.mark.slow
def test_the_order_in_which_things_are_given_does_not_matter() -> None:
    things = mixed(20, 8)
    areas = []
    for seed in range(3):
        shuffled = [things[n] for n in np.random.default_rng(seed).permutation(len(things))]
        areas.append(float(np.prod(arrange(shuffled, BARE, BARE.full_limits(), Wishes(2.0), []).covered)))
    assert max(areas) <= 1.1 * min(areas)


# --- collisions --------------------------------------------------------------------------------------------------------


def yard() -> Yard:
    made = Yard()
    made.take("block", [block(10, 10, 10)])
    made.take("frame", [zoo.mesh_of(zoo.tube(20, 15, 10, 48))])
    made.take("pair", [block(4, 4, 4), block(4, 4, 4, (8, 0, 0))])
    # The same in one mesh, as most files have it.
    made.take("pieces", [merged([block(4, 4, 4), block(4, 4, 4, (8, 0, 0))])])
    return made


def stand(id: int, digest: str, place: Transform) -> Stand:
    return Stand(id, digest, tuple(place.matrix.ravel().tolist()))


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 100_000))
# One of two bodies wholly in the block, the other outside.
@example(1171)
def test_collisions_are_those_of_the_true_surfaces(seed: int) -> None:
    rng = np.random.default_rng(seed)
    flip = Transform(np.diag([1.0, -1, 1, 1]))
    places = []
    for n in range(3):
        turn = some_turn(seed + n).then(Transform.moved(rng.uniform(-11, 11, 3)))
        places.append(flip.then(turn) if (seed + n) % 3 == 0 else turn)
    digests = ["block", ("pair", "pieces")[seed % 2], "block"]
    found = yard().pairs([stand(n, digests[n], places[n]) for n in range(3)])
    two = [block(4, 4, 4), block(4, 4, 4, (8, 0, 0))]
    bodies = {"block": [block(10, 10, 10)], "pair": two, "pieces": two}
    for a, b in itertools.combinations(range(3), 2):
        placed_a = [mesh.placed(places[a]) for mesh in bodies[digests[a]]]
        placed_b = [mesh.placed(places[b]) for mesh in bodies[digests[b]]]
        gap = min(Tree(p).gap_to(Tree(q)).distance for p in placed_a for q in placed_b)
        if gap > 1e-6:
            inner = any(_holds(p, q) or _holds(q, p) for p in placed_a for q in placed_b)
            assert ((a, b) in found) == inner
        elif gap == 0:
            assert (a, b) in found


def _holds(a: Mesh, b: Mesh) -> bool:
    from gullyrise.core.geometry.winding import inside

    return bool(inside(a, b.vertices[:1])[0])


def test_boxes_that_overlap_without_meeting_do_not_collide_and_what_lies_inside_does() -> None:
    made = yard()
    apart = [
        stand(1, "block", Transform.turned(np.array([0, 0, 1.0]), 45)),
        stand(2, "block", Transform.moved(np.array([7.2, 7.2, 0]))),
    ]
    assert made.pairs(apart) == []
    assert made.pairs([stand(1, "block", Transform.identity()), stand(2, "block", Transform.moved(np.array([10.0, 0, 0])))]) == [
        (1, 2)
    ]
    made.take("large", [block(40, 40, 40)])
    inside = [stand(1, "block", Transform.moved(np.array([15.0, 15, 15]))), stand(2, "large", Transform.identity())]
    assert made.pairs(inside) == [(1, 2)] and made.pairs(inside, moved={7}) == []
    # In the bore of a tube a thing touches nothing and is in no material, though its box lies in the tube's.
    bored = [stand(1, "pair", Transform.moved(np.array([-6.0, -2, 3]))), stand(2, "frame", Transform.identity())]
    assert made.pairs(bored) == []


# --- sizes -------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("shape", list(SIZES))
def test_stand_ins_have_the_size_that_was_typed(shape: str) -> None:
    size = {"block": (12, 7, 30), "cylinder": (10, 25), "sphere": (9,), "cone": (10, 4, 6)}[shape]
    body = fixture_part(FixtureShape(shape=shape, size=size)).bodies[0]  # type: ignore[arg-type]
    volume = {"block": 12 * 7 * 30, "cylinder": np.pi * 25 * 25, "sphere": np.pi / 6 * 729, "cone": np.pi * 6 / 3 * (25 + 10 + 4)}
    assert body.kind == "solid" and body.volume == pytest.approx(volume[shape], rel=1e-9)
    assert body.mesh.box.low[2] == pytest.approx(0, abs=1e-9) and body.mesh.box.middle[:2] == pytest.approx([0, 0], abs=0.02)


@pytest.mark.parametrize("size", [(1, 2), (0, 1, 1), (1, 1, float("nan")), (1, 1, 1e9)])
def test_a_stand_in_of_no_size_is_refused(size: tuple[float, ...]) -> None:
    with pytest.raises(ValueError, match=r"block|finite"):
        FixtureShape(shape="block", size=size)


def test_a_stretched_solid_has_the_volume_of_its_surfaces() -> None:
    cylinder = fixture_part(FixtureShape(shape="cylinder", size=(10, 20)))
    wide = stretched(cylinder, np.diag([2.0, 1, 1])).bodies[0]
    assert wide.kind == "solid" and wide.volume == pytest.approx(2 * np.pi * 25 * 20, rel=1e-6)
    assert wide.mesh.box.size == pytest.approx([20, 10, 20], abs=0.05)
    large = stretched(cylinder, np.eye(3) * 2).bodies[0]
    assert large.facts is not None and large.facts.counts() == {"plane": 2, "cylinder": 1}
    assert large.volume == pytest.approx(8 * np.pi * 25 * 20)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_a_stretch_along_the_machine_is_that_whatever_the_turn(seed: int) -> None:
    rng = np.random.default_rng(seed)
    place = some_turn(seed)
    factors = rng.uniform(0.3, 3, 3)
    part = zoo.part(zoo.mesh_of(zoo.t_slot()), "slot")
    made = stretched(part, stretch_of(place.matrix[:3, :3], factors))
    before, after = part.whole().placed(place), made.whole().placed(place)
    assert after.vertices == pytest.approx(before.vertices * factors, abs=1e-9)
    assert after.signed_volume == pytest.approx(before.signed_volume * factors.prod())


@pytest.mark.parametrize("linear", [np.zeros((3, 3)), np.diag([1.0, 1, -1]), np.eye(3) * 1e9, np.full((3, 3), np.nan)])
def test_a_stretch_to_nothing_is_refused(linear: np.ndarray) -> None:
    with pytest.raises((PlacingError, np.linalg.LinAlgError)):
        stretched(zoo.part(block(1, 1, 1), "b"), linear)


@pytest.mark.parametrize("facets", [24, 96])
def test_the_axis_of_a_round_wall_is_found_about_any_of_its_triangles(facets: int) -> None:
    place = some_turn(4).then(Transform.moved(np.array([30.0, -9, 4])))
    mesh = zoo.mesh_of(zoo.tube(12, 9, 20, facets)).placed(place)
    wall = int(np.argmax(np.abs(zoo.mesh_of(zoo.tube(12, 9, 20, facets)).normals()[:, 2]) < 0.5))
    found = axis_about(mesh, wall)
    assert found is not None and found.residual < 1e-6 * 100
    true = place.matrix[:3, :3] @ [0, 0, 1]
    assert abs(found.direction @ true) == pytest.approx(1, abs=1e-9)
    assert np.cross(found.point - place.apply(np.zeros((1, 3)))[0], true) == pytest.approx(np.zeros(3), abs=1e-6)
    assert axis_about(block(10, 10, 10), 0) is None


# --- files that belong together ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("words", "names"),
    [('{"buffers": [{"uri": "a.bin"}, {"uri": "b%20c.bin"}]}', ("a.bin", "b c.bin")), ('{"buffers": [{"uri": "../x.bin"}]}', ()),
     ('{"buffers": [{"uri": "data:;base64,AA"}, {}]}', ()), ("[1, 2", ()), ('{"buffers": 3}', ()),
     ('{"buffers": [{"uri": "gone.bin"}]}', ())],
)  # fmt: skip
def test_only_buffers_of_the_own_folder_belong_to_gltf(words: str, names: tuple[str, ...], tmp_path: Path) -> None:
    home = tmp_path / "home"
    home.mkdir()
    for name in ("a.bin", "b c.bin"):
        (home / name).write_bytes(b"x")
    (tmp_path / "x.bin").write_bytes(b"not yours")
    (home / "m.gltf").write_text(words)
    assert belonging(home / "m.gltf") == names and belonging(home / "a.bin") == ()


def test_a_writer_that_fails_half_way_leaves_the_old_file_and_nothing_else(tmp_path: Path) -> None:
    path = tmp_path / "kept.txt"
    path.write_bytes(b"old")

    def fill(stream: Any) -> None:
        stream.write(b"half")
        raise RuntimeError("no more")

    with pytest.raises(RuntimeError):
        fill_safely(path, fill)
    assert path.read_bytes() == b"old" and [one.name for one in tmp_path.iterdir()] == ["kept.txt"]


@pytest.mark.parametrize(("value", "step", "wanted"), [(7.3, 2.5, 7.5), (-7.3, 2.5, -7.5), (7.3, 0, 7.3), (0.04, 0.1, 0.0)])
def test_amounts_are_rounded_to_steps(value: float, step: float, wanted: float) -> None:
    assert moves.rounded(value, step) == pytest.approx(wanted)


def test_a_mirrored_part_comes_back_as_it_came() -> None:
    part = zoo.part(zoo.mesh_of(zoo.t_slot()), "slot")
    placed = PlacedPart(1, part, part.box, {}, "d", Transform.moved(np.array([40.0, 30, 0])), hull=Hull(part.whole().vertices))
    flipped = placed.moved(moves.mirrored(placed.outline(), 0)).moved(moves.turned(placed.outline(), np.array([1.0, 0, 0]), 70))
    back = flipped.as_it_came()
    assert not back.placement.mirrors and back.ground.size == pytest.approx(placed.ground.size)
    assert back.ground.middle[:2] == pytest.approx(flipped.ground.middle[:2]) and back.ground.low[2] == pytest.approx(0)
