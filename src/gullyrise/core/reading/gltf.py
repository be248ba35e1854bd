"""GLB and glTF: meshes are bodies, nodes place them, metres, Y up. Nothing outside the file's folder is opened."""

from __future__ import annotations

import base64
import io
import json
import struct
from collections import deque
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, TooLarge, Truncated, UnsafeContent
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.part import Colour, Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.gltf_primitives import as_triangles, mesh_number
from gullyrise.core.reading.options import MOST_BODIES, MOST_DEPTH, ReadOptions
from gullyrise.core.reading.pieces import Piece, part_of, sound_mesh
from gullyrise.core.safe_files import ordinary

FORMAT = "glb"
ENDINGS = (".glb", ".gltf")
WANTS = ("trimesh.exchange.gltf",)

# glTF's up is +Y and its front +Z; here up is +Z and the front is seen along +Y.
_UPRIGHT = Transform(np.array([[1.0, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]]))


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be glTF."""
    return head[:4] == b"glTF" or (head.lstrip()[:1] == b"{" and b'"asset"' in head)


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Bodies by mesh, copies by node (trimesh reads buffers and nodes)."""
    from trimesh.exchange.gltf import load_glb, load_gltf

    data = path.read_bytes()
    binary = data[:4] == b"glTF"
    tree, chunk = _tree(path, data, binary)
    _check_tree(path, tree, len(data))
    folder = _Folder(path)

    def buffer(number: int) -> bytes:
        uri = tree["buffers"][number].get("uri")
        if uri is None:
            return chunk
        return base64.b64decode(uri.partition(",")[2]) if uri.startswith("data:") else folder.get(uri)

    text = json.dumps(as_triangles(path, tree, buffer)).encode()
    if binary:
        found: dict[str, Any] = load_glb(io.BytesIO(_packed(text, chunk)), resolver=folder, skip_materials=True)
    else:
        found = load_gltf(io.BytesIO(text), resolver=folder, skip_materials=True)
    told = tree.get("meshes", [])
    parts: dict[int, list[Mesh]] = {}
    first: dict[str, int] = {}
    for name, body in found["geometry"].items():
        number = mesh_number(name)
        if number not in parts:
            first[name] = number
        if "faces" in body and len(body["faces"]):
            mesh = sound_mesh(path.name, "glTF", np.asarray(body["vertices"], dtype=np.float64), body["faces"])
            parts.setdefault(number, []).append(mesh)
        else:
            parts.setdefault(number, [])
    meshes = {number: _one(some) for number, some in parts.items() if some}
    pieces = [
        Piece(
            str(told[first[name]].get("name", "mesh")),
            meshes[first[name]],
            place.then(_UPRIGHT),
            trail,
            _colour(tree, first[name]),
        )
        for name, place, trail in _placements(path, found["graph"])
        if name in first and first[name] in meshes
    ]
    if not pieces:
        raise NothingInside(path.name)
    return part_of(path, "glb" if binary else "gltf", pieces, options, "m")


def _tree(path: Path, data: bytes, binary: bool) -> tuple[dict[str, Any], bytes]:
    """(the description, the bytes of the binary chunk)."""
    text, chunk = data, b""
    if binary:
        if len(data) < 20:
            raise Truncated(path.name, "a header of 20 bytes", f"{len(data)}")
        _, version, total, length = struct.unpack("<4sIII", data[:16])
        if version == 1:
            raise _too_old(path)
        if total > len(data) or 20 + length > len(data):
            raise Truncated(path.name, f"{max(total, 20 + length):,} bytes", f"{len(data):,}")
        text = data[20 : 20 + length]
        chunk = data[28 + length : 28 + length + int.from_bytes(data[20 + length : 24 + length], "little")]
    try:
        tree = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Damaged(path.name, "glTF", "its description is not JSON") from error
    if not isinstance(tree, dict):
        raise Damaged(path.name, "glTF", "its description is not an object")
    asset = tree.get("asset", {})
    if isinstance(asset, dict) and str(asset.get("version", "2")).startswith("1"):
        raise _too_old(path)
    lists = ("accessors", "bufferViews", "buffers", "meshes", "nodes", "scenes", "materials")
    if any(isinstance(tree.get(name), dict) for name in lists):
        # The first version had these as objects by name, whatever it says of itself.
        raise _too_old(path)
    for name in lists:
        entries = tree.get(name, [])
        if not isinstance(entries, list) or not all(isinstance(entry, dict) for entry in entries):
            raise Damaged(path.name, "glTF", f"its {name} are no list of objects")
    return tree, chunk


def _too_old(path: Path) -> Damaged:
    return Damaged(path.name, "glTF", "it is glTF 1.0, and only 2.0 is read; ask for glTF 2.0 or STEP")


def _packed(text: bytes, chunk: bytes) -> bytes:
    """A GLB of a description and a binary chunk (glTF 2.0, 4.4)."""
    text += b" " * (-len(text) % 4)
    parts = [struct.pack("<I4s", len(text), b"JSON") + text]
    if chunk:
        chunk += b"\0" * (-len(chunk) % 4)
        parts.append(struct.pack("<I4s", len(chunk), b"BIN\0") + chunk)
    body = b"".join(parts)
    return struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body


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

    def get(self, uri: str) -> bytes:
        name = unquote(uri)
        place = (self._home / name).resolve()
        if not place.is_relative_to(self._home):
            raise UnsafeContent(self._path.name, f"it names a file outside its folder ({name[:60]})")
        try:
            with ordinary(place) as stream:
                return stream.read()
        except (OSError, ValueError) as error:
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


def _one(parts: list[Mesh]) -> Mesh:
    """The primitives of a mesh as one, equal vertices joined."""
    if len(parts) == 1:
        return parts[0]
    whole = merged(parts)
    return joined(whole.vertices, whole.faces)


def _colour(tree: dict[str, Any], number: int) -> Colour | None:
    """The base colour of a mesh by the material of its first triangles."""
    materials = tree.get("materials", [])
    primitives = tree["meshes"][number].get("primitives", [])
    material = primitives[0].get("material") if primitives else None
    if not isinstance(material, int) or not 0 <= material < len(materials):
        return None
    factor = materials[material].get("pbrMetallicRoughness", {}).get("baseColorFactor")
    if not isinstance(factor, list) or len(factor) < 3:
        return None
    # glTF's factors are linear light; screens take them by the sRGB curve (IEC 61966-2-1).
    red, green, blue = (_curved(min(max(float(value), 0.0), 1.0)) for value in factor[:3])
    return red, green, blue


def _curved(value: float) -> float:
    return float(12.92 * value if value <= 0.0031308 else 1.055 * value ** (1 / 2.4) - 0.055)
