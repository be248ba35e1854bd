"""VTK's side of the bench: actors kept in step with the scene, frames read back. Lives in the drawing thread."""

from __future__ import annotations

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401  (registers the drawing back end)
from vtkmodules.vtkCommonCore import vtkFloatArray, vtkLogger, vtkUnsignedCharArray
from vtkmodules.vtkRenderingCore import vtkActor, vtkLight, vtkProperty, vtkRenderer, vtkRenderWindow

from gullyrise.core.camera.camera import Camera
from gullyrise.drawing.actors import Drawn, colours_of, no_back, paint, rgb
from gullyrise.drawing.arrays import from_vtk
from gullyrise.drawing.caps import Caps
from gullyrise.drawing.ground import Ground
from gullyrise.drawing.motion_proxies import MotionProxies
from gullyrise.drawing.requests import PROXY_ABOVE, Request
from gullyrise.drawing.scene import Scene

_PLAIN_STRETCH = (1.0, 1.0, 1.0)
_MANY_BODIES = 60
_FINE_BELOW = 150_000
_WORN = 50
"""Bodies that were made for drawing, after which starting anew is worth its while."""


class Stage:
    """A scene in VTK."""

    def __init__(self) -> None:
        # VTK writes what it finds odd about displays straight to the terminal.
        vtkLogger.SetStderrVerbosity(vtkLogger.VERBOSITY_OFF)
        self._window = vtkRenderWindow()
        self._window.SetOffScreenRendering(1)
        self._window.SetMultiSamples(0)
        self._window.SetAlphaBitPlanes(1)
        self._view = vtkRenderer()
        self._window.AddRenderer(self._view)
        for place, strength in (((-0.35, 0.55, 1.0), 0.92), ((0.8, -0.2, 0.4), 0.34)):
            light = vtkLight()
            light.SetLightTypeToCameraLight()
            light.SetPosition(*place)
            light.SetIntensity(strength)
            self._view.AddLight(light)
        self._scene: Scene | None = None
        self._made = 0
        self._stretch = _PLAIN_STRETCH
        self._drawn: dict[tuple[int, int], Drawn] = {}
        self._ground = Ground(self._view)
        self._crowd = MotionProxies(self._view)
        self._caps = Caps(self._view)

    def close(self) -> None:
        """Lets go of what VTK holds."""
        self._window.Finalize()

    @property
    def was_emptied(self) -> bool:
        """Whether many bodies were drawn here one after another, and none stands any more."""
        return self._made >= _WORN and self._scene is not None and not self._scene.items

    def set_scene(self, scene: Scene) -> None:
        """Brings the actors in step; only what changed is made anew."""
        old = self._scene
        if old is scene:
            return
        ground = (scene.machine, scene.palette, scene.beds)
        if old is None or any(a is not b for a, b in zip((old.machine, old.palette, old.beds), ground, strict=True)):
            self._ground.make(*ground)
            self._ground.stretch(self._stretch)
        if old is not None and old.palette is not scene.palette:
            for key in list(self._drawn):
                self._drop(key)
        self._tint_room(scene)
        wanted = {item.key: item for item in scene.items}
        dressed_anew = old is None or (old.cuts, old.display, old.palette) != (scene.cuts, scene.display, scene.palette)
        for key, drawn in list(self._drawn.items()):
            item = wanted.get(key)
            turned_out = item is not None and item.matrix is not drawn.item.matrix and item.mirrored != drawn.item.mirrored
            if item is None or item.mesh is not drawn.item.mesh or turned_out:
                self._drop(key)
        # What is taken in hand, comes farther or is let go is placed anew.
        hands = [one.carry for one in (old, scene) if one is not None and one.carry is not None]
        in_hand = frozenset[int]().union(*(carry.owners for carry in hands))
        for key, item in wanted.items():
            known = self._drawn.get(key)
            drawn = known or self._drawn.setdefault(key, Drawn.of(item))
            if known is None:
                self._made += 1
                self._view.AddActor(drawn.full)
                paint(drawn.full, colours_of(item))
            elif drawn.item.values is not item.values or drawn.item.scale != item.scale:
                paint(drawn.full, colours_of(item))
            fresh = drawn.edges is None
            same = drawn.take(item)
            edges = drawn.edge_actor(scene.palette)
            if fresh and edges is not None:
                self._view.AddActor(edges)
            # Done when it is to be seen: of hundreds that are carried only the crowd is drawn.
            if not same or dressed_anew or (fresh and edges is not None) or item.owner in in_hand:
                drawn.unplace()
        self._scene = scene

    def _settle(self, scene: Scene) -> None:
        for drawn in self._drawn.values():
            if not drawn.placed:
                drawn.place(scene, self._stretch)

    def too_much_to_polish(self, scene: Scene) -> bool:
        """Whether several samples a pixel would keep the next stroke waiting."""
        return sum(len(item.mesh.faces) for item in scene.items) > _FINE_BELOW

    def draw(self, request: Request, *, fine: bool = False) -> tuple[np.ndarray, np.ndarray, float, float]:
        """(pixels (h, w, 4) uint8, depth buffer (h, w) float32, near and far distance in mm).

        fine : with four samples a pixel. Smoothing the finished picture instead rounds off corners.
        """
        scene = request.scene
        self._draw_out(request, scene)
        reduced = request.moving and self._heavy(scene)
        if reduced:
            self._crowd.keep_step(scene, self._stretch)
        else:
            self._settle(scene)
        self._caps.keep_step(scene, self._stretch, request.camera.span / max(request.height, 1), at_rest=not request.moving)
        self._caps.show(scene.display.surface != "wireframe")
        self._crowd.show(reduced, from_outside=reduced and _from_outside(request.camera, scene, filled=self._caps.whole))
        edges_shown = scene.display.edges and scene.display.surface not in ("wireframe", "stripes")
        for drawn in self._drawn.values():
            drawn.full.SetVisibility(not reduced)
            if drawn.edges is not None:
                marked = drawn.item.selected and not scene.display.quiet
                drawn.edges.SetVisibility(bool(not reduced and (edges_shown or marked)))
        camera = request.camera
        self._ground.show(scene.display, from_above=bool(camera.elevation >= 0 if camera.parallel else camera.eye[2] >= 0))
        near, far = self._aim(request)
        self._view.SetUseFXAA(not request.moving and not fine)
        self._window.SetMultiSamples(4 if fine else 0)
        self._window.Render()
        found = self._pixels(request), self._depth(request), near, far
        self._window.SetMultiSamples(0)
        return found

    def _heavy(self, scene: Scene) -> bool:
        """Whether all bodies as they are would be too much for a picture in motion."""
        return len(scene.items) > _MANY_BODIES or sum(len(item.mesh.faces) for item in scene.items) > PROXY_ABOVE

    def owners(self, request: Request) -> np.ndarray:
        """(h, w) int16 index of the item seen at each pixel, or -1: the scene once more in flat colours."""
        scene = request.scene
        self._draw_out(request, scene)
        heavy = self._heavy(scene)
        kept: list[tuple[vtkActor, vtkProperty, bool]] = []
        if heavy:
            self._crowd.keep_step(scene, self._stretch)
        else:
            self._settle(scene)
        for actor in self._crowd.as_owners() if heavy else []:
            kept.append((actor, actor.GetProperty(), True))
            self._flatten(actor, 0)
            actor.GetMapper().SetScalarVisibility(True)
            actor.SetVisibility(True)
        self._caps.keep_step(scene, self._stretch, request.camera.span / max(request.height, 1), at_rest=True)
        for actor in self._caps.as_owners():
            kept.append((actor, actor.GetProperty(), False))
            self._flatten(actor, 0)
            actor.GetMapper().SetScalarVisibility(True)
        index = {item.key: number for number, item in enumerate(scene.items)}
        for key, drawn in self._drawn.items():
            drawn.full.SetVisibility(not heavy)
            if drawn.edges is not None:
                drawn.edges.SetVisibility(False)
            if not heavy:
                kept.append((drawn.full, drawn.full.GetProperty(), bool(drawn.full.GetMapper().GetScalarVisibility())))
                self._flatten(drawn.full, index.get(key, -1) + 1)
        self._ground.hide()
        self._view.SetUseFXAA(False)
        self._view.SetBackground(0, 0, 0)
        self._aim(request)
        self._window.Render()
        pixels = self._pixels(request)
        for actor, look, scalars in kept:
            actor.SetProperty(look)
            actor.GetMapper().SetScalarVisibility(scalars)
        self._caps.as_seen()
        if heavy:
            self._crowd.as_seen(scene, self._stretch)
        self._tint_room(scene)
        if not heavy:
            for drawn in self._drawn.values():
                drawn.place(scene, self._stretch)
        return np.asarray(pixels[:, :, 0].astype(np.int16) * 256 + pixels[:, :, 1] - 1)

    def _flatten(self, actor: vtkActor, code: int) -> None:
        """One unlit colour that says a number."""
        flat = vtkProperty()
        flat.SetLighting(False)
        flat.SetColor((code >> 8 & 255) / 255, (code & 255) / 255, 0.0)
        actor.SetProperty(flat)
        no_back(actor)
        actor.GetShaderProperty().ClearAllFragmentShaderReplacements()
        actor.GetMapper().SetScalarVisibility(False)

    def _draw_out(self, request: Request, scene: Scene) -> None:
        if request.camera.stretch != self._stretch:
            self._stretch = request.camera.stretch
            self._ground.stretch(self._stretch)
            for drawn in self._drawn.values():
                drawn.place(scene, self._stretch)

    def _aim(self, request: Request) -> tuple[float, float]:
        camera, lens = request.camera, request.lens
        if self._window.GetSize() != (request.width, request.height):
            self._window.SetSize(request.width, request.height)
        eye = self._view.GetActiveCamera()
        _, up, back = camera.frame()
        target = camera.drawn_target
        shrink = 1.0 if lens is None else lens[2]
        eye.SetParallelProjection(camera.parallel)
        eye.SetViewAngle(float(np.degrees(2 * np.arctan(np.tan(np.radians(camera.field / 2)) / shrink))))
        eye.SetFocalPoint(*target)
        eye.SetPosition(*(target + back * camera.distance))
        eye.SetViewUp(*up)
        eye.SetParallelScale(camera.span / 2 / shrink)
        eye.SetWindowCenter(*((0.0, 0.0) if lens is None else (lens[0], lens[1])))
        near, far = camera.clipping(camera.drawn_box(request.scene.box.grown(20.0)))
        eye.SetClippingRange(near, far)
        return near, far

    def _pixels(self, request: Request) -> np.ndarray:
        found = vtkUnsignedCharArray()
        self._window.GetRGBACharPixelData(0, 0, request.width - 1, request.height - 1, 1, found, 0)
        return np.ascontiguousarray(from_vtk(found).reshape(request.height, request.width, 4)[::-1])

    def _depth(self, request: Request) -> np.ndarray:
        found = vtkFloatArray()
        self._window.GetZbufferData(0, 0, request.width - 1, request.height - 1, found)
        return np.ascontiguousarray(from_vtk(found).reshape(request.height, request.width)[::-1])

    def _tint_room(self, scene: Scene) -> None:
        """Ground colour, and the brackets in the colour of a fail where something leaves the room."""
        palette = scene.palette
        # One colour: a shaded ground costs a third of an empty picture where there is no graphics card.
        self._view.SetBackground(*rgb(palette.ground))
        self._ground.tint(palette.failed if scene.out_of_room else palette.quiet)

    def _drop(self, key: tuple[int, int]) -> None:
        drawn = self._drawn.pop(key)
        for actor in (drawn.full, drawn.edges):
            if actor is not None:
                self._view.RemoveActor(actor)
                actor.ReleaseGraphicsResources(self._window)


def _from_outside(camera: Camera, scene: Scene, *, filled: bool) -> bool:
    """Whether the eye is in no body, and nothing is drawn as wires or cut open without all its faces filled."""
    if (scene.cuts and not filled) or scene.display.surface == "wireframe" or scene.parts_box is None:
        return False
    around = scene.parts_box.grown(0.01 * scene.parts_box.diagonal)
    eye = camera.eye / np.array(camera.stretch)
    return camera.parallel or bool((eye < around.low).any() or (eye > around.high).any())
