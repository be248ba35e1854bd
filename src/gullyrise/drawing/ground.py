"""The bed, its grid, rulers and axes, and the corners of the envelope, as VTK actors."""

from __future__ import annotations

import numpy as np
from vtkmodules.vtkRenderingCore import vtkActor, vtkRenderer

from gullyrise.core.machines import Machine
from gullyrise.core.placing import bed_lines
from gullyrise.drawing.actors import actor_of, drawn_out, line_actor, matrix_of, rgb
from gullyrise.drawing.arrays import poly_data
from gullyrise.drawing.display import Display
from gullyrise.drawing.palette import Palette


class Ground:
    """What stands under the parts."""

    def __init__(self, renderer: vtkRenderer) -> None:
        self._renderer = renderer
        self._slab: vtkActor | None = None
        self._by_use: dict[str, list[vtkActor]] = {}

    @property
    def actors(self) -> list[vtkActor]:
        """All that are in the view."""
        return [actor for group in self._by_use.values() for actor in group]

    def make(self, machine: Machine, palette: Palette, beds: int = 1) -> None:
        """For another machine, or another number of beds."""
        for actor in self.actors:
            self._renderer.RemoveActor(actor)
        self._slab = actor_of(poly_data(*bed_lines.beds_triangles(machine, beds)))
        look = self._slab.GetProperty()
        look.SetColor(*rgb(palette.bed))
        look.SetInterpolationToFlat()
        look.SetAmbient(0.55)
        look.SetDiffuse(0.5)

        def on_beds(lines: np.ndarray, colour: str, width: float) -> vtkActor:
            return line_actor(bed_lines.on_each_bed(lines, machine, beds), colour, width)

        axes = [
            line_actor(bed_lines.axis_line(machine, axis), (palette.axis_x, palette.axis_y, palette.axis_z)[axis], 2.2)
            for axis in range(3)
        ]
        self._by_use = {
            "bed": [self._slab],
            "grid": [on_beds(bed_lines.grid_lines(machine), palette.bed_line, 1.0)],
            "rulers": [on_beds(bed_lines.ruler_lines(machine), palette.quiet, 1.0)],
            "axes": axes,
            "brackets": [on_beds(bed_lines.bracket_lines(machine), palette.quiet, 1.6)],
            "keep-outs": [on_beds(bed_lines.keep_out_lines(machine), palette.review, 1.4)],
        }
        for use, group in self._by_use.items():
            for actor in group:
                if use not in ("bed", "axes"):
                    # VTK draws all lines a little nearer; those of the bed must not come through a part.
                    actor.GetMapper().SetRelativeCoincidentTopologyLineOffsetParameters(1.0, 4.0)
                self._renderer.AddActor(actor)

    def stretch(self, factors: tuple[float, float, float]) -> None:
        """Draws it stretched by factors along X, Y and Z."""
        matrix = matrix_of(drawn_out(factors))
        for actor in self.actors:
            actor.SetUserMatrix(matrix)

    def show(self, display: Display, *, from_above: bool) -> None:
        """From below the bed is glass: undersides are looked at there, and its lines stay."""
        shown = {
            "bed": display.bed and from_above,
            "grid": display.bed and display.grid,
            "rulers": display.bed and display.rulers,
            "axes": display.axes,
            "brackets": display.bed,
            "keep-outs": display.bed,
        }
        for use, group in self._by_use.items():
            for actor in group:
                actor.SetVisibility(bool(shown[use]))

    def hide(self) -> None:
        """Takes it out of the picture for a while."""
        for actor in self.actors:
            actor.SetVisibility(False)

    def tint(self, colour: str) -> None:
        """The colour of the envelope's corners."""
        for actor in self._by_use.get("brackets", []):
            actor.GetProperty().SetColor(*rgb(colour))
