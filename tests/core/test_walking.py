"""Walking by keys over what can be pointed at: next to it, along the silhouette, by kind."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import pytest

import zoo
from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Box, Mesh
from gullyrise.core.picking.feature import Kind
from gullyrise.core.picking.prepared import Prepared, prepared
from gullyrise.core.picking.walking import around, beside, following, stations

SIZE = (800, 600)


@dataclass
class Body:
    mesh: Mesh
    matrix: np.ndarray = field(default_factory=lambda: np.eye(4))
    key: tuple[int, int] = (1, 0)

    @property
    def box(self) -> Box:
        return self.mesh.box

    @property
    def prepared(self) -> Prepared:
        return prepared(self.mesh, None)


BLOCK = Body(zoo.mesh_of(zoo.block((0, 0, 0), (30, 20, 10))))
CAMERA = Camera(np.array([15.0, 10, 5]), 30, 25, 60, parallel=True)


@pytest.mark.parametrize(("kind", "count"), [("face", 3), ("edge", 12), ("vertex", 8), ("body", 1)])
def test_each_face_that_looks_here_each_edge_and_corner_has_a_place(kind: Kind, count: int) -> None:
    found = stations((BLOCK,), kind, CAMERA, SIZE)
    assert len(found.places) == count and (found.item == 0).all()
    assert len(stations((), kind, CAMERA, SIZE).places) == 0
    assert len(stations((BLOCK,), kind, Camera(np.array([900.0, 0, 0]), 30, 25, 60, parallel=True), SIZE).places) == 0


def test_a_mirrored_body_is_walked_on_the_faces_that_look_here() -> None:
    turned = Body(BLOCK.mesh, np.diag([-1.0, 1, 1, 1]))
    camera = Camera(np.array([-15.0, 10, 5]), 30, 25, 60, parallel=True)
    assert len(stations((turned,), "face", camera, SIZE).places) == 3


def test_an_arrow_goes_to_what_lies_next_that_way_and_stops_at_the_end() -> None:
    places = np.array([[x, y, 1.0] for y in (100, 200, 300) for x in (100, 200, 300)], dtype=float)
    here = (200.0, 200.0)
    for way, place in (("left", (100, 200)), ("right", (300, 200)), ("up", (200, 100)), ("down", (200, 300))):
        number = beside(places, here, way)  # type: ignore[arg-type]
        assert number is not None and tuple(places[number, :2]) == place
    assert beside(places, (100.0, 100.0), "left") is None and beside(places[:0], here, "up") is None


def test_the_next_goes_through_all_and_back() -> None:
    places = stations((BLOCK,), "vertex", CAMERA, SIZE).places
    for walk in (following, around):
        seen, here = [], (0.0, 0.0)
        for _ in range(len(places)):
            number = walk(places, here, 1)
            assert number is not None
            seen.append(number)
            here = (float(places[number, 0]), float(places[number, 1]))
        if walk is following:
            assert sorted(seen) == list(range(len(places))), "each once"
        first = walk(places, here, -1)
        assert first == seen[-2], "and back the same way"
        assert walk(places[:0], here, 1) is None


def test_round_the_silhouette_are_the_six_outer_corners_of_a_block_seen_aslant() -> None:
    places = stations((BLOCK,), "vertex", CAMERA, SIZE).places
    seen, here = set(), (0.0, 0.0)
    for _ in range(12):
        number = around(places, here, 1)
        assert number is not None
        seen.add(number)
        here = (float(places[number, 0]), float(places[number, 1]))
    middle = (places[:, :2].min(axis=0) + places[:, :2].max(axis=0)) / 2
    inner = set(np.argsort(np.linalg.norm(places[:, :2] - middle, axis=1))[:2].tolist())
    assert len(seen) == 6 and not seen & inner
