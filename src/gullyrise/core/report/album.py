"""The pictures of one part, as they come from the process that drew them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from gullyrise.core.report.report_model import Picture


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """A finding's picture. form : as the contract has it, where it was written into a folder;  data : PNG, where asked for
    unseen : why it shows no place, empty where it does
    """

    form: dict[str, Any] | None
    picture: Picture | None
    unseen: str


@dataclass(frozen=True, slots=True, eq=False)
class Album:
    """findings : of each outcome, of each of its findings;  part : the whole part, where asked for"""

    findings: tuple[tuple[Drawn, ...], ...]
    part: Picture | None

    @property
    def forms(self) -> tuple[tuple[dict[str, Any] | None, ...], ...]:
        """Of each outcome, of each of its findings, what the contract says of its picture."""
        return tuple(tuple(one.form for one in row) for row in self.findings)

    @property
    def shown(self) -> tuple[tuple[tuple[Picture | None, str], ...], ...]:
        """The same as a chapter wants it."""
        return tuple(tuple((one.picture, one.unseen) for one in row) for row in self.findings)
