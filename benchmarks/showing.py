"""How long findings take to show themselves: evidence views composed, and the report of jobs made beside the window."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from PyQt6.QtTest import QTest

from benchmarks.timing import Ratio, best
from gullyrise.core.checks.protocol import Finding
from gullyrise.core.evidence.composing import compose
from gullyrise.core.evidence.room import Room
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.machines.library import machine_named
from gullyrise.core.part import Body, Part

_MIDDLE = np.array([60.0, 60.0, 50.0])


def shell(triangles: int) -> Part:
    """A sphere shell of 50 and 49 mm radius."""
    count = int(np.sqrt(triangles / 4)) + 1
    balls = []
    for radius, out in ((50.0, True), (49.0, False)):
        made = trimesh.creation.uv_sphere(radius, count=[count, count])
        faces = np.asarray(made.faces, dtype=np.int32)
        balls.append(Mesh(np.asarray(made.vertices), faces if out else faces[:, ::-1]))
    return Part("shell", "shell.stl", "stl", "mm", "assumed", (Body("shell", "mesh", merged(balls), (Transform.identity(),)),))


def findings() -> Iterator[Finding]:
    """One of each way of being shown, on and in the shell."""

    def spot(place: np.ndarray) -> tuple[float, float, float]:
        return float(place[0]), float(place[1]), float(place[2])

    out = np.array([0.3, 0.5, 0.8]) / np.linalg.norm([0.3, 0.5, 0.8])
    a, b = spot(_MIDDLE + 50 * out), spot(_MIDDLE + 49 * out)
    down = np.array([[0.1, 0.1, -0.99], [0.2, 0.1, -0.97], [0.0, 0.1, -0.99]])
    yield Finding("wall", 1.0, "mm", a, code="thin", shown="across", ends=(a, b), ball=(spot(_MIDDLE + 49.5 * out), 0.5))
    yield Finding("gap", 1.0, "mm", a, code="gap", shown="across", ends=(a, b))
    for radius, way in ((50, 1), (49, -1)):
        around = _MIDDLE + radius * way * down
        yield Finding("hanging", 80.0, "°", spot(around[0]), 100.0, code="overhang", shown="below", around=around)
    inside = _MIDDLE + 49 * np.array([out, out + 0.1])
    yield Finding("hidden", 9.0, "mm²", b, 9.0, code="hidden", shown="tool", along=(0.0, 0.0, 1.0), around=inside)
    yield Finding("rim", 3.0, "edges", b, code="open-edge", around=inside)


def composing() -> Iterator[Ratio]:
    """The slowest of six kinds, blocks made beforehand as the bench has them; and the first, which makes the rest of what rays
    want."""
    mill = machine_named("alder-mill")
    for triangles, wanted in ((100_000, 0.15), (1_000_000, 0.6)):
        room = Room.of_part(shell(triangles), Transform.moved(_MIDDLE), mill)
        every = list(findings())
        start = time.perf_counter()
        compose(every[-1], room, tuple(mill.tool))
        first = time.perf_counter() - start
        slowest = max(best(partial(compose, one, room, tuple(mill.tool))) for one in every)
        name = f"evidence view, {triangles:,} triangles"
        yield Ratio(f"{name}, the first, against {wanted:g} s", first, wanted, "at most 1")
        yield Ratio(f"{name}, the slowest kind, against {wanted:g} s", slowest, wanted, "at most 1")


def reports() -> Iterator[Ratio]:
    """From the action to the pages, everything judged: the demo job, and 200 parts with a fault each."""
    from gullyrise.desktop import launch

    folder = Path(tempfile.mkdtemp())
    for number in range(200):
        block = trimesh.creation.box((20, 12, 4 + 0.02 * number))
        # A face is missing from every part, another one each time.
        block.update_faces(np.arange(len(block.faces)) != number % 12)
        block.export(folder / f"lid_{number:03}.stl")
    demo, many = ["--demo"], [str(path) for path in sorted(folder.glob("*.stl"))]
    for words, name, wanted in ((demo, "the demo job", 15.0), (many, "200 parts", 120.0)):
        _, window = launch(words)
        yield Ratio(f"report of {name}, against {wanted:g} s", _report(window), wanted, "at most 1")
        window.close()


def _report(window: Any) -> float:
    if not window.wait_until_idle(900):
        raise RuntimeError("the window did not come to rest")
    start = time.perf_counter()
    window.do("record.report")
    while window.reporting.maker.busy:
        QTest.qWait(20)
    if window.reporting.maker.made is None:
        raise RuntimeError(window.reporting.maker.trouble)
    window.reporting.sheet.close()
    return time.perf_counter() - start


def all_of() -> Iterator[Ratio]:
    """Every benchmark here."""
    yield from composing()
    yield from reports()
