"""How the window looks: read by everybody, in every script, on every screen; every control is the theme's own."""

from __future__ import annotations

import re
from typing import Any

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QTextLayout
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QCheckBox, QComboBox, QDoubleSpinBox, QRadioButton, QSpinBox, QTabBar, QWidget

from gullyrise.desktop.theme import icons
from gullyrise.desktop.theme.style_sheet import dress, style_sheet
from gullyrise.drawing.body_colours import OWN, colour_of
from gullyrise.drawing.palette import LIMESTONE, THEMES, Palette
from gullyrise.drawing.typeface import load_typeface, type_of


def lightness(colour: str) -> float:
    """Relative luminance (WCAG 2)."""
    shares = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    red, green, blue = (share / 12.92 if share <= 0.03928 else ((share + 0.055) / 1.055) ** 2.4 for share in shares)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    light, dark = sorted((lightness(one), lightness(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("palette", THEMES.values(), ids=list(THEMES))
def test_text_is_read_on_whatever_it_stands_on(palette: Palette) -> None:
    for ink in ("ink", "quiet", "accent", "passed", "review", "failed"):
        for ground in ("panel", "field", "ground"):
            if (ink, ground) in (("accent", "ground"), ("passed", "ground"), ("review", "ground"), ("failed", "ground")):
                # Words on the ground of the bench stand on plates of the panel.
                assert contrast(getattr(palette, ink), getattr(palette, ground)) >= 3
                continue
            assert contrast(getattr(palette, ink), getattr(palette, ground)) >= 4.5, (ink, ground)
    assert contrast(palette.on_accent, palette.accent) >= 4.5
    assert contrast(palette.ink, palette.ground_far) >= 4.5 and contrast(palette.ink, palette.line) >= 4.5, "what is selected"
    drawn = re.search(r"#[0-9A-F]{6}", (icons.FOLDER / "down.svg").read_text())
    ticked = re.search(r"#[0-9A-F]{6}", (icons.FOLDER / "tick.svg").read_text())
    assert drawn is not None and ticked is not None
    assert contrast(drawn[0], palette.field) >= 3 and contrast(ticked[0], palette.field) >= 3, "marks that no theme tints"


def seen_by(colour: str, kind: str) -> tuple[float, ...]:
    """Linear red, green and blue as a colour-blind eye has them (F. Viénot et al., 1999)."""
    r, g, b = ((int(colour[i : i + 2], 16) / 255) ** 2.2 for i in (1, 3, 5))
    if kind == "red":
        return (0.1124 * r + 0.8876 * g, 0.1124 * r + 0.8876 * g, 0.004 * r - 0.004 * g + b)
    if kind == "green":
        return (0.2927 * r + 0.7073 * g, 0.2927 * r + 0.7073 * g, -0.0223 * r + 0.0223 * g + b)
    return (r, g, b)


@pytest.mark.parametrize("kind", ["none", "red", "green"])
def test_bodies_are_told_apart_by_colour_blind_eyes_too(kind: str) -> None:
    colours = [seen_by(one or LIMESTONE.part, kind) for one in OWN]
    for number, one in enumerate(colours):
        # Two that are neighbours in the row are neighbours on the bench more often than not.
        for other in (colours[(number + 1) % len(colours)], colours[(number + 2) % len(colours)]):
            assert max(abs(a - b) for a, b in zip(one, other, strict=True)) > 0.045, (number, kind)


def test_a_body_has_the_colour_that_is_asked_for() -> None:
    assert (
        colour_of("file", LIMESTONE, 0, (1.0, 0.5, 0.0), "pass") == "#FF8000"
        and colour_of("file", LIMESTONE, 3, None, "pass") == ""
    )
    assert colour_of("own", LIMESTONE, 0, None, "fail") == "" and colour_of("own", LIMESTONE, 9, None, "fail") == OWN[1]
    assert colour_of("plain", LIMESTONE, 5, (1, 0, 0), "fail") == ""
    assert len({colour_of("verdict", LIMESTONE, 0, None, one) for one in ("pass", "review", "fail", "not-run")}) == 4  # type: ignore[arg-type]


@pytest.mark.parametrize("words", ["浮子井.step", "наконечник", "αγωγός", "かなえ", "gehäuse"])
def test_names_in_other_scripts_are_no_boxes(qapp: QApplication, words: str) -> None:
    load_typeface()
    layout = QTextLayout(words, type_of())
    layout.beginLayout()
    layout.createLine().setPosition(QPointF(0, 0))
    layout.endLayout()
    glyphs = [index for run in layout.glyphRuns() for index in run.glyphIndexes()]
    assert len(glyphs) >= len(words) - 1 and 0 not in glyphs


def test_the_typeface_is_there_whoever_made_the_application(
    qapp: QApplication, window: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    loaded: list[QApplication] = []
    monkeypatch.setattr("gullyrise.desktop.starting.load_typeface", lambda: loaded.append(qapp))
    window()
    assert loaded == [qapp]


@pytest.mark.parametrize(
    "made", [QComboBox, QCheckBox, QRadioButton, QSpinBox, QDoubleSpinBox, QTabBar], ids=lambda one: one.__name__
)
def test_each_control_changes_with_the_theme_and_shows_its_focus(qapp: QApplication, made: type[QWidget]) -> None:
    def picture(palette: Palette, *, focus: bool = False) -> QImage:
        dress(qapp, palette)
        holder = QWidget()
        widget = made(holder)
        if isinstance(widget, (QCheckBox, QRadioButton)):
            widget.setText("words")
            widget.setChecked(True)
        if isinstance(widget, QComboBox):
            widget.addItem("words")
        if isinstance(widget, QTabBar):
            widget.addTab("one")
            widget.addTab("two")
        holder.resize(160, 40)
        widget.resize(150, 30)
        holder.show()
        holder.activateWindow()
        QTest.qWaitForWindowActive(holder)
        holder.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        (widget if focus else holder).setFocus(Qt.FocusReason.TabFocusReason)
        QApplication.processEvents()
        image = QImage(holder.size(), QImage.Format.Format_RGB32)
        image.fill(QColor(palette.panel))
        holder.render(image)
        holder.close()
        holder.deleteLater()
        return image

    try:
        light, dark = (picture(palette) for palette in THEMES.values())
        assert light != dark
        assert picture(LIMESTONE, focus=True) != light, "focus is seen"
    finally:
        dress(qapp, LIMESTONE)


def test_icons_are_ours_in_one_stroke_width(qapp: QApplication) -> None:
    for file in icons.FOLDER.glob("*.svg"):
        text = file.read_text()
        assert 'stroke-width="1.6"' in text and 'viewBox="0 0 20 20"' in text and "href" not in text, file.name
        made = icons.picture(file.stem, "#112233", 16, 2.0)
        assert made.width() == 32 and not made.toImage().allGray()
    used = set(re.findall(r'url\("[^"]*/(\w+)\.svg"\)', style_sheet()))
    assert used and all((icons.FOLDER / f"{name}.svg").exists() for name in used)


def test_every_button_and_field_of_the_window_has_a_name_for_screen_readers(window: Any) -> None:
    from PyQt6.QtWidgets import QAbstractButton, QAbstractItemView, QAbstractSpinBox, QLineEdit

    made = window()
    made.wait_until_idle(60)
    bare = []
    for widget in made.findChildren(QWidget):
        if not isinstance(widget, (QAbstractButton, QAbstractSpinBox, QLineEdit, QComboBox, QAbstractItemView)):
            continue
        # What drops down from a box, and the arrows of a bar, are its own.
        inner = any(isinstance(one, (QComboBox, QLineEdit)) for one in (widget.parent(), widget.parent().parent()))  # type: ignore[union-attr]
        if (
            inner
            or widget.objectName().startswith(("qt_", "ScrollLeft", "ScrollRight"))
            or (isinstance(widget, QLineEdit) and isinstance(widget.parent(), QAbstractSpinBox))
        ):
            continue
        words = widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")
        if not words and type(widget).__module__.startswith(("gullyrise", "PyQt6")) and type(widget).__name__ != "QHeaderView":
            bare.append(f"{type(widget).__name__} {widget.objectName()}")
    assert not bare
