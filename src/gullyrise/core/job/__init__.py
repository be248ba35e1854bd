"""The document: what stands on the bed, on which machine, under which limits; its edits can be undone."""

from gullyrise.core.job.document import Document, Job, Standing

__all__ = ["Document", "Job", "Standing"]
