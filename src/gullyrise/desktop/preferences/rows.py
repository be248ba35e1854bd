"""Every setting as a typed row: what it is, what it may be, and what it does in a sentence."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from gullyrise.core.measuring.words import UNITS
from gullyrise.desktop.pointer.schemes import DEFAULT, OWN, READY, own_scheme
from gullyrise.drawing.display import BODY_COLOURS
from gullyrise.drawing.palette import THEMES


@dataclass(frozen=True, slots=True)
class Setting:
    """id : dotted;  page : where the sheet shows it;  choices : (value, title) pairs of a choice;  low, high, step : of a number.

    A setting whose default is a list or a table has an editor of its own.
    """

    id: str
    page: str
    title: str
    default: Any
    sentence: str
    choices: tuple[tuple[str, str], ...] = ()
    low: float = 0.0
    high: float = 0.0
    step: float = 1.0
    unit: str = ""

    def checked(self, value: Any) -> Any:
        """The value as this setting keeps it. Raises ValueError with a sentence for one that it cannot take."""
        if self.id == "pointer.own":
            rows = [(str(gesture), str(words)) for gesture, words in value]
            own_scheme(rows)
            return [list(row) for row in rows]
        if self.id == "keys.changed":
            return {str(id): [str(one) for one in keys] for id, keys in dict(value).items()}
        if self.choices:
            if value not in [name for name, _ in self.choices]:
                raise ValueError(f"{self.title} cannot be '{value}'; choose from {', '.join(name for name, _ in self.choices)}.")
            return value
        if self.id in ("parts.columns", "parts.list_columns"):
            return [str(id) for id in value]
        if isinstance(self.default, bool):
            if not isinstance(value, bool):
                raise ValueError(f"{self.title} is yes or no, not '{value}'.")
            return value
        if isinstance(self.default, str):
            return str(value)
        number = float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else float("nan")
        if not self.low <= number <= self.high:
            raise ValueError(f"{self.title} goes from {self.low:g} to {self.high:g} {self.unit}".rstrip() + f", not '{value}'.")
        return number


_OWN_ROWS = [[gesture, wanted.words()] for gesture, wanted in READY[DEFAULT].bindings]

ROWS: tuple[Setting, ...] = (
    Setting(
        "pointer.scheme", "Pointer", "Pointer scheme", DEFAULT, "Which button and motion does what on the bench.",
        (*((scheme.id, scheme.title) for scheme in READY.values()), (OWN, "Own scheme")),
    ),
    Setting("pointer.own", "Pointer", "Own scheme", _OWN_ROWS, "Each gesture with the button or motion that makes it."),
    Setting(
        "pointer.turning", "Pointer", "Orbit", "upright", "Whether the vertical is held upright while orbiting.",
        (("upright", "Keeps the vertical upright"), ("free", "Free")),
    ),
    Setting("pointer.turn_speed", "Pointer", "Orbit speed", 1.0, "How far a drag orbits.", (), 0.2, 4.0, 0.1, "×"),
    Setting("pointer.slide_speed", "Pointer", "Pan speed", 1.0, "1 keeps a part at the pointer.", (), 0.2, 4.0, 0.1, "×"),
    Setting("pointer.zoom_speed", "Pointer", "Zoom speed", 1.0, "How far a step of the wheel zooms.", (), 0.2, 4.0, 0.1, "×"),
    Setting("pointer.invert_zoom", "Pointer", "Zoom the other way", False, "Wheel and drags zoom in the opposite direction."),
    Setting("pointer.invert_heading", "Pointer", "Orbit the other way across", False, "A drag to the right orbits to the left."),
    Setting("pointer.invert_elevation", "Pointer", "Orbit the other way up and down", False, "A drag up looks from lower."),
    Setting(
        "select.rectangle", "Pointer", "A rectangle selects", "touching", "What counts as inside a rectangle.",
        (("touching", "What it touches"), ("inside", "What lies inside")),
    ),
    Setting("view.glide", "View", "Glide between views", 200.0, "0 jumps at once, for reduced motion.", (), 0, 1000, 50, "ms"),
    Setting("view.field", "View", "Field of view", 30.0, "Of the perspective picture, from foot to top.", (), 5, 100, 5, "°"),
    Setting(
        "view.named", "View", "Views with a name", "parallel", "Flat views, isometric and its like, and straight at a face.",
        (("parallel", "Parallel, until turned by hand"), ("as it is", "As the picture is")),
    ),
    Setting("dial.shown", "View", "Bearing dial", True, "The round instrument on the bench."),
    Setting(
        "dial.corner", "View", "Dial's corner", "top right", "Where the bearing dial stands.",
        tuple((name, name.capitalize()) for name in ("top right", "top left", "bottom right", "bottom left")),
    ),
    Setting("dial.size", "View", "Dial's size", 1.0, "Of the bearing dial.", (), 0.7, 1.8, 0.1, "×"),
    Setting("dial.faded", "View", "Dial at rest", 1.0, "How clear it is while the pointer is elsewhere.", (), 0.1, 1.0, 0.1, ""),
    Setting("display.strokes", "View", "Show strokes", False, "Shows the last strokes on the bench, for teaching."),
    Setting(
        "looks.theme", "Looks", "Theme", "Limestone", "The colours of the window.", tuple((name, name) for name in THEMES),
    ),
    Setting(
        "display.bodies", "Looks", "Colours of bodies", "own", "By what bodies are told apart.",
        tuple((name, title) for name, title in BODY_COLOURS.items()),
    ),
    Setting("record.folder", "Looks", "Folder for pictures", "", "Where pictures of the view go; empty for the usual place."),
    Setting("report.by", "Looks", "Reports prepared by", "", "Stands at the head of each report; empty for nobody."),
    Setting("report.for", "Looks", "Reports prepared for", "", "Stands at the head of each report; empty for nobody."),
    Setting(
        "report.paper", "Looks", "Paper of reports", "A4", "On what reports are laid out.",
        (("A4", "A4"), ("Letter", "Letter")),
    ),
    Setting(
        "files.memory", "Files", "Memory for one file", 6.0, "A reader that wants more is ended, with a sentence.",
        (), 0.5, 64, 0.5, "GiB",
    ),
    Setting(
        "files.seconds", "Files", "Time for one file", 600.0, "A reader that takes longer is ended, with a sentence.",
        (), 5, 7200, 5, "s",
    ),
    Setting("place.step", "Placing", "Step", 1.0, "Of a nudge, and to which Alt snaps a drag.", (), 0.01, 100, 0.1, "mm"),
    Setting("place.turn_step", "Placing", "Step of turning", 15.0, "To which Alt snaps a turn.", (), 0.1, 90, 0.5, "°"),
    Setting("place.gap", "Placing", "Gap", 5.0, "That copying and arranging leave between parts.", (), 0, 200, 0.5, "mm"),
    Setting(
        "place.outline", "Placing", "Arranging keeps apart", "footprint", "What of each part is kept clear of the others.",
        (("footprint", "What it covers of the bed"), ("rectangle", "The rectangle round it")),
    ),
    Setting("place.turning", "Placing", "Arranging may turn", True, "By quarter turns about the vertical."),
    Setting("cut.speed", "Cut and measure", "Speed of a sweep", 10.0, "Of a cut that is swept.", (), 0.1, 1000, 1, "mm/s"),
    Setting(
        "cut.arcs", "Cut and measure", "Save arcs within", 0.0,
        "Corners that lie on a circle so nearly are saved as an arc; 0 saves them as they are.", (), 0, 1, 0.001, "mm",
    ),
    Setting(
        "measure.unit", "Cut and measure", "Unit of measures", "mm", "In which lengths, areas and volumes are told.",
        tuple(UNITS.items()),
    ),
    Setting("measure.digits", "Cut and measure", "Digits", 3.0, "After the point of a length in mm.", (), 0, 6, 1, ""),
    Setting(
        "measure.axes", "Cut and measure", "Parts along", "machine", "Whose axes the parts of a way are along.",
        (("machine", "The machine's axes"), ("part", "The part's own axes")),
    ),
    Setting("files.watch", "Files", "Watch opened files", True, "Offers to reload a file when it has changed on the disk."),
    Setting("files.recent", "Files", "Keep recent jobs", True, "Shows them with a picture on the start page."),
    Setting(
        "parts.columns", "Parts", "Columns of the tree", ["name", "count", "size", "seen", "colour"],
        "Those shown, from left to right.",
    ),
    Setting(
        "parts.list_columns", "Parts", "Columns of the parts list", ["name", "count", "size", "grams"],
        "Those shown, from left to right.",
    ),
    Setting("keys.changed", "Keys", "Changed keys", {}, "Keys that replace an action's own; changed on the key sheet (F1)."),
)  # fmt: skip
BY_ID = {row.id: row for row in ROWS}
RENAMED: dict[str, str] = {}
"""Old id to new: a file from before is read under the new name."""
