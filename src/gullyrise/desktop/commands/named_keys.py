"""Words that name keys: tooltips and captions say the keys that hold now, however the user changed them."""

from __future__ import annotations

from PyQt6.QtWidgets import QLabel, QLineEdit, QPushButton, QWidget

from gullyrise.desktop.commands.keymap import KeyMap

_RUNS, _TIP, _CAPTION = "runs", "tip", "caption"


def tip(widget: QWidget, id: str, words: str) -> None:
    """A tooltip, behind which the keys of an action are put."""
    widget.setProperty(_RUNS, id)
    widget.setProperty(_TIP, words)
    widget.setToolTip(words)


def caption(widget: QLabel | QPushButton | QLineEdit, id: str, words: str, keys: str) -> None:
    """A caption with the keys of an action in it. keys : how they stand there, such as ` ({})`; left out where it has none."""
    widget.setProperty(_RUNS, id)
    widget.setProperty(_CAPTION, [words, keys])


def name_keys(root: QWidget, keymap: KeyMap) -> None:
    """Puts the keys of now into the words of a widget and of all that it holds."""
    for widget in (root, *root.findChildren(QWidget)):
        id = widget.property(_RUNS)
        if not id:
            continue
        words = widget.property(_TIP)
        if words:
            keys = keymap.words_of(id)
            widget.setToolTip(f"{words} ({keys})" if keys else words)
        written = widget.property(_CAPTION)
        if written:
            first = next(iter(keymap.keys_of(id)), "")
            text = written[0].replace("{}", written[1].format(first) if first else "")
            if isinstance(widget, QLineEdit):
                widget.setPlaceholderText(text)
            elif isinstance(widget, (QLabel, QPushButton)):
                widget.setText(text)
