"""No choice without effect: every action of looking, showing and choosing, and every setting, changes what is seen or done."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import strokes
import trimesh
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from waiting import until

from conftest import as_opened
from gullyrise.desktop.app import all_actions
from gullyrise.desktop.pointer.schemes import READY
from gullyrise.desktop.preferences.rows import ROWS
from gullyrise.drawing.palette import LIMESTONE, SLATE


def two_blocks_and_a_ball(path: Path) -> str:
    pieces = [
        ("block", trimesh.creation.box((30, 20, 10)), (0, 0, 5)),
        ("ball", trimesh.creation.icosphere(3, 9), (20, 35, 9)),
        ("block (2)", trimesh.creation.box((30, 20, 10)), (40, 0, 5)),
    ]
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
    return long_lived(two_blocks_and_a_ball(tmp_path_factory.mktemp("parts") / "pieces.obj"))


@pytest.fixture
def made(opened: Any) -> Any:
    """The first block chosen and pointed at."""
    as_opened(opened)
    opened.panels.reset()
    for panel in (opened.view_shelf, opened.key_card):
        panel.hide()
    item = opened.bench.scene.items[0]
    opened.model.selection.select_bodies({item.key})
    opened.scene.bring_in_step()
    strokes.hover(opened.bench, opened.bench.to_widget(item.box.middle + np.array([5.0, 3, item.box.size[2] / 2])))
    return opened


def state(window: Any) -> list[Any]:
    """All that an action of looking, showing or choosing may change."""
    window.scene.bring_in_step()
    bench = window.bench
    cameras = [
        (pane.name, *pane.camera.target.round(9), pane.camera.heading, pane.camera.elevation, pane.camera.span, pane.camera.roll,
         pane.camera.parallel, pane.camera.field, pane.camera.stretch)
        for pane in bench.panes.shown
    ]  # fmt: skip
    shown = [
        panel.isVisible()
        for panel in (
            window.parts_panel,
            window.report,
            window.traveller,
            window.area_strip,
            window.head,
            window.view_shelf,
            window.key_card,
        )
    ]
    return [
        cameras, shown, window.scene.display, window.model.shown.visibility, window.model.selection.bodies,
        window.model.selection.features, bench.clicks.kind,
        bench.hand.next_left, bench.magnifier.held, bench.dial.isVisible(), bench.dial.field.isVisible(), window.model.job,
        [window.settings[row.id] for row in ROWS], window.sections.cuts, window.sections.active, window.sections.handle_shown,
        window.sections.sweep.running, window.profile.large, bench.aim.pointer,
    ]  # fmt: skip


FIRST = {
    "view.all": ["view.nearer"],
    "view.isometric": ["view.front"],
    "view.after": ["view.front", "view.before"],
    "view.before": ["view.front"],
    "view.enlarge": ["view.four"],
    "view.quarter-up": ["view.front"],
    "display.shaded": ["display.wireframe"],
    "display.no-stretch": ["display.stretch-z"],
    "bodies.show-all": ["bodies.hide"],
    "bodies.pick-bodies": ["bodies.pick-faces"],
    "panels.reset": ["panels.sides"],
    "cut.flip": ["cut.x"],
    "cut.off": ["cut.x"],
    "cut.close": ["cut.x"],
    "cut.next": ["cut.x", "cut.more"],
    "cut.handle": ["cut.x"],
    "cut.slab": ["cut.x"],
    "cut.sweep": ["cut.x"],
    "cut.profile": ["cut.x"],
    "cut.chosen": ["cut.x"],
    "display.bodies-own": ["display.bodies-plain"],
    "panels.strip": ["cut.x"],
    "bodies.press": ["bodies.select-none"],
    "bodies.press-more": ["bodies.pick-faces"],
    **{
        f"bodies.walk-{way}": ["bodies.pick-corners"]
        for way in ("left", "right", "up", "down", "next", "before", "round", "back")
    },
}
"""What has to be done before an action has something to do."""
ELSEWHERE = ("cut.points", "cut.axis", "cut.export", "cut.split", "cut.whole")
"""Tried in test_cuts.py, with what they need."""
TRIED = sorted(
    id
    for id, entry in all_actions().items()
    if entry.group in ("view", "display", "bodies", "panels", "cut") and id not in ("bodies.remove", *ELSEWHERE)
)


@pytest.mark.parametrize("id", TRIED)
def test_no_action_is_without_effect(made: Any, id: str) -> None:
    for first in FIRST.get(id, []):
        made.do(first)
    before = state(made)
    made.do(id)
    end = time.monotonic() + 120
    while state(made) == before:
        assert time.monotonic() < end, "nothing came of it"
        QTest.qWait(5)
    if id == "cut.handle":
        made.do(id)
    made.sections.close_all()
    made.finder.clear()
    for _ in made.model.job.views:
        made.do("job.undo")


def test_what_is_hidden_is_not_chosen_with_all(made: Any) -> None:
    (hidden,) = made.model.selection.bodies
    made.do("bodies.hide")
    made.do("bodies.select-all")
    assert len(made.model.selection.bodies) == 2 and hidden not in made.model.selection.bodies
    made.do("bodies.invert")
    assert made.model.selection.bodies == frozenset()


def drag(window: Any, button: str = "right") -> Any:
    window.do("view.isometric")
    strokes.drag(window.bench, {button}, QPointF(window.bench.rect().center()), QPointF(60, 25))
    return window.bench.camera


def wheel(window: Any) -> float:
    window.do("view.isometric")
    strokes.wheel(window.bench, QPointF(window.bench.rect().center()), 2)
    return float(window.bench.camera.span)


def look(window: Any) -> QImage:
    window.bench.dial.leaveEvent(None)
    window.scene.bring_in_step()
    assert window.wait_until_idle(240)
    picture = QImage(window.bench.dial.size(), QImage.Format.Format_ARGB32)
    picture.fill(0)
    window.bench.dial.render(picture, QPoint())
    return picture


def test_every_row_of_the_settings_is_tried_here() -> None:
    # Those of placing are tried in test_placing.py.
    tried_of_placing = {"place.step", "place.turn_step", "place.gap", "place.outline", "place.turning"}
    tried = tried_of_placing | {
        "pointer.own",
        "view.glide",
        "display.strokes",
        "record.folder",
        "keys.changed",
        "looks.theme",
        "select.rectangle",
    }
    # Who reports are by and for, and their paper, in test_report.py.
    tried |= {"report.by", "report.for", "report.paper"}
    # How views with a name are drawn in test_looking.py.
    tried |= {"view.named"}
    tried |= {"dial.shown", "dial.corner", "dial.size", "dial.faded", "view.field", "pointer.scheme", "pointer.turning"}
    # Those of files and parts are tried where files are received: test_receiving.py and test_parts.py.
    tried |= {"files.memory", "files.seconds", "files.watch", "files.recent", "parts.columns", "parts.list_columns"}
    # Those of cutting and measuring in test_cuts.py and test_measuring_by_hand.py.
    tried |= {"cut.speed", "cut.arcs", "measure.unit", "measure.digits", "measure.axes"}
    tried |= {"pointer.turn_speed", "pointer.slide_speed", "pointer.zoom_speed"}
    tried |= {"pointer.invert_zoom", "pointer.invert_heading", "pointer.invert_elevation"}
    # How bodies are told apart in test_family_bar.py and here, by their actions.
    tried |= {"display.bodies"}
    assert tried == {row.id for row in ROWS}


@pytest.mark.parametrize(
    ("id", "value"),
    [("pointer.turn_speed", 2.0), ("pointer.invert_heading", True), ("pointer.invert_elevation", True), ("pointer.scheme", "pen"),
     ("pointer.own", [["roll", "right drag"]])],
)  # fmt: skip
def test_settings_of_turning_turn_otherwise(made: Any, id: str, value: Any) -> None:
    usual = drag(made)
    if id == "pointer.own":
        made.settings.set("pointer.scheme", "own")
    made.settings.set(id, value)
    changed = drag(made)
    if id == "pointer.turn_speed":
        assert (changed.heading - 45) % 360 == pytest.approx(2 * (usual.heading - 45) % 360)
        assert changed.elevation - 35.2644 == pytest.approx(2 * (usual.elevation - 35.2644), abs=1e-3) or changed.elevation == 90
    elif id == "pointer.invert_heading":
        assert (changed.heading - 45) % 360 == pytest.approx((45 - usual.heading) % 360) and changed.elevation == usual.elevation
    elif id == "pointer.invert_elevation":
        assert changed.elevation - 35.2644 == pytest.approx(35.2644 - usual.elevation, abs=1e-3)
    elif id == "pointer.scheme":
        assert READY["pen"].match("stroke", frozenset({"left"}), frozenset()) is not None
        strokes.drag(made.bench, {"left"}, QPointF(made.bench.rect().center()), QPointF(60, 25), pen=True)
        assert not made.bench.camera.same_view(changed)
    else:
        assert changed.roll != 0 and changed.heading == pytest.approx(45)


def test_free_turning_does_not_hold_the_vertical(made: Any) -> None:
    made.settings.set("pointer.turning", "free")
    assert drag(made).roll != 0
    made.settings.set("pointer.turning", "upright")
    assert drag(made).roll == 0


def test_settings_of_sliding_and_zooming(made: Any) -> None:
    def slid() -> float:
        made.do("view.isometric")
        start = made.bench.camera.target
        strokes.drag(made.bench, {"middle"}, QPointF(made.bench.rect().center()), QPointF(60, 0))
        return float(np.linalg.norm(made.bench.camera.target - start))

    made.do("view.isometric")
    usual, whole, nearer = slid(), made.bench.camera.span, wheel(made)
    made.settings.set("pointer.slide_speed", 2.0)
    assert slid() == pytest.approx(2 * usual)
    made.settings.set("pointer.invert_zoom", True)
    assert nearer < whole < wheel(made)
    made.settings.set("pointer.invert_zoom", False)
    made.settings.set("pointer.zoom_speed", 2.0)
    assert wheel(made) < nearer


def test_gliding_takes_its_time_or_none(made: Any) -> None:
    made.settings.set("view.glide", 400)
    before = made.bench.camera.name()
    made.do("view.back")
    until(lambda: made.bench.camera.name() != before)
    assert made.bench.camera.name() == "Free", "on its way"
    assert made.wait_until_idle(30) and made.bench.camera.name() == "Back"
    made.settings.set("view.glide", 0)
    made.do("view.left")
    assert made.bench.camera.name() == "Left"


@pytest.mark.parametrize(
    ("id", "value"), [("dial.size", 1.6), ("dial.faded", 0.3), ("dial.corner", "bottom left"), ("dial.shown", False)]
)
def test_settings_of_the_dial(made: Any, id: str, value: Any) -> None:
    before, place = look(made), made.bench.dial.geometry()
    made.settings.set(id, value)
    dial = made.bench.dial
    if id == "dial.shown":
        assert not dial.isVisible()
    elif id == "dial.corner":
        assert dial.geometry() != place and look(made) == before
    else:
        assert look(made) != before


def test_settings_of_the_picture(made: Any, tmp_path: Path) -> None:
    made.settings.set("view.field", 60)
    assert all(pane.camera.field == 60 for pane in (made.bench.panes.free, *made.bench.panes.flat))
    made.settings.set("display.strokes", True)
    made.scene.bring_in_step()
    QTest.keyClick(made.bench, Qt.Key.Key_Right)
    assert made.bench.stroke_words.words
    made.settings.set("looks.theme", "Slate")
    assert made.appearance.palette is SLATE
    made.settings.set("looks.theme", "Limestone")
    assert made.appearance.palette is LIMESTONE
    made.settings.set("select.rectangle", "inside")
    assert not made.bench.strokes.touching and "inside" in made.pick_bar.way.text()
    made.settings.set("record.folder", str(tmp_path / "here"))
    made.do("record.picture")
    assert made.wait_until_idle(240) and len(list((tmp_path / "here").glob("*.png"))) == 1
    made.settings.set("keys.changed", {"view.underside": ["Ctrl+Shift+U"]})
    QTest.keyClick(made.bench, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert made.bench.camera.name() == "Underside"
