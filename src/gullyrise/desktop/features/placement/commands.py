"""Placing: the tray and the slip, moves of what is chosen, copies, beds, machines."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.features.placement.controller import Placing
    from gullyrise.desktop.features.placement.form import Slips
    from gullyrise.desktop.features.preferences.sheets import Sheets
    from gullyrise.desktop.shell.panel_layout import Folding


@action("place.slip", "Placing slip, or the receiving report", "P P", "F6")
def slip(folding: Folding) -> None:
    folding.slip()


@action("place.handles", "The tray under what is chosen", "P H")
def handles(placing: Placing) -> None:
    placing.show_handles(not placing.shows_handles)


@action("place.middle", "To the middle of the bed", "P M", needs="part")
def middle(placing: Placing) -> None:
    placing.to_middle()


@action("place.drop", "Drop on the bed", "P D", needs="part")
def drop(placing: Placing) -> None:
    placing.drop()


@action("place.lay", "Lay on this face", "P F", needs="part", on=("face",))
def lay(placing: Placing) -> None:
    placing.lay_on_pointed()


@action("place.best", "Stand on the best face", "P B", needs="part")
def best(slips: Slips) -> None:
    slips.suggest(stand_at_best=True)


@action("place.suggest", "Suggested placements", "P G", needs="part")
def suggest(slips: Slips) -> None:
    slips.suggest()


@action("place.reset", "Turned as it came", "P R", needs="part")
def reset(placing: Placing) -> None:
    placing.as_it_came()


@action("place.copy", "Copy as many times as the slip says", "P C", needs="part")
def copy(slips: Slips) -> None:
    slips.copy()


@action("place.arrange", "Arrange all on the bed", "P A", needs="part")
def arrange(placing: Placing) -> None:
    placing.arrange()


@action("place.align-faces", "Lay the first chosen face against the second", "P L", needs="part")
def align_faces(placing: Placing) -> None:
    placing.align_faces()


@action("place.align-axes", "Bring the first chosen axis onto the second", "P O", needs="part")
def align_axes(placing: Placing) -> None:
    placing.align_axes()


@action("place.fit-level", "Turn about the vertical to where it fits", "P T", needs="part")
def fit_level(slips: Slips) -> None:
    slips.fit_turned("about_z")


@action("place.fit-any", "Lay it so that it fits", "P U", needs="part")
def fit_any(slips: Slips) -> None:
    slips.fit_turned("any")


@action("place.machines", "Machine library", "P K")
def machines(sheets: Sheets) -> None:
    sheets.open_machines()


def _field(name: str) -> Run:
    def run(folding: Folding) -> None:
        folding.type_into(name)

    return run


type_place = action("place.type-place", "Type where it stands", "P V", needs="part")(_field("place_at"))
type_turn = action("place.type-turn", "Type a turn", "P W", needs="part")(_field("place_turn"))
type_size = action("place.type-size", "Type its size", "P S", needs="part")(_field("place_size"))


@action("place.stand-in", "Add a plain solid as a stand-in", "P N")
def stand_in(folding: Folding) -> None:
    folding.type_stand_in()


def _turn(axis: int) -> Run:
    def run(placing: Placing) -> None:
        placing.turn(axis, 90.0)

    return run


turn_x = action("place.turn-x", "Quarter turn about X", "P X", needs="part")(_turn(0))
turn_y = action("place.turn-y", "Quarter turn about Y", "P Y", needs="part")(_turn(1))
turn_z = action("place.turn-z", "Quarter turn about Z", "P Z", needs="part")(_turn(2))


def _mirror(axis: int) -> Run:
    def run(placing: Placing) -> None:
        placing.mirror(axis)

    return run


mirror_x = action("place.mirror-x", "Mirror along X", "P 7", needs="part")(_mirror(0))
mirror_y = action("place.mirror-y", "Mirror along Y", "P 8", needs="part")(_mirror(1))
mirror_z = action("place.mirror-z", "Mirror along Z", "P 9", needs="part")(_mirror(2))


def _nudge(axis: int, sign: int) -> Run:
    def run(placing: Placing) -> None:
        placing.nudge(axis, sign)

    return run


left = action("place.left", "Nudge to the left", "P Left", needs="part")(_nudge(0, -1))
right = action("place.right", "Nudge to the right", "P Right", needs="part")(_nudge(0, 1))
front = action("place.front", "Nudge to the front", "P Down", needs="part")(_nudge(1, -1))
back = action("place.back", "Nudge to the back", "P Up", needs="part")(_nudge(1, 1))
higher = action("place.higher", "Nudge up", "P PgUp", needs="part")(_nudge(2, 1))
lower = action("place.lower", "Nudge down", "P PgDown", needs="part")(_nudge(2, -1))
