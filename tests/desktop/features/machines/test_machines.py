"""The machine library: its files, its sheet, and what changing a machine does to the job."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from waiting import until

import zoo
from gullyrise.core.errors import MachineError
from gullyrise.core.machines.drafts import PAGES, draft_of, got, machine_from, place_from, place_row, put, shown
from gullyrise.core.machines.library import (
    as_toml,
    bring_in,
    duplicate,
    export,
    is_shipped,
    library,
    machine_named,
    own_file,
    remove_own,
    save_own,
)
from gullyrise.core.machines.machine import Machine, read_machine
from gullyrise.core.machines.words import page
from gullyrise.core.writing import write

# --- files -------------------------------------------------------------------------------------------------------------


def test_every_shipped_machine_comes_back_from_its_text() -> None:
    for machine in library():
        assert is_shipped(machine.id) and Machine.model_validate(tomllib.loads(as_toml(machine))) == machine


def test_the_page_on_machine_files_is_made_from_the_models() -> None:
    assert (Path(__file__).parents[4] / "docs" / "machine-files.md").read_text(encoding="utf-8") == page()


def test_own_machines_are_saved_found_and_removed() -> None:
    mine = duplicate(machine_named("heron-220"))
    assert mine.id == "heron-220-copy" and mine.name == "Heron, square bed copy" and own_file(mine.id) is None
    save_own(mine)
    assert machine_named(mine.id) == mine and duplicate(machine_named("heron-220")).id == "heron-220-copy-2"
    changed = machine_named("heron-220").model_copy(update={"name": "Heron, mended"})
    save_own(changed)
    assert machine_named("heron-220").name == "Heron, mended" and len(library()) == 5
    assert remove_own("heron-220") and machine_named("heron-220").name == "Heron, square bed"
    assert not remove_own("heron-220") and remove_own(mine.id) and len(library()) == 4


def test_a_machine_from_elsewhere_never_takes_the_place_of_another(tmp_path: Path) -> None:
    other = machine_named("heron-220").model_copy(update={"name": "Another heron"})
    path = export(other, tmp_path / "m.toml")
    came = bring_in(path)
    assert came.id == "heron-220-copy" and machine_named("heron-220").name == "Heron, square bed"
    assert bring_in(export(machine_named("dipper-260"), tmp_path / "d.toml")).id == "dipper-260", "the same one is the same"
    (tmp_path / "bad.toml").write_text('id = "x"\nspeed = 3\n')
    with pytest.raises(MachineError, match=r"bad\.toml has"):
        bring_in(tmp_path / "bad.toml")
    with pytest.raises(MachineError, match="cannot be written"):
        export(other, tmp_path / "m.toml" / "x.toml")


@pytest.mark.parametrize(
    ("words", "said"),
    [("[build]\nlayer = 1", "build.layer"), ("[stock]\nshape = 'block'", "stock"), ("[clamping]\nheight = -1", "clamping.height"),
     ("[[clamping.jaw]]\nmin = [0,0,0]", "keep-out"), ("[travel]\nx = 1", "travel.y"), ("[margins]\nedge = inf", "margins.edge")],
)  # fmt: skip
def test_unknown_and_wrong_keys_are_named(words: str, said: str, tmp_path: Path) -> None:
    path = tmp_path / "m.toml"
    path.write_text(f'id = "m"\nname = "M"\nprocess = "mill"\n[envelope]\nshape = "box"\nsize = [9, 9, 9]\n{words}\n')
    with pytest.raises(MachineError) as caught:
        read_machine(path)
    assert said in str(caught.value)


# --- the form's draft --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("machine", library(), ids=lambda machine: machine.id)
def test_a_machine_goes_through_the_draft_unchanged(machine: Machine) -> None:
    assert machine_from(draft_of(machine)) == (machine, "")


@settings(max_examples=40, deadline=None)
@given(st.data())
def test_any_number_in_any_row_makes_a_machine_or_a_sentence(data: st.DataObject) -> None:
    draft = draft_of(data.draw(st.sampled_from(library())))
    for _ in range(data.draw(st.integers(1, 6))):
        field = data.draw(st.sampled_from([field for _, fields in PAGES for field in fields if not field.text]))
        choices = [value or None for value, _ in field.choices] or [None, 0.0, -1.0, 5.0, 1e9, float("nan")]
        value = data.draw(st.sampled_from(choices))
        put(draft, field.path, value)
        assert got(draft, field.path) in (value, 0.0) or value != value
        shown(draft, field)
    machine, trouble = machine_from(draft)
    assert (machine is None) == bool(trouble)


@pytest.mark.parametrize(
    "place", [{"min": [1.0, 2, 3], "max": [4.0, 6, 8]}, {"name": "a post", "center": [1.0, 2, 0], "diameter": 5.0, "height": 7.0}]
)
def test_keep_outs_go_through_their_row(place: dict[str, Any]) -> None:
    assert place_from([str(cell) for cell in place_row(place)]) == place
    with pytest.raises(ValueError, match=r"Under Y: .* is no number"):
        place_from(["", "box", "0", "wide", "0", "1", "1", "1"])


# --- the sheet ---------------------------------------------------------------------------------------------------------


@pytest.fixture
def made(window: Any, tmp_path: Path) -> Any:
    write(zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (60, 40, 20))), "block"), tmp_path / "block.stl")
    return window(str(tmp_path / "block.stl"))


def field(sheet: Any, name: str) -> Any:
    return sheet.form.findChild(object, f"machine_{name}")


def fill(sheet: Any, name: str, words: str) -> None:
    editor = field(sheet, name)
    editor.clear()
    QTest.keyClicks(editor, words)


def press(sheet: Any, name: str) -> None:
    QTest.mouseClick(sheet.findChild(object, name), Qt.MouseButton.LeftButton)


def fit_of(window: Any) -> Any:
    (found,) = window.model.results.outcomes_of(window.model.job.parts[0], "fit") or (None,)
    return found


def test_a_machine_is_drawn_while_it_is_changed_saved_and_judged_anew(made: Any) -> None:
    QTest.keyClick(made.bench, Qt.Key.Key_P)
    QTest.keyClick(made.bench, Qt.Key.Key_K)
    sheet = made.machines.sheet
    assert sheet.isVisible() and sheet.chosen_id() == "heron-220" and not sheet.save.isEnabled()
    until(lambda: fit_of(made) is not None)
    assert fit_of(made).verdict == "pass"
    fill(sheet, "envelope_size_0", "50")
    assert sheet.drawing.machine.envelope.size == (50.0, 220.0, 250.0) and sheet.save.isEnabled()
    assert "outside the envelope and keeps nothing out" in sheet.trouble.text(), "the clip at x 202 stayed behind"
    fill(sheet, "envelope_size_1", "-3")
    assert "envelope" in sheet.trouble.text() and not sheet.save.isEnabled() and sheet.drawing.machine.envelope.size[1] == 220
    fill(sheet, "envelope_size_1", "wide")
    assert "is no number" in sheet.trouble.text()
    fill(sheet, "envelope_size_1", "220")
    press(sheet, "machine_save")
    until(lambda: fit_of(made) is not None and fit_of(made).verdict == "fail")
    assert "A plate clip lies outside the envelope" in made.notifications.sentences[-1]
    assert made.model.job.machine.envelope.size[0] == 50 and made.plate.envelope.text().startswith("50 ×")
    assert made.model.document.history.undo_name == "Change Heron, square bed"
    made.do("job.undo")
    until(lambda: fit_of(made) is not None and fit_of(made).verdict == "pass")
    assert {machine.id: machine for machine in made.model.job.library}["heron-220"].envelope.size[0] == 50, (
        "the library is no edit"
    )
    press(sheet, "machine_remove")
    assert machine_named("heron-220").envelope.size[0] == 220
    press(sheet, "machine_remove")
    assert "came with Gullyrise" in sheet.trouble.text()


def test_a_mill_is_made_from_nothing_with_jaws_and_tools(made: Any) -> None:
    made.do("place.machines")
    sheet = made.machines.sheet
    press(sheet, "machine_new")
    fill(sheet, "name", "Kite, small mill")
    fill(sheet, "id", "kite")
    process = field(sheet, "process")
    process.setCurrentIndex(process.findData("mill"))
    process.activated.emit(process.currentIndex())
    assert field(sheet, "travel_x").isVisibleTo(sheet) and not field(sheet, "build_layer_height").isVisibleTo(sheet)
    for name, words in (("travel_x", "210"), ("travel_y", "200"), ("travel_z", "120"), ("travel_headroom", "180")):
        fill(sheet, name, words)
    stock = field(sheet, "stock_shape")
    stock.setCurrentIndex(stock.findData("bar"))
    stock.activated.emit(stock.currentIndex())
    assert "stock" in sheet.trouble.text(), "a bar of no size"
    fill(sheet, "stock_diameter", "60")
    fill(sheet, "stock_length", "150")
    for table in ("clamping_jaw", "tool", "keep_out"):
        press(sheet, f"{table}_add")
    sheet.form.findChild(object, "tool_table").item(0, 3).setText("45")
    press(sheet, "machine_save")
    machine = machine_named("kite")
    assert machine.process == "mill" and machine.tool[0].reach == 45 and machine.stock.diameter == 60
    assert len(machine.blocked) == 2 and machine.build is None and sheet.chosen_id() == "kite"
    press(sheet, "machine_use")
    assert made.model.job.machine == machine and made.plate.machines.currentText() == "Kite, small mill"
    press(sheet, "tool_remove")
    assert sheet.drawing.machine.tool == ()
    sheet.form.findChild(object, "keep_out_table").item(0, 2).setText("left")
    assert "Under X: 'left' is no number" in sheet.trouble.text()
    press(sheet, "machine_back")
    assert sheet.drawing.machine == machine and not sheet.trouble.text()


def test_a_row_that_is_gone_at_once_is_never_a_window_of_its_own(made: Any) -> None:
    """What a layout was given is shown after the event, where the row may have gone meanwhile; it took the keys with it."""
    came = []
    QApplication.instance().focusWindowChanged.connect(lambda window: came.append(window and window.objectName()))  # type: ignore[union-attr]
    QTest.qWait(50)
    came.clear()
    for id in ("alder-mill", "heron-220", "alder-mill"):
        made.model.document.set_machine(machine_named(id))
        made.traveller.refresh()
    QTest.qWait(50)
    assert [one.objectName() for one in QApplication.topLevelWidgets() if one.isVisible()] == ["window"]
    assert not came and QApplication.activeWindow() is made


def test_machines_are_duplicated_imported_and_exported(made: Any, tmp_path: Path) -> None:
    made.do("place.machines")
    sheet = made.machines.sheet
    press(sheet, "machine_duplicate")
    press(sheet, "machine_save")
    assert sheet.chosen_id() == "heron-220-copy" and sheet.list.count() == 5
    sheet.write(str(tmp_path / "out.toml"))
    assert read_machine(tmp_path / "out.toml").id == "heron-220-copy" and "is written" in sheet.trouble.text()
    sheet.bring(str(tmp_path / "out.toml"))
    assert sheet.list.count() == 5
    (tmp_path / "broken.toml").write_text("id = ")
    sheet.bring(str(tmp_path / "broken.toml"))
    assert "not TOML" in sheet.trouble.text()
    until(lambda: fit_of(made) is not None)
    assert made.wait_until_idle(240)
    assert "heron-220-copy" in fit_of(made).measured["machines_that_fit"]
