"""What every piece of work says of itself, so that it can be fenced."""

from __future__ import annotations

from typing import Self

from gullyrise.core.progress import Progress
from gullyrise.workers.fencing.grants import NOTHING, Grants


class Task:
    """Work that needs no file. What needs one says which."""

    __slots__ = ()

    def beforehand(self, progress: Progress) -> Self:
        """What has to be done while the process still may do all that its user may, and looks at nothing that somebody sent but
        bytes that it copies: the work as it is then to be run. Raises GullyriseError."""
        return self

    def grants(self) -> Grants:
        """What `run` may touch."""
        return NOTHING

    def weight(self) -> int | None:
        """Bytes that somebody sent and that are only to be read, by which time and memory are bounded; None for other work."""
        return None

    def afterwards(self) -> None:
        """What is left to do once the process has ended, however it did, by whoever sent the work."""
