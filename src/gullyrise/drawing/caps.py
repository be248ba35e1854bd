"""Cut faces on the bench: filled, hatched by body, and red where bodies overlap. Lives in the drawing thread."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkImageData
from vtkmodules.vtkCommonTransforms import vtkTransform
from vtkmodules.vtkRenderingCore import vtkActor, vtkRenderer, vtkTexture

from gullyrise.core.cutting.fill import Fill, crossing, fill_of, in_room, joined_up, shared, triangles
from gullyrise.core.cutting.section import Loop, loops_of
from gullyrise.core.geometry import Mesh, Plane, Transform
from gullyrise.core.geometry.blocks import blocks_of
from gullyrise.drawing.actors import actor_of, clip, cover, drawn_out, line_actor, matrix_of, paint, sides_of
from gullyrise.drawing.arrays import poly_data, to_vtk
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.requests import PROXY_ABOVE
from gullyrise.drawing.scene import Item, Scene

HATCHES: tuple[tuple[float, float], ...] = ((45.0, 1.0), (135.0, 1.0), (20.0, 1.5), (110.0, 1.5), (70.0, 0.75), (160.0, 0.75))
"""Degrees and spacing of the lines of each style; neighbours in the list of bodies get neighbours in this one."""
SPACING = 11.0
"""Pixels between hatch lines, about."""
_TILE, _LINE = 64, 9
_UNREADY = 60_000
_MOST_OVERLAID = 60
_Frame = tuple[float, float, float]
_Kept = dict[tuple[object, ...], tuple[object, Fill | None]]


@dataclass(frozen=True, slots=True, eq=False)
class _Face:
    """One body's face on one side of a cut."""

    item: Item
    number: int
    fill: Fill


@dataclass(frozen=True, slots=True, eq=False)
class _Sheet:
    """What is drawn of one style on one side. owner : (m,) item of each triangle"""

    actor: vtkActor
    owner: np.ndarray
    texture: vtkTexture | None


class Caps:
    """Keeps the cut faces in step with a scene; those that did not change are not cut again."""

    def __init__(self, renderer: vtkRenderer) -> None:
        self._renderer = renderer
        self._sheets: list[_Sheet] = []
        self._lines: list[vtkActor] = []
        self._kept: _Kept = {}
        self._in_step_with: tuple[object, ...] = ()
        self._overlaid = False
        self._textures: dict[tuple[str, str, float, float], vtkTexture] = {}
        self.whole = False
        """Whether every face is filled all round, so that nothing is seen from inside."""

    def keep_step(self, scene: Scene, stretch: _Frame, mm_per_pixel: float, *, at_rest: bool) -> None:
        """at_rest : of the bodies themselves, with their overlaps; in motion of the stand-ins that are drawn then"""
        state = (scene.items, scene.cuts, scene.palette, scene.carry, stretch)
        as_before = len(self._in_step_with) == len(state) and all(a is b for a, b in zip(self._in_step_with, state, strict=True))
        if not as_before or at_rest != self._overlaid:
            self._make(scene, stretch, at_rest=at_rest)
            self._in_step_with = state
        self._space(mm_per_pixel)

    def show(self, shown: bool) -> None:
        """shown : whether they are seen"""
        for actor in (*(sheet.actor for sheet in self._sheets), *self._lines):
            actor.SetVisibility(shown)

    def as_owners(self) -> list[vtkActor]:
        """Coloured by the index of the item, one more than it, in red and green; without lines and hatches."""
        for line in self._lines:
            line.SetVisibility(False)
        for sheet in self._sheets:
            code = sheet.owner + 1
            paint(sheet.actor, np.column_stack([code >> 8 & 255, code & 255, np.zeros_like(code)]).astype(np.uint8))
            cover(sheet.actor, None)
        return [sheet.actor for sheet in self._sheets]

    def as_seen(self) -> None:
        """As they look to the eye, hatched."""
        for sheet in self._sheets:
            paint(sheet.actor, None)
            cover(sheet.actor, sheet.texture)
        for line in self._lines:
            line.SetVisibility(True)

    def _make(self, scene: Scene, stretch: _Frame, *, at_rest: bool) -> None:
        for actor in (*(sheet.actor for sheet in self._sheets), *self._lines):
            self._renderer.RemoveActor(actor)
        self._sheets, self._lines = [], []
        self._overlaid = at_rest
        self.whole = True
        before, self._kept = self._kept, {}
        for number, cut in enumerate(scene.cuts):
            # What other planes take away of a face is clipped like the bodies; the two faces of a slab never meet.
            others = sides_of((*scene.cuts[:number], *scene.cuts[number + 1 :]))
            for side in cut.sides():
                faces = [
                    _Face(item, place, fill)
                    for place, item in enumerate(scene.items)
                    if cut.touches(item.key) and (fill := self._fill(scene, item, side, before, at_rest=at_rest)) is not None
                ]
                self._draw(faces, side, others, scene.palette, stretch)
                if at_rest and 1 < len(faces) <= _MOST_OVERLAID:
                    self._draw_overlaps(faces, side, others, scene.palette, stretch)

    def _fill(self, scene: Scene, item: Item, side: Plane, before: _Kept, *, at_rest: bool) -> Fill | None:
        matrix = scene.matrix_of(item)
        name = (item.key, *side.point.tolist(), *side.normal.tolist(), matrix.tobytes(), at_rest)
        kept = before.get(name)
        if kept is None or kept[0] is not item.prepared:
            fill = None if at_rest else proxy_face(item, matrix, side)
            if fill is None or fill.chains:
                # Its own faces, where a stand-in has none that closes.
                fill = face_of(item, matrix, side)
            kept = (item.prepared, fill)
        self._kept[name] = kept
        if kept[1] is not None and kept[1].chains:
            self.whole = False
        return kept[1]

    def _draw(self, faces: list[_Face], side: Plane, others: tuple[Plane, ...], palette: Palette, stretch: _Frame) -> None:
        styles: dict[int, list[_Face]] = {}
        for face in faces:
            if len(face.fill.faces):
                styles.setdefault(face.number % len(HATCHES), []).append(face)
        for style, members in styles.items():
            self._add(
                [(face.fill.places, face.fill.faces, face.number) for face in members], side, others, stretch,
                self._texture(palette.cut, palette.ink, 0.62, HATCHES[style][0]), HATCHES[style],
            )  # fmt: skip
        for colour, width, chosen in ((palette.ink, 1.6, True), (palette.failed, 2.4, False)):
            pieces = [
                _pieces(one, closed=chosen) for face in faces for one in (face.fill.borders if chosen else face.fill.chains)
            ]
            if pieces:
                line = line_actor(in_room(side, np.concatenate(pieces).reshape(-1, 2)).reshape(-1, 2, 3), colour, width)
                line.GetMapper().SetResolveCoincidentTopologyToPolygonOffset()
                line.GetMapper().SetRelativeCoincidentTopologyLineOffsetParameters(0.0, -4.0)
                self._put(line, others, stretch)
                self._lines.append(line)

    def _draw_overlaps(
        self, faces: list[_Face], side: Plane, others: tuple[Plane, ...], palette: Palette, stretch: _Frame
    ) -> None:
        places, corners = triangles(shared([face.fill.region for face in faces]))
        if len(corners):
            texture = self._texture(palette.failed, palette.ground, 1.0, -1.0)
            actor = self._add([(places, corners, faces[0].number)], side, others, stretch, texture, (45.0, 0.6))
            # Over both faces that lie there.
            actor.GetMapper().SetResolveCoincidentTopologyToPolygonOffset()
            actor.GetMapper().SetRelativeCoincidentTopologyPolygonOffsetParameters(0.0, -2.0)

    def _add(
        self, pieces: list[tuple[np.ndarray, np.ndarray, int]], side: Plane, others: tuple[Plane, ...], stretch: _Frame,
        texture: vtkTexture, hatch: tuple[float, float],
    ) -> vtkActor:  # fmt: skip
        offsets = np.cumsum([0, *(len(places) for places, _, _ in pieces)])
        places = np.concatenate([places for places, _, _ in pieces])
        corners = np.concatenate([faces + start for (_, faces, _), start in zip(pieces, offsets[:-1], strict=True)])
        data = poly_data(in_room(side, places), corners)
        turn = np.radians(hatch[0])
        across = np.column_stack([places @ [np.cos(turn), np.sin(turn)], places @ [-np.sin(turn), np.cos(turn)]]) / hatch[1]
        data.GetPointData().SetTCoords(to_vtk(across.astype(np.float32)))
        actor = actor_of(data)
        actor.GetProperty().SetLighting(False)
        actor.SetTexture(texture)
        owner = np.concatenate([np.full(len(faces), number, dtype=np.int32) for _, faces, number in pieces])
        self._put(actor, others, stretch)
        self._sheets.append(_Sheet(actor, owner, texture))
        return actor

    def _texture(self, ground: str, ink: str, strength: float, style: float) -> vtkTexture:
        """Made once: a fresh one has its smaller sizes worked out anew with each picture."""
        name = (ground, ink, strength, style)
        if name not in self._textures:
            self._textures[name] = _hatched(ground, ink, strength)
        return self._textures[name]

    def _put(self, actor: vtkActor, others: tuple[Plane, ...], stretch: _Frame) -> None:
        actor.SetUserMatrix(matrix_of(drawn_out(stretch)))
        clip(actor, others, stretch)
        self._renderer.AddActor(actor)

    def _space(self, mm_per_pixel: float) -> None:
        """Keeps the lines of hatches about as far apart on the screen, in steps, so that they do not swim while zooming."""
        period = float(2.0 ** np.round(np.log2(max(SPACING * mm_per_pixel, 1e-9))))
        for sheet in self._sheets:
            if sheet.texture is not None:
                scale = vtkTransform()
                scale.Scale(1 / period, 1 / period, 1.0)
                sheet.texture.SetTransform(scale)


def proxy_face(item: Item, matrix: np.ndarray, side: Plane) -> Fill | None:
    """The cut face of the finest stand-in of a large body; None for a small one, or where the plane misses it."""
    if item.prepared is None or not item.prepared.levels or len(item.mesh.faces) < PROXY_ABOVE:
        return None
    level = item.prepared.levels[0]
    mesh = Mesh(level.vertices.astype(np.float64), level.faces)
    loops = _loops(mesh, matrix, side, None)
    return fill_of(loops, side) if loops else None


def _loops(mesh: Mesh, matrix: np.ndarray, side: Plane, among: np.ndarray | None) -> list[Loop]:
    """The outlines of a mesh where a matrix puts it. among : the only faces that may be met"""
    place, turn = Transform(matrix), matrix[:3, :3]
    local = Plane(np.linalg.solve(turn, side.point - matrix[:3, 3]), turn.T @ side.normal)
    return [replace(loop, points=place.apply(loop.points)) for loop in loops_of(mesh, local, among)]


def face_of(item: Item, matrix: np.ndarray, side: Plane) -> Fill | None:
    """The cut face of a body where a matrix puts it, laid flat in the plane's frame; None where the plane misses it, and for a
    large body until a worker has made it ready."""
    if item.prepared is None and len(item.mesh.faces) > _UNREADY:
        return None
    turn = matrix[:3, :3]
    local = Plane(np.linalg.solve(turn, side.point - matrix[:3, 3]), turn.T @ side.normal)
    among = crossing(item.prepared.blocks if item.prepared is not None else blocks_of(item.mesh), local)
    if not len(among):
        return None
    loops = _loops(item.mesh, matrix, side, among)
    if not loops:
        return None
    if any(not loop.closed for loop in loops):
        loops = joined_up(loops, side)
    return fill_of(loops, side)


def _pieces(ring: np.ndarray, *, closed: bool) -> np.ndarray:
    """(k, 2, 2) straight pieces of an outline."""
    ahead = np.roll(ring, -1, axis=0) if closed else ring[1:]
    return np.stack([ring[: len(ahead)], ahead], axis=1)


def _hatched(ground: str, ink: str, strength: float) -> vtkTexture:
    """A tile that repeats: ground with one line along its middle, soft at its sides."""
    colours = [np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], dtype=float) for colour in (ground, ink)]
    away = np.abs(np.arange(_TILE) + 0.5 - _TILE / 2)
    share = strength * np.clip(_LINE / 2 + 0.5 - away, 0, 1)
    rows = colours[0] * (1 - share[:, None]) + colours[1] * share[:, None]
    pixels = np.repeat(rows[:, None], 2, axis=1).reshape(-1, 3).astype(np.uint8)
    image = vtkImageData()
    image.SetDimensions(2, _TILE, 1)
    scalars: vtkUnsignedCharArray = to_vtk(pixels)
    image.GetPointData().SetScalars(scalars)
    texture = vtkTexture()
    texture.SetInputData(image)
    texture.RepeatOn()
    texture.InterpolateOn()
    texture.MipmapOn()
    # Of a cut that is seen edge-on software drawing asks for samples without end, minutes a picture.
    texture.SetMaximumAnisotropicFiltering(1.0)
    return texture
