"""Bodies that are like the chosen ones, by name, size or shape, and how far the others are from one."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Box
from gullyrise.core.report.parts_list import bare
from gullyrise.desktop.features.selection import text
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.workers.work import FindAlike, FindNear

_SAME_SIZE = 0.01


def choose_by_name(model: Workbench) -> None:
    """Chooses every body that has the name of a chosen one, however numbered."""
    copies = model.copies()
    names = {bare(copies[key][1].name).casefold() for key in model.selection.bodies}
    model.selection.select_bodies({key for key, (_, body, _) in copies.items() if bare(body.name).casefold() in names})


def choose_by_size(model: Workbench) -> None:
    """Chooses every body whose own box has the size of a chosen one's within a hundredth of a mm, in any order of axes."""
    if not model.ready.boxes():
        return
    keys, sizes = zip(*((key, np.sort(box.size)) for key, box in model.ready.boxes().items()), strict=True)
    table = np.array(sizes)
    same = np.zeros(len(keys), dtype=bool)
    for key, size in zip(keys, sizes, strict=True):
        if key in model.selection.bodies:
            same |= np.abs(table - size).max(axis=1) <= _SAME_SIZE
    model.selection.select_bodies({keys[number] for number in np.flatnonzero(same)})


def choose_by_shape(model: Workbench) -> None:
    """Chooses every body that is a turned or moved copy of the chosen one, whatever its name. In the background."""
    copies = model.copies()
    first = copies[min(model.selection.bodies)][1].mesh
    others = {id(body.mesh): body.mesh for _, body, _ in copies.values() if body.mesh is not first}
    meshes = (first, *others.values())

    def found(answers: tuple[bool, ...]) -> None:
        like = [mesh for mesh, yes in zip(meshes, answers, strict=True) if yes]
        keys = {key for key, (_, body, _) in model.copies().items() if any(body.mesh is mesh for mesh in like)}
        model.selection.select_bodies(keys)
        model.document.said.emit(text.HAVE_THIS_SHAPE.format(len(keys), "body has" if len(keys) == 1 else "bodies have"), False)

    model.aside(FindAlike(meshes), found)


def peel(model: Workbench) -> None:
    """Makes ready to peel neighbours away by their distance from the chosen body: at once by their boxes, then by what is
    measured in the background."""
    copies, number = model.copies(), model.job.number
    centre = min(model.selection.bodies)
    order = [centre, *(key for key in copies if key != centre)]
    places = {key: copies[key][2].then(copies[key][0].placement) for key in order}
    boxes = {key: Box.of(places[key].apply(box.corners())) for key, box in model.ready.boxes().items()}
    if centre in boxes:
        model.shown.look(model.shown.visibility.around(centre, {key: _between(boxes[centre], box) for key, box in boxes.items()}))

    def found(distances: tuple[float, ...]) -> None:
        if model.shown.visibility.centre in (None, centre) and model.job.number == number:
            model.shown.look(model.shown.visibility.measured(centre, dict(zip(order, distances, strict=True))))

    model.aside(FindNear(tuple((copies[key][1].mesh, places[key]) for key in order)), found)


def _between(a: Box, b: Box) -> float:
    """The distance of two boxes, mm; 0 where they meet."""
    return float(np.linalg.norm(np.maximum(np.maximum(a.low - b.high, b.low - a.high), 0.0)))
