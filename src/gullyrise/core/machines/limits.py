"""The limits that verdicts are given against."""

from __future__ import annotations

import tomllib
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator
from pydantic_core import PydanticCustomError

from gullyrise.core.errors import GullyriseError, LimitsError
from gullyrise.core.geometry import Floats
from gullyrise.core.machines.limit_rows import limits_from_elsewhere
from gullyrise.core.paths import plain_name, printable
from gullyrise.core.safe_files import read_within

_MOST_BYTES = 1 << 20
_UNKNOWN = "extra_forbidden"
"""The code by which pydantic tells of a key that is not known."""
SETUPS = ("+x", "-x", "+y", "-y", "+z", "-z")


def setup_direction(setup: str) -> Floats:
    """`+z`, or three numbers as `0,-1,1`, as a unit vector (3,) towards where the tool comes from. Raises ValueError."""
    vector = np.zeros(3)
    if setup in SETUPS:
        vector["xyz".index(setup[1])] = 1.0 if setup[0] == "+" else -1.0
        return vector
    numbers = setup.split(",")
    if len(numbers) == 3:
        with suppress(ValueError):
            vector[:] = [float(number) for number in numbers]
    length = float(np.linalg.norm(vector))
    if not np.isfinite(length) or length <= 0:
        raise ValueError(f"'{setup[:40]}' is not a set-up direction; use one of {', '.join(SETUPS)}, or three numbers as 0,-1,1")
    return np.asarray(vector / length)


class PairGap(BaseModel):
    """What is wanted of two bodies, named as the check names them."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    a: str = Field(max_length=300)
    b: str = Field(max_length=300)
    kind: Literal["moving", "touching", "pressed"] = Field(default="moving", description="what the two are to each other")
    gap: float | None = Field(
        default=None, ge=0, le=1000, description="least gap of moving ones, greatest depth of pressed ones, mm; else min_gap"
    )

    def is_of(self, a: str, b: str) -> bool:
        """Whether it is of these two names, in whichever order."""
        return (self.a, self.b) in ((a, b), (b, a))


class Limits(BaseModel):
    """Every limit, each None where nobody set it. Lengths in mm, areas in mm2, angles in degrees from vertical. Beside the common
    ones there are those of checks from elsewhere, by their names; other names are refused."""

    model_config = ConfigDict(frozen=True, extra="allow", allow_inf_nan=False)

    min_wall: float | None = Field(default=None, gt=0, le=1000, description="least wall, mm")
    max_wall: float | None = Field(default=None, gt=0, le=10000, description="thickest wall, mm")
    overhang_angle: float | None = Field(default=None, ge=0, le=90, description="that holds itself, degrees from vertical")
    min_gap: float | None = Field(default=None, ge=0, le=1000, description="least gap between bodies, mm")
    edge_margin: float | None = Field(default=None, ge=0, le=1000, description="instead of `edge` of the margins, mm")
    top_margin: float | None = Field(default=None, ge=0, le=1000, description="instead of `top` of the margins, mm")
    tool_diameter: float | None = Field(default=None, gt=0, le=1000, description="instead of the thinnest tool's, mm")
    tool_reach: float | None = Field(default=None, gt=0, le=10000, description="instead of the thinnest tool's, mm")
    setups: tuple[str, ...] | None = Field(default=None, description="directions from which a mill cuts: `+z`, `-x` and such")
    min_region_area: float | None = Field(default=None, ge=0, le=1e6, description="smaller overhanging regions are left out, mm²")
    pair_gaps: tuple[PairGap, ...] | None = Field(default=None, max_length=2000, description="what is wanted of single pairs")

    @model_validator(mode="before")
    @classmethod
    def _known(cls, given: Any) -> Any:
        for name, value in given.items() if isinstance(given, dict) else ():
            if name in cls.model_fields:
                continue
            row = limits_from_elsewhere().get(name)
            if row is None:
                raise PydanticCustomError(_UNKNOWN, "Extra inputs are not permitted", {"key": str(name)})
            number = isinstance(value, int | float) and not isinstance(value, bool)
            if value is not None and not (number and row.low <= value <= row.high):
                words = f"It should be a number from {row.low:g} to {row.high:g}"
                raise PydanticCustomError("limit", "{words}", {"key": name, "words": words})
        return given

    def value(self, name: str) -> Any:
        """One by its name, None where nobody set it."""
        return getattr(self, name, None)

    @field_validator("setups")
    @classmethod
    def _known_setups(cls, given: tuple[str, ...] | None) -> tuple[str, ...] | None:
        for word in given or ():
            setup_direction(word)
        return given or None

    def over(self, base: Limits) -> Limits:
        """These limits where they are set, else those of `base`."""
        own = {name: value for name, value in self if value is not None}
        return base.model_copy(update=own)


_COMMON = Limits(
    min_wall=0.8,
    overhang_angle=45.0,
    min_gap=0.2,
    edge_margin=0.0,
    top_margin=0.0,
    tool_diameter=6.0,
    tool_reach=30.0,
    setups=("+z",),
    min_region_area=1.0,
)


@cache
def usual_limits() -> Limits:
    """What holds where neither machine nor job says anything."""
    own = {name: row.usual for name, row in limits_from_elsewhere().items() if row.usual is not None}
    return Limits.model_validate(own).over(_COMMON)


def explained(error: ValidationError, where: str) -> str:
    """One sentence for the first thing that is wrong in a TOML file."""
    first = error.errors(include_url=False, include_input=False)[0]
    steps = [*first["loc"][:8], *([first["ctx"]["key"]] if "key" in first.get("ctx", {}) else [])]
    place = printable(".".join(str(step)[:40] for step in steps))
    if first["type"] == _UNKNOWN:
        return f"{where} has the unknown key '{place}'; take it out or correct its spelling."
    return f"{where} has a wrong value at '{place}': {printable(first['msg'].removeprefix('Value error, '))[:200]}; correct it."


def toml_of(path: Path, kind: type[GullyriseError]) -> dict[str, Any]:
    """The tables of a TOML file of at most 1 MB. Raises `kind` with one sentence."""
    name = plain_name(path.name)[:120]
    try:
        data = read_within(path, _MOST_BYTES)
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "its name cannot be a file's"
        raise kind(f"{name} cannot be opened ({why}); check its path.") from None
    try:
        return tomllib.loads(data.decode("utf-8-sig"))
    except tomllib.TOMLDecodeError as error:
        raise kind(f"{name} is not TOML ({str(error)[:200]}); correct it.") from None
    except UnicodeDecodeError:
        raise kind(f"{name} is not TOML (it is no text in UTF-8); correct it.") from None
    except RecursionError:
        raise kind(f"{name} is not to be used (it is nested without end); correct it.") from None
    except ValueError:
        # Such as a number of thousands of digits, or a day that is in no calendar.
        raise kind(f"{name} is not to be used (it holds a value without bounds); correct it.") from None


def read_limits(path: Path) -> Limits:
    """The limits in a TOML file. Raises LimitsError that names an unknown key."""
    try:
        return Limits.model_validate(toml_of(path, LimitsError))
    except ValidationError as error:
        raise LimitsError(explained(error, path.name)) from None
