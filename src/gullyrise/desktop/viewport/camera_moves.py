"""Where the panes look from: going to views, gliding there, coming to rest, and the way back."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.camera.camera import NAMED, NOTHING_KEPT, Camera, Kept
from gullyrise.core.geometry import Floats
from gullyrise.desktop.viewport.aim import Aim
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.desktop.widgets.timers import every, once
from gullyrise.drawing.legend import LEGEND_WIDTH, legend_rows

_STILL_AFTER_MS, _RESTED_AFTER_MS, _GLIDE_STEP_MS = 80, 140, 16
"""The picture at rest begins before the view counts as one to go back to: between two notches of a wheel is no rest."""
_TOP, _FOOT, _SIDE = 72, 44, 12
"""px that the view's name with the bar of picks, the scale bar and a border take."""


@dataclass(slots=True, eq=False)
class _Glide:
    """A way from one view to another in one pane."""

    pane: Pane
    start: Camera
    end: Camera
    since: float


class CameraMoves(QObject):
    """changed : the active pane looks from elsewhere;  stroking : asked whether the hand is moving the view just now"""

    changed = pyqtSignal()

    def __init__(self, pictures: Pictures, aim: Aim, stroking: Callable[[], bool]) -> None:
        super().__init__(pictures)
        self._pictures, self._panes, self._aim, self._stroking = pictures, pictures.panes, aim, stroking
        self._glide_ms, self._named_parallel, self._upright = 200, True, True
        self._fit_when_sized = True
        self._glide: _Glide | None = None
        self._glide_timer = every(self, _GLIDE_STEP_MS, self._glide_step)
        self._still = once(self, _STILL_AFTER_MS, self._come_to_rest)
        self._rested = once(self, _RESTED_AFTER_MS - _STILL_AFTER_MS, self._keep_to_go_back)

    def prefer(self, *, glide_ms: int, named_parallel: bool, upright: bool) -> None:
        """named_parallel : views that have a name are shown parallel until they are turned;  upright : the vertical stays so"""
        self._glide_ms, self._named_parallel, self._upright = glide_ms, named_parallel, upright

    @property
    def camera(self) -> Camera:
        """The view of the active pane."""
        return self._panes.active.camera

    @property
    def on_the_way(self) -> Camera:
        """The view to which the active pane is on its way, so that a second key stroke builds on the first without waiting."""
        return self.camera if self._glide is None else self._glide.end

    @property
    def _kept(self) -> Kept:
        """What stands over the sides of the picture and must not hide what is framed; in the panes of four nothing does."""
        if len(self._panes.shown) > 1:
            return NOTHING_KEPT
        left = LEGEND_WIDTH + _SIDE if legend_rows(self._pictures.scene) else _SIDE
        return (left, _TOP, _SIDE, _FOOT)

    @property
    def gliding(self) -> bool:
        return self._glide is not None

    @property
    def at_rest(self) -> bool:
        return not self._pictures.moving and self._glide is None and not self._still.isActive()

    @property
    def subject_size(self) -> float:
        """mm from corner to corner of what is to be in view."""
        return self._pictures.scene.subject.diagonal

    # --- to views --------------------------------------------------------------------------------------------------

    def look(self, view: str) -> None:
        """Glides to a named view of all."""
        _, heading, elevation = NAMED[view]
        looking = self._lent_to(self.on_the_way.looking(heading, elevation, 0.0))
        self.glide_to(looking.framing(self._pictures.scene.subject, *self._aim.size, self._kept))

    def _lent_to(self, camera: Camera) -> Camera:
        """A view that stands for itself, along an axis or straight at a face: parallel, where that is wanted."""
        return camera.lending() if self._named_parallel else camera

    def frame_all(self, *, glide: bool = True) -> None:
        """Everything in view, looked at from where it was; upright again where the vertical is to be upright."""

        def home(camera: Camera, size: tuple[int, int]) -> Camera:
            levelled = replace(camera, roll=0.0) if self._upright else camera
            return levelled.framing(self._pictures.scene.subject, *size, self._kept)

        others = [pane for pane in self._panes.shown if pane is not self._panes.active]
        for pane in others if glide else self._panes.shown:
            self._set_camera(home(pane.camera, pane.size()), pane)
        if glide:
            self.glide_to(home(self.on_the_way, self._aim.size))
        else:
            self._fit_when_sized = not self._pictures.started

    def fit_to_size(self) -> None:
        """The viewport has another size: all is brought into view until the first picture was drawn."""
        if self._fit_when_sized:
            self._panes.active.look(self.camera.framing(self._pictures.scene.subject, *self._aim.size, self._kept))
            self.changed.emit()

    def frame_selection(self) -> None:
        box = self._pictures.scene.chosen_box
        if box is not None:
            self.glide_to(self.on_the_way.framing(box, *self._aim.size, self._kept))

    def frame_rectangle(self, low: tuple[float, float], high: tuple[float, float]) -> None:
        """Zooms to a rectangle of the active pane, px: what is at its middle keeps its distance."""
        under = self._aim.under(((low[0] + high[0]) / 2, (low[1] + high[1]) / 2))
        point = self._pictures.scene.pivot if under is None else under.point
        depth = float(self.camera.to_picture(point[None], *self._aim.size)[0, 2])
        self.glide_to(self.camera.onto(low, high, depth, *self._aim.size))

    def fly_to(self, place: Floats, outward: Floats, span: float) -> None:
        """Glides to a close look at a place from a side where it can be seen; of four panes in the free one."""
        if len(self._panes.shown) > 1:
            self._panes.activate(self._panes.free)
        heading, elevation = self._bearing_of(outward)
        elevation = float(np.clip(elevation, -80, 80))
        self.glide_to(replace(self.on_the_way.looking(heading, elevation, 0.0), target=place, span=span))

    def look_straight(self, place: Floats, outward: Floats) -> None:
        """Glides to look straight at a face, with the place in the middle."""
        heading, elevation = self._bearing_of(outward / np.array(self.camera.stretch))
        before = self.on_the_way
        camera = self._lent_to(before.looking(heading, elevation, 0.0))
        depth = float(before.to_picture(place[None], *self._aim.size)[0, 2])
        span = before.span if before.parallel else before.span * max(depth, 1e-6) / before.distance
        self.glide_to(replace(camera, target=place, span=span))

    def _bearing_of(self, outward: Floats) -> tuple[float, float]:
        level = float(np.hypot(outward[0], outward[1]))
        heading = float(np.degrees(np.arctan2(outward[0], -outward[1]))) if level > 1e-6 else self.camera.heading
        return heading, float(np.degrees(np.arctan2(outward[2], level)))

    def swap_projection(self) -> None:
        """What is in the middle of the picture keeps its size."""
        self.arrive()
        width, height = self._aim.size
        under = self._aim.under((width / 2, height / 2))
        middle = self._pictures.scene.pivot if under is None else under.point
        self._set_camera(self.camera.swapped(float(self.camera.to_picture(middle[None], width, height)[0, 2])))

    def change_field(self, degrees: float) -> None:
        """Another field of view for every perspective picture."""
        self.arrive()
        for pane in (*self._panes.flat, self._panes.free):
            pane.look(pane.camera.with_field(degrees))
        self._set_camera(self.camera)
        self._pictures.ask_all()

    def draw_out(self, stretch: tuple[float, float, float]) -> None:
        """Stretches the picture; what was in the middle stays there."""
        self.arrive()
        for pane in (*self._panes.flat, self._panes.free):
            pane.look(pane.camera.drawn_out(stretch))
        self._set_camera(self.camera)
        self._pictures.ask_all()

    def turn_by(self, heading: float, elevation: float) -> None:
        camera = self.on_the_way
        if self._upright:
            self.glide_to(camera.turned(self._pictures.scene.pivot, heading, elevation))
        else:
            self.glide_to(camera.turned_freely(self._pictures.scene.pivot, heading, elevation))

    def go_on(self, share: float) -> None:
        """Straight on, or back, by a share of what is there; without an eye there is no going on, so it comes nearer."""
        if self.camera.parallel:
            self.zoom_by(0.8 if share > 0 else 1.25)
        else:
            self.glide_to(self.on_the_way.gone(share * self.subject_size))

    def roll_by(self, degrees: float) -> None:
        self.glide_to(self.on_the_way.rolled(self._pictures.scene.pivot, degrees, upright=self._upright))

    def slide_by(self, right: float, up: float) -> None:
        """Slides by shares of the picture's height."""
        span = self.on_the_way.span
        self.glide_to(self.on_the_way.slid(right * span, up * span))

    def zoom_by(self, factor: float) -> None:
        self.glide_to(self.on_the_way.zoomed(factor, self._pictures.scene.pivot))

    def centre_pointer(self) -> None:
        """Brings what is under the pointer to the middle."""
        hit, pointer = self._aim.hit_under_pointer(), self._aim.place
        place = hit.point if hit is not None else self._aim.bed_at(pointer) if pointer is not None else None
        if place is not None:
            self.glide_to(replace(self.on_the_way, target=place))

    def go(self, *, back: bool) -> None:
        """To the view before, or after."""
        trail = self._panes.active.trail
        trail.rest(self.on_the_way)
        found = trail.back() if back else trail.forward()
        if found is not None:
            self.glide_to(found, keep=False)

    # --- on the way ------------------------------------------------------------------------------------------------

    def glide_to(self, camera: Camera, *, keep: bool = True) -> None:
        """keep : the view that is left can be gone back to."""
        if keep and self._glide is None:
            self._panes.active.trail.rest(self.camera)
        if self._glide_ms <= 0:
            self._glide = None
            self._set_camera(camera)
            self._still.start()
            return
        # The rest after a stroke that ended just now would take a view on the way for one that was stopped at.
        self._still.stop()
        self._glide = _Glide(self._panes.active, self.camera, camera, time.monotonic())
        self._glide_timer.start()
        self._pictures.set_moving(True)

    def arrive(self) -> None:
        """Ends a glide at once: what changes a view must not be undone by the rest of the way."""
        glide, self._glide = self._glide, None
        self._glide_timer.stop()
        if glide is not None:
            glide.pane.look(glide.end)
            self._stand(glide.pane)

    def swing(self, heading: float | None, elevation: float | None, *, glide: bool = True) -> None:
        """Turns to a bearing; None leaves that part of it. A drag does not glide."""
        start = self.on_the_way if glide else self.camera
        to_heading = start.heading if heading is None else heading
        to_elevation = start.elevation if elevation is None else elevation
        if glide and heading is not None and elevation is None and abs(start.elevation) > 80:
            to_elevation = 0.0
        wanted = start.about(self._pictures.scene.pivot, start.looking(to_heading, to_elevation, 0.0))
        if glide:
            self.glide_to(self._lent_to(wanted) if wanted.is_named else wanted)
        else:
            self.put_camera(wanted)

    def put_camera(self, camera: Camera) -> None:
        """The hand moved the view."""
        self._begin_moving()
        self._set_camera(camera)

    def _set_camera(self, camera: Camera, pane: Pane | None = None) -> None:
        target = pane or self._panes.active
        target.look(camera)
        self._pictures.ask(target)
        self.changed.emit()

    def keep_moving(self) -> None:
        """Something on the bench is being carried: pictures are those of motion until it has stood for a moment."""
        self._pictures.set_moving(True)
        self._still.start()

    def _begin_moving(self) -> None:
        self._glide = None
        self._glide_timer.stop()
        if not self._pictures.moving and not self._rested.isActive():
            self._panes.active.trail.rest(self.camera)
        self._rested.stop()
        self._pictures.set_moving(True)
        self._still.start()

    def halt(self) -> None:
        """A stroke begins: the view stays where it is on its way."""
        if self._glide is not None:
            self._glide = None
            self._glide_timer.stop()
            self._still.start()

    def rest_soon(self) -> None:
        """A stroke has ended."""
        self._still.start()

    def _come_to_rest(self) -> None:
        if self._stroking():
            self._still.start()
            return
        self._stand(self._panes.active)
        self._rested.start()

    def _keep_to_go_back(self) -> None:
        if not self._pictures.moving:
            self._panes.active.trail.rest(self.camera)

    def _stand(self, pane: Pane | None = None) -> None:
        """Asks for the picture of a pane that stands now, and of those that the pointer left before they came to rest."""
        self._pictures.set_moving(False)
        for one in self._panes.shown:
            if one is pane or one.in_motion:
                self._pictures.ask(one)

    def _glide_step(self) -> None:
        glide = self._glide
        if glide is None:
            self._glide_timer.stop()
            return
        share = min((time.monotonic() - glide.since) * 1000 / self._glide_ms, 1.0)
        if share >= 1.0:
            self._glide = None
            self._glide_timer.stop()
            self._pictures.set_moving(False)
            self._set_camera(glide.end, glide.pane)
            self._stand()
            glide.pane.trail.rest(glide.end)
            return
        self._set_camera(glide.start.between(glide.end, share * share * (3 - 2 * share)), glide.pane)
