"""Findings that somebody accepted, with the note that says why: kept with the job, and no verdict changes by them."""

from __future__ import annotations

from typing import Annotated, Any

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.job.older_words import meaning

_SAME_PLACE = 0.5


class Acceptance(BaseModel):
    """An accepted finding.

    digest : of the part's geometry, so that another shape is judged afresh
    at : in the file's coordinates, mm
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    digest: str = Field(max_length=64)
    check: str = Field(max_length=80)
    what: str = Field(max_length=400)
    at: tuple[float, float, float]
    value: float | None = None
    unit: str = Field(default="", max_length=20)
    note: str = Field(max_length=500, description="why it is accepted")
    code: str = Field(
        default="", max_length=80, description="of the finding's kind; jobs before it was kept have the words alone"
    )
    of: tuple[Annotated[str, Field(max_length=400)], ...] = Field(default=(), max_length=4, description="what it is about")

    @model_validator(mode="before")
    @classmethod
    def _known(cls, found: Any) -> Any:
        """From a job that kept the words alone: the kind that they stood for."""
        if isinstance(found, dict) and not found.get("code"):
            check, what = found.get("check"), found.get("what")
            if isinstance(check, str) and isinstance(what, str) and (meant := meaning(check, what)) is not None:
                return {**found, "code": meant[0], "of": meant[1]}
        return found

    @property
    def record_key(self) -> str:
        """What a line of the record knows it by."""
        at = " ".join(f"{one:.3f}" for one in self.at)
        # The place first: what is cut off of a long one tells the least.
        return f"accepted {self.digest[:16]} {at} {self.check} {self.code}"[:200]

    def covers(self, digest: str, check: str, finding: Finding) -> bool:
        """Whether a finding is the accepted one: of the same part and kind, at the same place within half a millimetre."""
        if (self.digest, self.check) != (digest, check):
            return False
        if (self.code, self.of) != (finding.code, finding.of) if self.code else self.what != finding.what:
            return False
        return float(np.linalg.norm(np.subtract(self.at, finding.at))) <= _SAME_PLACE
