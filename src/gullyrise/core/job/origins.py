"""Where a part of a job came from, and what was done to its shape since: enough to make it anew from its own bytes."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from gullyrise.core.geometry.pegs import Pegs
from gullyrise.core.paths import real_path
from gullyrise.core.placing.fixture_shapes import FixtureShape

_STRICT = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
Name = Annotated[str, Field(min_length=1, max_length=400)]


class KeptFile(BaseModel):
    """A file's bytes in the store. name : of the file, or its path from the part's file for one that belongs to it."""

    model_config = _STRICT
    name: Name
    digest: Digest = Field(description="BLAKE2b of its bytes, 16 bytes in hexadecimal; names its member, parts/<digest>")


class FileOrigin(BaseModel):
    """A part that was read from a file."""

    model_config = _STRICT
    kind: Literal["file"] = "file"
    file: KeptFile
    belongs: tuple[KeptFile, ...] = Field(default=(), description="files that it cannot be read without")
    path: str = Field(default="", max_length=4096, description="where it was read, to read it anew")
    unit: str | None = Field(default=None, description="in which it was read, where that overruled the file")

    @property
    def place(self) -> str:
        """The path where it was read, as the system takes it; empty where none is known."""
        return real_path(self.path)


Origin = Annotated[FileOrigin | FixtureShape, Field(discriminator="kind")]


class Unit(BaseModel):
    """The numbers of the file were taken for another unit."""

    model_config = _STRICT
    kind: Literal["unit"] = "unit"
    unit: str


class Repairs(BaseModel):
    """Repairs were done, in this order."""

    model_config = _STRICT
    kind: Literal["mends"] = "mends"
    mends: tuple[str, ...] = Field(max_length=1000)

    @field_validator("mends")
    @classmethod
    def _known(cls, given: tuple[str, ...]) -> tuple[str, ...]:
        from gullyrise.core.intake.repairs import BY_ID

        for word in given:
            if word not in BY_ID:
                raise ValueError(f"'{word[:60]}' is no repair")
        return given


class Finer(BaseModel):
    """Solids were meshed anew within a chord error."""

    model_config = _STRICT
    kind: Literal["finer"] = "finer"
    chord: float = Field(gt=0, description="mm")


Row = tuple[float, float, float]


class Stretch(BaseModel):
    """The shape was made larger or smaller by a linear map of the file's coordinates."""

    model_config = _STRICT
    kind: Literal["stretch"] = "stretch"
    linear: tuple[Row, Row, Row] = Field(description="rows of the 3 x 3 matrix")


class Split(BaseModel):
    """One side of the part was kept, cut along a plane of the file's coordinates."""

    model_config = _STRICT
    kind: Literal["split"] = "split"
    point: Row
    normal: Row
    side: Literal["front", "back"] = Field(description="front lies where the normal points")
    pegs: Pegs | None = None

    @field_validator("normal")
    @classmethod
    def _directed(cls, given: Row) -> Row:
        if not 1e-6 < math.hypot(*given) < 1e9:
            raise ValueError("a plane needs a direction")
        return given


Change = Unit | Repairs | Finer | Stretch | Split
Step = Annotated[Change, Field(discriminator="kind")]
