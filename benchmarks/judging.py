"""The checks at 10,000, 100,000 and 1,000,000 triangles against the plain library way, in one run; how each grows."""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import numpy as np
import trimesh
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from benchmarks.timing import Ratio, best
from gullyrise.core.checks import overhangs, wall_webs, walls
from gullyrise.core.checks.protocol import Snapshot
from gullyrise.core.gaps.between import between
from gullyrise.core.gaps.by_face import gaps_of_faces
from gullyrise.core.gaps.pieces import Piece
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.ball import shrink_balls
from gullyrise.core.geometry.nearest import Surface, Tree
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.reentrant import inside_edges
from gullyrise.core.geometry.sampling import spread
from gullyrise.core.geometry.topology import edges_of
from gullyrise.core.machines.library import default_machine
from gullyrise.core.part import Body, Part
from gullyrise.core.progress import silent
from gullyrise.core.support.regions import overhang_angles

SIZES = (10_000, 100_000, 1_000_000)


def shell(triangles: int, wall: float = 3.0) -> Mesh:
    """A thin round shell of about so many triangles."""
    count = int(np.sqrt(triangles / 8)) + 1
    outer, inner = (trimesh.creation.uv_sphere(radius, count=[count, count]) for radius in (30.0, 30.0 - wall))
    inner.invert()
    both = trimesh.util.concatenate([outer, inner])
    return Mesh(np.asarray(both.vertices), np.asarray(both.faces))


def snapshot(mesh: Mesh) -> Snapshot:
    part = Part("shell", "shell.stl", "stl", "mm", "assumed", (Body("shell", "mesh", mesh, (Transform.identity(),)),))
    return Snapshot(part, Transform.identity(), default_machine(), ())


def grown(title: str, times: list[float]) -> str:
    """How the time goes with the size, as a power of it."""
    powers = [np.log(b / a) / np.log(10) for a, b in pairwise(times)]
    return f"{title}: " + ", ".join(f"{seconds:.3f} s" for seconds in times) + f"; grows as size to the {powers[-1]:.2f}"


def by_size() -> Iterator[Ratio | str]:
    through, angles, regions = [], [], []
    for size in SIZES:
        mesh = shell(size)
        scene = RayScene(mesh)
        start, along = mesh.centroids() - mesh.normals() * 1e-4, -mesh.normals()
        scene.bare_first_hits(start[:10], along[:10])
        theirs = best(lambda: scene.bare_first_hits(start, along))  # noqa: B023
        mine = best(lambda: scene.through(mesh.centroids(), mesh.normals()))  # noqa: B023
        through.append(mine)
        yield Ratio(f"through, every face, {len(mesh.faces):,} triangles, against bare rays", mine, theirs, "at most 2")

        def plain(mesh: Mesh = mesh) -> float:
            """One pass of NumPy over the normals: how much surface looks down by more than 45 degrees."""
            a, b, c = (mesh.vertices[mesh.faces[:, k]] for k in range(3))
            cross = np.cross(b - a, c - a)
            length = np.linalg.norm(cross, axis=1)
            return float(length[-cross[:, 2] > np.sin(np.radians(45)) * length].sum() / 2)

        def ours(mesh: Mesh = mesh) -> None:
            fresh = Mesh(mesh.vertices, mesh.faces)
            overhang_angles(fresh)
            fresh.face_areas()

        theirs = best(plain)
        angles.append(best(ours))
        yield Ratio(
            f"overhang angles and areas, {len(mesh.faces):,} triangles, against one pass", angles[-1], theirs, "at most 3"
        )
        shot = snapshot(mesh)
        regions.append(best(lambda: overhangs.run(shot, overhangs.Limits(45.0, 1.0), silent), 1))  # noqa: B023
        yield Ratio("  the same with regions, columns, bridges and tips", regions[-1], theirs, "-")
    yield grown("through", through)
    yield grown("overhang angles", angles)
    yield grown("overhangs in full", regions)


def balls() -> Iterator[Ratio | str]:
    mesh = shell(1_000_000)
    scene, surface = RayScene(mesh), Surface(mesh)
    times = []
    for count in (200_000, 1_000_000):
        samples = spread(mesh, count, every_face=False)
        straight = scene.through(samples.points, samples.normals).distance
        seeds = samples.points - samples.normals * (straight / 2)[:, None]
        theirs = best(lambda: surface.nearest(seeds), 1)  # noqa: B023
        mine = best(lambda: shrink_balls(scene, surface, samples.points, samples.normals, 9.0), 1)  # noqa: B023
        times.append(mine)
        yield Ratio(f"balls, {count:,} samples of 1M triangles, against one nearest query of seeds", mine, theirs, "at most 6")
    yield f"balls: {times[0]:.2f} s, {times[1]:.2f} s; five times the samples take {times[1] / times[0]:.2f} times as long"
    shot, limits = snapshot(mesh), walls.Limits(0.8, None, 0.2)
    yield Ratio(
        "first look at 1M triangles, in its process, against 1 s", best(lambda: walls.first_look(shot, limits), 1), 1.0, "1"
    )


def pitted(triangles: int) -> Mesh:
    """A plate whose upper side is pits all over, so that most of its edges bend inwards."""
    n = int(np.sqrt(triangles / 4))
    x, y = np.meshgrid(np.arange(n + 1) * 0.2, np.arange(n + 1) * 0.2, indexing="ij")
    deep = 4 - 0.15 * ((np.arange(n + 1)[:, None] % 2) * (np.arange(n + 1)[None] % 2))
    upper = np.column_stack([x.reshape(-1), y.reshape(-1), deep.reshape(-1)])
    lower = upper * (1, 1, 0)
    i, j = np.meshgrid(np.arange(n), np.arange(n), indexing="ij")
    a = (i * (n + 1) + j).reshape(-1)
    b, c, d = a + n + 1, a + n + 2, a + 1
    top = np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    count = len(upper)
    border = np.concatenate(
        [np.arange(n) * (n + 1), n * (n + 1) + np.arange(n), (np.arange(n, 0, -1)) * (n + 1) + n, np.arange(n, 0, -1)]
    )
    ahead = np.roll(border, -1)
    walls_ = np.concatenate(
        [np.column_stack([border + count, ahead + count, ahead]), np.column_stack([border + count, ahead, border])]
    )
    faces = np.concatenate([top, top[:, ::-1] + count, walls_])
    return Mesh(np.concatenate([upper, lower]), faces)


def webs() -> Iterator[Ratio | str]:
    """Nearest questions for each place that is asked, and the time beside the check without them."""
    mesh = pitted(1_000_000)
    asked = {"questions": 0, "seeds": 0}
    plain_nearest, plain_shrink = Surface.nearest, wall_webs.shrink_balls

    def nearest(self: Surface, points: np.ndarray) -> object:
        asked["questions"] += len(points)
        return plain_nearest(self, points)

    def shrink(scene: object, surface: object, points: np.ndarray, *rest: object) -> object:
        asked["seeds"] += len(points)
        return plain_shrink(scene, surface, points, *rest)  # type: ignore[arg-type]

    agreed = outward(mesh)
    edges = edges_of(agreed)
    inside = inside_edges(agreed, edges)
    scene, surface = RayScene(agreed), Surface(agreed)
    Surface.nearest, wall_webs.shrink_balls = nearest, shrink  # type: ignore[method-assign, assignment]
    try:
        start = time.perf_counter()
        wall_webs.webs_in(agreed, edges, inside, scene, surface, 2.4, 0.8, silent)
        mine = time.perf_counter() - start
    finally:
        Surface.nearest, wall_webs.shrink_balls = plain_nearest, plain_shrink  # type: ignore[method-assign]
    yield Ratio(
        f"nearest questions a seed, {len(inside.edge):,} inside edges of {len(mesh.faces):,} triangles",
        asked["questions"], asked["seeds"], "at most 6", unit="of them",
    )  # fmt: skip
    shot = snapshot(mesh)
    whole = best(lambda: walls.run(shot, walls.Limits(0.8, None, 0.0), silent), 1)
    yield Ratio("  webs of it against the whole check of walls", mine, whole, "-")


def gaps() -> Iterator[Ratio | str]:
    for size in SIZES[:2] + (500_000,):
        count = int(np.sqrt(size / 4)) + 1
        made = trimesh.creation.uv_sphere(20.0, count=[count, count])
        a = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
        b = a.placed(Transform.moved(np.array([41.0, 0.3, 0.2])))
        theirs = best(lambda: Tree(a).gap_to(Tree(b)), 1)  # noqa: B023
        mine = best(lambda: between(Piece("a", a, 0, None), Piece("b", b, 1, None)), 1)  # noqa: B023
        yield Ratio(f"smallest gap, 2 x {len(a.faces):,} triangles, against fcl's tree and query", mine, theirs, "at most 1.5")
    one, other = Piece("a", a, 0, None), Piece("b", b, 1, None)
    for piece in (one, other):
        piece.surface.nearest(np.zeros((1, 3)))
    theirs = best(lambda: other.surface.nearest(a.centroids()), 1) * 2
    mine = best(lambda: gaps_of_faces([one, other], [len(a.faces), len(b.faces)], 5.0), 1)
    yield Ratio("gap map of both under 5 mm, against uncapped nearest queries", mine, theirs, "at most 0.1")


def in_the_window(folder: Path) -> Iterator[Ratio | str]:
    """A limit changed by hand in the real window, and work cancelled, at a million triangles."""
    from gullyrise.desktop import launch

    path = folder / "shell.stl"
    mesh = shell(1_000_000)
    trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).export(path)
    application, window = launch([str(path)])
    window.wait_until_idle(600)
    for check, name, values in (("walls", "min_wall", (0.9, 1.0, 1.1)), ("overhangs", "overhang_angle", (50.0, 60.0, 70.0))):
        window.traveller.show_check(check)
        window.wait_until_idle(600)
        taken = []
        for value in values:
            start = time.perf_counter()
            window.model.document.set_limit(name, value)
            while True:
                application.processEvents()
                view = window.traveller.rows[check].view
                (item,) = window.bench.scene.items
                if not view.stale and view.limit == value and item.scale is not None and item.scale.limit == value:
                    break
                time.sleep(0.001)
            taken.append(time.perf_counter() - start)
            window.wait_until_idle(600)
        yield Ratio(f"a limit of {check} changed, until stamp, findings and colours follow", float(np.median(taken)), 0.1, "1")
    window.model.document.set_limit("max_wall", 2.0)
    end = time.perf_counter() + 60
    while not window.model.idle and time.perf_counter() < end and not any(e.begun for e in window.tasks.under_way):
        QTest.qWait(5)
    QTest.qWait(1500)
    start = time.perf_counter()
    window.do("work.cancel")
    QTest.mouseMove(window.bench, QPoint(300, 200))
    QTest.keyClick(window.bench, Qt.Key.Key_Home)
    yield Ratio("checks of 1M triangles cancelled, the window ready again", time.perf_counter() - start, 0.2, "1")
    window.close()


def whole_check(folder: Path) -> Iterator[Ratio | str]:
    """`gullyrise check` of a million triangles with all checks of a printer: its processes' memory together."""
    path = folder / "whole.stl"
    mesh = shell(1_000_000)
    trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).export(path)
    start = time.perf_counter()
    run = subprocess.Popen(
        [sys.executable, "-m", "gullyrise", "check", str(path), "--json", str(folder / "whole.json")],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    most = 0.0
    while run.poll() is None:
        most = max(most, sum(_resident(pid) for pid in _family(run.pid)))
        time.sleep(0.05)
    yield f"check of {len(mesh.faces):,} triangles, all checks: {time.perf_counter() - start:.1f} s"
    yield Ratio("  its processes' memory at most", most / 1e9, 2.5, "1", unit="GB")


def _family(pid: int) -> list[int]:
    out = [pid]
    children = Path(f"/proc/{pid}/task/{pid}/children")
    if children.exists():
        for child in children.read_text().split():
            out += _family(int(child))
    return out


def _resident(pid: int) -> float:
    """Bytes of memory of a process, shared pages dealt out among those that share them."""
    try:
        lines = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
    except OSError:
        return 0.0
    return sum(float(line.split()[1]) * 1024 for line in lines if line.startswith("Pss:"))


def all_of() -> Iterator[Ratio | str]:
    yield from by_size()
    yield from balls()
    yield from webs()
    yield from gaps()
    with tempfile.TemporaryDirectory() as folder:
        yield from whole_check(Path(folder))
        yield from in_the_window(Path(folder))
    yield f"memory of this run at most: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.1f} GB"
