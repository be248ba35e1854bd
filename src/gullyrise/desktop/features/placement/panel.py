"""The placing panel: where the chosen parts stand, in numbers that can be typed; how they fit; copies, arranging, fixtures."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
)

from gullyrise.core.placing.fixture_shapes import SIZES, Shape
from gullyrise.core.report.fit import FitView
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.preferences.rows import BY_ID
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.headed import HeadedPanel
from gullyrise.desktop.widgets.number_field import NumberField, NumberLine
from gullyrise.desktop.widgets.pieces import caption, named, row_box
from gullyrise.desktop.widgets.stamp import WORDS
from gullyrise.drawing.palette import Palette

_ROWS = (
    ("place_at", "Position", ("Middle X", "Middle Y", "Foot Z"), "Of the box round the selection, mm"),
    ("place_turn", "Rotation", ("About X", "About Y", "About Z"), "Degrees, about the middle of the selection"),
    ("place_size", "Size", ("Along X", "Along Y", "Along Z"), "Along the machine's axes"),
)
_BUTTONS = (
    (("Middle", "place.middle"), ("Drop", "place.drop"), ("Lay on face", "place.lay"), ("Best face", "place.best")),
    (("Mirror X", "place.mirror-x"), ("Y", "place.mirror-y"), ("Z", "place.mirror-z"), ("Revert", "place.reset")),
    (("Suggest", "place.suggest"), ("Faces", "place.align-faces"), ("Axes", "place.align-axes")),
)


class PlacementPanel(HeadedPanel):
    """wanted : the id of an action;  at, turned, sized : (axis, number typed);  copies : how many
    stand_in : (shape, sizes typed);  machine_wanted : its id;  option_set : (id of a setting, what was typed or chosen)
    """

    wanted = pyqtSignal(str)
    at = pyqtSignal(int, float)
    turned = pyqtSignal(int, float)
    sized = pyqtSignal(int, float)
    copies = pyqtSignal(int)
    fixture = pyqtSignal(str, list)
    machine_wanted = pyqtSignal(str)
    option_set = pyqtSignal(str, object)

    def __init__(self, palette: Palette) -> None:
        super().__init__("placing_slip", "PLACEMENT", palette)
        column = self._column
        self.title = caption("", "title", name="placing_title", wrap=True)
        column.addWidget(self.title)
        self.fields: dict[str, list[NumberLine]] = {}
        column.addLayout(self._numbers())
        for row in _BUTTONS:
            column.addLayout(self._actions(row))
        self._fit()
        self._copying()
        self._fixtures()
        column.addStretch(1)

    # --- making ----------------------------------------------------------------------------------------------------

    def _numbers(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(2)
        grid.setVerticalSpacing(4)
        for column, letter in enumerate("XYZ"):
            label = caption(letter, "quiet")
            label.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            grid.addWidget(label, 0, column + 1)
        for number, (name, title, tips, what) in enumerate(_ROWS):
            words = caption(title, "quiet", tip=what)
            grid.addWidget(words, number + 1, 0)
            self.fields[name] = []
            for axis in range(3):
                field = NumberLine("angle" if name == "place_turn" else "length")
                named(
                    field,
                    f"{name}_{'xyz'[axis]}",
                    f"{title}, {tips[axis].lower()}",
                    f"{tips[axis]}: {what[:1].lower()}{what[1:]}. Type a number, then Enter",
                )
                field.setProperty("three", True)
                field.setMinimumWidth(48)
                field.taken.connect(partial(self._taken, name, axis))
                grid.addWidget(field, number + 1, axis + 1)
                self.fields[name].append(field)
        self.unit = Choice()
        named(self.unit, "place_size_unit", "Sizes are typed in")
        self.unit.addItem("mm", "length")
        self.unit.addItem("%", "share")
        self.unit.currentIndexChanged.connect(lambda _: self._in_unit())
        self.together = QCheckBox("All axes alike")
        self.together.setObjectName("place_size_together")
        self.together.setChecked(True)
        last = QHBoxLayout()
        last.addWidget(self.together, 1)
        last.addWidget(self.unit)
        grid.addLayout(last, 4, 1, 1, 3)
        return grid

    def _taken(self, name: str, axis: int, value: float) -> None:
        {"place_at": self.at, "place_turn": self.turned, "place_size": self.sized}[name].emit(axis, value)

    @property
    def by_share(self) -> bool:
        """Whether sizes are typed as percent of what they are."""
        return bool(self.unit.currentData() == "share")

    def _in_unit(self) -> None:
        for field in self.fields["place_size"]:
            field.take("share" if self.by_share else "length")

    def _actions(self, row: tuple[tuple[str, str], ...]) -> QHBoxLayout:
        line = row_box(spacing=4)
        for words, id in row:
            button = small(
                words, "slip_" + id.replace(".", "_").replace("-", "_"), _TIPS[id], id, do=partial(self.wanted.emit, id)
            )
            line.addWidget(button)
        line.addStretch(1)
        return line

    def _head(self, words: str) -> None:
        label = caption(words, "head")
        self._column.addWidget(label)

    def _fit(self) -> None:
        self._head("FIT")
        self.why = caption(name="placing_why", wrap=True)
        self.sides = caption("", "quiet", name="placing_sides", wrap=True)
        self._column.addWidget(self.why)
        self._column.addWidget(self.sides)
        line = row_box(spacing=4)
        level, other = "Turn it about the vertical to where it fits", "Bring it to the attitude in which it fits"
        self.about_z = small(
            "Turn it so that it fits", "fit_about_z", level, "place.fit-level", do=partial(self.wanted.emit, "place.fit-level")
        )
        self.any_way = small(
            "Lay it so that it fits", "fit_any_way", other, "place.fit-any", do=partial(self.wanted.emit, "place.fit-any")
        )
        line.addWidget(self.about_z)
        line.addWidget(self.any_way)
        line.addStretch(1)
        self._column.addLayout(line)
        self.machines = row_box(spacing=4)
        self._column.addLayout(self.machines)
        self._machines: tuple[tuple[str, str], ...] = ()

    def _copying(self) -> None:
        self._head("COPIES AND BEDS")
        line = row_box(spacing=4)
        self.count = NumberField("", 0, 1, 500)
        named(self.count, "copy_count", "How many copies")
        self.gap = NumberLine(low=BY_ID["place.gap"].low, high=BY_ID["place.gap"].high)
        named(self.gap, "place_gap", "Gap between parts, mm", "Gap that copying and arranging leave between parts, mm")
        self.gap.setFixedWidth(44)
        self.gap.taken.connect(lambda value: self.option_set.emit("place.gap", value))
        self.gap.left.connect(lambda value: self.option_set.emit("place.gap", value))
        copy = small(
            "Copy",
            "copy_make",
            "So many further copies of the selection",
            "place.copy",
            do=lambda: self.copies.emit(int(self.count.value())),
        )
        for widget in (self.count, copy, QLabel("gap"), self.gap, QLabel("mm")):
            line.addWidget(widget)
        line.addStretch(1)
        self._column.addLayout(line)
        line = row_box(spacing=4)
        self.outline = Choice()
        named(self.outline, "place_outline", "What is kept apart when arranging")
        self.outline.addItem("by footprint", "footprint")
        self.outline.addItem("by rectangle", "rectangle")
        self.outline.activated.connect(lambda _: self.option_set.emit("place.outline", self.outline.currentData()))
        arrange = small(
            "Arrange all",
            "arrange",
            "Set all parts out on as many beds as they need",
            "place.arrange",
            do=partial(self.wanted.emit, "place.arrange"),
        )
        line.addWidget(arrange)
        line.addWidget(self.outline)
        line.addStretch(1)
        self._column.addLayout(line)

    def _fixtures(self) -> None:
        self._head("FIXTURE SHAPES")
        line = row_box(spacing=4)
        self.shape = Choice()
        self.shape.setMinimumWidth(84)
        self.shape.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        named(self.shape, "stand_in_shape", "Shape of the fixture")
        for shape in SIZES:
            self.shape.addItem(shape, shape)
        self.shape.currentIndexChanged.connect(lambda _: self._show_sizes())
        line.addWidget(self.shape, 1)
        self.sizes: list[NumberLine] = []
        for number in range(3):
            field = NumberLine(text="20")
            field.setObjectName(f"stand_in_{number}")
            field.setFixedWidth(34)
            field.taken.connect(lambda _: self._add())
            self.sizes.append(field)
            line.addWidget(field)
        add = small("Add", "stand_in_add", "A plain solid that stands for a clamp, a fixture or a shaft", do=self._add)
        line.addWidget(add)
        self._column.addLayout(line)
        self._show_sizes()

    def _show_sizes(self) -> None:
        names = SIZES[self.shape.currentData()]
        for number, field in enumerate(self.sizes):
            field.setVisible(number < len(names))
            if number < len(names):
                field.setAccessibleName(f"{names[number].capitalize()} of the {self.shape.currentData()}, mm")
                field.setToolTip(f"{names[number].capitalize()}, mm")

    def _add(self) -> None:
        shape: Shape = self.shape.currentData()
        sizes = [field.read() for field in self.sizes[: len(SIZES[shape])]]
        if None not in sizes:
            self.fixture.emit(shape, sizes)

    # --- showing ---------------------------------------------------------------------------------------------------

    def wear(self, palette: Palette) -> None:
        self._palette = palette

    def show_place(self, title: str, at: tuple[float, ...] | None, size: tuple[float, ...] | None) -> None:
        """What is chosen and where; None for nothing chosen. A field that is being typed in is left alone."""
        self.title.setText(title)
        values = {
            "place_at": at,
            "place_size": (100.0,) * 3 if self.by_share else size,
            "place_turn": (0.0,) * 3,
        }
        for name, fields in self.fields.items():
            numbers = values[name] if at is not None else None
            for axis, field in enumerate(fields):
                field.setEnabled(numbers is not None)
                words = "" if numbers is None else f"{numbers[axis]:.3f}".rstrip("0").rstrip(".")
                field.show_text("0" if words in ("-0", "") and numbers is not None else words)

    def show_options(self, gap: float, outline: str) -> None:
        self.gap.show_text(f"{gap:g}")
        self.outline.setCurrentIndex(self.outline.findData(outline))

    def show_fit(self, view: FitView) -> None:
        self.stamp.show_verdict(view.verdict, stale=view.stale, palette=self._palette)
        self.stamp.setToolTip(WORDS[view.verdict])
        self.why.setText(view.why)
        self.sides.setText(view.sides)
        self.sides.setVisible(bool(view.sides))
        self.about_z.setVisible(view.level)
        self.any_way.setVisible(view.any_way and not view.level)
        if view.machines == self._machines:
            return
        self._machines = view.machines
        while self.machines.count():
            item = self.machines.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        if view.machines:
            self.machines.addWidget(QLabel("Fits also:"))
        for id, name in view.machines:
            button = small(name, f"fits_{id}", f"Put the parts on {name}", do=partial(self.machine_wanted.emit, id))
            self.machines.addWidget(button)
        self.machines.addStretch(1)


_TIPS = {
    "place.middle": "To the middle of the bed",
    "place.drop": "Down to the bed",
    "place.lay": "Lay it on the face under the pointer; the key does it where the pointer is",
    "place.best": "Stand it on the flat that wants least support",
    "place.mirror-x": "Mirror along X",
    "place.mirror-y": "Mirror along Y",
    "place.mirror-z": "Mirror along Z",
    "place.reset": "Turned as in its file, on the bed",
    "place.suggest": "Suggested orientations, by what each would cost",
    "place.align-faces": "Lay the first selected face against the second",
    "place.align-axes": "Bring the axis of the first selected face onto that of the second",
}
