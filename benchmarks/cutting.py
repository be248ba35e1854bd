"""Cutting large parts: a plane dragged through them in the real window, the area along an axis, and measures taken."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication

from benchmarks.timing import Ratio, best
from gullyrise.core.cutting import cut
from gullyrise.core.cutting.along import area_along
from gullyrise.core.cutting.fill import filled
from gullyrise.core.geometry import Mesh, Plane
from gullyrise.core.geometry.blocks import blocks_of

_LEFT, _NONE = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
_STATIONS = 200


def ball() -> trimesh.Trimesh:
    """1,310,720 triangles."""
    return trimesh.creation.icosphere(8, 60.0)


def area_curve() -> Ratio:
    """200 stations along an axis against the library's multi-plane call."""
    made = ball()
    mesh = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
    heights = np.linspace(-59.5, 59.5, _STATIONS)
    theirs = best(lambda: made.section_multiplane([0, 0, 0], [0, 0, 1], heights), 1)
    mine = best(lambda: area_along([mesh], np.array([0.0, 0.0, 1.0]), _STATIONS))
    return Ratio("area curve of 200 stations, 1.3M triangles, against the library", mine, theirs, "at most 0.033")


def cut_face() -> Iterator[Ratio]:
    """One plane, measured and filled, against the library's section of the same mesh."""
    made = ball()
    mesh = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
    blocks, plane = blocks_of(mesh), Plane(np.array([1.0, 2, 3]), np.array([1.0, 2, 3]))
    theirs = best(lambda: made.section(plane.normal, plane.point).to_2D()[0].area, 1)
    yield Ratio("section with its figures, 1.3M triangles, against the library", best(lambda: cut([mesh], plane)), theirs, "1")
    yield Ratio("the same filled for the picture, from blocks", best(lambda: filled(mesh, blocks, plane)), theirs, "1")


def dragging() -> Iterator[Ratio]:
    """Pictures while a plane with its filled face is dragged through 1.3M triangles by its grip, window of 1280 x 800."""
    from gullyrise.desktop import launch

    path = Path(tempfile.mkdtemp()) / "ball.stl"
    ball().export(path)
    _, window = launch([str(path)])
    window.resize(1280, 800)
    window.wait_until_idle(240)
    window.model.cancel_all()
    for words, alone in (("beside the panels", False), ("with the bench alone", True)):
        if alone:
            window.do("panels.bench-alone")
        window.do("cut.y")
        window.wait_until_idle(240)
        gaps = _dragged(window)
        yield Ratio(f"frame while a cut is dragged through 1.3M triangles {words}, against 60 ms", gaps, 0.06, "1")
    window.close()


def _dragged(window: Any) -> float:
    """Median seconds between pictures over some seconds of dragging."""
    bench = window.bench
    start = bench.to_widget(dict(window.plane_handle.places())["slide"])

    def mouse(kind: QEvent.Type, at: QPointF, button: Qt.MouseButton, held: Qt.MouseButton) -> None:
        event = QMouseEvent(kind, at, bench.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(bench, event)

    mouse(QEvent.Type.MouseButtonPress, start, _LEFT, _LEFT)
    gaps: list[float] = []
    frames, last = bench.pictures.drawn, time.perf_counter()
    end, step, at = last + 6, 0, start
    while time.perf_counter() < end:
        step += 1
        moved = time.perf_counter()
        at = start + QPointF(50 * np.sin(step / 15), 18 * np.sin(step / 15))
        mouse(QEvent.Type.MouseMove, at, _NONE, _LEFT)
        while True:
            QApplication.processEvents()
            now = time.perf_counter()
            if bench.pictures.drawn != frames:
                gaps.append(now - last)
                last, frames = now, bench.pictures.drawn
            if now > moved + 0.016:
                break
            time.sleep(0.001)
    mouse(QEvent.Type.MouseButtonRelease, at, _LEFT, _NONE)
    return statistics.median(gaps)


def all_of() -> Iterator[Ratio]:
    yield area_curve()
    yield from cut_face()
    yield from dragging()
