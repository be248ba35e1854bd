"""Which bed a part is on, as it is drawn, judged and written: a plain oracle looks at every way onto and off a bed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import strokes
import trimesh
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from waiting import until

from gullyrise.core.geometry import Transform
from gullyrise.core.machines.library import machine_named
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.reading import read

_BETWEEN = 60.0


def beds_it_is_in(job: Any, placed: Any) -> list[int]:
    """The drawn beds whose room holds every corner of a part, told from nothing but the machine's sizes."""
    points = np.concatenate([placed.placement.apply(mesh.vertices) for _, _, mesh in placed.part.copies()])
    envelope = job.machine.envelope
    out = []
    for bed in range(job.beds):
        at = points - [bed * (envelope.box.size[0] + _BETWEEN), 0, 0]
        inside = (at >= envelope.box.low - 1e-6).all() and (at <= envelope.box.high + 1e-6).all()
        if envelope.shape == "cylinder":
            inside &= np.hypot(at[:, 0], at[:, 1]).max() <= envelope.box.high[0] + 1e-6
        if inside:
            out.append(bed)
    return out


def agrees(made: Any) -> None:
    """Fit passes nothing that is on no drawn bed, and calls nothing inside that is not; every open bed is drawn."""
    assert made.wait_until_idle(240)
    made.scene.bring_in_step()
    job = made.model.job
    assert made.bench.scene.beds == job.beds
    for placed in job.parts:
        (fit,) = made.model.results.outcomes_of(placed, "fit") or (None,)
        if placed.is_fixture:
            continue
        assert fit is not None, placed.name
        within = beds_it_is_in(job, placed)
        assert not fit.measured["inside"] or within, (placed.name, fit.why)
        assert within or fit.verdict == "fail", (placed.name, fit.why)
        assert (job.bed_of(placed) in within) if within else True


@pytest.fixture
def made(window: Any, tmp_path: Path, few_checks: None) -> Any:
    for name, size in {"plate": (205, 190, 6), "lid": (200, 180, 5), "rod": (12, 150, 12), "knob": (20, 20, 20)}.items():
        trimesh.creation.box(size).export(tmp_path / f"{name}.stl")
    return window()


def opened(made: Any, folder: Path, *names: str) -> None:
    made.model.open_files([str(folder / f"{name}.stl") for name in names])
    assert made.wait_until_idle(240)


def test_every_way_onto_and_off_a_bed(made: Any, tmp_path: Path) -> None:
    opened(made, tmp_path, "plate", "lid")
    assert made.model.job.beds == 2, "the second opens a bed of its own"
    agrees(made)
    assert [made.model.results.outcomes_of(one, "fit")[0].verdict for one in made.model.job.parts] == ["pass", "pass"]
    opened(made, tmp_path, "rod", "knob")
    agrees(made)
    for machine in ("dipper-260", "alder-mill", "heron-220"):
        made.model.document.set_machine(machine_named(machine))
        agrees(made)
    # From here on places are a hand's.
    made.model.selection.select({made.model.job.parts[3].id})
    made.placement.copy(16)
    agrees(made)
    opened(made, tmp_path, "plate")
    agrees(made)
    made.placement.add_fixture(FixtureShape(shape="block", size=(30.0, 20.0, 10.0)))
    agrees(made)
    first = made.model.job.parts[0].id
    made.model.selection.select({first})
    for move in ([500, 0, 0], [-900, 0, 0], [400, 300, 0], [-400, -600, 0], [0, 0, 80], [280, 0, -80]):
        made.placement.move("Push", lambda _, move=move: Transform.moved(np.array(move, float)))
        agrees(made)
    for machine in ("dipper-260", "heron-220"):
        made.model.document.set_machine(machine_named(machine))
        agrees(made)
    for id in ("job.undo", "job.undo", "job.undo", "job.redo", "place.arrange", "bodies.remove", "job.undo"):
        made.do(id)
        agrees(made)
    path = tmp_path / "beds.gullyrise"
    made.job_file.save_to(str(path))
    until(path.exists)
    made.model.open_files([str(path)])
    agrees(made)


def test_a_part_dragged_off_the_bed_fails(made: Any, tmp_path: Path) -> None:
    opened(made, tmp_path, "knob")
    made.do("view.top")
    made.placement.show_handles(True)
    made.model.selection.select({made.model.job.parts[0].id})
    assert made.wait_until_idle(60)
    middle = made.bench.to_widget(made.model.job.parts[0].ground.middle)
    strokes.drag(made.bench, {"left"}, QPointF(middle), QPointF(330, 0))
    made.placement.move("Push", lambda _: Transform.moved(np.array([300.0, 0, 0])))
    agrees(made)
    (fit,) = made.model.results.outcomes_of(made.model.job.parts[0], "fit")
    assert fit.verdict == "fail" and "on no bed" in fit.why


def test_copies_that_find_no_bed_are_told(made: Any, tmp_path: Path) -> None:
    opened(made, tmp_path, "plate")
    made.model.selection.select({made.model.job.parts[0].id})
    made.placement.copy(150)
    assert len(made.model.job.parts) == 100 and made.notifications.sentences[-1].startswith("99 of 150 copies were made")
    made.do("job.undo")
    made.placement.copy(2)
    assert len(made.model.job.parts) == 3 and made.notifications.sentences[-1].startswith("99 of 150")
    assert made.wait_until_idle(120)


def test_a_part_that_reaches_over_the_beds_runs_into_what_stands_there(made: Any, tmp_path: Path) -> None:
    """Whatever bed its middle is over, or none."""
    opened(made, tmp_path, "knob", "plate")
    knob, plate = made.model.job.parts
    made.model.selection.select({plate.id})
    made.placement.stretch(np.array([20.0, 1.0, 1.0]))
    for along in (0.0, 600.0, 1500.0, -1500.0):
        plate = made.model.job.part(plate.id)
        move = Transform.moved(np.array([along, 0.0, 0.0]) + (knob.ground.middle - plate.ground.middle) * [1, 1, 0])
        made.model.document.edit("Move", lambda job, id=plate.id, move=move: job.moved([id], move))
        assert made.wait_until_idle(120)
        assert made.model.job.part(plate.id).ground.gap_to(knob.ground) == 0
        for one, other in ((knob, plate), (plate, knob)):
            (fit,) = made.model.results.outcomes_of(made.model.job.part(one.id), "fit")
            assert fit.verdict == "fail" and fit.measured["collisions"] == [other.name], (along, fit.why)


def test_the_demo_job_stands_on_its_beds(window: Any, unwalled: None) -> None:
    made = window("--demo")
    agrees(made)
    assert all(made.model.job.bed_of(one) is not None for one in made.model.job.parts)


def answers(made: Any) -> list[str]:
    return [one.text() for one in made.notifications.findChildren(QPushButton) if one.isVisible() and one.text() != "Dismiss"]


def answer(made: Any, words: str) -> None:
    until(lambda: words in answers(made))
    made.wait_until_idle(20)
    button = next(one for one in made.notifications.findChildren(QPushButton) if one.isVisible() and one.text() == words)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def test_what_would_be_missing_is_named_before_anything_is_written(made: Any, tmp_path: Path) -> None:
    opened(made, tmp_path, "plate", "rod", "knob")
    made.model.selection.select({made.model.job.parts[1].id, made.model.job.parts[2].id})
    made.placement.move("Push", lambda _: Transform.moved(np.array([900.0, 0, 0])))
    path = tmp_path / "out" / "bed.3mf"
    path.parent.mkdir()
    made.opening.write_beds(str(path))
    assert "rod, knob would be missing" in made.notifications.sentences[-1]
    assert answers(made) == ["Write all the same", "Arrange all first"]
    assert made.wait_until_idle(60)
    assert not list(path.parent.iterdir())
    answer(made, "Write all the same")
    until(lambda: list(path.parent.iterdir()) and not made.tasks.busy)
    assert {body.name for one in path.parent.iterdir() for body in read(one).bodies} == {"plate"}
    # All of them are written once they stand on beds; what is there already is not replaced unasked.
    made.opening.write_beds(str(path))
    answer(made, "Arrange all first")
    until(lambda: all(made.model.job.bed_of(one) is not None for one in made.model.job.parts))
    beds = [path] if made.model.job.beds == 1 else [path.with_name(f"bed-{n + 1}.3mf") for n in range(made.model.job.beds)]
    if made.model.job.beds > 1:
        beds[0].write_bytes(b"mine")
        made.opening.write_beds(str(path))
        assert "bed-1.3mf would be replaced" in made.notifications.sentences[-1] and beds[0].read_bytes() == b"mine"
        answer(made, "Write all the same")
    else:
        made.opening.write_beds(str(path))
    until(lambda: all(one.exists() for one in beds) and not made.tasks.busy)
    assert {body.name for one in beds for body in read(one).bodies} == {"plate", "rod", "knob"}
