"""What a job holds that this version does not know: kept, shown as unknown, and written back."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field


class UnknownMachine(BaseModel):
    """A machine that this version cannot use, as its file or another version describes it: kept and written back as it is."""

    model_config = ConfigDict(frozen=True, extra="allow", allow_inf_nan=False)
    id: str = Field(default="unknown", max_length=400)
    name: str = Field(default="unknown machine", max_length=400)
