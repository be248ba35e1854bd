"""Job files with one odd thing in them: each opens with a sentence on what that costs, or says the same as before."""

from __future__ import annotations

import json
import random
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

import zoo
from attack.values import ODD, Gone, Way, at, changed, extended, ways
from gullyrise.core.checks.registry import part_digest
from gullyrise.core.errors import JobError
from gullyrise.core.geometry import Transform
from gullyrise.core.job.file import save
from gullyrise.core.job.form import JobForm, as_bytes, form_of
from gullyrise.core.job.job import Job
from gullyrise.core.job.placed_part import PlacedPart
from gullyrise.core.job.sound import sound_form
from gullyrise.core.job.store import Store
from gullyrise.core.machines.library import library, machine_named
from gullyrise.core.writing import write
from gullyrise.workers.records import packed, unpacked

SPOT = [1.0, 2.0, 3.0]


def rich_job(folder: Path) -> tuple[dict[str, Any], Store]:
    """A job's tree in which every field of the schema has a value, and the store of its bytes."""
    store = Store(folder / "store")
    machine = machine_named("alder-mill")
    job = Job(machine, tuple(library()))
    for number in (1, 2):
        part = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (20.0 + number, 12, 8))), f"lug {number}")
        write(part, folder / f"lug-{number}.stl")
        origin, _ = store.origin_of(folder / f"lug-{number}.stl")
        job = job.with_parts([PlacedPart(number, part, part.box, {}, part_digest(part), Transform.identity(), origin=origin)])
    tree = json.loads(as_bytes(form_of(job, "gauge box")))
    digest = job.parts[0].digest
    tree["limits"] = {
        "min_wall": 1.1, "max_wall": 30.0, "overhang_angle": 50.0, "min_gap": 0.3, "edge_margin": 1.0, "top_margin": 2.0,
        "tool_diameter": 4.0, "tool_reach": 20.0, "setups": ["+z", "0,-1,1"], "min_region_area": 2.0,
        "pair_gaps": [{"a": "lug 1", "b": "lug 2", "kind": "moving", "gap": 0.2}],
    }  # fmt: skip
    tree["machine"]["margins"] = {"edge": 2.0, "top": 5.0}
    tree["machine"]["keep_out"] = [{"name": "clip", "center": [10.0, 10, 0], "diameter": 8.0, "height": 20.0}]
    tree["machine"]["build"] = {"layer_height": 0.2, "spot_width": 0.4}
    tree["parts"].append({"name": "post", "origin": {"kind": "stand-in", "shape": "cylinder", "size": [8.0, 30.0]}, "steps": []})
    tree["parts"][0]["origin"]["unit"] = "mm"
    tree["parts"][1]["steps"] = [
        {"kind": "unit", "unit": "mm"}, {"kind": "mends", "mends": ["join"]},
        {"kind": "stretch", "linear": [[1.5, 0, 0], [0, 1.5, 0], [0, 0, 1.5]]},
        {"kind": "split", "point": [15.0, 6, 4], "normal": [1.0, 0, 0], "side": "front",
         "pegs": {"diameter": 2.0, "length": 2.0, "clearance": 0.1, "feet": [[15.0, 6, 4]]}},
    ]  # fmt: skip
    place = [[1.0, 0, 0, 80], [0, 1.0, 0, 90], [0, 0, 1.0, 0]]
    tree["stands"].append({"id": 7, "part": 2, "placement": place, "material": "steel", "copy_number": 2})
    tree["settled"], tree["beds"] = True, 2
    cut = {"along": [1.0, 0, 0], "position": 5.0, "flipped": True, "depth": 4.0, "only": [[1, 0]], "opened": [0, 1.0, 0]}
    tree["views"] = [
        {"name": "Close", "target": SPOT, "heading": 30.0, "elevation": 20.0, "span": 90.0, "parallel": True, "roll": 0.0,
         "field": 30.0, "stretch": [1.0, 1, 1], "picture": "iVBORw0KGgo=", "cuts": [cut]},
    ]  # fmt: skip
    tree["notes"], tree["notes_of"] = ["measured by hand", "second"], [[1], []]
    pick = {"what": "spot", "part": 1, "copy_number": 0, "index": 0, "spot": SPOT}
    tree["dimensions"] = [
        {"id": 1, "name": "width", "picks": [pick, {**pick, "spot": [4.0, 2, 3]}], "figure": "distance", "quantity": "length",
         "value": 3.0, "uncertainty": 0.01, "method": "exact", "shape": [digest], "stood": [], "a": SPOT, "b": [4.0, 2, 3],
         "hidden": False, "tolerance": {"nominal": 3.0, "upper": 0.1, "lower": -0.1, "iso": "H7"}},
    ]  # fmt: skip
    tree["waivers"] = [
        {"digest": digest, "check": "walls", "what": "thin", "at": SPOT, "value": 0.5, "unit": "mm", "note": "agreed"},
    ]  # fmt: skip
    form, cost = sound_form(json.dumps(tree).encode(), "sample")
    assert not cost, cost
    return json.loads(as_bytes(form)), store


@dataclass(frozen=True, slots=True)
class Case:
    """One change of a tree. words : for whoever reads of a fault"""

    way: Way
    value: Any
    tree: Any

    @property
    def words(self) -> str:
        value = "gone" if self.value is Gone else repr(self.value)[:60]
        return f"{'.'.join(map(str, self.way))} = {value}"


def cases(tree: Any) -> Iterator[Case]:
    """Every field with every odd value, every table with more in it, every list with its first once more."""
    for way in ways(tree):
        for value in ODD:
            yield Case(way, value, changed(tree, way, value))
        if isinstance(at(tree, way), (dict, list)):
            yield Case(way, "and more", extended(tree, way))


def some(tree: Any, count: int, seed: int) -> list[Case]:
    """So many of all cases, by chance."""
    found = list(cases(tree))
    return random.Random(seed).sample(found, min(count, len(found)))


def data_of(tree: Any) -> bytes:
    return json.dumps(tree).encode()


def fault_of(case: Case, before: JobForm) -> str:
    """What is wrong with how a changed tree is read, in words; empty where nothing is."""
    try:
        form, cost = sound_form(data_of(case.tree), "the file")
        written = as_bytes(form)
        unpacked(*packed(form))
    except JobError as error:
        return _unfit(str(error))
    except Exception as error:
        return f"{type(error).__name__}: {error}"[:300]
    for sentence in cost:
        if _unfit(sentence):
            return _unfit(sentence)
    if len({stand.id for stand in form.stands}) < len(form.stands) or any(s.part >= len(form.parts) for s in form.stands):
        return "the form contradicts itself"
    if cost:
        return ""
    # Nothing was said: then nothing may have been lost.
    says = json.loads(written)
    if form == before or _says(at(says, case.way), case.value, at(case.tree, case.way)):
        return ""
    if len(case.way) > 1 and case.way[-2] in ("along", "opened"):
        # A direction of another length is the same direction.
        one, other = (np.array(at(told, case.way[:-1]), dtype=float) for told in (says, case.tree))
        return "" if np.allclose(one, other / np.linalg.norm(other)) else "another direction without a word"
    return "changed without a word"


def _says(written: Any, value: Any, given: Any) -> bool:
    """Whether what is written is what was given, or its plain default where nothing was."""
    if value is Gone or given is None:
        return written is Gone or written in ("", None, [], 0, 0.0, False, 1, {}) or isinstance(written, (float, dict, str))
    if value == "and more":
        return isinstance(written, list) and len(written) == len(given)
    if isinstance(value, (dict, list)) and not value and (isinstance(written, dict) or written is Gone):
        return True
    same_number = isinstance(written, (int, float)) and isinstance(given, (int, float)) and float(written) == float(given)
    return same_number or written == given


def _unfit(sentence: str) -> str:
    """What is wrong with a sentence for a person."""
    if not sentence or len(sentence) > 700 or "\n" in sentence or "Traceback" in sentence:
        return f"no sentence: {sentence[:200]!r}"
    return ""


def write_job(tree: Any, store: Store, form: JobForm, path: Path) -> None:
    """A job file with that tree, and the bytes of a sound form's parts."""
    save(form, store, b"", path)
    with zipfile.ZipFile(path) as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    members["job.json"] = data_of(tree)
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in members.items():
            archive.writestr(name, data)
