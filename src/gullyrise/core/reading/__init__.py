"""A module per format, from a path to a Part."""

from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.registry import endings, read

__all__ = ["ReadOptions", "endings", "read"]
