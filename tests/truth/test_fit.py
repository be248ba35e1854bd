"""Fit against known answers: at a hundredth of a millimetre of the limit, whatever the turn."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from manifold3d import Manifold
from scipy.spatial.transform import Rotation

import zoo
from gullyrise.core.checks.protocol import Neighbour, Outcome, Snapshot
from gullyrise.core.checks.registry import run_check
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.machines.library import library, machine_named
from gullyrise.core.machines.machine import Machine
from gullyrise.core.part import Part
from gullyrise.core.placing.bed import in_the_middle
from gullyrise.core.placing.moves import dropped, shortest_turn

HERON, DIPPER, ALDER = machine_named("heron-220"), machine_named("dipper-260"), machine_named("alder-mill")
BOX = Machine.model_validate(
    {
        "id": "b",
        "name": "Box",
        "process": "print",
        "envelope": {"shape": "box", "size": [120, 90, 70]},
        "margins": {"edge": 3, "top": 2},
    }
)
ROUND = Machine.model_validate(
    {
        "id": "r",
        "name": "Round",
        "process": "print",
        "envelope": {"shape": "cylinder", "diameter": 130, "height": 80},
        "margins": {"edge": 4, "top": 1},
    }
)


def part(*meshes: Mesh) -> Part:
    return zoo.part(meshes[0], "part", *meshes[1:])


def judged(subject: Part, placement: Transform, machine: Machine, neighbours: tuple[Neighbour, ...] = ()) -> Outcome:
    (found,) = run_check("fit", Snapshot(subject, placement, machine, tuple(library()), neighbours), machine.full_limits())
    return found


def turned_away(mesh: Mesh, seed: int) -> tuple[Mesh, Transform]:
    """A mesh in a file that has it anyhow, in single precision, and the placement that brings it back upright."""
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(rng=np.random.default_rng(seed)).as_matrix()
    matrix[:3, 3] = np.random.default_rng(seed).uniform(-200, 200, 3)
    away = Transform(matrix)
    stored = Mesh(away.apply(mesh.vertices).astype(np.float32).astype(np.float64), mesh.faces)
    return stored, Transform(np.linalg.inv(matrix))


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("axis", [0, 1, 2])
@pytest.mark.parametrize(("beyond", "verdict"), [(0.01, "fail"), (-0.01, "pass")])
def test_a_box_envelope_is_judged_to_a_hundredth(seed: int, axis: int, beyond: float, verdict: str) -> None:
    room = np.array([114.0, 84.0, 68.0])
    sides = room - 5
    sides[axis] = room[axis] + beyond
    mesh, back = turned_away(zoo.mesh_of(zoo.block((0, 0, 0), tuple(sides))), seed)
    placed = back.then(in_the_middle(mesh.placed(back).box, BOX))
    found = judged(part(mesh), placed, BOX)
    assert found.verdict == verdict
    tight = min(value for words, value in found.measured["sides"])
    assert tight == pytest.approx(-beyond / (1 if axis == 2 else 2), abs=found.uncertainty or 0)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("what", ["radial", "height"])
@pytest.mark.parametrize(("beyond", "verdict"), [(0.01, "fail"), (-0.01, "pass")])
def test_a_round_envelope_is_judged_to_a_hundredth(seed: int, what: str, beyond: float, verdict: str) -> None:
    """A block whose corners reach the circle, and one that reaches the top."""
    angle = np.random.default_rng(seed).uniform(0.3, 1.2)
    radius = 61.0 + beyond if what == "radial" else 50.0
    sides = (2 * radius * np.cos(angle), 2 * radius * np.sin(angle), 79.0 + beyond if what == "height" else 40.0)
    mesh, back = turned_away(zoo.mesh_of(zoo.block((0, 0, 0), sides)), seed)
    upright = back.then(Transform.turned(np.array([0, 0, 1.0]), 17.0 * seed))
    box = mesh.placed(upright).box
    found = judged(part(mesh), upright.then(in_the_middle(box, ROUND)), ROUND)
    assert found.verdict == verdict
    slack = found.measured["slack"]["radial"][0] if what == "radial" else found.measured["slack"]["z"][1]
    assert slack == pytest.approx(-beyond, abs=found.uncertainty or 0)


@pytest.mark.parametrize(("away", "verdict"), [(0.01, "pass"), (-0.01, "fail")])
@pytest.mark.parametrize("shape", ["box", "cylinder"])
def test_keep_outs_are_judged_to_a_hundredth(shape: str, away: float, verdict: str) -> None:
    keep: dict[str, Any] = (
        {"name": "a clip", "min": [40, 40, 0], "max": [60, 60, 10]}
        if shape == "box"
        else {"name": "a clip", "center": [50, 50, 0], "diameter": 20, "height": 10}
    )
    machine = Machine.model_validate({**BOX.model_dump(exclude_none=True), "keep_out": [keep]})
    mesh = zoo.mesh_of(zoo.block((60 + away, 45, 0), (80, 55, 20)))
    found = judged(part(mesh), Transform.identity(), machine)
    assert found.verdict == verdict and ("a clip" in found.why) == (verdict == "fail")
    over = judged(part(mesh), Transform.moved(np.array([-20.0, 0, 10.2])), replace_height(machine))
    assert "a clip" not in over.why, "it passes over what is lower"


def replace_height(machine: Machine) -> Machine:
    return machine.model_copy(update={"process": "mill"})


@pytest.mark.parametrize(
    ("lift", "process", "verdict", "said"),
    [(0.0, "print", "pass", "to spare"), (0.15, "print", "pass", "to spare"), (3.0, "print", "fail", "floats 3.00 mm"),
     (-0.5, "print", "fail", "sunk 0.500 mm"), (3.0, "mill", "pass", "to spare"), (-0.01, "print", "fail", "sunk 0.0100 mm")],
)  # fmt: skip
def test_floating_and_sunk_parts(lift: float, process: str, verdict: str, said: str) -> None:
    machine = BOX.model_copy(update={"process": process})
    found = judged(part(zoo.mesh_of(zoo.block((40, 40, 0), (60, 60, 20)))), Transform.moved(np.array([0, 0, lift])), machine)
    assert found.verdict == verdict and said in found.why


@pytest.mark.parametrize("machine", [HERON, DIPPER, BOX, ROUND, ALDER], ids=lambda one: one.id)
@pytest.mark.parametrize("direction", [(1, 0), (-1, 0), (0, 1), (0, -1), (1, 1)])
def test_a_part_on_no_bed_is_never_inside(machine: Machine, direction: tuple[int, int]) -> None:
    cube = part(zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 20))))
    middle = in_the_middle(cube.box, machine)
    for times in (0.6, 1.0, 5.0):
        away = np.array([*(np.array(direction) * (machine.envelope.box.size[:2] * times + 30)), 0.0])
        found = judged(cube, middle.then(Transform.moved(away)), machine)
        assert found.verdict == "fail" and not found.measured["inside"] and "on no bed" in found.why, found.why
        assert [finding.what for finding in found.findings] == ["is on no bed"] and "would hold it" in found.why
        assert machine.id in found.measured["machines_that_fit"], "which machines hold it is asked of their middle"


def test_neighbours_are_met_by_their_surfaces_not_their_boxes() -> None:
    bar = part(zoo.mesh_of(zoo.block((-30, -1, 0), (30, 1, 10))))
    slanted = Transform.turned(np.array([0, 0, 1.0]), 45).then(Transform.moved(np.array([60.0, 45, 0])))
    beside = slanted.then(Transform.moved(np.array([3.0, -3.0, 0])))
    other = Neighbour("bar · 2", bar, beside)
    assert judged(bar, slanted, BOX, (other,)).verdict == "pass", "their boxes overlap, they do not"
    met = judged(bar, slanted, BOX, (replace(other, placement=slanted.then(Transform.moved(np.array([1.0, -1.0, 0])))),))
    assert met.verdict == "fail" and met.measured["collisions"] == ["bar · 2"] and "meets bar · 2" in met.findings[0].what
    inner = Neighbour("pin", part(zoo.mesh_of(zoo.block((0, 0, 2), (1, 1, 3)))), Transform.moved(np.array([60.0, 45, 0])))
    assert judged(bar, slanted, BOX, (inner,)).verdict == "fail", "wholly inside the other's material"


def scattered(rng: np.random.Generator) -> Manifold:
    """One mesh of several pieces, as a file for a printer may hold them: blocks, balls and hollow ones."""
    out = []
    for _ in range(int(rng.integers(1, 4))):
        size = float(rng.uniform(2, 25))
        solid = (zoo.block((0, 0, 0), (size, size, size)), Manifold.sphere(size / 2, 16))[int(rng.integers(2))]
        if rng.random() < 0.4:
            solid -= (
                solid.translate(tuple(-np.mean(np.reshape(solid.bounding_box(), (2, 3)), axis=0)))
                .scale((0.8, 0.8, 0.8))
                .translate(tuple(np.mean(np.reshape(solid.bounding_box(), (2, 3)), axis=0)))
            )
        out.append(solid.translate(tuple(rng.uniform(-25, 25, 3))))
    return Manifold.compose(out) if all(a.min_gap(b, 1.0) > 0.5 for a, b in itertools.combinations(out, 2)) else out[0]


@pytest.mark.parametrize("seed", range(12))
def test_every_piece_of_a_part_is_held_against_every_piece_of_the_others_and_the_keep_outs(seed: int) -> None:
    rng = np.random.default_rng(seed)
    met = 0
    for _ in range(12):
        solids = [scattered(rng) for _ in range(2)]
        placed = [one.translate((60, 45, 30)) for one in solids]
        stand = Transform.moved(np.array([60.0, 45.0, 30.0]))
        a, b = (part(zoo.mesh_of(one)) for one in solids)
        common, gap = (placed[0] ^ placed[1]).volume(), placed[0].min_gap(placed[1], 1.0)
        if 0 < common < 1e-3 or (common == 0 and gap < 1e-3):
            continue
        for one, other in ((a, b), (b, a)):
            found = judged(one, stand, BOX, (Neighbour("other", other, stand),)).measured["collisions"]
            assert (found == ["other"]) == (common > 0), (common, gap)
        met += common > 0
        low, high = np.sort(rng.uniform((20, 15, 0), (100, 75, 60), (2, 3)), axis=0).round(1)
        keep = zoo.block(tuple(low), tuple(high))
        common, gap = (placed[0] ^ keep).volume(), placed[0].min_gap(keep, 1.0)
        if common > 1e-3 or gap > 1e-3:
            clip = {"name": "a clip", "min": low.tolist(), "max": high.tolist()}
            machine = Machine.model_validate({**BOX.model_dump(exclude_none=True), "keep_out": [clip]})
            told = any("a clip" in one.what for one in judged(a, stand, machine).findings)
            assert told == (common > 0), (common, gap)
    assert met


@pytest.mark.parametrize("seed", range(4))
def test_of_many_neighbours_those_are_told_that_are_met(seed: int) -> None:
    rng = np.random.default_rng(seed)
    stand = Transform.moved(np.array([60.0, 45.0, 30.0]))
    solids = [scattered(rng) for _ in range(120)]
    first, others = solids[0], solids[1:]
    neighbours = tuple(Neighbour(str(n), part(zoo.mesh_of(one)), stand) for n, one in enumerate(others))
    told = judged(part(zoo.mesh_of(first)), stand, BOX, neighbours).measured["collisions"]
    common = {str(n): (first ^ one).volume() for n, one in enumerate(others)}
    gaps = {str(n): first.min_gap(one, 1.0) for n, one in enumerate(others)}
    assert {name for name, much in common.items() if much > 1e-3} <= set(told)
    assert not {name for name, much in common.items() if much == 0 and gaps[name] > 1e-3} & set(told)


def test_a_turn_that_fits_is_given_and_applied_it_passes() -> None:
    bar = part(zoo.mesh_of(zoo.block((0, 0, 0), (260, 12, 12))))
    level = judged(bar, in_the_middle(bar.box, HERON), HERON)
    assert level.verdict == "fail" and level.measured["fits_turned"] and "about the vertical" in level.why
    move = Transform(np.array(level.measured["turned"]["about_z"]))
    again = judged(bar, in_the_middle(bar.box, HERON).then(move), HERON)
    assert again.verdict == "pass" and again.measured["inside"], again.why
    long = part(zoo.mesh_of(zoo.block((0, 0, 0), (320, 10, 10))))
    any_way = judged(long, in_the_middle(long.box, HERON), HERON)
    assert any_way.measured["turned"]["about_z"] is None and any_way.measured["fits_turned"]
    move = Transform(np.array(any_way.measured["turned"]["any"]))
    assert judged(long, in_the_middle(long.box, HERON).then(move), HERON).verdict == "pass"
    never = part(zoo.mesh_of(zoo.block((0, 0, 0), (225, 225, 225))))
    proved = judged(never, in_the_middle(never.box, HERON), HERON)
    assert not proved.measured["fits_turned"] and proved.measured["turned"]["proved"] and "However it is turned" in proved.why


@pytest.mark.slow
def test_a_turn_into_a_keep_out_is_none_that_fits() -> None:
    blocked = Machine.model_validate(
        {
            **BOX.model_dump(exclude_none=True),
            "keep_out": [{"name": "a post", "center": [60, 45, 0], "diameter": 50, "height": 70}],
        }
    )
    bar = part(zoo.mesh_of(zoo.block((0, 0, 0), (130, 8, 8))))
    assert judged(bar, in_the_middle(bar.box, BOX), BOX).measured["fits_turned"]
    assert not judged(bar, in_the_middle(bar.box, blocked), blocked).measured["fits_turned"]


@pytest.mark.parametrize(
    ("sides", "said"),
    [((200, 100, 40), "to spare"), ((259, 100, 40), "stock along X"), ((200, 139, 40), "stock along Y"),
     ((100, 258, 40), "outside the build volume of Alder"), ((60, 60, 91), "clamping height")],
)  # fmt: skip
def test_a_mill_asks_for_stock_and_clamping(sides: tuple[float, float, float], said: str) -> None:
    block = part(zoo.mesh_of(zoo.block((0, 0, 0), sides)))
    found = judged(block, in_the_middle(block.box, ALDER), ALDER)
    assert said in found.why and (found.verdict == "pass") == (said == "to spare")


def test_travel_and_headroom_of_a_mill() -> None:
    low = Machine.model_validate(
        {
            **ALDER.model_dump(exclude_none=True),
            "stock": None,
            "clamping": None,
            "travel": {"x": 205, "y": 200, "z": 150, "headroom": 95},
        }
    )
    block = part(zoo.mesh_of(zoo.block((0, 0, 0), (200, 50, 39))))
    found = judged(block, in_the_middle(block.box, low), low)
    slack = dict(found.measured["sides"])
    assert slack["the travel in X with the tool beside the part"] == pytest.approx(205 - 200 - 10)
    assert slack["the headroom over the part with the longest tool"] == pytest.approx(95 - 55 - 39)
    assert found.verdict == "fail" and "travel in X" in found.why


@pytest.mark.parametrize("seed", range(4))
def test_round_bars_want_a_bar_as_thick_as_the_circle_round_their_section(seed: int) -> None:
    machine = Machine.model_validate(
        {**ALDER.model_dump(exclude_none=True), "clamping": None, "travel": None,
         "stock": {"shape": "bar", "diameter": 30, "length": 120, "allowance": 0.5}}
    )  # fmt: skip
    rng = np.random.default_rng(seed)
    y, z = rng.uniform(8, 18, 2)
    block = part(zoo.mesh_of(zoo.block((0, 0, 0), (100, y, z))))
    slack = dict(judged(block, in_the_middle(block.box, machine), machine).measured["sides"])
    assert slack["the bar's diameter"] == pytest.approx(30 - np.hypot(y, z) - 1)
    assert slack["the bar's length"] == pytest.approx(120 - 100 - 1)


def test_laid_on_any_facet_a_part_stands_on_it() -> None:
    mesh = zoo.mesh_of(zoo.wedge(40))
    for normal in np.unique(mesh.normals().round(6), axis=0):
        turn = shortest_turn(normal, np.array([0, 0, -1.0]))
        placed = mesh.placed(turn)
        placed = placed.placed(dropped(placed.vertices))
        resting = np.abs(placed.vertices[:, 2][placed.faces]).max(axis=1) < 1e-3
        assert resting.any()
