"""A second opinion on pictures of evidence: from what the contract tells of one alone, every triangle against every ray, no code
of the composer's."""

from __future__ import annotations

from typing import Any

import numpy as np

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.part import Part

WIDE, HIGH = 960, 720


def faults(form: dict[str, Any], part: Part, finding: Finding) -> list[str]:
    """What a picture does not hold of what it should: where its marks are, what hides them, how large what was measured is."""
    camera = form["camera"]
    eye, target, up = (np.array(camera[name]) for name in ("eye", "target", "up"))
    toward = (eye - target) / np.linalg.norm(eye - target)
    right = np.cross(up, toward)
    marks = np.array(form["marks"])
    height = camera["height"]
    out: list[str] = []
    if abs(float(up @ toward)) > 1e-6 or abs(float(np.linalg.norm(up)) - 1) > 1e-6:
        out.append("up is not square to the way of looking")
    across, over = (marks - target) @ right / (height * WIDE / HIGH), (marks - target) @ up / height
    if (np.abs(across) > 0.3 + 1e-6).any() or (np.abs(over) > 0.3 + 1e-6).any():
        out.append(f"off the middle: {across.round(2)} {over.round(2)}")
    if not any(np.linalg.norm(marks - np.array(finding.at), axis=1) < 1e-3 * height) and finding.ends is None:
        out.append("the place is no mark")
    out += _scale(marks, right, up, height, finding)
    faces = _triangles(part, set(form["faded"]))
    for number, mark in enumerate(marks):
        found = _hidden(mark, toward, faces, form["cuts"], 2e-3 * height + 4e-6 * part.box.diagonal)
        if found:
            out.append(f"mark {number} {found}")
    return out


def _scale(marks: np.ndarray, right: np.ndarray, up: np.ndarray, height: float, finding: Finding) -> list[str]:
    if len(marks) == 2:
        size = float(np.hypot((marks[0] - marks[1]) @ right, (marks[0] - marks[1]) @ up))
    elif finding.around is not None and len(finding.around):
        size = max(float(np.ptp(finding.around @ right)), float(np.ptp(finding.around @ up)))
    else:
        return []
    share = size / height
    return [] if 1 / 12 - 1e-3 <= share <= 1 / 2 + 1e-3 else [f"out of scale: {share:.3f} of the height"]


def _triangles(part: Part, faded: set[str]) -> np.ndarray:
    found = [mesh.triangles() for body in part.bodies if body.name not in faded for mesh in body.copies()]
    return np.concatenate(found) if found else np.zeros((0, 3, 3))


def _hidden(mark: np.ndarray, toward: np.ndarray, faces: np.ndarray, cuts: list[dict[str, Any]], slack: float) -> str:
    for cut in cuts:
        if float((mark - np.array(cut["point"])) @ np.array(cut["normal"])) > slack:
            return "is cut away"
    ways, inward = _met(mark, toward, faces)
    # Where the sight line leaves what the cuts keep.
    leaves = np.inf
    for cut in cuts:
        height, slope = float((mark - np.array(cut["point"])) @ np.array(cut["normal"])), float(toward @ np.array(cut["normal"]))
        if slope > 1e-12:
            leaves = min(leaves, -height / slope)
    before = (ways > slack) & (ways < leaves - slack)
    if before.any():
        return f"is hidden {ways[before].min():.4g} mm before it"
    if slack < leaves < np.inf:
        beyond = ways > leaves
        if beyond.any() and not inward[beyond][np.argmin(ways[beyond])]:
            return "lies behind the cut face"
    return ""


def _met(origin: np.ndarray, direction: np.ndarray, faces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(distances at which a ray meets triangles, whether it goes in there), by signed volumes."""
    if not len(faces):
        return np.zeros(0), np.zeros(0, dtype=bool)
    a, b, c = (faces[:, corner] - origin for corner in range(3))
    u = np.einsum("ij,j->i", np.cross(c, b), direction)
    v = np.einsum("ij,j->i", np.cross(a, c), direction)
    w = np.einsum("ij,j->i", np.cross(b, a), direction)
    total = u + v + w
    inside = ((u >= 0) & (v >= 0) & (w >= 0)) | ((u <= 0) & (v <= 0) & (w <= 0))
    met = np.flatnonzero(inside & (total != 0))
    shares = np.column_stack([u, v, w])[met] / total[met, None]
    place = shares[:, :1] * a[met] + shares[:, 1:2] * b[met] + shares[:, 2:] * c[met]
    normal = np.cross(faces[met, 1] - faces[met, 0], faces[met, 2] - faces[met, 0])
    return place @ direction, normal @ direction < 0
