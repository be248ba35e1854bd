"""No value that holds arrays compares itself field by field: the truth of an array is an error, met far from its making."""

from __future__ import annotations

import dataclasses
import importlib
import inspect
import pkgutil
import re

import gullyrise

_ARRAYS = ("Floats", "Points", "Ints", "Bools", "ndarray", "NDArray")


def test_values_with_arrays_are_compared_by_identity() -> None:
    kinds = {}
    for module in pkgutil.walk_packages(gullyrise.__path__, "gullyrise."):
        if module.name.endswith("__main__"):
            continue
        for kind in vars(importlib.import_module(module.name)).values():
            if inspect.isclass(kind) and dataclasses.is_dataclass(kind) and kind.__module__ == module.name:
                kinds[kind.__name__] = kind
    compares = {name: kind for name, kind in kinds.items() if kind.__dataclass_params__.eq}
    fields = {
        name: " ".join(str(field.type) for field in dataclasses.fields(kind) if field.compare) for name, kind in compares.items()
    }
    holds = {name for name, types in fields.items() if any(array in types for array in _ARRAYS)}
    while more := {name for name in fields.keys() - holds if any(re.search(rf"\b{other}\b", fields[name]) for other in holds)}:
        holds |= more
    assert len(kinds) > 150 and not holds
