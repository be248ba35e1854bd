"""Placing: two hundred copies in the hand, collisions told meanwhile, sixty mixed parts arranged, fits that are turned."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from typing import Any

import numpy as np
import trimesh
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication

from benchmarks.timing import Ratio, best
from gullyrise.core.geometry import Mesh
from gullyrise.core.machines.library import default_machine
from gullyrise.core.placing.colliding import Stand, Yard
from gullyrise.core.placing.packing import Packed, Thing, Wishes, arrange
from gullyrise.core.placing.turning import Room, best_turn
from gullyrise.demo import FILES

_LEFT = Qt.MouseButton.LeftButton


def _mesh(made: Any) -> Mesh:
    return Mesh(np.asarray(made.vertices), np.asarray(made.faces))


def sixty() -> list[Thing]:
    """Blocks, cylinders, balls and angle pieces of 8 to 48 mm."""
    rng = np.random.default_rng(1)
    out = []
    for number in range(60):
        a, b, c = rng.uniform(8, 34, 3)
        if number % 4 == 0:
            made = trimesh.creation.box((a, b, c))
        elif number % 4 == 1:
            made = trimesh.creation.cylinder(a / 2, b)
        elif number % 4 == 2:
            made = trimesh.creation.icosphere(3, a / 2)
        else:
            leg = trimesh.creation.box((5, 1.4 * b, 5)).apply_translation((0.7 * a, 0.7 * b, 0))
            made = trimesh.util.concatenate([trimesh.creation.box((1.4 * a, 5, 5)), leg])
        out.append(Thing(number, _mesh(made)))
    return out


def arranging() -> Iterator[Ratio]:
    """Against the five seconds that it may take, and in area against the best of ten shuffles."""
    things, machine = sixty(), default_machine()
    limits, wishes = machine.full_limits(), Wishes(3.0)
    start = time.perf_counter()
    found = arrange(things, machine, limits, wishes, [])
    yield Ratio("arranging 60 mixed parts, against 5 s", time.perf_counter() - start, 5.0, "1", f"{found.bed_count} bed(s)")
    areas = [_area(found)]
    for seed in range(10):
        shuffled = [things[n] for n in np.random.default_rng(seed).permutation(len(things))]
        areas.append(_area(arrange(shuffled, machine, limits, wishes, [])))
    yield Ratio("area of that, against the best of ten shuffles", areas[0], min(areas[1:]), "1.1", unit="mm²")


def _area(packed: Packed) -> float:
    return float(np.prod(packed.covered)) + 1e5 * (packed.bed_count - 1) + 1e6 * len(packed.left)


def colliding() -> Ratio:
    """All collisions among 200 copies, trees built beforehand on both sides."""
    made = trimesh.load(FILES / "gland_nut.stl", force="mesh")
    rng = np.random.default_rng(4)
    matrices = []
    for _ in range(200):
        place = trimesh.transformations.random_rotation_matrix(rng.random(3))
        place[:3, 3] = rng.uniform(0, 200, 3) * [1, 1, 0.1]
        matrices.append(place)
    yard = Yard()
    yard.take("nut", [_mesh(made)])
    stands = [Stand(n, "nut", tuple(matrix.ravel().tolist())) for n, matrix in enumerate(matrices)]
    manager = trimesh.collision.CollisionManager()
    for number, matrix in enumerate(matrices):
        manager.add_object(str(number), made, transform=matrix)
    theirs = manager.in_collision_internal(return_names=True)[1]
    ours = yard.pairs(stands)
    assert {tuple(sorted(map(int, pair))) for pair in theirs} <= set(ours)

    def again() -> None:
        for number, matrix in enumerate(matrices):
            manager.set_transform(str(number), matrix)
        manager.in_collision_internal(return_names=True)

    return Ratio(
        "collisions among 200 copies, against the library's manager", best(lambda: yard.pairs(stands)), best(again), "none"
    )


def turning() -> Iterator[Ratio]:
    """A bar that fits only from corner to corner, and one that never does, against 20,000 turns tried blindly."""
    room = Room(220, 220, 250, False)
    tries = trimesh.transformations.random_rotation_matrix
    rng = np.random.default_rng(2)
    turns = np.array([tries(rng.random(3))[:3, :3] for _ in range(20_000)])
    for length, words in ((390.0, "found"), (399.0, "proved impossible")):
        corners = trimesh.creation.box((length, 5, 5)).vertices

        def blindly(corners: np.ndarray = corners) -> None:
            np.ptp(np.einsum("kij,mj->kmi", turns, corners), axis=1).max()

        found = best_turn(corners, room)
        assert found.excess <= 0 or found.proved
        mine = best(lambda corners=corners: best_turn(corners, room), 2)
        yield Ratio(f"a bar of {length:.0f} mm {words}, against 20,000 blind turns", mine, best(blindly), "none")


def dragging() -> Iterator[Ratio]:
    """Frames and collisions while parts are dragged over a bed of 200, in the real window."""
    from gullyrise.desktop import launch
    from gullyrise.desktop.features.placement import text

    _, window = launch([str(FILES / "gland_nut.stl")])
    window.resize(1280, 800)
    window.wait_until_idle(120)
    window.do("place.slip")
    window.model.selection.select({window.model.job.parts[0].id})
    window.settings.set("place.gap", 1.0)
    window.placement.copy(199)
    window.do("place.arrange")
    while window.model.document.history.undo_name != text.ARRANGE:
        QApplication.processEvents()
        time.sleep(0.005)
    window.wait_until_idle(240)
    parts = window.model.job.parts
    for words, chosen in (("one", parts[5:6]), ("all", parts)):
        window.model.selection.select({one.id for one in chosen})
        window.scene.bring_in_step()
        window.wait_until_idle(60)
        frames, answers = _dragged(window)
        yield Ratio(f"frame while {words} of 200 copies is dragged, against 50 ms", frames, 0.05, "1")
        yield Ratio(f"collisions told while {words} of 200 is dragged, against 100 ms", answers, 0.1, "1")
    window.close()


def _dragged(window: Any) -> tuple[float, float]:
    """(median seconds between pictures, median seconds from a move to its collisions) over some seconds of dragging."""
    bench = window.bench
    start = bench.to_widget(next(place for grip, place in window.gizmo.seen().places() if grip == "carry"))

    def mouse(kind: QEvent.Type, at: QPointF, button: Qt.MouseButton, held: Qt.MouseButton) -> None:
        event = QMouseEvent(kind, at, bench.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(bench, event)

    mouse(QEvent.Type.MouseButtonPress, start, _LEFT, _LEFT)
    companion, asked = window.collisions.companion, {}
    gaps, waits = [], []
    frames, answered, last = bench.pictures.drawn, companion.answered, time.perf_counter()
    end = last + 6
    step = 0
    while time.perf_counter() < end:
        step += 1
        at = start + QPointF(60 * np.sin(step / 15), 30 * np.cos(step / 11) - 30)
        moved = time.perf_counter()
        mouse(QEvent.Type.MouseMove, at, Qt.MouseButton.NoButton, _LEFT)
        asked[window.collisions.asked] = moved
        while True:
            QApplication.processEvents()
            now = time.perf_counter()
            if bench.pictures.drawn != frames:
                gaps.append(now - last)
                last, frames = now, bench.pictures.drawn
            if companion.answered != answered:
                answered = companion.answered
                waits += [now - asked[answered]] if answered in asked else []
            if now > moved + 0.016:
                break
            time.sleep(0.001)
    mouse(QEvent.Type.MouseButtonRelease, at, _LEFT, Qt.MouseButton.NoButton)
    window.do("job.undo")
    return statistics.median(gaps), statistics.median(waits)


def all_of() -> Iterator[Ratio]:
    yield from arranging()
    yield colliding()
    yield from turning()
    yield from dragging()
