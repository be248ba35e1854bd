"""What somebody may write where a value is expected, and every place of a tree where a value stands."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from typing import Any

Way = tuple[str | int, ...]


class Gone:
    """Stands for a value that is taken away."""


NESTED: Any = []
for _ in range(400):
    NESTED = [NESTED]
ODD: tuple[Any, ...] = (
    None, True, 0, -1, 77, 2**63, -(2**70), 1e308, -1e308, 1e-308, float("nan"), float("inf"), "", "unheard of", "x" * 5000,
    "../../../etc/passwd", "a\x00b\n\u202e\U0001f9f1", [], {}, ["mixed", 1, None], {"unknown": {"deep": [1]}}, NESTED, Gone,
)  # fmt: skip
assert len(ODD) >= 20


def ways(tree: Any, most: int = 3) -> Iterator[Way]:
    """Every place below the root; of a long list the first few."""
    if isinstance(tree, dict):
        for key, value in tree.items():
            yield (key,)
            yield from ((key, *rest) for rest in ways(value, most))
    elif isinstance(tree, list):
        for number, value in enumerate(tree[:most]):
            yield (number,)
            yield from ((number, *rest) for rest in ways(value, most))


def at(tree: Any, way: Way) -> Any:
    """The value at a place; Gone where none is."""
    for step in way:
        try:
            tree = tree[step]
        except (KeyError, IndexError, TypeError):
            return Gone
    return tree


def changed(tree: Any, way: Way, value: Any) -> Any:
    """The tree with another value at a place."""
    out = copy.deepcopy(tree)
    inner = at(out, way[:-1])
    if value is Gone:
        del inner[way[-1]]
    else:
        inner[way[-1]] = copy.deepcopy(value)
    return out


def extended(tree: Any, way: Way) -> Any:
    """The tree with something more in the table at a place, or the first of its list once more."""
    out = copy.deepcopy(tree)
    inner = at(out, way)
    if isinstance(inner, dict):
        inner["more"] = [1, {"a": 2}]
    elif isinstance(inner, list) and inner:
        inner.append(copy.deepcopy(inner[0]))
    return out
