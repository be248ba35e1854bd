"""The JSON Schema of a job file's job.json. `python -m gullyrise.core.job.schema` prints it, as docs/job.schema.json has it."""

from __future__ import annotations

import json
from typing import Any

from gullyrise.core.job.form import JobForm


def schema() -> dict[str, Any]:
    """By draft 2020-12."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **JobForm.model_json_schema(by_alias=True)}


if __name__ == "__main__":
    print(json.dumps(schema(), indent=1, ensure_ascii=False))
