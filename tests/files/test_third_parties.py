"""What other programs write and is sound is read; what is not is told in a plain sentence, without a word of Python's."""

from __future__ import annotations

import base64
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.TopoDS import TopoDS_Compound, TopoDS_Solid

from gullyrise.core.errors import Damaged, ReadError, Truncated
from gullyrise.core.reading import ReadOptions, read
from gullyrise.core.reading import stl as stl_reader
from gullyrise.core.reading.gltf_primitives import as_triangles
from gullyrise.workers.batch import run_all
from gullyrise.workers.process import Worker, _worked
from gullyrise.workers.work import Read
from truth.families import solids


def _brep(path: Path, shape: Any) -> None:
    assert BRepTools.Write_s(shape, str(path))


def test_a_line_of_nothing_after_the_last_shape_is_ordinary(tmp_path: Path) -> None:
    path = tmp_path / "block.brep"
    _brep(path, solids.block((0, 0, 0), (10, 20, 30)))
    plain = path.read_text().rstrip()
    head, _, last = plain.rpartition("\n")
    for tail in (last + "\n0\n\n", last.replace(" ", " \n", 1) + "\n", last + "\n\n\n"):
        path.write_text(f"{head}\n{tail}")
        assert read(path).bodies[0].volume == pytest.approx(6000)
    path.write_text(head[: len(head) // 2])
    with pytest.raises(Truncated):
        read(path)


def test_a_solid_without_faces_beside_sound_ones_is_told_and_left_out(tmp_path: Path) -> None:
    whole, empty, builder = TopoDS_Compound(), TopoDS_Solid(), BRep_Builder()
    builder.MakeCompound(whole)
    builder.MakeSolid(empty)
    for shape in (solids.block((0, 0, 0), (10, 10, 10)), empty, solids.ball((40, 0, 0), 5)):
        builder.Add(whole, shape)
    _brep(tmp_path / "some.brep", whole)
    part = read(tmp_path / "some.brep")
    assert len(part.bodies) == 2 and any("without faces" in note for note in part.notes)


def _gltf(path: Path, primitives: list[dict[str, Any]], data: bytes, accessors: list[dict[str, Any]], **more: Any) -> Path:
    views = [{"buffer": 0, "byteOffset": a.pop("at"), "byteLength": a.pop("long")} for a in accessors]
    tree = {
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": primitives}],
        "buffers": [{"byteLength": len(data), "uri": "data:application/octet-stream;base64," + base64.b64encode(data).decode()}],
        "bufferViews": views, "accessors": [{"bufferView": number, **a} for number, a in enumerate(accessors)], **more,
    }  # fmt: skip
    path.write_text(json.dumps(tree))
    return path


_SQUARE = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0]], dtype="<f4")


@pytest.mark.parametrize(("mode", "order"), [(4, [0, 1, 3, 0, 3, 2]), (5, [0, 1, 2, 3]), (6, [0, 1, 3, 2])])
@pytest.mark.parametrize("named", [True, False])
def test_triangles_strips_and_fans_are_the_same_square(tmp_path: Path, mode: int, order: list[int], named: bool) -> None:
    places = _SQUARE if named else _SQUARE[order]
    data = places.tobytes() + np.array(order, dtype="<u2").tobytes()
    accessors: list[dict[str, Any]] = [
        {
            "at": 0,
            "long": places.nbytes,
            "componentType": 5126,
            "count": len(places),
            "type": "VEC3",
            "min": [0, 0, 0],
            "max": [1, 1, 0],
        },
        {"at": places.nbytes, "long": 2 * len(order), "componentType": 5123, "count": len(order), "type": "SCALAR"},
    ]
    primitive: dict[str, Any] = {"attributes": {"POSITION": 0}, "mode": mode, **({"indices": 1} if named else {})}
    # Points beside it are no surface, and trouble nobody.
    part = read(_gltf(tmp_path / "square.gltf", [primitive, {"attributes": {"POSITION": 0}, "mode": 0}], data, accessors))
    mesh = part.whole()
    assert mesh.area == pytest.approx(1e6), "a square metre"
    assert np.unique(mesh.normals().round(6), axis=0).tolist() == [[0, -1, 0]], (
        "both look the same way: +Z there is the front here"
    )


def test_several_primitives_are_one_body(tmp_path: Path) -> None:
    data = _SQUARE.tobytes() + np.array([0, 1, 3, 0, 3, 2], dtype="<u2").tobytes()
    accessors: list[dict[str, Any]] = [
        {"at": 0, "long": 48, "componentType": 5126, "count": 4, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]},
        {"at": 48, "long": 6, "componentType": 5123, "count": 3, "type": "SCALAR"},
        {"at": 54, "long": 6, "componentType": 5123, "count": 3, "type": "SCALAR"},
    ]
    both = [{"attributes": {"POSITION": 0}, "indices": number, "material": 0} for number in (1, 2)]
    red = [{"pbrMetallicRoughness": {"baseColorFactor": [1, 0, 0, 1]}}]
    part = read(_gltf(tmp_path / "two.gltf", both, data, accessors, materials=red))
    assert len(part.bodies) == 1 and part.triangles == 2 and part.bodies[0].colour == pytest.approx((1, 0, 0))
    assert len(part.bodies[0].mesh.vertices) == 4


def test_an_odd_triangle_of_a_strip_is_turned_and_one_without_area_left_out() -> None:
    order = np.array([0, 1, 2, 2, 3], dtype="<u2")
    tree = {
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1, "mode": 5}]}],
        "accessors": [{"count": 4}, {"bufferView": 0, "componentType": 5123, "count": 5}],
        "bufferViews": [{"buffer": 0}], "buffers": [{}],
    }  # fmt: skip
    plain = as_triangles(Path("strip.gltf"), tree, lambda _: order.tobytes())
    made = plain["accessors"][plain["meshes"][0]["primitives"][0]["indices"]]
    assert made["count"] == 3, "the other two have a corner twice"


def test_the_first_version_of_a_format_is_named_as_such(tmp_path: Path) -> None:
    path = tmp_path / "old.gltf"
    path.write_text(json.dumps({"asset": {"version": "1.0"}, "meshes": {"a": {}}, "nodes": {}, "accessors": {}}))
    with pytest.raises(Damaged, match=r"glTF 1\.0.*only 2\.0 is read"):
        read(path)


def test_no_words_of_python_reach_a_person(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def stumbles(*_: object) -> None:
        raise AttributeError("'NoneType' object has no attribute 'get'")

    monkeypatch.setattr(stl_reader, "read", stumbles)
    path = tmp_path / "part.stl"
    path.write_bytes(b"solid x\nfacet normal 0 0 1\n")
    with pytest.raises(ReadError) as caught:
        read(path)
    assert "NoneType" not in str(caught.value) and isinstance(caught.value.__cause__, AttributeError)


class _Faulty(Read):
    def beforehand(self, progress: object) -> _Faulty:
        return self

    def run(self, progress: object) -> object:
        raise ValueError("truth value of an array")


def test_a_fault_of_our_own_is_told_as_one_and_kept_for_who_mends_it() -> None:
    (report,) = run_all([_Faulty("part.stl", ReadOptions(), 1.0)])
    assert report.kind == "error" and "fault of this program" in str(report.value)
    assert "truth value" not in str(report.value) and "truth value" in report.value.detail


def test_a_worker_is_bounded_by_the_time_that_it_works() -> None:
    worker = Worker(Read("part.stl", ReadOptions(), 1.0), "fork")
    assert not hasattr(worker, "pipe") and _worked(1 << 30) == 0.0
    import os

    before = _worked(os.getpid())
    sum(number * number for number in range(3_000_000))
    assert _worked(os.getpid()) > before
