"""Choosing and seeing bodies in the real window: clicks, rectangles, likes, hiding, fading, peeling."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import strokes
import trimesh
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from waiting import until

from conftest import as_opened


def rows_of_blocks(path: Path) -> str:
    """Three blocks behind one another, a turned copy of the first under another name, and a ball apart."""
    pieces = [(f"block {number + 1}", trimesh.creation.box((20, 4, 10)), (0, 12.0 * number, 5)) for number in range(3)]
    pieces += [("lath", trimesh.creation.box((4, 20, 10)), (40, 10, 5)), ("ball", trimesh.creation.icosphere(3, 6), (60, 10, 6))]
    lines, first = [], 1
    for name, mesh, place in pieces:
        lines.append(f"o {name}")
        lines += [f"v {x:.9f} {y:.9f} {z:.9f}" for x, y, z in mesh.vertices + np.array(place)]
        lines += [f"f {a} {b} {c}" for a, b, c in mesh.faces + first]
        first += len(mesh.vertices)
    path.write_text("\n".join(lines))
    return str(path)


@pytest.fixture(scope="module")
def opened(long_lived: Any, tmp_path_factory: pytest.TempPathFactory) -> Any:
    return long_lived(rows_of_blocks(tmp_path_factory.mktemp("parts") / "rows.obj"))


@pytest.fixture
def made(opened: Any) -> Any:
    as_opened(opened)
    opened.do("view.front")
    opened.do("view.projection")
    assert opened.wait_until_idle(240)
    return opened


def names(window: Any, keys: Any = None) -> list[str]:
    copies = window.model.copies()
    return sorted(copies[key][1].name for key in (window.model.selection.bodies if keys is None else keys))


def seen(window: Any) -> list[str]:
    window.scene.bring_in_step()
    return names(window, [item.key for item in window.bench.scene.items])


def key_of(window: Any, name: str) -> tuple[int, int]:
    return next(key for key, (_, body, _) in window.model.copies().items() if body.name == name)


def at(window: Any, name: str) -> QPointF:
    """Where the middle of a body lies in the picture."""
    window.scene.bring_in_step()
    return window.bench.to_widget(next(item for item in window.bench.scene.items if item.key == key_of(window, name)).box.middle)


def test_a_click_takes_the_foremost_and_clicked_again_the_next_behind(made: Any) -> None:
    place = at(made, "block 1")
    found = []
    for _ in range(4):
        strokes.click(made.bench, place)
        found += names(made)
    assert found == ["block 1", "block 2", "block 3", "block 1"]
    assert [row.text(0) for row in made.parts_panel.tree.selectedItems()] == ["block 1"] and made.parts_panel.tree.topLevelItem(
        0
    ).isExpanded()
    strokes.click(made.bench, at(made, "lath"), keys=("ctrl",))
    assert names(made) == ["block 1", "lath"]
    strokes.click(made.bench, at(made, "lath"), keys=("ctrl",))
    strokes.click(made.bench, QPointF(10, made.bench.height() - 120))
    assert names(made) == [], "a click on nothing chooses nothing"


def test_the_tree_chooses_bodies_on_the_bench(made: Any) -> None:
    top = made.parts_panel.tree.topLevelItem(0)
    top.setExpanded(True)
    child = next(top.child(n) for n in range(top.childCount()) if top.child(n).text(0) == "ball")
    made.parts_panel.tree.clearSelection()
    child.setSelected(True)
    assert names(made) == ["ball"]
    made.scene.bring_in_step()
    assert [item.name for item in made.bench.scene.items if item.selected] == ["rows: ball"]


def test_hovering_names_and_lights_what_a_click_would_take(made: Any) -> None:
    strokes.hover(made.bench, at(made, "ball"))
    assert "rows: ball" in made.status.pointer.text() and "left click selects rows: ball" in made.status.hint.text()
    before = made.bench.grab().toImage()
    strokes.hover(made.bench, at(made, "lath"))
    assert made.bench.grab().toImage() != before


@pytest.mark.parametrize(("way", "wanted"), [("touching", ["ball", "lath"]), ("inside", ["lath"])])
def test_a_rectangle_takes_what_it_touches_or_what_lies_inside(made: Any, way: str, wanted: list[str]) -> None:
    if way == "inside":
        QTest.mouseClick(made.pick_bar.way, Qt.MouseButton.LeftButton)
    assert made.pick_bar.way.text() == f"Rectangle: {way}"
    start, end = at(made, "lath") + QPointF(-40, -80), at(made, "ball") + QPointF(3, 60)
    strokes.drag(made.bench, {"left"}, start, end - start)
    assert names(made) == wanted
    strokes.drag(made.bench, {"left"}, end, start - end)
    assert names(made) == wanted, "whichever way it is drawn"


def test_a_small_rectangle_within_a_face_touches_it(made: Any) -> None:
    strokes.drag(made.bench, {"left"}, at(made, "lath") - QPointF(4, 4), QPointF(8, 8))
    assert names(made) == ["lath"]
    made.settings.set("select.rectangle", "inside")
    strokes.drag(made.bench, {"left"}, at(made, "lath") - QPointF(4, 4), QPointF(8, 8))
    assert names(made) == []


def test_the_hint_line_says_what_a_click_does_in_every_mode(made: Any) -> None:
    hint = made.status.hint
    made.do("view.all")
    assert made.wait_until_idle(60)
    middle, beside = at(made, "block 1"), QPointF(4, made.bench.height() - 4)
    for kind, one in (("body", "rows: block 1"), ("face", "a face of rows: block 1"), ("vertex", "")):
        QTest.mouseClick(made.pick_bar.buttons[kind], Qt.MouseButton.LeftButton)
        strokes.hover(made.bench, beside)
        assert hint.text().startswith("left click selects nothing · ")
        strokes.hover(made.bench, middle)
        assert hint.text().startswith(f"left click selects {one or 'nothing'} · ")
    QApplication.sendEvent(made.bench, QEvent(QEvent.Type.Leave))
    assert hint.text().startswith("left click selects · ")
    profile = made.area_strip.profile
    made.do("cut.z")
    assert made.wait_until_idle(60)
    strokes.hover(profile, QPointF(3, 3))
    assert hint.text().startswith("wheel zooms") and "orbits" not in hint.text()
    QApplication.sendEvent(profile, QEvent(QEvent.Type.Leave))
    assert hint.text().startswith("left click selects · ")
    numbers = {one.id for one in made.model.job.parts}
    made.model.document.edit("Remove all", lambda job: job.without(numbers))
    assert hint.text().startswith("Ctrl+O opens part files") and "orbits" not in hint.text()
    made.do("job.undo")
    assert hint.text().startswith("left click selects · ")


def test_faces_edges_and_corners_are_picked_by_click_and_rectangle(made: Any) -> None:
    made.do("view.projection")
    middle = at(made, "block 1")
    item = next(one for one in made.bench.scene.items if one.key == key_of(made, "block 1"))
    corner = made.bench.to_widget(np.array([item.box.high[0], item.box.low[1], item.box.high[2]]))
    inward = QPointF(-3, 3)
    QTest.mouseClick(made.pick_bar.buttons["face"], Qt.MouseButton.LeftButton)
    strokes.click(made.bench, middle)
    (face,) = made.model.selection.features
    assert face.kind == "face" and names(made) == ["block 1"]
    strokes.click(made.bench, middle)
    assert made.model.selection.features != (face,) and made.model.selection.features[0].key == face.key, (
        "next behind: the back of the same block"
    )
    made.do("bodies.pick-edges")
    assert made.model.selection.features == ()
    strokes.click(made.bench, middle)
    assert made.model.selection.features == (), "no edge within ten pixels"
    strokes.click(made.bench, (middle + corner) / 2 + QPointF(0, (corner.y() - middle.y()) / 2 + 3))
    assert made.model.selection.features[0].kind == "edge"
    made.do("bodies.pick-corners")
    strokes.click(made.bench, corner + inward)
    assert made.model.selection.features[0].kind == "vertex"
    strokes.drag(made.bench, {"left"}, middle - QPointF(300, 200), QPointF(300 + corner.x() - middle.x() + 8, 400))
    assert len(made.model.selection.features) == 24, "eight corners of each of three blocks, hidden ones too"
    made.scene.bring_in_step()
    made.bench.grab()


def test_hiding_only_these_and_show_all(made: Any) -> None:
    everything = seen(made)
    made.model.selection.select_bodies({key_of(made, "block 1"), key_of(made, "lath")})
    made.do("bodies.hide")
    assert seen(made) == ["ball", "block 2", "block 3"] and names(made) == [] and made.visibility_bar.isVisible()
    strokes.click(made.bench, at(made, "block 2"))
    assert names(made) == ["block 2"], "what is hidden cannot be clicked"
    made.do("bodies.only")
    opacity = {item.name: item.opacity for item in made.bench.scene.items}
    made.scene.bring_in_step()
    opacity = {item.name: item.opacity for item in made.bench.scene.items}
    assert opacity == {"rows: block 2": 1.0, "rows: block 3": 0.15, "rows: ball": 0.15}
    made.visibility_bar.fade.setValue(0)
    assert seen(made) == ["block 2"]
    made.visibility_bar.fade.setValue(60)
    made.scene.bring_in_step()
    assert {item.opacity for item in made.bench.scene.items} == {1.0, 0.6}
    assert made.model.job is made.model.document.history.job and made.model.document.history.undo_name == "Open rows.obj", (
        "no edit of the job"
    )
    QTest.keyClick(made.bench, Qt.Key.Key_B)
    QTest.keyClick(made.bench, Qt.Key.Key_S)
    assert seen(made) == everything and not made.visibility_bar.isVisible()


def test_seeing_through_some_and_choosing_the_others(made: Any) -> None:
    made.model.selection.select_bodies({key_of(made, "block 1")})
    made.do("bodies.see-through")
    made.scene.bring_in_step()
    assert [item.opacity < 1 for item in made.bench.scene.items] == [True, False, False, False, False]
    made.do("bodies.invert")
    assert names(made) == ["ball", "block 2", "block 3", "lath"]
    made.model.selection.select_bodies({key_of(made, "block 1")})
    made.do("bodies.see-through")
    made.scene.bring_in_step()
    assert {item.opacity for item in made.bench.scene.items} == {1.0}


def test_alike_by_shape_by_name_and_by_size(made: Any) -> None:
    made.model.selection.select_bodies({key_of(made, "block 1")})
    made.do("bodies.alike-shape")
    until(lambda: len(made.model.selection.bodies) > 1)
    assert names(made) == ["block 1", "block 2", "block 3", "lath"], "a turned block is one too"
    made.model.selection.select_bodies({key_of(made, "lath")})
    made.do("bodies.alike-size")
    assert names(made) == ["block 1", "block 2", "block 3", "lath"]
    made.model.selection.select_bodies({key_of(made, "ball")})
    made.do("bodies.alike-name")
    assert names(made) == ["ball"]
    made.model.selection.select_bodies({key_of(made, "ball"), key_of(made, "lath")})
    made.do("bodies.alike-shape")
    assert "needs one selected body; 2 are selected" in made.notifications.sentences[-1]


def test_neighbours_are_peeled_away_by_their_distance(made: Any) -> None:
    made.model.selection.select_bodies({key_of(made, "block 1")})
    made.do("bodies.peel")
    until(lambda: made.model.shown.visibility.centre is not None)
    gaps = {made.model.copies()[key][1].name: gap for key, gap in made.model.shown.visibility.distances.items()}
    assert gaps["block 1"] == 0 and gaps["block 2"] == pytest.approx(8) and gaps["block 3"] == pytest.approx(20)
    assert gaps["lath"] == pytest.approx(28, abs=1e-5) and gaps["ball"] > 40
    assert len(seen(made)) == 5, "nothing is peeled yet"
    slider = made.visibility_bar.within
    slider.setFocus()
    left = []
    for _ in range(slider.maximum()):
        QTest.keyClick(slider, Qt.Key.Key_Left)
        if not left or left[-1] != len(seen(made)):
            left.append(len(seen(made)))
    assert left == [5, 4, 3, 2, 1] or left == [4, 3, 2, 1], "the farthest first, the chosen one never"
    made.do("bodies.show-all")
    assert len(seen(made)) == 5


def test_hiding_does_not_move_the_view(made: Any) -> None:
    made.bench.moves.put_camera(made.bench.camera.slid(made.bench.camera.span, 0))
    before = made.bench.camera
    made.do("bodies.select-all")
    made.do("bodies.hide")
    made.scene.bring_in_step()
    assert made.bench.scene.items == ()
    made.do("bodies.show-all")
    made.scene.bring_in_step()
    assert made.bench.camera is before


def test_hidden_bodies_are_struck_out_in_the_tree(made: Any) -> None:
    made.model.selection.select_bodies({key_of(made, "ball")})
    made.do("bodies.hide")
    top = made.parts_panel.tree.topLevelItem(0)
    struck = [top.child(n).text(0) for n in range(top.childCount()) if top.child(n).font(0).strikeOut()]
    assert struck == ["ball"] and not top.font(0).strikeOut()


def test_a_cut_can_be_pointed_at(made: Any) -> None:
    made.do("view.front")
    made.scene.bring_in_step()
    from gullyrise.core.cutting.cuts import Cut

    bench = made.bench
    box = next(item for item in bench.scene.items if item.key == key_of(made, "lath")).box
    middle = float(box.middle[1])
    # What lies before the plane is gone: the ray meets the cut face, on the plane itself.
    bench.show_scene(replace(bench.scene, cuts=(Cut.across(1, middle, flipped=True),)))
    place = bench.to_widget(box.middle)
    (hit, *_) = bench.aim.hits((place.x(), place.y()))
    assert hit.on_cut and hit.point[1] == pytest.approx(middle) and bench.scene.items[hit.item].key == key_of(made, "lath")
    bench.show_scene(replace(bench.scene, cuts=()))


def test_a_body_that_is_not_ready_yet_is_picked_by_the_picture(made: Any) -> None:
    bench = made.bench
    kept = bench.scene.items
    bare = tuple(replace(item, prepared=None) for item in kept)
    bench.show_scene(replace(bench.scene, items=bare))
    assert made.wait_until_idle(240) and not bench.aim.finder.whole
    strokes.click(bench, at(made, "lath"))
    assert names(made) == ["lath"]
    bench.show_scene(replace(bench.scene, items=kept))
