"""How long work tells how far it is."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[str, int, int], None]
"""Called with (stage in words, done, total); total 0 means not known."""


def silent(stage: str, done: int, total: int) -> None:
    """Progress that nobody watches."""
