"""What is true of a job, told by plain means: corners against the machine's sizes, and solid geometry of another kernel than that
of the check it is held against."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import manifold3d
import numpy as np
import trimesh

BETWEEN_BEDS = 60.0
_CLOSE = 1e-3
_SEARCH = 3.0


def beds_it_is_in(job: Any, placed: Any, loose: float = 1e-6) -> list[int]:
    """The drawn beds whose room holds every corner of a part, told from nothing but the machine's sizes."""
    points = np.concatenate([placed.placement.apply(mesh.vertices) for _, _, mesh in placed.part.copies()])
    envelope = job.machine.envelope
    out = []
    for bed in range(job.beds):
        at = points - [bed * (envelope.box.size[0] + BETWEEN_BEDS), 0, 0]
        inside = (at >= envelope.box.low - loose).all() and (at <= envelope.box.high + loose).all()
        if envelope.shape == "cylinder":
            inside &= np.hypot(at[:, 0], at[:, 1]).max() <= envelope.box.high[0] + loose
        if inside:
            out.append(bed)
    return out


@dataclass
class Oracle:
    """Remembers bodies by their part, so that thousands of questions about the same ones stay cheap."""

    _solids: dict[int, tuple[Any, list[manifold3d.Manifold] | None]] = field(default_factory=dict)
    _pairs: dict[tuple[Any, ...], tuple[str, float]] = field(default_factory=dict)
    _thick: dict[tuple[Any, ...], float] = field(default_factory=dict)

    def solids(self, part: Any) -> list[manifold3d.Manifold] | None:
        """The closed bodies of a part; None where one of them encloses nothing that this kernel would vouch for."""
        known = self._solids.get(id(part))
        if known is None or known[0] is not part:
            made: list[manifold3d.Manifold] | None = []
            for _, _, mesh in part.copies():
                joined = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True)
                solid = manifold3d.Manifold(
                    manifold3d.Mesh64(np.asarray(joined.vertices), np.asarray(joined.faces, dtype=np.uint64))
                )
                if solid.status() != manifold3d.Error.NoError or solid.is_empty() or not joined.is_watertight:
                    made = None
                    break
                made.append(solid)
            known = self._solids[id(part)] = (part, made)
        return known[1]

    def between(self, a: Any, b: Any) -> tuple[str, float]:
        """(`meet` and by how many mm3, `apart` and by how many mm at least, or `unsure`) of two parts where they stand."""
        gap = np.maximum(a.ground.low - b.ground.high, b.ground.low - a.ground.high).clip(0)
        if float(np.linalg.norm(gap)) > _SEARCH:
            return "apart", float(np.linalg.norm(gap))
        key = _key(a, b)
        if key not in self._pairs:
            self._pairs[key] = self._measured(a, b)
        return self._pairs[key]

    def is_more_than_facets(self, a: Any, b: Any) -> bool:
        """Whether what two parts share is thicker than what flat facets may hide of round surfaces: what is thinner may be no
        overlap of the surfaces that were meant, though it is one of the triangles."""
        return self._thick.get(_key(a, b), 0.0) > 4 * (_sagitta(a.part) + _sagitta(b.part))

    def _measured(self, a: Any, b: Any) -> tuple[str, float]:
        ones, others = self.solids(a.part), self.solids(b.part)
        if ones is None or others is None:
            return "unsure", 0.0
        # Triangles stand for a surface within their chord error: nearer than that nobody is right or wrong.
        off = sum(max((body.chord_error or 0.0 for body in one.part.bodies), default=0.0) for one in (a, b)) + _CLOSE
        least, volume = _SEARCH, 0.0
        for one in ones:
            placed = one.transform(a.placement.matrix[:3])
            for other in others:
                against = other.transform(b.placement.matrix[:3])
                common = placed ^ against
                if not common.is_empty():
                    low, high = np.array(common.bounding_box()).reshape(2, 3)
                    thin = float((high - low).min())
                    if common.volume() > 1e-3 and thin > 4 * off:
                        volume += common.volume()
                        self._thick[_key(a, b)] = max(thin, self._thick.get(_key(a, b), 0.0))
                    else:
                        return "unsure", 0.0
                else:
                    least = min(least, placed.min_gap(against, _SEARCH))
        if volume:
            return "meet", volume
        return ("apart", least - off) if least > 2 * off else ("unsure", 0.0)


def _key(a: Any, b: Any) -> tuple[Any, ...]:
    return id(a.part), a.placement.matrix.tobytes(), id(b.part), b.placement.matrix.tobytes()


def _sagitta(part: Any) -> float:
    """mm by which round surfaces may stand off the facets drawn of them: of a chord across a bend, half of it by the tangent of a
    quarter of the bend."""
    most = 0.0
    for _, _, mesh in part.copies():
        made = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True)
        ends = made.vertices[made.face_adjacency_edges]
        along = np.maximum(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1), 1e-12)
        across = 2 * made.area_faces[made.face_adjacency].max(axis=1) / along
        off = across * np.tan(made.face_adjacency_angles / 4) / 2
        most = max(most, float(off[made.face_adjacency_angles < np.radians(40)].max(initial=0.0)))
    return most


def written(path: Path) -> list[np.ndarray]:
    """(2, 3) the box of every body in a file, read by another library."""
    scene = trimesh.load(path, force="scene")
    out = []
    for name in scene.graph.nodes_geometry:
        place, geometry = scene.graph[name]
        out.append(np.asarray(scene.geometry[geometry].copy().apply_transform(place).bounds))
    return out


def bodies_from(job: Any, placed: Any, bed: int) -> list[np.ndarray]:
    """(2, 3) the box of every body of a part, from a bed's corner."""
    out = []
    for _, _, mesh in placed.part.copies():
        points = placed.placement.apply(mesh.vertices) - [bed * (job.machine.envelope.box.size[0] + BETWEEN_BEDS), 0, 0]
        out.append(np.array([points.min(axis=0), points.max(axis=0)]))
    return out
