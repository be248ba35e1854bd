"""Many numbers out of text at once."""

from __future__ import annotations

import warnings
from typing import Any

import numpy as np
from numpy.typing import NDArray


def numbers_in(text: str | bytes, kind: type[np.generic] = np.float64) -> NDArray[Any]:
    """The numbers of a text, parted by white space, in one flat array. Raises ValueError for a word that is none."""
    with warnings.catch_warnings():
        # The library gives what it has read up to a wrong word, with a warning that it means to make an error one day.
        warnings.simplefilter("error", DeprecationWarning)
        try:
            return np.fromstring(text, dtype=kind, sep=" ")
        except DeprecationWarning as error:
            raise ValueError("a word that is no number") from error


def first_columns(lines: list[str] | list[bytes], columns: int) -> NDArray[np.float64]:
    """(n, columns) first numbers of n lines of text, whatever follows them. Raises ValueError for a line that holds fewer."""
    if not lines:
        return np.zeros((0, columns))
    if len(lines[0].split()) == columns:
        between: Any = b" " if isinstance(lines[0], bytes) else " "
        flat = numbers_in(between.join(lines))
        if len(flat) == columns * len(lines):
            return flat.reshape(-1, columns)
    return np.array([[float(word) for word in line.split(None, columns)[:columns]] for line in lines], dtype=np.float64)
