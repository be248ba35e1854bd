"""What findings were called in jobs that kept their words alone. Nothing is ever added here: since then a code is kept."""

from __future__ import annotations

import re

_BODY = r" in (?P<a>.*)"
_PAIR = r"(?P<a>.*) and (?P<b>.*)"
_MEANT: dict[str, tuple[tuple[str, str], ...]] = {
    "health": (
        (r"open edge" + _BODY, "open-edge"),
        (r"edge with more than two faces" + _BODY, "many-faced-edge"),
        (r"faces wound against their neighbours" + _BODY, "inverted-faces"),
        (r"faces that stand twice" + _BODY, "duplicate-faces"),
        (r"faces without area" + _BODY, "degenerate-faces"),
        (r"faces that cross or touch" + _BODY, "crossing-faces"),
        (r"sealed cavity" + _BODY, "cavity"),
        (r"shell inside out" + _BODY, "inside-out"),
        (r"tiny stray shell" + _BODY, "stray"),
    ),
    "walls": (
        (r"thin wall" + _BODY, "thin"),
        (r"thick wall" + _BODY, "thick"),
        (r"narrow slot" + _BODY, "slot"),
        (r"tapers to nothing here" + _BODY, "taper"),
    ),
    "overhangs": (
        (r"overhang(, its support on the part)?", "overhang"),
        (r"bridge of .* mm", "bridge"),
        (r"island: starts in the air", "island"),
        (r"island: a tip that starts in the air", "tip"),
        (r"hangs in the air", "loose"),
    ),
    "clearances": (
        (r"gap between " + _PAIR, "gap"),
        (r"no gap between " + _PAIR, "no-gap"),
        (_PAIR + r" may overlap", "perhaps-overlap"),
        (_PAIR + r" overlap(, .* mm deep)?", "overlap"),
        (_PAIR + r" (do not touch|are not pressed together)", "apart"),
        (_PAIR + r" meet", "meet"),
    ),
    "access": (
        (r"out of the tool's sight", "hidden"),
        (r"too narrow for the tool", "narrow"),
        (r"too deep for the tool's reach", "deep"),
        (r"inside corner tighter than the tool", "corner"),
    ),
    "fit": (
        (r"is on no bed", "no-bed"),
        (r"stands out at the (?P<a>left|right|front|back|top|edge)", "outside"),
        (r"is sunk into the bed", "sunk"),
        (r"floats above the bed", "floats"),
        (r"enters a keep-out of the machine(?: \((?P<a>.*)\))?", "keep-out"),
        (r"meets (?P<a>.*)", "meets"),
    ),
}


def meaning(check: str, words: str) -> tuple[str, tuple[str, ...]] | None:
    """(code, what it is about) of a finding's words of then; None for words that no check had."""
    for pattern, code in _MEANT.get(check, ()):
        found = re.fullmatch(pattern, words, re.DOTALL)
        if found is not None:
            return code, tuple(one or "" for one in found.groupdict().values())
    return None
