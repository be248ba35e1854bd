"""Plain solids of typed size that stand for a clamp, a fixture or a mating shaft."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from gullyrise.core.part import Part

Shape = Literal["block", "cylinder", "sphere", "cone"]
SIZES: dict[Shape, tuple[str, ...]] = {
    "block": ("x", "y", "z"),
    "cylinder": ("diameter", "height"),
    "sphere": ("diameter",),
    "cone": ("foot diameter", "top diameter", "height"),
}
"""What is typed for each shape, mm."""


class FixtureShape(BaseModel):
    """A shape and its sizes in the order of SIZES, mm. It stands upright on the bed, its foot's middle in the origin."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    kind: Literal["stand-in"] = "stand-in"
    shape: Shape
    size: tuple[float, ...] = Field(
        description="mm, in the order of: " + "; ".join(f"{k}: {', '.join(v)}" for k, v in SIZES.items())
    )

    @model_validator(mode="after")
    def _whole(self) -> FixtureShape:
        if len(self.size) != len(SIZES[self.shape]):
            raise ValueError(f"a {self.shape} has {len(SIZES[self.shape])} sizes ({', '.join(SIZES[self.shape])})")
        # A cone may end in a tip.
        least = [0.0 if name == "top diameter" else 1e-3 for name in SIZES[self.shape]]
        if any(not low <= value <= 1e4 for low, value in zip(least, self.size, strict=True)):
            raise ValueError(f"a {self.shape}'s sizes go from 0.001 to 10,000 mm")
        return self

    @property
    def name(self) -> str:
        """As the parts list says it, with its sizes."""
        return f"{self.shape} {' × '.join(f'{value:g}' for value in self.size)}"


def fixture_part(spec: FixtureShape, name: str = "") -> Part:
    """The part of a fixture shape: an exact solid."""
    from OCP.BRepPrimAPI import (
        BRepPrimAPI_MakeBox,
        BRepPrimAPI_MakeCone,
        BRepPrimAPI_MakeCylinder,
        BRepPrimAPI_MakeSphere,
    )
    from OCP.gp import gp_Pnt

    from gullyrise.core.solids.harvest import body_of

    size = spec.size
    if spec.shape == "block":
        made = BRepPrimAPI_MakeBox(gp_Pnt(-size[0] / 2, -size[1] / 2, 0), size[0], size[1], size[2])
    elif spec.shape == "cylinder":
        made = BRepPrimAPI_MakeCylinder(size[0] / 2, size[1])
    elif spec.shape == "sphere":
        made = BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, size[0] / 2), size[0] / 2)
    elif abs(size[0] - size[1]) < 1e-9:
        # The kernel takes no cone whose sides are upright.
        made = BRepPrimAPI_MakeCylinder(size[0] / 2, size[2])
    else:
        made = BRepPrimAPI_MakeCone(size[0] / 2, size[1] / 2, size[2])
    said = name or spec.name
    return Part(said, "", "stand-in", "mm", "declared", (body_of(said, made.Solid()),))
