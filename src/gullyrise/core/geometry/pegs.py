"""Round pegs on a plane: their size and where they stand."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from gullyrise.core.geometry.spots import Spot

Length = Annotated[float, Field(gt=0, le=1e5)]
_ROOT = 0.25


class Pegs(BaseModel):
    """Round pegs of one size on a cut. clearance : mm between a peg and its hole on every side and at its end."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    diameter: Length
    length: Length = Field(description="mm that a peg stands out of the cut")
    clearance: float = Field(ge=0, le=10)
    feet: tuple[Spot, ...] = Field(max_length=100, description="middles of the pegs on the cut, mm in the file's coordinates")

    @property
    def root(self) -> float:
        """mm by which a peg begins under the cut, so that it grows out of material."""
        return _ROOT * self.diameter

    @property
    def hole_diameter(self) -> float:
        """mm, with the clearance on both sides."""
        return self.diameter + 2 * self.clearance

    @property
    def depth(self) -> float:
        """mm of the hole, with the clearance at its end."""
        return self.length + self.clearance
