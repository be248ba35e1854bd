"""Faces and edges of a mesh as things: planes, cylinders and spheres fitted over what belongs together."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.cutting.thickness import nearest_on
from gullyrise.core.geometry import Floats, Ints, Mesh, Plane, Points
from gullyrise.core.geometry.arrays import Bools, unit_rows
from gullyrise.core.geometry.outline import circle_of, rounded
from gullyrise.core.geometry.spots import spot
from gullyrise.core.geometry.topology import edges_of
from gullyrise.core.measuring.faceting import Faceting, area_doubt, chord_sag, faceting
from gullyrise.core.measuring.figures import Figure
from gullyrise.core.measuring.fits import FittedCylinder, FittedSphere, fit_circle, fit_cylinder, fit_plane, fit_sphere, grain
from gullyrise.core.measuring.things import Flat, Line, Point, Thing

_BEND = float(np.cos(np.radians(32.0)))
_LEAST_PATCHES = 4
_ON, _ROUGHLY_ON = 1e-3, 0.01
_MOST_LOOKED_AT = 40_000
_WHOLE = np.radians(350.0)
_STEEP = 0.35
_OF_DEPTH = 0.02
_FACET = np.radians(32.0)
# Half a step in each of three coordinates, of a corner and of the plane it is held against.
_ROUNDING = 4.0


def face_of_mesh(mesh: Mesh, patch: Ints, place: Floats) -> Thing:
    """What a face of a mesh is.

    patch : the triangles of its flat region
    place : (3,) where it was pointed at

    A patch that is one of four and more facets round a cylinder or a sphere is the whole of that; else it is flat, or a surface
    of no simple kind.
    """
    near = _around(mesh, patch)
    found = _cylinder_of(mesh, patch, near) or _sphere_of(mesh, patch, near)
    if found is not None:
        return found
    points = mesh.vertices[np.unique(mesh.faces[patch])]
    plane = fit_plane(points, mesh.cross()[patch].sum(axis=0))
    if plane is None:
        return Thing("triangles", "triangles", own=(_area(mesh, patch, faceting(mesh.only(near)).bend.max(initial=0.0)),),
                     surface=mesh.only(patch))  # fmt: skip
    off = max(plane.residual, grain(points))
    surface = mesh.only(patch)
    doubt = area_doubt(surface, faceting(surface), np.arange(len(patch)))
    how = f"plane fitted to {len(points):,} corners, off by {plane.residual:.2g} mm at most"
    area = Figure("area", float(mesh.face_areas()[patch].sum()), "area", doubt, "triangles")
    middle = _weighted_middle(surface)
    middle = middle - plane.normal * float((middle - plane.middle) @ plane.normal)
    return Thing("flat-face", how, plane=Flat(middle, plane.normal, off, plane.lean), own=(area,), surface=surface)


def _area(mesh: Mesh, patch: Ints, bend: float) -> Figure:
    area = float(mesh.face_areas()[patch].sum())
    return Figure("area", area, "area", area * bend**2, "triangles")


def _weighted_middle(surface: Mesh) -> Floats:
    areas = surface.face_areas()
    return np.asarray(areas @ surface.centroids() / max(float(areas.sum()), 1e-300))


def _around(mesh: Mesh, patch: Ints, rings: int = 2) -> Ints:
    """(k,) a patch with the faces that share its corners, and theirs, as long as they bend smoothly away from it."""
    taken = np.zeros(len(mesh.faces), dtype=bool)
    taken[patch] = True
    for _ in range(rings):
        used = np.zeros(len(mesh.vertices), dtype=bool)
        used[mesh.faces[taken]] = True
        taken |= used[mesh.faces].any(axis=1)
    found = _hanging(mesh, taken, patch)
    return patch if found is None else found


def _patches(mesh: Mesh, faces: Ints) -> tuple[Ints, Ints]:
    """(flat patch of each of some faces (k,), pairs (p, 2) of patches that meet with a smooth bend)."""
    small = mesh.only(faces)
    edges = edges_of(small)
    normals = small.normals()
    lean = np.einsum("ij,ij->i", normals[edges.pairs[:, 0]], normals[edges.pairs[:, 1]])
    flat = edges.pairs[lean > 1 - 1e-7]
    graph = coo_array((np.ones(len(flat), dtype=np.int8), (flat[:, 0], flat[:, 1])), shape=(len(faces),) * 2)
    label = np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)
    bent = label[edges.pairs[(lean <= 1 - 1e-7) & (lean > _BEND)]]
    return label, np.unique(np.sort(bent, axis=1), axis=0)


def _cylinder_of(mesh: Mesh, patch: Ints, near: Ints) -> Thing | None:
    label, pairs = _patches(mesh, near)
    own = int(label[np.searchsorted(near, patch[0])])
    normals, areas = mesh.normals()[near], mesh.face_areas()[near]
    mean = unit_rows(np.column_stack([np.bincount(label, normals[:, k] * areas) for k in range(3)]))
    best: tuple[FittedCylinder, Ints] | None = None
    for a, b in pairs[(pairs == own).any(axis=1)][:8]:
        axis = np.cross(mean[a], mean[b])
        if np.linalg.norm(axis) < 1e-6:
            continue
        points = mesh.vertices[np.unique(mesh.faces[near[(label == a) | (label == b)]])]
        found = fit_cylinder(points, axis)
        grown = _grown_cylinder(mesh, patch, found, _ON) if found is not None else None
        if grown is not None and (best is None or len(grown[1]) > len(best[1])):
            best = grown
    if best is None and len(near) >= _LEAST_PATCHES:
        # A surface that is rough, such as a scanned one: its normals tell the axis.
        _, strength, ways = np.linalg.svd(normals * np.sqrt(areas)[:, None], full_matrices=False)
        if strength[1] > 0.05 * strength[0] and strength[2] < 0.2 * strength[1]:
            found = fit_cylinder(mesh.vertices[np.unique(mesh.faces[near])], ways[2])
            best = _grown_cylinder(mesh, patch, found, _ROUGHLY_ON) if found is not None else None
    return None if best is None else _round_thing(mesh, *best)


def _grown_cylinder(mesh: Mesh, patch: Ints, found: FittedCylinder, within: float) -> tuple[FittedCylinder, Ints] | None:
    """The cylinder laid anew through all faces that hang together on it, with those; None where too few do."""
    members = patch
    for _ in range(3):
        beside = mesh.vertices - found.point
        across = beside - (beside @ found.direction)[:, None] * found.direction
        away = np.linalg.norm(across, axis=1)
        on = np.abs(away - found.radius) <= within * found.radius + 2 * grain(mesh.vertices)
        upright = np.abs(mesh.normals() @ found.direction) < _STEEP
        hanging = _hanging(mesh, on[mesh.faces].all(axis=1) & upright, patch)
        if hanging is None:
            return None
        members = hanging
        fresh = fit_cylinder(mesh.vertices[np.unique(mesh.faces[members])], found.direction)
        if fresh is None:
            return None
        settled = abs(fresh.radius - found.radius) <= 1e-9 * found.radius
        found = fresh
        if settled:
            break
    if _as_flat(mesh, members, found.residual) or _turn_of(mesh, patch, found) > _FACET:
        # So broad a flat face is no facet of something round, even where it runs out into a rounded edge.
        return None
    label, _ = _patches(mesh, members[:_MOST_LOOKED_AT])
    enough = int(label.max()) + 1 >= _LEAST_PATCHES and found.residual <= _most_off(mesh, members, found.radius, within)
    return (found, members) if enough else None


def _as_flat(mesh: Mesh, members: Ints, residual: float) -> bool:
    """Whether a plane lies as close to some faces as the round surface that was laid through them, whose corners are off it by
    `residual` mm. Slivers beside a bore lean by the rounding of their corners and look like facets of something very large."""
    points = mesh.vertices[np.unique(mesh.faces[members])]
    plane = fit_plane(points)
    return plane is None or plane.residual <= max(residual, _ROUNDING * grain(points))


def _turn_of(mesh: Mesh, patch: Ints, found: FittedCylinder) -> float:
    """Radians that a patch covers as seen from an axis."""
    u, v = Plane(found.point, found.direction).frame()
    away = mesh.vertices[np.unique(mesh.faces[patch])] - found.point
    turn = np.sort(np.arctan2(away @ v, away @ u))
    return float(2 * np.pi - np.diff(turn, append=turn[0] + 2 * np.pi).max())


def _most_off(mesh: Mesh, members: Ints, radius: float, within: float) -> float:
    """mm by which corners may lie off a round surface: a share of its radius, and of how deep its faces reach round it. Of a
    shallow piece of a large ball both plane and ball are near."""
    normals = mesh.normals()[members]
    mean = normals.mean(axis=0)
    length = float(np.linalg.norm(mean))
    reach = np.arccos(np.clip(normals @ mean / length, -1, 1)).max() if length > 1e-6 else np.pi / 2
    depth = radius * (1 - float(np.cos(min(float(reach), np.pi / 2))))
    return min(within * radius, _OF_DEPTH * depth) + 4 * grain(mesh.vertices)


def _hanging(mesh: Mesh, allowed: Bools, patch: Ints) -> Ints | None:
    """The allowed faces that hang together with a patch over smooth bends; None where it is not among them."""
    if not allowed[patch].all():
        return None
    candidates = np.flatnonzero(allowed)
    small = mesh.only(candidates)
    edges = edges_of(small)
    normals = small.normals()
    smooth = np.einsum("ij,ij->i", normals[edges.pairs[:, 0]], normals[edges.pairs[:, 1]]) > _BEND
    links = edges.pairs[smooth]
    graph = coo_array((np.ones(len(links), dtype=np.int8), (links[:, 0], links[:, 1])), shape=(len(candidates),) * 2)
    label = np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)
    return candidates[np.isin(label, label[np.searchsorted(candidates, patch)])]


def _round_thing(mesh: Mesh, found: FittedCylinder, members: Ints) -> Thing:
    surface = mesh.only(members)
    bends = faceting(surface)
    middles = surface.centroids()
    along = (surface.vertices - found.point) @ found.direction
    low, high = found.point + along.min() * found.direction, found.point + along.max() * found.direction
    out = middles - found.point
    out -= (out @ found.direction)[:, None] * found.direction
    hollow = float((np.einsum("ij,ij->i", surface.cross(), out)).sum()) < 0
    # Whether the corners or the facets between them were meant nobody can tell from triangles.
    sag = found.radius - float(np.linalg.norm(out, axis=1).min())
    sag = max(sag, float(bends.sag.max(initial=0.0)), 0.0)
    doubt = found.radius_off + sag
    how = _fitted("cylinder", len(surface.vertices), found.residual, sag)
    area = float(surface.area)
    unsure = area_doubt(surface, bends, np.arange(len(members))) + area * sag / found.radius
    own = (
        Figure("diameter", 2 * found.radius, "length", 2 * doubt, how),
        Figure("radius", found.radius, "length", doubt, how),
        Figure("axis-length", float(np.ptp(along)), "length",
               2 * grain(surface.vertices) + 2 * found.residual + found.lean * found.radius, how, spot(low), spot(high)),
        Figure("area", area, "area", unsure, "triangles"),
    )  # fmt: skip
    part = 0.0 if _goes_round(out, found.direction) else sag
    line = Line((low + high) / 2, found.direction, found.off + part, found.lean, "axis")
    return Thing("hole" if hollow else "shaft", how, line=line, own=own, radius=found.radius, surface=surface, sag=sag)


def _fitted(shape: str, corners: int, residual: float, sag: float) -> str:
    return f"{shape} fitted to {corners:,} corners, off by {residual:.2g} mm at most, facets within {sag:.2g} mm"


def _goes_round(out: Points, direction: Floats) -> bool:
    """Whether directions (n, 3) from an axis leave no wide gap round it: a part of a cylinder tells less of its axis."""
    u, v = Plane(np.zeros(3), direction).frame()
    turn = np.sort(np.arctan2(out @ v, out @ u))
    return float(np.diff(turn, append=turn[0] + 2 * np.pi).max()) < np.pi / 2


def _sphere_of(mesh: Mesh, patch: Ints, near: Ints) -> Thing | None:
    first = fit_sphere(mesh.vertices[np.unique(mesh.faces[near])])
    if first is None:
        return None
    label, _ = _patches(mesh, near)
    for within in (_ON, _ROUGHLY_ON):
        grown = _grown_sphere(mesh, patch, first, within)
        if grown is not None and int(label.max()) + 1 >= _LEAST_PATCHES:
            return _ball_thing(mesh, *grown)
    return None


def _grown_sphere(mesh: Mesh, patch: Ints, found: FittedSphere, within: float) -> tuple[FittedSphere, Ints] | None:
    members = patch
    for _ in range(3):
        away = np.linalg.norm(mesh.vertices - found.centre, axis=1)
        on = np.abs(away - found.radius) <= within * found.radius + 2 * grain(mesh.vertices)
        outward = mesh.centroids() - found.centre
        lean = np.abs(np.einsum("ij,ij->i", mesh.normals(), outward)) / np.maximum(np.linalg.norm(outward, axis=1), 1e-300)
        hanging = _hanging(mesh, on[mesh.faces].all(axis=1) & (lean > 1 - _STEEP), patch)
        if hanging is None or len(hanging) < 2 * _LEAST_PATCHES:
            return None
        members = hanging
        fresh = fit_sphere(mesh.vertices[np.unique(mesh.faces[members])])
        if fresh is None:
            return None
        found = fresh
    border = mesh.vertices[np.unique(mesh.faces[patch])] - found.centre
    broad = float(np.linalg.norm(border - border.mean(axis=0), axis=1).max()) > 2 * found.radius * np.sin(_FACET / 2)
    if broad or _as_flat(mesh, members, found.residual):
        return None
    return (found, members) if found.residual <= _most_off(mesh, members, found.radius, within) else None


def _ball_thing(mesh: Mesh, found: FittedSphere, members: Ints) -> Thing:
    surface = mesh.only(members)
    bends: Faceting = faceting(surface)
    sag = max(found.radius - float(np.linalg.norm(surface.centroids() - found.centre, axis=1).min()), 0.0)
    how = (
        f"sphere fitted to {len(surface.vertices):,} corners, off by {found.residual:.2g} mm at most, facets within {sag:.2g} mm"
    )
    doubt = found.radius_off + sag
    own = (
        Figure("diameter", 2 * found.radius, "length", 2 * doubt, how),
        Figure("radius", found.radius, "length", doubt, how),
        Figure("area", surface.area, "area",
               area_doubt(surface, bends, np.arange(len(members))) + 2 * surface.area * sag / found.radius, "triangles"),
    )  # fmt: skip
    span = np.linalg.norm(surface.centroids().mean(axis=0) - found.centre)
    part = 0.0 if span < 0.2 * found.radius else sag
    return Thing(
        "ball", how, point=Point(found.centre, found.off + part, "centre"), own=own, radius=found.radius, surface=surface, sag=sag
    )


def edge_of_mesh(chain: Points, place: Floats, *, closes: bool) -> Thing:
    """What an edge of a mesh is: of a chain that runs on from straight into round, the piece that was pointed at.

    chain : (n, 3) mm, its places in order, the first not repeated where it closes
    """
    segments = np.stack([chain[:-1], chain[1:]], axis=1)
    if closes:
        segments = np.concatenate([segments, [[chain[-1], chain[0]]]])
    if len(chain) == 2:
        return _straight_edge(chain)
    plane = fit_plane(chain)
    reach = float(np.abs(chain - chain.mean(axis=0)).max())
    within = _ON * reach + 2 * grain(chain)
    if plane is None:
        return _straight_edge(chain[[0, -1]])
    if plane.residual <= within:
        frame = Plane(plane.middle, plane.normal)
        u, v = frame.frame()
        flat = np.column_stack([(chain - plane.middle) @ u, (chain - plane.middle) @ v])
        outline = rounded(flat, closed=closes, within=within)
        starts, ends, bulges = outline.ways()
        here = np.array([(place - plane.middle) @ u, (place - plane.middle) @ v])
        at = _way_at(starts, ends, bulges, here)
        if bulges[at]:
            return _arc_of(chain, flat, starts, ends, bulges, at, closes=closes)
        if len(outline.points) < len(chain) or len(starts) == 1:
            return _straight_edge(plane.middle + np.array([starts[at], ends[at]]) @ np.array([u, v]))
    length = float(np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1).sum())
    sag = chord_sag(segments)
    # An arc is longer than its chord by 8/3 of its sag squared over the chord.
    pieces = np.maximum(np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1), 1e-12)
    doubt = float((8 / 3 * sag**2 / pieces).sum()) + 2 * grain(chain)
    how = f"{len(segments):,} straight pieces"
    return Thing("curved-edge", how, own=(Figure("length", length, "length", doubt, how),), segments=segments, sag=sag)


def _way_at(starts: Floats, ends: Floats, bulges: Floats, here: Floats) -> int:
    """The number of the line or arc that is nearest to a place."""
    distances = []
    for a, b, bulge in zip(starts, ends, bulges, strict=True):
        if not bulge:
            distances.append(nearest_on(a[None], b[None], here)[0])
            continue
        centre, radius = circle_of(a, b, float(bulge))
        # On the side of its chord where the arc is, the circle counts; else its ends.
        left = (b - a)[0] * (here - a)[1] - (b - a)[1] * (here - a)[0]
        ends_away = min(float(np.linalg.norm(here - a)), float(np.linalg.norm(here - b)))
        distances.append(abs(float(np.linalg.norm(here - centre)) - radius) if left * bulge <= 0 else ends_away)
    return int(np.argmin(distances))


def _straight_edge(ends: Points) -> Thing:
    length = float(np.linalg.norm(ends[1] - ends[0]))
    off = grain(ends)
    how = "two corners"
    own = (Figure("length", length, "length", 2 * off, how, spot(ends[0]), spot(ends[1])),)
    lean = 2 * off / max(length, 1e-12)
    line = Line(ends.mean(axis=0), (ends[1] - ends[0]) / max(length, 1e-300), off, lean, "edge")
    return Thing("straight-edge", how, line=line, own=own, segments=ends[None])


def _arc_of(chain: Points, flat: Floats, starts: Floats, ends: Floats, bulges: Floats, at: int, *, closes: bool) -> Thing:
    """The arc of which a way is one piece: its neighbours on the same circle belong to it."""
    centre, radius = circle_of(starts[at], ends[at], float(bulges[at]))
    members = [at]
    for step in (1, -1):
        here = at
        while len(members) < len(starts):
            here = (here + step) % len(starts)
            if (not closes and (here == 0) == (step > 0)) or not bulges[here]:
                break
            other, other_radius = circle_of(starts[here], ends[here], float(bulges[here]))
            if np.linalg.norm(other - centre) > 0.01 * radius or abs(other_radius - radius) > 0.01 * radius or here in members:
                break
            members.append(here)
    sweep = float(np.abs(4 * np.arctan(bulges[members])).sum())
    on = np.zeros(len(chain), dtype=bool)
    for number in members:
        first = int(np.argmin(np.linalg.norm(flat - starts[number], axis=1)))
        last = int(np.argmin(np.linalg.norm(flat - ends[number], axis=1)))
        on[np.arange(first, last + 1 if last >= first else last + 1 + len(chain)) % len(chain)] = True
    if sweep >= 2 * np.pi - 1e-6:
        on[:] = True
    points = chain[on]
    found = fit_circle(points)
    if found is None:
        return _straight_edge(chain[[0, -1]])
    whole = sweep > _WHOLE
    order = np.append(points, points[:1], axis=0) if whole else points
    segments = np.stack([order[:-1], order[1:]], axis=1)
    steps = np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1)
    sag = float(found.radius - np.sqrt(max(found.radius**2 - (np.median(steps) / 2) ** 2, 0.0)))
    doubt = found.radius_off + sag
    how = f"circle fitted to {len(points):,} corners, off by {found.residual:.2g} mm at most, chords within {sag:.2g} mm"
    arc = found.radius * (2 * np.pi if whole else sweep)
    lean = 2 * max(found.residual, grain(points)) / found.radius
    diameter = Figure("diameter", 2 * found.radius, "length", 2 * doubt, how)
    radius_figure = Figure("radius", found.radius, "length", doubt, how)
    around = Figure("around" if whole else "arc-length", arc, "length", arc * doubt / found.radius + 2 * found.residual, how)
    own: tuple[Figure, ...] = (diameter, radius_figure, around)
    if not whole:
        angle = Figure("arc-angle", float(np.degrees(sweep)), "angle", float(np.degrees(lean + found.off / found.radius)), how)
        own = (radius_figure, diameter, around, angle)
    off = found.off + (0.0 if whole else sag)
    return Thing(
        "circle" if whole else "arc", how, Point(found.centre, off, "centre"),
        Line(found.centre, found.normal, off, found.lean, "axis"), own=own, radius=found.radius, segments=segments, sag=sag,
    )  # fmt: skip


def chain_of(segments: Points) -> tuple[Points, bool]:
    """(places of the pieces (k, 2, 3) of one edge in order, whether they close)."""
    ends = segments.reshape(-1, 3)
    _, where = np.unique(ends, axis=0, return_inverse=True)
    pairs = where.reshape(-1, 2)
    n = int(pairs.max()) + 1
    place = np.zeros((n, 3))
    place[where.reshape(-1)] = ends
    beside: list[list[int]] = [[] for _ in range(n)]
    for a, b in pairs.tolist():
        beside[a].append(b)
        beside[b].append(a)
    start = next((number for number, others in enumerate(beside) if len(others) == 1), 0)
    order, seen = [start], {start}
    while True:
        following = next((other for other in beside[order[-1]] if other not in seen), None)
        if following is None:
            break
        order.append(following)
        seen.add(following)
    return place[order], len(order) > 2 and start in beside[order[-1]] and len(beside[start]) > 1
