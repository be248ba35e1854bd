"""Pictures without a window: those of the viewport, made by the same code, in any process."""

from __future__ import annotations

import multiprocessing
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QWidget

import zoo
from gullyrise.core.camera.camera import Camera
from gullyrise.core.checks.registry import part_digest
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.machines.library import default_machine, library
from gullyrise.demo import FILES
from gullyrise.drawing.evidence import Ball, Evidence, Gap
from gullyrise.drawing.job_scene import scene_of
from gullyrise.drawing.marks import Flag
from gullyrise.drawing.palette import LIMESTONE, SLATE
from gullyrise.drawing.still import still

SIZE = (480, 360)


def pixels(image: QImage) -> np.ndarray:
    """(h, w, 3)"""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    assert bits is not None
    rows = np.frombuffer(bits.asstring(image.sizeInBytes()), dtype=np.uint8)
    return rows.reshape(image.height(), image.width(), 4)[:, :, 2::-1].astype(int)


def share_apart(one: np.ndarray, other: np.ndarray) -> float:
    """Of all pixels, the share that a look side by side would tell apart."""
    assert one.shape == other.shape
    return float((np.abs(one - other).max(axis=2) > 24).mean())


def marked() -> Evidence:
    ball = Ball(np.array([40.0, 40, 10]), 6.0, np.array([40.0, 34, 10]), np.array([40.0, 46, 10]), "12 mm")
    return Evidence(
        (Flag(1, "0.42 mm", (60.0, 60.0, 12.0), "fail", True),), ball, np.array([[[10.0, 10, 0], [90, 10, 0]]]),
        (Box(np.array([70.0, 70, 0]), np.array([80.0, 80, 10])),), Gap(np.array([20.0, 20, 5]), np.array([50.0, 20, 5]), "30 mm"),
    )  # fmt: skip


def job_of_two() -> Job:
    shapes = [zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (30.0, 20, size))), f"block {size}") for size in (10.0, 24.0)]
    parts = [PlacedPart(n, part, part.box, {}, part_digest(part), Transform.identity()) for n, part in enumerate(shapes)]
    return Job(default_machine(), tuple(library())).with_parts(parts)


def of_job(job: Job) -> np.ndarray:
    """A picture of a job, cut through and marked: what a worker process is asked for."""
    scene = scene_of(job, LIMESTONE, cuts=(Cut.across(2, 6.0, flipped=False),))
    return pixels(still(scene, Camera(np.zeros(3), 30, 30, 100).framing(scene.subject, *SIZE), SIZE, marked()))


@pytest.fixture(scope="module")
def window(long_lived: Any) -> Any:
    made = long_lived(str(FILES / "float_well.stl"), str(FILES / "mount_plate.step"))
    made.settings.set("view.glide", 0)
    return made


@pytest.mark.parametrize("theme", ["Limestone", "Slate"])
def test_it_is_the_picture_that_the_viewport_shows(window: Any, theme: str) -> None:
    window.settings.set("looks.theme", theme)
    window.settings.set("dial.shown", False)
    window.do("view.isometric")
    window.sections.show((Cut.across(0, float(window.bench.scene.subject.middle[0]), flipped=False),))
    window.sections.show_handle(False)
    assert window.wait_until_idle(240)
    bench = window.bench
    bench.evidence.show(**{name: getattr(marked(), name) for name in ("flags", "ball", "lines", "collisions", "gap")})
    shown = pixels(bench.bare_grab())
    made = pixels(still(bench.scene, bench.camera, bench.view_size(), bench.evidence.shown))
    assert share_apart(made, shown) < 0.002
    assert share_apart(pixels(still(bench.scene, bench.camera, bench.view_size())), shown) > 0.005, "marks are seen"
    whole = replace(bench.scene, cuts=())
    assert share_apart(pixels(still(whole, bench.camera, bench.view_size(), bench.evidence.shown)), shown) > 0.02, "so is the cut"


def test_another_process_makes_the_same_of_a_job(qapp: QWidget) -> None:
    job = job_of_two()
    with ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn")) as pool:
        elsewhere = pool.submit(of_job, job).result(120)
    here = of_job(job)
    assert share_apart(elsewhere, here) == 0
    assert share_apart(here, of_job(replace(job, parts=job.parts[:1]))) > 0.01


def test_what_is_hidden_selected_or_stands_elsewhere_shows(qapp: QWidget) -> None:
    job = job_of_two()
    scene = scene_of(job, SLATE)
    camera = Camera(np.zeros(3), 30, 30, 100).framing(scene.subject, *SIZE)
    plain = pixels(still(scene, camera, SIZE))
    assert [item.name for item in scene.items] == ["block 10.0", "block 24.0"]
    hidden = scene_of(job, SLATE, opacity=lambda key: float(key[0] != 1))
    assert len(hidden.items) == 1 and share_apart(pixels(still(hidden, camera, SIZE)), plain) > 0.01
    selected = scene_of(job, SLATE, selected=frozenset({(1, 0)}))
    assert share_apart(pixels(still(selected, camera, SIZE)), plain) > 0.001
    twice = still(scene, camera, SIZE, ratio=2.0)
    assert (twice.width(), twice.height(), twice.devicePixelRatio()) == (960, 720, 2.0)
