"""Files that third parties wrote, read here and by independent libraries: `make witness`. No part of the suite.

Fetches the test data of general libraries as Debian packages into a cache, reads every file of a format known here, and prints
what is refused, with the reason, and what differs from what the kernel, trimesh or plyfile say of the same file.
"""

from __future__ import annotations

import gzip
import os
import shutil
import subprocess
import sys
import tarfile
import warnings
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import platformdirs

from gullyrise.core.reading import ReadOptions
from gullyrise.core.reading.registry import endings
from gullyrise.workers.batch import run_all
from gullyrise.workers.work import Figures

PACKAGES = ("occt-misc", "assimp-testmodels", "libcgal-demo")
_SAME = 2e-3


def cache() -> Path:
    return Path(os.environ.get("WITNESS_CACHE", platformdirs.user_cache_dir("gullyrise"))) / "witness"


def fetched() -> Path:
    """The folder with all packages unpacked, fetched where they are not there yet."""
    place = cache()
    files = place / "files"
    for name in PACKAGES:
        if (files / name).is_dir():
            continue
        place.mkdir(parents=True, exist_ok=True)
        subprocess.run(["apt-get", "download", name], cwd=place, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        package = next(place.glob(f"{name}_*.deb"))
        subprocess.run(["dpkg-deb", "-x", str(package), str(files / name)], check=True)
        for packed in [*(files / name).rglob("*.tar.gz")]:
            with tarfile.open(packed) as archive:
                archive.extractall(packed.with_suffix(""), filter="data")
        for packed in [*(files / name).rglob("*.gz")]:
            if packed.suffixes[-2:-1] != [".tar"]:
                with gzip.open(packed) as stream, packed.with_suffix("").open("wb") as out:
                    shutil.copyfileobj(stream, out)
    return files


def parts_in(folder: Path) -> list[Path]:
    known = set(endings())
    return sorted(path for path in folder.rglob("*") if path.is_file() and path.suffix.lower() in known)


def by_others(path: Path) -> dict[str, Any] | str:
    """volume, area, size of a file as an independent library has them, or why it has none."""
    try:
        if path.suffix.lower() in (".brep", ".brp", ".step", ".stp", ".iges", ".igs"):
            return _by_kernel(path)
        import trimesh

        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            found = trimesh.load(path, force="mesh")
        if not len(found.faces):
            return "no faces"
        return {
            "area": float(found.area),
            "size": sorted((found.bounds[1] - found.bounds[0]).tolist()),
            "triangles": len(found.faces),
        }
    except BaseException as error:  # Whatever another library does with a file is its own affair.
        return f"{type(error).__name__}: {str(error)[:80]}"


def _by_kernel(path: Path) -> dict[str, Any] | str:
    from OCP.BRep import BRep_Builder
    from OCP.BRepGProp import BRepGProp
    from OCP.BRepTools import BRepTools
    from OCP.GProp import GProp_GProps
    from OCP.TopoDS import TopoDS_Shape

    if path.suffix.lower() not in (".brep", ".brp"):
        return "not compared"
    shape = TopoDS_Shape()
    if not BRepTools.Read_s(shape, str(path), BRep_Builder()) or shape.IsNull():
        return "refused by the kernel, too"
    area = GProp_GProps()
    BRepGProp.SurfaceProperties_s(shape, area)
    return {"area": float(area.Mass())}


def differences(ours: dict[str, Any], theirs: dict[str, Any]) -> Iterator[str]:
    scale = {"area": 1.0}
    unit = ours["unit"]
    factor = {"mm": 1.0, "m": 1000.0, "cm": 10.0, "inch": 25.4}.get(unit, 1.0)
    scale["area"] = factor**2
    for name, power in (("area", factor**2),):
        a, b = float(ours[name]), float(theirs[name]) * power
        if abs(a - b) > _SAME * max(abs(a), abs(b), 1e-12):
            yield f"{name} {a:.6g} here, {b:.6g} there"


def main() -> int:
    files = parts_in(fetched())
    reports = run_all([Figures(str(path), ReadOptions(), 400.0) for path in files])
    read, refused, differing, compared = 0, 0, 0, 0
    for path, report in zip(files, reports, strict=True):
        name = path.name
        other = by_others(path)
        if report.kind != "done":
            refused += 1
            there = other if isinstance(other, str) else f"READ THERE: {other}"
            print(f"refused  {name}: {report.value}  [{there}]")
            continue
        read += 1
        if isinstance(other, str):
            continue
        compared += 1
        said = list(differences(report.value, other))
        if said:
            differing += 1
            print(f"differs  {name}: {'; '.join(said)}")
    print(f"{len(files)} files: {read} read, {refused} refused; {compared} compared, {differing} differ")
    return 0


if __name__ == "__main__":
    sys.exit(main())
