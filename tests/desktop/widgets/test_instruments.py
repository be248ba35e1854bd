"""The instruments on their own: stamps told apart without colour, the dial's marks, the colours of a measure, the scale bar."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtTest import QSignalSpy, QTest
from PyQt6.QtWidgets import QApplication, QWidget

from gullyrise.core.checks.protocol import FaceField
from gullyrise.desktop.widgets.bearing_dial import BearingDial
from gullyrise.desktop.widgets.stamp import WORDS, stamp_picture
from gullyrise.drawing.captions import round_length
from gullyrise.drawing.colour_maps import scale_for
from gullyrise.drawing.palette import LIMESTONE, SLATE, Palette


def inked(picture: QImage) -> np.ndarray:
    """Which pixels of a picture are drawn at all, whatever their colour."""
    return np.array([[picture.pixelColor(x, y).alpha() > 100 for x in range(picture.width())] for y in range(picture.height())])


@pytest.mark.parametrize("palette", [LIMESTONE, SLATE], ids=lambda palette: palette.name)
def test_stamps_differ_by_shape_alone(qapp: QApplication, palette: Palette) -> None:
    shapes = {verdict: inked(stamp_picture(verdict, palette, 24, 1.0).toImage()) for verdict in WORDS}
    for one, other in combinations(shapes, 2):
        different = (shapes[one] ^ shapes[other]).mean()
        assert different > 0.05, f"{one} and {other} have one outline"


@pytest.mark.parametrize("verdict", ["pass", "review", "fail"])
def test_a_stale_stamp_is_hatched(qapp: QApplication, verdict: str) -> None:
    fresh, stale = (stamp_picture(verdict, LIMESTONE, 24, 1.0, stale=stale).toImage() for stale in (False, True))
    changed = [fresh.pixelColor(x, y) != stale.pixelColor(x, y) for x in range(24) for y in range(24)]
    assert 0.05 < np.mean(changed) < 0.6, "the stamp can still be told"


def test_every_mark_of_the_dial_swings_to_its_own_bearing(qapp: QApplication) -> None:
    parent = QWidget()
    dial = BearingDial(LIMESTONE, parent)
    said = QSignalSpy(dial.swung)
    for place in dial.marks().values():
        QTest.mouseClick(dial, Qt.MouseButton.LeftButton, pos=place.toPoint())
    asked = [tuple(said[number]) for number in range(len(said))]
    assert {heading for heading, _ in asked if heading is not None} == {0, 45, 90, 135, 180, 225, 270, 315}
    assert {elevation for _, elevation in asked if elevation is not None} == {-90, 0, 90}
    assert all((heading is None) != (elevation is None) for heading, elevation in asked)
    QTest.mouseClick(dial, Qt.MouseButton.LeftButton, pos=QPoint(2, 2))
    assert len(said) == len(asked), "a click beside the marks swings nowhere"


def lightness(colours: np.ndarray) -> np.ndarray:
    return np.array([QColor(*(int(part) for part in colour)).lightnessF() for colour in colours])


@pytest.mark.parametrize("bad_below", [True, False])
def test_the_colours_of_a_measure_break_at_the_limit_and_are_even_beside_it(bad_below: bool) -> None:
    unit = "mm" if bad_below else "°"
    scale = scale_for(FaceField("wall thickness", unit, (), 0.8 if bad_below else 45.0, bad_below))
    just = 1e-6
    below, above = scale.colours(np.array([scale.limit - just, scale.limit + just])).astype(int)
    assert np.abs(below - above).sum() > 80, "a hard break at the limit"
    for values in (np.linspace(scale.low, scale.limit - just, 40), np.linspace(scale.limit + just, scale.high, 40)):
        steps = np.diff(lightness(scale.colours(values)))
        assert (steps <= 0.01).all() or (steps >= -0.01).all(), "lightness runs one way on either side"
    unknown = scale.colours(np.array([np.nan]))[0]
    assert not any((unknown == colour).all() for colour in scale.colours(np.linspace(scale.low, scale.high, 200)))


@given(st.floats(1e-6, 1e7))
def test_the_scale_bar_is_a_round_length_that_fits(most: float) -> None:
    length = round_length(most)
    assert length <= most * (1 + 1e-12) and most / length <= 2.5 + 1e-9
    first = length / 10.0 ** np.floor(np.log10(length * (1 + 1e-12)))
    assert min(abs(first - wanted) for wanted in (1, 2, 5)) < 1e-6
