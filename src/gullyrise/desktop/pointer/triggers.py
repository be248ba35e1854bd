"""What a hand can do, as values with words: `shift + middle drag`, `pinch`, `pen barrel hover`. No Qt."""

from __future__ import annotations

from dataclasses import dataclass

BUTTONS = ("left", "middle", "right")
KEYS = ("shift", "ctrl", "alt")
TIP, BARREL, UPPER = "left", "right", "middle"
"""The pen's tip and barrel buttons under the names of the mouse buttons that they stand for."""
_PEN = {TIP: "tip", BARREL: "barrel", UPPER: "upper barrel"}
MOTIONS = {
    "drag": "mouse",
    "wheel": "mouse",
    "two-finger scroll": "pad",
    "pinch": "pad",
    "two-finger turn": "pad",
    "stroke": "pen",
}
"""Motion and the device that makes it."""


@dataclass(frozen=True, slots=True)
class Trigger:
    """motion : of MOTIONS;  buttons : held, for a drag or a pen's stroke;  keys : held modifier keys."""

    motion: str
    buttons: frozenset[str] = frozenset()
    keys: frozenset[str] = frozenset()

    def words(self) -> str:
        parts = [key for key in KEYS if key in self.keys]
        if self.motion == "stroke":
            parts.append("pen " + " and ".join(_PEN[name] for name in (BARREL, UPPER, TIP) if name in self.buttons))
        elif self.motion == "drag":
            parts.append(" and ".join(name for name in BUTTONS if name in self.buttons) + " drag")
        else:
            parts.append(self.motion)
        return " + ".join(parts)

    @property
    def takes_buttons(self) -> bool:
        return self.motion in ("drag", "stroke")


def trigger(words: str) -> Trigger:
    """A trigger from its words. Raises ValueError for words that are none."""
    parts = [part.strip() for part in words.split("+")]
    keys, last = parts[:-1], parts[-1]
    if any(key not in KEYS for key in keys):
        raise ValueError(f"'{words}' names a key that is none of {', '.join(KEYS)}")
    if last in MOTIONS and last not in ("drag", "stroke"):
        return Trigger(last, frozenset(), frozenset(keys))
    if last.startswith("pen "):
        by_name = {name: button for button, name in _PEN.items()}
        names = [part.strip() for part in last[4:].split(" and ")]
        if all(name in by_name for name in names):
            return Trigger("stroke", frozenset(by_name[name] for name in names), frozenset(keys))
    elif last.endswith(" drag"):
        names = [part.strip() for part in last[: -len(" drag")].split(" and ")]
        if all(name in BUTTONS for name in names):
            return Trigger("drag", frozenset(names), frozenset(keys))
    raise ValueError(f"'{words}' is nothing that a mouse, touchpad or pen does")
