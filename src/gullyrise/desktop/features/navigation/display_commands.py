"""How things are drawn."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import Run, action
from gullyrise.drawing.display import Surface

if TYPE_CHECKING:
    from gullyrise.desktop.features.navigation.controller import NavigationController
    from gullyrise.desktop.preferences.store import Settings
    from gullyrise.desktop.scene.scene_keeper import SceneKeeper
    from gullyrise.desktop.theme.wearing import Appearance
    from gullyrise.desktop.viewport.camera_moves import CameraMoves
    from gullyrise.desktop.viewport.magnifier import Magnifier


def _surface(surface: Surface) -> Run:
    def run(scene: SceneKeeper) -> None:
        scene.show_display(replace(scene.display, surface=surface))

    return run


def _switch(name: str) -> Run:
    def run(scene: SceneKeeper) -> None:
        turned: dict[str, Any] = {name: not getattr(scene.display, name)}
        scene.show_display(replace(scene.display, **turned))

    return run


shaded = action("display.shaded", "Shaded", "D S", on=("bench",))(_surface("shaded"))
facets = action("display.facets", "Flat facets", "D F")(_surface("facets"))
wireframe = action("display.wireframe", "Wireframe", "D W")(_surface("wireframe"))
stripes = action("display.stripes", "Curvature stripes", "D C")(_surface("stripes"))
facing = action("display.facing", "Inside and outside", "D I")(_surface("facing"))
edges = action("display.edges", "Edges on top", "D E", on=("bench",))(_switch("edges"))
see_through = action("display.see-through", "See through all bodies", "D H", on=("bench",))(_switch("see_through"))
bed = action("display.bed", "Bed and envelope", "D B")(_switch("bed"))
grid = action("display.grid", "Grid on the bed", "D G")(_switch("grid"))
rulers = action("display.rulers", "Rulers on the bed", "D R")(_switch("rulers"))
axes = action("display.axes", "Axes of the machine", "D A")(_switch("axes"))
scale_bar = action("display.scale-bar", "Scale bar", "D L")(_switch("scale_bar"))
quiet = action("display.quiet", "Quiet selection", "D Q")(_switch("quiet"))


def _stretch(axis: int) -> Run:
    def run(looking: NavigationController) -> None:
        looking.stretch(axis)

    return run


stretch_x = action("display.stretch-x", "Stretch the picture along X", "D X", needs=A_PART)(_stretch(0))
stretch_y = action("display.stretch-y", "Stretch the picture along Y", "D Y", needs=A_PART)(_stretch(1))
stretch_z = action("display.stretch-z", "Stretch the picture along Z", "D U", needs=A_PART)(_stretch(2))


@action("display.no-stretch", "Picture as the part is", "D N")
def no_stretch(moves: CameraMoves) -> None:
    moves.draw_out((1.0, 1.0, 1.0))


@action("display.strokes", "Show strokes on the bench, for teaching", "D K")
def strokes(settings: Settings) -> None:
    settings.set("display.strokes", not settings["display.strokes"])


@action("display.theme", "Limestone or Slate", "D T", on=("bench",))
def theme(wearing: Appearance) -> None:
    wearing.swap_theme()


def _put_away(magnifier: Magnifier) -> None:
    magnifier.hold(False)


@action("display.magnifier", "Magnifier while held", "Q", let_go=_put_away)
def magnify(magnifier: Magnifier) -> None:
    magnifier.hold(not magnifier.held)
