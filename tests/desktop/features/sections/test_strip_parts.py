"""The strip's instruments by themselves: the area curve with its limits, rows of figures, pictures that are kept, the flat
cut."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

import zoo
from gullyrise.core.cutting import cut
from gullyrise.core.cutting.along import area_along
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Plane
from gullyrise.core.measuring.words import Wording
from gullyrise.core.report.outlines import outlines_of
from gullyrise.desktop.features.sections.area_curve import AreaCurveRuler, _lanes
from gullyrise.desktop.features.sections.flat_painted import _round_step, _upright
from gullyrise.desktop.features.sections.flat_profile import FlatProfile
from gullyrise.desktop.widgets.figure_row import FigureRow
from gullyrise.desktop.widgets.kept_picture import KeptPicture
from gullyrise.drawing.palette import LIMESTONE, SLATE, Palette


def picture(widget: QWidget) -> QImage:
    image = QImage(widget.size(), QImage.Format.Format_RGB32)
    image.fill(0)
    widget.render(image, QPoint())
    return image


def columns_of(image: QImage, colour: str, row: int) -> list[int]:
    wanted = LIMESTONE.colour(colour).rgb()
    return [x for x in range(image.width()) if image.pixel(x, row) == wanted]


def test_bodies_stand_in_lanes_that_keep_them_apart() -> None:
    ends = np.array([[0, 10], [10, 20], [5, 15], [0, 30], [21, 25.0]])
    lanes = _lanes(ends)
    assert lanes == [0, 0, 1, 2, 0]
    for a in range(5):
        for b in range(a):
            overlap = ends[a, 0] < ends[b, 1] and ends[b, 0] < ends[a, 1]
            assert not (overlap and lanes[a] == lanes[b])


def test_the_curve_is_a_ruler_with_the_plane_and_the_slab_on_it(qtbot: object) -> None:
    ruler = AreaCurveRuler(LIMESTONE)
    ruler.resize(424, 100)
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 40)))
    ruler.show_range(0.0, 40.0)
    ruler.show_curve(area_along([mesh], np.array([0, 0, 1.0])))
    ruler.show_position(Cut.across(2, 10.0), LIMESTONE)
    assert columns_of(picture(ruler), "accent", 40) == pytest.approx([ruler.x_of(10) - 1, ruler.x_of(10)], abs=1.1)
    plain = picture(ruler)
    ruler.show_position(Cut.across(2, 10.0).model_copy(update={"depth": 5.0}), LIMESTONE)
    slab = picture(ruler)
    changed = [x for x in range(424) if slab.pixel(x, 40) != plain.pixel(x, 40)]
    assert (changed[0], changed[-1]) == pytest.approx((ruler.x_of(5), ruler.x_of(10)), abs=2)
    moved = []
    ruler.moved.connect(moved.append)
    QTest.mousePress(ruler, Qt.MouseButton.LeftButton, pos=QPoint(int(ruler.x_of(30)), 50))
    QTest.mousePress(ruler, Qt.MouseButton.LeftButton, pos=QPoint(900, 50))
    assert moved[0] == pytest.approx(30, abs=0.2) and moved[1] == 40.0


def test_a_kept_picture_is_drawn_anew_only_when_it_has_changed(qtbot: object) -> None:
    drawn = []
    widget, kept = QWidget(), KeptPicture()
    widget.resize(30, 20)

    def draw(painter: QPainter) -> None:
        drawn.append(painter.device())

    for made_of in ((1, "a"), (1, "a"), (1, "b"), (1, "b")):
        kept.of(widget, made_of, draw)
    assert len(drawn) == 2
    widget.resize(40, 20)
    assert kept.of(widget, (1, "b"), draw).width() == 40 and len(drawn) == 3


def test_a_figure_that_is_exact_takes_one_line(qtbot: object) -> None:
    exact, unsure = (
        FigureRow(LIMESTONE, "diameter", "12.000 mm", "exact"),
        FigureRow(LIMESTONE, "diameter", "12.000 mm", "± 0.02 mm"),
    )
    assert exact.sizeHint().height() < unsure.sizeHint().height() and unsure.accessibleName() == "diameter 12.000 mm ± 0.02 mm"
    exact.resize(240, 24)
    exact.setChecked(True)
    assert picture(exact).pixel(120, 12) == LIMESTONE.colour("line").rgb()


@pytest.mark.parametrize("palette", [LIMESTONE, SLATE])
def test_the_flat_cut_wears_both_themes_and_both_sides(qtbot: object, palette: Palette) -> None:
    profile = FlatProfile(palette)
    profile.resize(300, 200)
    profile.word(Wording("inch", 2))
    mesh = zoo.mesh_of(zoo.t_slot())
    for normal in ((0, -1, 0), (0, 1, 0), (0, 0, 1)):
        section = cut([mesh], Plane(np.array([20.0, 10, 6]), np.array(normal, dtype=float)))
        profile.show_cut(SimpleNamespace(section=section, cut=1, outlines=outlines_of(section), exact=None), palette)  # type: ignore[arg-type]
        middle = profile.from_widget(QPointF(150, 100))
        assert profile.to_widget(middle[None])[0] == pytest.approx((150, 100))
        assert picture(profile).pixel(2, 2) != 0
    up = _upright(Plane(np.zeros(3), np.array([0, -1.0, 0])))
    u, v = Plane(np.zeros(3), np.array([0, -1.0, 0])).frame()
    assert up[0] @ [u[0], v[0]] == pytest.approx(1), "seen from the front X runs to the right"
    assert up[1] @ [u[2], v[2]] == pytest.approx(1), "and Z up"


@pytest.mark.parametrize(("least", "step"), [(0.7, 1), (1.0, 1), (1.1, 2), (3, 5), (7, 10), (0.03, 0.05), (210, 500)])
def test_the_grid_has_round_steps(least: float, step: float) -> None:
    assert _round_step(least) == pytest.approx(step)
