"""Choosing bodies, and which of them are seen."""

from __future__ import annotations

from collections.abc import Callable

from gullyrise.core.job.visibility import Key, Visibility
from gullyrise.core.picking.walking import WAYS, Way
from gullyrise.desktop.commands.needs import A_PART, A_SELECTION, ONE_BODY
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.selection import similar as likes
from gullyrise.desktop.features.selection.controller import SelectionController
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.key_walk import KeyWalk

model = ActionsOn(Workbench)
choosing = ActionsOn(SelectionController)
settings = ActionsOn(Settings)
walk = ActionsOn(KeyWalk, "B")
_SAID: dict[Way, str] = {"left": "leftward", "right": "rightward", "up": "upward", "down": "downward"}


def _seen(model: Workbench) -> set[Key]:
    """Bodies that are not hidden: what cannot be seen must not be chosen, and removed, unawares."""
    return {key for key in model.copies() if model.shown.visibility.opacity(key) > 0}


def _see(change: Callable[[Visibility, frozenset[Key]], Visibility]) -> Callable[[Workbench], None]:
    return lambda model: model.shown.look(change(model.shown.visibility, model.selection.bodies))


def _invert(model: Workbench) -> None:
    model.selection.select_bodies(_seen(model) - model.selection.bodies)


def _remove(model: Workbench) -> None:
    model.document.remove(set(model.selection.parts))


def _hide(model: Workbench) -> None:
    model.shown.look(model.shown.visibility.hiding(model.selection.bodies))
    model.selection.select_bodies(())


model("bodies.hide", "Hide", "B H", do=_hide, needs=A_SELECTION, on=("part",))
model("bodies.only", "Only these, the rest faded", "B O", do=_see(Visibility.seeing_only), needs=A_SELECTION, on=("part",))
model("bodies.see-through", "See through these", "B T", do=_see(Visibility.seen_through), needs=A_SELECTION, on=("part",))
model("bodies.peel", "Peel neighbours away", "B D", do=likes.peel, needs=ONE_BODY, on=("part",))
model("bodies.invert", "Invert the selection", "B I", do=_invert, needs=A_PART)
model("bodies.alike-shape", "Select all of the same shape", "B L", do=likes.choose_by_shape, needs=ONE_BODY, on=("part",))
model("bodies.alike-name", "Select all of the same name", "B M", do=likes.choose_by_name, needs=A_SELECTION, on=("part",))
model("bodies.alike-size", "Select all of the same size", "B Z", do=likes.choose_by_size, needs=A_SELECTION, on=("part",))
choosing("bodies.pick-bodies", "Clicks pick bodies", "B B", do=lambda it: it.set_kind("body"))
choosing("bodies.pick-faces", "Clicks pick faces", "B F", do=lambda it: it.set_kind("face"))
choosing("bodies.pick-edges", "Clicks pick edges", "B E", do=lambda it: it.set_kind("edge"))
choosing("bodies.pick-corners", "Clicks pick corners", "B C", do=lambda it: it.set_kind("vertex"))

settings(
    "bodies.rectangle-way",
    "Rectangle takes touched or enclosed",
    "B J",
    do=lambda it: it.swap("select.rectangle", "touching", "inside"),
)
model("bodies.select-none", "Select nothing", "B N", do=lambda it: it.selection.select_bodies(()))
model("bodies.select-all", "Select all", "Ctrl+A", "B A", do=lambda it: it.selection.select_bodies(_seen(it)))
model("bodies.remove", "Remove from the job", "B R", "Del", do=_remove, needs=A_SELECTION)


def _walk(way: Way) -> Callable[[KeyWalk], None]:
    return lambda it: it.go(way)


for _way in WAYS:
    _keys = f"Ctrl+Shift+{_way.capitalize()}"
    walk(f"bodies.walk-{_way}", f"Point {_SAID[_way]} at the next one", _keys, do=_walk(_way), needs=A_PART)
walk("bodies.walk-round", "Point on along the silhouette", "Ctrl+Shift+PgDown", do=lambda it: it.around(1), needs=A_PART)
walk("bodies.walk-back", "Point back along the silhouette", "Ctrl+Shift+PgUp", do=lambda it: it.around(-1), needs=A_PART)
walk("bodies.walk-next", "Point at the next of its kind", "Ctrl+Shift+End", do=lambda it: it.step(1), needs=A_PART)
walk("bodies.walk-before", "Point at the previous of its kind", "Ctrl+Shift+Home", do=lambda it: it.step(-1), needs=A_PART)
walk("bodies.press", "Click where it points", "Space", do=lambda it: it.press(), needs=A_PART)
walk("bodies.press-more", "Click and add to the selection", "Ctrl+Space", do=lambda it: it.press(add=True), needs=A_PART)
