"""A module per format family, from a Part to a file."""

from gullyrise.core.writing.registry import endings, write

__all__ = ["endings", "write"]
