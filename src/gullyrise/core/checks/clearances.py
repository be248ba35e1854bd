"""Clearances: is there room between the bodies, or do they run into each other?"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from gullyrise.core.checks.protocol import Deed, FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, share_under
from gullyrise.core.checks.tally import Tally, tallied
from gullyrise.core.gaps.between import Between, between
from gullyrise.core.gaps.by_face import gaps_of_faces
from gullyrise.core.gaps.pieces import Piece, pieces_of
from gullyrise.core.gaps.rounds import Fitting, Round, fittings, rounds_of, rounds_of_mesh
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.material import near_boxes
from gullyrise.core.geometry.spots import Spot, spot
from gullyrise.core.machines.limit_rows import LimitRow
from gullyrise.core.machines.limits import PairGap
from gullyrise.core.number_words import given, number
from gullyrise.core.part import Body, Part
from gullyrise.core.progress import Progress

ROW = Row(
    id="clearances", order=5, title="Clearances", measure="gap to the next body", unit="mm", placed=False, machine=False,
    version=4, between=True, second_key="C", judged_by="min_gap", limits=(LimitRow("min_gap", "at least"),),
    kinds=(
        ("gap", "Gap"), ("overlap", "Overlap"), ("perhaps-overlap", "Possible overlap"), ("meet", "Contact"),
        ("no-gap", "No gap"), ("apart", "Apart"),
    ),
    deeds=(Deed("Matrix of pairs", "check.matrix", "Show every pair, and say what is wanted of each"),),
)  # fmt: skip

METHOD = (
    "Smallest distance between triangles by bounding-volume trees, between solids from their own surfaces where triangles come "
    "as near as they may be off; inside or outside by the winding number; shared volume by a boolean of closed bodies, depth "
    "from its deepest point by branch and bound; holes and shafts from exact or fitted cylinders."
)
GAP = "gap"
"""Code of a finding."""
_EXACT_PAIRS, _MOST_PAIRS = 300, 12_000
_FAR = 10.0
_SHOWN_TO = 5.0
_LEAST_CEILING = 1e-3
TOUCHES_WITHIN = 0.01
"""mm up to which bodies that are to touch do."""


@dataclass(frozen=True, slots=True)
class Limits:
    """Smallest gap wanted between bodies, mm, and what is wanted of single pairs."""

    min_gap: float
    pair_gaps: tuple[PairGap, ...] | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Pair:
    """Two bodies by name and what lies between them. fits : holes and shafts that go together"""

    a: str
    b: str
    between: Between
    both_closed: bool
    fits: tuple[Fitting, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Evidence:
    """name : of the part
    far : how many pairs were not measured, lying more than `reach` mm apart
    bodies : names in order
    values : per copy, gaps of faces as far as the ceiling, mm
    left : how many near pairs were too many to measure
    """

    name: str
    bodies: tuple[str, ...]
    pairs: tuple[Pair, ...]
    far: int
    reach: float
    ceiling: float
    values: tuple[np.ndarray, ...]
    tally: Tally | None
    left: int = 0


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome a pair of bodies; for very many bodies, one more for all pairs that lie far apart by their boxes."""
    part = snapshot.part
    copies = [
        (name, body, mesh, place)
        for (name, body, mesh), place in zip(part.copies(), (p for body in part.bodies for p in body.placements), strict=True)
    ]
    pieces = pieces_of(copies)
    wanted = max([limits.min_gap, *(pair.gap or 0.0 for pair in limits.pair_gaps or ())])
    pairs, reach, left = _near_pairs(pieces, wanted)
    far = len(pieces) * (len(pieces) - 1) // 2 - len(pairs) - left
    rounds = _Rounds(part)
    measured = []
    for done, (a, b) in enumerate(pairs):
        progress("measuring gaps", done, len(pairs))
        fits = tuple(fittings(rounds.of(a), rounds.of(b))) if a.box.gap_to(b.box) <= 0 else ()
        measured.append(Pair(a.name, b.name, between(a, b), a.closed and b.closed, fits))
    ceiling = max(_SHOWN_TO * limits.min_gap, _LEAST_CEILING)
    values: tuple[np.ndarray, ...] = ()
    tally = None
    if pairs:
        progress("measuring gaps of faces", 0, 0)
        values = gaps_of_faces(pieces, [len(mesh.faces) for _, _, mesh, _ in copies], ceiling)
        areas = np.concatenate([mesh.face_areas() for _, _, mesh, _ in copies])
        tally = tallied(np.concatenate(values), areas, 0.0, ceiling)
    names = tuple(piece.name for piece in pieces)
    return _outcomes(Evidence(part.name, names, tuple(measured), far, reach, ceiling, values, tally, left), limits)


def _near_pairs(pieces: list[Piece], wanted: float) -> tuple[list[tuple[Piece, Piece]], float, int]:
    """(pairs to be measured, how far apart all others are at least by their boxes, how many nearer ones were too many)."""
    low, high = (np.array([getattr(piece.box, end) for piece in pieces]).reshape(-1, 3) for end in ("low", "high"))
    reach = max(5.0, _FAR * wanted)
    if len(pieces) * (len(pieces) - 1) // 2 <= _EXACT_PAIRS:
        reach = np.inf
    index = near_boxes(low, high, reach)
    if len(index) > _MOST_PAIRS:
        # Of very many only those that could come too near.
        reach = 1.5 * wanted + 1e-6 * float(np.abs(high).max(initial=0.0))
        index = near_boxes(low, high, reach)
    apart = np.linalg.norm(np.maximum(low[index[:, 0]] - high[index[:, 1]], low[index[:, 1]] - high[index[:, 0]]).clip(0), axis=1)
    index = index[apart <= reach]
    order = np.argsort(apart[apart <= reach], kind="stable")[:_MOST_PAIRS] if len(index) > _MOST_PAIRS else np.arange(len(index))
    index = index[np.sort(order)]
    index = index[np.lexsort((index[:, 1], index[:, 0]))]
    return [(pieces[a], pieces[b]) for a, b in index.tolist()], float(reach), int((apart <= reach).sum()) - len(index)


def judged_anew(outcomes: tuple[Outcome, ...], limits: Limits) -> tuple[Outcome, ...] | None:
    """The verdicts under other limits; a first look where gaps beyond the ceiling would be asked for."""
    evidence = outcomes[0].evidence
    if not isinstance(evidence, Evidence):
        return None
    found = _outcomes(evidence, limits)
    wanted = max([limits.min_gap, *(pair.gap or 0.0 for pair in limits.pair_gaps or ())])
    if wanted <= evidence.ceiling / 1.5 and (not evidence.far or wanted < evidence.reach):
        return found
    return tuple(replace(one, first_look=True) for one in found)


class _Rounds:
    """Round faces of pieces, found when first asked for."""

    def __init__(self, part: Part) -> None:
        self._copies: list[tuple[Body, Transform]] = [(body, place) for body in part.bodies for place in body.placements]
        self._kept: dict[int, list[Round]] = {}

    def of(self, piece: Piece) -> list[Round]:
        found = self._kept.get(id(piece))
        if found is None:
            body, place = self._copies[piece.copy]
            found = [one.placed(place) for one in rounds_of(body)] if body.facts is not None else rounds_of_mesh(piece.mesh)
            self._kept[id(piece)] = found
        return found


def _outcomes(evidence: Evidence, limits: Limits) -> tuple[Outcome, ...]:
    if not evidence.pairs and not evidence.far and not evidence.left:
        why = "There is one body, so there is nothing to keep clear of."
        outcome = Outcome("clearances", evidence.name, "pass", why, None, _nothing(), (), METHOD, 0.0, evidence=evidence)
        return (replace(outcome, nothing=True),)
    outcomes = [judged_pair(pair, limits) for pair in evidence.pairs]
    if evidence.far:
        why = f"{evidence.far} further pairs of bodies lie more than {given(evidence.reach)} mm apart by their boxes."
        outcomes.append(Outcome("clearances", evidence.name, "pass", why, None, _nothing(), (), METHOD, 0.0))
    if evidence.left:
        why = (
            f"{evidence.left:,} more pairs of bodies come as near as {given(evidence.reach)} mm by their boxes and "
            "were not measured: there are too many; check the file in parts."
        )
        outcomes.append(Outcome("clearances", evidence.name, "review", why, None, _nothing(), (), METHOD, None))
    field = None
    if evidence.values:
        field = FaceField("gap to the next body", "mm", evidence.values, limits.min_gap, bad_below=True, tally=evidence.tally)
    outcomes[0] = replace(outcomes[0], field=field, evidence=evidence)
    return tuple(outcomes)


def _nothing() -> dict[str, Any]:
    return {"distance": None, "point_a": None, "point_b": None, "interference_volume": None}


def wish_for(a: str, b: str, limits: Limits) -> PairGap:
    """What is wanted of a pair: its own wish, or the gap that holds for all."""
    own = next((pair for pair in limits.pair_gaps or () if pair.is_of(a, b)), None)
    if own is None:
        return PairGap(a=a, b=b, kind="moving", gap=limits.min_gap)
    return own if own.gap is not None else own.model_copy(update={"gap": limits.min_gap})


def judged_pair(pair: Pair, limits: Limits) -> Outcome:
    """The verdict on one pair, without colours."""
    found, wish = pair.between, wish_for(pair.a, pair.b, limits)
    verdict, why, finding = _verdict(pair, wish)
    measured = {
        "distance": found.distance,
        "point_a": list(spot(found.point_a)),
        "point_b": list(spot(found.point_b)),
        "interference_volume": found.volume,
    }
    if pair.fits:
        why += " " + _fit_words(pair.fits[0])
    worst = Worst(found.distance, "mm", spot((found.point_a + found.point_b) / 2))
    findings = () if finding is None else (finding,)
    sampling = (
        "From the exact surfaces of both."
        if found.exact
        else "Every triangle of both; to the rounding of their coordinates and what the facets of round faces hide."
    )
    return Outcome(
        "clearances", (pair.a, pair.b), verdict, why, worst, measured, findings, METHOD, found.error, sampling=sampling
    )


def _fit_words(fit: Fitting) -> str:
    like = f", like {fit.like}" if fit.like else ", like no preferred fit"
    return f"Hole ⌀ {number(fit.hole)} on shaft ⌀ {number(fit.shaft)}: {number(fit.clearance)} mm of clearance{like}."


def _verdict(pair: Pair, wish: PairGap) -> tuple[Verdict, str, Finding | None]:
    found, both, names = pair.between, (pair.a, pair.b), f"{pair.a} and {pair.b}"
    gap, wanted = found.distance, wish.gap or 0.0
    place = spot((found.point_a + found.point_b) / 2)
    lines = np.stack([found.point_a, found.point_b])[None]
    if found.overlaps and (found.sure or found.depth is None):
        return _overlapping(pair, wish, place)
    if found.overlaps:
        return _perhaps_overlapping(pair, wish, place)
    if gap == 0.0 and not pair.both_closed:
        open_one = Finding(
            f"{names} meet",
            0.0,
            "mm",
            place,
            past=1.0,
            remedy="close the open surface, then check again",
            code="meet",
            of=both,
            shown="across",
        )
        why = f"{names} meet; one of them is open, so what they share cannot be measured."
        return "review" if wanted == 0 or wish.kind != "moving" else "fail", why, open_one
    if wish.kind != "moving":
        return _touching(pair, wish, place, lines)
    share = share_under(gap, wanted)
    remedy = f"move them apart by {number(max(wanted - gap, 0.0))} mm, or take as much off one of them"
    near = Finding(
        f"gap between {names}",
        gap,
        "mm",
        place,
        past=share,
        remedy=remedy,
        lines=lines,
        code=GAP,
        of=both,
        shown="across",
        ends=_ends(pair),
    )
    if gap < wanted - found.error:
        touch = "touch" if gap == 0.0 else f"are {number(gap, apart_from=wanted)} mm apart"
        return "fail", f"{names} {touch} where {given(wanted)} mm is wanted.", near
    if gap <= wanted + found.error:
        apart = "touch" if gap == 0.0 else f"are {number(gap)} mm apart"
        why = f"{names} {apart}, within ± {number(found.error)} mm of the {given(wanted)} mm wanted."
        return "review", why, near
    if not pair.both_closed:
        why = f"{names} are {number(gap)} mm apart, but one is open, so inside and outside are not sure."
        return "review", why, None
    return "pass", f"{names} are {number(gap)} mm apart; {given(wanted)} mm is wanted.", None


def _ends(pair: Pair) -> tuple[Spot, Spot] | None:
    """Where the two come nearest; none where they touch."""
    found = pair.between
    return (spot(found.point_a), spot(found.point_b)) if found.distance > 0 else None


def _overlapping(pair: Pair, wish: PairGap, place: tuple[float, float, float]) -> tuple[Verdict, str, Finding | None]:
    found, both, names = pair.between, (pair.a, pair.b), f"{pair.a} and {pair.b}"
    shared = "an unknown volume" if found.volume is None else f"{number(found.volume)} mm³"
    depth = "" if found.depth is None else f", {number(found.depth)} mm deep"
    most = wish.gap or 0.0
    if wish.kind == "pressed" and found.depth is not None and found.depth <= most + found.error:
        sure = found.depth <= most - found.error
        return "pass" if sure else "review", f"{names} are pressed together{depth}; up to {given(most)} mm is wanted.", None
    apart = "as far as they go into each other" if found.depth is None else f"{number(found.depth)} mm"
    wanted = f" and {given(wish.gap)} mm more" if wish.kind == "moving" and wish.gap else ""
    finding = Finding(
        f"{names} overlap{depth}", found.volume, "mm³", place, past=1.0, remedy=f"take {apart}{wanted} off one of them",
        solid=found.shared, collides=True, code="overlap", of=both, shown="clear",
    )  # fmt: skip
    return "fail", f"{names} run into each other over {shared}{depth}.", finding


def _perhaps_overlapping(pair: Pair, wish: PairGap, place: tuple[float, float, float]) -> tuple[Verdict, str, Finding | None]:
    """Triangles that run into each other by no more than they may be off the surfaces that they stand for."""
    found, both, names = pair.between, (pair.a, pair.b), f"{pair.a} and {pair.b}"
    depth = found.depth or 0.0
    how = f"go {number(depth)} mm into each other, within ± {number(found.error)} mm of not touching at all"
    if wish.kind == "pressed" and depth + found.error <= (wish.gap or 0.0):
        return "pass", f"{names} {how}; up to {given(wish.gap or 0.0)} mm is wanted.", None
    if wish.kind == "moving" and (wish.gap or 0.0) > found.error:
        remedy = f"move them apart by {number((wish.gap or 0.0) + depth)} mm, or take as much off one of them"
        near = Finding(
            f"no gap between {names}",
            0.0,
            "mm",
            place,
            past=1.0,
            remedy=remedy,
            solid=found.shared,
            code="no-gap",
            of=both,
            shown="across",
        )
        return "fail", f"{names} {how}, where {given(wish.gap or 0.0)} mm is wanted.", near
    remedy = "send it as a solid, or with finer triangles, to be sure"
    return (
        "review",
        f"{names} {how}.",
        Finding(
            f"{names} may overlap",
            depth,
            "mm",
            place,
            past=0.5,
            remedy=remedy,
            solid=found.shared,
            code="perhaps-overlap",
            of=both,
            shown="across",
        ),
    )


def _touching(
    pair: Pair, wish: PairGap, place: tuple[float, float, float], lines: np.ndarray
) -> tuple[Verdict, str, Finding | None]:
    """Two that are to touch, or to be pressed together, and do not overlap."""
    found, both, names = pair.between, (pair.a, pair.b), f"{pair.a} and {pair.b}"
    gap = found.distance
    word, lacking = ("touch", "do not touch") if wish.kind == "touching" else ("be pressed together", "are not pressed together")
    finding = Finding(
        f"{names} {lacking}",
        gap,
        "mm",
        place,
        past=1.0,
        remedy=f"bring them together by {number(gap)} mm",
        lines=lines,
        code="apart",
        of=both,
        shown="across",
        ends=_ends(pair),
    )
    if gap > TOUCHES_WITHIN + found.error:
        return "fail", f"{names} are {number(gap)} mm apart where they are to {word}.", finding
    if wish.kind == "pressed" or gap > TOUCHES_WITHIN - found.error:
        why = f"{names} are {number(gap)} mm apart, within ± {number(found.error)} mm; they are to {word}."
        return "review", why, finding
    return "pass", f"{names} touch, as is wanted.", None
