"""VTK's side of the bench: actors kept in step with the scene, frames read back. Lives in the drawing thread."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401  (registers the drawing back end)
from scipy.spatial import cKDTree
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkFloatArray, vtkLogger, vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkPlane, vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkFiltersCore import vtkBinnedDecimation, vtkFeatureEdges, vtkPolyDataNormals
from vtkmodules.vtkRenderingCore import vtkActor, vtkLight, vtkPolyDataMapper, vtkProperty, vtkRenderer, vtkRenderWindow

from gullyrise.desktop.bench import shapes
from gullyrise.desktop.bench.camera import FIELD_OF_VIEW, Camera
from gullyrise.desktop.bench.renderer import STAND_IN_ABOVE
from gullyrise.desktop.bench.scene import CutPlane, Item, Scene

_SMOOTH_BELOW = 400_000
_CREASE = 30.0
_BINS = 72


def _rgb(colour: str) -> tuple[float, float, float]:
    return tuple(int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))  # type: ignore[return-value]


@dataclass(slots=True, eq=False)
class _Drawn:
    """The actors of one item and what they were made from."""

    item: Item
    full: vtkActor
    edges: vtkActor | None
    stand_in: vtkActor | None
    nearest: np.ndarray | None


class Stage:
    """A scene in VTK."""

    def __init__(self) -> None:
        # VTK writes what it finds odd about displays straight to the terminal.
        vtkLogger.SetStderrVerbosity(vtkLogger.VERBOSITY_OFF)
        self._window = vtkRenderWindow()
        self._window.SetOffScreenRendering(1)
        self._window.SetMultiSamples(0)
        self._ground = vtkRenderer()
        self._window.AddRenderer(self._ground)
        light = vtkLight()
        light.SetLightTypeToCameraLight()
        light.SetPosition(-0.35, 0.55, 1.0)
        light.SetIntensity(0.92)
        fill = vtkLight()
        fill.SetLightTypeToCameraLight()
        fill.SetPosition(0.8, -0.2, 0.4)
        fill.SetIntensity(0.34)
        self._ground.AddLight(light)
        self._ground.AddLight(fill)
        self._scene: Scene | None = None
        self._drawn: dict[tuple[int, int], _Drawn] = {}
        self._bed: list[vtkActor] = []
        self._back = vtkProperty()

    def close(self) -> None:
        self._window.Finalize()

    def set_scene(self, scene: Scene) -> None:
        """Brings the actors in step; only what changed is made anew."""
        old = self._scene
        if old is scene:
            return
        if old is None or old.machine is not scene.machine or old.palette is not scene.palette:
            self._make_bed(scene)
        if old is not None and old.palette is not scene.palette:
            self._clear()
        self._tint_room(scene)
        wanted = {item.key: item for item in scene.items}
        for key in [key for key, drawn in self._drawn.items() if key not in wanted or wanted[key].mesh is not drawn.item.mesh]:
            self._drop(key)
        for key, item in wanted.items():
            drawn = self._drawn.get(key)
            if drawn is None:
                drawn = self._make(item, scene)
                self._drawn[key] = drawn
                self._colour(drawn, scene)
            elif drawn.item.values is not item.values or drawn.item.scale != item.scale:
                drawn.item = item
                self._colour(drawn, scene)
            drawn.item = item
            self._place(drawn, scene)
        self._scene = scene

    def draw(self, camera: Camera, width: int, height: int, moving: bool) -> tuple[np.ndarray, np.ndarray, float, float]:
        """(pixels (h, w, 4) uint8, depth buffer (h, w) float32, near and far distance in mm)."""
        scene = self._scene
        assert scene is not None
        total = sum(len(drawn.item.mesh.faces) for drawn in self._drawn.values())
        reduced = moving and total > STAND_IN_ABOVE
        for drawn in self._drawn.values():
            if reduced and drawn.stand_in is None and len(drawn.item.mesh.faces) > STAND_IN_ABOVE // 20:
                self._make_stand_in(drawn, scene)
            use = reduced and drawn.stand_in is not None
            drawn.full.SetVisibility(not use)
            if drawn.stand_in is not None:
                drawn.stand_in.SetVisibility(use)
            if drawn.edges is not None:
                drawn.edges.SetVisibility(not reduced)
        # From below the bed is glass: undersides are looked at there, and its lines stay.
        self._bed[0].SetVisibility(bool(camera.elevation >= 0 if camera.parallel else camera.eye[2] >= 0))
        near, far = self._aim(camera, width, height, scene)
        self._window.SetMultiSamples(0)
        self._ground.SetUseFXAA(not moving)
        self._window.Render()
        return self._pixels(width, height), self._depth(width, height), near, far

    def owners(self, camera: Camera, width: int, height: int) -> np.ndarray:
        """(h, w) int16 index of the item seen at each pixel, or -1: the scene once more in flat colours."""
        scene = self._scene
        assert scene is not None
        index = {item.key: number for number, item in enumerate(scene.items)}
        kept: list[tuple[vtkActor, Any, bool]] = []
        for key, drawn in self._drawn.items():
            use_small = drawn.stand_in is not None
            actor = drawn.stand_in if drawn.stand_in is not None else drawn.full
            kept.append((actor, actor.GetProperty(), actor.GetMapper().GetScalarVisibility()))
            code = index.get(key, -1) + 1
            flat = vtkProperty()
            flat.SetLighting(False)
            flat.SetColor((code >> 8 & 255) / 255, (code & 255) / 255, 0.0)
            actor.SetProperty(flat)
            actor.SetBackfaceProperty(None)
            actor.GetMapper().SetScalarVisibility(False)
            drawn.full.SetVisibility(not use_small)
            actor.SetVisibility(True)
            if drawn.edges is not None:
                drawn.edges.SetVisibility(False)
        for actor in self._bed:
            actor.SetVisibility(False)
        self._ground.SetUseFXAA(False)
        self._ground.SetGradientBackground(False)
        self._ground.SetBackground(0, 0, 0)
        self._aim(camera, width, height, scene)
        self._window.Render()
        pixels = self._pixels(width, height)
        for actor, look, scalars in kept:
            actor.SetProperty(look)
            actor.GetMapper().SetScalarVisibility(scalars)
        for actor in self._bed:
            actor.SetVisibility(True)
        self._tint_room(scene)
        for drawn in self._drawn.values():
            self._place(drawn, scene)
        return (pixels[:, :, 0].astype(np.int16) * 256 + pixels[:, :, 1]) - 1

    def _aim(self, camera: Camera, width: int, height: int, scene: Scene) -> tuple[float, float]:
        if self._window.GetSize() != (width, height):
            self._window.SetSize(width, height)
        eye = self._ground.GetActiveCamera()
        _, up, back = camera.frame()
        eye.SetParallelProjection(camera.parallel)
        eye.SetViewAngle(FIELD_OF_VIEW)
        eye.SetFocalPoint(*camera.target)
        eye.SetPosition(*(camera.target + back * camera.distance))
        eye.SetViewUp(*up)
        eye.SetParallelScale(camera.span / 2)
        near, far = camera.clipping(scene.box.grown(20.0))
        eye.SetClippingRange(near, far)
        return near, far

    def _pixels(self, width: int, height: int) -> np.ndarray:
        found = vtkUnsignedCharArray()
        self._window.GetRGBACharPixelData(0, 0, width - 1, height - 1, 1, found)
        return np.ascontiguousarray(vtk_to_numpy(found).reshape(height, width, 4)[::-1])

    def _depth(self, width: int, height: int) -> np.ndarray:
        found = vtkFloatArray()
        self._window.GetZbufferData(0, 0, width - 1, height - 1, found)
        return np.ascontiguousarray(vtk_to_numpy(found).reshape(height, width)[::-1])

    def _make(self, item: Item, scene: Scene) -> _Drawn:
        mesh = item.mesh
        data = shapes.poly_data(mesh.vertices, mesh.faces)
        smooth = len(mesh.faces) < _SMOOTH_BELOW
        edges = None
        if smooth:
            rounder = vtkPolyDataNormals()
            rounder.SetInputData(data)
            rounder.SetFeatureAngle(_CREASE)
            rounder.SplittingOn()
            rounder.ConsistencyOff()
            rounder.Update()
            found = vtkFeatureEdges()
            found.SetInputData(data)
            found.SetFeatureAngle(_CREASE)
            found.BoundaryEdgesOn()
            found.FeatureEdgesOn()
            found.NonManifoldEdgesOn()
            found.ManifoldEdgesOff()
            found.ColoringOff()
            found.Update()
            data = rounder.GetOutput()
            edges = _actor(found.GetOutput())
            edges.GetProperty().SetLighting(False)
            edges.GetProperty().SetLineWidth(1.0)
            edges.GetMapper().SetResolveCoincidentTopologyToPolygonOffset()
            edges.GetMapper().SetRelativeCoincidentTopologyLineOffsetParameters(0.0, 2.0)
            self._ground.AddActor(edges)
        full = _actor(data)
        if not smooth:
            full.GetProperty().SetInterpolationToFlat()
        self._ground.AddActor(full)
        return _Drawn(item, full, edges, None, None)

    def _make_stand_in(self, drawn: _Drawn, scene: Scene) -> None:
        mesh = drawn.item.mesh
        binned = vtkBinnedDecimation()
        binned.SetInputData(shapes.poly_data(mesh.vertices, mesh.faces))
        binned.SetNumberOfDivisions(_BINS, _BINS, _BINS)
        binned.AutoAdjustNumberOfDivisionsOff()
        binned.Update()
        data = vtkPolyData()
        data.ShallowCopy(binned.GetOutput())
        drawn.stand_in = _actor(data)
        drawn.stand_in.GetProperty().SetInterpolationToFlat()
        self._ground.AddActor(drawn.stand_in)
        self._colour(drawn, scene)
        self._place(drawn, scene)

    def _colour(self, drawn: _Drawn, scene: Scene) -> None:
        item = drawn.item
        colours = None
        if item.values is not None and item.scale is not None and len(item.values) == len(item.mesh.faces):
            colours = item.scale.colours(item.values)
        _paint(drawn.full, colours)
        if drawn.stand_in is None:
            return
        if colours is not None:
            if drawn.nearest is None:
                data = drawn.stand_in.GetMapper().GetInput()
                points = vtk_to_numpy(data.GetPoints().GetData())
                faces = vtk_to_numpy(data.GetPolys().GetConnectivityArray()).reshape(-1, 3)
                # Every eighth face of the real mesh is near enough for a picture that is gone in a moment.
                some = np.arange(0, len(item.mesh.faces), 8)
                tree = cKDTree(item.mesh.vertices[item.mesh.faces[some]].mean(axis=1))
                drawn.nearest = some[tree.query(points[faces].mean(axis=1))[1]]
            colours = colours[drawn.nearest]
        _paint(drawn.stand_in, colours)

    def _place(self, drawn: _Drawn, scene: Scene) -> None:
        """Matrix, cutting plane, and the look of selection."""
        item = drawn.item
        matrix = vtkMatrix4x4()
        matrix.DeepCopy(np.asarray(item.matrix, dtype=float).reshape(-1).tolist())
        back = vtkProperty()
        colour = scene.palette.cut if scene.cut is not None else scene.palette.inside
        back.SetColor(*_rgb(colour))
        if scene.cut is not None:
            # Flat, so that the far inside of a closed body reads as the cut itself.
            back.SetAmbient(1.0)
            back.SetDiffuse(0.0)
            back.SetAmbientColor(*_rgb(colour))
        for actor in (drawn.full, drawn.stand_in, drawn.edges):
            if actor is None:
                continue
            actor.SetUserMatrix(matrix)
            mapper = actor.GetMapper()
            mapper.RemoveAllClippingPlanes()
            if scene.cut is not None:
                mapper.AddClippingPlane(_plane(scene.cut))
            if actor is drawn.edges:
                actor.GetProperty().SetColor(*_rgb(scene.palette.accent if item.selected else scene.palette.edge))
                actor.GetProperty().SetLineWidth(2.4 if item.selected else 1.0)
                continue
            look = actor.GetProperty()
            look.SetColor(*_rgb(scene.palette.part))
            # A measure's colours are to be read, so shading takes second place.
            coloured = item.values is not None
            look.SetAmbient(0.58 if coloured else 0.30)
            look.SetDiffuse(0.5 if coloured else 0.84)
            look.SetSpecular(0.06)
            actor.SetBackfaceProperty(back)

    def _make_bed(self, scene: Scene) -> None:
        for actor in self._bed:
            self._ground.RemoveActor(actor)
        palette, machine = scene.palette, scene.machine
        slab = _actor(shapes.poly_data(*shapes.bed_triangles(machine)))
        slab.GetProperty().SetColor(*_rgb(palette.bed))
        slab.GetProperty().SetInterpolationToFlat()
        slab.GetProperty().SetAmbient(0.55)
        slab.GetProperty().SetDiffuse(0.5)
        self._bed = [slab]
        for lines, colour, width in (
            (shapes.grid_lines(machine), palette.bed_line, 1.0),
            (shapes.ruler_lines(machine), palette.quiet, 1.0),
            (shapes.bracket_lines(machine), palette.quiet, 1.6),
        ):
            actor = _actor(shapes.line_data(lines))
            actor.GetProperty().SetColor(*_rgb(colour))
            actor.GetProperty().SetLighting(False)
            actor.GetProperty().SetLineWidth(width)
            # VTK draws all lines a little nearer; those of the bed must not come through a part.
            actor.GetMapper().SetRelativeCoincidentTopologyLineOffsetParameters(1.0, 4.0)
            self._bed.append(actor)
        for actor in self._bed:
            self._ground.AddActor(actor)

    def _tint_room(self, scene: Scene) -> None:
        """Ground colours, and the brackets in the colour of a fail where something leaves the room."""
        palette = scene.palette
        self._ground.SetGradientBackground(True)
        self._ground.SetBackground(*_rgb(palette.ground_far))
        self._ground.SetBackground2(*_rgb(palette.ground))
        if self._bed:
            self._bed[-1].GetProperty().SetColor(*_rgb(palette.failed if scene.out_of_room else palette.quiet))

    def _drop(self, key: tuple[int, int]) -> None:
        drawn = self._drawn.pop(key)
        for actor in (drawn.full, drawn.stand_in, drawn.edges):
            if actor is not None:
                self._ground.RemoveActor(actor)
                actor.ReleaseGraphicsResources(self._window)

    def _clear(self) -> None:
        for key in list(self._drawn):
            self._drop(key)


def _plane(cut: CutPlane) -> vtkPlane:
    """VTK keeps what lies on the side of the normal."""
    plane = vtkPlane()
    normal = [0.0, 0.0, 0.0]
    normal[cut.axis] = 1.0 if cut.flipped else -1.0
    origin = [0.0, 0.0, 0.0]
    origin[cut.axis] = cut.position
    plane.SetNormal(*normal)
    plane.SetOrigin(*origin)
    return plane


def _actor(data: vtkPolyData) -> vtkActor:
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(data)
    mapper.SetScalarVisibility(False)
    actor = vtkActor()
    actor.SetMapper(mapper)
    return actor


def _paint(actor: vtkActor, colours: np.ndarray | None) -> None:
    """Colours each face, or none."""
    mapper = actor.GetMapper()
    if colours is None:
        mapper.SetScalarVisibility(False)
        return
    mapper.GetInput().GetCellData().SetScalars(numpy_to_vtk(colours, deep=True))
    mapper.SetScalarModeToUseCellData()
    mapper.SetColorModeToDirectScalars()
    mapper.SetScalarVisibility(True)
    mapper.GetInput().Modified()
