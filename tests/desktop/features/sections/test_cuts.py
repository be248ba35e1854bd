"""Cutting with real events: the strip, the frame on the bench, the flat profile, saved views, halves."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
import strokes
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from waiting import until

import gauge
import zoo
from conftest import as_opened
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.job.form import as_bytes, form_from, form_of
from gullyrise.core.part import Part
from gullyrise.core.picking.feature import Feature
from gullyrise.core.writing import write
from gullyrise.desktop.preferences.rows import BY_ID

pytestmark = pytest.mark.usefixtures("unwalled")

PLATE = (80.0, 50.0, 20.0)


def files(folder: Path) -> list[str]:
    """The gauge as a solid, and a tube of triangles."""
    write(Part("gauge", "gauge", "step", "mm", "declared", (gauge.solid(),)), folder / "gauge.step")
    write(zoo.part(zoo.mesh_of(zoo.tube(12, 9, 30, 60)), "tube"), folder / "tube.stl")
    return [str(folder / "gauge.step"), str(folder / "tube.stl")]


@pytest.fixture(scope="module")
def opened(long_lived: Any, tmp_path_factory: pytest.TempPathFactory) -> Any:
    return long_lived(*files(tmp_path_factory.mktemp("parts")))


@pytest.fixture
def made(opened: Any) -> Iterator[Any]:
    """Every edit of a test is undone after it, byte for byte."""
    as_opened(opened)
    depth, first = opened.model.document.history.can_undo, as_bytes(form_of(opened.model.job))
    yield opened
    opened.profile.lay_over(False)
    opened.sections.sweep.stop()
    while opened.model.document.history.can_undo > depth:
        opened.do("job.undo")
    assert as_bytes(form_of(opened.model.job)) == first


def stands(made: Any, name: str) -> Any:
    return next(one for one in made.model.job.parts if one.part.name == name)


def at(made: Any, name: str, place: tuple[float, float, float]) -> np.ndarray:
    """A place of a part's file, on the machine."""
    return np.asarray(stands(made, name).placement.apply(np.array([place]))[0])


def point(made: Any, name: str, place: tuple[float, float, float]) -> None:
    strokes.hover(made.bench, made.bench.to_widget(at(made, name, place)))


def shown(made: Any) -> None:
    assert made.wait_until_idle(240)


def only(made: Any, name: str) -> None:
    made.model.selection.select({stands(made, name).id})
    made.do("view.selection")
    shown(made)


def type_keys(made: Any, *keys: Qt.Key) -> None:
    made.bench.setFocus()
    for key in keys:
        QTest.keyClick(made.bench, key)


def test_a_solid_is_measured_exactly_and_the_strip_says_so(made: Any) -> None:
    only(made, "gauge")
    type_keys(made, Qt.Key.Key_C, Qt.Key.Key_Z)
    shown(made)
    made.sections.move_to(float(at(made, "gauge", (0, 0, 12))[2]))
    shown(made)
    area = 4000 - 45 * np.pi - (49 - 12.25 * np.pi)
    assert made.sections.exact.area == pytest.approx(area, abs=1e-6) and made.sections.section.area != made.sections.exact.area
    assert f"{area:,.1f} mm² exact" in made.area_strip.figures.text()
    assert "second moment" in made.area_strip.figures.toolTip()
    heights = [float(at(made, "gauge", (0, 0, z))[2]) for z in (0, 20, 26)]
    assert made.sections.curve.jumps == pytest.approx(heights) and made.sections.curve.ends.ravel() == pytest.approx(heights[::2])


def test_planes_come_from_axes_faces_corners_and_bores(made: Any) -> None:
    only(made, "gauge")
    point(made, "gauge", (20, 0, 15))
    type_keys(made, Qt.Key.Key_C, Qt.Key.Key_P)
    assert made.sections.cut.along == pytest.approx((0, -1, 0))
    assert made.sections.cut.position == pytest.approx(-float(at(made, "gauge", (0, 0, 0))[1]))
    key = (stands(made, "gauge").id, 0)
    anatomy = made.model.ready.of(stands(made, "gauge"))[0].anatomy
    corners = [int(np.argmin(np.linalg.norm(anatomy.corners - place, axis=1))) for place in ((0, 0, 0), (0, 50, 20), (80, 50, 0))]
    made.model.selection.select_bodies({key}, tuple(Feature("vertex", key, corner) for corner in corners))
    type_keys(made, Qt.Key.Key_C, Qt.Key.Key_3)
    places = np.array([at(made, "gauge", tuple(anatomy.corners[corner])) for corner in corners])
    assert made.sections.cut.plane.heights(places) == pytest.approx(0, abs=1e-9) and made.sections.cut.axis is None
    made.model.selection.select_bodies(())
    only(made, "gauge")
    face = gauge.pick(gauge.solid(), "face", (26, 25, 10)).index
    made.model.selection.select_bodies({key}, (Feature("face", key, face),))
    type_keys(made, Qt.Key.Key_C, Qt.Key.Key_A)
    axis = np.array([at(made, "gauge", (20, 25, 0)), at(made, "gauge", (20, 25, 20))])
    assert made.sections.cut.plane.heights(axis) == pytest.approx(0, abs=1e-9), "through the bore's own axis"
    made.do("cut.points")
    assert "three corners" in made.notifications.sentences[-1]


def test_the_axis_of_a_mesh_is_fitted_for_a_cut(made: Any) -> None:
    key = (stands(made, "tube").id, 0)
    made.model.selection.select_bodies(
        {key}, (Feature("face", key, int(made.model.ready.of(stands(made, "tube"))[0].anatomy.face_of[40])),)
    )
    before = made.sections.cuts
    made.do("cut.axis")
    shown(made)
    said = made.notifications.sentences[-1:] if made.sections.cuts == before else []
    axis = np.array([at(made, "tube", (0, 0, 0)), at(made, "tube", (0, 0, 30))])
    assert not said and made.sections.cut.plane.heights(axis) == pytest.approx(0, abs=1e-4)


def test_several_cuts_a_slab_and_what_they_leave(made: Any) -> None:
    made.do("cut.x")
    made.do("cut.more")
    made.do("cut.more")
    assert [cut.axis for cut in made.sections.cuts] == [0, 1, 2] and made.sections.active == 2
    assert made.bench.scene.cuts == () or len(made.bench.scene.cuts) == 3
    QTest.mouseClick(made.area_strip.chips[0], Qt.MouseButton.LeftButton)
    assert made.sections.active == 0 and made.area_strip.axes[0].isChecked()
    made.do("cut.next")
    assert made.sections.active == 1
    made.do("cut.slab")
    depth = made.sections.cut.depth
    assert depth and made.area_strip.thickness.value() == pytest.approx(depth, abs=1e-3)
    made.area_strip.thickness.setFocus()
    made.area_strip.thickness.selectAll()
    QTest.keyClicks(made.area_strip.thickness, "4")
    QTest.keyClick(made.area_strip.thickness, Qt.Key.Key_Return)
    assert made.sections.cut.depth == 4.0
    position, flipped = made.sections.cut.position, made.sections.cut.flipped
    made.do("cut.flip")
    assert abs(made.sections.cut.position - position) == 4.0 and made.sections.cut.flipped is not flipped, "it stays there"
    made.do("cut.close")
    assert [cut.axis for cut in made.sections.cuts] == [0, 2]
    for _ in range(9):
        made.do("cut.more")
    assert len(made.sections.cuts) == 11
    shown(made)
    made.do("cut.off")
    shown(made)
    assert made.sections.cuts == () and made.bench.scene.cuts == () and made.sections.section is None


def test_a_cut_of_chosen_bodies_leaves_the_others_whole(made: Any) -> None:
    made.do("cut.y")
    made.do("cut.chosen")
    assert "Select the bodies" in made.notifications.sentences[-1] and made.sections.cut.only is None
    chosen = stands(made, "tube")
    made.model.selection.select({chosen.id})
    made.do("cut.chosen")
    made.sections.move_to(float(chosen.ground.middle[1]))
    shown(made)
    assert made.sections.cut.only == ((chosen.id, 0),)
    tube = 2 * 3 * 30.0
    assert made.sections.section.area == pytest.approx(tube, rel=0.01)
    other = made.bench.scene.items[0]
    assert made.bench.scene.cuts_of(other) == () and len(made.bench.scene.cuts_of(made.bench.scene.items[1])) == 1


@pytest.mark.parametrize("pen", [False, True])
def test_the_frame_on_the_bench_slides_and_tilts_the_plane(made: Any, pen: bool) -> None:
    if pen:
        made.settings.set("pointer.scheme", "pen")
    made.do("cut.x")
    made.do("view.isometric")
    shown(made)
    hand = made.plane_handle
    cut = made.sections.cut
    grip = made.bench.to_widget(dict(hand.places())["slide"])
    strokes.hover(made.bench, grip)
    assert hand.pointed == "slide" and "Slides" in made.status.hint.text()
    ahead = made.bench.to_widget(dict(hand.places())["slide"] + np.array([7.0, 0, 0]))
    strokes.drag(made.bench, {"left"}, grip, ahead - grip, pen=pen)
    assert made.sections.cut.position == pytest.approx(cut.position + 7.0, abs=0.2) and made.sections.cut.along == cut.along
    shown(made)
    knob = made.bench.to_widget(dict(hand.places())["tilt-over"])
    strokes.drag(made.bench, {"left"}, knob, QPointF(50, 0), pen=pen)
    assert np.degrees(np.arccos(np.dot(made.sections.cut.along, cut.along))) == pytest.approx(20, abs=0.5)
    assert made.sections.cut.axis is None and not hand.holds


def test_a_cut_that_is_looked_at_straight_goes_away_with_the_pointer_up(made: Any) -> None:
    made.do("cut.x")
    made.do("view.right")
    shown(made)
    bench, cut = made.bench, made.sections.cut
    grip = bench.to_widget(dict(made.plane_handle.places())["slide"])
    strokes.drag(bench, {"left"}, grip, QPointF(0, -40))
    pixel = bench.camera.span / bench.view_size()[1]
    assert made.sections.cut.position == pytest.approx(cut.position - 40 * pixel, abs=0.1 + pixel)


def test_esc_puts_a_dragged_plane_back(made: Any) -> None:
    made.do("cut.x")
    shown(made)
    cut = made.sections.cut
    grip = made.bench.to_widget(dict(made.plane_handle.places())["slide"])
    strokes.hold(made.bench, "left", grip, QPointF(60, 10))
    assert made.sections.cut.position != cut.position
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    assert made.sections.cut == cut
    strokes.let_go(made.bench, "left", grip + QPointF(60, 10))
    made.do("cut.handle")
    assert made.plane_handle.frame() is None
    made.do("cut.handle")


def type_in(field: Any, words: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, words)
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_the_strip_tilts_drags_and_sweeps(made: Any) -> None:
    made.do("cut.z")
    shown(made)
    opened = made.sections.cut
    for field, other in (made.area_strip.tilts, made.area_strip.tilts[::-1]):
        for degrees in (10, -25):
            type_in(field, f"{degrees}")
            leans = np.degrees(np.arccos(np.dot(opened.along, made.sections.cut.along)))
            assert leans == pytest.approx(abs(degrees)) and field.value() == degrees and other.value() == 0
        type_in(other, "40")
        both = made.sections.cut.along
        assert (field.value(), other.value()) == (-25, 40), "each stays as it was typed"
        made.sections.aim(made.sections.cut.tilted(np.zeros(3), np.array([0.6, 0.0, 0.8]), 30))
        assert field.value() != -25, "what a hand does is read there, too"
        type_in(field, "-25")
        type_in(other, "40")
        assert made.sections.cut.along == pytest.approx(both), "so that a cut can be repeated"
        made.sections.aim(opened)
        assert (field.value(), other.value()) == (0, 0)
    type_in(made.area_strip.position, "1000")
    shown(made)
    assert (
        "Nothing is here to cut" in made.area_strip.figures.text()
        and "0.0" not in made.area_strip.figures.text().split("from")[0]
    )
    made.sections.aim(opened)
    low, high = made.sections.reach()
    ruler = made.area_strip.ruler
    QTest.mousePress(ruler, Qt.MouseButton.LeftButton, pos=QPoint(int(ruler.x_of(low + 3)), 30))
    QTest.mouseRelease(ruler, Qt.MouseButton.LeftButton, pos=QPoint(int(ruler.x_of(low + 3)), 30))
    assert made.sections.cut.position == pytest.approx(low + 3, abs=(high - low) / 200)
    made.settings.set("cut.speed", 400.0)
    assert made.area_strip.speed.value() == 400
    QTest.mouseClick(made.area_strip.sweep, Qt.MouseButton.LeftButton)
    seen: list[float] = []
    while len(set(seen)) < 4 or np.all(np.diff(seen) >= 0) or np.all(np.diff(seen) <= 0):
        QTest.qWait(20)
        seen.append(made.sections.cut.position)
        assert low <= seen[-1] <= high and len(seen) < 2000, "it turns back at its ends"
    QTest.mouseClick(made.area_strip.sweep, Qt.MouseButton.LeftButton)
    assert not made.sections.sweep.running and not made.area_strip.sweep.isChecked()


def test_cuts_are_saved_with_views_and_come_back(made: Any) -> None:
    made.do("cut.y")
    made.do("cut.slab")
    made.do("cut.more")
    cuts = made.sections.cuts
    made.do("view.save")
    shown(made)
    view = made.model.job.views[-1]
    assert view.cuts == cuts
    form = form_from(as_bytes(form_of(made.model.job)), "here")
    assert form.views[-1].cuts == cuts, "and in the file"
    made.do("cut.off")
    made.navigation.go_to(view.name)
    shown(made)
    assert made.sections.cuts == cuts and made.bench.scene.cuts == cuts
    made.view_shelf.hide()


def widget_of(profile: Any, place: np.ndarray) -> QPoint:
    x, y = profile.to_widget(place[None])[0]
    return QPoint(round(x), round(y))


def middle_of_way(profile: Any, wanted: tuple[float, float], cut: Any) -> QPoint:
    """Of the outline's line or arc that is nearest to a place of the room's X and Y."""
    best: tuple[float, np.ndarray] = (np.inf, np.zeros(2))
    for outline in cut.outlines:
        for a, b, bulge in zip(*outline.ways(), strict=True):
            drawn = type(outline)(np.array([a, b]), np.array([bulge, 0.0]), False).drawn(1e-2)
            middle = (drawn[len(drawn) // 2 - 1] + drawn[len(drawn) // 2]) / 2 if not bulge else drawn[len(drawn) // 2]
            away = float(np.linalg.norm(middle - np.array(wanted)))
            best = min(best, (away, middle), key=lambda pair: pair[0])
    return widget_of(profile, best[1])


def test_the_flat_profile_measures_what_is_clicked(made: Any) -> None:
    only(made, "gauge")
    made.do("cut.z")
    made.sections.move_to(float(at(made, "gauge", (0, 0, 12))[2]))
    shown(made)
    type_keys(made, Qt.Key.Key_C, Qt.Key.Key_L)
    shown(made)
    profile = made.area_strip.profile
    assert profile.width() == made.bench.width() and profile.isVisible()
    places = {"left": (0, 25, 12), "right": (80, 30, 12), "bore": (20, 25, 12)}
    flat = {name: at(made, "gauge", place)[:2] for name, place in places.items()}
    QTest.mouseMove(profile, middle_of_way(profile, tuple(flat["left"]), made.sections))
    assert profile.near.kind == "line" and "50.000 mm" in made.status.hint.text()
    QTest.mouseClick(profile, Qt.MouseButton.LeftButton, pos=middle_of_way(profile, tuple(flat["left"]), made.sections))
    QTest.mouseClick(profile, Qt.MouseButton.LeftButton, pos=middle_of_way(profile, tuple(flat["right"]), made.sections))
    ((_, across),) = profile.dimensions
    assert (across.value, across.uncertainty, across.method) == (pytest.approx(80), 0, "exact")
    QTest.mouseClick(profile, Qt.MouseButton.LeftButton, pos=widget_of(profile, flat["bore"]))
    assert profile.picked[0].kind == "centre"
    QTest.mouseClick(profile, Qt.MouseButton.LeftButton, pos=middle_of_way(profile, tuple(flat["left"]), made.sections))
    assert profile.dimensions[-1][1].value == pytest.approx(20), "from the bore's middle to the side"
    QTest.mouseMove(profile, widget_of(profile, at(made, "gauge", (7, 25, 12))[:2]))
    assert profile.disc.thickness == pytest.approx(14, abs=0.05) and "thickness here" in made.status.hint.text()
    held, scale = profile.from_widget(QPointF(300, 200)), profile._scale
    strokes.wheel(profile, QPointF(300, 200), 2)
    assert profile.from_widget(QPointF(300, 200)) == pytest.approx(held, abs=1e-9) and profile._scale > scale
    strokes.drag(profile, {"left"}, QPointF(300, 200), QPointF(40, 10))
    assert profile.from_widget(QPointF(340, 210)) == pytest.approx(held, abs=1e-6) and len(profile.dimensions) == 2
    profile.setFocus()
    QTest.keyClick(profile, Qt.Key.Key_Home)
    QTest.keyClick(profile, Qt.Key.Key_Delete)
    assert len(profile.dimensions) == 1
    QTest.keyClick(profile, Qt.Key.Key_Escape)
    assert not made.profile.large and profile.width() < made.bench.width()


@pytest.mark.parametrize("ending", ["dxf", "svg", "csv", "png"])
def test_the_section_is_saved_to_scale(made: Any, tmp_path: Path, ending: str) -> None:
    made.do("cut.export")
    assert "no section" in made.notifications.sentences[-1]
    only(made, "gauge")
    made.do("cut.z")
    made.sections.move_to(float(at(made, "gauge", (0, 0, 23))[2]))
    shown(made)
    path = tmp_path / f"boss.{ending}"
    made.profile.save(str(path))
    shown(made)
    assert f"boss.{ending}" in made.notifications.sentences[-1]
    if ending == "dxf":
        (outline,) = ezdxf.readfile(path).modelspace()
        assert [abs(bulge) for _, _, bulge in outline.get_points("xyb")] == pytest.approx([1, 1]), "two halves of a circle"
    elif ending == "svg":
        assert 'width="10.0' in path.read_text(encoding="utf-8")
    elif ending == "csv":
        rows = csv.reader(path.read_text(encoding="utf-8").splitlines())
        table = {row[0]: float(row[1]) for row in rows if len(row) == 3 and row[1] != "value"}
        assert table["area"] == pytest.approx(25 * np.pi) and table["largest second moment"] == pytest.approx(np.pi * 5**4 / 4)
        assert (table["width"], table["height"]) == pytest.approx((10, 10), abs=1e-6), "of the circle, not of its chords"
    else:
        image = QImage(str(path))
        assert image.dotsPerMeterX() == 20_000
        ink = made.appearance.palette.colour("ink").rgb()
        columns = [x for x in range(image.width()) if any(image.pixel(x, y) == ink for y in range(image.height()))]
        assert (columns[-1] - columns[0]) / 20 == pytest.approx(10, abs=0.15), "ten millimetres across at 20 dots each"
    made.profile.save(str(tmp_path / "none" / f"x.{ending}"))
    shown(made)
    assert "cannot be written" in made.notifications.sentences[-1]


def test_a_part_is_split_with_pegs_undone_and_made_whole(made: Any) -> None:
    made.do("cut.split")
    assert "needs a cut" in made.notifications.sentences[-1]
    made.do("cut.z")
    made.do("cut.split")
    assert "Select the one part" in made.notifications.sentences[-1]
    only(made, "gauge")
    first = as_bytes(form_of(made.model.job))
    made.sections.aim(Cut.across(0, float(at(made, "gauge", (30, 0, 0))[0])))
    QTest.mouseClick(made.area_strip.line.findChild(type(made.area_strip.more), "cut_split"), Qt.MouseButton.LeftButton)
    assert made.split_form.isVisible() and "gauge" in made.split_form.title.text()
    made.split_form.pegs.setChecked(True)
    made.split_form.length.setValue(3.0)
    QTest.mouseClick(made.split_form.go, Qt.MouseButton.LeftButton)
    shown(made)
    names = [one.part.name for one in made.model.job.parts]
    assert names.count("gauge") == 0 and {"gauge right", "gauge left"} <= set(names) and not made.split_form.isVisible()
    volumes = {one.part.name: one.figures["volume"] for one in made.model.job.parts}
    pegs, holes = 2 * np.pi * 2**2 * 3, 2 * np.pi * 2.15**2 * 3.15
    assert volumes["gauge right"] + volumes["gauge left"] == pytest.approx(gauge.solid().volume + pegs - holes, rel=1e-6)
    assert "split in two" in made.model.job.notes[-1]
    form = form_from(as_bytes(form_of(made.model.job)), "here")
    assert sum(part.steps != () for part in form.parts) == 2, "the original is kept, with how it was split"
    made.do("job.undo")
    assert as_bytes(form_of(made.model.job)) == first
    made.do("job.redo")
    made.model.selection.select({stands(made, "gauge left").id})
    made.do("cut.whole")
    shown(made)
    whole = stands(made, "gauge")
    assert whole.figures["volume"] == pytest.approx(gauge.solid().volume) and whole.steps == ()
    assert whole.ground.middle == pytest.approx(made.model.job.part(whole.id).ground.middle)
    assert not any("gauge " in one.part.name for one in made.model.job.parts)


def test_a_split_that_has_no_room_for_pegs_says_so(made: Any) -> None:
    only(made, "tube")
    made.do("cut.z")
    made.do("cut.split")
    made.split_form.pegs.setChecked(True)
    QTest.mouseClick(made.split_form.go, Qt.MouseButton.LeftButton)
    shown(made)
    assert "room in this cut" in made.notifications.sentences[-1]
    made.split_form.pegs.setChecked(False)
    QTest.mouseClick(made.split_form.go, Qt.MouseButton.LeftButton)
    shown(made)
    volumes = [one.figures["volume"] for one in made.model.job.parts if one.part.name.startswith("tube")]
    assert len(volumes) == 2 and sum(volumes) == pytest.approx(zoo.mesh_of(zoo.tube(12, 9, 30, 60)).signed_volume, rel=1e-6)


def test_a_split_shows_its_halves_and_pegs_before_it_is_done(made: Any) -> None:
    only(made, "gauge")
    made.do("cut.x")
    made.sections.aim(Cut.across(0, float(at(made, "gauge", (30, 0, 0))[0])))
    made.do("cut.split")
    until(lambda: made.split.preview.shown is not None, 20)
    halves = made.split.preview.shown
    assert halves.words == ("right", "left") and len(halves.feet) == 0
    made.split_form.pegs.setChecked(True)
    until(lambda: made.split.preview.shown is not None and len(made.split.preview.shown.feet) == 2, 30)
    feet = made.split.preview.shown.feet
    assert halves.plane.heights(feet) == pytest.approx([0, 0], abs=1e-6), "they stand on the cut"
    assert np.allclose(feet[:, 0], at(made, "gauge", (30, 0, 0))[0])
    made.split_form.diameter.setValue(400.0)
    until(lambda: not made.split_form.go.isEnabled(), 30)
    assert "room in this cut" in made.split_form.trouble.text() and made.split_form.trouble.isVisible()
    made.split_form.pegs.setChecked(False)
    assert made.split_form.go.isEnabled(), "what was wrong with the pegs holds nobody up"
    made.do("cut.off")
    assert made.split.preview.shown is None and not made.split_form.isVisible()


def test_every_setting_of_cutting_and_measuring_is_a_row_with_a_sentence() -> None:
    rows = [row for id, row in BY_ID.items() if id.startswith(("cut.", "measure."))]
    assert len(rows) == 5 and all(row.sentence and row.page == "Cut and measure" for row in rows)
