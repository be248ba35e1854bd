"""How things are drawn."""

from __future__ import annotations

from collections.abc import Callable

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.navigation.controller import NavigationController
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.scene.scene_keeper import SceneKeeper
from gullyrise.desktop.theme.appearance import Appearance
from gullyrise.desktop.viewport.camera_moves import CameraMoves
from gullyrise.desktop.viewport.magnifier import Magnifier
from gullyrise.drawing.display import BODY_COLOURS, BodyColours

scene = ActionsOn(SceneKeeper)
looking = ActionsOn(NavigationController)
moves = ActionsOn(CameraMoves)
settings = ActionsOn(Settings)
wearing = ActionsOn(Appearance)
magnifier = ActionsOn(Magnifier, "D")


def _colour(choice: BodyColours) -> Callable[[Settings], None]:
    return lambda it: it.set("display.bodies", choice)


scene("display.shaded", "Shaded", "D S", do=lambda it: it.show_surface("shaded"), on=("bench",))
scene("display.facets", "Flat facets", "D F", do=lambda it: it.show_surface("facets"))
scene("display.wireframe", "Wireframe", "D W", do=lambda it: it.show_surface("wireframe"))
scene("display.stripes", "Curvature stripes", "D C", do=lambda it: it.show_surface("stripes"))
scene("display.facing", "Inside and outside", "D I", do=lambda it: it.show_surface("facing"))
for _n, (_choice, _title) in enumerate(BODY_COLOURS.items(), 1):
    _words = f"Bodies: {_title[:1].lower()}{_title[1:]}"
    settings(f"display.bodies-{_choice}", _words, f"D {_n}", do=_colour(_choice))
scene("display.edges", "Edges on top", "D E", do=lambda it: it.switch("edges"), on=("bench",))
scene("display.see-through", "See through all bodies", "D H", do=lambda it: it.switch("see_through"), on=("bench",))
scene("display.bed", "Bed and envelope", "D B", do=lambda it: it.switch("bed"))
scene("display.grid", "Grid on the bed", "D G", do=lambda it: it.switch("grid"))
scene("display.rulers", "Rulers on the bed", "D R", do=lambda it: it.switch("rulers"))
scene("display.axes", "Axes of the machine", "D A", do=lambda it: it.switch("axes"))
scene("display.scale-bar", "Scale bar", "D L", do=lambda it: it.switch("scale_bar"))
scene("display.quiet", "Quiet selection", "D Q", do=lambda it: it.switch("quiet"))
looking("display.stretch-x", "Stretch the picture along X", "D X", do=lambda it: it.stretch(0), needs=A_PART)
looking("display.stretch-y", "Stretch the picture along Y", "D Y", do=lambda it: it.stretch(1), needs=A_PART)
looking("display.stretch-z", "Stretch the picture along Z", "D U", do=lambda it: it.stretch(2), needs=A_PART)
moves("display.no-stretch", "No stretch", "D N", do=lambda it: it.draw_out((1.0, 1.0, 1.0)))
settings("display.strokes", "Show strokes on the bench", "D K", do=lambda it: it.swap("display.strokes"))
wearing("display.theme", "Light or dark theme", "D T", do=lambda it: it.swap_theme(), on=("bench",))

magnifier("display.magnifier", "Magnifier while held", "Q", do=lambda it: it.hold(not it.held), let_go=lambda it: it.hold(False))
