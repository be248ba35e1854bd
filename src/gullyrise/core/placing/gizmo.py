"""The tray under what is chosen: a frame on the bed with tabs, pegs, knobs and a mast, by which it is carried, turned and lifted.

Plain numbers; no Qt. Grips are places of the room; what a drag of one does is worked out from rays, so that what was taken hold
of stays under the pointer.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from gullyrise.core.errors import MeasureError
from gullyrise.core.geometry import Box, Floats, Points, Transform, by_ray
from gullyrise.core.measuring.typed import Typed, several, typed
from gullyrise.core.placing.moves import about, rounded

Grip = Literal["carry", "x", "y", "lift", "spin", "tilt-x", "tilt-y"]
GRIPS: dict[Grip, tuple[str, str]] = {
    "carry": ("Carries it over the bed", "mm"),
    "x": ("Moves it along X", "mm"),
    "y": ("Moves it along Y", "mm"),
    "lift": ("Lifts it off the bed, or lowers it", "mm"),
    "spin": ("Turns it about the vertical", "°"),
    "tilt-x": ("Tilts it about X", "°"),
    "tilt-y": ("Tilts it about Y", "°"),
}
"""What each does, and the unit of its amount."""
AXES: dict[Grip, int] = {"x": 0, "y": 1, "lift": 2, "spin": 2, "tilt-x": 0, "tilt-y": 1}
REACH = 11.0
"""Pixels from a grip within which the pointer holds it."""
_OUT = 0.06
_LEAST_OUT, _MOST_OUT = 3.0, 20.0
_EDGE_ON = 0.12
_PIXELS_PER_SIZE = 200.0
_DEGREES_PER_PIXEL = 0.5


@dataclass(frozen=True, slots=True, eq=False)
class Gizmo:
    """box : round what is chosen, as it stands, mm
    least : mm by which the frame must stand out, where grips would crowd
    aside : mm by which the upper grips stand further out than those below them, where they are seen from above or below
    """

    box: Box
    least: float = 0.0
    aside: float = 0.0

    @property
    def out(self) -> float:
        """mm by which the frame stands out beyond the box."""
        return max(float(np.clip(_OUT * self.box.diagonal, _LEAST_OUT, _MOST_OUT)), self.least)

    def frame(self) -> Points:
        """(4, 3) corners of the frame at the foot of the things: front left, front right, back right, back left."""
        low, high, z = self.box.low - self.out, self.box.high + self.out, self.box.low[2]
        return np.array([[low[0], low[1], z], [high[0], low[1], z], [high[0], high[1], z], [low[0], high[1], z]])

    def places(self) -> list[tuple[Grip, Floats]]:
        """Where each grip is. The vertical can be turned by three corners."""
        front_left, front_right, back_right, back_left = self.frame()
        top, high, aside = self.box.high[2] + self.out, self.box.high[2], self.aside
        right, front = (front_right + back_right) / 2, (front_left + front_right) / 2
        return [
            ("carry", front_right),
            ("spin", front_left),
            ("spin", back_right),
            ("spin", back_left),
            ("x", right),
            ("y", front),
            ("lift", np.array([back_left[0] - aside, back_left[1] + aside, top])),
            ("tilt-x", np.array([right[0] + aside, right[1], high])),
            ("tilt-y", np.array([front[0], front[1] - aside, high])),
        ]

    def posts(self) -> list[tuple[Floats, Floats]]:
        """Upright lines: the mast, and the stalks of the tilting knobs."""
        places = dict(self.places())
        back_left = self.frame()[3]
        return [
            (back_left, places["lift"]),
            (places["x"], places["tilt-x"]),
            (places["y"], places["tilt-y"]),
        ]


@dataclass(slots=True, eq=False)
class Hold:
    """A grip in the hand.

    box : of the things when it was taken
    at : the place in the room that was taken
    amount : (dx, dy) of a carry, else (mm or degrees, 0), as dragged so far and not yet rounded
    flat : whether its axis was seen end on, or its circle edge on, when it was taken: a drag does not change its way half-way
    sight : the direction of the ray that took it
    """

    grip: Grip
    box: Box
    at: Floats
    last: Floats | None = None
    amount: Floats = field(default_factory=lambda: np.zeros(2))
    flat: bool | None = None
    sight: Floats | None = None

    def drag(
        self, origin: Floats, direction: Floats, pixels: tuple[float, float], keys: frozenset[str], step: float, turn_step: float
    ) -> Floats:
        """The amount after the pointer's ray has moved there. keys : ctrl makes it fine, shift keeps a carry to one axis, alt
        snaps to `step` mm and `turn_step` degrees."""
        now = self._reading(origin, direction, pixels)
        change = np.zeros(2)
        if now is not None:
            # Above the horizon the pointer says nothing: what it holds stays where it was last.
            change = now - (now if self.last is None else self.last)
            self.last = now
        if self.grip in ("spin", "tilt-x", "tilt-y"):
            # The shorter way round.
            change = (change + 180.0) % 360.0 - 180.0
        self.amount = self.amount + change * (0.1 if "ctrl" in keys else 1.0)
        shown = self.amount.copy()
        if self.grip == "carry" and "shift" in keys:
            shown[int(np.argmin(np.abs(shown)))] = 0.0
        turning = GRIPS[self.grip][1] == "°"
        fine = (0.1 if turning else 0.01) if "ctrl" in keys else (1.0 if turning else 0.1)
        unit = (turn_step if turning else step) if "alt" in keys else fine
        return np.array([rounded(float(value), unit) for value in shown])

    def _reading(self, origin: Floats, direction: Floats, pixels: tuple[float, float]) -> Floats | None:
        """What the pointer says now, of which only changes count; None where it points at nothing of the kind."""
        if self.grip == "carry":
            place = by_ray.on_plane(origin, direction, self.at, np.array([0.0, 0, 1]))
            return None if place is None else place[:2]
        axis = np.eye(3)[AXES[self.grip]]
        if GRIPS[self.grip][1] == "mm":
            if self.flat is None:
                self.flat = by_ray.is_end_on(direction, axis)
            if self.flat:
                # Seen from its end an axis is a point: the pointer's way up goes along it, away from the eye or off the bed.
                sign = 1.0 if self.grip == "lift" else float(np.sign(direction @ axis))
                return np.array([-pixels[1] * sign * self.box.diagonal / _PIXELS_PER_SIZE, 0.0])
            self.sight = direction if self.sight is None else self.sight
            far = by_ray.along(origin, direction, self.at, axis, self.sight)
            return None if far is None else np.array([far, 0.0])
        if self.flat is None:
            self.flat = abs(float(direction @ axis)) < _EDGE_ON
        if self.flat:
            # Seen from its edge a circle is a line: the way of the pointer turns it instead.
            return np.array([(pixels[0] + pixels[1]) * _DEGREES_PER_PIXEL, 0.0])
        met = by_ray.on_plane(origin, direction, self.at, axis)
        if met is None:
            return None
        across = np.roll(np.eye(3), -AXES[self.grip] - 1, axis=0)[:2] @ (met - self.box.middle)
        return np.array([float(np.degrees(np.arctan2(across[1], across[0]))), 0.0])


def move_of(grip: Grip, amount: Floats, box: Box) -> Transform:
    """The move of the machine's space that an amount of a grip makes of what stands in a box."""
    if grip == "carry":
        return Transform.moved(np.array([amount[0], amount[1], 0.0]))
    axis = np.eye(3)[AXES[grip]]
    if GRIPS[grip][1] == "mm":
        return Transform.moved(axis * amount[0])
    return about(box.middle, Transform.turned(axis, float(amount[0])))


def words_of(grip: Grip, amount: Floats) -> str:
    """An amount to read beside its grip."""
    if grip == "carry":
        return f"X {amount[0]:+.2f}   Y {amount[1]:+.2f} mm"
    if GRIPS[grip][1] == "mm":
        return f"{'XYZ'[AXES[grip]]} {amount[0]:+.2f} mm"
    return f"{amount[0]:+.1f}° about {'XYZ'[AXES[grip]]}"


def amount_from(grip: Grip, words: str) -> Floats:
    """An amount that was typed: one number, or two for a carry. Raises MeasureError with a sentence."""
    wanted = 2 if grip == "carry" else 1
    quantity: Typed = "angle" if grip in ("spin", "tilt-x", "tilt-y") else "length"
    values = [typed(part, quantity) for part in (several(words) if wanted == 2 else [words])]
    if not 1 <= len(values) <= wanted or not np.isfinite(values).all() or max(abs(value) for value in values) > 1e5:
        raise MeasureError("Type one number, or two for X and Y." if grip == "carry" else "Type one number, such as 12.5.")
    return np.array([values[0], values[1] if len(values) > 1 else 0.0])


def slack_lines(box: Box, room: Box) -> list[tuple[Floats, Floats, float]]:
    """(from, to, mm) on each side from a thing's box, at its foot, to the room that it may use; along the top to the ceiling."""
    middle, z = box.middle, max(float(box.low[2]), 0.0)
    out = []
    for axis in range(2):
        for value, end in ((box.low[axis], room.low[axis]), (box.high[axis], room.high[axis])):
            start, stop = np.array([middle[0], middle[1], z]), np.array([middle[0], middle[1], z])
            start[axis], stop[axis] = value, end
            slack = float(value - end) if end == room.low[axis] else float(end - value)
            out.append((start, stop, slack))
    top = np.array([middle[0], middle[1], box.high[2]])
    out.append((top, np.array([middle[0], middle[1], room.high[2]]), float(room.high[2] - box.high[2])))
    return out
