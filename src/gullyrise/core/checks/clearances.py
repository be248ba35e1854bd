"""Clearances: is there room between the bodies, or do they run into each other?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, number, spot
from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Floats, Ints
from gullyrise.core.geometry.booleans import shared_volume
from gullyrise.core.geometry.nearest import Surface, Tree
from gullyrise.core.geometry.topology import closed, edges_of, facet_error, shells_of
from gullyrise.core.geometry.winding import inside
from gullyrise.core.intake.health import degenerate_faces, outward
from gullyrise.core.progress import Progress

ROW = Row(
    id="clearances", order=5, title="Clearances", measure="gap to the next body", unit="mm", limit="min_gap", placed=False,
    machine=False, version=2,
)  # fmt: skip

METHOD = (
    "Smallest distance between triangles by bounding-volume trees; inside or outside by the winding number; shared volume by "
    "an exact boolean of closed bodies."
)
_EXACT_PAIRS = 300
_FAR = 10.0


@dataclass(frozen=True, slots=True)
class Limits:
    """Smallest gap wanted between bodies, mm."""

    min_gap: float


@dataclass(frozen=True, slots=True, eq=False)
class Between:
    """What lies between two bodies, mm and mm3; distance 0 where they touch or overlap.

    error : uncertainty of the distance;  volume : None where one of the two is not closed and so encloses nothing
    """

    distance: float
    point_a: Floats
    point_b: Floats
    volume: float | None
    error: float
    overlaps: bool


class Piece:
    """One body or shell made ready to be held against others; trees are built when first asked for."""

    def __init__(self, name: str, mesh: Mesh, copy: int, chord: float | None, faces: Ints | None = None) -> None:
        """faces : which of the copy's faces these are, for one shell of several."""
        self.name, self.copy, self.chord = name, copy, chord
        agreed = outward(mesh)
        sound = ~degenerate_faces(agreed)
        self.mesh = agreed if sound.all() else agreed.only(sound)
        self.faces = (np.arange(len(mesh.faces)) if faces is None else faces)[sound]
        self.closed = closed(edges_of(mesh))
        self.box = self.mesh.box
        self._tree: Tree | None = None
        self._surface: Surface | None = None
        self._error: Floats | None = None

    @property
    def tree(self) -> Tree:
        if self._tree is None:
            self._tree = Tree(self.mesh)
        return self._tree

    @property
    def surface(self) -> Surface:
        if self._surface is None:
            self._surface = Surface(self.mesh)
        return self._surface

    def error_at(self, point: Floats) -> float:
        """How far the true surface may stand off the facet at a point, mm."""
        if self._error is None:
            self._error = facet_error(self.mesh, edges_of(self.mesh))
        _, face, _ = self.surface.nearest(point[None])
        found = float(self._error[face[0]])
        return found if self.chord is None else min(found, 1.2 * self.chord)


def pieces_of(copies: list[tuple[str, Mesh, float | None]]) -> list[Piece]:
    """Bodies as they stand; a mesh body of several outer shells falls into `name #1`, `name #2`, its cavities left out."""
    out: list[Piece] = []
    for number_, (name, mesh, chord) in enumerate(copies):
        count, label = shells_of(mesh)
        if count <= 1 or chord is not None or count > 2000:
            out.append(Piece(name, mesh, number_, chord))
            continue
        shells = [mesh.only(label == shell) for shell in range(count)]
        kept = [number for number, shell in enumerate(shells) if not _is_cavity(shell, shells)]
        if len(kept) == 1:
            out.append(Piece(name, mesh, number_, chord))
        else:
            for index, shell in enumerate(kept, 1):
                out.append(Piece(f"{name} #{index}", shells[shell], number_, chord, np.flatnonzero(label == shell)))
    return out


def _is_cavity(shell: Mesh, shells: list[Mesh]) -> bool:
    """A closed shell that faces inwards and lies inside another's material."""
    if shell.signed_volume >= 0 or not closed(edges_of(shell)):
        return False
    probe = shell.vertices[shell.faces[0, 0]][None]
    box = shell.box
    for other in shells:
        if other is shell or other.signed_volume <= 0:
            continue
        if (other.box.low <= box.low).all() and (other.box.high >= box.high).all() and inside(other, probe)[0]:
            return True
    return False


def between(a: Piece, b: Piece) -> Between:
    """Smallest gap and shared volume of two pieces; symmetric but for the order of the points."""
    gap = a.tree.gap_to(b.tree)
    overlaps, volume = False, 0.0 if a.closed and b.closed else None
    place_a, place_b = gap.point_a, gap.point_b
    distance = gap.distance
    # Gaps at the rounding of single-precision files are contact.
    rounding = 1e-7 * float(max(np.abs(a.box.high).max(), np.abs(b.box.high).max(), a.box.diagonal, b.box.diagonal))
    if distance <= rounding:
        distance = 0.0
        _, place = a.tree.crosses(b.tree)
        if place is not None:
            place_a = place_b = place
        if a.closed and b.closed:
            volume = shared_volume(a.mesh, b.mesh)
            least = rounding * min(a.mesh.area, b.mesh.area)
            overlaps = volume is not None and volume > least
            if volume is not None and not overlaps:
                volume = 0.0
    elif _holds(a, b) or _holds(b, a):
        inner, outer = (b, a) if _holds(a, b) else (a, b)
        overlaps, distance = True, 0.0
        place_a = place_b = inner.mesh.vertices[inner.mesh.faces[0, 0]]
        volume = shared_volume(inner.mesh, outer.mesh) if a.closed and b.closed else None
    error = rounding + a.error_at(place_a) + b.error_at(place_b)
    return Between(distance, place_a, place_b, volume, error, overlaps)


def _holds(outer: Piece, inner: Piece) -> bool:
    """Whether a closed piece has another wholly inside its material; their surfaces are known not to meet."""
    if not outer.closed or (outer.box.low > inner.box.high).any() or (outer.box.high < inner.box.low).any():
        return False
    return bool(inside(outer.mesh, inner.mesh.vertices[inner.mesh.faces[0, :1]])[0])


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome a pair of bodies; for very many bodies, one more for all pairs that lie far apart by their boxes."""
    part = snapshot.part
    copies = [(name, mesh, body.chord_error) for name, body, mesh in part.copies()]
    pieces = pieces_of(copies)
    pairs = [(a, b) for i, a in enumerate(pieces) for b in pieces[i + 1 :]]
    if not pairs:
        why = "There is one body, so there is nothing to keep clear of."
        return (Outcome("clearances", part.name, "pass", why, None, _nothing(), (), METHOD, 0.0),)
    far = 0
    reach = max(5.0, _FAR * limits.min_gap)
    if len(pairs) > _EXACT_PAIRS:
        near = [(a, b) for a, b in pairs if a.box.gap_to(b.box) <= reach]
        far = len(pairs) - len(near)
        pairs = near
    outcomes = []
    for done, (a, b) in enumerate(pairs):
        progress("measuring gaps", done, len(pairs))
        outcomes.append(_judged(a, b, limits))
    if far:
        why = f"{far} further pairs of bodies lie more than {number(reach)} mm apart by their boxes."
        outcomes.append(Outcome("clearances", part.name, "pass", why, None, _nothing(), (), METHOD, 0.0))
    field = _gap_field(pieces, [len(mesh.faces) for _, mesh, _ in copies], limits)
    first = outcomes[0]
    names = Outcome.__dataclass_fields__
    outcomes[0] = Outcome(**{**{name: getattr(first, name) for name in names}, "field": field})
    return tuple(outcomes)


def _nothing() -> dict[str, object]:
    return {"distance": None, "point_a": None, "point_b": None, "interference_volume": None}


def _judged(a: Piece, b: Piece, limits: Limits) -> Outcome:
    found = between(a, b)
    wanted, gap = number(limits.min_gap), found.distance
    verdict: Verdict
    place = spot((found.point_a + found.point_b) / 2)
    findings: tuple[Finding, ...] = ()
    if found.overlaps:
        verdict = "fail"
        shared = "an unknown volume" if found.volume is None else f"{number(found.volume)} mm³"
        why = f"{a.name} and {b.name} run into each other over {shared}."
        findings = (Finding(f"{a.name} and {b.name} overlap", found.volume, "mm³", place),)
    elif gap == 0.0 and not (a.closed and b.closed):
        verdict = "review" if limits.min_gap == 0 else "fail"
        why = f"{a.name} and {b.name} meet; one of them is open, so what they share cannot be measured."
        findings = (Finding(f"{a.name} and {b.name} meet", 0.0, "mm", place),)
    elif gap < limits.min_gap - found.error:
        verdict = "fail"
        touch = "touch" if gap == 0.0 else f"are {number(gap)} mm apart"
        why = f"{a.name} and {b.name} {touch} where {wanted} mm is wanted."
        findings = (Finding(f"gap between {a.name} and {b.name}", gap, "mm", place),)
    elif gap <= limits.min_gap + found.error and limits.min_gap > 0:
        verdict = "review"
        why = f"{a.name} and {b.name} are {number(gap)} mm apart, within ± {number(found.error)} mm of the {wanted} mm wanted."
        findings = (Finding(f"gap between {a.name} and {b.name}", gap, "mm", place),)
    elif not (a.closed and b.closed):
        verdict = "review"
        why = f"{a.name} and {b.name} are {number(gap)} mm apart, but one is open, so inside and outside are not sure."
    else:
        verdict = "pass"
        why = f"{a.name} and {b.name} are {number(gap)} mm apart; {wanted} mm is wanted."
    measured = {
        "distance": gap,
        "point_a": list(spot(found.point_a)),
        "point_b": list(spot(found.point_b)),
        "interference_volume": found.volume,
    }
    worst = Worst(gap, "mm", place)
    return Outcome("clearances", (a.name, b.name), verdict, why, worst, measured, findings, METHOD, found.error)


def _gap_field(pieces: list[Piece], faces: list[int], limits: Limits) -> FaceField:
    """Gap of every face's middle to the nearest other piece, up to five times the wanted gap; NaN beyond."""
    ceiling = max(5 * limits.min_gap, 1e-3)
    values = [np.full(count, np.nan, dtype=np.float32) for count in faces]
    for piece in pieces:
        middles = piece.mesh.centroids()
        for other in pieces:
            if other is piece or piece.box.gap_to(other.box) > ceiling:
                continue
            reach = other.box.grown(ceiling)
            close = np.flatnonzero(((middles >= reach.low) & (middles <= reach.high)).all(axis=1))
            distance, _, _ = other.surface.nearest(middles[close])
            near = distance <= ceiling
            own = piece.faces[close[near]]
            values[piece.copy][own] = np.fmin(values[piece.copy][own], distance[near])
    return FaceField("gap to the next body", "mm", tuple(values), limits.min_gap, bad_below=True)
