"""The page on machine files, made from the models that read them; `make schema` writes it."""

from __future__ import annotations

from typing import Any, get_args

from pydantic import BaseModel

from gullyrise.core.machines.library import as_toml, machine_named
from gullyrise.core.machines.limits import Limits
from gullyrise.core.machines.machine import (
    Build,
    Clamping,
    Envelope,
    KeepOut,
    Machine,
    Margins,
    Stock,
    Tool,
    Travel,
)

_HEAD = """# Machine files

A machine is a TOML file. Those that come with Gullyrise are in `src/gullyrise/core/machines/shipped`; your own are in your data
folder, `gullyrise/machines`, where the machine library's sheet (P K) keeps them. A file of yours with the id of a shipped one
stands in its place. A key that is not listed here is an error that names it. Lengths are millimetres, areas mm², angles degrees.

z = 0 is the bed. A box envelope has its front left corner in the origin, a round one the middle of its bed.
"""
_TABLES: tuple[tuple[str, type[BaseModel]], ...] = (
    ("", Machine), ("[envelope]", Envelope), ("[margins]", Margins), ("[[keep_out]]", KeepOut), ("[limits]", Limits),
    ("[build]", Build), ("[travel]", Travel), ("[stock]", Stock), ("[clamping]", Clamping), ("[[tool]]", Tool),
)  # fmt: skip


def page() -> str:
    """The whole page, Markdown."""
    parts = [_HEAD]
    for name, model in _TABLES:
        title = f"## `{name}`" if name else "## At the top"
        doc = " ".join((model.__doc__ or "").split())
        rows = [f"| `{key}` | {_kind(field)} | {field.description or ''} |" for key, field in model.model_fields.items()]
        plain = [row for key, row in zip(model.model_fields, rows, strict=True) if name or key not in _NESTED]
        parts.append("\n".join([title, "", doc, "", "| key | value | meaning |", "| --- | --- | --- |", *plain, ""]))
    whole = as_toml(machine_named("alder-mill"))
    return "\n".join([*parts, f"## A whole one\n\n```toml\n{whole}```\n"])


_NESTED = {word.strip("[]") for word, _ in _TABLES if word}


def _kind(field: Any) -> str:
    """What a key takes, and whether it must be there."""
    allowed = [one for one in (get_args(field.annotation) or (field.annotation,)) if one is not type(None)]
    if all(isinstance(one, str) for one in allowed):
        words = " or ".join(f'`"{one}"`' for one in allowed)
    elif allowed and getattr(allowed[0], "__name__", "") == "float" and len(allowed) == 1:
        words = "number"
    elif allowed and allowed[0] is str:
        words = "text"
    else:
        words = "list"
    bounds = [f"{sign} {getattr(one, name):g}" for one in field.metadata for name, sign in _BOUNDS if hasattr(one, name)]
    must = ", needed" if field.is_required() else ""
    return words + (f" {' and '.join(bounds)}" if bounds else "") + must


_BOUNDS = (("gt", "over"), ("ge", "at least"), ("le", "up to"))
