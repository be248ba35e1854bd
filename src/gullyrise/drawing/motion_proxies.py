"""All bodies in one, from their stand-ins, for pictures in motion: few triangles, few things to draw, whatever stands there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from vtkmodules.vtkCommonDataModel import vtkPolyData
from vtkmodules.vtkFiltersCore import vtkBinnedDecimation
from vtkmodules.vtkRenderingCore import vtkActor, vtkRenderer

from gullyrise.core.geometry.reducing import Reduced
from gullyrise.drawing.actors import (
    actor_of,
    clip,
    colours_of,
    drawn_out,
    dress,
    hanging,
    matrix_of,
    opacity_of,
    paint,
    rgb,
    sides_of,
)
from gullyrise.drawing.arrays import from_vtk, poly_data
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.scene import Item, Scene

BUDGET = 60_000
"""Triangles of a picture in motion, about."""
_BINS = 72
_MOST_COLOURS = 12
_SMALL = 20_000


@dataclass(frozen=True, slots=True, eq=False)
class _Group:
    """Bodies in one actor.

    owner : (k,) item of each triangle
    colours : (k, 3 or 4), None for those of the theme
    coloured : a measure is shown
    sealed : from outside only the outsides of their faces are seen
    carried : they are in the hand, and are drawn where that has come
    cuts : numbers of those that go through them
    colour : of all of them, empty for that of the palette
    normals : (k, 3) of the triangles where they stand, not of length one
    """

    actor: vtkActor
    owner: np.ndarray
    colours: np.ndarray | None
    coloured: bool
    sealed: bool
    carried: bool
    cuts: tuple[int, ...]
    normals: np.ndarray
    colour: str


class MotionProxies:
    """An actor each of what is plain, what wears a measure and what lets see through, and the same of what is in the hand; made
    anew when bodies or their colours changed."""

    def __init__(self, renderer: vtkRenderer) -> None:
        self._renderer = renderer
        self._groups: list[_Group] = []
        self._made_of: list[tuple[Item, float]] = []
        self._palette: Palette | None = None
        self._in_hand: frozenset[int] = frozenset()
        self._only: tuple[object, ...] = ()
        self._in_step_with: tuple[Scene | None, tuple[float, float, float]] = (None, (1.0, 1.0, 1.0))
        self._binned: dict[int, tuple[object, Reduced]] = {}

    def keep_step(self, scene: Scene, stretch: tuple[float, float, float]) -> None:
        """Brings the actors in step with a scene; with the one of before there is nothing to do."""
        if (scene, stretch) == self._in_step_with:
            return
        self._in_step_with = (scene, stretch)
        made_of = [(item, opacity_of(item, scene.display)) for item in scene.items]
        in_hand = scene.carry.owners if scene.carry is not None else frozenset[int]()
        only = tuple(cut.only for cut in scene.cuts)
        as_before = scene.palette is self._palette and in_hand == self._in_hand and only == self._only
        if not as_before or not _same(made_of, self._made_of):
            self._palette, self._in_hand, self._only = scene.palette, in_hand, only
            self._make(scene)
        self._made_of = made_of
        plain = drawn_out(stretch)
        for group in self._groups:
            actor = group.actor
            cuts = tuple(scene.cuts[number] for number in group.cuts)
            dress(actor, scene.display, scene.palette, is_cut=bool(cuts), coloured=group.coloured, smooth=False, opacity=1.0,
                  colour=group.colour)  # fmt: skip
            actor.SetUserMatrix(matrix_of(plain @ scene.carry.move if group.carried and scene.carry is not None else plain))
            clip(actor, sides_of(cuts), stretch)
            if group.carried and group.coloured and scene.angles is not None and scene.carry is not None:
                paint(actor, scene.angles.colours(hanging(group.normals, scene.carry.move)))

    def show(self, shown: bool, *, from_outside: bool = False) -> None:
        """from_outside : the eye is in no body and nothing is cut open. Half of the triangles can then be left out."""
        for group in self._groups:
            group.actor.SetVisibility(shown)
            group.actor.GetProperty().SetBackfaceCulling(from_outside and group.sealed)

    def as_owners(self) -> list[vtkActor]:
        """Coloured by the index of the item, one more than it, in red and green."""
        for group in self._groups:
            code = group.owner + 1
            paint(group.actor, np.column_stack([code >> 8 & 255, code & 255, np.zeros_like(code)]).astype(np.uint8))
        return [group.actor for group in self._groups]

    def as_seen(self, scene: Scene, stretch: tuple[float, float, float]) -> None:
        """As the scene wants them again."""
        for group in self._groups:
            paint(group.actor, group.colours)
        self._in_step_with = (None, stretch)
        self.keep_step(scene, stretch)

    def _make(self, scene: Scene) -> None:
        for old in self._groups:
            self._renderer.RemoveActor(old.actor)
        self._groups = []
        placed = {id(item.mesh) for item in scene.items}
        self._binned = {name: kept for name, kept in self._binned.items() if name in placed}
        sorts: dict[tuple[str, bool, tuple[int, ...], str], list[tuple[int, Item, Reduced | None]]] = {}
        # Few colours are an actor each, which tells an inside by its own; many are those of faces.
        few = len({item.colour for item in scene.items}) <= _MOST_COLOURS
        for number, (item, level) in enumerate(zip(scene.items, self._levels(scene.items), strict=True)):
            solid = opacity_of(item, scene.display) >= 1
            sort = "clear" if not solid else "coloured" if item.values is not None or not few else "plain"
            colour = item.colour if sort == "plain" else ""
            key = (sort, item.owner in self._in_hand, _cuts_through(scene, item), colour)
            sorts.setdefault(key, []).append((number, item, level))
        for (sort, carried, cuts, colour), members in sorts.items():
            made = self._merged(members, scene, sort, carried=carried, cuts=cuts, colour=colour)
            self._groups.append(made)
            self._renderer.AddActor(made.actor)

    def _levels(self, items: tuple[Item, ...]) -> list[Reduced | None]:
        """Of each body the stand-in to draw, None for the body itself: the finest of all while they fit the budget."""
        choices = [self._choices(item) for item in items]
        for depth in range(3):
            picked = [found[min(depth, len(found) - 1)] for found in choices]
            count = sum(len(level.faces if level else item.mesh.faces) for level, item in zip(picked, items, strict=True))
            if count <= BUDGET:
                break
        return picked

    def _choices(self, item: Item) -> list[Reduced | None]:
        own: list[Reduced | None] = [None] if len(item.mesh.faces) <= _SMALL else []
        if item.prepared is not None:
            return [*own, *item.prepared.levels] or [None]
        if len(item.mesh.faces) <= _SMALL:
            return [None]
        kept = self._binned.get(id(item.mesh))
        if kept is None or kept[0] is not item.mesh:
            kept = self._binned[id(item.mesh)] = (item.mesh, _quickly_reduced(item))
        return [kept[1]]

    def _merged(
        self, group: list[tuple[int, Item, Reduced | None]], scene: Scene, sort: str, *, carried: bool, cuts: tuple[int, ...],
        colour: str,
    ) -> _Group:  # fmt: skip
        vertices, faces, owners, colours = [], [], [], []
        offset = 0
        coloured = False
        for number, item, level in group:
            points = level.vertices if level is not None else item.mesh.vertices
            corners = level.faces if level is not None else item.mesh.faces
            vertices.append(points @ item.matrix[:3, :3].T + item.matrix[:3, 3])
            faces.append((corners[:, ::-1] if item.mirrored else corners) + offset)
            offset += len(points)
            owners.append(np.full(len(corners), number, dtype=np.int32))
            own = colours_of(item)
            coloured |= own is not None
            of_faces = np.full((len(corners), 4), 255, dtype=np.uint8)
            of_faces[:, :3] = 255 * np.array(rgb(item.colour or scene.palette.part)) + 0.5
            if own is not None and (level is None or len(level.source) == len(corners)):
                of_faces[:, :3] = own if level is None else own[level.source]
            of_faces[:, 3] = int(255 * opacity_of(item, scene.display))
            colours.append(of_faces)
        points, corners = np.concatenate(vertices), np.concatenate(faces)
        actor = actor_of(poly_data(points, corners))
        a, b, c = (points[corners[:, k]] for k in range(3))
        # Colours of faces would hide the one that tells an inside, so plain bodies have none.
        all_colours = None if sort == "plain" else np.concatenate(colours)[:, : 4 if sort == "clear" else 3]
        paint(actor, all_colours)
        sealed = sort != "clear" and all(item.prepared is not None and item.prepared.sealed for _, item, _ in group)
        normals = np.cross(b - a, c - a)
        return _Group(actor, np.concatenate(owners), all_colours, coloured, sealed, carried, cuts, normals, colour)


def _cuts_through(scene: Scene, item: Item) -> tuple[int, ...]:
    return tuple(number for number, cut in enumerate(scene.cuts) if cut.touches(item.key))


def _same(some: list[tuple[Item, float]], others: list[tuple[Item, float]]) -> bool:
    """Whether two scenes have the same bodies in the same places and colours; how they are chosen does not matter here."""
    return len(some) == len(others) and all(
        (a is b and clear_a == clear_b)
        or (a.mesh is b.mesh and a.values is b.values and a.scale is b.scale and a.prepared is b.prepared and a.colour == b.colour
            and clear_a == clear_b and np.array_equal(a.matrix, b.matrix))
        for (a, clear_a), (b, clear_b) in zip(some, others, strict=True)
    )  # fmt: skip


def _quickly_reduced(item: Item) -> Reduced:
    """A ragged stand-in at once, until a worker's better one comes."""
    binned = vtkBinnedDecimation()
    binned.SetInputData(poly_data(item.mesh.vertices, item.mesh.faces))
    binned.SetNumberOfDivisions(_BINS, _BINS, _BINS)
    binned.AutoAdjustNumberOfDivisionsOff()
    binned.Update()
    data: vtkPolyData = binned.GetOutput()
    points = from_vtk(data.GetPoints().GetData())
    faces = from_vtk(data.GetPolys().GetConnectivityArray()).reshape(-1, 3)
    return Reduced(points, faces.astype(np.int32), np.zeros(0, dtype=np.int32))
