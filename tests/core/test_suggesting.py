"""Suggested orientations, beds and copies: what is said of each way is what the checks say of it."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

import zoo
from gullyrise.core.checks.registry import part_digest
from gullyrise.core.geometry import Box, Mesh, Transform
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.near import near_each_other
from gullyrise.core.job.placed_part import Hull
from gullyrise.core.job.placing import arranged, with_copies
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.machines.library import library, machine_named
from gullyrise.core.placing.bed import bed_offset, bed_under, room_for_rows, side_by_side, where_there_is_room
from gullyrise.core.placing.moves import dropped, stood
from gullyrise.core.placing.packing import Packed
from gullyrise.core.placing.suggesting import PICTURE, Suggestion, suggested

HERON, DIPPER = machine_named("heron-220"), machine_named("dipper-260")


def ways(mesh: Mesh, limits: Limits | None = None) -> tuple[Suggestion, ...]:
    return suggested([mesh], HERON, limits or HERON.full_limits())


def after(mesh: Mesh, way: Suggestion) -> Mesh:
    return mesh.placed(stood(mesh.vertices, way.turn))


# --- suggestions -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "mesh",
    [zoo.mesh_of(zoo.mushroom(3, 12)), zoo.mesh_of(zoo.t_slot()), zoo.mesh_of(zoo.blind_pocket(3))],
    ids=["mushroom", "slot", "pocket"],
)
def test_what_is_said_of_a_way_is_what_the_check_measures_once_it_is_applied(mesh: Mesh) -> None:
    found = ways(mesh)
    assert len(found) >= 6
    for way in found[:5]:
        placed = after(mesh, way)
        outcome = zoo.outcome("overhangs", placed)
        assert outcome.measured["support_volume"] == pytest.approx(way.support, rel=0.02, abs=1e-6)
        assert outcome.measured["area"] == pytest.approx(way.overhang, rel=1e-6, abs=1e-6)
        assert np.ptp(placed.vertices[:, 2]) == pytest.approx(way.height) and placed.vertices[:, 2].min() == pytest.approx(
            0, abs=1e-9
        )
        assert Rotation.from_matrix(way.turn).as_matrix() == pytest.approx(way.turn, abs=1e-9), "a turn, and no mirror"


@pytest.mark.slow
@pytest.mark.parametrize("seed", [1, 5, 8])
def test_the_best_way_does_not_hang_on_how_the_part_lies_in_its_file(seed: int) -> None:
    """A mushroom stands on its cap: nothing hangs over."""
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(rng=np.random.default_rng(seed)).as_matrix()
    mesh = zoo.mesh_of(zoo.mushroom(3, 12)).placed(Transform(matrix))
    best = ways(mesh)[0]
    assert best.support == pytest.approx(0, abs=1e-6) and best.stands and best.fits
    assert best.base == pytest.approx(np.pi * 36, rel=0.01)


def test_ranking_fit_comes_first_then_support() -> None:
    found = ways(zoo.mesh_of(zoo.block((0, 0, 0), (240, 20, 30))))
    fits = [way.fits for way in found]
    assert fits == sorted(fits, reverse=True) and fits[0]
    tall = ways(zoo.mesh_of(zoo.block((0, 0, 0), (400, 20, 30))))
    assert not any(way.fits for way in tall[:1]) or tall[0].height < 250
    found = ways(zoo.mesh_of(zoo.t_slot()))
    footed = [way.base >= 1 for way in found]
    assert footed == sorted(footed, reverse=True) and footed[0], "what balances on a corner comes after what has a foot"
    held = [way for way in found if way.fits and way.base >= 1]
    volumes = [way.support for way in held]
    size = np.prod(np.ptp(zoo.mesh_of(zoo.t_slot()).vertices, axis=0)) * 0.01
    assert all(a <= b + size for a, b in itertools.pairwise(volumes))


def test_a_part_that_tips_over_is_said_not_to_stand() -> None:
    upright = zoo.mesh_of(zoo.block((0, 0, 0), (6, 6, 40)))
    shear = np.eye(4)
    shear[0, 2] = np.tan(np.radians(30))
    leaning = upright.placed(Transform(shear))
    foot = [way for way in ways(leaning) if way.base == pytest.approx(36)]
    assert foot and not any(way.stands for way in foot), [(way.height, way.base) for way in ways(leaning)]
    assert all(way.stands for way in ways(upright) if way.base == pytest.approx(36))
    assert ways(leaning)[0].stands


def test_pictures_show_the_part_and_what_wants_support() -> None:
    for way in ways(zoo.mesh_of(zoo.mushroom(3, 12)))[:4]:
        assert way.picture.shape == PICTURE[::-1]
        seen = np.isfinite(way.picture)
        assert 0.05 < seen.mean() < 0.95
        assert not (way.overhang == 0 and (way.picture[seen] > 1.5).any())


def test_an_open_and_a_flat_mesh_are_looked_at_without_complaint() -> None:
    ball = zoo.mesh_of(zoo.sphere_shell(10, 8, 24))
    assert ways(ball.only(np.arange(len(ball.faces) // 2)))
    flat = Mesh(np.array([[0.0, 0, 0], [10, 0, 0], [0, 10, 0]]), np.array([[0, 1, 2]]))
    assert ways(flat)


# --- beds --------------------------------------------------------------------------------------------------------------


@settings(max_examples=50, deadline=None)
@given(st.integers(0, 5), st.integers(1, 6), st.floats(-20, 20))
def test_a_part_is_on_the_bed_under_its_middle(bed: int, beds: int, off: float) -> None:
    box = Box(np.array([-5.0, -5, 0]), np.array([5.0, 5, 9]))
    at = HERON.envelope.middle + bed_offset(HERON, bed) + [off, off, 0]
    placed = Box(box.low + at, box.high + at)
    assert bed_under(placed, HERON, beds) == (bed if bed < beds else None)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 1000), st.integers(1, 12))
def test_parts_that_come_later_find_free_places_or_wait(seed: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    boxes = [Box(np.zeros(3), rng.uniform(10, 90, 3)) for _ in range(count)]
    taken = [Box(np.array([60.0, 60, 0]), np.array([160.0, 160, 50]))]
    machine = (HERON, DIPPER)[seed % 2]
    found = where_there_is_room(boxes, taken, machine, 1)
    moves = found.moves
    placed = [Box(box.low + move.matrix[:3, 3], box.high + move.matrix[:3, 3]) for box, move in zip(boxes, moves, strict=True)]
    for a, b in itertools.combinations([*placed, *taken], 2):
        assert (a.low[:2] >= b.high[:2] + 4.99).any() or (b.low[:2] >= a.high[:2] + 4.99).any()
    assert all(box.low[2] == 0 and bed_under(box, machine, found.beds) is not None for box in placed)


def test_what_is_larger_than_a_bed_waits_and_makes_room_for_further_beds() -> None:
    block = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (150, 150, 10))), "plate")
    rail = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (400, 20, 10))), "rail")
    plates = [
        PlacedPart(n, block, block.box, {}, f"p{n}", Transform.identity(), hull=Hull(block.whole().vertices)) for n in (1, 2)
    ]
    long = PlacedPart(3, rail, rail.box, {}, "r", Transform.identity(), hull=Hull(rail.whole().vertices))
    job = Job(HERON, tuple(library())).with_parts([*plates, long])
    assert job.beds == 2 and [job.bed_of(one) for one in job.parts] == [0, 1, None]
    by_hand = job.placed(job.parts)
    third = PlacedPart(4, block, block.box, {}, "p4", Transform.identity(), hull=Hull(block.whole().vertices))
    more = by_hand.with_parts([third])
    assert more.beds == 3 and [more.bed_of(one) for one in more.parts] == [0, 1, None, 2]
    waiting = more.part(3)
    assert waiting is not None and waiting.ground.low[0] > HERON.envelope.box.high[0] + bed_offset(HERON, 2)[0]


def placed(number: int, place: Transform | None = None) -> PlacedPart:
    part = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (30, 20, 10))), "part")
    return PlacedPart(
        number, part, part.box, {}, part_digest(part), place or Transform.identity(), hull=Hull(part.whole().vertices)
    )


def test_copies_stand_in_rows_a_gap_apart_and_are_numbered_on() -> None:
    job = Job(HERON, tuple(library())).with_parts([placed(1)]).moved([1], Transform.moved(np.array([-90.0, -90, 0])))
    more = with_copies(with_copies(job, [1], 7, 4.0), [1], 2, 4.0)
    assert [one.copy for one in more.parts] == list(range(1, 11)) and len({one.id for one in more.parts}) == 10
    beside = job.with_parts([placed(11)]).moved([11], Transform.moved(np.array([55.0, 12.0, 3.0])))
    among = with_copies(beside, [1], 40, 4.0)
    assert len(among.parts) == 42
    # Copies that are made later leave out where the earlier ones stand, or anything else.
    for a, b in [*itertools.combinations(more.parts, 2), *itertools.combinations(among.parts, 2)]:
        gap = np.maximum(a.ground.low - b.ground.high, b.ground.low - a.ground.high)[:2].max()
        assert gap >= 4 - 1e-9
    assert len(with_copies(job, [1], 10**6, 1.0).parts) <= 2_001 and with_copies(job, [9], 3, 1.0) is job


def test_an_arranged_job_has_its_beds_and_what_found_none_waits_beside_them() -> None:
    job = Job(HERON, tuple(library())).with_parts([placed(n) for n in range(1, 5)])
    packed = Packed({1: Transform.identity(), 2: Transform.identity()}, {1: 0, 2: 1}, (3, 4), np.zeros(2))
    after_ = arranged(job, packed)
    assert after_.beds == 2 and after_.bed_of(after_.parts[1]) == 1
    assert [after_.bed_of(one) for one in after_.parts[2:]] == [None, None]
    shot = after_.snapshot(after_.parts[1])
    assert shot.placement.matrix[:3, 3] == pytest.approx(job.parts[1].placement.matrix[:3, 3]), "as if on the first bed"
    back = arranged(after_, Packed({1: Transform.identity()}, {1: 0}, (), np.zeros(2)))
    assert back.beds == 1


def test_neighbours_are_those_whose_boxes_meet() -> None:
    stands = tuple(placed(n, Transform.moved(np.array([x, 0.0, 0]))) for n, x in enumerate((0.0, 29.0, 100.0, 130.0), 1))
    near = near_each_other(stands)
    assert [one.id for one in near[1]] == [2] and [one.id for one in near[3]] == [4] and near_each_other(()) == {}


def test_a_reshaped_part_keeps_its_place_and_its_number() -> None:
    old = replace(placed(7, Transform.turned(np.array([0, 0, 1.0]), 30).then(Transform.moved(np.array([50.0, 60, 4])))), copy=3)
    wide = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (90, 20, 10))), "part")
    made = PlacedPart(0, wide, wide.box, {}, "x", Transform.identity(), hull=Hull(wide.whole().vertices))
    fresh = old.reshaped(made)
    assert (fresh.id, fresh.copy) == (7, 3) and fresh.name == "part · 3"
    assert fresh.ground.middle[:2] == pytest.approx(old.ground.middle[:2]) and fresh.ground.low[2] == pytest.approx(4)
    came = old.as_it_came()
    assert came.placement.matrix[:3, :3] == pytest.approx(np.eye(3)) and came.ground.low[2] == pytest.approx(0)
    assert came.ground.middle[:2] == pytest.approx(old.ground.middle[:2])
    assert dropped(old.outline()).matrix[2, 3] == pytest.approx(-4)


@pytest.mark.parametrize("machine", [HERON, DIPPER], ids=lambda one: one.id)
def test_copies_go_on_in_the_corner_of_further_beds_and_stay_on_them(machine: Machine) -> None:
    job = Job(machine, tuple(library())).with_parts([placed(1)])
    more = with_copies(job, [1], 120, 4.0)
    assert more.beds > 1 and len(more.parts) == 121
    later = [one for one in more.parts if (more.bed_of(one) or 0) > 0]
    assert later and all(more.bed_of(one) is not None for one in more.parts)
    for one in later:
        bed = more.bed_of(one)
        assert bed is not None
        away = bed_offset(machine, bed)
        corners = np.array(
            [[x, y] for x in (one.ground.low[0], one.ground.high[0]) for y in (one.ground.low[1], one.ground.high[1])]
        )
        corners = corners - away[:2]
        if machine.envelope.shape == "cylinder":
            assert np.hypot(*corners.T).max() <= machine.envelope.box.high[0]
        else:
            assert (corners >= machine.envelope.box.low[:2]).all() and (corners <= machine.envelope.box.high[:2]).all()


@pytest.mark.parametrize("machine", library(), ids=lambda one: one.id)
def test_what_just_fits_between_keep_outs_is_set_out_between_them(machine: Machine) -> None:
    low, high = room_for_rows(machine)
    deep = Box(np.zeros(3), np.array([*(high - low) - 1, 20.0]))
    found = side_by_side([deep, deep], machine)
    assert found.beds == 2
    for bed, move in enumerate(found.moves):
        corner = move.matrix[:2, 3] - bed_offset(machine, bed)[:2]
        assert (corner >= low - 1e-9).all() and (corner + deep.size[:2] <= high + 1e-9).all()
