"""Views, saved views, and how things are drawn."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PyQt6.QtCore import QSize

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.navigation import commands as commands
from gullyrise.desktop.features.navigation import display_commands as display_commands
from gullyrise.desktop.features.navigation.controller import NavigationController
from gullyrise.desktop.features.navigation.evidence import EvidenceMoves
from gullyrise.desktop.features.navigation.preferences import dial_look, habits_of
from gullyrise.desktop.features.navigation.view_shelf import PICTURE, ViewShelf
from gullyrise.desktop.ports import Sections


@dataclass(frozen=True, slots=True)
class NavigationFeature:
    controller: NavigationController
    shelf: ViewShelf


def attach(context: Context, sections: Sections) -> NavigationFeature:
    viewport, preferences, scene = context.viewport, context.preferences, context.scene
    shelf = ViewShelf(context.model, viewport)
    evidence = EvidenceMoves(context.window, context.model, context.notifier, viewport, sections)
    looking = NavigationController(
        context.model, context.notifier, context.status, preferences, context.commands, context.looks, context.floating,
        viewport, scene, sections, shelf, evidence,
    )  # fmt: skip

    def shelf_size(room: QSize) -> QSize:
        width = min(3 * (PICTURE[0] + 16) + 24, room.width() - 20)
        return QSize(width, min(shelf.wanted_height(width), room.height() - 140))

    def look_about() -> None:
        viewport.prefer(
            habits_of(preferences), glide_ms=preferences["view.glide"], named_parallel=preferences["view.named"] == "parallel",
            touching=preferences["select.rectangle"] == "touching",
        )  # fmt: skip

    def widen() -> None:
        if viewport.camera.field != preferences["view.field"]:
            viewport.moves.change_field(preferences["view.field"])

    context.floating.add_slip(shelf, shelf_size)
    preferences.follow(("pointer.", "view.glide", "view.named", "select.rectangle"), look_about)
    preferences.follow(("dial.",), lambda: viewport.wear_dial(dial_look(preferences)))
    preferences.follow(("view.field",), widen)
    preferences.follow(
        ("display.",),
        lambda: scene.show_display(
            replace(scene.display, strokes=preferences["display.strokes"], bodies=preferences["display.bodies"])
        ),
    )
    context.commands.serve(looking, viewport, viewport.moves, viewport.magnifier, scene, context.looks, preferences, evidence)
    return NavigationFeature(looking, shelf)
