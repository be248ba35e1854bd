"""The JSON Schema of a job file's job.json; `make schema` writes it."""

from __future__ import annotations

from typing import Any

from gullyrise.core.job.form import JobForm


def schema() -> dict[str, Any]:
    """By draft 2020-12."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **JobForm.model_json_schema(by_alias=True)}
