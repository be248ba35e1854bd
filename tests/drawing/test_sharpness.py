"""A screen with a pixel ratio of its own: pictures have its pixels, and places mean what they meant. In a process of its own,
since Qt takes the ratio once."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from gullyrise.demo import FILES

_TOUR = """
import json, sys, time
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from gullyrise.desktop import launch
import strokes

_, window = launch([sys.argv[1]])
window.activateWindow()
end = time.monotonic() + 300
while time.monotonic() < end and not window.model.ready.prepared:
    QTest.qWait(10)
window.model.cancel_all()
window.settings.set("view.glide", 0)
window.do("view.front")
assert window.wait_until_idle(240)
bench = window.bench
(item,) = bench.scene.items
strokes.click(bench, bench.to_widget(item.box.middle))
window.scene.bring_in_step()
window.wait_until_idle(240)
pane = bench.panes.free
places = item.mesh.vertices @ item.matrix[:3, :3].T + item.matrix[:3, 3]
heights = bench.camera.to_picture(places, *bench.view_size())[:, 1]
rows = (pane.frame.owners == 0).any(axis=1).nonzero()[0]
strokes.hover(bench, bench.to_widget(item.box.middle))
QTest.keyPress(bench, Qt.Key.Key_Q)
window.wait_until_idle(240)
print(json.dumps({
    "ratio": bench.devicePixelRatioF(), "size": [bench.width(), bench.height()],
    "picture": [pane.image.width(), pane.image.height()], "lens": bench.pictures.lens.image.width(),
    "chosen": len(window.model.selection.bodies), "rows": [int(rows[0]), int(rows[-1])],
    "drawn": [float(heights.min()), float(heights.max())],
    "pointed": window.status.pointer.text(),
}))
window.close()
"""


@pytest.mark.parametrize("ratio", [1.5, 2.0])
def test_pictures_are_sharp_and_places_true_at_any_pixel_ratio(ratio: float, tmp_path: Path) -> None:
    here = str(Path(__file__).parents[1] / "desktop")
    surroundings = dict(
        os.environ, QT_QPA_PLATFORM="offscreen", QT_SCALE_FACTOR=str(ratio), PYTHONPATH=here,
        XDG_CONFIG_HOME=str(tmp_path / "configuration"), XDG_DATA_HOME=str(tmp_path / "home"),
    )  # fmt: skip
    ran = subprocess.run(
        [sys.executable, "-c", _TOUR, str(FILES / "gland_nut.stl")],
        env=surroundings,
        capture_output=True,
        encoding="utf-8",
        timeout=400,
    )
    said = json.loads(ran.stdout.splitlines()[-1])
    assert said["ratio"] == ratio and said["picture"] == [int(side * ratio) for side in said["size"]]
    assert said["lens"] == 180 * ratio and said["chosen"] == 1 and "gland_nut" in said["pointed"]
    high, low = said["drawn"]
    assert abs(said["rows"][0] - high * ratio) < 2 and abs(said["rows"][1] - low * ratio) < 2
