"""The document: what stands on the bed, on which machine, under which limits; its edits can be undone; its file."""

from gullyrise.core.job.document import Document
from gullyrise.core.job.job import Job
from gullyrise.core.job.placed_part import PlacedPart

__all__ = ["Document", "Job", "PlacedPart"]
