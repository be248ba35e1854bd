"""Placing: the tray and the panel, moves of what is chosen, copies, beds, machines."""

from __future__ import annotations

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.placement.controller import PlacementController
from gullyrise.desktop.features.placement.form import PlacementForm

form = ActionsOn(PlacementForm)
placing = ActionsOn(PlacementController)

form("place.slip", "Placement panel", "P P", "F6", do=lambda it: it.swap_panel())
placing("place.handles", "Tray under the selection", "P H", do=lambda it: it.show_handles(not it.shows_handles))
placing("place.middle", "To the middle of the bed", "P M", do=lambda it: it.to_middle(), needs=A_PART)
placing("place.drop", "Drop on the bed", "P D", do=lambda it: it.drop(), needs=A_PART)
placing("place.lay", "Lay on this face", "P F", do=lambda it: it.lay_on_pointed(), needs=A_PART, on=("face",))
form("place.best", "Stand on the best face", "P B", do=lambda it: it.suggest(stand_at_best=True), needs=A_PART)
form("place.suggest", "Suggested orientations", "P G", do=lambda it: it.suggest(), needs=A_PART)
placing("place.reset", "Revert the rotation", "P R", do=lambda it: it.as_it_came(), needs=A_PART)
form("place.copy", "Copy", "P C", do=lambda it: it.copy(), needs=A_PART)
placing("place.arrange", "Arrange all on the bed", "P A", do=lambda it: it.arrange(), needs=A_PART)
placing("place.align-faces", "Align two faces", "P L", do=lambda it: it.align_faces(), needs=A_PART)
placing("place.align-axes", "Align two axes", "P O", do=lambda it: it.align_axes(), needs=A_PART)
form("place.fit-level", "Turn about the vertical to fit", "P T", do=lambda it: it.fit_turned("about_z"), needs=A_PART)
form("place.fit-any", "Turn any way to fit", "P U", do=lambda it: it.fit_turned("any"), needs=A_PART)
form("place.type-place", "Type a position", "P V", do=lambda it: it.type_into("place_at"), needs=A_PART)
form("place.type-turn", "Type a rotation", "P W", do=lambda it: it.type_into("place_turn"), needs=A_PART)
form("place.type-size", "Type a size", "P S", do=lambda it: it.type_into("place_size"), needs=A_PART)
form("place.stand-in", "Add a fixture shape", "P N", do=lambda it: it.type_fixture())
placing("place.turn-x", "Rotate by 90° about X", "P X", do=lambda it: it.turn(0, 90.0), needs=A_PART)
placing("place.turn-y", "Rotate by 90° about Y", "P Y", do=lambda it: it.turn(1, 90.0), needs=A_PART)
placing("place.turn-z", "Rotate by 90° about Z", "P Z", do=lambda it: it.turn(2, 90.0), needs=A_PART)
placing("place.mirror-x", "Mirror along X", "P 7", do=lambda it: it.mirror(0), needs=A_PART)
placing("place.mirror-y", "Mirror along Y", "P 8", do=lambda it: it.mirror(1), needs=A_PART)
placing("place.mirror-z", "Mirror along Z", "P 9", do=lambda it: it.mirror(2), needs=A_PART)
placing("place.left", "Nudge left", "P Left", do=lambda it: it.nudge(0, -1), needs=A_PART)
placing("place.right", "Nudge right", "P Right", do=lambda it: it.nudge(0, 1), needs=A_PART)
placing("place.front", "Nudge to the front", "P Down", do=lambda it: it.nudge(1, -1), needs=A_PART)
placing("place.back", "Nudge to the back", "P Up", do=lambda it: it.nudge(1, 1), needs=A_PART)
placing("place.higher", "Nudge up", "P PgUp", do=lambda it: it.nudge(2, 1), needs=A_PART)
placing("place.lower", "Nudge down", "P PgDown", do=lambda it: it.nudge(2, -1), needs=A_PART)
