"""Readers fed with bytes that a fuzzer thinks out by which lines of ours they reach (libFuzzer through Atheris).

`python guided.py KIND RUNS [FOLDER]`: begins with a sound file of the kind; anything but a part or a ReadError ends it.
"""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["gullyrise.core.reading"]):
    from gullyrise.core.reading import archives, numbers, obj, off, pieces, ply, read, stl
    from gullyrise.core.reading import gltf, gltf_primitives, threemf, amf  # isort: skip

from fuzz import KINDS, whole_files

from gullyrise.core.errors import ReadError

__all__ = ["amf", "archives", "gltf", "gltf_primitives", "numbers", "obj", "off", "pieces", "ply", "stl", "threemf"]
_LONGEST, _SECONDS, _MEGABYTES = 30_000, 25, 3000


def main(kind: str, runs: int) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        seeds = folder / "seeds"
        seeds.mkdir()
        whole = whole_files(folder)[kind]
        data = whole.read_bytes()
        (seeds / "whole").write_bytes(data)
        (seeds / "half").write_bytes(data[: len(data) // 2])
        (seeds / "head").write_bytes(data[:400])
        place = folder / f"case{whole.suffix}"

        def one(case: bytes) -> None:
            place.write_bytes(case)
            try:
                part = read(place)
            except ReadError as error:
                sentence = str(error)
                assert sentence.endswith(".") and sentence.isprintable(), sentence
            except MemoryError:
                return
            else:
                assert part.triangles > 0

        words = [
            sys.argv[0], f"-runs={runs}", f"-max_len={min(len(data) + 2000, _LONGEST)}", f"-timeout={_SECONDS}",
            f"-rss_limit_mb={_MEGABYTES}", f"-seed={os.environ.get('SEED', '1')}", "-verbosity=0", "-print_final_stats=1",
            f"-artifact_prefix={tempfile.gettempdir()}/gullyrise-fuzz-{kind.replace(' ', '-')}-", str(seeds),
        ]  # fmt: skip
        atheris.Setup(words, one)
        atheris.Fuzz()


if __name__ == "__main__":
    assert sys.argv[1] in KINDS
    main(sys.argv[1], int(sys.argv[2]))
