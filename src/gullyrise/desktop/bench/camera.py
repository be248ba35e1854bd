"""The camera as plain numbers: where it looks from, at what, how much it sees. No Qt, no VTK."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.geometry import Box, Floats, Points

FIELD_OF_VIEW = 30.0
_SMALLEST, _LARGEST = 1e-3, 1e6
_MARGIN = 1.12

NAMED: dict[str, tuple[str, float, float]] = {
    "front": ("Front", 0.0, 0.0),
    "right": ("Right", 90.0, 0.0),
    "back": ("Back", 180.0, 0.0),
    "left": ("Left", 270.0, 0.0),
    "top": ("Top", 0.0, 90.0),
    "underside": ("Underside", 0.0, -90.0),
    "isometric": ("Isometric", 45.0, 35.264389682754654),
}
"""id: (name, heading, elevation) in degrees. Heading 0 looks at the front, along +Y; 90 at the right side, along -X."""


@dataclass(frozen=True, slots=True, eq=False)
class Camera:
    """A view.

    target : (3,) mm, in the middle of the picture;  heading, elevation : degrees of the place looked from
    span   : mm that the picture's height shows at the target;  parallel : whether lines stay parallel
    """

    target: Floats
    heading: float = 30.0
    elevation: float = 25.0
    span: float = 300.0
    parallel: bool = False

    def frame(self) -> tuple[Floats, Floats, Floats]:
        """Unit directions (right, up, towards the eye)."""
        h, e = np.radians(self.heading), np.radians(self.elevation)
        back = np.array([np.sin(h) * np.cos(e), -np.cos(h) * np.cos(e), np.sin(e)])
        right = np.array([np.cos(h), np.sin(h), 0.0])
        return right, np.cross(back, right), back

    @property
    def distance(self) -> float:
        """From the eye to the target, mm."""
        return self.span / 2 / float(np.tan(np.radians(FIELD_OF_VIEW / 2)))

    @property
    def eye(self) -> Floats:
        return np.asarray(self.target + self.frame()[2] * self.distance)

    def name(self) -> str:
        """The name of the view where it is a named one, else `Free`."""
        for title, heading, elevation in NAMED.values():
            turned = abs((self.heading - heading + 180) % 360 - 180)
            if turned < 0.05 and abs(self.elevation - elevation) < 0.05:
                return title
        return "Free"

    def looking(self, heading: float, elevation: float) -> Camera:
        return replace(self, heading=heading % 360.0, elevation=float(np.clip(elevation, -90.0, 90.0)))

    def turned(self, pivot: Floats, by_heading: float, by_elevation: float) -> Camera:
        """Turned about a point that stays where it is in the picture; the vertical stays upright."""
        before = np.array(self.frame())
        after = self.looking(self.heading + by_heading, self.elevation + by_elevation)
        offset = before @ (self.target - pivot)
        return replace(after, target=pivot + np.array(after.frame()).T @ offset)

    def slid(self, right: float, up: float) -> Camera:
        """Moved in the picture plane, mm at the target."""
        x, y, _ = self.frame()
        return replace(self, target=self.target + right * x + up * y)

    def zoomed(self, factor: float, at: Floats) -> Camera:
        """Nearer (factor under 1) or farther, with a point of the room kept in its place in the picture."""
        span = float(np.clip(self.span * factor, _SMALLEST, _LARGEST))
        real = span / self.span
        return replace(self, span=span, target=at + (self.target - at) * real)

    def framing(self, box: Box, width: int, height: int) -> Camera:
        """Looking the same way at a whole box."""
        axes = np.array(self.frame())
        corners = (box.corners() - box.middle) @ axes.T
        half = np.abs(corners).max(axis=0)
        span = 2 * max(float(half[1]), float(half[0]) * height / max(width, 1)) * _MARGIN
        if not self.parallel:
            # What stands nearer to the eye looks larger.
            span += float(half[2]) * 2 * float(np.tan(np.radians(FIELD_OF_VIEW / 2)))
        return replace(self, target=box.middle.copy(), span=float(np.clip(span, _SMALLEST, _LARGEST)))

    def between(self, other: Camera, share: float) -> Camera:
        """A view on the way to another; headings take the shorter way round."""
        turn = (other.heading - self.heading + 180) % 360 - 180
        return Camera(
            self.target + (other.target - self.target) * share,
            (self.heading + turn * share) % 360,
            self.elevation + (other.elevation - self.elevation) * share,
            float(np.exp(np.log(self.span) + (np.log(other.span) - np.log(self.span)) * share)),
            other.parallel,
        )

    def to_picture(self, points: Points, width: int, height: int) -> Points:
        """(n, 3): x, y in pixels from the top left, and mm in front of the eye."""
        right, up, back = self.frame()
        away = points - self.target
        depth = self.distance - away @ back
        scale = height / self.span
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
        return np.asarray(
            self.target + back * (self.distance - depth) + right * (x - width / 2) * scale + up * (height / 2 - y) * scale
        )

    def clipping(self, box: Box) -> tuple[float, float]:
        """Near and far distance that hold a box, mm in front of the eye."""
        depth = self.distance - (box.corners() - self.target) @ self.frame()[2]
        room = 0.02 * box.diagonal + 1e-3
        far = float(depth.max()) + room
        near = float(depth.min()) - room
        if self.parallel:
            return near, far
        # A perspective picture needs a near plane before the eye: as far out as keeps depths apart, never near the target.
        return max(near, min(far * 2e-3, self.distance * 0.02)), max(far, 1e-3)
