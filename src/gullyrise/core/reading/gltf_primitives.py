"""What of a glTF description is surface: triangles, strips and fans, all told as triangles with nothing but their places.

The library that reads the buffers takes triangles only, and trips over colours and over points and lines beside them.
Source: glTF 2.0 specification, 3.7.2.1 (Khronos Group, 2021): a strip's even triangles keep their order, its odd ones turn round.
"""

from __future__ import annotations

import base64
import copy
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from gullyrise.core.errors import Damaged, TooLarge
from gullyrise.core.reading.options import MOST_TRIANGLES

_TRIANGLES, _STRIP, _FAN = 4, 5, 6
_MARK = "|"
_INDEX_TYPES = {5121: np.uint8, 5123: np.uint16, 5125: np.uint32}


def as_triangles(path: Path, tree: dict[str, Any], buffer: Callable[[int], bytes]) -> dict[str, Any]:
    """The description with triangles alone, each mesh named for its number, and nodes without what has none.

    buffer : gives the bytes of one by its number
    """
    meshes = tree.get("meshes", [])
    out = {key: value for key, value in tree.items() if key not in ("extensionsUsed", "extensionsRequired", "images", "textures")}
    for key in ("accessors", "bufferViews", "buffers"):
        out[key] = list(tree.get(key, []))
    plain: list[dict[str, Any]] = []
    for mesh in meshes:
        kept = []
        for primitive in mesh.get("primitives", []):
            mode = primitive.get("mode", _TRIANGLES)
            place = primitive.get("attributes", {}).get("POSITION")
            if mode not in (_TRIANGLES, _STRIP, _FAN) or place is None:
                continue
            one = {"attributes": {"POSITION": place}, "mode": _TRIANGLES}
            if "material" in primitive:
                one["material"] = primitive["material"]
            if mode == _TRIANGLES:
                if "indices" in primitive:
                    one["indices"] = primitive["indices"]
            else:
                order = _order(path, tree, primitive, place, buffer)
                one["indices"] = _added(out, _corners(order, mode))
            kept.append(one)
        plain.append({"name": f"{_MARK}{len(plain)}{_MARK}", "primitives": kept})
    out["meshes"] = copy.deepcopy(plain)
    bare = {number for number, mesh in enumerate(plain) if not mesh["primitives"]}
    out["nodes"] = [
        {key: value for key, value in node.items() if key != "mesh" or value not in bare} for node in tree.get("nodes", [])
    ]
    return out


def mesh_number(name: str) -> int:
    """Which mesh a geometry that the library has made belongs to: it makes one of each primitive, and adds to their names."""
    return int(name.split(_MARK)[1])


def _order(path: Path, tree: dict[str, Any], primitive: dict[str, Any], place: int, buffer: Callable[[int], bytes]) -> np.ndarray:
    """The corners of a strip or fan in order."""
    if "indices" not in primitive:
        count = int(tree["accessors"][place]["count"])
        if count > MOST_TRIANGLES:
            raise TooLarge(path.name, f"{count:,} corners", f"{MOST_TRIANGLES:,}")
        return np.arange(count)
    accessor = tree["accessors"][primitive["indices"]]
    view = tree["bufferViews"][accessor["bufferView"]]
    kind = _INDEX_TYPES[accessor["componentType"]]
    start, count = int(view.get("byteOffset", 0)) + int(accessor.get("byteOffset", 0)), int(accessor["count"])
    data = buffer(int(view["buffer"]))[start : start + count * np.dtype(kind).itemsize]
    found = np.frombuffer(data, dtype=kind)
    if len(found) != count:
        raise Damaged(path.name, "glTF", "a strip or fan names more corners than there are")
    return found.astype(np.int64)


def _corners(order: np.ndarray, mode: int) -> np.ndarray:
    """(3m,) corners of the triangles of a strip or a fan."""
    if len(order) < 3:
        return np.zeros(0, dtype=np.int64)
    if mode == _FAN:
        first = np.full(len(order) - 2, order[0])
        return np.column_stack([first, order[1:-1], order[2:]]).reshape(-1)
    triangles = np.column_stack([order[:-2], order[1:-1], order[2:]])
    triangles[1::2] = triangles[1::2][:, [0, 2, 1]]
    sound = (triangles[:, 0] != triangles[:, 1]) & (triangles[:, 1] != triangles[:, 2]) & (triangles[:, 2] != triangles[:, 0])
    return np.asarray(triangles[sound].reshape(-1))


def _added(tree: dict[str, Any], corners: np.ndarray) -> int:
    """The number of a new accessor that holds these corners."""
    data = corners.astype("<u4").tobytes()
    tree["buffers"].append(
        {"uri": "data:application/octet-stream;base64," + base64.b64encode(data).decode(), "byteLength": len(data)}
    )
    tree["bufferViews"].append({"buffer": len(tree["buffers"]) - 1, "byteOffset": 0, "byteLength": len(data)})
    view = len(tree["bufferViews"]) - 1
    tree["accessors"].append({"bufferView": view, "componentType": 5125, "count": len(corners), "type": "SCALAR"})
    return len(tree["accessors"]) - 1
