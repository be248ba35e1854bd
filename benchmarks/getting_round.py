"""Getting round large parts in software drawing: frames in motion, the pick under the pointer, a bench at rest.

Each is set against the plain way in the same run: all triangles drawn, every triangle asked, a program that only sleeps.
"""

from __future__ import annotations

import statistics
import tempfile
import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import trimesh
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from benchmarks.timing import Ratio, best
from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Mesh
from gullyrise.core.machines.library import default_machine
from gullyrise.core.picking.pointing import Finder
from gullyrise.core.picking.prepared import prepared
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.drawing.renderer import Renderer
from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.scene import Item, Scene

SIZE = (1280, 800)


def two_million() -> Scene:
    """A ball and a half, 1,966,080 triangles in one body."""
    balls = [trimesh.creation.icosphere(8, 60.0), trimesh.creation.icosphere(7, 42.0), trimesh.creation.icosphere(7, 30.0)]
    made = trimesh.util.concatenate(balls)
    mesh = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
    item = Item((1, 0), "balls", mesh, np.eye(4), mesh.box, False, prepared=prepared(mesh, None))
    return Scene((item,), default_machine(), LIMESTONE)


def five_hundred() -> Scene:
    """500 rings of 2,000 triangles, each a body of its own."""
    items = []
    for number in range(500):
        made = trimesh.creation.torus(4, 1.5, major_sections=40, minor_sections=25)
        mesh = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
        place = np.eye(4)
        place[:3, 3] = 10 * (number % 22), 10 * (number // 22), 5
        box = mesh.box
        items.append(
            Item((number, 0), "ring", mesh, place, replace(box, low=box.low + place[:3, 3], high=box.high + place[:3, 3]), False,
                 prepared=prepared(mesh, None))
        )  # fmt: skip
    return Scene(tuple(items), default_machine(), LIMESTONE)


class Drawing:
    """The bench's own drawing thread, asked for one picture after the other."""

    def __init__(self, scene: Scene) -> None:
        self._scene = scene
        self._got = threading.Event()
        self._renderer = Renderer(self._take, print)
        self._renderer.start()
        self._camera = Camera(np.zeros(3)).framing(scene.parts_box or scene.box, *SIZE)
        self._number = 0

    def _take(self, frame: Frame) -> None:
        self._got.set()

    def frame(self, moving: bool) -> float:
        """Seconds from the request, such as a mouse move makes it, to the picture in memory."""
        self._number += 1
        camera = replace(self._camera, heading=self._number * 3.0)
        self._got.clear()
        start = time.perf_counter()
        # A lens of one picture: no second picture for pointing is drawn behind it.
        self._renderer.ask(Request(self._scene, camera, *SIZE, moving, self._number, "free", (0.0, 0.0, 1.0)))
        self._got.wait()
        return time.perf_counter() - start

    def end(self) -> None:
        self._renderer.end()
        self._renderer.join()


def turning(title: str, scene: Scene) -> Ratio:
    """Frames in motion against all triangles."""
    drawing = Drawing(scene)
    full = statistics.median([drawing.frame(False) for _ in range(6)][2:])
    taken = sorted([drawing.frame(True) for _ in range(80)][10:])
    drawing.end()
    p95 = taken[int(0.95 * len(taken))]
    return Ratio(
        f"median frame at 1280x800 turning {title}, against all",
        statistics.median(taken),
        full,
        "at most 40 ms",
        f"p95 {p95 * 1000:.0f} ms of 80",
    )


def picking(title: str, scene: Scene) -> Ratio:
    """The pick under the pointer, exact, against asking every triangle of the first body."""
    finder = Finder(scene)
    camera = Camera(np.zeros(3)).framing(scene.parts_box or scene.box, *SIZE)
    rng = np.random.default_rng(3)
    rays = [camera.ray(*place, *SIZE, reach=1e4) for place in rng.uniform((400, 200), (880, 600), size=(40, 2)).tolist()]
    finder.first(*rays[0])
    mine = best(lambda: [finder.first(*ray) for ray in rays]) / len(rays)
    mesh = scene.items[0].mesh
    triangles = mesh.triangles()

    def every(origin: np.ndarray, direction: np.ndarray) -> None:
        u, v = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
        across = np.cross(direction, v)
        volume = np.einsum("ij,ij->i", u, across)
        away = origin - triangles[:, 0]
        first = np.einsum("ij,ij->i", away, across) / volume
        second = np.cross(away, u) @ direction / volume
        np.flatnonzero((first >= 0) & (second >= 0) & (first + second <= 1))

    with np.errstate(divide="ignore", invalid="ignore"):
        theirs = best(lambda: every(*rays[0]), 2) * len(scene.items)
    return Ratio(f"pick under the pointer, {title}, against every triangle", mine, theirs, "at most 15 ms")


def at_rest() -> Ratio:
    """Processor time of a bench at rest with the demo's float well, against the same time of sleeping in Qt's loop alone."""
    from gullyrise.demo import FILES
    from gullyrise.desktop import launch

    _, window = launch([str(FILES / "float_well.stl")])
    window.wait_until_idle(120)

    def spent(seconds: float) -> float:
        start = time.process_time()
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            QTest.qWait(500)
        return (time.process_time() - start) / seconds

    spent(1)
    mine = spent(5)
    window.close()
    QApplication.processEvents()
    return Ratio(
        "processor share of a bench at rest, against Qt's loop alone", mine, max(spent(5), 1e-6), "at most 0.01 of a core"
    )


def rest_picture() -> Ratio:
    """From the last touch of the view to the whole picture of a bench at rest, soft shade and all, with a part of a million
    triangles in the real window; against a picture in which every triangle is drawn once."""
    from gullyrise.desktop import launch
    from gullyrise.desktop.starting import end

    balls = trimesh.util.concatenate([trimesh.creation.icosphere(7, radius) for radius in (60.0, 42.0, 30.0)])
    with tempfile.TemporaryDirectory() as folder:
        path = str(Path(folder) / "million.stl")
        balls.export(path)
        _, window = launch([path])
        window.resize(*SIZE)
        until = time.monotonic() + 120
        while not window.model.ready.prepared and time.monotonic() < until:
            QTest.qWait(20)
        window.model.cancel_all()
        window.wait_until_idle(240)
        taken = []
        for turn in range(9):
            window.bench.moves.swing(10.0 * turn, 20.0, glide=False)
            QTest.qWait(30)
            window.bench.moves.swing(10.0 * turn + 3.0, 20.0, glide=False)
            start = time.perf_counter()
            while not (window.bench.is_current and window.bench.moves.at_rest):
                QTest.qWait(2)
            taken.append(time.perf_counter() - start)
        drawing = Drawing(window.bench.scene)
        plain = statistics.median([drawing.frame(False) for _ in range(6)][2:])
        drawing.end()
        end(window)
    return Ratio(
        "picture at rest, 1.0M triangles, after the last touch, against all drawn once", statistics.median(taken[2:]), plain,
        "at most 0.3 s", f"slowest {max(taken[2:]) * 1000:.0f} ms",
    )  # fmt: skip


def all_of() -> Iterator[Ratio]:
    big, many = two_million(), five_hundred()
    yield turning("2.0M triangles", big)
    yield turning("500 bodies", many)
    yield picking("2.0M triangles", big)
    yield picking("500 bodies", many)
    yield at_rest()
    yield rest_picture()
