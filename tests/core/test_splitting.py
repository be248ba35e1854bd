"""Parts cut in two: closed halves whose volumes add up, pegs and their holes, and cuts as plain values."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

import gauge
import zoo
from gullyrise.core.cutting.cuts import Cut, gone, kept_way
from gullyrise.core.cutting.pegs import PegWish
from gullyrise.core.cutting.splitting import half_of, half_words, pegs_for
from gullyrise.core.errors import SplitError
from gullyrise.core.geometry import Plane, Transform
from gullyrise.core.geometry.booleans import solid_of
from gullyrise.core.geometry.topology import closed, edges_of
from gullyrise.core.job.origins import Split
from gullyrise.core.job.steps import done
from gullyrise.core.part import Body, Part


def part_of(*bodies: Body) -> Part:
    return Part("tray", "tray.stl", "stl", "mm", "given", bodies)


def mesh_part(*meshes: object) -> Part:
    return part_of(*(Body(f"b{n}", "mesh", zoo.mesh_of(one), (Transform.identity(),)) for n, one in enumerate(meshes)))


def volume(part: Part) -> float:
    return sum(body.count * (body.volume if body.volume is not None else body.mesh.signed_volume) for body in part.bodies)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_halves_are_closed_and_their_volumes_add_up(seed: int) -> None:
    random = np.random.default_rng(seed)
    part = mesh_part(zoo.tube(12, 7, 30, 48), zoo.t_slot().translate((30, 0, 0)))
    plane = Plane(np.array([random.uniform(-5, 40), random.uniform(-5, 10), random.uniform(2, 25)]), random.normal(size=3))
    halves = [half_of(part, plane, side) for side in ("front", "back")]  # type: ignore[arg-type]
    assert sum(map(volume, halves)) == pytest.approx(volume(part), rel=1e-9)
    for half, sign in zip(halves, (1, -1), strict=True):
        for body in half.bodies:
            assert closed(edges_of(body.mesh)) and body.mesh.signed_volume > 0
            assert (sign * plane.heights(body.mesh.vertices)).min() > -1e-6, "each lies on its own side"


def test_a_solid_stays_a_solid_with_its_own_surfaces() -> None:
    part = part_of(gauge.solid())
    plane = Plane(np.array([20.0, 25, 10]), np.array([1.0, 0.2, 0.1]))
    halves = [half_of(part, plane, side) for side in ("front", "back")]  # type: ignore[arg-type]
    assert sum(map(volume, halves)) == pytest.approx(gauge.solid().volume, abs=1e-6)
    radii = [body.facts.radius[np.isfinite(body.facts.radius)] for half in halves for body in half.bodies if body.facts]
    assert all((np.abs(found - 6) < 1e-9).any() for found in radii), "both have half of the bore, still round"


@pytest.mark.parametrize("solid", [True, False])
def test_pegs_fit_their_holes_with_the_clearance_that_was_asked_for(solid: bool) -> None:
    part = part_of(gauge.bar()) if solid else part_of(gauge.as_file(gauge.bar()))
    plane = Plane(np.array([5.0, 5, 12]), np.array([0.0, 0, 1]))
    wish = PegWish(2, 1.5, 3.0, 0.2)
    pegs = pegs_for(part, plane, wish)
    front, back = (half_of(part, plane, side, pegs) for side in ("front", "back"))  # type: ignore[arg-type]
    assert volume(back) == pytest.approx(1200 + 2 * np.pi * 0.75**2 * 3, rel=1e-6)
    assert volume(front) == pytest.approx(1800 - 2 * np.pi * 0.95**2 * 3.2, rel=1e-6)
    feet = np.array(pegs.feet)
    assert np.linalg.norm(feet[0] - feet[1]) > 4 and np.abs(plane.heights(feet)).max() < 1e-9
    one, other = solid_of(front.bodies[0].mesh), solid_of(back.bodies[0].mesh)
    assert one is not None and other is not None and float((one ^ other).volume()) < 1e-6, "put together they do not collide"


def test_what_cannot_be_split_is_said() -> None:
    block = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    opened = part_of(Body("open", "mesh", block.only(block.normals()[:, 0] < 0.9), (Transform.identity(),)))
    middle = Plane.across(2, 5.0)
    with pytest.raises(SplitError, match="not closed"):
        half_of(opened, middle, "front")
    with pytest.raises(SplitError, match="Nothing of tray"):
        half_of(mesh_part(zoo.block((0, 0, 0), (1, 1, 1))), middle, "front")
    with pytest.raises(SplitError, match="room in this cut"):
        pegs_for(mesh_part(zoo.tube(8, 7, 30, 48)), middle, PegWish(2, 3.0, 4.0, 0.1))


def test_copies_and_whole_bodies_stay_on_their_side() -> None:
    places = tuple(Transform.moved(np.array([0, 0, z])) for z in (0.0, 4.0, 9.0))
    one = Body("pin", "mesh", zoo.mesh_of(zoo.block((0, 0, 0), (2, 2, 2))), places)
    halves = [half_of(part_of(one), Plane.across(2, 5.0), side) for side in ("front", "back")]  # type: ignore[arg-type]
    assert [len(half.bodies) for half in halves] == [2, 2] and sum(map(volume, halves)) == pytest.approx(24)


def test_a_half_is_made_anew_from_its_step() -> None:
    step = Split(point=(0, 0, 5), normal=(0, 0, 2), side="front", pegs=None)
    part = mesh_part(zoo.block((0, 0, 0), (10, 10, 12)))
    made, _ = done(part, Split.model_validate_json(step.model_dump_json()))
    assert volume(made) == pytest.approx(700) and made.name == "tray upper"
    with pytest.raises(ValidationError):
        Split(point=(0, 0, 0), normal=(0, 0, 0), side="front")


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_a_ray_runs_through_what_cuts_leave(seed: int) -> None:
    random = np.random.default_rng(seed)
    cuts = tuple(
        Cut.through(random.normal(size=3) * 5, random.normal(size=3), flipped=bool(random.integers(2))).model_copy(
            update={"depth": None if random.integers(2) else float(random.uniform(1, 9))}
        )
        for _ in range(int(random.integers(1, 4)))
    )
    origin, direction = random.normal(size=3) * 9, random.normal(size=3)
    start, end = kept_way(cuts, origin, direction)
    ways = np.linspace(-6, 6, 400)
    left = ~gone(cuts, origin + ways[:, None] * direction)
    inside = (ways > start + 1e-9) & (ways < end - 1e-9)
    outside = (ways < start - 1e-9) | (ways > end + 1e-9)
    assert left[inside].all() and not left[outside].any()


def test_cuts_are_plain_values() -> None:
    cut = Cut.across(2, 12.5)
    assert (cut.axis, cut.words) == (2, "Z 12.5 mm") and Cut.model_validate_json(cut.model_dump_json()) == cut
    turned = cut.tilted(np.array([3.0, 4, 12.5]), np.array([1.0, 0, 0]), 30)
    assert turned.axis is None and float(turned.plane.heights(np.array([[3.0, 4, 12.5]]))[0]) == pytest.approx(0, abs=1e-12)
    assert np.degrees(np.arccos(np.dot(turned.along, cut.along))) == pytest.approx(30)
    slab = cut.model_copy(update={"depth": 4.0})
    heights = np.array([[0, 0, z] for z in (8.4, 8.6, 12.4, 12.6)], dtype=float)
    assert gone((slab,), heights).tolist() == [True, False, False, True]
    assert gone((slab.model_copy(update={"flipped": True}),), heights + [0, 0, 4]).tolist() == [True, False, False, True]
    assert Cut(along=(0, 0, 3), position=1.0).along == (0, 0, 1)
    for wrong in ({"along": (0, 0, 0)}, {"depth": 0.0}, {"position": float("nan")}):
        with pytest.raises(ValidationError):
            Cut.model_validate({"along": (0, 0, 1), "position": 0.0, **wrong})


@pytest.mark.parametrize(
    ("normal", "words"),
    [((1, 0, 0), ("right", "left")), ((-1, 0, 0), ("left", "right")), ((0, 1, 0), ("back", "front")),
     ((0, 0, 2), ("upper", "lower")), ((0, -3, 0.2), ("front", "back")), ((1, 1, 0), ("half 1", "half 2"))],
)  # fmt: skip
def test_halves_are_called_by_the_axis_that_the_cut_is_square_to(normal: tuple[float, ...], words: tuple[str, str]) -> None:
    assert half_words(Plane(np.zeros(3), np.array(normal) / np.linalg.norm(normal))) == words
