"""Bad input gets one sentence each, and takes nothing else down."""

from __future__ import annotations

import json
import os
import struct
import subprocess
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
import trimesh
from fuzz import KINDS, faults_in, whole_files

from gullyrise.core.errors import ReadError
from gullyrise.core.progress import Progress
from gullyrise.core.reading import read
from gullyrise.workers.batch import run_all
from gullyrise.workers.process import Bounds
from gullyrise.workers.work import Figures, ReadOptions


def good_stl(path: Path) -> Path:
    trimesh.creation.box((10, 20, 30)).export(path)
    return path


def bomb_3mf(path: Path) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("3D/3dmodel.model", b" " * (200 << 20))


def entities_3mf(path: Path) -> None:
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr(
            "3D/3dmodel.model", '<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "b"><!ENTITY c "&a;&a;">]><model>&c;</model>'
        )


def outside_3mf(path: Path) -> None:
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("../../outside.model", "x")


def four_billion_stl(path: Path) -> None:
    path.write_bytes(b"\0" * 80 + struct.pack("<I", 4_000_000_000) + b"\0" * 500)


def nan_stl(path: Path) -> None:
    good_stl(path)
    data = bytearray(path.read_bytes())
    data[100:104] = struct.pack("<f", float("nan"))
    path.write_bytes(bytes(data))


def cut_stl(path: Path) -> None:
    data = good_stl(path).read_bytes()
    path.write_bytes(data[: len(data) // 2])


def text(words: str) -> Callable[[Path], None]:
    return lambda path: path.write_text(words) and None


BAD: dict[str, tuple[str, Callable[[Path], object], str]] = {
    "empty": ("e.stl", lambda path: path.write_bytes(b""), "is empty"),
    "cut short": ("c.stl", cut_stl, "ends too early"),
    "renamed picture": ("p.stl", lambda path: path.write_bytes(b"\x89PNG\r\n\x1a\n" + b"\x07" * 50), "ends too early"),
    "renamed text": ("t.step", text("just words"), "ends too early"),
    "no format": ("x.xyz", text("just words"), "not in a format"),
    "four billion": ("f.stl", four_billion_stl, "4,000,000,000 triangles"),
    "four billion ply": (
        "f.ply",
        text("ply\nformat ascii 1.0\nelement vertex 4000000000\nelement face 4\nend_header\n0 0 0\n"),
        "4,000,000,000",
    ),
    "four billion off": ("f.off", text("OFF\n4000000000 4000000000 0\n0 0 0\n"), "ends too early"),
    "not a number": ("n.stl", nan_stl, "not a number"),
    "zip bomb": ("z.3mf", bomb_3mf, "far more than it weighs"),
    "entity bomb": ("b.3mf", entities_3mf, "entities"),
    "path outside": ("o.3mf", outside_3mf, "outside itself"),
    "not a zip": ("q.3mf", text("PK\x03\x04 but no more"), "zip archive"),
    "points only": ("v.ply", text("ply\nformat ascii 1.0\nelement vertex 1\nend_header\n0 0 0\n"), "points without"),
    "no faces": ("v.obj", text("v 0 0 0\nv 1 0 0\n"), "no faces"),
    "index out of range": ("i.off", text("OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 9\n"), "cannot be read"),
    "gltf outside its folder": (
        "g.gltf",
        text('{"asset":{"version":"2.0"},"buffers":[{"byteLength":4,"uri":"../../../etc/hostname"}],"meshes":[],"nodes":[]}'),
        "",
    ),
}  # fmt: skip


@pytest.mark.parametrize("kind", BAD)
def test_a_bad_file_gets_one_sentence(kind: str, tmp_path: Path) -> None:
    name, make, words = BAD[kind]
    make(tmp_path / name)
    with pytest.raises(ReadError) as caught:
        read(tmp_path / name)
    sentence = str(caught.value)
    assert name in sentence and words in sentence and sentence.endswith(".") and "\n" not in sentence
    assert str(tmp_path) not in sentence


def test_a_folder_and_nothing_get_sentences(tmp_path: Path) -> None:
    for path, words in ((tmp_path, "is a folder"), (tmp_path / "gone.stl", "does not exist")):
        with pytest.raises(ReadError, match=words):
            read(path)


@pytest.mark.skipif(os.geteuid() == 0, reason="root may read everything")
def test_no_permission_gets_a_sentence(tmp_path: Path) -> None:
    path = good_stl(tmp_path / "locked.stl")
    path.chmod(0)
    with pytest.raises(ReadError, match="may not be read"):
        read(path)


def test_no_permission_is_told_from_other_faults(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """As root nothing is forbidden, so the refusal itself is made."""
    path = good_stl(tmp_path / "locked.stl")

    def refuse(*_: object, **__: object) -> None:
        raise PermissionError(13, "Permission denied")

    monkeypatch.setattr(Path, "open", refuse)
    with pytest.raises(ReadError, match="may not be read"):
        read(path)


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    return whole_files(tmp_path_factory.mktemp("whole"))


@pytest.mark.slow
@pytest.mark.parametrize("kind", KINDS)
def test_files_cut_and_spoiled_anywhere_give_a_part_or_a_sentence(kind: str, whole: dict[str, Path], tmp_path: Path) -> None:
    assert faults_in(kind, whole[kind], tmp_path, 25, 5) == []


def test_a_reader_is_waited_for_by_the_size_of_its_file(tmp_path: Path) -> None:
    small = Bounds().for_file(10_000)
    assert small.seconds < 20 and small.memory < 2e9
    assert Bounds().for_file(8_000_000).seconds > 400 and Bounds(seconds=5).for_file(8_000_000).seconds == 5
    assert Bounds(memory=1 << 29).for_file(8_000_000).memory == 1 << 29 and Bounds().for_file(1 << 30).memory == Bounds().memory


class Misbehaves(Figures):
    """Stands in for a reader that goes wrong in one way or another."""

    __slots__ = ()

    def beforehand(self, progress: Progress) -> Misbehaves:
        return self

    def weight(self) -> int:
        return 0

    def run(self, progress: Progress) -> object:
        if self.path == "crash":
            os.abort()
        if self.path == "hang":
            while True:
                pass
        if self.path == "wait":
            import time

            time.sleep(120)
        if self.path == "eat":
            return [bytearray(1 << 28) for _ in range(100)]
        return "well"


@pytest.mark.slow
@pytest.mark.parametrize(
    ("how", "words", "seconds"),
    [
        ("crash", "crashed", 8.0), ("hang", "longer than the 4 seconds", 4.0), ("wait", "longer than the 1 seconds", 1.0),
        ("eat", "GiB of memory", 8.0),
    ],
)  # fmt: skip
def test_a_reader_that_dies_hangs_or_eats_takes_only_itself_down(how: str, words: str, seconds: float) -> None:
    work = [Misbehaves(how, ReadOptions(), 1.0), Misbehaves("fine", ReadOptions(), 1.0)]
    bad, good = run_all(list(work), bounds=Bounds(1 << 30, seconds))
    assert good.kind == "done" and good.value == "well"
    assert bad.kind == "error" and words in str(bad.value)
    assert ("damaged" in str(bad.value)) == (how == "crash"), "what takes long or much accuses no file"


def run_cli(*words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "gullyrise", *words], capture_output=True, encoding="utf-8", timeout=300, check=False
    )


def test_the_other_files_are_still_done(tmp_path: Path) -> None:
    cut_stl(tmp_path / "bad.stl")
    good_stl(tmp_path / "good.stl")
    done = run_cli("info", str(tmp_path / "bad.stl"), str(tmp_path), str(tmp_path / "good.stl"), "--json", "-")
    document = json.loads(done.stdout)
    assert done.returncode == 2
    assert [part["name"] for part in document["parts"]] == ["good"]
    assert [entry["file"] for entry in document["errors"]] == [str(tmp_path / "bad.stl"), str(tmp_path)]
    assert "Traceback" not in done.stderr
