"""A verdict under another limit follows from what was measured, and is the one that measuring again would give."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from distributed import LocalCluster
from manifold3d import CrossSection, Manifold

import zoo
from gullyrise.core.checks import access
from gullyrise.core.checks.access_setups import fewest_setups
from gullyrise.core.checks.clearances import TOUCHES_WITHIN, Evidence
from gullyrise.core.checks.registry import checks, first_look, has_first_look, judged_anew, run_check
from gullyrise.core.errors import LimitsError
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.machines import Limits
from gullyrise.core.machines.library import default_machine, library, machine_named
from gullyrise.core.machines.limits import PairGap, read_limits, setup_direction
from gullyrise.core.measuring.iso_fits import like_fit
from gullyrise.core.reading import ReadOptions
from gullyrise.core.writing.meshes import write_stl
from gullyrise.workers.cluster import ClusterError, judge_on_cluster
from gullyrise.workers.judging import Question, judge_files

BRACKET = zoo.mesh_of(zoo.ribbed_plate(0.6) + zoo.block((0, 0, 3), (3, 30, 20)) + zoo.block((0, 0, 18), (16, 30, 20)))


def outcomes(check: str, mesh: Mesh, *more: Mesh, **given: object) -> tuple[Any, ...]:
    shot = zoo.snapshot(zoo.part(mesh, "part", *more))
    assert shot.machine is not None
    return run_check(check, shot, shot.machine.full_limits(Limits(**given)))


def said(one: Any) -> tuple[Any, ...]:
    return one.verdict, one.why, one.measured, [(f.what, f.value, f.at, f.area) for f in one.findings]


@pytest.mark.slow
@pytest.mark.parametrize(
    ("check", "limit", "before", "after"),
    [
        ("walls", "min_wall", 0.8, 0.55), ("walls", "min_wall", 0.8, 1.1), ("overhangs", "overhang_angle", 45.0, 60.0),
        ("overhangs", "overhang_angle", 45.0, 85.0), ("overhangs", "overhang_angle", 45.0, 41.0),
    ],
)  # fmt: skip
def test_another_limit_gives_what_measuring_again_gives(check: str, limit: str, before: float, after: float) -> None:
    first = outcomes(check, BRACKET, **{limit: before})
    machine = default_machine()
    again = judged_anew(check, first, machine.full_limits(Limits(**{limit: after})))
    measured = outcomes(check, BRACKET, **{limit: after})
    assert again is not None and not again[0].first_look
    assert again[0].verdict == measured[0].verdict and again[0].why == measured[0].why
    assert len(again[0].findings) == len(measured[0].findings)
    for name, value in measured[0].measured.items():
        assert again[0].measured[name] == pytest.approx(value, rel=0.03, abs=1e-6), name
    assert again[0].field is not None and again[0].field.limit == after
    assert again[0].field.values[0] is first[0].field.values[0], "nothing is measured for it"


def test_gaps_are_judged_anew_exactly() -> None:
    plates = zoo.mesh_of(zoo.parallel_plates(0.3))
    first = outcomes("clearances", plates, min_gap=0.2)
    for wanted in (0.05, 0.29, 0.4, 0.6):
        again = judged_anew("clearances", first, default_machine().full_limits(Limits(min_gap=wanted)))
        assert again is not None
        assert said(again[0]) == said(outcomes("clearances", plates, min_gap=wanted)[0])


def test_a_limit_beyond_what_was_measured_is_only_a_first_look() -> None:
    first = outcomes("walls", BRACKET, min_wall=0.8)
    for given in (Limits(min_wall=5.0), Limits(min_wall=0.1), Limits(max_wall=4.0)):
        again = judged_anew("walls", first, default_machine().full_limits(given))
        assert again is not None and again[0].first_look
    shallow = judged_anew("overhangs", outcomes("overhangs", BRACKET), default_machine().full_limits(Limits(overhang_angle=5.0)))
    assert shallow is not None and shallow[0].first_look
    assert judged_anew("health", outcomes("health", BRACKET), default_machine().full_limits()) is None


def test_a_first_look_colours_near_what_is_measured_and_gives_no_verdict() -> None:
    assert [name for name in checks() if has_first_look(name)] == ["walls"]
    mesh = zoo.mesh_of(zoo.sphere_shell(20, 18.5, 200))
    shot = zoo.snapshot(zoo.part(mesh))
    (found,) = first_look("walls", shot, default_machine().full_limits())
    assert found.verdict == "not-run" and found.first_look and found.field is not None
    values = found.field.values[0]
    known = np.isfinite(values)
    assert known.mean() > 0.9 and np.median(values[known]) == pytest.approx(1.5, rel=0.1)


# --- walls and slots -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("turn", range(3))
@pytest.mark.parametrize(("width", "verdict"), [(0.12, "review"), (0.5, "pass")])
def test_a_narrow_slot_is_told(width: float, verdict: str, turn: int) -> None:
    slit = zoo.block((0, 0, 0), (30, 20, 8)) - zoo.block((10, -1, 3), (10 + width, 21, 9))
    found = zoo.outcome("walls", zoo.mesh_of(slit).placed(zoo.TURNS[turn]), min_wall=0.8, min_gap=0.3)
    assert found.verdict == verdict
    slots = [finding for finding in found.findings if finding.what.startswith("narrow slot")]
    if verdict == "review":
        assert [finding.value for finding in slots] == pytest.approx([width], rel=0.01)
        assert slots[0].area == pytest.approx(2 * 5 * 20, rel=0.15)
    else:
        assert slots == []


def test_a_groove_that_runs_to_a_point_and_a_gap_between_shells_are_no_slots() -> None:
    groove = zoo.block((0, 0, 0), (30, 20, 8)) - CrossSection([[(-1.0, 0.5), (0.0, -4.0), (1.0, 0.5)]]).extrude(24).rotate(
        (90, 0, 0)
    ).translate((15, 22, 8))
    assert not [f for f in zoo.outcome("walls", zoo.mesh_of(groove), min_gap=0.3).findings if f.what.startswith("narrow")]
    plates = zoo.mesh_of(zoo.parallel_plates(0.1))
    assert not [f for f in zoo.outcome("walls", plates, min_gap=0.3).findings if f.what.startswith("narrow")]


@pytest.mark.parametrize(("size", "most", "verdict"), [(20.0, 5.0, "fail"), (4.0, 5.0, "pass"), (60.0, 5.0, "fail")])
def test_what_is_too_thick_fails_however_thick(size: float, most: float, verdict: str) -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.block((0, 0, 0), (size, size, size * 2))), max_wall=most)
    assert found.verdict == verdict
    thick = [finding for finding in found.findings if finding.what.startswith("thick wall")]
    assert bool(thick) is (verdict == "fail") and all(finding.value > most for finding in thick)


def test_the_thinnest_places_are_told_whatever_the_limit() -> None:
    plate = zoo.block((0, 0, 0), (90, 40, 6)) - zoo.block((15, -1, 1.5), (17, 41, 7)) - zoo.block((60, -1, 2.5), (62, 41, 7))
    (found,) = outcomes("walls", zoo.mesh_of(plate), min_wall=0.8)
    assert found.verdict == "pass"
    values = [value for value, _ in found.evidence.thinnest]
    assert values == sorted(values) and values[0] == pytest.approx(1.5, abs=found.uncertainty)
    assert any(abs(value - 2.5) < 0.05 for value in values)


# --- overhangs -----------------------------------------------------------------------------------------------------


def test_support_that_stands_on_the_part_is_told() -> None:
    table = zoo.block((0, 0, 0), (40, 20, 2)) + zoo.block((0, 0, 0), (4, 20, 20)) + zoo.block((0, 0, 18), (40, 20, 20))
    (found,) = outcomes("overhangs", zoo.mesh_of(table))
    assert found.findings[0].what == "overhang, its support on the part"
    assert found.measured["support_volume"] == pytest.approx(36 * 20 * 16, rel=1e-3)
    assert "720 mm² of it on the part" in found.findings[0].remedy
    drawn = found.findings[0].lines
    assert drawn is not None and drawn[:, :, 2].min() == pytest.approx(2) and drawn[:, :, 2].max() == pytest.approx(18)


def test_a_tip_that_starts_in_the_air_never_passes() -> None:
    hook = zoo.block((0, 0, 0), (6, 6, 40)) + zoo.block((0, 0, 36), (30, 6, 40))
    spike = Manifold.cylinder(26, 0, 2.5, 48).translate((26, 3, 12))
    (found,) = outcomes("overhangs", zoo.mesh_of(hook + spike), overhang_angle=89.9, min_region_area=1.0)
    tips = [finding for finding in found.findings if "tip" in finding.what]
    assert len(tips) == 1 and found.verdict != "pass"
    place = zoo.snapshot(zoo.mesh_of(hook + spike)).placement
    assert tips[0].at == pytest.approx((26, 3, 12), abs=1e-3), place
    (plain,) = outcomes("overhangs", zoo.mesh_of(zoo.blind_pocket(3)))
    assert plain.verdict == "pass", "the foot of a pocket is no tip"


# --- clearances ----------------------------------------------------------------------------------------------------


def hinge(gap: float) -> tuple[Mesh, Mesh]:
    body = zoo.block((-10, -10, 0), (10, 10, 10)) - Manifold.cylinder(12, 5 + gap, 5 + gap, 128).translate((0, 0, -1))
    return zoo.mesh_of(body), zoo.mesh_of(Manifold.cylinder(20, 5, 5, 128).translate((0, 0, -5)))


@pytest.mark.parametrize("turn", range(3))
def test_a_shaft_in_a_hole_is_told_with_its_fit(turn: int) -> None:
    body, pin = (mesh.placed(zoo.TURNS[turn]) for mesh in hinge(0.02))
    (found,) = outcomes("clearances", body, pin, min_gap=0.01)
    evidence = found.evidence
    assert isinstance(evidence, Evidence)
    (fit,) = evidence.pairs[0].fits
    assert fit.clearance == pytest.approx(0.04, abs=fit.error) and fit.off == pytest.approx(0, abs=1e-6)
    assert "shaft" in found.why


def test_fits_are_those_of_the_standard() -> None:
    assert like_fit(10.007, 9.991) == "H7/g6" and like_fit(10.0, 10.0) is not None
    assert like_fit(20.01, 20.028) == "H7/p6"
    assert like_fit(10.0, 8.0) is None and like_fit(700.0, 699.9) is None


def test_depth_and_shared_solid_of_what_runs_into_each_other() -> None:
    a, b = zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 10))), zoo.mesh_of(zoo.block((5, 5, 8.5), (9, 9, 30)))
    (found,) = outcomes("clearances", a.placed(zoo.TURNS[1]), b.placed(zoo.TURNS[1]))
    between = found.evidence.pairs[0].between
    assert between.depth == pytest.approx(1.5, abs=1e-6) and between.volume == pytest.approx(4 * 4 * 1.5)
    (finding,) = found.findings
    assert finding.solid is not None and finding.solid.signed_volume == pytest.approx(24)
    assert "1.50 mm deep" in found.why and finding.past == 1


@pytest.mark.parametrize(
    ("gap", "kind", "wanted", "verdict"),
    [
        (0.4, "moving", 0.5, "fail"), (0.4, "moving", 0.3, "pass"), (0.0, "touching", None, "pass"),
        (0.4, "touching", None, "fail"), (-0.2, "pressed", 0.3, "pass"), (-0.2, "pressed", 0.1, "fail"),
        (0.4, "pressed", 0.3, "fail"), (-0.2, "touching", None, "fail"), (TOUCHES_WITHIN / 2, "touching", None, "pass"),
    ],
)  # fmt: skip
def test_each_pair_is_judged_by_what_is_wanted_of_it(gap: float, kind: str, wanted: float | None, verdict: str) -> None:
    a = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    b = zoo.mesh_of(zoo.block((10 + gap, 0, 0), (20, 10, 10)))
    wish = PairGap(a="part 2", b="part", kind=kind, gap=wanted)
    (found,) = outcomes("clearances", a, b, min_gap=0.2, pair_gaps=(wish,))
    assert found.verdict == verdict, found.why


def test_wishes_of_pairs_come_from_a_limits_file(tmp_path: Path) -> None:
    given = tmp_path / "limits.toml"
    given.write_text('setups = ["+z", "0,-1,1"]\n[[pair_gaps]]\na = "lid"\nb = "cup"\nkind = "touching"\n')
    limits = read_limits(given)
    assert limits.pair_gaps is not None and limits.pair_gaps[0].is_of("cup", "lid")
    assert setup_direction("0,-1,1") == pytest.approx([0, -np.sqrt(0.5), np.sqrt(0.5)])
    for wrong in ('setups = ["0,0,0"]', 'setups = ["up"]', 'setups = ["1,2"]', '[[pair_gaps]]\na = "lid"\n'):
        given.write_text(wrong)
        with pytest.raises(LimitsError):
            read_limits(given)


# --- tool access ---------------------------------------------------------------------------------------------------

MILL = machine_named("alder-mill")


@pytest.mark.parametrize(("reach", "verdict"), [(55.0, "pass"), (20.0, "fail")])
def test_a_deep_pocket_wants_a_long_tool(reach: float, verdict: str) -> None:
    body = zoo.block((0, 0, 0), (60, 60, 50)) - Manifold.cylinder(41, 7, 7, 96).translate((30, 30, 10))
    found = zoo.outcome("access", zoo.mesh_of(body), MILL, setups=("+z",), tool_diameter=5.0, tool_reach=reach)
    assert found.verdict == verdict, found.why
    assert found.measured["deepest_ratio"] == pytest.approx(40 / 14, rel=0.01)
    if verdict == "fail":
        deep = sum(f.value or 0 for f in found.findings if f.code == access.DEEP)
        # Below what the holder lets the tool down to: the floor and wall of the pocket, and the block's own sides.
        assert deep == pytest.approx(np.pi * 49 + 2 * np.pi * 7 * 20 + 4 * 60 * 30, rel=0.05)


def test_a_through_hole_and_a_counterbore_are_as_deep_as_they_are_wide() -> None:
    plate = zoo.block((0, 0, 0), (40, 30, 20)) - Manifold.cylinder(40, 2.5, 2.5, 96).translate((15, 15, -4))
    bored = plate - Manifold.cylinder(21, 6, 6, 96).translate((15, 15, 14))
    for body, ratio in ((plate, 4.0), (bored, 2.8)):
        found = zoo.outcome("access", zoo.mesh_of(body), MILL, setups=("+z",))
        assert found.measured["deepest_ratio"] == pytest.approx(ratio, rel=0.01) and found.verdict == "pass"


@pytest.mark.slow
def test_the_fewest_setups_are_found() -> None:
    tools = access.tools_for(MILL, access.Limits(("+z",), 4.0, 25.0, 1.0))
    assert tools == MILL.tool
    one = fewest_setups(zoo.mesh_of(zoo.blind_pocket(6)), tools)
    assert one.chosen == ("+z",) or one.left < 0.1 * one.whole
    block = zoo.block((0, 0, 0), (40, 30, 30))
    for axis in ((20, 15, 22), (20, 15, -2)):
        block -= Manifold.cylinder(10, 6, 6, 64).translate(axis)
    block -= Manifold.cylinder(10, 6, 6, 64).rotate((0, 90, 0)).translate((32, 15, 15))
    three = fewest_setups(zoo.mesh_of(block), tools)
    assert set(three.chosen) == {"+z", "-z", "+x"} and three.left < 1e-3 * three.whole


# --- the record, many files, a cluster -----------------------------------------------------------------------------


def question(*names: str) -> Question:
    machine = default_machine()
    return Question(ReadOptions(), machine, tuple(library()), machine.full_limits(), names, 300.0)


@pytest.fixture
def lot(tmp_path: Path) -> list[str]:
    paths = []
    for number, mesh in enumerate((BRACKET, zoo.mesh_of(zoo.hollow_box(20, 2)))):
        paths.append(str(tmp_path / f"part{number}.stl"))
        write_stl(zoo.part(mesh, f"part{number}"), Path(paths[-1]))
    (tmp_path / "broken.stl").write_bytes(b"solid nothing")
    return [paths[0], str(tmp_path / "broken.stl"), paths[1]]


def test_of_many_files_one_that_fails_stops_none(lot: list[str]) -> None:
    found = judge_files(lot, question("health", "walls"))
    assert [one.file for one in found] == lot and found[1].figures is None and "broken.stl" in (found[1].error or "")
    assert [[outcome.verdict for outcome in one.outcomes] for one in found] == [["pass", "fail"], [], ["review", "pass"]]


@pytest.mark.slow
def test_a_cluster_gives_the_same(lot: list[str]) -> None:
    with LocalCluster(n_workers=1, threads_per_worker=1, processes=False, dashboard_address=None) as cluster:
        there = judge_on_cluster(lot, question("walls"), cluster.scheduler_address)
    here = judge_files(lot, question("walls"))
    for one, other in zip(there, here, strict=True):
        assert [said(outcome) for outcome in one.outcomes] == [said(outcome) for outcome in other.outcomes]
        assert one.error == other.error
    with pytest.raises(ClusterError, match="does not answer"):
        judge_on_cluster(lot, question("walls"), "tcp://127.0.0.1:1")


def test_an_accepted_finding_is_known_again_and_another_shape_is_not() -> None:
    machine, part = default_machine(), zoo.part(BRACKET)
    placed = PlacedPart(1, part, part.box, {}, "digest", Transform.identity())
    (found,) = outcomes("walls", BRACKET, min_wall=0.8)
    finding = found.findings[0]
    job = Job(machine, (), (placed,)).with_acceptance(placed, "walls", finding, "  it only  guides ")
    (kept,) = job.accepted
    assert kept.note == "it only guides" and "it only guides" in job.notes[-1]
    assert job.acceptance_of(placed, "walls", outcomes("walls", BRACKET, min_wall=1.0)[0].findings[0]) is kept
    other = PlacedPart(2, part, part.box, {}, "another", Transform.identity())
    assert job.acceptance_of(other, "walls", finding) is None and job.acceptance_of(placed, "health", finding) is None
    back = job.without_acceptance(placed, "walls", finding)
    assert back.accepted == () and back.notes[-1].startswith("No longer accepted")
    assert back.without_acceptance(placed, "walls", finding) is back
