"""Names in sentences."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable

_NAMED = 12
_PLACEHOLDER = re.compile(
    r"(the )?product( name)?|un(named|titled|known)|no ?name|none|null|open cascade step translator.*", re.I
)
"""What programs write where nobody named a thing."""


def said_name(name: str, instead: str) -> str:
    """A name out of a file; another one where nobody gave it any and a program wrote so."""
    plain = name.strip().strip("'\"")
    return instead if not plain or _PLACEHOLDER.fullmatch(plain) else name


def told_once(notes: Iterable[str]) -> tuple[str, ...]:
    """Each sentence once, in the order in which they came, with how often it was said."""
    counted = Counter(notes)
    return tuple(words if count == 1 else f"{words} ({count} times)" for words, count in counted.items())


def some_of(names: list[str]) -> str:
    """The first few of some names, and how many more there are."""
    more = len(names) - _NAMED
    return f"{', '.join(names[:_NAMED])}{f' and {more} more' if more > 0 else ''}"
