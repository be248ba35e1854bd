"""What the section strip, the cut's frame, the measure card and the lists in the traveller are tied to."""

from __future__ import annotations

from gullyrise.desktop.features.checks.findings import Findings
from gullyrise.desktop.features.checks.findings_list import FindingsList
from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.measure.card import MeasureCard
from gullyrise.desktop.features.measure.controller import Measuring
from gullyrise.desktop.features.measure.dimension_list import DimensionList
from gullyrise.desktop.features.measure.dimensions import Dimensions
from gullyrise.desktop.features.sections.controller import Cutting
from gullyrise.desktop.features.sections.panel import SectionStrip
from gullyrise.desktop.features.sections.plane_handle import CutHand
from gullyrise.desktop.features.sections.profile_view import Profiling
from gullyrise.desktop.features.sections.split_form import SplitSlip
from gullyrise.desktop.ports import Commands, Navigator, Notifier, Preferences, StatusLine
from gullyrise.desktop.scene.scene_keeper import BenchScene
from gullyrise.desktop.state.document_model import BenchJob


def connect_judging(
    model: BenchJob, commands: Commands, navigator: Navigator, traveller: Traveller, listed: FindingsList, findings: Findings
) -> None:
    """The traveller and the list of findings with the job and the view."""
    traveller.limit_set.connect(lambda name, value: model.set_limit(name, value))
    traveller.limit_dragged.connect(model.set_limit)
    traveller.wanted.connect(commands.do)
    traveller.finding_chosen.connect(navigator.fly_to)
    listed.wanted.connect(commands.do)
    listed.gone_to.connect(findings.go_to)
    listed.accepted.connect(findings.accept)


def connect_cutting(
    commands: Commands, preferences: Preferences, status: StatusLine, hand: CutHand, scene: BenchScene, cutting: Cutting,
    strip: SectionStrip, split: SplitSlip, profiling: Profiling,
) -> None:  # fmt: skip
    """The strip and the frame on the bench with the cuts."""
    strip.wanted.connect(commands.do)
    strip.moved.connect(cutting.move_to)
    strip.slab.connect(cutting.keep_slab)
    strip.tilted.connect(cutting.tilt)
    strip.taken.connect(cutting.take)
    strip.speed_set.connect(lambda speed: preferences.set("cut.speed", speed))
    hand.dragged.connect(cutting.aim)
    hand.held.connect(status.show_tool)

    def changed() -> None:
        hand.show_cut(cutting.cut if cutting.handle_shown else None, cutting.box())
        if cutting.cut is None:
            split.hide()
            profiling.lay_over(False)
        scene.refresh()

    cutting.changed.connect(changed)


def connect_measuring(
    commands: Commands, notifier: Notifier, traveller: Traveller, measuring: Measuring, card: MeasureCard, kept: Dimensions,
    listed: DimensionList,
) -> None:  # fmt: skip
    """The card and the list in the traveller with what is measured and kept."""
    card.wanted.connect(commands.do)
    card.fronted.connect(measuring.front)
    card.leg_pointed.connect(measuring.point_at_leg)
    measuring.changed.connect(lambda: traveller.reveal(card) if measuring.picked_by_hand else None)
    listed.wanted.connect(commands.do)
    listed.chosen.connect(kept.choose)
    listed.removed.connect(kept.remove)
    listed.renamed.connect(kept.rename)
    listed.hidden.connect(kept.hide)
    listed.size_wanted.connect(kept.want)
    listed.mistyped.connect(lambda sentence: notifier.say(sentence, True))
