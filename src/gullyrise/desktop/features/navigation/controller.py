"""Looking about: straight at a face, saved views and their shelf, the stretched picture, pictures for the record."""

from __future__ import annotations

import numpy as np
from PyQt6.QtGui import QImage

from gullyrise.core.camera.camera import NARROWEST, WIDEST, Camera
from gullyrise.core.checks.protocol import Finding
from gullyrise.core.geometry.spots import Spot
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.views import SavedView
from gullyrise.desktop.features.navigation import text
from gullyrise.desktop.features.navigation.evidence import EvidenceMoves
from gullyrise.desktop.features.navigation.view_shelf import PICTURE, ViewShelf
from gullyrise.desktop.ports import Commands, FloatingLayout, Looks, Notifier, Preferences, Sections, StatusLine
from gullyrise.desktop.scene.scene_keeper import SceneKeeper
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.annotated_image import png_of

_STRETCHES = (1.0, 2.0, 5.0, 10.0, 20.0)


class NavigationController:
    """Ties what the view shows to the job that remembers it."""

    def __init__(
        self, model: Workbench, notifier: Notifier, status: StatusLine, preferences: Preferences,
        commands: Commands, looks: Looks, floating: FloatingLayout, viewport: Viewport, scene: SceneKeeper, sections: Sections,
        shelf: ViewShelf, evidence: EvidenceMoves,
    ) -> None:  # fmt: skip
        self.evidence = evidence
        self._model, self._notifier, self._status, self._preferences = model, notifier, status, preferences
        self._commands, self._looks, self._floating = commands, looks, floating
        self._viewport, self._scene, self._sections, self._shelf = viewport, scene, sections, shelf
        shelf.gone_to.connect(self.go_to)
        shelf.dropped.connect(
            lambda name: self._model.document.edit(text.REMOVE.format(name), lambda job: job.without_view(name))
        )
        shelf.renamed.connect(self._rename)
        shelf.save_wanted.connect(lambda: commands.do("view.save"))

    def straight(self) -> None:
        """Straight at the face under the pointer, from the side that is seen."""
        bench = self._viewport
        hit = bench.aim.hit_under_pointer()
        if hit is None:
            self._notifier.say(text.NO_FACE, False)
            return
        item = bench.scene.items[hit.item]
        corners = item.mesh.vertices[item.mesh.faces[hit.face]] @ item.matrix[:3, :3].T
        outward = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        if hit.on_cut:
            sides = [side for cut in bench.scene.cuts_of(item) for side in cut.sides()]
            outward = min(sides, key=lambda side: abs(float(side.heights(hit.point[None])[0]))).normal
        length = float(np.linalg.norm(outward))
        if length <= 0:
            self._notifier.say(text.FACE_WITHOUT_AREA, False)
            return
        outward = outward / length
        if outward @ self._towards_eye(bench.camera, hit.point) < 0:
            outward = -outward
        bench.moves.look_straight(hit.point, outward)

    @staticmethod
    def _towards_eye(camera: Camera, point: np.ndarray) -> np.ndarray:
        if camera.parallel:
            return camera.frame()[2]
        return np.asarray(camera.eye - point * np.array(camera.stretch))

    def fly_to(self, placed: PlacedPart, finding: Finding) -> None:
        """Shows a finding's evidence and flags it; close up from outside where that cannot be composed yet."""
        if self.evidence.show(placed, finding):
            return
        self._model.put_flag(placed.id, finding)
        place = placed.placement.apply(np.array(finding.at)[None])[0]
        box = placed.ground
        if finding.seen_from is not None:
            outward = placed.placement.matrix[:3, :3] @ np.array(finding.seen_from)
        else:
            outward = (place - box.middle) / np.maximum(box.size, 1e-9)
        if np.linalg.norm(outward) < 1e-6:
            outward = np.array([0.5, -0.8, 0.5])
        span = max(box.diagonal * 0.35, 2.0 * float(np.sqrt(finding.area or 0.0)), 4.0)
        self._viewport.moves.fly_to(place, outward / np.linalg.norm(outward), span)

    def make_ready(self, placed: PlacedPart, finding: Finding) -> None:
        """Composes the evidence that is likely to be wanted next."""
        self.evidence.make_ready(placed, finding)

    def look_between(self, a: Spot, b: Spot, words: str) -> None:
        """Shows what was measured between two places on the machine, as evidence."""
        if not self.evidence.show_between(a, b, words):
            self._notifier.say(text.NOT_READY_TO_BE_SEEN, False)

    def stretch(self, axis: int) -> None:
        """The next stretch along an axis: 2, 5, 10, 20 times, then none."""
        now = self._viewport.camera.stretch[axis]
        following = _STRETCHES[(_STRETCHES.index(now) + 1) % len(_STRETCHES)] if now in _STRETCHES else 1.0
        factors = [1.0, 1.0, 1.0]
        factors[axis] = following
        self._viewport.moves.draw_out((factors[0], factors[1], factors[2]))

    # --- saved views -----------------------------------------------------------------------------------------------

    def save(self) -> None:
        """Keeps the view that is looked at, or on the way to."""
        camera, cuts = self._viewport.moves.on_the_way, self._sections.cuts

        def saved() -> None:
            job = self._model.job
            picture = self.view_image()
            if not self._viewport.camera.same_view(camera):
                # It was left before its picture was drawn: none is better than that of another view.
                picture.fill(self._looks.palette.colour("ground"))
            view = SavedView(
                job.fresh_view_name(),
                (float(camera.target[0]), float(camera.target[1]), float(camera.target[2])),
                camera.heading, camera.elevation, camera.span, camera.parallel, camera.roll, camera.field, camera.stretch,
                png_of(picture, *PICTURE), cuts,
            )  # fmt: skip
            self._model.document.edit(text.SAVE.format(view.name), lambda job: job.with_view(view))
            self.open_shelf()

        self._viewport.once_current(saved)

    def view_image(self) -> QImage:
        """The active pane's picture without what is painted over it."""
        pane = self._viewport.panes.active
        return pane.image.copy() if pane.image is not None else self._viewport.grab().toImage()

    def go_to(self, name: str) -> None:
        view = next((one for one in self._model.job.views if one.name == name), None)
        if view is not None:
            if view.cuts != self._sections.cuts:
                self._sections.show(view.cuts)
            self._viewport.moves.glide_to(
                Camera(
                    np.array(view.target), view.heading, view.elevation, view.span, view.parallel, view.roll, view.field,
                    view.stretch,
                )
            )  # fmt: skip

    def _rename(self, name: str, fresh: str) -> None:
        try:
            self._model.document.edit(text.RENAME.format(name), lambda job: job.with_view_renamed(name, fresh))
        except ValueError as error:
            self._notifier.say(str(error), True)

    def open_shelf(self) -> None:
        shelf = self._shelf
        shelf.refresh()
        self._floating.settle_bars()
        shelf.show()
        shelf.raise_()
        if shelf.list.count() and not shelf.list.currentItem():
            shelf.list.setCurrentRow(0)
        if shelf.isActiveWindow() and shelf.list.isVisible():
            shelf.list.setFocus()

    # --- the view ---------------------------------------------------------------------------------------------------

    def look(self, view: str) -> None:
        """name : of a named view"""
        self._scene.bring_in_step()
        self._viewport.moves.look(view)

    def frame_all(self) -> None:
        self._scene.bring_in_step()
        self._viewport.moves.frame_all()

    def frame_selection(self) -> None:
        self._scene.bring_in_step()
        self._viewport.moves.frame_selection()

    def widen(self, degrees: float) -> None:
        """The field of view, by so many degrees."""
        camera = self._viewport.camera
        if camera.lent:
            self._viewport.moves.swap_projection()
            camera = self._viewport.camera
        if camera.parallel:
            keys = self._commands.words_of("view.projection")
            self._notifier.say(text.PARALLEL_HAS_NO_FIELD.format(keys), False)
            return
        self._preferences.set("view.field", min(max(camera.field + degrees, NARROWEST), WIDEST))

    def swap_four(self) -> None:
        """Four panes, or one."""
        self._scene.bring_in_step()
        self._viewport.set_four(not self._viewport.panes.four)
        self._floating.settle_bars()

    def enlarge(self) -> None:
        """This pane, or all four again."""
        if not self._viewport.panes.four:
            self._notifier.say(text.ONE_PANE.format(self._commands.words_of("view.four")), False)
            return
        self._viewport.enlarge()
        self._floating.settle_bars()

    def arm(self, gesture: str) -> None:
        """The next drag draws a rectangle. gesture : `frame` to zoom to it, `choose` to choose what it takes"""
        self._viewport.arm(gesture)
        does = text.ZOOMS_TO_IT if gesture == "frame" else text.CHOOSES
        self._status.show_tool(text.DRAW_A_RECTANGLE.format(does))
