"""Measuring with real events: what the pointer snaps to, figures and their legs, dimensions that are kept, judged and stale."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import strokes
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

import gauge
from conftest import as_opened
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.near_pieces import to_segments
from gullyrise.core.job.form import as_bytes, form_from, form_of
from gullyrise.core.measuring.picks import Tolerance
from gullyrise.core.measuring.words import UNITS
from gullyrise.core.part import Part
from gullyrise.core.picking.feature import Feature
from gullyrise.core.writing import write

pytestmark = pytest.mark.usefixtures("unwalled")

Place = tuple[float, float, float]


@pytest.fixture(scope="module")
def opened(long_lived: Any, tmp_path_factory: pytest.TempPathFactory) -> Any:
    """The gauge as a solid and as triangles."""
    folder = tmp_path_factory.mktemp("parts")
    write(Part("gauge", "gauge", "step", "mm", "declared", (gauge.solid(),)), folder / "gauge.step")
    write(Part("faceted", "faceted", "stl", "mm", "given", (gauge.as_file(gauge.solid()),)), folder / "faceted.stl")
    return long_lived(str(folder / "gauge.step"), str(folder / "faceted.stl"))


@pytest.fixture
def made(opened: Any) -> Iterator[Any]:
    as_opened(opened)
    depth, first = opened.model.document.history.can_undo, as_bytes(form_of(opened.model.job))
    yield opened
    steps = opened.model.document.history.can_undo - depth
    last = as_bytes(form_of(opened.model.job))
    for _ in range(steps):
        opened.do("job.undo")
    assert as_bytes(form_of(opened.model.job)) == first, "undone byte for byte"
    for _ in range(steps):
        opened.do("job.redo")
    assert as_bytes(form_of(opened.model.job)) == last
    for _ in range(steps):
        opened.do("job.undo")
    opened.measure.set_spots(False)
    opened.measure.set_by_clicks(False)


def stands(made: Any, name: str) -> Any:
    return next(one for one in made.model.job.parts if one.part.name == name)


def seen(made: Any, place: Place, name: str = "gauge") -> Any:
    """Where a place of a part's file is in the widget."""
    return made.bench.to_widget(stands(made, name).placement.apply(np.array([place]))[0])


def look(made: Any, name: str = "gauge") -> None:
    """Straight on it from above and from the front, with room round it, and nothing before it."""
    other = {one.id for one in made.model.job.parts if one.part.name != name}
    made.model.shown.look(made.model.shown.visibility.hiding(frozenset((number, 0) for number in other)))
    made.do("view.isometric")
    made.do("view.all")
    made.measure.set_by_clicks(True)
    made.bench.setFocus()
    assert made.wait_until_idle(240)


def click(made: Any, place: Place, keys: Any = (), name: str = "gauge") -> None:
    strokes.hover(made.bench, seen(made, place, name))
    strokes.click(made.bench, seen(made, place, name), keys=keys)


def known(made: Any) -> dict[str, float]:
    assert made.wait_until_idle(240)
    return {figure.name: figure.value for figure in made.measure.figures}


TOP, FRONT = (10.0, 6.0, 20.0), (15.0, 0.0, 12.0)


@pytest.mark.parametrize("name", ["gauge", "faceted"])
@pytest.mark.parametrize(
    ("place", "what"),
    [
        ((0, 0, 20), "corner"), ((0, 25, 20), "middle"), ((20, 25, 20), "centre"), ((0, 12, 20), "edge"), (TOP, "face"),
        ((40, 0, 8), "centre"), (FRONT, "face"),
    ],
)  # fmt: skip
def test_what_a_click_would_take_is_shown_before_it(made: Any, name: str, place: Place, what: str) -> None:
    look(made, name)
    strokes.hover(made.bench, seen(made, place, name))
    near = made.measure_tool.near
    assert near is not None and near.pick.what == what and near.pick.part == stands(made, name).id
    assert what in made.status.hint.text() or what in ("middle", "centre", "edge")
    if what in ("corner", "middle", "centre"):
        assert near.place == pytest.approx(stands(made, name).placement.apply(np.array([place]))[0], abs=1e-3)
    assert made.measure.picks == ()
    strokes.hover(made.bench, seen(made, (10, -40, 60), name))
    assert made.measure_tool.near is None


def test_an_axis_is_snapped_to_on_a_solid(made: Any) -> None:
    look(made)
    made.do("view.front")
    assert made.wait_until_idle(240)
    strokes.hover(made.bench, seen(made, (20, 25, 6)))
    assert made.measure_tool.near.pick.what == "axis", "of the bore, which lies behind the front"


@pytest.mark.parametrize(("name", "close"), [("gauge", 1e-6), ("faceted", 0.05)])
def test_one_thing_tells_its_own_and_two_what_lies_between(made: Any, name: str, close: float) -> None:
    look(made, name)
    click(made, (20, 25, 20), name=name)
    assert known(made)["diameter"] == pytest.approx(12, abs=close) and "centre" in made.measure_card.title.text()
    click(made, (40, 0, 8), name=name)
    assert known(made)["centre to centre"] == pytest.approx(np.sqrt(20**2 + 25**2 + 12**2), abs=close)
    click(made, TOP, name=name)
    assert len(made.measure.picks) == 1, "a third begins anew"
    assert known(made)["thickness here, straight through"] == pytest.approx(20, abs=close)
    click(made, FRONT, name=name)
    assert known(made)["face to face, angle"] == pytest.approx(90, abs=close)
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    assert made.measure.picks == () and made.measure.by_clicks
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    assert not made.measure.by_clicks


def test_legs_are_drawn_while_they_are_pointed_at(made: Any) -> None:
    look(made)
    click(made, (0, 0, 20))
    click(made, (40, 40, 26))
    assert known(made)["corner to centre"] == pytest.approx(np.sqrt(40**2 + 40**2 + 6**2))
    legs = made.measure.legs()
    assert [leg.value for leg in legs] == pytest.approx([40, 40, 6]) and "Y  40.000 mm" in made.measure_card.legs[1].text()
    shown = made.measure_tool.shown
    assert shown.leg is None and len(shown.legs) == 3
    made.measure_card.legs[1].pointed.emit(True)
    assert made.measure_tool.shown.leg == 1 and made.measure_tool.shown.leg_words[1] == "Y 40.000 mm"
    made.measure_card.legs[1].pointed.emit(False)
    assert made.measure_tool.shown.leg is None
    part = stands(made, "gauge").id
    made.model.document.edit("turn", lambda job: job.moved([part], Transform.turned(np.array([0, 0, 1.0]), 30)))
    assert known(made)["corner to centre"] == pytest.approx(np.sqrt(40**2 + 40**2 + 6**2)), "measured where it stands now"
    turned = [leg.value for leg in made.measure.legs()]
    made.do("measure.axes")
    assert [leg.value for leg in made.measure.legs()] == pytest.approx([40, 40, 6]) and turned != pytest.approx([40, 40, 6])
    assert made.measure_card.axes.text() == "Axes of the part"


def test_places_on_faces_and_chains_of_points(made: Any) -> None:
    look(made)
    QTest.keyClick(made.bench, Qt.Key.Key_M)
    QTest.keyClick(made.bench, Qt.Key.Key_P)
    assert made.measure.spots and made.measure_card.places.isChecked()
    click(made, TOP)
    assert made.measure.picks[0].what == "spot"
    assert known(made)["thickness here, straight through"] == pytest.approx(20, abs=1e-6)
    click(made, (0, 0, 20))
    click(made, (0, 50, 20), keys=("shift",))
    found = known(made)
    assert set(found) == {"angle at the second", "chain of 3 points"}
    assert found["chain of 3 points"] == pytest.approx(50 + np.hypot(10, 6), abs=0.5)
    click(made, (0, 50, 20), keys=("shift",))
    assert len(made.measure.picks) == 2, "the same again is let go"


def test_what_is_chosen_is_measured_without_asking(made: Any) -> None:
    one, other = (stands(made, name).id for name in ("gauge", "faceted"))
    made.model.selection.select({one})
    assert known(made)["volume"] == pytest.approx(gauge.solid().volume) and made.measure_card.isVisible()
    made.model.selection.select({one, other})
    gap = known(made)["smallest gap"]
    low, high = stands(made, "gauge").ground, stands(made, "faceted").ground
    assert gap == pytest.approx(low.gap_to(high), abs=0.02)
    made.choice.set_kind("face")
    key = (one, 0)
    face = gauge.pick(gauge.solid(), "face", (26, 25, 10)).index
    made.model.selection.select_bodies({key}, (Feature("face", key, face),))
    assert known(made)["diameter"] == pytest.approx(12) and made.measure_card.title.text() == "hole"
    anatomy = made.model.ready.of(stands(made, "gauge"))[0].anatomy
    edge = int(anatomy.edge_of[np.argmin(to_segments(np.array([0.0, 25, 0]), anatomy.segments))])
    made.choice.set_kind("edge")
    made.model.selection.select_bodies({key}, (Feature("edge", key, edge),))
    assert known(made) == {"length": pytest.approx(50)}
    made.model.selection.select_bodies(())
    assert made.measure.picks == ()


def test_measuring_under_the_pointer_needs_no_tool(made: Any) -> None:
    look(made)
    made.measure.set_by_clicks(False)
    strokes.hover(made.bench, seen(made, (20, 25, 20)))
    QTest.keyClick(made.bench, Qt.Key.Key_M)
    QTest.keyClick(made.bench, Qt.Key.Key_H)
    assert known(made)["diameter"] == pytest.approx(12)
    strokes.hover(made.bench, seen(made, (10, -60, 80)))
    made.do("measure.here")
    assert "nothing under the pointer" in made.notifications.sentences[-1]


def kept(made: Any) -> Any:
    """The plate's height as a dimension."""
    look(made)
    click(made, (0, 0, 20))
    click(made, (0, 0, 0))
    known(made)
    QTest.keyClick(made.bench, Qt.Key.Key_M)
    QTest.keyClick(made.bench, Qt.Key.Key_K)
    return made.model.job.dimensions[-1]


def row(made: Any, name: str) -> Any:
    return made.dimension_list.findChild(object, name)


def type_into(field: QLineEdit, words: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, words)


def test_a_dimension_is_kept_named_judged_hidden_and_removed(made: Any) -> None:
    one = kept(made)
    assert (one.value, one.uncertainty, one.name) == (pytest.approx(20), 0, "1 corner to corner")
    assert made.dimension_list.isVisible() and len(made.measure_tool.kept) == 1
    type_into(made.dimension_list.name, "height of the plate")
    QTest.keyClick(made.dimension_list.name, Qt.Key.Key_Return)
    assert made.model.job.dimensions[0].name == "height of the plate"
    for nominal, upper, lower, verdict in (("20", "0.1", "-0.1", "pass"), ("20.5", "0.1", "", "fail"), ("20", "", "h7", "pass")):
        for field, words in zip(made.dimension_list.fields, (nominal, upper, lower), strict=True):
            type_into(field, words)
        QTest.mouseClick(row(made, "dimension_set"), Qt.MouseButton.LeftButton)
        assert made.measure_tool.kept[0].verdict == verdict, (nominal, lower)
    assert made.model.job.dimensions[0].tolerance == Tolerance(nominal=20, iso="h7")
    type_into(made.dimension_list.fields[2], "q7")
    QTest.mouseClick(row(made, "dimension_set"), Qt.MouseButton.LeftButton)
    assert "no class of ISO 286" in made.notifications.sentences[-1] and made.model.job.dimensions[0].tolerance.iso == "h7"
    type_into(made.dimension_list.fields[0], "twenty")
    QTest.keyClick(made.dimension_list.fields[0], Qt.Key.Key_Return)
    assert "is no number" in made.dimension_list.fields[0].accessibleDescription(), "told where it stands"
    assert made.model.job.dimensions[0].tolerance.nominal == 20
    QTest.mouseClick(row(made, f"dimension_{one.id}_eye"), Qt.MouseButton.LeftButton)
    assert made.model.job.dimensions[0].hidden and made.measure_tool.kept == ()
    QTest.mouseClick(row(made, "dimension_remove"), Qt.MouseButton.LeftButton)
    assert made.model.job.dimensions == () and not made.dimension_list.isVisible()
    made.do("job.undo")
    assert made.model.job.dimensions[0].name == "height of the plate"


def test_a_dimension_follows_its_part_and_is_stale_once_that_changed(made: Any) -> None:
    one = kept(made)
    part = stands(made, "gauge")
    ends = made.measure_tool.kept[0].ends
    made.model.document.edit("turn", lambda job: job.moved([part.id], Transform.turned(np.array([0, 0, 1.0]), 40)))
    made.measure.clear()
    assert not made.dimensions.is_stale(made.model.job.dimensions[0])
    moved = made.measure_tool.kept[0].ends
    assert np.array(moved) == pytest.approx(Transform.turned(np.array([0, 0, 1.0]), 40).apply(np.array(ends)))
    made.model.loader.stretch(part.id, np.eye(3) * 1.5, "Size to 150 %")
    assert made.wait_until_idle(240)
    assert made.dimensions.is_stale(made.model.job.dimensions[0]) and "stale" in made.measure_tool.kept[0].words
    assert "stale" in row(made, f"dimension_{one.id}").text()
    made.do("measure.again")
    assert made.wait_until_idle(240)
    fresh = made.model.job.dimensions[0]
    assert fresh.value == pytest.approx(30) and fresh.name == one.name and not made.dimensions.is_stale(fresh)
    made.do("measure.again")
    assert "No dimension is stale" in made.notifications.sentences[-1]


@pytest.mark.parametrize("name", ["gauge", "faceted"])
def test_the_place_of_a_thickness_goes_with_a_part_of_another_size(made: Any, name: str) -> None:
    look(made, name)
    click(made, FRONT, name=name)
    thickness = "thickness here, straight through"
    before = known(made)[thickness]
    made.measure.front(list(known(made)).index(thickness))
    made.do("measure.keep")
    for factors in ((1.0, 0.5, 1.0), (0.5, 3.0, 0.4)):
        made.model.loader.stretch(stands(made, name).id, np.diag(factors), "Size")
        assert made.wait_until_idle(240)
        before *= factors[1]
        assert known(made)[thickness] == pytest.approx(before, rel=1e-6)
        assert made.dimensions.is_stale(made.model.job.dimensions[0])
    made.measure.clear()
    made.do("measure.again")
    assert made.wait_until_idle(240)
    assert made.model.job.dimensions[0].value == pytest.approx(before, rel=1e-6)


def test_dimensions_stay_with_the_job_file_and_are_exported(made: Any, tmp_path: Path) -> None:
    one = kept(made)
    made.dimensions.want(one.id, Tolerance(nominal=20, upper=0.05, lower=-0.05))
    form = form_from(as_bytes(form_of(made.model.job)), "here")
    assert form.dimensions == made.model.job.dimensions
    for ending in ("csv", "json", "none/x.csv"):
        made.dimensions.save(str(tmp_path / f"sizes.{ending}" if "/" not in ending else tmp_path / ending))
        assert made.wait_until_idle(240)
    assert "cannot be written" in made.notifications.sentences[-1]
    table = list(csv.DictReader((tmp_path / "sizes.csv").read_text(encoding="utf-8").splitlines()))
    assert (table[0]["parts"], table[0]["verdict"], float(table[0]["value"])) == ("gauge", "pass", pytest.approx(20))
    document = json.loads((tmp_path / "sizes.json").read_text(encoding="utf-8"))
    assert document["dimensions"][0]["method"] == "exact" and document["dimensions"][0]["to"] == pytest.approx(20.05)


def test_units_digits_and_what_is_copied(made: Any) -> None:
    kept(made)
    told = []
    for _ in UNITS:
        told.append(made.measure.words(made.measure.figure)[0])
        QTest.mouseClick(made.measure_card.unit, Qt.MouseButton.LeftButton)
    assert told == ["20.000 mm", "0.7874 in", "25/32 in +0.0062", "0.020000 m", "20,000 µm"]
    assert made.settings["measure.unit"] == "mm"
    made.settings.set("measure.digits", 1.0)
    assert made.measure_tool.shown.words == "20.0 mm" and "1 digit" in made.measure_card.method.text()
    made.do("measure.copy")
    assert QApplication.clipboard().text().split("\n")[0] == "corner to corner\t20.0 mm\texact\texact"
    made.measure.clear()
    made.do("measure.copy")
    assert QApplication.clipboard().text() == "1 corner to corner\t20.0 mm\texact"


def test_what_is_not_there_is_said(made: Any) -> None:
    for id, words in (
        ("measure.keep", "nothing measured"),
        ("measure.export", "No dimension is kept"),
        ("measure.copy", "no figures"),
    ):
        made.do(id)
        assert words in made.notifications.sentences[-1]
    look(made)
    click(made, (0, 25, 20))
    known(made)
    made.do("measure.next")
    number = made.measure.main
    assert known(made) and made.measure.figure is made.measure.figures[number] and number == 1
    made.do("measure.show")
    assert not made.dimensions.shown_on_bench
    made.do("measure.show")
    made.do("measure.drop")
    assert made.measure.picks == () and made.measure.figures == ()


def test_hidden_bodies_and_cut_faces_are_not_measured(made: Any) -> None:
    look(made)
    made.model.shown.look(made.model.shown.visibility.hiding(frozenset({(stands(made, "gauge").id, 0)})))
    made.scene.bring_in_step()
    strokes.hover(made.bench, seen(made, TOP))
    assert made.measure_tool.near is None
    look(made)
    made.do("cut.z")
    made.sections.move_to(12.0)
    assert made.wait_until_idle(240)
    strokes.hover(made.bench, seen(made, (10, 12, 12)))
    assert made.measure_tool.near is None, "a cut face is measured in the flat profile"


def test_a_chosen_body_is_no_first_thing_and_cancelled_work_is_not_waited_for(made: Any) -> None:
    look(made)
    made.model.selection.select({stands(made, "gauge").id})
    assert [pick.what for pick in made.measure.picks] == ["body"] and not made.measure.picked_by_hand
    assert made.measure_tool.shown is None, "the view stays clear of figures that nobody asked for"
    click(made, (0, 12, 20))
    assert [pick.what for pick in made.measure.picks] == ["edge"]
    made.do("work.cancel")
    assert made.measure.idle and made.wait_until_idle(240)
    made.measure.clear()
    kept_ready, made.model.ready.prepared = made.model.ready.prepared, {}
    made.measure.hold(made.measure.picks or (gauge.pick(gauge.solid(), "body", (0, 0, 0), stands(made, "gauge").id),))
    assert made.measure.taken is None
    made.model.ready.prepared = kept_ready
    made.model.shown.changed.emit()
    assert "volume" in known(made), "found out once the body is ready"


def test_three_bodies_or_mixed_choices_are_not_guessed_at(made: Any) -> None:
    key = (stands(made, "gauge").id, 0)
    made.choice.set_kind("edge")
    made.model.selection.select_bodies({key}, tuple(Feature("edge", key, number) for number in range(3)))
    assert made.measure.picks == ()
    made.choice.set_kind("vertex")
    made.model.selection.select_bodies({key}, tuple(Feature("vertex", key, number) for number in range(3)))
    assert len(made.measure.picks) == 3 and set(known(made)) == {"angle at the second", "chain of 3 points"}
