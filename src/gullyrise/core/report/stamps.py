"""Stamps of verdicts as pictures that a page holds; their shapes differ, so that a black and white print says the same."""

from __future__ import annotations

import base64

from gullyrise.core.checks.protocol import Verdict

_INKS: dict[Verdict, str] = {"pass": "#4B672A", "review": "#8A580A", "fail": "#A33B2E", "not-run": "#5A6468"}
_SHAPES: dict[Verdict, str] = {
    "pass": '<circle cx="10" cy="10" r="9" fill="{ink}"/>'
    '<path d="M5.5 10.5l3 3 6-7" fill="none" stroke="#fff" stroke-width="2.4"/>',
    "review": '<path d="M10 1l9 9-9 9-9-9z" fill="#fff" stroke="{ink}" stroke-width="1.8"/>'
    '<path d="M10 1v18l-9-9z" fill="{ink}"/>',
    "fail": '<path d="M1 1h12l6 6v12H1z" fill="{ink}"/><path d="M5 12h10" fill="none" stroke="#fff" stroke-width="2.6"/>',
    "not-run": '<path d="M2 10h6m4 0h6" fill="none" stroke="{ink}" stroke-width="2.4"/>',
}


def _uri(verdict: Verdict) -> str:
    shape = _SHAPES[verdict].format(ink=_INKS[verdict])
    drawn = f'<svg xmlns="http://www.w3.org/2000/svg" width="13" height="13" viewBox="0 0 20 20">{shape}</svg>'
    return f"data:image/svg+xml;base64,{base64.b64encode(drawn.encode()).decode('ascii')}"


# Pictures and no marks of the page: one is drawn thousands of times in a long report, and made once.
STAMPS: dict[Verdict, str] = {verdict: _uri(verdict) for verdict in _SHAPES}
