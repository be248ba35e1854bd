"""Jobs as they were saved before: they open, lose nothing, and what was accepted in them is accepted still."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

from gullyrise.core.checks.protocol import Snapshot
from gullyrise.core.checks.registry import applies, checks, part_digest, run_check
from gullyrise.core.geometry import Transform
from gullyrise.core.job.file import open_file, save
from gullyrise.core.job.form import JobForm, form_from
from gullyrise.core.job.journal import left_behind
from gullyrise.core.job.older_words import meaning
from gullyrise.core.job.origins import FileOrigin
from gullyrise.core.job.store import Store
from gullyrise.core.machines.library import library, machine_named
from gullyrise.core.machines.limits import Limits
from gullyrise.core.reading import ReadOptions, read

OLD = Path(__file__).parents[1] / "fixtures"
ACCEPTED = {"open-edge", "thin", "taper", "overhang", "bridge", "gap", "outside", "keep-out"}


def _opened(folder: Path) -> tuple[JobForm, Store]:
    store = Store(folder / "store")
    opened = open_file(OLD / "form_1.gullyrise", store)
    assert opened.form is not None and opened.lost == ()
    return opened.form, store


def test_all_that_an_older_job_holds_is_there(tmp_path: Path) -> None:
    form, _ = _opened(tmp_path)
    assert form.name == "Sluice gauge, second set" and form.beds == 2 and form.limits.min_wall == 0.9
    assert [part.name for part in form.parts] == ["hinge_pawl", "gland_nut", "screw_set", "tipping_tray", "sensor_shroud"]
    assert len(form.stands) == 5 and [view.name for view in form.views] == ["Close"] and "of the nut" in form.notes
    assert [one.figure for one in form.dimensions][2:5] == ["at X", "at Y", "at Z"]
    assert [one.code for one in form.dimensions] == [
        "area", "thickness-through", "at-x", "at-y", "at-z", "volume", "surface", "face-face-angle", "smallest-gap",
    ]  # fmt: skip


def test_what_was_accepted_by_its_words_is_accepted_by_its_kind(tmp_path: Path) -> None:
    form, store = _opened(tmp_path)
    assert {one.code for one in form.waivers} == ACCEPTED
    machine, machines = machine_named("heron-220"), tuple(library())
    covered = set()
    for part in form.parts:
        assert isinstance(part.origin, FileOrigin)
        made = read(store.laid_out(part.origin, tmp_path / part.name), ReadOptions())
        snapshot = Snapshot(made, Transform.identity(), machine, machines)
        for name, check in checks().items():
            if applies(check, machine):
                for outcome in run_check(name, snapshot, machine.full_limits(Limits())):
                    for finding in outcome.findings:
                        covered |= {one for one in form.waivers if one.covers(part_digest(made), name, finding)}
    assert covered == set(form.waivers)


def test_saved_again_a_kind_is_kept_that_no_rewording_reaches(tmp_path: Path) -> None:
    form, store = _opened(tmp_path)
    reworded = form.model_copy(
        update={"waivers": tuple(one.model_copy(update={"what": "said otherwise"}) for one in form.waivers)}
    )
    save(reworded, store, b"", tmp_path / "again.gullyrise")
    again = open_file(tmp_path / "again.gullyrise", Store(tmp_path / "other")).form
    assert again is not None and [(one.code, one.of) for one in again.waivers] == [(one.code, one.of) for one in form.waivers]


def test_work_left_by_an_older_session_is_offered_whole(tmp_path: Path) -> None:
    form, store = _opened(tmp_path)
    folder = tmp_path / "journals" / "left"
    shutil.copytree(OLD / "journal_1", folder)
    shutil.copytree(store.folder, folder / "parts")
    (found,) = left_behind(tmp_path / "journals")
    assert found.form == form and found.form is not None and found.path == "/parts/sluice.gullyrise"
    found.let_go()


def test_words_of_then_are_understood_whatever_bodies_are_called() -> None:
    assert meaning("walls", "thin wall in lid in two parts") == ("thin", ("lid in two parts",))
    assert meaning("clearances", "no gap between a and b") == ("no-gap", ("a", "b"))
    assert meaning("clearances", "a and b overlap, 0.3 mm deep") == ("overlap", ("a", "b"))
    assert meaning("fit", "enters a keep-out of the machine") == ("keep-out", ("",))
    assert meaning("walls", "anything else") is None and meaning("unknown", "thin wall in a") is None


def test_the_fixture_is_of_before() -> None:
    data = json.loads((OLD / "journal_1" / "job.json").read_text(encoding="utf-8"))
    assert data["waivers"] and not any("code" in one for one in data["waivers"])
    assert form_from(json.dumps(data).encode(), "job").waivers[0].code
