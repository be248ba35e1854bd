"""Findings that somebody accepted, with the note that says why: kept with the job, and no verdict changes by them."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from gullyrise.core.checks.protocol import Finding

_SAME_PLACE = 0.5


class Waiver(BaseModel):
    """An accepted finding. digest : of the part's geometry, so that another shape is judged afresh;  at : in the file's
    coordinates, mm"""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    digest: str = Field(max_length=64)
    check: str = Field(max_length=80)
    what: str = Field(max_length=400)
    at: tuple[float, float, float]
    value: float | None = None
    unit: str = Field(default="", max_length=20)
    note: str = Field(max_length=500, description="why it is accepted")

    def covers(self, digest: str, check: str, finding: Finding) -> bool:
        """Whether a finding is the accepted one: the same part and words, at the same place within half a millimetre."""
        if (self.digest, self.check, self.what) != (digest, check, finding.what):
            return False
        return float(np.linalg.norm(np.subtract(self.at, finding.at))) <= _SAME_PLACE
