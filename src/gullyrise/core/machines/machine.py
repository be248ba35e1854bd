"""One machine: its envelope, margins, keep-outs, limits and tools.

Machine coordinates: z = 0 is the bed. A box envelope has its front left corner at the origin, a cylinder its middle.
"""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from gullyrise.core.errors import MachineError
from gullyrise.core.geometry import Box, Floats
from gullyrise.core.machines.limits import COMMON, Limits, explained, toml_of

_STRICT = ConfigDict(frozen=True, extra="forbid")
Triple = tuple[float, float, float]


class Envelope(BaseModel):
    """What the machine can reach: a box of `size`, or an upright cylinder of `diameter` and `height`, mm."""

    model_config = _STRICT
    shape: Literal["box", "cylinder"]
    size: Triple | None = None
    diameter: float | None = Field(default=None, gt=0, le=1e5)
    height: float | None = Field(default=None, gt=0, le=1e5)

    @model_validator(mode="after")
    def _whole(self) -> Envelope:
        if self.shape == "box" and (self.size is None or min(self.size) <= 0):
            raise ValueError("a box envelope needs size = [x, y, z], all over 0")
        if self.shape == "cylinder" and (self.diameter is None or self.height is None):
            raise ValueError("a cylinder envelope needs diameter and height")
        return self

    @property
    def box(self) -> Box:
        """The envelope's box in machine coordinates."""
        if self.size is not None:
            return Box(np.zeros(3), np.array(self.size))
        radius, height = (self.diameter or 0.0) / 2, self.height or 0.0
        return Box(np.array([-radius, -radius, 0.0]), np.array([radius, radius, height]))

    @property
    def middle(self) -> Floats:
        """The middle of the bed, (3,) mm."""
        middle = self.box.middle.copy()
        middle[2] = 0.0
        return middle

    def words(self) -> str:
        if self.size is not None:
            return " × ".join(f"{side:g}" for side in self.size) + " mm"
        return f"⌀ {self.diameter:g} × {self.height:g} mm"


class Margins(BaseModel):
    """Kept free inside the envelope: `edge` all round, `top` above, mm."""

    model_config = _STRICT
    edge: float = Field(default=0.0, ge=0)
    top: float = Field(default=0.0, ge=0)


class KeepOut(BaseModel):
    """A place that no part may enter: a box (`min`, `max`) or an upright cylinder (`center` of its base)."""

    model_config = _STRICT
    min: Triple | None = None
    max: Triple | None = None
    center: Triple | None = None
    diameter: float | None = Field(default=None, gt=0)
    height: float | None = Field(default=None, gt=0)

    @model_validator(mode="after")
    def _whole(self) -> KeepOut:
        is_box = self.min is not None and self.max is not None
        is_cylinder = self.center is not None and self.diameter is not None and self.height is not None
        if is_box == is_cylinder:
            raise ValueError("a keep-out needs min and max, or center, diameter and height")
        return self


class Tool(BaseModel):
    """A straight cutter; lengths in mm."""

    model_config = _STRICT
    name: str
    diameter: float = Field(gt=0)
    flute: float = Field(gt=0)
    reach: float = Field(gt=0)
    holder_diameter: float = Field(gt=0)


class Machine(BaseModel):
    """A machine as its file describes it."""

    model_config = _STRICT
    id: str = Field(min_length=1, max_length=80)
    name: str = Field(min_length=1, max_length=120)
    process: Literal["print", "mill"]
    envelope: Envelope
    margins: Margins = Margins()
    keep_out: tuple[KeepOut, ...] = ()
    limits: Limits = Limits()
    tool: tuple[Tool, ...] = ()

    def full_limits(self, given: Limits | None = None) -> Limits:
        """Every limit settled: given ones first, then the machine's, then the common ones."""
        own = self.limits
        margins = Limits(edge_margin=self.margins.edge, top_margin=self.margins.top)
        tools = Limits()
        if self.tool:
            smallest = min(self.tool, key=lambda tool: tool.diameter)
            tools = Limits(tool_diameter=smallest.diameter, tool_reach=smallest.reach)
        return (given or Limits()).over(own.over(margins.over(tools.over(COMMON))))


def read_machine(path: Path) -> Machine:
    """The machine in a TOML file. Raises MachineError with one sentence."""
    try:
        return Machine.model_validate(toml_of(path, MachineError))
    except ValidationError as error:
        raise MachineError(explained(error, path.name)) from None
