"""Choosing bodies, and which of them are seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop import likes
from gullyrise.desktop.actions.registry import Run, action
from gullyrise.desktop.bench.picking import Kind
from gullyrise.desktop.sight import Key

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


def _seen(window: Window) -> set[Key]:
    """Bodies that are not hidden: what cannot be seen must not be chosen, and removed, unawares."""
    return {key for key in window.model.copies() if window.model.sight.opacity(key) > 0}


@action("bodies.hide", "Hide", "B H", needs="selection", on=("part",))
def hide(window: Window) -> None:
    model = window.model
    model.look(model.sight.hiding(model.bodies))
    model.select_bodies(())


@action("bodies.only", "Only these, the others faded", "B O", needs="selection", on=("part",))
def only(window: Window) -> None:
    model = window.model
    model.look(model.sight.seeing_only(model.bodies))


@action("bodies.see-through", "See through these", "B T", needs="selection", on=("part",))
def see_through(window: Window) -> None:
    model = window.model
    model.look(model.sight.seen_through(model.bodies))


@action("bodies.show-all", "Show all", "B S", on=("part", "bench"))
def show_all(window: Window) -> None:
    window.parts.go_into(())
    window.model.look(window.model.sight.everything())


@action("bodies.peel", "Peel neighbours away by distance", "B D", needs="one", on=("part",))
def peel(window: Window) -> None:
    likes.peel(window.model)


@action("bodies.invert", "Choose all others", "B I", needs="part")
def invert(window: Window) -> None:
    window.model.select_bodies(_seen(window) - window.model.bodies)


@action("bodies.alike-shape", "Choose all of this shape", "B L", needs="one", on=("part",))
def alike_shape(window: Window) -> None:
    likes.choose_by_shape(window.model)


@action("bodies.alike-name", "Choose all of this name", "B M", needs="selection", on=("part",))
def alike_name(window: Window) -> None:
    likes.choose_by_name(window.model)


@action("bodies.alike-size", "Choose all of this size", "B Z", needs="selection", on=("part",))
def alike_size(window: Window) -> None:
    likes.choose_by_size(window.model)


def _clicks_pick(kind: Kind) -> Run:
    def run(window: Window) -> None:
        window.choosing.set_kind(kind)

    return run


pick_bodies = action("bodies.pick-bodies", "Clicks pick bodies", "B B")(_clicks_pick("body"))
pick_faces = action("bodies.pick-faces", "Clicks pick faces", "B F")(_clicks_pick("face"))
pick_edges = action("bodies.pick-edges", "Clicks pick edges", "B E")(_clicks_pick("edge"))
pick_corners = action("bodies.pick-corners", "Clicks pick corners", "B C")(_clicks_pick("vertex"))


@action("bodies.rectangle", "Choose by rectangle: draw it next", "B W", needs="part")
def rectangle(window: Window) -> None:
    window.arm("choose")


@action("bodies.rectangle-way", "A rectangle takes what it touches, or what lies inside", "B J")
def rectangle_way(window: Window) -> None:
    now = window.settings["select.rectangle"]
    window.settings.set("select.rectangle", "inside" if now == "touching" else "touching")


@action("bodies.select-none", "Choose nothing", "B N")
def select_none(window: Window) -> None:
    window.model.select_bodies(())


@action("bodies.select-all", "Choose all bodies that are seen", "Ctrl+A", "B A")
def select_all(window: Window) -> None:
    window.model.select_bodies(_seen(window))


@action("bodies.remove", "Remove from the job", "B R", "Del", needs="selection")
def remove(window: Window) -> None:
    window.model.remove(set(window.model.selection))
