"""What is painted over the picture says the truth: lengths, numbers at their places, the way back, and colours of a measure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtWidgets import QApplication

from gullyrise.core.camera.camera import Camera
from gullyrise.core.checks.protocol import FaceField
from gullyrise.core.geometry import Box, Mesh
from gullyrise.core.machines.library import library, machine_named
from gullyrise.core.placing.bed_lines import ruler_marks
from gullyrise.drawing import captions, marks, way_back
from gullyrise.drawing.canvas import Canvas, Hides
from gullyrise.drawing.colour_maps import NOT_JUDGED, Scale, scale_for
from gullyrise.drawing.display import PLAIN, Display
from gullyrise.drawing.legend import LegendRows, Swatch, legend, legend_rows
from gullyrise.drawing.marks import Flag
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.drawing.scene import Item, Scene

SIZE = (640, 480)
HERON = machine_named("heron-220")
OVER_BED = Camera(HERON.envelope.box.middle * np.array([1, 1, 0]), 0, 90, 330, parallel=True)


def on(painter: QPainter, camera: Camera, *hides: Hides) -> Canvas:
    return Canvas(painter, camera, SIZE, LIMESTONE, *hides)


def painted(paint: Callable[[QPainter], Any], size: tuple[int, int] = SIZE) -> np.ndarray:
    """(h, w, 3) of what is painted on white."""
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint(painter)
    painter.end()
    rows = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), dtype=np.uint8).reshape(size[1], size[0], 4)
    return rows[:, :, 2::-1].astype(int)


def near(picture: np.ndarray, colour: str, within: int = 90) -> np.ndarray:
    """(h, w) which pixels are about of a colour."""
    wanted = [int(colour[i : i + 2], 16) for i in (1, 3, 5)]
    return np.asarray(np.abs(picture - wanted).sum(axis=2) < within)


@pytest.mark.parametrize("span", [0.05, 3.0, 71.0, 300.0, 9_000.0])
def test_the_scale_bar_is_as_long_as_it_says(qapp: QApplication, span: float) -> None:
    said: list[str] = []

    class Listening(QPainter):
        def drawText(self, *what: Any) -> None:
            said.append(what[-1])

    camera = Camera(np.zeros(3), 20, 30, span)
    image = QImage(*SIZE, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = Listening(image)
    captions.scale_bar(on(painter, camera))
    painter.end()
    value, unit = said[0].split()
    mm = float(value) * {"mm": 1.0, "m": 1000.0}[unit]
    drawn = painted(lambda painter: captions.scale_bar(on(painter, camera)))
    across = np.flatnonzero(near(drawn, LIMESTONE.ink, 200)[SIZE[1] - 18 - 3 : SIZE[1] - 18 + 3].any(axis=0))
    assert (across[-1] - across[0]) * camera.span / SIZE[1] == pytest.approx(mm, rel=0.05)
    right = camera.frame()[0]
    ends = camera.to_picture(np.array([[0, 0, 0], right * mm]), *SIZE)[:, 0]
    assert ends[1] - ends[0] == pytest.approx(across[-1] - across[0], rel=0.05), "at what is looked at"


def test_numbers_of_the_ruler_stand_where_the_millimetres_are(qapp: QApplication) -> None:
    def numbers(hides: Callable[[float, float, float], bool]) -> np.ndarray:
        return near(
            painted(lambda painter: captions.ruler_numbers(on(painter, OVER_BED, hides), HERON)),
            LIMESTONE.quiet, 250,
        )  # fmt: skip

    seen = numbers(lambda x, y, depth: False)
    for place, words in ruler_marks(HERON):
        x, y, _ = OVER_BED.to_picture(place[None], *SIZE)[0]
        assert seen[int(y) - 8 : int(y) + 8, int(x) - 16 : int(x) + 16].sum() > 4 * len(words), words
    assert numbers(lambda x, y, depth: True).sum() == 0, "behind a part there is no number"
    left = numbers(lambda x, y, depth: x > SIZE[0] / 2)
    assert left[:, : SIZE[0] // 2 - 20].any() and not left[:, SIZE[0] // 2 + 20 :].any()


@pytest.mark.parametrize("machine", [machine.id for machine in library()])
def test_rulers_count_from_the_machines_corner_in_fifties(machine: str) -> None:
    marked = ruler_marks(machine_named(machine))
    box = machine_named(machine).envelope.box
    for place, words in marked:
        along = place - box.low
        assert any(abs(along[axis] - float(words)) < 1e-9 for axis in (0, 1)) and float(words) % 50 == 0
        assert place[2] == 0 and (place[:2] >= box.low[:2] - 13).all() and (place[:2] <= box.high[:2] + 13).all()
    assert max(float(words) for _, words in marked) > box.size[:2].max() - 50.001


def test_letters_stand_at_the_ends_of_their_axes(qapp: QApplication) -> None:
    camera = replace(OVER_BED, elevation=30.0, heading=30.0, target=np.zeros(3))
    drawn = painted(lambda painter: captions.axis_letters(on(painter, camera), HERON))
    for axis, colour in enumerate((LIMESTONE.axis_x, LIMESTONE.axis_y, LIMESTONE.axis_z)):
        rows, columns = np.nonzero(near(drawn, colour))
        away = np.array([columns.mean() - SIZE[0] / 2, rows.mean() - SIZE[1] / 2])
        ahead = camera.to_picture(np.eye(3)[axis][None], *SIZE)[0, :2] - np.array(SIZE) / 2
        assert away @ ahead / np.linalg.norm(away) / np.linalg.norm(ahead) > 0.99


def test_a_flag_points_at_its_place_and_the_chosen_one_speaks(qapp: QApplication) -> None:
    camera = Camera(np.zeros(3), 30, 20, 100)
    here, there = (10.0, -5.0, 3.0), (-20.0, 5.0, -12.0)

    def drawn(*shown: Flag) -> np.ndarray:
        return near(painted(lambda painter: marks.flags(on(painter, camera), list(shown))), LIMESTONE.failed, 60)

    quiet = drawn(Flag(1, "0.42 mm", here, "fail", False), Flag(2, "0.5 mm", there, "review", False))
    x, y, _ = camera.to_picture(np.array([here]), *SIZE)[0]
    assert quiet[round(y) - 1 : round(y) + 2, round(x) - 1 : round(x) + 2].all(), "its dot lies on the place"
    x, y, _ = camera.to_picture(np.array([there]), *SIZE)[0]
    assert not quiet[round(y) - 4 : round(y) + 4, round(x) - 4 : round(x) + 4].any(), "a review has another colour"
    assert drawn(Flag(1, "0.42 mm", here, "fail", True)).sum() > 3 * drawn(Flag(1, "0.42 mm", here, "fail", False)).sum()
    behind = camera.eye + camera.frame()[2] * 10
    small = QImage(60, 42, QImage.Format.Format_RGB32)
    small.fill(QColor("#00ff00"))

    def worn(*shown: Flag, pictures: bool = True) -> int:
        found = painted(lambda painter: marks.flags(on(painter, camera), list(shown), pictures=pictures))
        return int(near(found, "#00ff00", 60).sum())

    pictured = Flag(1, "0.42 mm", here, "fail", False, small)
    # All of it but its border and its number; nothing beside evidence that is looked at.
    assert 60 * 42 * 0.8 < worn(pictured) <= 60 * 42 and not worn(pictured, pictures=False)
    assert worn(pictured, replace(pictured, number=2)) < 60 * 42 * 1.1, "none hides another"
    assert not drawn(Flag(1, "", (float(behind[0]), float(behind[1]), float(behind[2])), "fail", False)).any()


boxes = st.tuples(*[st.floats(-300, 300)] * 3, *[st.floats(1, 400)] * 3)


@settings(max_examples=400, deadline=None)
@given(
    st.lists(boxes, min_size=1, max_size=3), st.floats(0, 360), st.floats(-90, 90), st.floats(2, 600), st.booleans(),
    st.tuples(*[st.floats(-400, 400)] * 3), st.sampled_from([(1.0, 1.0, 1.0), (1.0, 1.0, 5.0)]),
)  # fmt: skip
def test_no_part_is_said_to_be_out_of_view_that_is_in_it(
    places: list[tuple[float, ...]], heading: float, elevation: float, span: float, parallel: bool,
    target: tuple[float, float, float], stretch: tuple[float, float, float],
) -> None:  # fmt: skip
    camera = Camera(np.array(target), heading, elevation, span, parallel, stretch=stretch)
    shown = [Box(np.array(place[:3]), np.array(place[:3]) + place[3:]) for place in places]
    away = way_back.out_of_view(camera, SIZE, np.array([box.corners() for box in shown]))
    grid = np.stack(np.meshgrid(*[np.linspace(0, 1, 12)] * 3), axis=-1).reshape(-1, 3)
    points = np.concatenate([box.low + grid * box.size for box in shown])
    seen = camera.to_picture(points, *SIZE)
    inside = (seen[:, :2] > 0).all(axis=1) & (seen[:, 0] < SIZE[0]) & (seen[:, 1] < SIZE[1])
    if inside.any():
        assert away is None
    if away is not None:
        assert np.hypot(*away) == pytest.approx(1.0)


def test_the_way_back_is_said_with_its_key_and_an_arrow_on_that_side(qapp: QApplication) -> None:
    box = np.array([Box(np.zeros(3), np.full(3, 20.0)).corners()])
    camera = Camera(np.array([400.0, 0, 10]), 0, 0, 100, parallel=True)
    drawn = near(painted(lambda painter: way_back.lost(on(painter, camera), box, "Home")), LIMESTONE.accent, 12)
    rows, columns = np.nonzero(drawn)
    assert columns.max() < SIZE[0] / 2 and abs(rows.mean() - SIZE[1] / 2) < 6
    back = replace(camera, target=np.array([10.0, 10, 10]))
    assert (painted(lambda painter: way_back.lost(on(painter, back), box, "Home")) == 255).all()


@settings(max_examples=200, deadline=None)
@given(st.floats(0, 360), st.floats(-90, 90), st.floats(2, 4e5), st.booleans(), st.tuples(*[st.floats(-200, 200)] * 2))
def test_parts_that_are_a_speck_are_ringed_and_larger_ones_never(
    heading: float, elevation: float, span: float, parallel: bool, aside: tuple[float, float]
) -> None:
    shown = [Box(np.zeros(3), np.array([30.0, 20, 10])), Box(np.array([40.0, 0, 0]), np.array([60.0, 9, 9]))]
    corners = np.array([box.corners() for box in shown])
    camera = Camera(np.array([30.0, 10, 5]), heading, elevation, span, parallel)
    camera = camera.slid(aside[0] * span / 900, aside[1] * span / 900)
    seen = camera.to_picture(corners.reshape(-1, 3), *SIZE)[:, :2]
    at = way_back.speck(camera, SIZE, corners)
    large = not np.isfinite(seen).all() or np.ptp(seen, axis=0).max() > 40
    if large:
        assert at is None
    elif ((seen > 0) & (seen < SIZE)).all() and np.ptp(seen, axis=0).max() < 6:
        assert at == pytest.approx(tuple(seen.mean(axis=0)), abs=6)


def test_a_speck_is_ringed_and_told_with_the_key(qapp: QApplication) -> None:
    box = np.array([Box(np.zeros(3), np.full(3, 20.0)).corners()])
    camera = Camera(np.array([3000.0, 0, 10]), 0, 0, 9000, parallel=True)
    ring = near(painted(lambda painter: way_back.lost(on(painter, camera), box, "Home")), LIMESTONE.accent, 12)
    rows, columns = np.nonzero(ring)
    x, y, _ = camera.to_picture(np.array([[10.0, 10, 10]]), *SIZE)[0]
    assert abs((columns.min() + columns.max()) / 2 - x) < 4 and abs((rows.min() + rows.max()) / 2 - y) < 4


@pytest.mark.parametrize("below", [True, False])
def test_the_legend_has_the_colours_of_the_measure_and_a_stroke_at_the_limit(qapp: QApplication, below: bool) -> None:
    scale = scale_for(FaceField("wall thickness", "mm", (np.linspace(0.2, 4, 50),), 1.5, below))
    rows = LegendRows("Wall thickness, mm", scale, ())
    drawn = painted(lambda painter: legend(on(painter, OVER_BED), rows, QPointF(20, 30)))
    left, top, tall = 20 + 12, 30 + rows.title_height + 6, 156
    for row in range(4, tall, 15):
        value = scale.high + (scale.low - scale.high) * row / (tall - 1)
        if abs(value - scale.limit) > 0.1:
            wanted = scale.colours(np.array([value]))[0].astype(int)
            assert np.abs(drawn[top + row, left + 9] - wanted).max() < 12
    at = top + (scale.high - scale.limit) / (scale.high - scale.low) * tall
    stroke = near(drawn[:, left - 3 : left - 2], LIMESTONE.ink, 200)[:, 0]
    assert np.abs(np.flatnonzero(stroke[top:]).mean() + top - at) < 2
    assert near(drawn[top - 40 : top - 20, left : left + 120], LIMESTONE.ink, 60).any(), "its title is read as its numbers are"


def item(values: np.ndarray | None, scale: Scale | None) -> Item:
    return Item(
        (1, 0), "a", Mesh(np.eye(3), np.array([[0, 1, 2]])), np.eye(4), Box(np.zeros(3), np.ones(3)), False, values, scale
    )


def test_the_legend_shows_just_the_colours_that_are_drawn(qapp: QApplication) -> None:
    reach = scale_for(FaceField("out of the tool's reach", "", (np.array([0.4]),), 0.0, False))
    rows = legend_rows(Scene((item(np.array([0.4, 0.0, 1.0]), reach),), HERON, LIMESTONE))
    assert rows is not None and [one.words for one in rows.swatches] == ["yes", "no"], "every face of it was judged"
    told = {one.colour for one in rows.swatches}
    for value in (0.0, 0.03, 0.4, 1.0):
        assert tuple(int(c) for c in reach.colours(np.array([value]))[0]) in told, "no colour but those that are told"
    some = legend_rows(Scene((item(np.array([0.4, np.nan]), reach), item(None, None)), HERON, LIMESTONE))
    assert some is not None and some.swatches[-1] == Swatch(NOT_JUDGED, "not judged")
    sides = legend_rows(Scene((item(None, None),), HERON, LIMESTONE, display=Display(surface="facing")))
    assert sides is not None and [one.words for one in sides.swatches] == ["outside", "inside"]
    assert legend_rows(Scene((item(None, None),), HERON, LIMESTONE)) is None
    drawn = painted(lambda painter: legend(on(painter, OVER_BED), rows, QPointF(20, 30)))
    for row, one in enumerate(rows.swatches):
        assert np.abs(drawn[30 + rows.title_height + 22 * row + 10, 20 + 20] - np.array(one.colour)).max() < 3


def test_the_plate_names_what_is_not_usual(qapp: QApplication) -> None:
    camera = Camera(np.zeros(3), 0, 90, 100)
    usual = painted(lambda painter: captions.view_name(on(painter, camera), PLAIN))
    wires = painted(lambda painter: captions.view_name(on(painter, camera), replace(PLAIN, surface="wireframe")))
    both = replace(PLAIN, surface="wireframe", see_through=True)
    more = painted(lambda painter: captions.view_name(on(painter, camera), both))
    width = [int(np.flatnonzero((picture < 255).any(axis=(0, 2)))[-1]) for picture in (usual, wires, more)]
    assert width[0] < width[1] < width[2]
