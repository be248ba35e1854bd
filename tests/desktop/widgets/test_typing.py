"""Numbers typed into every field of the window: one reading, refused in place where there are two, whatever the locale."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
import trimesh
from PyQt6.QtCore import QEvent, QLocale, Qt
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDoubleSpinBox, QSpinBox, QWidget
from waiting import until

from gullyrise.desktop.widgets.number_field import NumberField, NumberLine, is_refused

LOCALES = ("en_US", "de_DE", "ar_EG")


def type_in(field: Any, words: str, *, enter: bool = True) -> None:
    field.window().activateWindow()
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, words)
    if enter:
        QTest.keyClick(field, Qt.Key.Key_Return)


@pytest.fixture
def made(window: Any, tmp_path: Path, unwalled: None) -> Any:
    path = tmp_path / "bracket.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    made = window(str(path))
    made.model.selection.select({made.model.job.parts[0].id})
    made.do("place.slip") if "place.slip" in made.runner.actions else made.placement_panel.show()
    return made


def every_sheet(made: Any) -> list[QWidget]:
    """The window and all that stands beside it, opened."""
    for id in ("help.settings", "place.machines"):
        if id in made.runner.actions:
            made.do(id)
    QApplication.processEvents()
    return [one for one in QApplication.topLevelWidgets() if one is made or one.isVisible()]


@pytest.mark.parametrize("locale", LOCALES)
def test_every_number_field_reads_in_one_way(made: Any, locale: str) -> None:
    fields = [field for sheet in every_sheet(made) for field in sheet.findChildren(QWidget)]
    spins = [one for one in fields if isinstance(one, QSpinBox | QDoubleSpinBox)]
    plain = [one for one in spins if not isinstance(one, NumberField)]
    assert not plain, "every field for a number is one that reads as all do"
    numbers = [one for one in fields if isinstance(one, NumberField)]
    assert len(numbers) > 30
    for field in numbers:
        field.setEnabled(True)
        field.setLocale(QLocale(locale))
        field.blockSignals(True)
        held = field.value()
        try:
            for words, value in (("0,5", 0.5), ("0.5", 0.5), ("30,5", 30.5), ("30.5", 30.5), ("7", 7.0)):
                if not field.minimum() <= value <= field.maximum() or (not field.decimals() and value != round(value)):
                    continue
                type_in(field, words)
                assert field.value() == pytest.approx(round(value, field.decimals()), abs=1e-9), (field.objectName(), words)
                assert not is_refused(field)
            before = field.value()
            for words in ("1,234", "abc", "1.2.3", "5 kg", ""):
                type_in(field, words)
                assert field.value() == before and is_refused(field), (field.objectName(), words)
            QApplication.sendEvent(field, QFocusEvent(QEvent.Type.FocusOut))
            assert not is_refused(field)
            if field.text() != field.specialValueText():
                assert float(field.cleanText()) == pytest.approx(before, abs=1e-9), "nothing that was refused lingers"
        finally:
            field.setValue(held)
            field.blockSignals(False)


def test_no_number_in_any_field_breaks_a_slot(made: Any) -> None:
    made.do("cut.x")
    sheets = every_sheet(made)
    fields = [one for sheet in sheets for kind in (NumberField, NumberLine) for one in sheet.findChildren(kind)]
    for field in fields:
        for words in ("-3", "0", "0.001", "90", "99999"):
            if isinstance(field, QWidget) and field.isVisible() and field.isEnabled():
                type_in(field, words)
                QTest.keyClick(field, Qt.Key.Key_Escape)
    assert not made.mishaps.met, next(iter(made.mishaps.met.values())).details
    type_in(made.placement_panel.gap, "-3")
    assert is_refused(made.placement_panel.gap) and "from 0 to 200" in made.placement_panel.gap.accessibleDescription()
    assert made.wait_until_idle(120)


def test_units_are_taken_where_a_length_is_meant(made: Any) -> None:
    field = made.traveller.rows["clearances"].limit
    made.traveller.show_check("clearances")
    for words, value in (('1/4"', 6.35), ("0.5 in", 12.7), ("12,7mm", 12.7), ("1.2 cm", 12.0)):
        type_in(field, words)
        assert made.model.job.limits.min_gap == pytest.approx(value)
    type_in(field, "5 °")
    assert is_refused(field) and made.model.job.limits.min_gap == pytest.approx(12.0)
    assert "unit" in field.accessibleDescription()


@pytest.mark.parametrize("locale", LOCALES)
def test_the_slip_takes_places_turns_and_sizes(made: Any, locale: str) -> None:
    QLocale.setDefault(QLocale(locale))
    lines = made.placement_panel.findChildren(NumberLine)
    assert len(lines) >= 13
    type_in(made.placement_panel.fields["place_at"][0], "30,5")
    assert made.model.job.parts[0].ground.middle[0] == pytest.approx(30.5)
    type_in(made.placement_panel.fields["place_at"][1], '2"')
    assert made.model.job.parts[0].ground.middle[1] == pytest.approx(50.8)
    steps = made.model.document.history.can_undo
    for words in ("1,234", "abc", "5 °", "1e9"):
        type_in(made.placement_panel.fields["place_at"][0], words)
        assert is_refused(made.placement_panel.fields["place_at"][0]) and made.model.document.history.can_undo == steps
    made.bench.setFocus()
    assert made.placement_panel.fields["place_at"][0].text() == "30.5", "nothing that was refused lingers"
    type_in(made.placement_panel.fields["place_size"][0], "20,0")
    assert made.wait_until_idle(60)
    assert made.model.job.parts[0].ground.size == pytest.approx((20, 40, 60))
    type_in(made.placement_panel.gap, "2,5")
    assert made.settings["place.gap"] == 2.5


def test_the_dial_and_the_tray_read_numbers_as_all_do(made: Any) -> None:
    dial = made.bench.dial
    for words, bearing in (("30,5 20", (30.5, 20)), ("45", (45, 20)), ("-30.5; 10,5", (329.5, 10.5))):
        dial.type_bearing()
        type_in(dial.field, words)
        until(lambda bearing=bearing: (made.bench.camera.heading % 360, made.bench.camera.elevation) == pytest.approx(bearing))
    dial.type_bearing()
    type_in(dial.field, "1 2 3")
    assert is_refused(dial.field) and dial.field.isVisible()
    QTest.keyClick(dial.field, Qt.Key.Key_Escape)
