"""Redraws docs/screenshots from the demo job: `make shots`."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, QSize, Qt
from PyQt6.QtGui import QImage, QMouseEvent, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QScrollArea

from gullyrise.desktop import launch

FOLDER = Path(__file__).parent / "screenshots"


def take_hold(window: object, grip: str, by: QPointF) -> None:
    """Takes a grip of the tray and drags it, without letting go."""
    bench = window.bench  # type: ignore[attr-defined]
    place = next(place for one, place in window.gizmo.seen().places() if one == grip)  # type: ignore[attr-defined]
    start, left, none = bench.to_widget(place), Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
    for kind, at, button in (
        (QEvent.Type.MouseButtonPress, start, left),
        (QEvent.Type.MouseMove, start + by / 2, none),
        (QEvent.Type.MouseMove, start + by, none),
    ):
        event = QMouseEvent(kind, at, bench.mapToGlobal(at), button, left, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(bench, event)


def cut_and_measure(window: object, keep: Callable[[str], None]) -> None:
    """The winch box cut along its shaft, the cut laid flat, and the way between two of its faces."""
    w: Any = window
    box = next(placed for placed in w.model.job.parts if placed.part.name == "winch_box")
    w.model.selection.select({box.id})
    w.do("view.selection")
    w.wait_until_idle(60)
    w.bench.moves.glide_to(w.bench.camera.looking(58, 24))
    w.do("cut.x")
    w.sections.move_to(float(box.ground.middle[0]))
    w.do("bodies.select-none")
    keep("cut")
    w.do("cut.profile")
    w.wait_until_idle(60)
    profile = w.area_strip.profile
    for outline, way in ((1, 1), (1, 6), (4, 1), (4, 3)):
        a, b, _ = w.sections.outlines[outline].ways()
        x, y = profile.to_widget(((a[way] + b[way]) / 2)[None])[0]
        QTest.mouseClick(profile, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
    QTest.mouseMove(profile, QPoint(profile.width() // 2, profile.height() // 2 + 60))
    keep("flat-profile")
    w.do("cut.off")
    w.do("measure.clicks")
    for place, heading in (((-13.5, -31.0, 20.0), 30), ((-13.5, 31.0, 20.0), 150)):
        w.bench.moves.glide_to(w.bench.camera.looking(heading, 24))
        w.wait_until_idle(60)
        at = w.bench.to_widget(box.placement.apply(np.array([place]))[0]).toPoint()
        QTest.mouseClick(w.bench, Qt.MouseButton.LeftButton, pos=at)
        w.wait_until_idle(60)
    w.bench.moves.glide_to(w.bench.camera.looking(60, 24))
    w.measure.point_at_leg(1)
    keep("measure")
    w.measure.clear()
    w.do("measure.clicks")


def judged_closely(window: object, names: dict[str, int], keep: Callable[[str], None]) -> None:
    """The pairs of the hinge, which is too tight, in the matrix; the mount plate on the mill, which cannot get into its
    groove."""
    w: Any = window
    w.model.selection.select({names["hinge_pawl"]})
    w.do("check.clearances")
    w.do("check.next-finding")
    w.do("check.matrix")
    w.wait_until_idle(60)
    w.matrix_panel.table.setCurrentCell(0, 1)
    keep("clearances")
    w.matrix_panel.hide()
    before = w.model.job.machine
    w.model.document.set_machine(next(machine for machine in w.model.job.library if machine.id == "alder-mill"))
    w.model.selection.select({names["mount_plate"]})
    w.do("check.access")
    w.wait_until_idle(200)
    w.do("check.next-finding")
    w.notifications.hide()
    keep("access")
    w.model.document.set_machine(before)
    w.wait_until_idle(200)


def looked_at(window: object) -> None:
    """Lives on until evidence is shown and its view is come to."""
    w: Any = window
    w.wait_until_idle(60)
    while w.navigation.evidence.view is None or w.bench.moves.gliding:
        QTest.qWait(20)
    w.wait_until_idle(60)


def reported(window: object) -> None:
    """The report beside the window, and a page of it as it prints."""
    w: Any = window
    w.do("record.report")
    while w.reporting.maker.busy:
        QTest.qWait(20)
    sheet = w.reporting.sheet
    sheet.grab().save(str(FOLDER / "report.png"))
    pages = range(sheet.document.pageCount())
    told = next(page for page in pages if "gap between" in sheet.document.getAllText(page).text())
    page = sheet.document.render(told, QSize(905, 1280))
    paper = QImage(page.size(), QImage.Format.Format_RGB32)
    paper.fill(Qt.GlobalColor.white)
    with QPainter(paper) as painter:
        painter.drawImage(0, 0, page)
    paper.save(str(FOLDER / "report-page.png"))
    print("report, report-page")
    sheet.hide()


def main() -> int:
    FOLDER.mkdir(exist_ok=True)
    for place in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME"):
        os.environ[place] = tempfile.mkdtemp()
    application, window = launch([])

    def keep(name: str) -> None:
        if not window.wait_until_idle(240):
            raise SystemExit(f"{name}: the window did not come to rest")
        window.first_steps.end()
        window.grab().save(str(FOLDER / f"{name}.png"))
        print(name)

    def put_away() -> None:
        window.opening.keep_recent()
        window.model.document.remove({placed.id for placed in window.model.job.parts})
        window.wait_until_idle(60)

    window.opening.open_demo("faults")
    window.wait_until_idle(240)
    window.do("view.isometric")
    window.do("view.all")
    trap = next(placed.id for placed in window.model.job.parts if placed.part.name == "silt_trap")
    window.model.selection.select({trap})
    window.wait_until_idle(60)
    window.parts_controller.step_fault(trap, "crossing-faces")
    window.panels.left.setSizes([150, 470])
    window.wait_until_idle(60)
    bar = window.report.findChild(QScrollArea).verticalScrollBar()
    bar.setValue(bar.maximum())
    keep("receiving-report")
    window.do("check.none")
    window.panels.reset()
    window.do("bodies.select-none")
    window.do("view.isometric")
    window.do("view.all")
    window.wait_until_idle(60)
    put_away()
    window.opening.open_demo("assembly")
    window.wait_until_idle(240)
    window.do("view.isometric")
    window.do("view.all")
    window.do("parts.list")
    window.parts_panel.table.selectRow(1)
    window.panels.left.setSizes([330, 290])
    keep("parts-list")
    window.do("parts.list")
    window.do("bodies.select-none")
    window.panels.reset()
    window.wait_until_idle(60)
    cut_and_measure(window, keep)
    put_away()
    keep("start")
    window.do("job.demo")
    window.wait_until_idle(240)
    window.do("view.isometric")
    keep("demo")
    names = {placed.part.name: placed.id for placed in window.model.job.parts}
    window.notifications.hide()
    window.model.selection.select({names["sensor_shroud"]})
    window.do("check.walls")
    window.do("view.selection")
    keep("walls")
    window.do("check.next-finding")
    looked_at(window)
    keep("evidence")
    window.navigation.evidence.leave()
    window.wait_until_idle(20)
    window.do("view.isometric")
    window.model.selection.select({names["clamp_saddle"]})
    window.do("check.overhangs")
    window.do("check.next-finding")
    looked_at(window)
    keep("overhangs")
    window.navigation.evidence.leave()
    reported(window)
    judged_closely(window, names, keep)
    window.do("check.none")
    window.do("place.slip")
    window.panels.left.setSizes([120, 0, 500])
    window.model.selection.select({names["sensor_shroud"]})
    window.do("view.isometric")
    window.wait_until_idle(60)
    take_hold(window, "carry", QPointF(34, -30))
    keep("placing")
    window.bench.drop_tool()
    window.model.selection.select({names["gland_nut"]})
    window.placement.copy(40)
    window.do("place.arrange")
    while window.model.document.history.undo_name != "Arrange the bed":
        application.processEvents()
    window.do("bodies.select-none")
    window.do("view.isometric")
    window.wait_until_idle(60)
    window.notifications.hide()
    keep("full-bed")
    window.do("job.undo")
    window.do("job.undo")
    window.do("place.machines")
    window.machines.sheet.refresh("alder-mill")
    window.wait_until_idle(60)
    window.machines.sheet.grab().save(str(FOLDER / "machines.png"))
    print("machines")
    window.machines.sheet.hide()
    window.do("place.slip")
    window.panels.reset()
    window.do("bodies.select-none")
    window.do("view.isometric")
    window.wait_until_idle(20)
    window.family_bar.open("V")
    keep("key-card")
    window.family_bar.close_card()
    window.do("bodies.select-none")
    window.do("display.theme")
    window.do("view.isometric")
    keep("slate")
    window.close()
    application.processEvents()
    return 0


if __name__ == "__main__":
    sys.exit(main())
