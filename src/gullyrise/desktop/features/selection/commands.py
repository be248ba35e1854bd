"""Choosing bodies, and which of them are seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.needs import A_PART, A_SELECTION, ONE_BODY
from gullyrise.desktop.commands.registry import Run, action
from gullyrise.desktop.features.selection import similar as likes
from gullyrise.desktop.state.visibility import Key
from gullyrise.drawing.picking import Kind

if TYPE_CHECKING:
    from gullyrise.desktop.features.selection.controller import SelectionController
    from gullyrise.desktop.preferences.store import Settings
    from gullyrise.desktop.state.workbench import Workbench


def _seen(model: Workbench) -> set[Key]:
    """Bodies that are not hidden: what cannot be seen must not be chosen, and removed, unawares."""
    return {key for key in model.copies() if model.shown.visibility.opacity(key) > 0}


@action("bodies.hide", "Hide", "B H", needs=A_SELECTION, on=("part",))
def hide(model: Workbench) -> None:
    model.shown.look(model.shown.visibility.hiding(model.selection.bodies))
    model.selection.select_bodies(())


@action("bodies.only", "Only these, the others faded", "B O", needs=A_SELECTION, on=("part",))
def only(model: Workbench) -> None:
    model.shown.look(model.shown.visibility.seeing_only(model.selection.bodies))


@action("bodies.see-through", "See through these", "B T", needs=A_SELECTION, on=("part",))
def see_through(model: Workbench) -> None:
    model.shown.look(model.shown.visibility.seen_through(model.selection.bodies))


@action("bodies.peel", "Peel neighbours away by distance", "B D", needs=ONE_BODY, on=("part",))
def peel(model: Workbench) -> None:
    likes.peel(model)


@action("bodies.invert", "Choose all others", "B I", needs=A_PART)
def invert(model: Workbench) -> None:
    model.selection.select_bodies(_seen(model) - model.selection.bodies)


@action("bodies.alike-shape", "Choose all of this shape", "B L", needs=ONE_BODY, on=("part",))
def alike_shape(model: Workbench) -> None:
    likes.choose_by_shape(model)


@action("bodies.alike-name", "Choose all of this name", "B M", needs=A_SELECTION, on=("part",))
def alike_name(model: Workbench) -> None:
    likes.choose_by_name(model)


@action("bodies.alike-size", "Choose all of this size", "B Z", needs=A_SELECTION, on=("part",))
def alike_size(model: Workbench) -> None:
    likes.choose_by_size(model)


def _clicks_pick(kind: Kind) -> Run:
    def run(choosing: SelectionController) -> None:
        choosing.set_kind(kind)

    return run


pick_bodies = action("bodies.pick-bodies", "Clicks pick bodies", "B B")(_clicks_pick("body"))
pick_faces = action("bodies.pick-faces", "Clicks pick faces", "B F")(_clicks_pick("face"))
pick_edges = action("bodies.pick-edges", "Clicks pick edges", "B E")(_clicks_pick("edge"))
pick_corners = action("bodies.pick-corners", "Clicks pick corners", "B C")(_clicks_pick("vertex"))


@action("bodies.rectangle-way", "A rectangle takes what it touches, or what lies inside", "B J")
def rectangle_way(settings: Settings) -> None:
    now = settings["select.rectangle"]
    settings.set("select.rectangle", "inside" if now == "touching" else "touching")


@action("bodies.select-none", "Choose nothing", "B N")
def select_none(model: Workbench) -> None:
    model.selection.select_bodies(())


@action("bodies.select-all", "Choose all bodies that are seen", "Ctrl+A", "B A")
def select_all(model: Workbench) -> None:
    model.selection.select_bodies(_seen(model))


@action("bodies.remove", "Remove from the job", "B R", "Del", needs=A_SELECTION)
def remove(model: Workbench) -> None:
    model.document.remove(set(model.selection.parts))
