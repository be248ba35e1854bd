"""`gullyrise convert`: one format into another."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from gullyrise.command_line.speaking import Unit, options_for, read_one, say
from gullyrise.core.errors import WriteError
from gullyrise.core.writing import endings, write


def convert(
    source: Annotated[str, typer.Argument(metavar="IN")],
    target: Annotated[str, typer.Argument(metavar="OUT")],
    unit: Unit = None,
) -> int:
    """Converts by ending, and says what the target format cannot hold."""
    path = Path(target)
    if path.suffix.lower() not in endings():
        raise WriteError(f"{path.name} has no ending that is written; use one of {', '.join(endings())}.")
    for sentence in write(read_one(source, options_for(unit)), path):
        say(sentence)
    return 0
