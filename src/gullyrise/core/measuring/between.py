"""What lies between two things: distances, angles, each with its ends and what is not known about it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.geometry import Floats
from gullyrise.core.geometry.spots import spot
from gullyrise.core.measuring.figures import EXACT, Figure
from gullyrise.core.measuring.things import Flat, Line, Point, Thing

PARALLEL = 1e-7
"""Radians under which directions from exact surfaces are one."""


def between(a: Thing, b: Thing) -> tuple[Figure, ...]:
    """What lies between two things as points, lines and planes, the foremost first; empty where they are neither."""
    method = EXACT if a.method == b.method == EXACT else f"{a.words}: {a.method}; {b.words}: {b.method}"
    out: list[Figure] = []
    if a.point and b.point:
        out.append(_points(a.point, b.point, method))
    elif a.point and b.line:
        out.append(_point_line(a.point, b.line, method))
    elif a.line and b.point:
        out.append(_turned(_point_line(b.point, a.line, method)))
    if a.plane and b.plane:
        out += _planes(a.plane, b.plane, method)
    elif a.plane or b.plane:
        plane, other, turned = (a.plane, b, False) if a.plane else (b.plane, a, True)
        if plane is not None:
            found = _with_plane(other, plane, method)
            out += found if turned else [_turned(figure) for figure in found]
    if a.line and b.line:
        out += _lines(a.line, b.line, method)
    return tuple(out)


def angle_at(first: Point, corner: Point, last: Point) -> Figure | None:
    """The angle at the second of three points; None where it falls together with another."""
    u, v = first.place - corner.place, last.place - corner.place
    lengths = float(np.linalg.norm(u)), float(np.linalg.norm(v))
    if min(lengths) <= 1e-12:
        return None
    off = (first.off + corner.off) / lengths[0] + (last.off + corner.off) / lengths[1]
    method = EXACT if off == 0 else "three places"
    return Figure("angle-at-second", _degrees(u, v), "angle", float(np.degrees(off)), method)


def chain(points: list[Point]) -> Figure:
    """The way along points in the order picked."""
    ways = np.diff([point.place for point in points], axis=0)
    off = sum(2 * point.off for point in points)
    total = float(np.linalg.norm(ways, axis=1).sum())
    method = EXACT if off == 0 else "straight from point to point"
    return Figure("chain", total, "length", off, method, said=f"chain of {len(points)} points")


def _degrees(u: Floats, v: Floats) -> float:
    return float(np.degrees(np.arctan2(np.linalg.norm(np.cross(u, v)), u @ v)))


def _turned(figure: Figure) -> Figure:
    return replace(figure, a=figure.b, b=figure.a)


def _way(code: str, said: str, a: Floats, b: Floats, off: float, method: str) -> Figure:
    return Figure(code, float(np.linalg.norm(b - a)), "length", off, method, spot(a), spot(b), said)


def _points(a: Point, b: Point, method: str) -> Figure:
    return _way(f"{a.kind}-{b.kind}", f"{a.words} to {b.words}", a.place, b.place, a.off + b.off, method)


def _point_line(a: Point, line: Line, method: str) -> Figure:
    along = float((a.place - line.origin) @ line.direction)
    foot = line.origin + along * line.direction
    return _way(
        f"{a.kind}-{line.kind}", f"{a.words} to {line.words}", a.place, foot, a.off + line.off + line.lean * abs(along), method
    )


def _with_plane(other: Thing, plane: Flat, method: str) -> list[Figure]:
    """From a point or a line to a plane."""
    out = []
    if other.point:
        out.append(_point_plane(other.point, plane, method))
    if other.line:
        rise = float(abs(other.line.direction @ plane.normal))
        angle = float(np.degrees(np.arctan2(rise, np.linalg.norm(np.cross(other.line.direction, plane.normal)))))
        lean = other.line.lean + plane.lean
        if rise <= lean + PARALLEL and not other.point:
            at = Point(other.line.origin, other.line.off, other.line.kind)
            out.append(_point_plane(at, plane, method))
        line = other.line
        said = f"{line.words} to face, angle"
        out.append(Figure(f"{line.kind}-face-angle", angle, "angle", float(np.degrees(lean)), method, said=said))
    return out


def _point_plane(a: Point, plane: Flat, method: str) -> Figure:
    height = float((a.place - plane.origin) @ plane.normal)
    foot = a.place - height * plane.normal
    off = a.off + plane.off + plane.lean * float(np.linalg.norm(foot - plane.origin))
    return _way(f"{a.kind}-face", f"{a.words} to face", a.place, foot, off, method)


def _planes(a: Flat, b: Flat, method: str) -> list[Figure]:
    across = float(np.linalg.norm(np.cross(a.normal, b.normal)))
    lean = a.lean + b.lean
    angle = float(np.degrees(np.arctan2(across, abs(a.normal @ b.normal))))
    out = [Figure("face-face-angle", angle, "angle", float(np.degrees(lean)), method, said="face to face, angle")]
    if across <= lean + PARALLEL:
        # Square to the one that is known better, from the middle of the other.
        first, second, turned = (a, b, False) if a.lean <= b.lean else (b, a, True)
        height = float((second.origin - first.origin) @ first.normal)
        foot = second.origin - height * first.normal
        off = first.off + second.off + first.lean * float(np.linalg.norm(foot - first.origin))
        found = _way("face-face", "face to face", foot, second.origin, off, method)
        out.insert(0, _turned(found) if turned else found)
    return out


def _lines(a: Line, b: Line, method: str) -> list[Figure]:
    across = np.cross(a.direction, b.direction)
    sine = float(np.linalg.norm(across))
    lean = a.lean + b.lean
    angle = float(np.degrees(np.arctan2(sine, abs(a.direction @ b.direction))))
    code, said = f"{a.kind}-{b.kind}", f"{a.words} to {b.words}"
    turn = Figure(f"{code}-angle", angle, "angle", float(np.degrees(lean)), method, said=f"{said}, angle")
    if sine <= lean + PARALLEL:
        along = float((a.origin - b.origin) @ b.direction)
        foot = b.origin + along * b.direction
        return [_way(code, said, a.origin, foot, a.off + b.off + b.lean * abs(along), method), turn]
    # D. Eberly, "Distance between two lines": the feet of the way square to both.
    apart = b.origin - a.origin
    square = float(np.dot(across, across))
    s = float(np.dot(np.cross(apart, b.direction), across)) / square
    t = float(np.dot(np.cross(apart, a.direction), across)) / square
    off = a.off + b.off + a.lean * abs(s) + b.lean * abs(t)
    return [
        turn,
        _way(f"{code}-passing", f"{said}, where they pass", a.origin + s * a.direction, b.origin + t * b.direction, off, method),
    ]
