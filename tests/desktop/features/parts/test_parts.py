"""The parts in the real window: tree and list, assemblies gone into, columns, sorting, sight, counts and what goes out."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QMenu, QTreeWidgetItem
from waiting import until

from conftest import as_opened
from gullyrise.demo import FILES
from gullyrise.desktop.features.parts.tree import COLUMNS, keys_of
from gullyrise.desktop.preferences.rows import BY_ID

AT = {id: place for place, (id, _) in enumerate(COLUMNS)}


@pytest.fixture(scope="module")
def opened(long_lived: Any) -> Any:
    return long_lived(str(FILES / "winch_box.step"), str(FILES / "screw_set.step"))


@pytest.fixture
def made(opened: Any) -> Any:
    as_opened(opened)
    opened.parts_panel.show_list(False)
    opened.parts_panel.go_into(())
    opened.parts_panel.filter.clear()
    opened.parts_panel.tree.rebuild()
    opened.parts_panel.tree.show_visibility()
    return opened


def named(row: QTreeWidgetItem, name: str) -> QTreeWidgetItem:
    return next(child for i in range(row.childCount()) if (child := row.child(i)) is not None and child.text(0) == name)


def click(tree: Any, row: QTreeWidgetItem, column: int = 0, twice: bool = False) -> None:
    """A real click on a cell, unfolded so that it is seen."""
    above = row.parent()
    while above is not None:
        above.setExpanded(True)
        above = above.parent()
    tree.scrollToItem(row)
    QApplication.processEvents()
    at = tree.visualItemRect(row)
    index = tree.indexFromItem(row, column)
    where = tree.visualRect(index).center() if tree.visualRect(index).isValid() else at.center()
    QTest.mouseClick(tree.viewport(), Qt.MouseButton.LeftButton, pos=where)
    if twice:
        QTest.mouseDClick(tree.viewport(), Qt.MouseButton.LeftButton, pos=where)


def test_the_tree_goes_from_files_to_assemblies_to_bodies_to_copies(made: Any) -> None:
    winch, screws = made.parts_panel.tree.tops()
    assert [winch.text(0), winch.text(AT["count"]), screws.text(AT["count"])] == ["winch_box", "14", "8"]
    inside = [winch.child(i).text(0) for i in range(winch.childCount())]
    assert inside == ["drum unit", "bracket", "bolt"], "the one outermost assembly is the file itself"
    unit = named(winch, "drum unit")
    axles = named(unit, "axle unit")
    assert (unit.text(AT["count"]), axles.text(AT["count"]), named(axles, "collar").text(AT["count"])) == ("4", "3", "2")
    bolt = named(winch, "bolt")
    assert bolt.childCount() == 8 and bolt.text(AT["count"]) == "8" and not bolt.icon(AT["colour"]).isNull()
    click(made.parts_panel.tree, bolt.child(3))
    assert made.model.selection.bodies == {keys_of(bolt)[3]}
    click(made.parts_panel.tree, axles)
    assert made.model.selection.bodies == set(keys_of(axles)) and len(made.model.selection.bodies) == 3


def test_what_is_chosen_on_the_bench_is_unfolded_in_the_tree(made: Any) -> None:
    collar = next(item.key for item in made.bench.scene.items if "collar" in item.name)
    made.model.selection.select_bodies({collar})
    (row,) = made.parts_panel.tree.selectedItems()
    assert keys_of(row) == [collar] and row.parent().text(0) == "collar" and row.parent().isExpanded()


def test_one_goes_into_an_assembly_and_back_by_the_path(made: Any) -> None:
    tree = made.parts_panel.tree
    click(tree, named(tree.tops()[0], "drum unit"), twice=True)
    assert tree.trail == ("winch_box", "winch box", "drum unit") and [row.text(0) for row in tree.tops()] == ["axle unit", "drum"]
    assert made.parts_panel.path.isVisible()

    def on_the_bench() -> set[tuple[int, int]]:
        made.scene.bring_in_step()
        return {item.key for item in made.bench.scene.items}

    every = set(made.model.copies())
    inside = {key for row in tree.tops() for key in keys_of(row)}
    assert on_the_bench() == inside < every and "Inside drum unit" in made.visibility_bar.words.text()
    assert "hidden" not in made.visibility_bar.words.text()
    seen = made.bench.camera.to_picture(made.bench.scene.parts_box.corners(), *made.bench.view_size())
    assert np.ptp(seen[:, :2], axis=0).max() > 0.5 * min(made.bench.view_size()), "and it is looked at"
    made.model.shown.look(made.model.shown.visibility.hiding(frozenset(list(inside)[:1])))
    assert on_the_bench() == inside - set(list(inside)[:1]) and "1 hidden" in made.visibility_bar.words.text()
    made.do("bodies.show-all")
    assert on_the_bench() == every and tree.trail == ()
    click(tree, named(tree.tops()[0], "drum unit"), twice=True)
    tree.tops()[0].setSelected(True)
    tree.setFocus()
    QTest.keyClick(tree, Qt.Key.Key_Return)
    assert tree.trail[-1] == "axle unit" and [row.text(0) for row in tree.tops()] == ["axle", "collar"]
    made.parts_panel.show_list(True)
    assert {row.name: row.count for row in made.parts_panel.lines()} == {"axle": 1, "collar": 2}
    made.do("parts.outside")
    assert {row.name for row in made.parts_panel.lines()} == {"axle", "collar", "drum"}
    back = made.parts_panel.path.findChild(QAbstractButton, "path_0")
    QTest.mouseClick(back, Qt.MouseButton.LeftButton)
    assert (
        tree.trail == ()
        and len(made.parts_panel.lines()) == 7
        and not made.parts_panel.path.isVisible()
        and on_the_bench() == every
    )


def test_columns_are_chosen_moved_sorted_by_and_remembered(made: Any) -> None:
    tree, header = made.parts_panel.tree, made.parts_panel.tree.header()
    made.do("parts.columns")
    menu = made.findChild(QMenu, "columns_menu")
    next(entry for entry in menu.actions() if entry.text() == "Volume, mm³").setChecked(True)
    menu.close()
    assert made.settings["parts.columns"] == [*BY_ID["parts.columns"].default, "volume"]
    header.moveSection(header.visualIndex(AT["volume"]), 1)
    assert made.settings["parts.columns"][:2] == ["name", "volume"]
    tree.rebuild()
    made.settings.reset("Parts")
    assert tree.columns.shown() == BY_ID["parts.columns"].default
    made.settings.set("parts.columns", ["name", "triangles"])
    assert tree.columns.shown() == ["name", "triangles"]
    winch = tree.tops()[0]
    header.sectionClicked.emit(AT["triangles"])
    rows = [winch.child(i).data(AT["triangles"], Qt.ItemDataRole.UserRole + 3) for i in range(winch.childCount())]
    numbers = [value for value in rows if value is not None]
    assert numbers == sorted(numbers)
    header.sectionClicked.emit(AT["triangles"])
    header.sectionClicked.emit(AT["triangles"])
    assert [row.text(0) for row in tree.tops()] == ["winch_box", "screw_set"], "the third click has them as they came"


def test_the_eye_hides_and_shows(made: Any) -> None:
    tree = made.parts_panel.tree
    bolt = named(tree.tops()[0], "bolt")
    click(tree, bolt, AT["seen"])
    assert all(made.model.shown.visibility.opacity(key) == 0 for key in keys_of(bolt)) and bolt.font(0).strikeOut()
    click(tree, bolt.child(2), AT["seen"])
    assert [made.model.shown.visibility.opacity(key) for key in keys_of(bolt)] == [0, 0, 1, 0, 0, 0, 0, 0] and not bolt.font(
        0
    ).strikeOut()
    made.do("bodies.show-all")
    assert not bolt.font(0).strikeOut()


def test_the_filter_finds_what_lies_deep(made: Any) -> None:
    tree = made.parts_panel.tree
    QTest.keyClicks(made.parts_panel.filter, "coll")
    winch, screws = tree.tops()
    collar = named(named(named(winch, "drum unit"), "axle unit"), "collar")
    assert not winch.isHidden() and screws.isHidden() and not collar.isHidden() and named(winch, "bolt").isHidden()
    assert collar.parent().isExpanded()
    made.parts_panel.show_list(True)
    assert [row.name for row in made.parts_panel.lines()] == ["collar"]
    made.parts_panel.filter.clear()
    assert len(made.parts_panel.lines()) == 7 and not screws.isHidden()


def test_the_list_counts_by_shape_sorts_and_chooses_on_the_bench(made: Any) -> None:
    made.do("parts.list")
    made.parts_panel.grouping.setCurrentIndex(made.parts_panel.grouping.findData("shape"))
    assert made.wait_until_idle(240)
    rows = {row.name: row for row in made.parts_panel.lines()}
    assert rows["bolt"].count == 8 and rows["bolt"].shape is not None and len({row.shape for row in rows.values()}) == 7
    made.parts_panel.table.sortByColumn(1, Qt.SortOrder.DescendingOrder)
    assert made.parts_panel.lines()[0].name == "bolt"
    made.parts_panel.table.selectRow(0)
    assert {made.model.copies()[key][1].name for key in made.model.selection.bodies} == {"bolt"} and len(
        made.model.selection.bodies
    ) == 8
    made.parts_panel.table.sorted.sort(-1)
    made.parts_panel.grouping.setCurrentIndex(1)


def test_the_list_goes_out_as_csv_as_json_and_to_the_clipboard(made: Any, tmp_path: Path) -> None:
    made.parts_panel.show_list(True)
    made.settings.set("parts.list_columns", ["name", "count", "volume", "assemblies"])
    made.list_export.save(str(tmp_path / "list.csv"))
    assert made.wait_until_idle(60)
    lines = list(csv.reader(io.StringIO((tmp_path / "list.csv").read_text(encoding="utf-8"))))
    assert lines[0] == ["Name", "Qty", "Volume, mm³", "In"] and len(lines) == 8
    assert next(line for line in lines if line[0] == "collar")[3] == "winch box › drum unit › axle unit"
    made.list_export.save(str(tmp_path / "list.json"))
    assert made.wait_until_idle(60)
    document = json.loads((tmp_path / "list.json").read_text(encoding="utf-8"))
    assert document["schema"] == "gullyrise.parts-list/1" and sum(row["count"] for row in document["rows"]) == 22
    made.do("record.list-copy")
    text = QApplication.clipboard().text()
    assert text.splitlines()[0] == "Name\tQty\tVolume, mm³\tIn" and len(text.splitlines()) == 8
    made.list_export.save(str(tmp_path / "no" / "list.csv"))
    assert made.wait_until_idle(60)
    assert "could not be written" in made.notifications.sentences[-1]


def test_a_part_opened_inside_an_assembly_has_one_line(window: Any, tmp_path: Path) -> None:
    first, later = (str(tmp_path / f"{name}.stl") for name in ("first", "later"))
    for path in (first, later):
        trimesh.creation.box((5, 6, 7)).export(path)
    made = window()
    tree = made.parts_panel.tree
    made.model.open_files([str(FILES / "screw_set.step")])
    until(lambda: len(made.model.job.parts) == 1)
    made.parts_panel.go_into(("screw_set",))
    made.model.open_files([first])
    until(lambda: len(made.model.job.parts) == 2)
    assert [row.text(0) for row in tree.tops()] == ["screw_set", "first"]
    tree.header().sectionClicked.emit(AT["name"])
    made.model.open_files([later])
    until(lambda: len(made.model.job.parts) == 3)
    assert [row.text(0) for row in tree.tops()] == ["first", "later", "screw_set"]
