"""Evidence on the bench: it is composed where a finding is chosen, comes back, and gives back what was seen before."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from waiting import until

import zoo
from gullyrise.core.cutting.cuts import Cut

Windows = Callable[..., Any]


def stl(folder: Path, name: str, solid: Any) -> str:
    import trimesh

    mesh = zoo.mesh_of(solid)
    path = folder / f"{name}.stl"
    trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).export(path)
    return str(path)


@pytest.fixture
def boxed(tmp_path: Path) -> str:
    """A closed box with a rib of 0.4 mm in it, which nothing shows from outside."""
    shell = zoo.block((0, 0, 0), (40, 30, 20)) - zoo.block((3, 3, 3), (37, 27, 17))
    return stl(tmp_path, "boxed", shell + zoo.block((19.8, 2, 2), (20.2, 28, 18)))


def shown(made: Any) -> Any:
    """The view that is looked at, once it is there and stands."""
    until(lambda: made.navigation.evidence.view is not None)
    until(lambda: made.bench.moves.at_rest and not made.bench.moves.gliding)
    assert made.wait_until_idle(120)
    return made.navigation.evidence.view


def step_to_thin(made: Any) -> Any:
    made.do("check.walls")
    made.do("check.next-finding")
    return shown(made)


def test_a_step_to_a_finding_opens_its_cut_and_looks_straight_at_it(window: Windows, boxed: str) -> None:
    made = window(boxed)
    view = step_to_thin(made)
    assert view.proof.holds and view.cuts and made.sections.cuts == view.cuts
    camera = made.bench.camera
    assert camera.parallel and np.allclose(camera.frame()[2], view.toward) and np.allclose(camera.target, view.camera.target)
    width, height = made.bench.view_size()
    places = camera.to_picture(view.marks, width, height)[:, :2] / (width, height)
    assert ((places > 0.2) & (places < 0.8)).all(), "in the middle three fifths"
    looked_at = made.bench.evidence.shown.shown
    assert looked_at is not None and looked_at.words == "0.400 mm"


def test_flags_wear_their_pictures_and_beside_evidence_stands_where_on_the_part_it_is(window: Windows, boxed: str) -> None:
    made = window(boxed)
    made.do("check.walls")
    flags = made.bench.evidence
    until(lambda: flags.shown.flags and all(flag.picture is not None for flag in flags.shown.flags))
    bare = made.bench.grab().toImage()
    flags.show(flags=tuple(replace(flag, picture=None) for flag in flags.shown.flags))
    assert made.bench.grab().toImage() != bare, "they are drawn"
    step_to_thin(made)
    until(lambda: made.bench.evidence.shown.shown.insets)
    (where,) = made.bench.evidence.shown.shown.insets
    # The whole part is in it, and a frame in the colour of what fails round the place.
    colours = {where.pixelColor(x, y).name() for x in range(where.width()) for y in range(where.height())}
    palette = made.bench.scene.palette
    assert palette.failed.lower() in colours and palette.ground.lower() in colours and len(colours) > 20


def test_esc_gives_back_view_cuts_and_fading_and_one_key_shows_it_again(window: Windows, boxed: str) -> None:
    made = window(boxed)
    made.do("view.top")
    made.do("cut.z")
    until(lambda: made.bench.moves.at_rest)
    camera, cuts, visibility = made.bench.camera, made.sections.cuts, made.model.shown.visibility
    view = step_to_thin(made)
    assert made.sections.cuts == view.cuts != cuts
    QTest.keyClick(made.bench, Qt.Key.Key_Left)
    until(lambda: made.bench.moves.at_rest)
    assert made.navigation.evidence.view is view, "looking about leaves it marked"
    QTest.keyClick(made.bench, Qt.Key.Key_F4)
    assert np.allclose(shown(made).toward, view.toward)
    until(lambda: np.allclose(made.bench.camera.frame()[2], view.toward))
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    until(lambda: made.bench.camera.same_view(camera))
    assert made.sections.cuts == cuts and made.model.shown.visibility == visibility
    assert made.navigation.evidence.view is None and made.bench.evidence.shown.shown is None
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    assert made.wait_until_idle(60) and made.bench.camera.same_view(camera), "with nothing to give back Esc moves nothing"


def test_a_cut_of_ones_own_stays(window: Windows, boxed: str) -> None:
    made = window(boxed)
    step_to_thin(made)
    own = (Cut.across(2, 9.0),)
    made.sections.show(own)
    assert made.navigation.evidence.view is None
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    assert made.wait_until_idle(60) and made.sections.cuts == own


def test_it_ends_where_its_finding_does(window: Windows, boxed: str) -> None:
    made = window(boxed)
    step_to_thin(made)
    made.model.document.set_limit("min_wall", 0.2)
    until(lambda: made.navigation.evidence.view is None)
    assert made.wait_until_idle(120) and not made.sections.cuts


def test_a_measurement_is_looked_at_straight(window: Windows, boxed: str) -> None:
    made = window(boxed)
    made.navigation.look_between((0.0, 0.0, 0.0), (0.0, 0.0, 0.0), "")
    box = made.model.job.parts[0].ground
    a, b = box.middle + np.array([0, 0, -box.size[2] / 2]), box.middle + np.array([0, 0, box.size[2] / 2])
    made.navigation.look_between(tuple(a), tuple(b), "20 mm")
    until(lambda: (looked := made.bench.evidence.shown.shown) is not None and looked.words == "20 mm")
    assert made.navigation.evidence.view.proof.holds and made.navigation.evidence.view.cuts
    made.do("measure.evidence")
    assert "Nothing that has two ends" in made.notifications.sentences[-1]


def test_the_list_wears_pictures_of_the_view(window: Windows, boxed: str) -> None:
    made = window(boxed)
    (one, *_) = made.findings.all
    until(lambda: made.finding_pictures.icon_of(one, made.appearance.palette, 1.0) is not None)
    image = made.finding_pictures.icon_of(one, made.appearance.palette, 1.0).pixmap(60, 42).toImage()
    cut, solid = made.appearance.palette.colour("cut"), 0
    for x in range(0, 60, 3):
        for y in range(0, 42, 3):
            colour = image.pixelColor(x, y)
            solid += max(abs(colour.red() - cut.red()), abs(colour.green() - cut.green()), abs(colour.blue() - cut.blue())) < 60
    assert solid > 5, "its cut face is seen"
