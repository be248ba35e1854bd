"""VTK actors of bodies and how they are dressed. Lives in the drawing thread."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

import numpy as np
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkPlane, vtkPlanes, vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkCommonTransforms import vtkMatrixToLinearTransform
from vtkmodules.vtkFiltersCore import vtkClipPolyData, vtkPolyDataNormals, vtkReverseSense
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper, vtkProperty, vtkTexture

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Plane
from gullyrise.core.geometry.anatomy import CREASE
from gullyrise.core.job.visibility import SEEN_THROUGH
from gullyrise.drawing.arrays import line_data, poly_data, to_vtk
from gullyrise.drawing.display import Display
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.scene import Item, Scene

_SMOOTH_BELOW = 400_000
_WHILE_DRAWING = 6
"""Planes by which the drawing library clips at a time."""
# Stripes of a striped room mirrored in the part: they break where the surface bends, and jump where it has an edge.
_STRIPES = """//VTK::Light::Impl
  vec3 seenFrom = cameraParallel == 1 ? vec3(0.0, 0.0, -1.0) : normalize(vertexVC.xyz);
  vec3 mirrored = reflect(seenFrom, normalVCVSOutput);
  float band = sin(26.0 * asin(clamp(mirrored.y, -1.0, 1.0)));
  float sharp = clamp(fwidth(band) * 1.5, 0.05, 1.0);
  float stripe = smoothstep(-sharp, sharp, band);
  gl_FragData[0].rgb *= mix(0.28, 1.12, stripe);
"""


def rgb(colour: str) -> tuple[float, float, float]:
    """Red, green and blue, 0 to 1, of a colour as the palette has it."""
    return tuple(int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))  # type: ignore[return-value]


def matrix_of(rows: np.ndarray) -> vtkMatrix4x4:
    """VTK's matrix of a (4, 4) array."""
    matrix = vtkMatrix4x4()
    matrix.DeepCopy(np.asarray(rows, dtype=float).reshape(-1).tolist())
    return matrix


def drawn_out(stretch: tuple[float, float, float]) -> np.ndarray:
    """A matrix that draws things stretched by factors along X, Y and Z."""
    return np.diag([*stretch, 1.0])


def actor_of(data: vtkPolyData) -> vtkActor:
    """An actor that shows such data."""
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(data)
    mapper.SetScalarVisibility(False)
    actor = vtkActor()
    actor.SetMapper(mapper)
    return actor


def mapper_of(actor: vtkActor) -> vtkPolyDataMapper:
    """The mapper of an actor, which every one here has."""
    return cast(vtkPolyDataMapper, actor.GetMapper())


def no_back(actor: vtkActor) -> None:
    """Both sides look as the front does."""
    # Its types know nothing of none.
    actor.SetBackfaceProperty(None)  # type: ignore[arg-type]


def cover(actor: vtkActor, texture: vtkTexture | None) -> None:
    """Lays a texture over an actor, None for none."""
    actor.SetTexture(texture)  # type: ignore[arg-type]


def line_actor(segments: np.ndarray, colour: str, width: float) -> vtkActor:
    """(k, 2, 3) segments in one flat colour."""
    actor = actor_of(line_data(segments))
    actor.GetProperty().SetColor(*rgb(colour))
    actor.GetProperty().SetLighting(False)
    actor.GetProperty().SetLineWidth(width)
    return actor


def paint(actor: vtkActor, colours: np.ndarray | None) -> None:
    """Colours each face (n, 3 or 4) uint8, or none."""
    mapper = actor.GetMapper()
    if colours is None:
        mapper.SetScalarVisibility(False)
        return
    whole = whole_of(actor)
    whole.GetCellData().SetScalars(to_vtk(colours))
    mapper.SetScalarModeToUseCellData()
    mapper.SetColorModeToDirectScalars()
    mapper.SetScalarVisibility(True)
    whole.Modified()


def colours_of(item: Item) -> np.ndarray | None:
    """(m, 3) uint8 of the measure shown on a body, or None."""
    if item.values is None or item.scale is None or len(item.values) != len(item.mesh.faces):
        return None
    return item.scale.colours(item.values)


def hanging(normals: np.ndarray, matrix: np.ndarray) -> np.ndarray:
    """(k,) degrees by which triangles hang over where a rigid (4, 4) matrix puts them; NaN for those that look up.

    normals : (k, 3) outward, of any length
    """
    turned = normals @ matrix[:3, :3].T
    angle = np.degrees(np.arctan2(-turned[:, 2], np.hypot(turned[:, 0], turned[:, 1])))
    return np.where(angle < 0, np.nan, angle)


def opacity_of(item: Item, display: Display) -> float:
    """0 to 1, of an item as it is displayed."""
    return min(item.opacity, SEEN_THROUGH) if display.see_through else item.opacity


def dress(
    actor: vtkActor, display: Display, palette: Palette, *, is_cut: bool, coloured: bool, smooth: bool, opacity: float,
    colour: str = "",
) -> None:  # fmt: skip
    """The look of surfaces: colours, light, wireframe, stripes. colour : of the body, empty for that of the palette"""
    look: vtkProperty = actor.GetProperty()
    look.SetColor(*rgb(colour or palette.part))
    # A measure's colours are to be read, so shading takes second place.
    look.SetAmbient(0.58 if coloured else 0.30)
    look.SetDiffuse(0.5 if coloured else 0.84)
    look.SetSpecular(0.06)
    look.SetRepresentationToSurface()
    look.SetOpacity(opacity)
    back = vtkProperty()
    back.SetOpacity(opacity)
    behind = palette.cut if is_cut else palette.inside
    back.SetColor(*rgb(behind))
    if is_cut:
        # Flat, so that the far inside of a closed body reads as the cut itself.
        back.SetAmbient(1.0)
        back.SetDiffuse(0.0)
        back.SetAmbientColor(*rgb(behind))
    if display.surface == "wireframe":
        look.SetRepresentationToWireframe()
        look.SetColor(*rgb(palette.quiet))
        look.SetAmbient(1.0)
        look.SetDiffuse(0.0)
        look.SetSpecular(0.0)
        look.SetOpacity(min(opacity, 0.55))
    elif display.surface == "facing":
        look.SetColor(*rgb(palette.outside))
        back.SetColor(*rgb(palette.failed))
        back.SetAmbientColor(*rgb(palette.failed))
        back.SetAmbient(0.6)
        back.SetDiffuse(0.5)
    elif display.surface == "stripes":
        look.SetColor(*rgb(palette.stripe))
        look.SetAmbient(0.55)
        look.SetDiffuse(0.5)
    if display.surface == "facets" or not smooth:
        look.SetInterpolationToFlat()
    else:
        look.SetInterpolationToPhong()
    shader = actor.GetShaderProperty()
    shader.ClearAllFragmentShaderReplacements()
    if display.surface == "stripes":
        shader.AddFragmentShaderReplacement("//VTK::Light::Impl", True, _STRIPES, False)
    if display.surface != "wireframe":
        actor.SetBackfaceProperty(back)
    else:
        no_back(actor)


def clip(actor: vtkActor, sides: tuple[Plane, ...], stretch: tuple[float, float, float]) -> None:
    """Takes away what lies on the side of any plane that its normal points to.

    The drawing library does six while it draws; what more planes take away is cut off its triangles before.
    """
    mapper, scale = mapper_of(actor), np.array(stretch)
    mapper.RemoveAllClippingPlanes()
    for side in sides[:_WHILE_DRAWING]:
        plane = vtkPlane()
        # VTK keeps what lies on the side of the normal.
        plane.SetNormal(*(-side.normal / scale))
        plane.SetOrigin(*(side.point * scale))
        mapper.AddClippingPlane(plane)
    whole, more = whole_of(actor), sides[_WHILE_DRAWING:]
    if not more:
        if mapper.GetInput() is not whole:
            mapper.SetInputData(whole)
        return
    points, normals = vtkPoints(), to_vtk(np.array([side.normal / scale for side in more]))
    points.SetData(to_vtk(np.array([side.point * scale for side in more])))
    room, place = vtkPlanes(), vtkMatrixToLinearTransform()
    room.SetPoints(points)
    room.SetNormals(normals)
    place.SetInput(actor.GetUserMatrix() or vtkMatrix4x4())
    room.SetTransform(place)
    cutter = vtkClipPolyData()
    cutter.SetInputData(whole)
    cutter.SetClipFunction(room)
    cutter.InsideOutOn()
    mapper.SetInputConnection(cutter.GetOutputPort())


def whole_of(actor: vtkActor) -> vtkPolyData:
    """What an actor draws before anything is cut off it."""
    mapper = mapper_of(actor)
    source = mapper.GetInputAlgorithm()
    return cast(vtkPolyData, source.GetInput()) if isinstance(source, vtkClipPolyData) else mapper.GetInput()


def sides_of(cuts: tuple[Cut, ...]) -> tuple[Plane, ...]:
    """The faces that bound what some cuts leave."""
    return tuple(side for cut in cuts for side in cut.sides())


@dataclass(slots=True, eq=False)
class Drawn:
    """The actors of one copy of a body and the item that they show. placed : whether they stand and look as it says.
    in_hand : coloured by how it hangs in the hand, not by what the item says
    """

    item: Item
    full: vtkActor
    smooth: bool
    edges: vtkActor | None = None
    placed: bool = False
    in_hand: bool = False

    @classmethod
    def of(cls, item: Item) -> Drawn:
        """Made anew for an item."""
        mesh = item.mesh
        data = poly_data(mesh.vertices, mesh.faces)
        smooth = len(mesh.faces) < _SMOOTH_BELOW
        if smooth:
            rounder = vtkPolyDataNormals()
            rounder.SetInputData(data)
            rounder.SetFeatureAngle(CREASE)
            rounder.SplittingOn()
            rounder.ConsistencyOff()
            rounder.Update()
            data = rounder.GetOutput()
        if item.mirrored:
            # VTK tells front from back by the order of corners as drawn, which the matrix reverses; normals it carries along.
            turner = vtkReverseSense()
            turner.SetInputData(data)
            turner.ReverseCellsOn()
            turner.ReverseNormalsOff()
            turner.Update()
            data = turner.GetOutput()
        return cls(item, actor_of(data), smooth)

    def take(self, item: Item) -> bool:
        """The copy as it is now; whether it was so before."""
        same, self.item = self.item is item, item
        return same

    def unplace(self) -> None:
        """It stands or looks as it should no more."""
        self.placed = False

    def edge_actor(self, palette: Palette) -> vtkActor | None:
        """The body's edges, once they are known; the same actor each time."""
        if self.edges is None and self.item.prepared is not None and len(self.item.prepared.anatomy.segments):
            self.edges = line_actor(self.item.prepared.anatomy.segments, palette.edge, 1.0)
            self.edges.GetMapper().SetResolveCoincidentTopologyToPolygonOffset()
            self.edges.GetMapper().SetRelativeCoincidentTopologyLineOffsetParameters(0.0, 0.0)
        return self.edges

    def place(self, scene: Scene, stretch: tuple[float, float, float]) -> None:
        """Matrix, cutting plane, and the look."""
        self.placed = True
        self._colour_in_hand(scene)
        item, palette = self.item, scene.palette
        matrix = matrix_of(drawn_out(stretch) @ scene.matrix_of(item))
        opacity = opacity_of(item, scene.display)
        cuts = scene.cuts_of(item)
        dress(
            self.full, scene.display, palette, is_cut=bool(cuts), coloured=item.values is not None, smooth=self.smooth,
            opacity=opacity, colour=item.colour,
        )  # fmt: skip
        for actor in (self.full, self.edges):
            if actor is not None:
                actor.SetUserMatrix(matrix)
                clip(actor, sides_of(cuts), stretch)
        if self.edges is not None:
            strong = item.selected and not scene.display.quiet
            self.edges.GetProperty().SetColor(*rgb(palette.accent if item.selected else palette.edge))
            self.edges.GetProperty().SetLineWidth(2.4 if strong else 1.0)
            self.edges.GetProperty().SetOpacity(1.0 if opacity >= 1 else max(opacity, 0.25))

    def _colour_in_hand(self, scene: Scene) -> None:
        """Overhangs of what is turned in the hand, and the item's own colours again once it is let go."""
        item, carried = self.item, scene.carry is not None and self.item.owner in scene.carry.owners
        if carried and scene.angles is not None and item.values is not None:
            normals = item.mesh.cross() if not item.mirrored else -item.mesh.cross()
            paint(self.full, scene.angles.colours(hanging(normals, scene.matrix_of(item))))
            self.in_hand = True
        elif self.in_hand:
            paint(self.full, colours_of(item))
            self.in_hand = False
