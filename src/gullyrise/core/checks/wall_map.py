"""Wall readings all over a mesh: where to sample, how closely, which readings count."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from scipy.spatial import cKDTree

from gullyrise.core.checks.wall_bulk import stoutest
from gullyrise.core.checks.wall_ends import at_border, least_lasting, tapers_among
from gullyrise.core.checks.wall_slots import Slots, no_slots, slots_in
from gullyrise.core.checks.wall_webs import Doubt, proven, webs_in
from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points
from gullyrise.core.geometry.ball import Balls, Crowd, joined_balls, shrink_balls
from gullyrise.core.geometry.material import material_of
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.necks import Necks, downhill
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.reentrant import inside_edges
from gullyrise.core.geometry.sampling import Samples, joined_samples, place_on, spread
from gullyrise.core.geometry.slivers import slim, unseamed
from gullyrise.core.geometry.topology import Edges, closed, edges_cancel, edges_of, shells_of
from gullyrise.core.intake.health import degenerate_faces
from gullyrise.core.progress import Progress

FEWEST, MOST, EVERY_FACE = 20_000, 200_000, 150_000
_OVERVIEW = 1_500
_DEAR = 2_000
_CROWD = 40_000
_SCREEN = 300_000
_ROUNDS, _SETTLED = 14, 0.005
_PROVEN = 1e-6
_MOST_DOWNHILL = 600
# Tapers are told from walls so far beyond the limit, that a limit raised by half needs no new measuring.
_TESTED = 1.5


@dataclass(frozen=True, slots=True, eq=False)
class WallMap:
    """Readings on one mesh.

    samples, balls : n readings
    error : (n,) uncertainty of each, mm
    taper : (n,) in a wedge that runs out
    tip : (n, 3)
    median : of all walls, without the cap, mm
    spacing : between samples, mm
    cap : readings at it are lower bounds, mm
    bulk : thickest ball found, for bodies so stout that no two sides oppose each other
    drift : by how much the last refinement lowered the minimum, mm
    finest : spacing round the thinnest, mm
    tested : up to which reading tapers were told from walls, mm
    slots : in the void
    whole : every inside edge and corner was asked, every thin face looked at, and shells that overlap united
    face_of : (m,) of the mesh's faces, which of those that were given each comes from
    """

    mesh: Mesh
    samples: Samples
    balls: Balls
    error: Floats
    taper: Bools
    tip: Points
    median: float | None
    spacing: float
    cap: float
    bulk: float
    drift: float
    is_closed: bool
    finest: float
    tested: float
    slots: Slots
    face_of: Ints
    whole: bool

    @property
    def counted(self) -> Bools:
        """(n,) readings that are walls and enter the minimum."""
        return self.balls.wall & ~self.taper & ~self.balls.capped


def measure_walls(
    mesh: Mesh,
    body_error: float | None,
    min_wall: float | None,
    max_wall: float | None,
    progress: Progress,
    min_slot: float | None = None,
) -> WallMap:
    """Wall readings all over one mesh.

    mesh : any; faces without area are passed over, winding is made to agree first. Needs one face with an area.
    min_wall, max_wall : limits that will be asked for, mm or None: what lies well between need not be measured closely
    min_slot : the same for the void, None where slots are not asked for
    body_error : chord error of the tessellation, mm, None where not known (then taken from the bend of the facets)
    """
    mesh = outward(mesh)
    # Seams of triangles without area close a surface; once they are left out, it only looks open.
    is_closed = edges_cancel(mesh) or closed(edges_of(mesh))
    mesh, face_of, united, known = _sound(mesh, is_closed)
    progress("building the ray scene", 0, 0)
    scene = RayScene(mesh)
    surface = Surface(mesh)
    edges = known if known is not None else edges_of(mesh)
    most = np.inf if body_error is None else 1.2 * body_error
    inside = inside_edges(mesh, edges)
    doubts = Doubt(mesh, edges, inside, most)
    total = mesh.area
    meant = ~slim(mesh)
    overview = _meant(spread(mesh, _OVERVIEW, every_face=False), meant)
    if len(overview.points) > 3 * _OVERVIEW:
        overview = overview.take(np.arange(0, len(overview.points), len(overview.points) // _OVERVIEW))
    progress("first look", 0, 0)
    crowd = Crowd(mesh, _CROWD)
    free = shrink_balls(scene, surface, overview.points, overview.normals, np.inf, crowd=crowd)
    sure = free.wall & np.isfinite(free.through)
    median = float(np.median(free.diameter[sure])) if sure.any() else None
    asked = max(min_wall or 0.0, 1e-9)
    least = least_lasting(scene, surface, mesh, overview, free, sure)
    cap = max(3 * asked, 1.5 * (max_wall or 0.0))
    wanted = int(np.clip(total / (asked / 2) ** 2, FEWEST, MOST))
    every_face = len(mesh.faces) <= EVERY_FACE
    samples = even = _meant(spread(mesh, wanted, every_face=every_face), meant)
    screened, straight, all_screened = _screened(mesh, scene, max(cap, 1.2 * least), meant, _TESTED * asked)
    if not every_face:
        samples = joined_samples([samples, screened])
    progress("measuring walls", 0, len(samples.points))
    balls = _in_portions(partial(shrink_balls, scene, surface), samples, cap, progress)
    if least > cap:
        # Nothing thin in sight: the true minimum lies above the cap and is sought with fewer, dearer balls.
        cap = 1.2 * least
        some = _slimmest(joined_samples([samples, screened]), np.concatenate([balls.through, straight]), least)
        dear = _in_portions(partial(shrink_balls, scene, surface, crowd=crowd), some, cap, progress)
        samples = joined_samples([samples, _without_weight(overview), some])
        balls = joined_balls([balls, free, dear])
    spacing = float(np.sqrt(total / max(wanted, 1)))
    samples, balls, drift, finest = _refined(mesh, scene, surface, crowd, samples, balls, spacing, cap, meant, progress)
    necks, necked = proven(_downhill(mesh, surface, samples, balls, spacing))
    webs = webs_in(mesh, edges, inside, scene, surface, cap, max(asked, spacing), progress)
    samples = joined_samples([samples, necks, webs.samples])
    balls = joined_balls([balls, necked, webs.balls])
    progress("judging walls", 0, 0)
    if not is_closed:
        balls = replace(balls, wall=balls.wall & ~at_border(mesh, edges, balls))
    tested = _TESTED * asked
    taper, edge, tip = tapers_among(scene, surface, mesh, samples, balls, tested, spacing)
    balls = replace(balls, wall=balls.wall & ~edge)
    far = np.maximum(balls.contact_face, 0)
    rounding = 4e-7 * float(np.abs(mesh.vertices - mesh.box.middle).max()) + 1e-7 * float(np.abs(mesh.vertices).max())
    # Balls large against the crowd's spacing were held against its samples, not the surface.
    share = np.where(balls.diameter > 2 * crowd.large, 5e-3, 1e-3)
    share[balls.proven] = _PROVEN
    # Surfaces that stand outside their facets make a wall thicker, those inside thinner: the two never add up.
    way = -samples.normals
    here, there = doubts.at(samples.points, samples.face, way), doubts.at(balls.contact, far, -way)
    curved = np.maximum(here[0] + there[0], here[1] + there[1])
    error = curved + rounding + share * np.where(balls.capped, 0, balls.diameter)
    # Facets beside the contact pinch a ball a little; where the straight distance says nearly the same, the truth lies between.
    pinched = np.where(balls.proven, 0.0, balls.through - balls.diameter)
    balls = replace(balls, loose=balls.loose + np.where((pinched > 0) & (pinched < 0.08 * balls.diameter), pinched, 0.0))
    slots = no_slots()
    if min_slot:
        progress("looking for narrow slots", 0, 0)
        doubt = doubts.outward + doubts.inward
        slots = slots_in(mesh, scene, surface, even, shells_of(mesh)[1], min_slot, doubt, rounding)
    walls = WallMap(
        mesh,
        samples,
        balls,
        error,
        taper,
        tip,
        median,
        spacing,
        cap,
        0.0,
        drift,
        is_closed,
        finest,
        tested,
        slots,
        face_of,
        webs.whole and united and (every_face or all_screened or not min_wall),
    )
    if walls.counted.any() or taper.any():
        return walls
    return replace(walls, bulk=stoutest(mesh, scene, surface, crowd))


def _sound(mesh: Mesh, is_closed: bool) -> tuple[Mesh, Ints, bool, Edges | None]:
    """(the surface of what is solid, without seams and faces that have no area; the given face of each; whether shells that
    overlap could be united; its edges where those are known)."""
    mesh, face_of = unseamed(mesh)
    bad = degenerate_faces(mesh)
    if bad.any():
        mesh, face_of = mesh.only(~bad), face_of[~bad]
    if not is_closed:
        return mesh, face_of, True, None
    found = material_of(mesh)
    if found.edges is not None:
        return found.mesh, face_of[found.face_of], found.whole, found.edges
    kept = np.flatnonzero(~degenerate_faces(found.mesh))
    return found.mesh.only(kept), face_of[found.face_of[kept]], found.whole, None


def _meant(samples: Samples, meant: Bools) -> Samples:
    """Samples on faces whose normal means something."""
    return samples if meant.all() else samples.take(meant[samples.face])


def _screened(mesh: Mesh, scene: RayScene, cap: float, meant: Bools, sought: float) -> tuple[Samples, Floats, bool]:
    """(middles of faces where the straight distance is under the cap, so that no thin feature hides between samples; those
    distances (n,) mm, rising; whether all with less than `sought` mm behind them are among those)."""
    normals, middles = mesh.normals(), mesh.centroids()
    straight = scene.through(middles, normals).distance
    thin = np.flatnonzero((straight < cap) & meant)
    whole = int((straight[thin] < sought).sum()) <= _SCREEN
    thin = thin[np.argsort(straight[thin], kind="stable")][:_SCREEN]
    return Samples(middles[thin], normals[thin], thin, np.zeros(len(thin))), straight[thin], whole


def _slimmest(samples: Samples, straight: Floats, least: float) -> Samples:
    """Of many samples those that may lie on a wall slimmer than `least`, the slimmest of an overview, without their weight.

    A ball is never larger than the straight distance, so all that is shorter is asked, and some of what is a little longer.
    """
    shorter = np.flatnonzero(straight < 0.98 * least)
    longer = np.flatnonzero((straight >= 0.98 * least) & (straight < 1.5 * least))
    chosen = np.concatenate([_every(shorter, _DEAR), _every(longer, _DEAR // 5)])
    return _without_weight(samples.take(chosen))


def _every(index: Ints, most: int) -> Ints:
    return index[:: max(1, -(-len(index) // most))]


def _without_weight(samples: Samples) -> Samples:
    """Samples that stand for no area of their own."""
    return replace(samples, weight=np.zeros(len(samples.points)))


def _in_portions(measure: partial[Balls], samples: Samples, cap: float, progress: Progress) -> Balls:
    portion = 20_000
    done: list[Balls] = []
    for start in range(0, len(samples.points), portion):
        piece = slice(start, start + portion)
        done.append(measure(samples.points[piece], samples.normals[piece], cap))
        progress("measuring walls", min(start + portion, len(samples.points)), len(samples.points))
    return joined_balls(done)


def _refined(
    mesh: Mesh,
    scene: RayScene,
    surface: Surface,
    crowd: Crowd,
    samples: Samples,
    balls: Balls,
    spacing: float,
    cap: float,
    meant: Bools,
    progress: Progress,
) -> tuple[Samples, Balls, float, float]:
    """More readings round the thinnest of each neighbourhood, closer and closer as long as they find thinner ones; the fall of
    the minimum in the last round is its drift, and how close they came its finest spacing, mm."""
    drift, reach = 0.0, 4 * spacing
    for step in range(_ROUNDS):
        progress("refining the thinnest", step, _ROUNDS)
        wall = np.flatnonzero(balls.wall & ~balls.capped)
        if not len(wall) or reach < spacing / 4:
            break
        before = float(balls.diameter[wall].min())
        few, each = (20, 8) if before > crowd.large else (150, 16)
        thinnest = _lowest_of_each(samples.points, balls.diameter, wall, 4 * spacing, few)
        # Each draws some points of its own face towards itself; corner combinations stay on the face.
        chosen = np.repeat(thinnest, each)
        spots = place_on(mesh, samples.face[chosen], np.arange(len(chosen)) + 1000 * (step + 1))
        toward = spots - samples.points[chosen]
        length = np.linalg.norm(toward, axis=1)
        share = np.minimum(1.0, reach / np.maximum(length, 1e-300))
        points = samples.points[chosen] + toward * share[:, None]
        far = thinnest[balls.contact_face[thinnest] >= 0]
        faces = np.concatenate([samples.face[chosen], balls.contact_face[far]])
        points = np.concatenate([points, balls.contact[far]])
        sound = meant[faces]
        faces, points = faces[sound], points[sound]
        # A contact on an edge belongs to no one face; half a percent towards the middle it does.
        middles = mesh.vertices[mesh.faces[faces]].mean(axis=1)
        points = points + 0.005 * (middles - points)
        normals = mesh.normals()[faces]
        more = shrink_balls(scene, surface, points, normals, cap, 1e-5, crowd)
        samples = joined_samples([samples, Samples(points, normals, faces, np.zeros(len(points)))])
        balls = joined_balls([balls, more])
        after = balls.diameter[balls.wall & ~balls.capped]
        drift = before - float(after.min())
        if drift < _SETTLED * before:
            reach /= 2
    wall = np.flatnonzero(balls.wall & ~balls.capped)
    if len(wall):
        # Those that may decide are taken once more against the surface itself.
        last = wall[np.argsort(balls.diameter[wall], kind="stable")[:20]]
        sure = shrink_balls(scene, surface, samples.points[last], samples.normals[last], cap, 1e-5)
        for name in Balls.__dataclass_fields__:
            getattr(balls, name)[last] = getattr(sure, name)
    return samples, balls, drift, min(reach, spacing)


def _downhill(mesh: Mesh, surface: Surface, samples: Samples, balls: Balls, spacing: float) -> Necks:
    """The necks below the thinnest of each neighbourhood."""
    wall = np.flatnonzero(balls.wall & ~balls.capped)
    if not len(wall):
        wall = wall[:0]
        return downhill(mesh, surface, samples.points[wall], balls.contact[wall], samples.face[wall], balls.contact_face[wall])[0]
    low = np.unique(_lowest_of_each(samples.points, balls.diameter, wall, 2 * spacing, _MOST_DOWNHILL))
    return downhill(mesh, surface, samples.points[low], balls.contact[low], samples.face[low], balls.contact_face[low])[0]


def _lowest_of_each(points: Points, value: Floats, index: Ints, side: float, most: int) -> Ints:
    """Up to `most` of the indexed readings, the lowest of each cube of that side first, then further low ones: many places that
    are about as thin must not hide the one that is thinnest between its samples."""
    order = index[np.argsort(value[index], kind="stable")]
    low = order[value[order] <= 2 * value[order[0]]][:20_000]
    # Cubes as one number each, out of their ranks along the axes: sought as rows they would take ten times as long.
    ranks = [np.unique(np.floor(along / side), return_inverse=True)[1] for along in points[low].T]
    _, first = np.unique((ranks[0] * len(low) + ranks[1]) * len(low) + ranks[2], return_index=True)
    chosen = low[np.sort(first)[:most]]
    return np.concatenate([chosen, order[: max(most - len(chosen), most // 4)]])


def readings_for_all(walls: WallMap) -> Floats:
    """(n,) thickness at every sample: its own where it is a wall, else that of the nearest wall sample of like normal."""
    wall = walls.balls.wall
    value = np.where(wall, walls.balls.diameter, np.nan)
    if not wall.any() or wall.all():
        return value
    scale = 5 * walls.spacing
    place = np.hstack([walls.samples.points, walls.samples.normals * scale])
    distance, nearest = cKDTree(place[wall]).query(place[~wall], k=1)
    like = np.einsum("ij,ij->i", walls.samples.normals[wall][nearest], walls.samples.normals[~wall]) > 0.8
    value[~wall] = np.where(like & np.isfinite(distance), walls.balls.diameter[wall][nearest], np.nan)
    return value


def face_values(walls: WallMap, readings: Floats, faces: int) -> np.ndarray:
    """(faces,) float32 thinnest reading on each face; faces without a sample take the nearest of like normal."""
    value = np.full(faces, np.inf)
    known = np.isfinite(readings)
    np.minimum.at(value, walls.samples.face[known], readings[known])
    bare = np.flatnonzero(~np.isfinite(value))
    if len(bare) and known.any():
        mesh = walls.mesh
        scale = 5 * walls.spacing
        tree = cKDTree(np.hstack([walls.samples.points[known], walls.samples.normals[known] * scale]))
        asked = np.hstack([mesh.centroids()[bare], mesh.normals()[bare] * scale])
        _, nearest = tree.query(asked, k=1)
        like = np.einsum("ij,ij->i", walls.samples.normals[known][nearest], mesh.normals()[bare]) > 0.8
        value[bare] = np.where(like, readings[known][nearest], np.inf)
    return np.where(np.isfinite(value), value, np.nan).astype(np.float32)
