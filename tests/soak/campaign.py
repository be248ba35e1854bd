"""Thousands of random actions and strokes over real parts: `make soak N=20000 SEED=1`."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from PyQt6.QtCore import QLocale

from soak.hand import Hand
from soak.truth import Truth

EPISODE = 100
_EVERY = 4


def parts(folder: Path) -> list[Path]:
    """The files of the demo, and some that are trouble: open, in inches, tiny, two bodies, too large, empty."""
    from gullyrise.demo import FILES

    made = {
        "brick": trimesh.creation.box((40, 30, 20)),
        "rod": trimesh.creation.cylinder(6, 150, sections=24),
        "slab": trimesh.creation.box((205, 190, 6)),
        "ball": trimesh.creation.icosphere(2, 14),
        "speck": trimesh.creation.box((0.2, 0.2, 0.2)),
        "tower": trimesh.creation.box((30, 30, 400)),
        "inch": trimesh.creation.annulus(0.5, 0.8, 0.4, sections=32),
    }
    two = trimesh.util.concatenate([made["brick"], trimesh.creation.box((10, 10, 10)).apply_translation((60, 0, 0))])
    lid = made["ball"].copy()
    lid.update_faces(lid.triangles_center[:, 2] < 9)
    out = []
    for name, mesh in {**made, "two": two, "open": lid}.items():
        mesh.export(folder / f"{name}.stl")
        out.append(folder / f"{name}.stl")
    (folder / "empty.stl").write_bytes(b"")
    meshes = ("float_well.stl", "gland_nut.stl", "hinge_pawl.stl", "pulley.obj")
    solids = ("screw_set.step", "clamp_saddle.step", "winch_box.step")
    # Solids are measured exactly, which takes long: they come half as often.
    return [*out, *out, folder / "empty.stl", *(FILES / name for name in (*meshes, *meshes, *solids))]


def run(window: Any, count: int, seed: int, folder: Path, tell: Any = print, first: int = 0) -> list[str]:
    """What disagreed, with the last things that were done before it. first : the episode to begin with"""
    files = parts(folder)
    truth, wrong = Truth(window), []
    began = time.monotonic()
    for done in range(first * EPISODE, count, EPISODE):
        episode = seed * 1_000_003 + done
        hand = Hand(window, files, folder, episode)
        numbers = {one.id for one in window.model.job.parts}
        if numbers:
            window.model.document.edit("Remove all", lambda job, numbers=numbers: job.without(numbers))
        window.settings.reset("Pointer")
        window.parts_panel.go_into(())
        window.resize(*hand.any_of([(900, 620)] * 4 + [(1280, 800)]))
        for _ in range(2):
            hand.open_one()
        truth.settle()
        for step in range(min(EPISODE, count - done)):
            words = hand.once()
            if step % _EVERY and words.split(" ")[0] not in ("arranged", "machine", "put", "drag_part"):
                window.wait_until_idle(0.02)
                continue
            found = truth.all()
            if step % 25 == 24:
                found += truth.there_and_back(int(hand.random.integers(1, 12)))
            if step % 50 == 37:
                found += truth.beds_written(folder)
            if step % 100 == 75:
                found += truth.saved(folder)
            if found:
                last = " | ".join(hand.done[-12:])
                wrong += [f"seed {seed}, episode {done // EPISODE}, step {step}: {one}\n    after {last}" for one in found]
                tell(wrong[-1])
        if done % 500 == 0:
            tell(f"{done + EPISODE:,} of {count:,}: {len(wrong)} disagree, {time.monotonic() - began:.0f} s")
    return wrong


def main() -> int:
    if "LOCALE" in os.environ:
        QLocale.setDefault(QLocale(os.environ["LOCALE"]))
    count, seed = int(os.environ.get("N", "20000")), int(os.environ.get("SEED", "1"))
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as place:
        os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = place
        from gullyrise.desktop import launch
        from gullyrise.desktop.state.document_model import DocumentModel

        if os.environ.get("CHECKS", "few") == "few":
            # Walls and overhangs cost most and say nothing of where a part stands.
            every = DocumentModel.active_checks
            DocumentModel.active_checks = lambda self: [row for row in every(self) if row[0] in ("health", "fit", "clearances")]  # type: ignore[method-assign]
        _, window = launch([])
        window.settings.set("view.glide", 0)
        folder = Path(place) / "soak"
        folder.mkdir()
        wrong = run(window, count, seed, folder, lambda words: print(words, flush=True), int(os.environ.get("FROM", "0")))
        window.close()
    print(f"{count:,} actions and strokes, seed {seed}: {len(wrong)} disagree.")
    return 1 if wrong else 0


if __name__ == "__main__":
    np.seterr(all="ignore")
    sys.exit(main())
