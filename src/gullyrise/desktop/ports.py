"""What controllers may ask of the rest of the window: each receives just those that it uses, and none the window itself."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Protocol

from PyQt6.QtCore import QSize, pyqtBoundSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry.spots import Spot
from gullyrise.core.job import PlacedPart
from gullyrise.drawing.palette import Palette

Answer = tuple[str, Callable[[], object]]
"""The words of a button and what it does."""


class Notifier(Protocol):
    """Sentences that stay until they are read."""

    def say(self, sentence: str, grave: bool, answers: Sequence[Answer] = (), about: str = "") -> None:
        """about : what it hangs on, by which `settled` takes it away; it stands for one before it"""

    def settled(self, about: str) -> None: ...
    def tells(self, about: str) -> bool:
        """Whether a sentence about it stands."""


class StatusLine(Protocol):
    """The line that says what the hand can do now."""

    def show_tool(self, words: str) -> None: ...
    def show_elsewhere(self, words: str) -> None: ...


class FilePicker(Protocol):
    """Dialogs for files and words; each answer comes later."""

    def ask(self, title: str, mode: QFileDialog.FileMode, kinds: list[str], then: Callable[[list[str]], None]) -> QFileDialog: ...
    def ask_where(self, title: str, name: str, kinds: list[str], then: Callable[[str], None]) -> QFileDialog: ...
    def ask_words(self, title: str, label: str, then: Callable[[str], None]) -> QInputDialog: ...


class Preferences(Protocol):
    """Settings by their id."""

    @property
    def changed(self) -> pyqtBoundSignal:
        """The id of one that has another value."""

    def __getitem__(self, id: str) -> Any: ...
    def set(self, id: str, value: Any) -> None: ...


class Commands(Protocol):
    """Actions by their id."""

    def do(self, id: str) -> None: ...
    def words_of(self, id: str) -> str:
        """Its keys, in words."""


class Navigator(Protocol):
    """Leads the eye to places."""

    def fly_to(self, placed: PlacedPart, finding: Finding) -> None: ...
    def make_ready(self, placed: PlacedPart, finding: Finding) -> None:
        """Composes the evidence that is likely to be wanted next."""

    def look_between(self, a: Spot, b: Spot, words: str) -> None:
        """Shows what was measured between two places on the machine, as evidence. words : the number"""

    def view_image(self) -> QImage:
        """What is seen now, without what is painted over it."""


class Sections(Protocol):
    """The cuts through what stands on the bench."""

    @property
    def changed(self) -> pyqtBoundSignal: ...
    @property
    def cuts(self) -> tuple[Cut, ...]: ...
    def show(self, cuts: tuple[Cut, ...]) -> None: ...


class CheckView(Protocol):
    """The checks as they are shown."""

    def show_check(self, name: str) -> None: ...


class FindingSteps(Protocol):
    """From finding to finding of the check that is shown."""

    def step(self, by: int) -> None: ...


class MachineChoice(Protocol):
    """The machines that the job may stand on."""

    def use_machine(self, id: str) -> None: ...


class Arranger(Protocol):
    """Sets all parts out on the bed."""

    def arrange(self) -> None: ...


class FloatingLayout(Protocol):
    """Places what floats over the bench."""

    def add(self, settle: Callable[[QSize], object], *, bar: bool = False) -> None:
        """settle : puts it in its place on a bench of that size;  bar : also as what is on the bench changes"""

    def add_slip(self, slip: QWidget, size: Callable[[QSize], QSize]) -> None:
        """In the corner that slips have, where one of them is at a time. size : that it wants on a bench of that size"""

    def settle(self) -> None: ...
    def settle_bars(self) -> None: ...


class PanelPlaces(Protocol):
    """Where panels stand round the bench."""

    @property
    def slot_changed(self) -> pyqtBoundSignal: ...
    @property
    def slot(self) -> str:
        """The panel that is seen below the parts, or none."""

    def show_slot(self, name: str) -> None: ...
    def show_first_slot(self) -> None: ...
    def add_left(self, panel: QWidget) -> None: ...
    def add_slot(self, name: str, panel: QWidget) -> None:
        """One of those that stand below the parts, one at a time; the first is there at first."""

    def set_right(self, panel: QWidget) -> None: ...
    def set_below(self, panel: QWidget, line: QWidget) -> None:
        """panel : opens below the bench where it has something to show;  line : stands there for good"""

    def want_below(self, wanted: bool) -> None: ...


class Column(Protocol):
    """A panel that others put something of their own into."""

    def add_foot(self, widget: QWidget) -> None: ...
    def pin(self, widget: QWidget) -> None:
        """At its foot, always in sight."""

    def reveal(self, widget: QWidget) -> None: ...


class Looks(Protocol):
    """What is worn now."""

    @property
    def palette(self) -> Palette: ...
