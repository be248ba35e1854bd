"""Every finding shows itself: held against rays of another making, from what the contract tells of a picture alone."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from manifold3d import Manifold

import zoo
from gullyrise.core.checks.protocol import Snapshot
from gullyrise.core.checks.registry import chosen, run_check
from gullyrise.core.evidence.composing import compose
from gullyrise.core.evidence.room import Room
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.machines.library import default_machine, library, machine_named
from gullyrise.core.part import Part
from gullyrise.core.progress import silent
from gullyrise.core.reading import ReadOptions
from gullyrise.core.reading.registry import read
from gullyrise.core.report.picture_form import picture_form
from gullyrise.demo import JOBS
from truth.families import FAMILIES
from truth.families.case import posed
from truth.seen import faults

PRINTER, MILL = default_machine(), machine_named("alder-mill")
_MOST = 8


def wrong_with(part: Part, machine: Machine, checks: list[str] | None = None, **limits: object) -> tuple[int, list[str]]:
    """(how many findings there are, what is wrong with their pictures)."""
    snapshot = Snapshot(part, in_place(part, machine), machine, tuple(library()))
    room, back = Room.of_part(part, snapshot.placement, machine), snapshot.placement.inverse()
    found, wrong = 0, []
    for name in checks or chosen(None, machine):
        for outcome in run_check(name, snapshot, machine.full_limits(Limits(**limits)), silent):
            for finding in outcome.findings[:_MOST]:
                found += 1
                view = compose(finding.placed(snapshot.placement), room, tuple(machine.tool))
                form = picture_form(view, part, back, "x.png")
                said = faults(form, part, finding)
                wrong += [f"{part.name}, {name}, {finding.what}: {one}" for one in said]
                if bool(said) == view.proof.holds:
                    wrong.append(f"{part.name}, {name}, {finding.what}: the proof says otherwise ({view.proof})")
    return found, wrong


def in_place(part: Part, machine: Machine) -> Transform:
    from gullyrise.core.placing.bed import in_the_middle

    return in_the_middle(part.box, machine)


DEMO = sorted({path for job in JOBS for path in job.paths()})
MILLED = ("mount_plate", "hinge_pawl", "winch_box", "silt_trap", "gland_nut")


@pytest.mark.parametrize("path", DEMO, ids=lambda path: path.rsplit("/", 1)[-1])
def test_every_finding_of_the_demo_jobs_is_seen(path: str) -> None:
    part = read(Path(path), ReadOptions())
    found, wrong = wrong_with(part, PRINTER, ["health", "fit", "overhangs", "clearances"])
    # Most of them are thick enough for the printer: a limit that the thinnest place of each breaks shows that, too.
    thick = wrong_with(part, PRINTER, ["walls"], min_wall=3.0)
    milled = wrong_with(part, MILL, ["access"]) if any(name in path for name in MILLED) else (0, [])
    assert found + thick[0] + milled[0] and not wrong + thick[1] + milled[1]


@pytest.mark.parametrize("seed", range(100))
def test_random_parts_of_any_size_show_their_findings(seed: int) -> None:
    rng = np.random.default_rng([20_261_202, seed])
    names = sorted(FAMILIES)
    for _ in range(20):
        case = FAMILIES[names[int(rng.integers(len(names)))]](rng)
        # Walls take their time: a tenth of the parts is enough of those.
        if case.check != "walls" or seed % 10 == 0:
            break
    made = posed(case, rng, sizes=(-1.7, 1.8), shares=(1.05, 1.4))
    _, wrong = wrong_with(made.part, made.machine, [case.check], **made.limits)
    assert not wrong


def _box(low: tuple[float, float, float], high: tuple[float, float, float]) -> Mesh:
    return zoo.mesh_of(zoo.block(low, high))


def _inside_a_box() -> Part:
    """A thin rib within a closed box: no way leads to it from outside."""
    shell = zoo.block((0, 0, 0), (40, 30, 20)) - zoo.block((3, 3, 3), (37, 27, 17))
    rib = zoo.block((19.8, 2, 2), (20.2, 28, 18))
    return zoo.part(zoo.mesh_of(shell + rib), "boxed")


def _flush_plates() -> Part:
    """Two plates whose ends are flush: the nearest places lie on their edges, where half of the cuts show nothing."""
    return zoo.part(_box((0, 0, 0), (100, 60, 3)), "a", _box((0, 0, 3.1), (100, 60, 6)))


def _ball_in_a_ball() -> Part:
    return zoo.part(zoo.mesh_of(zoo.sphere_shell(20, 18, 48)), "shell", zoo.mesh_of(Manifold.sphere(17.9, 48)))


def _overlapping() -> Part:
    return zoo.part(_box((0, 0, 0), (20, 20, 20)), "a", _box((19.9, 5, 5), (40, 15, 15)))


def _five_metres() -> Part:
    return zoo.part(_box((0, 0, 0), (5000, 80, 80)), "beam", _box((2500, 80.05, 20), (2600, 120, 60)))


def _a_tenth() -> Part:
    return zoo.part(zoo.mesh_of(zoo.ribbed_plate(1.0)).placed(Transform.scaled(0.005)), "speck")


def _open_box() -> Part:
    mesh = _box((0, 0, 0), (10, 10, 10))
    return zoo.part(mesh.only(np.arange(len(mesh.faces)) != 3), "open")


def _crossing() -> Part:
    return zoo.part(merged([_box((0, 0, 0), (10, 10, 10)), _box((5, 5, 5), (15, 15, 15))]), "crossing")


KINDS: dict[str, tuple[Callable[[], Part], dict[str, object]]] = {
    "inside a box": (_inside_a_box, {"min_wall": 0.8}), "flush plates": (_flush_plates, {"min_gap": 0.3}),
    "a ball in a ball": (_ball_in_a_ball, {"min_gap": 0.3}), "overlapping": (_overlapping, {"min_gap": 0.3}),
    "five metres": (_five_metres, {"min_gap": 0.3}), "a tenth": (_a_tenth, {"min_wall": 0.01, "min_gap": 0.0}),
    "open": (_open_box, {}), "crossing": (_crossing, {}),
}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_what_lies_hidden_small_or_far_is_seen(kind: str) -> None:
    make, limits = KINDS[kind]
    found, wrong = wrong_with(make(), PRINTER, ["health", "fit", "walls", "overhangs", "clearances"], **limits)
    assert found and not wrong


def test_a_witness_that_finds_nothing_wrong_would_find_it() -> None:
    """The second opinion is none if it cannot object."""
    part = _inside_a_box()
    snapshot = Snapshot(part, in_place(part, PRINTER), PRINTER, tuple(library()))
    room, back = Room.of_part(part, snapshot.placement, PRINTER), snapshot.placement.inverse()
    (outcome,) = run_check("walls", snapshot, PRINTER.full_limits(Limits(min_wall=0.8)), silent)
    finding = outcome.findings[0]
    form = picture_form(compose(finding.placed(snapshot.placement), room), part, back, "x.png")
    assert faults(form, part, finding) == []
    assert any("hidden" in one for one in faults({**form, "cuts": []}, part, finding)), "the box hides its rib"
    turned = [{"point": cut["point"], "normal": [-value for value in cut["normal"]]} for cut in form["cuts"]]
    assert any("hidden" in one or "cut" in one for one in faults({**form, "cuts": turned}, part, finding))
    far = {**form, "camera": {**form["camera"], "height": 40 * form["camera"]["height"]}}
    assert any("scale" in one for one in faults(far, part, finding))
    aside = {**form, "camera": {**form["camera"], "target": [1e3, 0.0, 0.0]}}
    assert any("middle" in one for one in faults(aside, part, finding))
