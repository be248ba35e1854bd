"""Pointer schemes: which trigger makes which gesture. Ready ones named by what they are, and one of the user's own."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.pointer.triggers import Trigger, trigger

GESTURES = {
    "turn": "orbits",
    "slide": "pans",
    "zoom": "zooms",
    "dolly": "moves ahead",
    "roll": "rolls",
    "frame": "zooms to a rectangle",
    "choose": "selects by rectangle",
}
"""id and what it does, in words for `right drag …`."""
GESTURE_NAMES = {
    "turn": "Orbit", "slide": "Pan", "zoom": "Zoom", "dolly": "Move ahead", "roll": "Roll", "frame": "Zoom to a rectangle",
    "choose": "Select by rectangle",
}  # fmt: skip
DRAGGED = frozenset({"turn", "slide", "zoom", "dolly", "roll", "frame", "choose"})
STEPPED = frozenset({"zoom", "dolly", "roll"})
"""Gestures that a motion of one number can make (wheel, pinch, turning fingers); `two-finger scroll` has two and makes any
dragged one but the rectangles."""


@dataclass(frozen=True, slots=True)
class Scheme:
    """bindings : (gesture, trigger) pairs."""

    id: str
    title: str
    bindings: tuple[tuple[str, Trigger], ...]

    def match(self, motion: str, buttons: frozenset[str], keys: frozenset[str]) -> tuple[str, Trigger] | None:
        """(gesture, trigger) for what is held: the trigger that uses most of the held keys; keys beyond it change the manner."""
        fits = [
            (gesture, wanted)
            for gesture, wanted in self.bindings
            if wanted.motion == motion and wanted.buttons == buttons and wanted.keys <= keys
        ]
        return max(fits, key=lambda pair: len(pair[1].keys), default=None)

    def words_of(self, gesture: str) -> str:
        """The first trigger of a gesture in words, or nothing."""
        return next((wanted.words() for name, wanted in self.bindings if name == gesture), "")


def _scheme(id: str, title: str, *rows: tuple[str, str]) -> Scheme:
    return Scheme(id, title, tuple((gesture, trigger(words)) for gesture, words in rows))


_EVERYWHERE = (
    ("zoom", "wheel"),
    ("dolly", "alt + wheel"),
    ("zoom", "pinch"),
    ("roll", "two-finger turn"),
    ("frame", "shift + left drag"),
)
_BY_LEFT_DRAG = ("choose", "left drag")

READY: dict[str, Scheme] = {
    scheme.id: scheme
    for scheme in (
        _scheme(
            "right-turns", "Right drag orbits",
            ("turn", "right drag"), ("slide", "middle drag"), ("zoom", "left and right drag"), _BY_LEFT_DRAG,
            ("zoom", "two-finger scroll"), *_EVERYWHERE,
        ),
        _scheme(
            "middle-turns", "Middle drag orbits",
            ("turn", "middle drag"), ("slide", "shift + middle drag"), ("zoom", "ctrl + middle drag"), ("slide", "right drag"),
            _BY_LEFT_DRAG, ("zoom", "two-finger scroll"), *_EVERYWHERE,
        ),
        _scheme(
            "alt-drag", "Alt and drag",
            ("turn", "alt + left drag"), ("slide", "alt + middle drag"), ("zoom", "alt + right drag"), ("slide", "middle drag"),
            _BY_LEFT_DRAG, ("zoom", "two-finger scroll"), *_EVERYWHERE,
        ),
        _scheme(
            "left-turns", "Left drag orbits",
            ("turn", "left drag"), ("slide", "right drag"), ("zoom", "middle drag"), ("choose", "ctrl + left drag"),
            ("zoom", "two-finger scroll"), *_EVERYWHERE,
        ),
        _scheme(
            "both-buttons", "Both buttons orbit",
            ("turn", "left and right drag"), ("slide", "right drag"), ("zoom", "alt + right drag"), _BY_LEFT_DRAG,
            ("zoom", "two-finger scroll"), *_EVERYWHERE,
        ),
        _scheme(
            "touchpad", "Touchpad",
            ("slide", "two-finger scroll"), ("turn", "alt + two-finger scroll"), ("zoom", "ctrl + two-finger scroll"),
            ("turn", "right drag"), ("slide", "middle drag"), _BY_LEFT_DRAG, *_EVERYWHERE,
        ),
        _scheme(
            "pen", "Pen",
            ("turn", "pen tip"), ("slide", "pen barrel"), ("zoom", "pen barrel and tip"), ("roll", "pen upper barrel"),
            ("choose", "ctrl + pen tip"), ("frame", "shift + pen tip"),
            ("turn", "right drag"), ("slide", "middle drag"), ("zoom", "two-finger scroll"), _BY_LEFT_DRAG, *_EVERYWHERE,
        ),
    )
}  # fmt: skip
OWN = "own"
DEFAULT = "right-turns"


def own_scheme(rows: list[tuple[str, str]]) -> Scheme:
    """The user's scheme from (gesture, trigger in words) rows. Raises ValueError with a sentence for one that cannot be used."""
    bindings = []
    for gesture, words in rows:
        if gesture not in GESTURES:
            raise ValueError(f"'{gesture}' is no gesture; choose from {', '.join(GESTURES)}.")
        try:
            wanted = trigger(words)
        except ValueError as error:
            raise ValueError(f"{error}; write it like 'shift + middle drag' or 'wheel'.") from error
        if not possible(gesture, wanted):
            raise ValueError(f"A {wanted.words()} cannot make what {GESTURES[gesture]}; give it a drag.")
        bindings.append((gesture, wanted))
    found = clashes(bindings)
    if found:
        raise ValueError(found[0])
    return Scheme(OWN, "Own scheme", tuple(bindings))


def possible(gesture: str, wanted: Trigger) -> bool:
    """Whether a trigger gives what a gesture needs."""
    if wanted.takes_buttons:
        return bool(wanted.buttons)
    if wanted.motion == "two-finger scroll":
        return gesture not in ("frame", "choose")
    return gesture in STEPPED


def clashes(bindings: list[tuple[str, Trigger]]) -> list[str]:
    """A sentence for each trigger that two gestures want."""
    taken: dict[Trigger, str] = {}
    out = []
    for gesture, wanted in bindings:
        other = taken.setdefault(wanted, gesture)
        if other != gesture:
            out.append(f"{wanted.words().capitalize()} is wanted twice: it {GESTURES[other]} and it {GESTURES[gesture]}.")
    return out


def hints(scheme: Scheme, keys: frozenset[str], under: str | None) -> list[str]:
    """What each button does now, with these keys held, what matters most first. under : what a click of the left one would take,
    empty where there is nothing, None where the pointer is elsewhere"""
    does = "adds or removes" if "ctrl" in keys else "selects"
    words = [f"left click {does} {under}" if under else f"left click {does}" if under is None else "left click selects nothing"]
    seen = set()
    rows = [(motion, buttons) for motion, buttons in _ASKED if not (motion == "stroke" and scheme.id != "pen")]
    for motion, buttons in rows:
        found = scheme.match(motion, buttons, keys)
        if found is None or found in seen:
            continue
        seen.add(found)
        gesture, wanted = found
        words.append(f"{wanted.words()} {GESTURES[gesture]}{manner(gesture, keys - wanted.keys)}")
    return [*words, "right click opens a card"]


_ASKED: list[tuple[str, frozenset[str]]] = [
    ("stroke", frozenset({"left"})),
    ("stroke", frozenset({"right"})),
    ("drag", frozenset({"right"})),
    ("drag", frozenset({"middle"})),
    ("wheel", frozenset()),
    ("drag", frozenset({"left"})),
    ("drag", frozenset({"left", "right"})),
    ("two-finger scroll", frozenset()),
]


def manner(gesture: str, keys: frozenset[str]) -> str:
    """How keys held beyond the trigger change a gesture, in words."""
    words = []
    if gesture == "turn" and "alt" in keys:
        words.append("by rolling")
    elif "shift" in keys and gesture in ("turn", "slide"):
        words.append("along one axis")
    if "ctrl" in keys and gesture not in ("frame", "choose"):
        words.append("finely")
    return " " + " and ".join(words) if words else ""
