"""Looking about: straight at a face, saved views and their shelf, the stretched picture, pictures for the record."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QImage

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.job import Standing
from gullyrise.core.job.views import SavedView
from gullyrise.desktop.bench.camera import Camera
from gullyrise.desktop.panels.view_shelf import PICTURE
from gullyrise.desktop.picture import fresh_path, png_of, recorded

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

_STRETCHES = (1.0, 2.0, 5.0, 10.0, 20.0)


class Looking:
    """Ties what the view shows to the job that remembers it."""

    def __init__(self, window: Window) -> None:
        self._window = window
        shelf = window.shelf
        shelf.gone_to.connect(self.go_to)
        shelf.dropped.connect(lambda name: window.model.edit(f"Remove {name}", lambda job: job.without_view(name)))
        shelf.renamed.connect(self._rename)
        shelf.save_wanted.connect(lambda: window.do("view.save"))
        window.model.job_changed.connect(self.settle)
        window.model.shown_changed.connect(self.settle)

    def straight(self) -> None:
        """Straight at the face under the pointer, from the side that is seen."""
        window = self._window
        bench = window.bench
        hit = bench.hit_under_pointer()
        if hit is None:
            window.notices.say("There is no face under the pointer to look at; point at one.", False)
            return
        item = bench.scene.items[hit.item]
        corners = item.mesh.vertices[item.mesh.faces[hit.face]] @ item.matrix[:3, :3].T
        outward = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        if hit.on_cut:
            sides = [side for cut in bench.scene.cuts_of(item) for side in cut.sides()]
            outward = min(sides, key=lambda side: abs(float(side.heights(hit.point[None])[0]))).normal
        length = float(np.linalg.norm(outward))
        if length <= 0:
            window.notices.say("The face under the pointer has no area; point beside it.", False)
            return
        outward = outward / length
        if outward @ self._towards_eye(bench.camera, hit.point) < 0:
            outward = -outward
        bench.look_straight(hit.point, outward)

    @staticmethod
    def _towards_eye(camera: Camera, point: np.ndarray) -> np.ndarray:
        if camera.parallel:
            return camera.frame()[2]
        return np.asarray(camera.eye - point * np.array(camera.stretch))

    def fly_to(self, standing: Standing, finding: Finding) -> None:
        """Looks at a finding close up, from outside the part, and flags it."""
        self._window.model.put_flag(standing.id, finding)
        place = standing.placement.apply(np.array(finding.at)[None])[0]
        box = standing.ground
        if finding.seen_from is not None:
            outward = standing.placement.matrix[:3, :3] @ np.array(finding.seen_from)
        else:
            outward = (place - box.middle) / np.maximum(box.size, 1e-9)
        if np.linalg.norm(outward) < 1e-6:
            outward = np.array([0.5, -0.8, 0.5])
        span = max(box.diagonal * 0.35, 2.0 * float(np.sqrt(finding.area or 0.0)), 4.0)
        self._window.bench.fly_to(place, outward / np.linalg.norm(outward), span)

    def stretch(self, axis: int) -> None:
        """The next stretch along an axis: 2, 5, 10, 20 times, then none."""
        now = self._window.bench.camera.stretch[axis]
        following = _STRETCHES[(_STRETCHES.index(now) + 1) % len(_STRETCHES)] if now in _STRETCHES else 1.0
        factors = [1.0, 1.0, 1.0]
        factors[axis] = following
        self._window.bench.draw_out((factors[0], factors[1], factors[2]))

    # --- saved views -----------------------------------------------------------------------------------------------

    def save(self) -> None:
        """Keeps the view that is looked at, or on the way to."""
        window = self._window
        camera, cuts = window.bench.on_the_way, window.cutting.cuts

        def saved() -> None:
            job = window.model.job
            picture = self.view_image()
            if not window.bench.camera.same_view(camera):
                # It was left before its picture was drawn: none is better than that of another view.
                picture.fill(window.palette_worn.colour("ground"))
            view = SavedView(
                job.fresh_view_name(),
                (float(camera.target[0]), float(camera.target[1]), float(camera.target[2])),
                camera.heading, camera.elevation, camera.span, camera.parallel, camera.roll, camera.field, camera.stretch,
                png_of(picture, *PICTURE), cuts,
            )  # fmt: skip
            window.model.edit(f"Save {view.name}", lambda job: job.with_view(view))
            self.open_shelf()

        window.bench.once_current(saved)

    def view_image(self) -> QImage:
        """The active pane's picture without what is painted over it."""
        pane = self._window.bench.panes.active
        return pane.image.copy() if pane.image is not None else self._window.bench.grab().toImage()

    def go_to(self, name: str) -> None:
        view = next((one for one in self._window.model.job.views if one.name == name), None)
        if view is not None:
            if view.cuts != self._window.cutting.cuts:
                self._window.cutting.show(view.cuts)
            self._window.bench.glide_to(
                Camera(
                    np.array(view.target), view.heading, view.elevation, view.span, view.parallel, view.roll, view.field,
                    view.stretch,
                )
            )  # fmt: skip

    def _rename(self, name: str, fresh: str) -> None:
        try:
            self._window.model.edit(f"Rename {name}", lambda job: job.with_view_renamed(name, fresh))
        except ValueError as error:
            self._window.notices.say(str(error), True)

    def open_shelf(self) -> None:
        shelf = self._window.shelf
        shelf.refresh()
        self.settle()
        shelf.show()
        shelf.raise_()
        if shelf.list.count() and not shelf.list.currentItem():
            shelf.list.setCurrentRow(0)
        if self._window.isActiveWindow() and shelf.list.isVisible():
            shelf.list.setFocus()

    def settle(self) -> None:
        """Keeps what floats over the bench in its place."""
        bench, shelf, sight = self._window.bench, self._window.shelf, self._window.sight_bar
        self._window.pick_bar.stand(upright=bench.width() < 600 or len(bench.panes.shown) > 1)
        width = min(3 * (PICTURE[0] + 16) + 24, bench.width() - 16)
        height = min(shelf.wanted_height(width), max(bench.height() - 140, 120))
        shelf.setGeometry(8, 72, max(width, 200), height)
        sight.move(8, max(bench.height() - sight.height() - 56, 72))

    def settle_overlays(self) -> None:
        """The same after the window or what floats has another size."""
        window = self._window
        page, bench = window.receiving, window.bench
        page.fit(bench.width() - 16)
        page.move(max((bench.width() - page.width()) // 2, 0), max((bench.height() - page.height()) // 2, 0))
        window.notices.place()
        self.settle()
        way, split = window.suggestions, window.split_slip
        way.resize(way.width(), min(max(bench.height() - 110, 200), 420))
        matrix = window.matrix_panel
        matrix.resize(min(560, bench.width() - 20), min(max(bench.height() - 130, 200), matrix.wanted_height(), 340))
        for slip in (way, split, matrix):
            slip.move(max(bench.width() - slip.width() - 10, 0), max(bench.height() - slip.height() - 44, 40))

    # --- pictures --------------------------------------------------------------------------------------------------

    def keep_picture(self, name: str | None) -> None:
        """Saves the view with what it shows; name : None chooses a fresh one in the folder for pictures."""
        self._window.bench.once_current(lambda: self._keep_picture(name))

    def _keep_picture(self, name: str | None) -> None:
        window = self._window
        bench = window.bench
        folder, job = window.settings["record.folder"], window.model.title
        names = list(dict.fromkeys(item.name for item in bench.scene.items))
        image = recorded(
            bench.bare_grab(), bench.camera, bench.view_size()[1], names, window.model.job.machine.name, window.palette_worn
        )

        def write() -> tuple[Path, bool]:
            # Named only now: of two pictures in one second the second must see the first.
            path = Path(name) if name else fresh_path(folder, job)
            try:
                path.parent.mkdir(parents=True, exist_ok=True)
                return path, image.save(str(path), "PNG")
            except OSError:
                return path, False

        def tell(written: tuple[Path, bool]) -> None:
            path, saved = written
            if saved:
                window.notices.say(f"The picture is {path.name} in {path.parent}.", False)
            else:
                window.notices.say(f"{path.name} could not be written in {path.parent}; choose another folder.", True)

        # Packing a large picture takes longer than the interface may stand still.
        bench.aside.ask(write, tell)
