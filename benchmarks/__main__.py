"""Runs every benchmark and prints its ratio: ours, the plain library way, and what was wanted."""

from __future__ import annotations

import itertools
import os
import sys
import tempfile
from pathlib import Path

import numpy as np
import trimesh

from benchmarks import cutting, getting_round, judging, living, placing, receiving, showing
from benchmarks.timing import Ratio, best
from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.ball import shrink_balls
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import spread


def shell(inside: float = 17.0) -> trimesh.Trimesh:
    """A sphere shell of 20 and `inside` mm radius, about 20,000 triangles."""
    outer, inner = trimesh.creation.uv_sphere(20.0, count=[51, 51]), trimesh.creation.uv_sphere(inside, count=[51, 51])
    inner.invert()
    return trimesh.util.concatenate([outer, inner])


def ours(mesh: trimesh.Trimesh) -> Mesh:
    return Mesh(np.asarray(mesh.vertices), np.asarray(mesh.faces))


def ball_walls(inside: float, asked: int) -> Ratio:
    """Per sample under a ceiling of 9 mm, trees built beforehand on both sides where the library allows it. How long the library
    takes hangs on how far from the surface its balls begin: `asked` samples of it are enough."""
    made = shell(inside)
    mesh = ours(made)
    scene, surface = RayScene(mesh), Surface(mesh)
    many = spread(mesh, 20_000, every_face=False)
    few = many.take(np.linspace(0, len(many.points) - 1, asked).astype(int))
    shrink_balls(scene, surface, few.points, few.normals, 9.0)
    mine = best(lambda: shrink_balls(scene, surface, many.points, many.normals, 9.0)) / len(many.points)
    theirs = best(lambda: trimesh.proximity.thickness(made, few.points, normals=few.normals, method="max_sphere"), 1) / asked
    return Ratio(f"ball walls a sample, shell of {20 - inside:g} mm, against the library", mine, theirs, "at most 0.001")


def through_walls() -> Ratio:
    """The straight distance against bare first hits of the same rays, both on a scene that is ready."""
    mesh = ours(trimesh.creation.icosphere(8, 60.0))
    scene = RayScene(mesh)
    samples = spread(mesh, 1_000_000, every_face=False)
    start, along = samples.points - samples.normals * 1e-4, -samples.normals
    scene.bare_first_hits(start[:10], along[:10])
    theirs = best(lambda: scene.bare_first_hits(start, along))
    mine = best(lambda: scene.through(samples.points, samples.normals))
    return Ratio("through walls, 1.3M triangles, 1M rays, against bare first hits", mine, theirs, "at most 3")


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        # Windows begin as on the first day, and leave nothing with whoever runs this.
        for place in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME"):
            os.environ[place] = str(Path(folder) / place)
        for run in (
            lambda: ball_walls(17.0, 300),
            lambda: ball_walls(5.0, 60),
            through_walls,
        ):
            print(run().line(), flush=True)
        for ratio in receiving.all_of(Path(folder)):
            print(ratio.line(), flush=True)
        print(receiving.info_of_200(Path(folder)).line(), flush=True)
        every = (getting_round.all_of(), living.all_of(), cutting.all_of(), placing.all_of(), showing.all_of())
        for ratio in itertools.chain(*every):
            print(ratio.line(), flush=True)
        for one in judging.all_of():
            print(one if isinstance(one, str) else one.line(), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
