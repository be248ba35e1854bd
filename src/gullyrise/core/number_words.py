"""Numbers as sentences and tags have them."""

from __future__ import annotations


def brief(value: float) -> str:
    """A number for a tag or a list: three digits, and whole ones from a thousand on."""
    return f"{value:,.0f}" if abs(value) >= 999.5 else f"{value:.3g}"


def aligned(value: float) -> str:
    """A number for a column of them: as many digits after the point as its size leaves sense in."""
    if abs(value) >= 1000:
        return f"{value:,.0f}"
    return f"{value:.2f}" if abs(value) >= 10 else f"{value:.3f}"


def number(value: float) -> str:
    """A number for a sentence: three digits after the point at most, and what is not nothing never as nothing."""
    if 0 < abs(value) < 5e-4:
        return f"{value:.1g}"
    return f"{value:.3f}".rstrip("0").rstrip(".") if abs(value) < 1e5 else f"{value:.4g}"
