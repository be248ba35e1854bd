"""The camera as plain numbers: where it looks from, at what, how much it sees. No Qt, no VTK."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.geometry import Box, Floats, Points

FIELD_OF_VIEW = 30.0
NARROWEST, WIDEST = 5.0, 100.0
_SMALLEST, _LARGEST = 1e-5, 1e6
_FARTHEST = 1e7
_MARGIN = 1.12
LOOKED_AT = 0.02
"""The near plane never comes nearer to what is looked at than this share leaves: a fiftieth of its distance."""

NAMED: dict[str, tuple[str, float, float]] = {
    "front": ("Front", 0.0, 0.0),
    "right": ("Right", 90.0, 0.0),
    "back": ("Back", 180.0, 0.0),
    "left": ("Left", 270.0, 0.0),
    "top": ("Top", 0.0, 90.0),
    "underside": ("Underside", 0.0, -90.0),
    "isometric": ("Isometric", 45.0, 35.264389682754654),
    # Two axes at full scale, the third at half: ISO 5456-3's dimetric projection.
    "dimetric": ("Dimetric", 20.704811054635431, 19.471220634490692),
    "trimetric": ("Trimetric", 30.0, 20.0),
}
"""id: (name, heading, elevation) in degrees. Heading 0 looks at the front, along +Y; 90 at the right side, along -X."""


Kept = tuple[int, int, int, int]
"""px at the left, the top, the right and the foot of a picture."""
NOTHING_KEPT: Kept = (0, 0, 0, 0)


@dataclass(frozen=True, slots=True, eq=False)
class Camera:
    """A view.

    target : (3,) mm, in the middle of the picture
    heading, elevation : degrees of the place looked from
    span : mm that the picture's height shows at the target
    parallel : whether lines stay parallel
    roll : degrees that the picture is tipped, clockwise positive
    field : degrees of the perspective picture's height
    stretch : (x, y, z) factors by which the picture, not the part, is drawn out; spans and distances are of the drawn room
    lent : parallel only as long as it looks this way, and in perspective again once it is turned
    """

    target: Floats
    heading: float = 30.0
    elevation: float = 25.0
    span: float = 300.0
    parallel: bool = False
    roll: float = 0.0
    field: float = FIELD_OF_VIEW
    stretch: tuple[float, float, float] = (1.0, 1.0, 1.0)
    lent: bool = False

    def frame(self) -> tuple[Floats, Floats, Floats]:
        """Unit directions (right, up, towards the eye)."""
        h, e = np.radians(self.heading), np.radians(self.elevation)
        back = np.array([np.sin(h) * np.cos(e), -np.cos(h) * np.cos(e), np.sin(e)])
        right = np.array([np.cos(h), np.sin(h), 0.0])
        # Their cross product, of which every step of a hand asks several.
        up = np.array([-back[2] * right[1], back[2] * right[0], back[0] * right[1] - back[1] * right[0]])
        if self.roll:
            r = np.radians(self.roll)
            right, up = np.cos(r) * right - np.sin(r) * up, np.cos(r) * up + np.sin(r) * right
        return right, up, back

    @property
    def drawn_target(self) -> Floats:
        """(3,) the target in the drawn room."""
        return np.asarray(self.target * np.array(self.stretch))

    def _real(self, drawn: Floats) -> Floats:
        return np.asarray(drawn / np.array(self.stretch))

    @property
    def distance(self) -> float:
        """From the eye to the target, mm."""
        return self.span / 2 / float(np.tan(np.radians(self.field / 2)))

    @property
    def eye(self) -> Floats:
        """(3,) in the drawn room."""
        return np.asarray(self.drawn_target + self.frame()[2] * self.distance)

    def name(self) -> str:
        """The name of the view where it is a named one, else `Free`."""
        return self._named() or "Free"

    def _named(self) -> str | None:
        if abs((self.roll + 180) % 360 - 180) > 0.05:
            return None
        for title, heading, elevation in NAMED.values():
            turned = abs((self.heading - heading + 180) % 360 - 180)
            if turned < 0.05 and abs(self.elevation - elevation) < 0.05:
                return title
        return None

    @property
    def is_named(self) -> bool:
        """Whether it looks as the named view does."""
        return self._named() is not None

    def looking(self, heading: float, elevation: float, roll: float | None = None) -> Camera:
        """Another way; what was parallel for the way it looked is in perspective again."""
        kept = self.roll if roll is None else (roll + 180) % 360 - 180
        turned = replace(self, heading=heading % 360.0, elevation=float(np.clip(elevation, -90.0, 90.0)), roll=kept)
        return replace(turned, parallel=self.parallel and not self.lent, lent=False)

    def lending(self) -> Camera:
        """Parallel as long as it looks this way."""
        return self if self.parallel else replace(self, parallel=True, lent=True)

    def swapped(self, depth: float) -> Camera:
        """Parallel for perspective or the other way round; what is so many mm before the eye keeps its size."""
        if not self.parallel:
            return replace(self.resting_on(depth), parallel=True, lent=False)
        ahead = self.drawn_target - self.frame()[2] * (depth - self.distance)
        return replace(self, target=_bounded(self._real(ahead)), parallel=False, lent=False)

    def about(self, pivot: Floats, after: Camera) -> Camera:
        """`after`'s directions, with a point of the room kept in its place in the picture."""
        drawn = pivot * np.array(self.stretch)
        offset = np.array(self.frame()) @ (self.drawn_target - drawn)
        if self.lent and not after.parallel:
            # The eye of the perspective picture stands before the pivot, wherever in depth the parallel one had its target.
            offset[2] = 0.0
        return replace(after, target=_bounded(self._real(drawn + np.array(after.frame()).T @ offset)))

    def turned(self, pivot: Floats, by_heading: float, by_elevation: float) -> Camera:
        """Turned about a point that stays where it is in the picture. The vertical stays upright: a picture that was tipped
        comes upright over the next 60 degrees or so of turning."""
        left = max(0.0, 1 - (abs(by_heading) + abs(by_elevation)) / 20)
        roll = self.roll * left if abs(self.roll) * left > 1.0 else 0.0
        return self.about(pivot, self.looking(self.heading + by_heading, self.elevation + by_elevation, roll))

    def turned_freely(self, pivot: Floats, across: float, over: float) -> Camera:
        """Turned by degrees about the picture's own upright and level axes: no direction is held upright."""
        right, up, back = self.frame()
        a, o = np.radians(across), np.radians(over)
        # About the picture's up, then about its level axis.
        back, right = np.cos(a) * back + np.sin(a) * right, np.cos(a) * right - np.sin(a) * back
        back, up = np.cos(o) * back + np.sin(o) * up, np.cos(o) * up - np.sin(o) * back
        return self.about(pivot, self._oriented(right, up, back))

    def _oriented(self, right: Floats, up: Floats, back: Floats) -> Camera:
        elevation = float(np.degrees(np.arcsin(np.clip(back[2], -1, 1))))
        if np.hypot(back[0], back[1]) < 1e-9:
            heading = float(np.degrees(np.arctan2(right[1], right[0])))
            return self.looking(heading, elevation, 0.0)
        heading = float(np.degrees(np.arctan2(back[0], -back[1])))
        level = self.looking(heading, elevation, 0.0).frame()
        return self.looking(heading, elevation, float(np.degrees(np.arctan2(-right @ level[1], right @ level[0]))))

    def rolled(self, pivot: Floats, degrees: float, *, upright: bool) -> Camera:
        """Tipped about a point; where the vertical is held upright, never so far that it points down."""
        if upright and abs(self.elevation) > 89.95:
            # Looked at from straight above or below there is no vertical to hold: the heading turns.
            return self.about(pivot, self.looking(self.heading - degrees * np.sign(self.elevation), self.elevation))
        roll = self.roll + degrees
        tipped = float(np.clip(roll, -90, 90)) if upright else roll
        return self.about(pivot, self.looking(self.heading, self.elevation, tipped))

    def slid(self, right: float, up: float) -> Camera:
        """Moved in the picture plane, mm at the target."""
        x, y, _ = self.frame()
        return replace(self, target=_bounded(self._real(self.drawn_target + right * x + up * y)))

    def gone(self, mm: float, along: Floats | None = None) -> Camera:
        """Eye and target moved together, straight ahead or along a direction of the drawn room: through whatever is there."""
        ahead = -self.frame()[2] if along is None else along
        return replace(self, target=_bounded(self._real(self.drawn_target + mm * ahead)))

    def resting_on(self, depth: float) -> Camera:
        """The same perspective picture with its target so many mm before the eye."""
        if self.parallel or depth <= 0:
            return self
        span = float(np.clip(2 * depth * np.tan(np.radians(self.field / 2)), _SMALLEST, _LARGEST))
        moved = replace(self, span=span)
        return replace(moved, target=_bounded(self._real(self.eye - self.frame()[2] * moved.distance)))

    def zoomed(self, factor: float, at: Floats) -> Camera:
        """Nearer (factor under 1) or farther, with a point of the room kept in its place in the picture."""
        span = float(np.clip(self.span * factor, _SMALLEST, _LARGEST))
        real = span / self.span
        return replace(self, span=span, target=_bounded(at + (self.target - at) * real))

    def with_field(self, degrees: float) -> Camera:
        """Another field of view; what is looked at keeps its size."""
        return replace(self, field=float(np.clip(degrees, NARROWEST, WIDEST)))

    def drawn_out(self, stretch: tuple[float, float, float]) -> Camera:
        """With the picture stretched by factors along X, Y and Z."""
        return replace(self, stretch=stretch)

    def drawn_box(self, box: Box) -> Box:
        """A box as it is drawn, stretched; mm."""
        return Box(box.low * np.array(self.stretch), box.high * np.array(self.stretch))

    def framing(self, box: Box, width: int, height: int, kept: Kept = NOTHING_KEPT) -> Camera:
        """Looking the same way at a whole box. kept : what of the picture's sides is left free of it, px"""
        left, top, right, foot = kept
        clear_width, clear_height = width - left - right, height - top - foot
        if clear_width < width / 2 or clear_height < height / 2:
            return self._framing(box, width, height)
        framed = self._framing(box, clear_width, clear_height)
        span = float(np.clip(framed.span * height / clear_height, _SMALLEST, _LARGEST))
        mm = span / height
        return replace(framed, span=span).slid((right - left) / 2 * mm, (top - foot) / 2 * mm)

    def _framing(self, box: Box, width: int, height: int) -> Camera:
        axes = np.array(self.frame())
        corners = (box.corners() - box.middle) * np.array(self.stretch) @ axes.T
        half = np.abs(corners).max(axis=0)
        narrow = height / max(width, 1)
        span = 2 * max(float(half[1]), float(half[0]) * narrow) * _MARGIN
        if not self.parallel:
            # What stands nearer to the eye looks larger.
            span += float(half[2]) * 2 * float(np.tan(np.radians(self.field / 2))) * max(1.0, narrow)
        return replace(self, target=box.middle.copy(), span=float(np.clip(span, _SMALLEST, _LARGEST)))

    def onto(self, low: tuple[float, float], high: tuple[float, float], depth: float, width: int, height: int) -> Camera:
        """A rectangle of the picture, pixels, brought to fill it, as seen at a depth in mm."""
        rested = self.resting_on(depth)
        x, y = (low[0] + high[0]) / 2, (low[1] + high[1]) / 2
        middle = rested.from_picture(x, y, rested.distance if not self.parallel else depth, width, height)
        factor = max(abs(high[0] - low[0]) / max(width, 1), abs(high[1] - low[1]) / max(height, 1), 1e-4)
        span = float(np.clip(rested.span * factor, _SMALLEST, _LARGEST))
        return replace(rested, target=_bounded(middle), span=span)

    def between(self, other: Camera, share: float) -> Camera:
        """A view on the way to another; headings take the shorter way round."""
        turn = (other.heading - self.heading + 180) % 360 - 180
        tip = (other.roll - self.roll + 180) % 360 - 180
        return Camera(
            self.target + (other.target - self.target) * share,
            (self.heading + turn * share) % 360,
            self.elevation + (other.elevation - self.elevation) * share,
            float(np.exp(np.log(self.span) + (np.log(other.span) - np.log(self.span)) * share)),
            other.parallel,
            self.roll + tip * share,
            self.field + (other.field - self.field) * share,
            other.stretch,
            other.lent,
        )

    def same_view(self, other: Camera) -> bool:
        """Whether two views can hardly be told apart."""
        turned = np.array(self.frame()) - np.array(other.frame())
        return (
            self.parallel == other.parallel
            and self.stretch == other.stretch
            and float(np.abs(turned).max()) < 1e-4
            and abs(self.span / other.span - 1) < 1e-3
            and abs(self.field - other.field) < 1e-3
            and float(np.abs(self.target - other.target).max()) < 1e-3 * self.span
        )

    def to_picture(self, points: Points, width: int, height: int) -> Points:
        """(n, 3): x, y in pixels from the top left, and mm in front of the eye. x and y are NaN for what lies behind the eye; a
        parallel picture has none that anything could lie behind: there mm may be less than 0.
        """
        right, up, back = self.frame()
        away = points * np.array(self.stretch) - self.drawn_target
        depth = self.distance - away @ back
        scale = np.full(len(points), height / self.span)
        if not self.parallel:
            with np.errstate(divide="ignore", invalid="ignore"):
                scale = scale * self.distance / np.where(depth > 1e-9, depth, np.nan)
        return np.column_stack([width / 2 + away @ right * scale, height / 2 - away @ up * scale, depth])

    def from_picture(self, x: float, y: float, depth: float, width: int, height: int) -> Floats:
        """The point (3,) seen at a pixel, so many mm in front of the eye."""
        right, up, back = self.frame()
        scale = self.span / height
        if not self.parallel:
            scale *= depth / self.distance
        drawn = self.drawn_target + back * (self.distance - depth)
        return self._real(drawn + right * (x - width / 2) * scale + up * (height / 2 - y) * scale)

    def ray(self, x: float, y: float, width: int, height: int, reach: float) -> tuple[Floats, Floats]:
        """(origin (3,), unit direction (3,)) of what is seen at a pixel, in the real room. A parallel picture has no eye: its
        rays begin `reach` mm before the target."""
        start = self.distance - reach if self.parallel else 0.0
        origin = self.from_picture(x, y, start, width, height)
        ahead = self.from_picture(x, y, start + max(self.distance, 1.0), width, height) - origin
        return origin, np.asarray(ahead / np.linalg.norm(ahead))

    def clipping(self, box: Box) -> tuple[float, float]:
        """Near and far distance that hold a box of the drawn room, mm in front of the eye."""
        depth = self.distance - (box.corners() - self.drawn_target) @ self.frame()[2]
        room = 0.02 * box.diagonal + 1e-3
        far = float(depth.max()) + room
        near = float(depth.min()) - room
        if self.parallel:
            return near, far
        # A perspective picture needs a near plane before the eye: as far out as keeps depths apart, never near the target.
        near = max(near, min(max(far, self.distance) * 2e-3, self.distance * LOOKED_AT))
        return near, max(far, near * 2)


def _bounded(target: Floats) -> Floats:
    """A target that no slip of the hand throws out of the world."""
    return np.asarray(np.clip(np.nan_to_num(target), -_FARTHEST, _FARTHEST))
