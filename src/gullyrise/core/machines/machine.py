"""One machine: its envelope, margins, keep-outs, limits; how a printer builds; what a mill holds and moves.

Machine coordinates: z = 0 is the bed. A box envelope has its front left corner at the origin, a cylinder its middle.
docs/machine-files.md is made from the models here.
"""

from __future__ import annotations

import hashlib
from functools import cached_property
from pathlib import Path
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from gullyrise.core.errors import MachineError
from gullyrise.core.geometry import Box, Floats
from gullyrise.core.machines.limits import Limits, explained, toml_of, usual_limits

_STRICT = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
Triple = tuple[float, float, float]


Process = Literal["print", "mill"]
"""What a machine does; each check names the one that it is for, or none."""


class Envelope(BaseModel):
    """What the machine can reach: a box of `size`, or an upright cylinder of `diameter` and `height`, mm."""

    model_config = _STRICT
    shape: Literal["box", "cylinder"]
    size: Triple | None = Field(default=None, description="of a box: x, y, z, mm")
    diameter: float | None = Field(default=None, gt=0, le=1e5, description="of a cylinder, mm")
    height: float | None = Field(default=None, gt=0, le=1e5, description="of a cylinder, mm")

    @model_validator(mode="after")
    def _whole(self) -> Envelope:
        if self.shape == "box" and (self.size is None or not 0 < min(self.size) <= max(self.size) <= 1e5):
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

    def reaches(self, box: Box) -> bool:
        """Whether some of a box lies inside."""
        inside = bool((np.minimum(box.high, self.box.high) > np.maximum(box.low, self.box.low)).all())
        if self.diameter is not None:
            inside &= float(np.hypot(*np.clip(0.0, box.low[:2], box.high[:2]))) < self.diameter / 2
        return inside

    def words(self) -> str:
        """Its sides or its diameter and height, for a reader."""
        if self.size is not None:
            return " × ".join(f"{side:g}" for side in self.size) + " mm"
        return f"⌀ {self.diameter:g} × {self.height:g} mm"


class Margins(BaseModel):
    """Kept free inside the envelope: `edge` all round, `top` above, mm."""

    model_config = _STRICT
    edge: float = Field(default=0.0, ge=0, le=1e5, description="all round, mm")
    top: float = Field(default=0.0, ge=0, le=1e5, description="below the top, mm")


class KeepOut(BaseModel):
    """A place that no part may enter: a box (`min`, `max`) or an upright cylinder (`center` of its base)."""

    model_config = _STRICT
    name: str = Field(default="", max_length=80, description="what stands there, such as a clip")
    min: Triple | None = Field(default=None, description="of a box: its lowest corner, mm")
    max: Triple | None = Field(default=None, description="of a box: its highest corner, mm")
    center: Triple | None = Field(default=None, description="of a cylinder: the middle of its base, mm")
    diameter: float | None = Field(default=None, gt=0, le=1e5, description="of a cylinder, mm")
    height: float | None = Field(default=None, gt=0, le=1e5, description="of a cylinder, mm")

    @model_validator(mode="after")
    def _whole(self) -> KeepOut:
        is_box = self.min is not None and self.max is not None
        is_cylinder = self.center is not None and self.diameter is not None and self.height is not None
        if is_box == is_cylinder:
            raise ValueError("a keep-out needs min and max, or center, diameter and height")
        return self

    @property
    def box(self) -> Box:
        """Its box in machine coordinates, corners in order whichever way they were given."""
        if self.min is not None and self.max is not None:
            low, high = np.array(self.min), np.array(self.max)
            return Box(np.minimum(low, high), np.maximum(low, high))
        base, radius = np.array(self.center), (self.diameter or 0.0) / 2
        return Box(base - [radius, radius, 0], base + [radius, radius, self.height or 0.0])


class Tool(BaseModel):
    """A straight cutter; lengths in mm."""

    model_config = _STRICT
    name: str = Field(max_length=80)
    diameter: float = Field(gt=0, le=1e4, description="mm")
    flute: float = Field(gt=0, le=1e4, description="length that cuts, mm")
    reach: float = Field(gt=0, le=1e4, description="from the holder to the tip, mm")
    holder_diameter: float = Field(gt=0, le=1e4, description="mm")


class Build(BaseModel):
    """How a printer lays material down."""

    model_config = _STRICT
    layer_height: float = Field(default=0.2, gt=0, le=10, description="mm")
    spot_width: float = Field(default=0.4, gt=0, le=20, description="of the nozzle's bead or the light's spot, mm")


class Travel(BaseModel):
    """How far a mill moves. `headroom`: from the bed to the spindle's nose at its highest."""

    model_config = _STRICT
    x: float = Field(gt=0, le=1e5, description="mm")
    y: float = Field(gt=0, le=1e5, description="mm")
    z: float = Field(gt=0, le=1e5, description="mm")
    headroom: float = Field(gt=0, le=1e5, description="from the bed to the spindle's nose at its highest, mm")


class Stock(BaseModel):
    """What a part is milled from: a block of `size`, or a bar of `diameter` and `length` that lies along X."""

    model_config = _STRICT
    shape: Literal["block", "bar"]
    size: Triple | None = Field(default=None, description="of a block: x, y, z, mm")
    diameter: float | None = Field(default=None, gt=0, le=1e5, description="of a bar, mm")
    length: float | None = Field(default=None, gt=0, le=1e5, description="of a bar, along X, mm")
    allowance: float = Field(default=0.0, ge=0, le=1e3, description="kept on every side of the part, mm")

    @model_validator(mode="after")
    def _whole(self) -> Stock:
        if self.shape == "block" and (self.size is None or min(self.size) <= 0):
            raise ValueError("a block needs size = [x, y, z], all over 0")
        if self.shape == "bar" and (self.diameter is None or self.length is None):
            raise ValueError("a bar needs diameter and length")
        return self

    def words(self) -> str:
        """Its sides or its diameter and length, for a reader."""
        if self.size is not None:
            return "block of " + " × ".join(f"{side:g}" for side in self.size) + " mm"
        return f"bar of ⌀ {self.diameter:g} × {self.length:g} mm"


class Clamping(BaseModel):
    """How the stock is held. `height`: how much of it from the bed up is gripped and cannot be cut."""

    model_config = _STRICT
    height: float = Field(default=0.0, ge=0, le=1e4, description="of the stock that is gripped, from its foot, mm")
    jaw: tuple[KeepOut, ...] = Field(default=(), description="vise jaws or clamps, as keep-outs")


class Machine(BaseModel):
    """A machine as its file describes it."""

    model_config = _STRICT
    id: str = Field(min_length=1, max_length=80, description="by which the command line and job files know it")
    name: str = Field(min_length=1, max_length=120, description="as people call it")
    process: Process
    envelope: Envelope
    margins: Margins = Margins()
    keep_out: tuple[KeepOut, ...] = ()
    limits: Limits = Limits()
    build: Build | None = None
    travel: Travel | None = None
    stock: Stock | None = None
    clamping: Clamping | None = None
    tool: tuple[Tool, ...] = ()

    @cached_property
    def digest(self) -> str:
        """Of all that is said about the machine."""
        return hashlib.blake2b(self.model_dump_json().encode(), digest_size=16).hexdigest()

    @property
    def blocked(self) -> tuple[KeepOut, ...]:
        """Every place that no part may enter: keep-outs, and what holds the stock."""
        return self.keep_out + (self.clamping.jaw if self.clamping is not None else ())

    @property
    def idle_keep_outs(self) -> tuple[KeepOut, ...]:
        """Keep-outs that lie wholly outside the envelope, as those of a larger bed do on a smaller one: they keep nothing out."""
        return tuple(keep for keep in self.keep_out if not self.envelope.reaches(keep.box))

    @property
    def layer(self) -> float:
        """mm above the bed within which a part still rests on it."""
        return self.build.layer_height if self.build is not None else 0.2

    def full_limits(self, given: Limits | None = None) -> Limits:
        """Every limit settled: given ones first, then the machine's, then the common ones."""
        own = self.limits
        margins = Limits(edge_margin=self.margins.edge, top_margin=self.margins.top)
        tools = Limits()
        if self.tool:
            smallest = min(self.tool, key=lambda tool: tool.diameter)
            tools = Limits(tool_diameter=smallest.diameter, tool_reach=smallest.reach)
        return (given or Limits()).over(own.over(margins.over(tools.over(usual_limits()))))


def read_machine(path: Path) -> Machine:
    """The machine in a TOML file. Raises MachineError with one sentence."""
    try:
        return Machine.model_validate(toml_of(path, MachineError))
    except ValidationError as error:
        raise MachineError(explained(error, path.name)) from None
