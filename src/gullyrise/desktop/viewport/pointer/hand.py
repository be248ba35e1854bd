"""The hand on the view: strokes of mouse, pen and touchpad become camera moves. Plain numbers; no Qt."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Floats
from gullyrise.desktop.pointer.schemes import DEFAULT, READY, Scheme
from gullyrise.desktop.pointer.triggers import Trigger

GESTURE_AFTER = 4.0
"""Pixels of drag that make a click a gesture."""
DEGREES_PER_PIXEL = 0.4
WHEEL_STEP = 1.18
_FINE = 0.15
_ZOOM_PER_PIXEL = 0.008
_AXIS_AFTER = 6.0
_SCROLL_PER_STEP = 60.0
_SKIN = 1e-3
_BURST_WITHIN_S = 0.25
_PLAIN_NOTCHES = 3
_WHOLE = 0.99
"""Of a notch: a wheel or a pad that tells smaller steps has its own way of going faster."""


@dataclass(frozen=True, slots=True)
class Habits:
    """What the user chose. Speeds are factors; `upright` holds the vertical while turning."""

    scheme: Scheme = READY[DEFAULT]
    upright: bool = True
    turn_speed: float = 1.0
    slide_speed: float = 1.0
    zoom_speed: float = 1.0
    invert_zoom: bool = False
    invert_heading: bool = False
    invert_elevation: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Under:
    """What is under the pointer. size : mm, the diagonal of the body there."""

    point: Floats
    size: float


class Host(Protocol):
    """The view that the hand moves."""

    @property
    def camera(self) -> Camera: ...
    def view_size(self) -> tuple[int, int]: ...
    def under(self, x: float, y: float) -> Under | None: ...
    def still_pivot(self) -> Floats: ...
    def parts_size(self) -> float: ...
    def put_camera(self, camera: Camera) -> None: ...
    def clicked(self, button: str, x: float, y: float, keys: frozenset[str]) -> None: ...
    def framed(self, low: tuple[float, float], high: tuple[float, float]) -> None: ...
    def chosen(self, low: tuple[float, float], high: tuple[float, float], keys: frozenset[str]) -> None: ...


@dataclass(slots=True, eq=False)
class Stroke:
    """A drag under way. `keys` : those held when it began, which do not change its manner until let go."""

    gesture: str
    wanted: Trigger | None
    buttons: frozenset[str]
    start: tuple[float, float]
    last: tuple[float, float]
    pivot: Floats
    size: float
    keys: frozenset[str]
    moved: bool = False
    axis: int | None = None

    @property
    def rectangle(self) -> tuple[tuple[float, float], tuple[float, float]]:
        (x0, y0), (x1, y1) = self.start, self.last
        return (min(x0, x1), min(y0, y1)), (max(x0, x1), max(y0, y1))


@dataclass(slots=True, eq=False)
class _Burst:
    """Notches of a wheel towards a surface, one after another without a pause at one place. left : the view after the last"""

    notches: int = 0
    last: float = -math.inf
    place: tuple[float, float] = (0.0, 0.0)
    left: Camera | None = None

    def more(self, camera: Camera, x: float, y: float, now: float) -> float:
        """How many plain notches the next one is worth. The first three are plain; after them each is worth one more than that
        before it, so that who goes on turning the wheel gets through a skin in a dozen, and who goes slowly stays exact."""
        goes_on = now - self.last <= _BURST_WITHIN_S and camera is self.left
        goes_on &= math.hypot(x - self.place[0], y - self.place[1]) <= GESTURE_AFTER
        self.notches = self.notches + 1 if goes_on else 1
        self.last, self.place = now, (x, y)
        return float(max(1, self.notches - _PLAIN_NOTCHES + 1))


class Hand:
    """Holds the stroke under way and moves the host's camera; nothing waits. clock : seconds, for what follows without a pause"""

    def __init__(self, host: Host, clock: Callable[[], float] = time.monotonic) -> None:
        self._host, self._clock = host, clock
        self._burst = _Burst()
        self.habits = Habits()
        self.stroke: Stroke | None = None
        self.next_left: str | None = None
        """A rectangle that was asked for by key: the next left drag makes it, whatever the scheme."""

    def take_up(self, habits: Habits) -> None:
        self.habits = habits

    def expect(self, gesture: str) -> None:
        """The next left drag makes it."""
        self.next_left = gesture

    def left_is_free(self, motion: str) -> bool:
        """Whether a plain left drag, or the pen's tip, looks about in no way, so that it may carry what is chosen."""
        found = self.habits.scheme.match(motion, frozenset({"left"}), frozenset())
        return found is None or found[0] == "choose"

    # --- drags -----------------------------------------------------------------------------------------------------

    def press(self, motion: str, buttons: frozenset[str], x: float, y: float, keys: frozenset[str]) -> None:
        """Buttons went down, all that are held now; a further one makes a new stroke of both."""
        found = self.habits.scheme.match(motion, buttons, keys)
        gesture, wanted = found if found is not None else ("", None)
        if self.next_left is not None and buttons == {"left"}:
            gesture = self.next_left
        under = self._host.under(x, y) if gesture in ("turn", "slide", "zoom", "roll", "dolly") else None
        pivot = under.point if under is not None else self._host.still_pivot()
        moved = self.stroke is not None and self.stroke.moved
        size = under.size if under is not None else self._host.parts_size()
        self.stroke = Stroke(gesture, wanted, buttons, (x, y), (x, y), pivot, size, wanted.keys if wanted else frozenset(), moved)

    def move(self, x: float, y: float, keys: frozenset[str]) -> bool:
        """The pointer moved with buttons held; whether the picture has to follow."""
        stroke = self.stroke
        if stroke is None:
            return False
        stroke.keys &= keys
        dx, dy = x - stroke.last[0], y - stroke.last[1]
        if not stroke.moved:
            if math.hypot(x - stroke.start[0], y - stroke.start[1]) <= GESTURE_AFTER:
                return False
            stroke.moved = True
        stroke.last = (x, y)
        if stroke.gesture in ("frame", "choose"):
            return True
        if not stroke.gesture:
            return False
        held = keys - stroke.keys
        dx, dy = self._one_axis(stroke, dx, dy, held)
        self._host.put_camera(self._dragged(stroke.gesture, dx, dy, held, stroke.pivot, stroke.size))
        return True

    def release(self, x: float, y: float, keys: frozenset[str]) -> None:
        """The first button of a stroke went up, and with it the stroke ends."""
        stroke, self.stroke = self.stroke, None
        if stroke is None:
            return
        if stroke.buttons == {"left"}:
            self.next_left = None
        if not stroke.moved:
            if len(stroke.buttons) == 1:
                self._host.clicked(next(iter(stroke.buttons)), x, y, keys)
            return
        if stroke.gesture in ("frame", "choose"):
            low, high = stroke.rectangle
            if stroke.gesture == "frame" and min(high[0] - low[0], high[1] - low[1]) > GESTURE_AFTER:
                self._host.framed(low, high)
            elif stroke.gesture == "choose":
                self._host.chosen(low, high, keys - stroke.keys)

    def abandon(self) -> None:
        """The stroke under way came to no end that was seen, such as a button let go over another window."""
        self.stroke = None

    def drop(self) -> None:
        """Lets go of a tool in hand; the view stays where it is."""
        self.next_left = None
        if self.stroke is not None and self.stroke.gesture in ("frame", "choose"):
            self.stroke = None

    # --- motions of one or two numbers -----------------------------------------------------------------------------

    def wheel(self, steps: float, x: float, y: float, keys: frozenset[str]) -> bool:
        """A notched wheel, steps away from the user positive."""
        return self._step("wheel", steps, x, y, keys)

    def pinch(self, share: float, x: float, y: float, keys: frozenset[str]) -> bool:
        """Two fingers apart: by what share of the size."""
        if share <= -0.9:
            return False
        return self._step("pinch", math.log1p(share) / math.log(WHEEL_STEP), x, y, keys)

    def twist(self, degrees: float, x: float, y: float, keys: frozenset[str]) -> bool:
        """Two fingers turned about one another."""
        return self._step("two-finger turn", degrees / 15.0, x, y, keys)

    def scroll(self, dx: float, dy: float, x: float, y: float, keys: frozenset[str]) -> bool:
        """Two fingers moved over a touchpad, by pixels."""
        found = self.habits.scheme.match("two-finger scroll", frozenset(), keys)
        if found is None:
            return False
        gesture, wanted = found
        held = keys - wanted.keys
        if gesture in STEPPED_BY_SCROLL:
            return self._stepped(gesture, dy / _SCROLL_PER_STEP, x, y, held)
        under = self._host.under(x, y)
        pivot = under.point if under is not None else self._host.still_pivot()
        if "shift" in held:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        size = under.size if under is not None else self._host.parts_size()
        self._host.put_camera(self._dragged(gesture, dx, dy, held, pivot, size))
        return True

    def _step(self, motion: str, steps: float, x: float, y: float, keys: frozenset[str]) -> bool:
        found = self.habits.scheme.match(motion, frozenset(), keys)
        if found is None or not steps or not math.isfinite(steps):
            return False
        gesture, wanted = found
        return self._stepped(gesture, steps, x, y, keys - wanted.keys)

    def _stepped(self, gesture: str, steps: float, x: float, y: float, held: frozenset[str]) -> bool:
        camera = self._host.camera
        steps = float(np.clip(steps, -40, 40)) * (_FINE if "ctrl" in held else 1.0)
        if gesture == "roll":
            self._host.put_camera(camera.rolled(self._host.still_pivot(), steps * 15.0, upright=self.habits.upright))
            return True
        steps *= self.habits.zoom_speed * (-1 if self.habits.invert_zoom else 1)
        under = self._host.under(x, y)
        if gesture == "dolly":
            self._host.put_camera(self._gone(camera, steps, x, y))
            return True
        if under is None:
            at = self._nowhere(camera, x, y)
            self._host.put_camera(approach(camera, WHEEL_STEP**-steps, at, 0.0))
            return True
        if steps >= _WHOLE and not camera.parallel:
            steps *= self._burst.more(camera, x, y, self._clock())
        skin = _SKIN * under.size
        depth = float((camera.eye - under.point * np.array(camera.stretch)) @ camera.frame()[2])
        nearer = approach(camera, WHEEL_STEP**-steps, under.point, skin)
        # Once through, what comes next behind the skin is come to slowly again.
        self._burst.left = nearer if depth * WHEEL_STEP**-steps >= skin else None
        self._host.put_camera(nearer)
        return True

    # --- the moves themselves --------------------------------------------------------------------------------------

    def _one_axis(self, stroke: Stroke, dx: float, dy: float, held: frozenset[str]) -> tuple[float, float]:
        if "shift" not in held or stroke.gesture not in ("turn", "slide"):
            stroke.axis = None
            return dx, dy
        if stroke.axis is None:
            # The longer way since the stroke began says which axis is meant.
            over = abs(stroke.last[0] - stroke.start[0]), abs(stroke.last[1] - stroke.start[1])
            if max(over) < _AXIS_AFTER:
                return dx, dy
            stroke.axis = 0 if over[0] >= over[1] else 1
        return (dx, 0.0) if stroke.axis == 0 else (0.0, dy)

    def _dragged(self, gesture: str, dx: float, dy: float, held: frozenset[str], pivot: Floats, size: float) -> Camera:
        habits, camera = self.habits, self._host.camera
        fine = _FINE if "ctrl" in held else 1.0
        if gesture == "turn" and "alt" in held:
            gesture = "roll"
        if gesture == "turn":
            across = -dx * DEGREES_PER_PIXEL * habits.turn_speed * fine * (-1 if habits.invert_heading else 1)
            over = dy * DEGREES_PER_PIXEL * habits.turn_speed * fine * (-1 if habits.invert_elevation else 1)
            if habits.upright:
                return camera.turned(pivot, across, over)
            return camera.turned_freely(pivot, across, over)
        if gesture == "roll":
            return camera.rolled(pivot, dx * DEGREES_PER_PIXEL * habits.turn_speed * fine, upright=habits.upright)
        if gesture == "zoom":
            factor = math.exp(dy * _ZOOM_PER_PIXEL * habits.zoom_speed * fine * (-1 if habits.invert_zoom else 1))
            return approach(camera, factor, pivot, _SKIN * size)
        if gesture == "dolly":
            return self._gone(camera, -dy * 0.05 * fine, *(side / 2 for side in self._host.view_size()))
        width, height = self._host.view_size()
        mm = camera.span / max(height, 1) * habits.slide_speed * fine
        if not camera.parallel:
            depth = float(camera.to_picture(pivot[None], width, height)[0, 2])
            mm *= max(depth, 1e-6) / camera.distance
        return camera.slid(-dx * mm, dy * mm)

    def _gone(self, camera: Camera, steps: float, x: float, y: float) -> Camera:
        """Straight on by steps of a size that the parts set, through whatever is there."""
        if camera.lent:
            width, height = self._host.view_size()
            camera = camera.swapped(float(camera.to_picture(self._host.still_pivot()[None], width, height)[0, 2]))
        if camera.parallel:
            # Without an eye there is no going on: what a step would bring nearer is brought nearer by zooming.
            return camera.zoomed(WHEEL_STEP**-steps, self._nowhere(camera, x, y))
        step = 0.04 * self._host.parts_size()
        at = camera.from_picture(x, y, camera.distance, *self._host.view_size())
        along = at * np.array(camera.stretch) - camera.eye
        return camera.gone(steps * step, along / np.linalg.norm(along))

    def _nowhere(self, camera: Camera, x: float, y: float) -> Floats:
        """A point under the pointer where nothing is: as far as the parts are, so that no step is lost in the void."""
        width, height = self._host.view_size()
        depth = float(camera.to_picture(self._host.still_pivot()[None], width, height)[0, 2])
        least = 0.1 * self._host.parts_size()
        return camera.from_picture(x, y, camera.distance if camera.parallel else max(depth, least), width, height)


STEPPED_BY_SCROLL = frozenset({"zoom", "dolly"})


def approach(camera: Camera, factor: float, at: Floats, skin: float) -> Camera:
    """One zoom step at a point of the room: a share of the way to it, so that steps never stall.

    skin : mm; where a perspective step would come nearer to the surface than this, it goes through to its other side.
    """
    if camera.parallel:
        return camera.zoomed(factor, at)
    drawn = at * np.array(camera.stretch)
    depth = float((camera.eye - drawn) @ camera.frame()[2])
    if depth <= 0:
        return camera.zoomed(factor, at)
    rested = camera.resting_on(depth)
    if factor < 1 and depth * factor < skin:
        along = drawn - camera.eye
        length = float(np.linalg.norm(along))
        return rested.gone(length + skin, along / max(length, 1e-300))
    return rested.zoomed(factor, at)
