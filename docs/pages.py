"""Writes the pages that are made from the code: machine files and the JSON Schema of job files (`make schema`)."""

from __future__ import annotations

import json
from pathlib import Path

from gullyrise.core.job.schema import schema
from gullyrise.core.machines.words import page

HOME = Path(__file__).parent

if __name__ == "__main__":
    (HOME / "machine-files.md").write_text(page(), encoding="utf-8")
    (HOME / "job.schema.json").write_text(json.dumps(schema(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
