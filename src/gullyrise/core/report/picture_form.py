"""A picture of evidence as the contract says it: its camera, cuts, fading and marks in the file's coordinates."""

from __future__ import annotations

from typing import Any

import numpy as np

from gullyrise.core.evidence.view import EvidenceView
from gullyrise.core.geometry import Points, Transform
from gullyrise.core.part import Part

_BACK = 1.5


def picture_form(view: EvidenceView, part: Part, back: Transform, file: str) -> dict[str, Any]:
    """back : from the machine's coordinates, which the view is in, to the file's, rigid;  file : name of the picture"""

    def places(points: Points) -> list[list[float]]:
        return [[float(value) for value in row] for row in back.apply(points)]

    def ways(directions: Points) -> list[list[float]]:
        return [[float(value) for value in row] for row in directions @ back.matrix[:3, :3].T]

    camera = view.camera
    _, up, toward = camera.frame()
    box = part.box
    # A parallel picture has no eye: it is told from where nothing of the part is behind it.
    away = _BACK * box.diagonal + float(np.linalg.norm(back.apply(camera.target[None])[0] - box.middle)) + camera.span
    target, eye = places(np.array([camera.target, camera.target + toward * away]))
    planes = [cut.plane for cut in view.cuts]
    # A plane is told by its place nearest to what is looked at: far ones cost digits.
    feet = [camera.target - plane.normal * float(plane.heights(camera.target[None])[0]) for plane in planes]
    faded: list[str] = []
    number = 0
    for body in part.bodies:
        keys = {(0, number + one) for one in range(body.count)}
        if keys and keys <= view.faded:
            faded.append(body.name)
        number += body.count
    return {
        "file": file,
        "camera": {"eye": eye, "target": target, "up": ways(up[None])[0], "height": camera.span, "parallel": camera.parallel},
        "cuts": [
            {"point": places(foot[None])[0], "normal": ways(plane.normal[None])[0]}
            for plane, foot in zip(planes, feet, strict=True)
        ],
        "faded": faded,
        "marks": places(view.marks),
    }
