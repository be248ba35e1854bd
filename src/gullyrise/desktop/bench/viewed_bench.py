"""The bench as views: going to them, gliding there, coming to rest, and the way back."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import cast

import numpy as np
from PyQt6.QtCore import pyqtSignal

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Floats
from gullyrise.core.machines import Machine
from gullyrise.desktop.bench.drawn_bench import DrawnBench
from gullyrise.desktop.bench.panes import Pane
from gullyrise.desktop.bench.picking import Finder
from gullyrise.desktop.bench.pointer.hand import Hand, Host
from gullyrise.drawing.camera import NAMED, Camera
from gullyrise.drawing.colour_maps import Scale
from gullyrise.drawing.display import PLAIN, Display
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.scene import Carry, Item, Scene

_STILL_AFTER_MS = 140
_LOOK_EVERY_MS, _MOST_WAITED_S = 20, 20.0


@dataclass(slots=True, eq=False)
class _Glide:
    """A way from one view to another in one pane."""

    pane: Pane
    start: Camera
    end: Camera
    since: float


class ViewedBench(DrawnBench):
    """camera_changed : the active pane looks from elsewhere."""

    camera_changed = pyqtSignal()

    def __init__(self, palette: Palette, machine: Machine) -> None:
        super().__init__(palette, machine)
        # What the hand does beyond looking is the affair of the view that has parts to choose.
        self.hand = Hand(cast(Host, self))
        self.glide_ms = 200
        self.named_parallel = True
        """Whether views that have a name are shown parallel until they are turned."""
        self._fit_when_sized = True
        self._met: set[int] = set()
        self._hovered: int | None = None
        self._glide: _Glide | None = None
        self._glide_timer = self._timer(16, self._glide_step)
        self._waiting: list[tuple[float, Callable[[], None]]] = []
        self._wait_timer = self._timer(_LOOK_EVERY_MS, self._call_waiting, once=True)
        self._still = self._timer(_STILL_AFTER_MS, self._come_to_rest, once=True)
        self.dial.swung.connect(self.swing)
        self.dial.dragged.connect(lambda heading, elevation: self.swing(heading, elevation, glide=False))

    def show_scene(
        self,
        items: tuple[Item, ...],
        machine: Machine,
        palette: Palette,
        cuts: tuple[Cut, ...],
        *,
        out: bool,
        display: Display = PLAIN,
        beds: int = 1,
        carry: Carry | None = None,
        angles: Scale | None = None,
    ) -> None:
        """Draws these items on that machine."""
        # Hiding and showing must not move the view; other parts or another machine must.
        owners = {item.owner for item in items}
        fresh = machine is not self.scene.machine or not owners <= self._met
        self._met |= owners
        first = not self.scene.items
        old = self.scene
        same = (items is old.items, machine is old.machine, palette is old.palette, cuts == old.cuts, out == old.out_of_room)
        if all(same) and display == old.display and beds == old.beds and carry is old.carry and angles == old.angles:
            # Flags and chosen features are painted over the picture, which itself is as it was.
            self.update()
            return
        self._palette = palette
        self.scene = Scene(items, machine, palette, cuts, out, display, beds, carry, angles)
        self.finder = Finder(self.scene)
        self._hovered = None
        self.dial.show_camera(self.camera, palette)
        if fresh and (first or not self._still_sees_all(items)):
            self.frame_all(glide=False)
        self._ask_all()

    def _still_sees_all(self, items: tuple[Item, ...]) -> bool:
        size = self.panes.active.size()
        for item in items:
            seen = self.camera.to_picture(item.box.corners(), *size)
            inside = (seen[:, :2] > 0).all(axis=1) & (seen[:, 0] < size[0]) & (seen[:, 1] < size[1])
            if not bool(np.isfinite(seen[:, 0]).all() and inside.all()):
                return False
        return True

    @property
    def is_current(self) -> bool:
        """Whether every pane shows the newest request, standing still."""
        at_rest = not self._moving and self._glide is None and not self._still.isActive()
        whole = all(
            pane.frame is not None and pane.frame.final and pane.shown == pane.frame.request.number == pane.asked
            for pane in self.panes.shown
        )
        lens = self._lens is None or self._lens.shown == self._lens.asked
        return self._started and at_rest and whole and lens

    def once_current(self, then: Callable[[], None]) -> None:
        """Calls back as soon as the newest picture stands, or after a while in any case: a picture that is kept shows the view
        that was asked for, and not the one before it."""
        self._waiting.append((time.monotonic(), then))
        self._call_waiting()

    @property
    def is_waited_for(self) -> bool:
        """Whether something is to be done as soon as the newest picture stands."""
        return bool(self._waiting)

    def _call_waiting(self) -> None:
        now = time.monotonic()
        while self._waiting and (self.is_current or now - self._waiting[0][0] > _MOST_WAITED_S):
            self._waiting.pop(0)[1]()
        if self._waiting:
            self._wait_timer.start()

    def look(self, view: str) -> None:
        """Glides to a named view of all."""
        _, heading, elevation = NAMED[view]
        looking = self._lent_to(self.on_the_way.looking(heading, elevation, 0.0))
        self.glide_to(looking.framing(self._subject(), *self.view_size()))

    def _lent_to(self, camera: Camera) -> Camera:
        """A view that stands for itself, along an axis or straight at a face: parallel, where that is wanted."""
        return camera.lending() if self.named_parallel else camera

    def frame_all(self, *, glide: bool = True) -> None:
        """Everything in view, looked at from where it was; upright again where the vertical is to be upright."""

        def home(camera: Camera, size: tuple[int, int]) -> Camera:
            levelled = replace(camera, roll=0.0) if self.hand.habits.upright else camera
            return levelled.framing(self._subject(), *size)

        others = [pane for pane in self.panes.shown if pane is not self.panes.active]
        for pane in others if glide else self.panes.shown:
            self._set_camera(home(pane.camera, pane.size()), pane)
        if glide:
            self.glide_to(home(self.on_the_way, self.view_size()))
        else:
            self._fit_when_sized = not self._started

    def frame_selection(self) -> None:
        box = self._selected_box()
        if box is not None:
            self.glide_to(self.on_the_way.framing(box, *self.view_size()))

    def fly_to(self, place: Floats, outward: Floats, span: float) -> None:
        """Glides to a close look at a place from a side where it can be seen; of four panes in the free one."""
        if len(self.panes.shown) > 1:
            self.panes.active = self.panes.free
        heading, elevation = self._bearing_of(outward)
        elevation = float(np.clip(elevation, -80, 80))
        self.glide_to(replace(self.on_the_way.looking(heading, elevation, 0.0), target=place, span=span))

    def look_straight(self, place: Floats, outward: Floats) -> None:
        """Glides to look straight at a face, with the place in the middle."""
        heading, elevation = self._bearing_of(outward / np.array(self.camera.stretch))
        before = self.on_the_way
        camera = self._lent_to(before.looking(heading, elevation, 0.0))
        depth = float(before.to_picture(place[None], *self.view_size())[0, 2])
        span = before.span if before.parallel else before.span * max(depth, 1e-6) / before.distance
        self.glide_to(replace(camera, target=place, span=span))

    def _bearing_of(self, outward: Floats) -> tuple[float, float]:
        level = float(np.hypot(outward[0], outward[1]))
        heading = float(np.degrees(np.arctan2(outward[0], -outward[1]))) if level > 1e-6 else self.camera.heading
        return heading, float(np.degrees(np.arctan2(outward[2], level)))

    def swap_projection(self) -> None:
        """What is in the middle of the picture keeps its size."""
        self._arrive()
        width, height = self.view_size()
        under = self.under(width / 2, height / 2)
        middle = self.still_pivot() if under is None else under.point
        self._set_camera(self.camera.swapped(float(self.camera.to_picture(middle[None], width, height)[0, 2])))

    def change_field(self, degrees: float) -> None:
        """Another field of view for every perspective picture."""
        self._arrive()
        for pane in (*self.panes.flat, self.panes.free):
            pane.camera = pane.camera.with_field(degrees)
        self._set_camera(self.camera)
        self._ask_all()

    def draw_out(self, stretch: tuple[float, float, float]) -> None:
        """Stretches the picture; what was in the middle stays there."""
        self._arrive()
        for pane in (*self.panes.flat, self.panes.free):
            pane.camera = pane.camera.drawn_out(stretch)
        self._set_camera(self.camera)
        self._ask_all()

    def turn_by(self, heading: float, elevation: float) -> None:
        camera = self.on_the_way
        if self.hand.habits.upright:
            self.glide_to(camera.turned(self.still_pivot(), heading, elevation))
        else:
            self.glide_to(camera.turned_freely(self.still_pivot(), heading, elevation))

    def roll_by(self, degrees: float) -> None:
        self.glide_to(self.on_the_way.rolled(self.still_pivot(), degrees, upright=self.hand.habits.upright))

    def slide_by(self, right: float, up: float) -> None:
        """Slides by shares of the picture's height."""
        span = self.on_the_way.span
        self.glide_to(self.on_the_way.slid(right * span, up * span))

    def zoom_by(self, factor: float) -> None:
        self.glide_to(self.on_the_way.zoomed(factor, self.still_pivot()))

    def centre_pointer(self) -> None:
        """Brings what is under the pointer to the middle."""
        hit = self.hit_under_pointer()
        place = hit.point if hit is not None else self._bed_under_pointer()
        if place is not None:
            self.glide_to(replace(self.on_the_way, target=place))

    def go(self, *, back: bool) -> None:
        """To the view before, or after."""
        trail = self.panes.active.trail
        trail.rest(self.on_the_way)
        found = trail.back() if back else trail.forward()
        if found is not None:
            self.glide_to(found, keep=False)

    def set_four(self, four: bool) -> None:
        self._arrive()
        self.panes.set_four(four)
        self._lay_out()
        if four:
            for pane in self.panes.flat:
                pane.camera = pane.camera.drawn_out(self.camera.stretch).framing(self._subject(), *pane.size())
        self.dial.show_camera(self.camera, self._palette)
        self._ask_all()

    def enlarge(self) -> None:
        self.panes.enlarge()
        self._lay_out()
        self._ask_all()

    @property
    def on_the_way(self) -> Camera:
        """The view to which the bench is on its way, so that a second key stroke builds on the first without waiting."""
        return self.camera if self._glide is None else self._glide.end

    def glide_to(self, camera: Camera, *, keep: bool = True) -> None:
        """keep : the view that is left can be gone back to."""
        if keep and self._glide is None:
            self.panes.active.trail.rest(self.camera)
        if self.glide_ms <= 0:
            self._glide = None
            self._set_camera(camera)
            self._still.start()
            return
        # The rest after a stroke that ended just now would take a view on the way for one that was stopped at.
        self._still.stop()
        self._glide = _Glide(self.panes.active, self.camera, camera, time.monotonic())
        self._glide_timer.start()
        self._moving = True

    def _arrive(self) -> None:
        """Ends a glide at once: what changes a view must not be undone by the rest of the way."""
        glide, self._glide = self._glide, None
        self._glide_timer.stop()
        if glide is not None:
            glide.pane.camera = glide.end
            self._stand(glide.pane)

    def swing(self, heading: float | None, elevation: float | None, *, glide: bool = True) -> None:
        """Turns to a bearing; None leaves that part of it. A drag does not glide."""
        start = self.on_the_way if glide else self.camera
        to_heading = start.heading if heading is None else heading
        to_elevation = start.elevation if elevation is None else elevation
        if glide and heading is not None and elevation is None and abs(start.elevation) > 80:
            to_elevation = 0.0
        wanted = start.about(self.still_pivot(), start.looking(to_heading, to_elevation, 0.0))
        if glide:
            self.glide_to(self._lent_to(wanted) if wanted.is_named else wanted)
        else:
            self.put_camera(wanted)

    def put_camera(self, camera: Camera) -> None:
        """The hand moved the view."""
        self._begin_moving()
        self._set_camera(camera)

    def _set_camera(self, camera: Camera, pane: Pane | None = None) -> None:
        target = pane or self.panes.active
        target.camera = camera
        self.dial.show_camera(self.camera, self._palette)
        self._ask(target)
        self.camera_changed.emit()

    @property
    def in_motion(self) -> bool:
        """Whether pictures are those of motion, so that one is on its way."""
        return self._moving

    def keep_moving(self) -> None:
        """Something on the bench is being carried: pictures are those of motion until it has stood for a moment."""
        self._moving = True
        self._still.start()

    def _begin_moving(self) -> None:
        self._glide = None
        self._glide_timer.stop()
        if not self._moving:
            self.panes.active.trail.rest(self.camera)
        self._moving = True
        self._still.start()

    def _come_to_rest(self) -> None:
        if self.hand.stroke is not None and self.hand.stroke.moved:
            self._still.start()
            return
        self.panes.active.trail.rest(self.camera)
        self._stand(self.panes.active)

    def _stand(self, pane: Pane | None = None) -> None:
        """Asks for the picture of a pane that stands now, and of those that the pointer left before they came to rest."""
        self._moving = False
        for one in self.panes.shown:
            if one is pane or one.in_motion:
                self._ask(one)

    def _glide_step(self) -> None:
        glide = self._glide
        if glide is None:
            self._glide_timer.stop()
            return
        share = min((time.monotonic() - glide.since) * 1000 / self.glide_ms, 1.0)
        if share >= 1.0:
            self._glide = None
            self._glide_timer.stop()
            self._moving = False
            self._set_camera(glide.end, glide.pane)
            self._stand()
            glide.pane.trail.rest(glide.end)
            return
        self._set_camera(glide.start.between(glide.end, share * share * (3 - 2 * share)), glide.pane)

    def _lay_out(self) -> None:
        self.panes.lay_out(self.width(), self.height())
        self.dial.settle(self.size(), self.panes.free.rect if len(self.panes.shown) > 1 else self.rect())
