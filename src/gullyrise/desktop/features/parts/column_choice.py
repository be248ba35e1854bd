"""Which columns of a tree or table are shown, and in which order."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QHeaderView, QMenu


class ColumnChoice(QObject):
    """Of one header, whose first column always comes first. titles : by the id of each column, in the order of the model
    changed : ids of the columns that are shown now, from left to right
    """

    changed = pyqtSignal(object)

    def __init__(self, header: QHeaderView, titles: dict[str, str]) -> None:
        super().__init__(header)
        self._header, self._titles = header, titles
        self._ids = list(titles)
        self._arranging = False
        self._away: set[str] = set()
        self._sizes: dict[str, int] = {}
        header.setSectionsMovable(True)
        header.setFirstSectionMovable(False)
        header.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        header.customContextMenuRequested.connect(lambda at: self.choose(header.mapToGlobal(at)))
        header.sectionMoved.connect(self._moved)

    def shown(self) -> list[str]:
        order = [self._header.logicalIndex(visual) for visual in range(len(self._ids))]
        return [self._ids[place] for place in order if self._is_wanted(place)]

    def _is_wanted(self, place: int) -> bool:
        return not self._header.isSectionHidden(place) or self._ids[place] in self._away

    def make_room(self, room: int, wanted: int, giving: tuple[str, ...]) -> None:
        """The first column as wide as it wants to be. giving : ids of those that go for it, first first, where there is no room;
        those that were wanted by hand stay, and the table scrolls"""
        header, shown = self._header, self.shown()
        left = room - sum(header.sectionSize(self._ids.index(id)) or self._sizes.get(id, 0) for id in shown[1:])
        away = set()
        for id in giving:
            if left < wanted and id in shown:
                left += header.sectionSize(self._ids.index(id)) or self._sizes.get(id, 0)
                away.add(id)
        for id in away - self._away:
            self._sizes[id] = header.sectionSize(self._ids.index(id))
        changed, self._away = away ^ self._away, away
        for id in changed:
            header.setSectionHidden(self._ids.index(id), id in away)
        header.resizeSection(0, max(left, wanted))

    def show(self, wanted: list[str]) -> None:
        """Shows just these, in this order; ids that are no columns are passed over."""
        if wanted == self.shown():
            return
        first = self._ids[0]
        order = [first, *(id for id in wanted if id in self._titles and id != first)]
        self._arranging = True
        for visual, id in enumerate(order):
            self._header.moveSection(self._header.visualIndex(self._ids.index(id)), visual)
        for place, id in enumerate(self._ids):
            self._header.setSectionHidden(place, id not in order or id in self._away)
        self._away &= set(order)
        self._arranging = False

    def choose(self, at: QPoint) -> None:
        """Opens a menu of all columns but the first at a place on the screen."""
        menu = QMenu(self._header)
        menu.setObjectName("columns_menu")
        menu.aboutToHide.connect(menu.deleteLater)
        shown = self.shown()
        for id in self._ids[1:]:
            entry = menu.addAction(self._titles[id])
            assert entry is not None
            entry.setCheckable(True)
            entry.setChecked(id in shown)
            entry.toggled.connect(lambda on, id=id: self._put(id, on))
        menu.popup(at)

    def _put(self, id: str, on: bool) -> None:
        shown = [one for one in self.shown() if one != id]
        self.show([*shown, id] if on else shown)
        self.changed.emit(self.shown())

    def _moved(self, section: int, before: int, after: int) -> None:
        if not self._arranging:
            self.changed.emit(self.shown())
