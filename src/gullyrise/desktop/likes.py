"""Bodies that are like the chosen ones, by name, size or shape, and how far the others are from one."""

from __future__ import annotations

import re

import numpy as np

from gullyrise.desktop.bench_job import BenchJob
from gullyrise.desktop.sight import Key
from gullyrise.workers.work import FindAlike, FindNear

_SAME_SIZE = 0.01


def choose_by_name(model: BenchJob) -> None:
    """Chooses every body that has the name of a chosen one, however numbered."""
    copies = model.copies()
    names = {bare(copies[key][1].name) for key in model.bodies}
    model.select_bodies({key for key, (_, body, _) in copies.items() if bare(body.name) in names})


def bare(name: str) -> str:
    """A body's name without the number that tells it from others of that name."""
    return re.sub(r"\s*[\[(]\d+[\])]$", "", name).casefold()


def choose_by_size(model: BenchJob) -> None:
    """Chooses every body whose own box has the size of a chosen one's within a hundredth of a mm, in any order of axes."""
    sizes = {key: _own_size(model, key) for key in model.copies()}
    wanted = [sizes[key] for key in model.bodies]
    model.select_bodies(
        {key for key, size in sizes.items() if any(np.allclose(size, one, rtol=0, atol=_SAME_SIZE) for one in wanted)}
    )


def _own_size(model: BenchJob, key: Key) -> np.ndarray:
    prepared = model.prepared_of(key)
    if prepared is None:
        return np.full(3, np.nan)
    return np.sort(prepared.blocks.high.max(axis=0) - prepared.blocks.low.min(axis=0))


def choose_by_shape(model: BenchJob) -> None:
    """Chooses every body that is a turned or moved copy of the chosen one, whatever its name. In the background."""
    copies = model.copies()
    first = copies[min(model.bodies)][1].mesh
    others = {id(body.mesh): body.mesh for _, body, _ in copies.values() if body.mesh is not first}
    meshes = (first, *others.values())

    def found(answers: tuple[bool, ...]) -> None:
        like = [mesh for mesh, yes in zip(meshes, answers, strict=True) if yes]
        keys = {key for key, (_, body, _) in model.copies().items() if any(body.mesh is mesh for mesh in like)}
        model.select_bodies(keys)
        model.said.emit(f"{len(keys)} {'body has' if len(keys) == 1 else 'bodies have'} this shape.", False)

    model.aside(FindAlike(meshes), found)


def peel(model: BenchJob) -> None:
    """Makes ready to peel neighbours away by their distance from the chosen body. Measured in the background."""
    copies = model.copies()
    centre = min(model.bodies)
    order = [centre, *(key for key in copies if key != centre)]
    bodies = tuple((copies[key][1].mesh, copies[key][2].then(copies[key][0].placement)) for key in order)

    def found(distances: tuple[float, ...]) -> None:
        model.look(model.sight.around(centre, dict(zip(order, distances, strict=True))))

    model.aside(FindNear(bodies), found)
