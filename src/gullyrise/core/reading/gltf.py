"""GLB and glTF: meshes are bodies, nodes place them, metres, Y up. Nothing outside the file's folder is opened."""

from __future__ import annotations

import io
import json
import struct
from collections import deque
from pathlib import Path
from typing import Any

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, TooLarge, Truncated, UnsafeContent
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.part import Colour, Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import MOST_BODIES, MOST_DEPTH, ReadOptions
from gullyrise.core.reading.pieces import Piece, part_of, sound_mesh

FORMAT = "glb"
ENDINGS = (".glb", ".gltf")
WANTS = ("trimesh.exchange.gltf",)

# glTF's up is +Y and its front +Z; here up is +Z and the front is seen along +Y.
_UPRIGHT = Transform(np.array([[1.0, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]]))


def sniff(head: bytes) -> bool:
    return head[:4] == b"glTF" or (head.lstrip()[:1] == b"{" and b'"asset"' in head)


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Bodies by mesh, copies by node (trimesh reads buffers and nodes)."""
    from trimesh.exchange.gltf import load_glb, load_gltf

    data = path.read_bytes()
    binary = data[:4] == b"glTF"
    tree = _tree(path, data, binary)
    _check_tree(path, tree, len(data))
    if binary:
        found: dict[str, Any] = load_glb(io.BytesIO(data), skip_materials=True, merge_primitives=True)
    else:
        found = load_gltf(io.BytesIO(data), resolver=_Folder(path), skip_materials=True, merge_primitives=True)
    meshes: dict[str, Mesh] = {}
    for name, body in found["geometry"].items():
        if "faces" in body and len(body["faces"]):
            meshes[name] = sound_mesh(path.name, "glTF", np.asarray(body["vertices"], dtype=np.float64), body["faces"])
    colours = _colours(tree, list(found["geometry"]))
    pieces = [
        Piece(name, meshes[name], place.then(_UPRIGHT), trail, colours.get(name))
        for name, place, trail in _placements(path, found["graph"])
        if name in meshes
    ]
    if not pieces:
        raise NothingInside(path.name)
    return part_of(path, "glb" if binary else "gltf", pieces, options, "m")


def _tree(path: Path, data: bytes, binary: bool) -> dict[str, Any]:
    text = data
    if binary:
        if len(data) < 20:
            raise Truncated(path.name, "a header of 20 bytes", f"{len(data)}")
        _, _, total, length = struct.unpack("<4sIII", data[:16])
        if total > len(data) or 20 + length > len(data):
            raise Truncated(path.name, f"{max(total, 20 + length):,} bytes", f"{len(data):,}")
        text = data[20 : 20 + length]
    try:
        tree = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Damaged(path.name, "glTF", f"its description is not JSON ({type(error).__name__})") from error
    if not isinstance(tree, dict):
        raise Damaged(path.name, "glTF", "its description is not an object")
    return tree


def _check_tree(path: Path, tree: dict[str, Any], size: int) -> None:
    """Bounds on counts, announced against present, before the library makes arrays of them."""
    for accessor in tree.get("accessors", []):
        if int(accessor.get("count", 0)) > max(size, 1) * 4 and "bufferView" not in accessor:
            raise TooLarge(path.name, f"{accessor['count']:,} values without data", f"{size * 4:,}")
    if len(tree.get("nodes", [])) > MOST_BODIES:
        raise TooLarge(path.name, f"{len(tree['nodes']):,} nodes", f"{MOST_BODIES:,}")
    required = [name for name in tree.get("extensionsRequired", []) if name.startswith("KHR_draco") or "meshopt" in name]
    if required:
        raise Damaged(path.name, "glTF", f"it needs the extension {required[0]}, which is not read")


class _Folder:
    """Buffers beside a .gltf file, never outside its folder."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._home = path.parent.resolve()

    def __getitem__(self, name: str) -> bytes:
        return self.get(name)

    def get(self, name: str) -> bytes:
        place = (self._home / name).resolve()
        if not place.is_relative_to(self._home):
            raise UnsafeContent(self._path.name, f"it names a file outside its folder ({name[:60]})")
        try:
            return place.read_bytes()
        except OSError as error:
            raise Damaged(self._path.name, "glTF", f"the file {name[:60]} that it needs is missing") from error


def _placements(path: Path, graph: list[dict[str, Any]]) -> list[tuple[str, Transform, tuple[str, ...]]]:
    """(geometry, world placement, names of the nodes above) of each node that shows one; the graph is a list of parent-child
    links."""
    links: dict[str, list[dict[str, Any]]] = {}
    for link in graph:
        links.setdefault(link.get("frame_from", "world"), []).append(link)
    out: list[tuple[str, Transform, tuple[str, ...]]] = []
    waiting: deque[tuple[str, Transform, tuple[str, ...]]] = deque([("world", Transform.identity(), ())])
    while waiting:
        frame, place, trail = waiting.popleft()
        if len(trail) > 8 * MOST_DEPTH or max(len(out), len(waiting)) > MOST_BODIES:
            raise Damaged(path.name, "glTF", "its nodes are nested without end")
        for link in links.get(frame, []):
            here = Transform(np.asarray(link.get("matrix", np.eye(4)))).then(place)
            if "geometry" in link:
                out.append((link["geometry"], here, trail))
            if link["frame_to"] in links:
                waiting.append((link["frame_to"], here, (*trail, str(link["frame_to"])[:120])))
    return out


def _colours(tree: dict[str, Any], names: list[str]) -> dict[str, Colour]:
    """The base colour of each geometry by its first material; none where the library has made more geometries than there are
    meshes, which then cannot be told apart."""
    meshes = [mesh for mesh in tree.get("meshes", []) if mesh.get("primitives")]
    materials = tree.get("materials", [])
    out: dict[str, Colour] = {}
    if len(meshes) != len(names):
        return out
    for name, mesh in zip(names, meshes, strict=True):
        number = mesh["primitives"][0].get("material")
        if isinstance(number, int) and 0 <= number < len(materials):
            factor = materials[number].get("pbrMetallicRoughness", {}).get("baseColorFactor")
            if isinstance(factor, list) and len(factor) >= 3:
                # glTF's factors are linear light; screens take them by the sRGB curve (IEC 61966-2-1).
                red, green, blue = (_curved(min(max(float(value), 0.0), 1.0)) for value in factor[:3])
                out[name] = (red, green, blue)
    return out


def _curved(value: float) -> float:
    return float(12.92 * value if value <= 0.0031308 else 1.055 * value ** (1 / 2.4) - 0.055)
