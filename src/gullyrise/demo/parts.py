"""The demo parts, made by code. Lengths in mm, each standing on z = 0 as it would be printed."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from manifold3d import CrossSection, Manifold, set_circular_segments

from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.part import Body, Part
from gullyrise.core.writing import write
from gullyrise.demo.solids import write_clamp_saddle, write_mount_plate, write_screw_set, write_winch_box

ROUND = 96


def rod(height: float, diameter: float, top: float | None = None) -> Manifold:
    """An upright cylinder or cone on z = 0."""
    return Manifold.cylinder(height, diameter / 2, (diameter if top is None else top) / 2, ROUND)


def block(low: tuple[float, float, float], high: tuple[float, float, float]) -> Manifold:
    return Manifold.cube(tuple(b - a for a, b in zip(low, high, strict=True))).translate(low)


def float_well() -> Manifold:
    """A stilling tube with a foot and inlet slots whose tops are gables, so that nothing hangs."""
    body = rod(110, 52) + rod(5, 68)
    body -= rod(110, 46).translate((0, 0, 5))
    gable = CrossSection([[(-4, 0), (4, 0), (4, 10), (0, 16), (-4, 10)]]).extrude(80).rotate((90, 0, 0)).translate((0, 40, 12))
    body -= gable
    for x in (-28.0, 28.0):
        body -= rod(20, 5.5).translate((x, 0, -1))
    return body


def sensor_shroud() -> Manifold:
    """A hood open at the top as printed; one of its three ribs is 0.5 mm where the others are 1.6."""
    body = rod(34, 44, 60) - rod(40, 40, 60 - 4 + (60 - 44) * 6 / 34).translate((0, 0, 2.4))
    for angle, thick in ((0, 1.6), (120, 1.6), (240, 0.5)):
        rib = block((14, -thick / 2, 1), (24, thick / 2, 26))
        body += rib.rotate((0, 0, angle)) ^ rod(34, 44, 60)
    return body


def tipping_tray() -> Mesh:
    """A two-chambered tray; the floor of one chamber has lost its triangles."""
    tray = block((-30, -15, 0), (30, 15, 22))
    for side in (-1.0, 1.0):
        hollow = CrossSection([[(1.2, 24), (1.2, 16), (6, 2.4), (27.4, 2.4), (27.4, 24)]]).extrude(26)
        hollow = hollow.rotate((90, 0, 0)).translate((0, 13, 0))
        tray -= hollow if side > 0 else hollow.mirror((1, 0, 0))
    mesh = mesh_of(tray)
    normals, middles = mesh.normals(), mesh.centroids()
    floor = (normals[:, 2] > 0.99) & (np.abs(middles[:, 2] - 2.4) < 1e-6) & (middles[:, 0] > 0)
    return mesh.only(~floor)


def hinge_pawl() -> Manifold:
    """A pawl that turns on a pin, printed in place with 0.15 mm all round where 0.3 is wanted."""
    gap = 0.15
    cheeks = block((-9, -7, 0), (9, -4, 14)) + block((-9, 4, 0), (9, 7, 14)) + block((-9, -7, 0), (-6, 7, 3))
    pin = rod(14, 6).rotate((90, 0, 0)).translate((2, 7, 7))
    pawl = rod(8 - 2 * gap, 11).rotate((90, 0, 0)).translate((2, 4 - gap, 7))
    pawl += block((2, -4 + gap, 3), (20, 4 - gap, 6))
    pawl -= rod(20, 6 + 2 * gap).rotate((90, 0, 0)).translate((2, 10, 7))
    return cheeks + pin + pawl


def gland_nut() -> Manifold:
    """A hexagon nut with a sealing lip that runs out to a knife edge."""
    hexagon = Manifold.cylinder(9, 11, 11, 6)
    lip = rod(14, 17)
    body = hexagon + lip - rod(20, 12).translate((0, 0, -1))
    return body - Manifold.cylinder(8, 6, 10.01, ROUND).translate((0, 0, 7.01))


def pulley() -> Manifold:
    """A grooved wheel, drawn in inches: 1.5 across, 0.375 wide, bore 0.25."""
    profile = [(0.125, 0), (0.75, 0), (0.75, 0.0625), (0.625, 0.1875), (0.75, 0.3125), (0.75, 0.375), (0.125, 0.375)]
    return CrossSection([profile]).revolve(ROUND)


def silt_trap() -> Mesh:
    """A trap for silt with everything that can be wrong with a mesh: a hole, faces turned and doubled, a wall that was not united
    with the others and crosses them, a cavity in the floor and a chip left over."""
    tray = block((0, 0, 0), (64, 40, 24)) - block((4, 4, 8), (60, 36, 25)) - block((26, 14, 2.5), (38, 26, 5.5))
    weir = block((30, 2, 6), (32, 38, 20))
    chip = block((46, 20, 8.5), (46.4, 20.3, 8.8))
    mesh = merged([mesh_of(piece.refine_to_length(3.5)) for piece in (tray, weir, chip)])
    middles = mesh.centroids()
    near = np.argsort(np.linalg.norm(middles - np.array([64.0, 12.0, 14.0]), axis=1))
    turned = np.argsort(np.linalg.norm(middles - np.array([20.0, 0.0, 12.0]), axis=1))[:5]
    doubled = np.argsort(np.linalg.norm(middles - np.array([0.0, 28.0, 12.0]), axis=1))[:3]
    faces = mesh.faces.copy()
    faces[turned] = faces[turned][:, ::-1]
    return Mesh(mesh.vertices, np.concatenate([np.delete(faces, near[:3], axis=0), faces[doubled]]))


def mesh_of(solid: Manifold) -> Mesh:
    found = solid.to_mesh64()
    return Mesh(np.asarray(found.vert_properties)[:, :3], np.asarray(found.tri_verts).astype(np.int32))


def part(name: str, mesh: Mesh) -> Part:
    body = Body(name, "mesh", mesh, (Transform.identity(),))
    return Part(name, name, "stl", "mm", "declared", (body,))


def make_all(folder: Path) -> None:
    """Writes every demo file into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    set_circular_segments(ROUND)
    for name, made in (
        ("float_well.stl", mesh_of(float_well())),
        ("sensor_shroud.3mf", mesh_of(sensor_shroud())),
        ("tipping_tray.stl", tipping_tray()),
        ("hinge_pawl.stl", mesh_of(hinge_pawl())),
        ("gland_nut.stl", mesh_of(gland_nut())),
        ("pulley.obj", mesh_of(pulley())),
        ("silt_trap.stl", silt_trap()),
    ):
        write(part(Path(name).stem, made), folder / name)
    write_clamp_saddle(folder / "clamp_saddle.step")
    write_mount_plate(folder / "mount_plate.step")
    write_screw_set(folder / "screw_set.step")
    write_winch_box(folder / "winch_box.step")
