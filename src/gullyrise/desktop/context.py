"""What features are attached to."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.commands.runner import ActionRunner
from gullyrise.desktop.ports import FilePicker, FloatingLayout, Notifier, PanelPlaces, StatusLine
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.scene.scene_keeper import SceneKeeper
from gullyrise.desktop.state.task_runner import TaskRunner
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.theme.appearance import Appearance
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.palette import Palette


@dataclass(frozen=True, slots=True)
class Context:
    """Of one window, the parent of what stands beside it. A feature hands its controllers just what they use of this."""

    window: QWidget
    model: Workbench
    tasks: TaskRunner
    preferences: Settings
    looks: Appearance
    notifier: Notifier
    status: StatusLine
    files: FilePicker
    commands: ActionRunner
    viewport: Viewport
    scene: SceneKeeper
    panels: PanelPlaces
    floating: FloatingLayout

    @property
    def palette(self) -> Palette:
        """That of now; `looks.changed` tells of others."""
        return self.looks.palette
