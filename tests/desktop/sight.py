"""What of a window's words can be read: walks all that is visible, and says what is cut off, covered or said twice."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import QModelIndex, QPoint, QRect, Qt
from PyQt6.QtGui import QTextDocument
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QComboBox,
    QHeaderView,
    QLabel,
    QLineEdit,
    QListView,
    QPushButton,
    QSizePolicy,
    QStyle,
    QStyleOptionComboBox,
    QTableView,
    QTreeView,
    QWidget,
)

from gullyrise.desktop.widgets.number_field import NumberLine

_SLACK = 1


def name_of(widget: QWidget) -> str:
    own = widget
    names = []
    while own is not None and len(names) < 3:
        if own.objectName():
            names.append(own.objectName())
        own = own.parentWidget()
    return f"{type(widget).__name__} {'/'.join(reversed(names))}"


def words_of(widget: QWidget) -> str:
    text = getattr(widget, "text", None)
    return text() if callable(text) else ""


def seen(root: QWidget) -> Iterator[QWidget]:
    for widget in root.findChildren(QWidget):
        if widget.isVisible() and widget.window() is root.window():
            yield widget


def scrolls(area: QWidget, *, across: bool) -> bool:
    """Whether what lies outside of an area can be scrolled to."""
    if not isinstance(area, QAbstractScrollArea):
        return False
    policy = area.horizontalScrollBarPolicy() if across else area.verticalScrollBarPolicy()
    return policy != Qt.ScrollBarPolicy.ScrollBarAlwaysOff


def outside(widget: QWidget) -> str:
    """Where a widget sticks out of what holds it, and cannot be scrolled to."""
    rect, holder, free = QRect(QPoint(0, 0), widget.size()), widget, [False, False]
    while (above := holder.parentWidget()) is not None and not holder.isWindow():
        rect.translate(holder.pos())
        area = above.parentWidget()
        if isinstance(area, QAbstractScrollArea) and area.viewport() is above:
            free = [free[0] or scrolls(area, across=True), free[1] or scrolls(area, across=False)]
        if not free[0] and (rect.left() < -_SLACK or rect.right() > above.width() - 1 + _SLACK):
            return f"sticks out across {name_of(above)}: {rect.left()} to {rect.right()} of {above.width()}"
        if not free[1] and (rect.top() < -_SLACK or rect.bottom() > above.height() - 1 + _SLACK):
            return f"sticks out of {name_of(above)}: {rect.top()} to {rect.bottom()} of {above.height()}"
        holder = above
    return ""


def cut_words(widget: QWidget) -> str:
    """What of a widget's own words has no room in it."""
    if isinstance(widget, QLabel):
        return _cut_label(widget)
    if isinstance(widget, QAbstractButton):
        return _cut_button(widget)
    if isinstance(widget, QComboBox):
        option = QStyleOptionComboBox()
        widget.initStyleOption(option)
        style = widget.style()
        room = style.subControlRect(QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, widget)
        wanted = widget.fontMetrics().horizontalAdvance(widget.currentText())
        return f"{widget.currentText()!r} wants {wanted} of {room.width()}" if wanted > room.width() + _SLACK else ""
    if isinstance(widget, QLineEdit):
        shown = widget.text() or widget.placeholderText()
        wanted = widget.fontMetrics().horizontalAdvance(shown)
        # The writing mark and Qt's own margin of a field.
        room = widget.contentsRect().width() - 4
        spin = widget.parentWidget()
        if wanted > room and (not widget.text() or isinstance(spin, QAbstractSpinBox) or isinstance(widget, NumberLine)):
            return f"{shown!r} wants {wanted} of {room}"
    return ""


def _cut_label(label: QLabel) -> str:
    words, room = label.text(), label.contentsRect()
    if not words:
        return ""
    if label.wordWrap():
        wanted = label.heightForWidth(label.width())
        if wanted > label.height() + _SLACK:
            return f"{words[:60]!r} wants {wanted} of {label.height()} px down"
        longest = max((label.fontMetrics().horizontalAdvance(one) for one in _plain(words).split()), default=0)
        return f"{words[:60]!r} has a word of {longest} in {room.width()}" if longest > room.width() + _SLACK else ""
    wanted = max(label.fontMetrics().horizontalAdvance(line) for line in _plain(words).split("\n"))
    return f"{words[:60]!r} wants {wanted} of {room.width()}" if wanted > room.width() + _SLACK else ""


def _plain(words: str) -> str:
    if "<" not in words:
        return words.replace("&&", "&")
    document = QTextDocument()
    document.setHtml(words)
    return document.toPlainText()


def _cut_button(button: QAbstractButton) -> str:
    words = button.text().replace("&&", "\0").replace("&", "").replace("\0", "&")
    if not words:
        return ""
    metrics = button.fontMetrics()
    wanted = max(metrics.horizontalAdvance(line) for line in words.split("\n"))
    icon = 0 if button.icon().isNull() else button.iconSize().width() + 4
    beside = isinstance(button, QPushButton) or "\n" not in words
    room = button.width() - (icon if beside else 0)
    lines = metrics.height() * len(words.split("\n"))
    if wanted > room - 2:
        return f"{words[:60]!r} wants {wanted} of {room}"
    free = button.sizePolicy().horizontalPolicy() == QSizePolicy.Policy.Ignored
    if not free and button.sizeHint().width() > button.width() + _SLACK:
        return f"{words[:60]!r} wants {button.sizeHint().width()} of {button.width()} with what is round it"
    return f"{words[:60]!r} wants {lines} of {button.height()} px down" if lines > button.height() + _SLACK else ""


def rows_of(view: QAbstractItemView) -> Iterator[QModelIndex]:
    """Each row of a list or tree that is in sight, its first column."""
    index = view.indexAt(QPoint(4, 4))
    while index.isValid() and view.visualRect(index).top() < view.viewport().height():
        yield index
        index = view.indexBelow(index) if isinstance(view, QTreeView) else index.sibling(index.row() + 1, index.column())


def cut_cells(view: QAbstractItemView) -> Iterator[str]:
    if isinstance(view, QHeaderView):
        if view.orientation() == Qt.Orientation.Horizontal:
            model = view.model()
            for column in range(view.count()):
                words = model.headerData(column, Qt.Orientation.Horizontal)
                if words and not view.isSectionHidden(column):
                    wanted = view.fontMetrics().horizontalAdvance(str(words)) + 8
                    if wanted > view.sectionSize(column) + _SLACK:
                        yield f"head {words!r} wants {wanted} of {view.sectionSize(column)}"
        return
    for row in rows_of(view):
        columns = 1 if isinstance(view, QListView) else view.model().columnCount()
        for column in range(columns):
            index = row.sibling(row.row(), column)
            place = view.visualRect(index)
            words = index.data(Qt.ItemDataRole.DisplayRole)
            hidden = isinstance(view, (QTreeView, QTableView)) and view.isColumnHidden(column)
            if words and not hidden and view.sizeHintForIndex(index).width() > place.width() + _SLACK:
                yield f"cell {words!r} wants {view.sizeHintForIndex(index).width()} of {place.width()}"


def unread(root: QWidget) -> list[str]:
    """A sentence for each of a window's words that cannot be read as a whole."""
    out = []
    for widget in seen(root):
        if isinstance(widget, QAbstractItemView):
            out += [f"{name_of(widget)}: {found}" for found in cut_cells(widget)]
        cut = cut_words(widget)
        if cut:
            out.append(f"{name_of(widget)}: {cut}")
        told = words_of(widget) or isinstance(widget, (QComboBox, QLineEdit))
        where = outside(widget) if told else ""
        if where:
            out.append(f"{name_of(widget)} {words_of(widget)[:40]!r} {where}")
    return out


def overlapping(root: QWidget) -> list[str]:
    """A sentence for each two things beside each other of which one lies on the other. Whatever floats over the bench is beside
    what else does."""
    out = []
    for holder in (root, *seen(root)):
        children = [
            one for one in holder.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly) if one.isVisible()
        ]
        for number, one in enumerate(children):
            for other in children[number + 1 :]:
                both = one.geometry() & other.geometry()
                if both.width() > 2 and both.height() > 2 and not isinstance(holder, QAbstractScrollArea):
                    out.append(f"{name_of(one)} lies on {name_of(other)}: {both.width()} x {both.height()}")
    return out
