"""Getting round."""

from __future__ import annotations

from gullyrise.desktop.commands.needs import A_PART, A_SELECTION
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.navigation.controller import NavigationController
from gullyrise.desktop.features.navigation.evidence import EvidenceMoves
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.viewport.camera_moves import CameraMoves
from gullyrise.desktop.viewport.widget import Viewport

looking = ActionsOn(NavigationController, "V")
moves = ActionsOn(CameraMoves, "V")
settings = ActionsOn(Settings)
viewport = ActionsOn(Viewport)
evidence = ActionsOn(EvidenceMoves)

looking("view.front", "Front", "V F", do=lambda it: it.look("front"), on=("bench",))
looking("view.back", "Back", "V B", do=lambda it: it.look("back"))
looking("view.left", "Left", "V L", do=lambda it: it.look("left"))
looking("view.right", "Right", "V R", do=lambda it: it.look("right"), on=("bench",))
looking("view.top", "Top", "V T", do=lambda it: it.look("top"), on=("bench",))
looking("view.underside", "Underside", "V U", do=lambda it: it.look("underside"))
looking("view.isometric", "Isometric", "V I", do=lambda it: it.look("isometric"), on=("bench",))
looking("view.dimetric", "Dimetric", "V D", do=lambda it: it.look("dimetric"))
looking("view.trimetric", "Trimetric", "V M", do=lambda it: it.look("trimetric"))
looking("view.normal", "Straight at a face", "V N", do=lambda it: it.straight(), needs=A_PART, on=("face",))
moves("view.centre", "Centre what is under the pointer", "V C", do=lambda it: it.centre_pointer(), on=("part",))
looking("view.all", "All in view", "Home", "V A", do=lambda it: it.frame_all(), on=("bench",))
looking("view.selection", "Selection in view", "Shift+Home", do=lambda it: it.frame_selection(), needs=A_SELECTION, on=("part",))
moves("view.before", "Previous view", "Backspace", do=lambda it: it.go(back=True))
moves("view.after", "Next view", "Shift+Backspace", do=lambda it: it.go(back=False))
moves("view.projection", "Parallel or perspective", "V P", do=lambda it: it.swap_projection(), on=("bench",))
looking("view.wider", "Wider field of view", "V W", do=lambda it: it.widen(5))
looking("view.slimmer", "Narrower field of view", "V H", do=lambda it: it.widen(-5))
looking("view.save", "Save this view", "V S", do=lambda it: it.save(), on=("bench",))
looking("view.shelf", "Saved views", "V G", do=lambda it: it.open_shelf())
looking("view.four", "Four panes or one", "F8", "V Q", do=lambda it: it.swap_four())
looking("view.enlarge", "Enlarge this pane or put it back", "F7", "V E", do=lambda it: it.enlarge())
looking("view.rectangle", "Zoom to a rectangle", "V Z", do=lambda it: it.arm("frame"))

evidence("check.evidence", "Show the evidence again", "F4", "K E", do=lambda it: it.again(), needs=A_PART)

settings("view.free", "Free or upright orbit", "V O", do=lambda it: it.swap("pointer.turning", "upright", "free"))
viewport("view.dial", "Type heading and elevation", "V Y", do=lambda it: it.dial.type_bearing())
settings("view.dial-shown", "Bearing dial", "V J", do=lambda it: it.swap("dial.shown"))
moves("view.turn-left", "Orbit left by 15°", "Left", do=lambda it: it.turn_by(-15, 0))
moves("view.turn-right", "Orbit right by 15°", "Right", do=lambda it: it.turn_by(15, 0))
moves("view.turn-up", "Orbit up by 15°", "Up", do=lambda it: it.turn_by(0, 15))
moves("view.turn-down", "Orbit down by 15°", "Down", do=lambda it: it.turn_by(0, -15))
moves("view.quarter-left", "Orbit left by 90°", "Shift+Left", do=lambda it: it.turn_by(-90, 0))
moves("view.quarter-right", "Orbit right by 90°", "Shift+Right", do=lambda it: it.turn_by(90, 0))
moves("view.quarter-up", "Orbit up by 90°", "Shift+Up", do=lambda it: it.turn_by(0, 90))
moves("view.quarter-down", "Orbit down by 90°", "Shift+Down", do=lambda it: it.turn_by(0, -90))
moves("view.slide-left", "Pan left", "Ctrl+Left", do=lambda it: it.slide_by(-0.1, 0))
moves("view.slide-right", "Pan right", "Ctrl+Right", do=lambda it: it.slide_by(0.1, 0))
moves("view.slide-up", "Pan up", "Ctrl+Up", do=lambda it: it.slide_by(0, 0.1))
moves("view.slide-down", "Pan down", "Ctrl+Down", do=lambda it: it.slide_by(0, -0.1))
moves("view.roll-left", "Roll left by 15°", ",", do=lambda it: it.roll_by(-15))
moves("view.roll-right", "Roll right by 15°", ".", do=lambda it: it.roll_by(15))
moves("view.nearer", "Zoom in", "+", do=lambda it: it.zoom_by(0.8))
moves("view.farther", "Zoom out", "-", do=lambda it: it.zoom_by(1.25))

moves("view.ahead", "Ahead through what is there", "PgUp", do=lambda it: it.go_on(0.08))
moves("view.away", "Straight back", "PgDown", do=lambda it: it.go_on(-0.08))
looking("bodies.rectangle", "Select by rectangle", "B W", do=lambda it: it.arm("choose"), needs=A_PART)
