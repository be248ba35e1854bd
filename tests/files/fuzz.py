"""Files cut short and spoiled byte by byte: each must give a part or one sentence, in bounded time and memory.

`make fuzz` runs this module with many cases a format; the suite runs a few hundred in all.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import trimesh
from makers import write_assembly_step, write_compound_brep, write_tube_iges

from gullyrise.core.errors import ReadError
from gullyrise.core.reading import ReadOptions, read
from gullyrise.core.writing import write
from gullyrise.workers.batch import run_all
from gullyrise.workers.process import Bounds
from gullyrise.workers.work import Figures

BOUNDS = Bounds(2 << 30, 20)
CUTS = 50
_BATCH = 400

AMF = """<?xml version="1.0" encoding="utf-8"?>
<amf unit="millimeter" version="1.2"><metadata type="name">silt trap</metadata>
<material id="3"><metadata type="name">clay</metadata><color><r>0.7</r><g>0.5</g><b>0.3</b></color></material>
<object id="0"><metadata type="name">lid</metadata><mesh><vertices>{vertices}</vertices>
<volume materialid="3">{triangles}</volume></mesh></object>
<constellation id="5"><metadata type="name">pair</metadata>
<instance objectid="0"><deltax>5</deltax><rz>90</rz></instance>
<instance objectid="0"><deltay>60</deltay></instance></constellation></amf>
"""


def amf_of(mesh: trimesh.Trimesh) -> str:
    vertices = "".join(
        f"<vertex><coordinates><x>{x:.9g}</x><y>{y:.9g}</y><z>{z:.9g}</z></coordinates></vertex>\n" for x, y, z in mesh.vertices
    )
    triangles = "".join(f"<triangle><v1>{a}</v1><v2>{b}</v2><v3>{c}</v3></triangle>\n" for a, b, c in mesh.faces)
    return AMF.format(vertices=vertices, triangles=triangles)


def write_gltf(mesh: trimesh.Trimesh, path: Path) -> None:
    """A .gltf with its buffer inside, as a data address."""
    import base64

    files = trimesh.Scene(mesh).export(file_type="gltf")
    text = files.pop("model.gltf").decode()
    for name, data in files.items():
        text = text.replace(name, "data:application/octet-stream;base64," + base64.b64encode(data).decode())
    path.write_text(text)


def whole_files(folder: Path) -> dict[str, Path]:
    """A sound file of every kind, by a word for the kind."""
    ball = trimesh.creation.icosphere(2, 10)
    out = {kind: folder / f"whole-{kind}.{kind.rpartition(' ')[2]}" for kind in KINDS}
    ball.export(out["stl"])
    ball.export(out["ascii stl"], file_type="stl_ascii")
    ball.export(out["ply"])
    ball.export(out["ascii ply"], encoding="ascii")
    for kind in ("obj", "off", "glb"):
        ball.export(out[kind])
    out["amf"].write_text(amf_of(ball))
    write_gltf(ball, out["gltf"])
    write(read(out["stl"]), out["3mf"])
    write_assembly_step(out["step"], "MM")
    write_compound_brep(out["brep"])
    write_tube_iges(out["igs"], "MM", 1)
    return out


KINDS = ("stl", "ascii stl", "ply", "ascii ply", "obj", "off", "glb", "gltf", "amf", "3mf", "step", "brep", "igs")


def spoiled(data: bytes, cases: int, seed: int) -> Iterator[bytes]:
    """The file cut at every fiftieth of its length, then with a few bytes changed, taken out or put in twice."""
    for step in range(CUTS):
        yield data[: len(data) * step // CUTS]
    random = np.random.default_rng(seed)
    for _ in range(cases):
        spoilt = bytearray(data)
        for spot in random.integers(0, len(data), int(random.integers(1, 16))).tolist():
            how = random.integers(0, 8)
            if how < 6:
                spoilt[min(spot, len(spoilt) - 1)] ^= int(random.integers(1, 256))
            elif how == 6:
                del spoilt[spot : spot + int(random.integers(1, 64))]
            else:
                spoilt[spot:spot] = data[spot : spot + int(random.integers(1, 64))]
            if not spoilt:
                break
        yield bytes(spoilt)


def faults_in(kind: str, whole: Path, folder: Path, cases: int, seed: int) -> list[str]:
    """What went wrong, in words: anything but a part with triangles or a ReadError of one sentence.

    A library that crashes takes only its worker with it, and that is a sentence as well; so it is of one that goes round and is
    ended before 20 s. Eating memory is a fault.
    """
    out: list[str] = []
    waiting: list[Path] = []

    def take() -> None:
        reports = run_all([Figures(str(path), ReadOptions(), 300.0) for path in waiting], bounds=BOUNDS)
        for path, report in zip(waiting, reports, strict=True):
            sentence = str(report.value)
            well = (
                report.value["triangles"] > 0
                if report.kind == "done"
                else isinstance(report.value, ReadError) and sentence.endswith(".") and "\n" not in sentence
            )
            if not well or "of memory" in sentence:
                kept = Path(tempfile.gettempdir()) / f"gullyrise-fuzz-{path.name}"
                path.replace(kept)
                out.append(f"{kind}: {sentence[:200]} ({kept.name})")
            else:
                path.unlink()
        waiting.clear()

    ending = whole.suffix
    for number, data in enumerate(spoiled(whole.read_bytes(), cases, seed)):
        path = folder / f"{kind.replace(' ', '-')}-{seed}-{number}{ending}"
        path.write_bytes(data)
        waiting.append(path)
        if len(waiting) >= _BATCH:
            take()
    take()
    return out


GUIDED = ("stl", "ascii stl", "ply", "ascii ply", "obj", "off", "glb", "gltf", "amf")
"""Whose readers are ours: what the fuzzer watches are lines of Python. The others are kernels and libraries, which take a
process of their own down with them."""


def guided(kind: str, cases: int, seed: int) -> list[str]:
    """What went wrong where the cases are thought out by the lines that they reach."""
    words = [sys.executable, str(Path(__file__).with_name("guided.py")), kind, str(cases)]
    done = subprocess.run(words, env=dict(os.environ, SEED=str(seed)), capture_output=True, encoding="utf-8", check=False)
    ran = re.search(r"number_of_executed_units: (\d+)", done.stderr)
    if done.returncode == 0 and ran is not None and int(ran[1]) >= cases:
        return []
    return [f"{kind}: {done.stdout[-600:]} {done.stderr[-600:]}"]


def main(cases: int, kinds: tuple[str, ...]) -> int:
    """So many cases in all: a fifth spoiled by chance over all kinds, the others led by coverage over those with readers of
    ours."""
    seed = int(os.environ.get("SEED", str(int(time.time()))))
    bad = 0
    led = [kind for kind in kinds if kind in GUIDED]
    each = max((cases - (cases // 5 if led else 0)) // max(len(led), 1), 1)
    for kind in led:
        start = time.monotonic()
        faults = guided(kind, each, seed)
        bad += len(faults)
        print(
            f"{kind:10} {each} cases led by coverage, seed {seed}, {time.monotonic() - start:.0f} s, {len(faults)} faults",
            flush=True,
        )
        for fault in faults:
            print("   " + fault, flush=True)
    cases = max((cases // 5 if led else cases) // len(kinds) - CUTS, 1)
    with tempfile.TemporaryDirectory() as folder:
        whole = whole_files(Path(folder))
        for kind in kinds:
            start = time.monotonic()
            faults = faults_in(kind, whole[kind], Path(folder), cases, seed)
            bad += len(faults)
            print(
                f"{kind:10} {CUTS + cases} cases, seed {seed}, {time.monotonic() - start:.0f} s, {len(faults)} faults", flush=True
            )
            for fault in faults[:20]:
                print("   " + fault, flush=True)
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 26_000, tuple(sys.argv[2:]) or KINDS))
