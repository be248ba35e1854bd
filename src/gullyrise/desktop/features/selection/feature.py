"""What clicks and rectangles choose, and what of it is seen."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QSize

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.selection import commands as commands
from gullyrise.desktop.features.selection.bars import PickBar, VisibilityBar
from gullyrise.desktop.features.selection.controller import SelectionController
from gullyrise.desktop.viewport.key_walk import KeyWalk

_NARROW = 660


@dataclass(frozen=True, slots=True)
class SelectionFeature:
    controller: SelectionController
    pick_bar: PickBar
    visibility_bar: VisibilityBar


def attach(context: Context) -> SelectionFeature:
    model, viewport, preferences = context.model, context.viewport, context.preferences
    pick_bar, visibility_bar = PickBar(viewport), VisibilityBar(model, viewport)
    pick_bar.move(8, 40)
    choosing = SelectionController(model, context.notifier, viewport, pick_bar)
    viewport.picked.connect(choosing.take)
    viewport.boxed.connect(choosing.take_all)
    context.scene.putting.connect(choosing.show_chosen)
    pick_bar.wanted.connect(context.commands.do)
    visibility_bar.faded.connect(lambda share: model.shown.look(model.shown.visibility.faded(share)))
    visibility_bar.peeled.connect(lambda within: model.shown.look(model.shown.visibility.peeled(within)))
    visibility_bar.all_wanted.connect(lambda: context.commands.do("bodies.show-all"))
    model.document.changed.connect(lambda: pick_bar.setVisible(bool(model.job.parts)))

    def settle(room: QSize) -> None:
        pick_bar.stand(upright=room.width() < _NARROW or len(viewport.panes.shown) > 1)
        one = len(viewport.panes.shown) == 1
        beside = pick_bar.isVisible() and room.width() < _NARROW
        at = QPointF(16 + pick_bar.width(), 40) if beside else QPointF(8, 48 + pick_bar.height())
        viewport.captions.stand_legend(at if one else QPointF(8, 40))
        visibility_bar.move(8, max(room.height() - visibility_bar.height() - 56, 72))

    context.floating.add(settle, bar=True)
    preferences.follow(("select.rectangle",), lambda: pick_bar.show_way(touching=preferences["select.rectangle"] == "touching"))
    context.commands.serve(choosing, model, KeyWalk(viewport))
    return SelectionFeature(choosing, pick_bar, visibility_bar)
