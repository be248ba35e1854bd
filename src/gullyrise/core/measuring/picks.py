"""What a person picked on a part, and a dimension taken of it: named by number, so that it stays on the part wherever that
goes."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from gullyrise.core.errors import MeasureError
from gullyrise.core.measuring.iso286 import deviations
from gullyrise.core.measuring.older_names import code_of

_STRICT = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
What = Literal["body", "face", "axis", "edge", "middle", "centre", "corner", "spot"]
Spot = tuple[float, float, float]
MOST_PICKS = 50


class Pick(BaseModel):
    """One thing on one copy of a body.

    face and axis are numbered by faces, edge, middle and centre by edges, corner by corners, all as in the body's anatomy
    """

    model_config = _STRICT
    what: What
    part: int = Field(ge=0, description="id of the part in the job")
    copy_number: int = Field(ge=0, description="of the bodies of its file with all their copies, from 0")
    index: int = Field(default=0, ge=0)
    spot: Spot = Field(default=(0.0, 0.0, 0.0), description="where it was pointed at, mm in the body's own coordinates")

    @model_validator(mode="after")
    def _placed(self) -> Pick:
        if self.what == "spot" and "spot" not in self.model_fields_set:
            raise ValueError("a spot needs its place")
        return self

    @property
    def key(self) -> tuple[int, int]:
        """(id of the part, number of the copy)."""
        return self.part, self.copy_number

    @property
    def name(self) -> tuple[Any, ...]:
        """Equal for what is the same thing, wherever on it was pointed at."""
        return (self.what, self.part, self.copy_number, self.spot if self.what == "spot" else self.index)


class Tolerance(BaseModel):
    """A wanted size. plus and minus are deviations from the nominal, mm or degrees; a class is one of ISO 286, such as H7."""

    model_config = _STRICT
    nominal: float = Field(description="mm, mm2, mm3, degrees or g, as the figure is")
    upper: float = 0.0
    lower: float = 0.0
    iso: str = Field(default="", max_length=8)

    @model_validator(mode="after")
    def _in_order(self) -> Tolerance:
        if self.lower > self.upper:
            raise ValueError("the lower deviation lies above the upper one")
        if self.iso:
            try:
                deviations(self.iso, self.nominal)
            except MeasureError as error:
                raise ValueError(f"{self.iso} cannot be wanted of that size") from error
        return self


class Dimension(BaseModel):
    """A figure that stays with the job.

    figure, code : the name and the code of that one of the figures between its picks that was kept
    shape : the digests of the parts when it was
    taken
    value, uncertainty, method, a, b : what it was then, ends in the coordinates of its first body
    """

    model_config = _STRICT
    id: int = Field(ge=1)
    name: Annotated[str, Field(min_length=1, max_length=80)]
    picks: Annotated[tuple[Pick, ...], Field(min_length=1, max_length=MOST_PICKS)]
    figure: str = Field(max_length=80)
    code: str = Field(default="", max_length=80, description="of the figure; older jobs have its name alone")
    quantity: Literal["length", "area", "volume", "angle", "mass"]
    value: float
    uncertainty: float = Field(ge=0)
    method: str = Field(max_length=500)
    shape: tuple[str, ...] = Field(max_length=MOST_PICKS)
    stood: tuple[str, ...] = Field(default=(), max_length=MOST_PICKS, description="how its parts stood to one another")
    a: Spot | None = None
    b: Spot | None = None
    hidden: bool = False
    tolerance: Tolerance | None = None

    @property
    def record_key(self) -> str:
        """What a line of the record knows it by."""
        return f"dimension {self.id}"

    @model_validator(mode="before")
    @classmethod
    def _known(cls, found: Any) -> Any:
        """From a job that kept the name alone: the figure that it stood for."""
        if isinstance(found, dict) and not found.get("code") and isinstance(name := found.get("figure"), str):
            return {**found, "code": code_of(name)}
        return found
