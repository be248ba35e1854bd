"""What the section strip, the cut's frame, the measure card and the list of dimensions are tied to."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


def connect_judging(window: Window) -> None:
    """The traveller and the list of findings with the job and the view."""
    traveller, listed, findings = window.traveller, window.findings_list, window.findings
    traveller.limit_set.connect(lambda name, value: window.model.set_limit(name, value))
    traveller.limit_dragged.connect(window.model.set_limit)
    traveller.wanted.connect(window.do)
    traveller.finding_chosen.connect(window.looking.fly_to)
    listed.wanted.connect(window.do)
    listed.gone_to.connect(findings.go_to)
    listed.accepted.connect(findings.accept)


def connect_cutting(window: Window) -> None:
    """The strip and the frame on the bench with the cuts."""
    strip, cutting, hand = window.strip, window.cutting, window.bench.cut_hand
    strip.wanted.connect(window.do)
    strip.moved.connect(cutting.move_to)
    strip.slab.connect(cutting.keep_slab)
    strip.tilted.connect(cutting.tilt)
    strip.taken.connect(cutting.take)
    strip.speed_set.connect(lambda speed: window.settings.set("cut.speed", speed))
    hand.dragged.connect(cutting.aim)
    hand.held.connect(window.hint.show_tool)

    def changed() -> None:
        hand.show_cut(cutting.cut if cutting.handle_shown else None, cutting.box())
        if cutting.cut is None:
            window.split_slip.hide()
            window.profiling.lay_over(False)
        window.refresh_items()

    cutting.changed.connect(changed)


def connect_measuring(window: Window) -> None:
    """The card and the list in the traveller with what is measured and kept."""
    card, measuring = window.measure_card, window.measuring
    card.wanted.connect(window.do)
    card.fronted.connect(measuring.front)
    card.leg_pointed.connect(measuring.point_at_leg)
    measuring.changed.connect(lambda: window.traveller.reveal(card) if measuring.picked_by_hand else None)
    listed, kept = window.dimension_list, window.dimensions
    listed.wanted.connect(window.do)
    listed.chosen.connect(kept.choose)
    listed.removed.connect(kept.remove)
    listed.renamed.connect(kept.rename)
    listed.hidden.connect(kept.hide)
    listed.size_wanted.connect(kept.want)
    listed.mistyped.connect(lambda sentence: window.notices.say(sentence, True))
