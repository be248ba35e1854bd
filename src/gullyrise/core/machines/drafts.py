"""What can be said of a machine, as typed rows from which its form is made; and a machine as the draft that the form edits."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from gullyrise.core.errors import MeasureError
from gullyrise.core.machines import Machine
from gullyrise.core.machines.limit_rows import limits_from_elsewhere
from gullyrise.core.machines.limits import explained
from gullyrise.core.measuring.typed import typed

Draft = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Field:
    """path : dotted, into the draft
    choices : (value, title) pairs
    when : (path, value) pairs that must hold to show it
    """

    path: str
    title: str
    unit: str = "mm"
    choices: tuple[tuple[str, str], ...] = ()
    text: bool = False
    when: tuple[tuple[str, str], ...] = ()
    tip: str = ""


_PRINT, _MILL = ("process", "print"), ("process", "mill")
_BOX, _ROUND = ("envelope.shape", "box"), ("envelope.shape", "cylinder")
_BLOCK, _BAR = ("stock.shape", "block"), ("stock.shape", "bar")

PAGES: tuple[tuple[str, tuple[Field, ...]], ...] = (
    (
        "Machine",
        (
            Field("name", "Name", "", text=True),
            Field("id", "Short name", "", text=True, tip="By which the command line and job files know it"),
            Field("process", "Process", "", (("print", "printing"), ("mill", "milling"))),
        ),
    ),
    (
        "Envelope",
        (
            Field("envelope.shape", "Shape", "", (("box", "box"), ("cylinder", "round"))),
            Field("envelope.size.0", "X", when=(_BOX,)),
            Field("envelope.size.1", "Y", when=(_BOX,)),
            Field("envelope.size.2", "Z", when=(_BOX,)),
            Field("envelope.diameter", "Diameter", when=(_ROUND,)),
            Field("envelope.height", "Height", when=(_ROUND,)),
            Field("margins.edge", "Margin all round"),
            Field("margins.top", "Margin at the top"),
        ),
    ),
    (
        "How it builds",
        (
            Field("build.layer_height", "Layer height", when=(_PRINT,)),
            Field("build.spot_width", "Nozzle or spot width", when=(_PRINT,)),
        ),
    ),
    (
        "How it mills",
        (
            Field("travel.x", "Travel in X", when=(_MILL,)),
            Field("travel.y", "Travel in Y", when=(_MILL,)),
            Field("travel.z", "Travel in Z", when=(_MILL,)),
            Field("travel.headroom", "Headroom", when=(_MILL,), tip="From the bed to the spindle's nose at its highest"),
            Field("stock.shape", "Stock", "", (("", "not said"), ("block", "block"), ("bar", "round bar")), when=(_MILL,)),
            Field("stock.size.0", "Block in X", when=(_MILL, _BLOCK)),
            Field("stock.size.1", "Block in Y", when=(_MILL, _BLOCK)),
            Field("stock.size.2", "Block in Z", when=(_MILL, _BLOCK)),
            Field("stock.diameter", "Bar's diameter", when=(_MILL, _BAR)),
            Field("stock.length", "Bar's length", when=(_MILL, _BAR)),
            Field("stock.allowance", "Allowance a side", when=(_MILL,)),
            Field("clamping.height", "Clamping height", when=(_MILL,), tip="How much of the stock is gripped, from its foot"),
        ),
    ),
    (
        "Limits",
        (
            Field("limits.min_wall", "Least wall"),
            Field("limits.min_gap", "Least gap"),
            Field("limits.max_wall", "Thickest wall"),
            Field("limits.overhang_angle", "Overhang", "°", when=(_PRINT,)),
            Field("limits.min_region_area", "Least region", "mm²"),
            *(
                Field(f"limits.{limit.name}", limit.name.replace("_", " ").capitalize(), limit.unit, tip=limit.tip)
                for limit in limits_from_elsewhere().values()
                if limit.kind == "number"
            ),
        ),
    ),
)
"""Pages of the form with their rows."""

PLACE_HEADS = ("Name", "Shape", "X", "Y", "Z", "Width or ⌀", "Depth", "Height")
TOOL_HEADS = ("Name", "Diameter", "Flute", "Reach", "Holder")
FRESH: Draft = {
    "id": "my-machine", "name": "My machine", "process": "print",
    "envelope": {"shape": "box", "size": [200.0, 200.0, 200.0]}, "build": {"layer_height": 0.2, "spot_width": 0.4},
}  # fmt: skip


def draft_of(machine: Machine) -> Draft:
    """A machine as the form edits it."""
    return machine.model_dump(exclude_none=True, mode="json")


def got(draft: Draft, path: str) -> Any:
    """What stands at a path, None where nothing does."""
    found: Any = draft
    for step in path.split("."):
        if isinstance(found, list) and step.isdigit() and int(step) < len(found):
            found = found[int(step)]
        elif isinstance(found, dict):
            found = found.get(step)
        else:
            return None
    return found


def put(draft: Draft, path: str, value: Any) -> None:
    """Sets what stands at a path; None takes it away, and with it a table that is left empty."""
    steps = path.split(".")
    inside: Any = draft
    for step, following in itertools.pairwise(steps):
        if inside.get(step) is None:
            inside[step] = [0.0, 0.0, 0.0] if following.isdigit() else {}
        inside = inside[step]
    last = steps[-1]
    if isinstance(inside, list):
        inside[int(last)] = 0.0 if value is None else value
    elif value is None:
        inside.pop(last, None)
        if len(steps) > 1 and not inside:
            draft.pop(steps[0], None)
    else:
        inside[last] = value


def shown(draft: Draft, field: Field) -> bool:
    """Whether a field is shown, by what else is in the draft."""
    return all((got(draft, path) or "") == value for path, value in field.when)


def machine_from(draft: Draft) -> tuple[Machine | None, str]:
    """(the machine that a draft describes, or what is wrong with it in a sentence). What belongs to the other process, or to
    another shape, is left out."""
    wanted = {key: value for key, value in draft.items() if value not in ({}, [], None)}
    for key in ("travel", "stock", "clamping", "tool") if wanted.get("process") == "print" else ("build",):
        wanted.pop(key, None)
    for name, plain in (("envelope", "box"), ("stock", "block")):
        if name in wanted:
            gone = ("diameter", "height", "length") if wanted[name].get("shape") == plain else ("size",)
            wanted[name] = {key: value for key, value in wanted[name].items() if key not in gone}
    if "stock" in wanted and not wanted["stock"].get("shape"):
        wanted.pop("stock")
    try:
        return Machine.model_validate(wanted), ""
    except ValidationError as error:
        return None, explained(error, "The machine")


def place_row(place: dict[str, Any]) -> list[Any]:
    """A keep-out or jaw as a row: name, shape, low corner or middle of the base, sides or diameter, height."""
    if "center" in place:
        return [place.get("name", ""), "round", *place["center"], place["diameter"], "", place["height"]]
    low, high = place["min"], place["max"]
    return [place.get("name", ""), "box", *low, *(b - a for a, b in zip(low, high, strict=True))]


def place_from(row: list[str]) -> dict[str, Any]:
    """The keep-out of a row of texts. Raises ValueError with a sentence for a cell that is no number."""
    numbers = [_number(text, head) if text.strip() else 0.0 for text, head in zip(row[2:], PLACE_HEADS[2:], strict=True)]
    name = {"name": row[0].strip()} if row[0].strip() else {}
    if row[1].strip().lower().startswith("r"):
        return {**name, "center": numbers[:3], "diameter": numbers[3], "height": numbers[5]}
    return {**name, "min": numbers[:3], "max": [a + b for a, b in zip(numbers[:3], numbers[3:], strict=True)]}


def tool_from(row: list[str]) -> dict[str, Any]:
    """The tool of a row of texts. Raises ValueError with a sentence."""
    numbers = [_number(text, head) for text, head in zip(row[1:], TOOL_HEADS[1:], strict=True)]
    return {
        "name": row[0].strip() or "tool", "diameter": numbers[0], "flute": numbers[1], "reach": numbers[2],
        "holder_diameter": numbers[3],
    }  # fmt: skip


def _number(text: str, where: str) -> float:
    try:
        return typed(text)
    except MeasureError as error:
        raise ValueError(f"Under {where}: {error}") from None


def idle_words(machine: Machine) -> str:
    """Which keep-outs of a machine keep nothing out, since they lie outside its envelope; empty where all do."""
    idle = machine.idle_keep_outs
    if not idle:
        return ""
    names = ", ".join(keep.name or f"keep-out {machine.keep_out.index(keep) + 1}" for keep in idle)
    them = "it" if len(idle) == 1 else "them"
    s = "s" if len(idle) == 1 else ""
    return f"{names[:1].upper()}{names[1:]} lie{s} outside the envelope and keep{s} nothing out; move or remove {them}."
