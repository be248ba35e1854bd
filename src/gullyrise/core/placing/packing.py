"""Setting many things out on the bed, close together, clear of one another, of margins and of keep-outs; on further beds what
finds no room on the first."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np
from scipy.fft import irfft2, next_fast_len, rfft2
from scipy.ndimage import binary_dilation

from gullyrise.core.geometry import Floats, Mesh, Transform
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.placing.footprint import Footprint, footprint, rectangle
from gullyrise.core.progress import Progress, silent

Outline = Literal["footprint", "rectangle"]
MOST_BEDS = 20
_CELLS = 400
_LEAST_CELL = 0.2
_PATIENCE = 2.4


@dataclass(frozen=True, slots=True, eq=False)
class Thing:
    """mesh : all of it, as it stands
    alike : equal for things of one mesh in one attitude, whose footprints are the same
    """

    id: int
    mesh: Mesh
    alike: object = None


@dataclass(frozen=True, slots=True)
class Wishes:
    """gap : mm kept between things
    outline : of what is kept apart
    turning : whether quarter turns may be tried.
    """

    gap: float = 5.0
    outline: Outline = "footprint"
    turning: bool = True


@dataclass(frozen=True, slots=True, eq=False)
class Packed:
    """moves : of each thing that found room, by its id, from where it stands to its place on the first bed's coordinates
    beds : the number of the bed of each, from 0
    left : ids of those that no empty bed holds
    covered : (2,) mm, sides of the box round all things on the first bed
    """

    moves: dict[int, Transform]
    beds: dict[int, int]
    left: tuple[int, ...]
    covered: Floats

    @property
    def bed_count(self) -> int:
        """How many beds it takes."""
        return max(self.beds.values(), default=0) + 1


class Floor:
    """The free cells of an empty bed. Cell (0, 0) begins at `low`."""

    def __init__(self, machine: Machine, limits: Limits) -> None:
        bed = machine.envelope.box
        self._machine, self._limits = machine, limits
        self.cell = max(float(bed.size[:2].max()) / _CELLS, _LEAST_CELL)
        edge = limits.edge_margin or 0.0
        self.low = bed.low[:2] + edge if machine.envelope.shape == "box" else bed.low[:2].copy()
        inside = bed.size[:2] - (2 * edge if machine.envelope.shape == "box" else 0.0)
        self.shape = tuple(int(n) for n in np.maximum(np.floor(np.maximum(inside, 0) / self.cell + 1e-9), 0))
        self.height = float(bed.size[2]) - (limits.top_margin or 0.0)
        self.middle = (machine.envelope.middle[:2] - self.low) / self.cell
        self.fast = tuple(next_fast_len(max(n, 1), real=True) for n in self.shape)

    def free(self, height: float) -> Bools:
        """Cells that a thing of that height may cover."""
        cells = np.ones(self.shape, dtype=bool)
        x = self.low[0] + np.arange(self.shape[0] + 1) * self.cell
        y = self.low[1] + np.arange(self.shape[1] + 1) * self.cell
        if self._machine.envelope.shape == "cylinder":
            radius = float(self._machine.envelope.box.high[0]) - (self._limits.edge_margin or 0.0)
            far = np.hypot(np.abs(x)[:, None], np.abs(y)[None, :]) <= radius + 1e-9
            cells &= far[:-1, :-1] & far[1:, :-1] & far[:-1, 1:] & far[1:, 1:]
        for keep in self._machine.blocked:
            box = keep.box
            if box.low[2] < height:
                wide = (x[1:] > box.low[0] + 1e-9) & (x[:-1] < box.high[0] - 1e-9)
                deep = (y[1:] > box.low[1] + 1e-9) & (y[:-1] < box.high[1] - 1e-9)
                cells[np.ix_(wide, deep)] = False
        return cells


class _Bed:
    """One bed while it is filled."""

    def __init__(self, floor: Floor) -> None:
        self._floor = floor
        self.taken = np.zeros(floor.shape, dtype=bool)
        self._spectra: dict[float, np.ndarray] = {}
        self.used: tuple[Floats, Floats] | None = None

    def places(self, print_: _Print, height: float) -> Bools:
        """(w, d) the cells at which the low corner of a footprint may stand."""
        width, depth = print_.cells.shape
        across, along = self._floor.shape[0] - width + 1, self._floor.shape[1] - depth + 1
        if across <= 0 or along <= 0:
            return np.zeros((0, 0), dtype=bool)
        # What lies in the way is the same for all heights that meet the same keep-outs.
        spectrum = self._spectra.get(height)
        if spectrum is None:
            blocked = self.taken | ~self._floor.free(height)
            spectrum = self._spectra[height] = rfft2(blocked.astype(np.float32), self._floor.fast)
        overlaps = irfft2(spectrum * np.conj(print_.spectrum), self._floor.fast)[:across, :along]
        return np.asarray(overlaps < 0.5)

    def put(self, at: tuple[int, int], print_: _Print) -> None:
        margin = (print_.wide.shape[0] - print_.cells.shape[0]) // 2
        low = np.array(at) - margin
        start, end = np.maximum(low, 0), np.minimum(low + print_.wide.shape, self._floor.shape)
        own = print_.wide[start[0] - low[0] : end[0] - low[0], start[1] - low[1] : end[1] - low[1]]
        self.taken[start[0] : end[0], start[1] : end[1]] |= own
        self._spectra.clear()
        low_mm = np.array(at) * self._floor.cell
        high_mm = low_mm + print_.made.size
        if self.used is not None:
            low_mm, high_mm = np.minimum(self.used[0], low_mm), np.maximum(self.used[1], high_mm)
        self.used = (low_mm, high_mm)


class _Print:
    """A footprint in one attitude. wide : with the gap round it."""

    def __init__(self, made: Footprint, gap: float, floor: Floor) -> None:
        self.made = made
        self.cells = made.cells
        reach = int(np.ceil(gap / floor.cell - 1e-9))
        grown = np.pad(made.cells, reach)
        if reach:
            x, y = np.ogrid[-reach : reach + 1, -reach : reach + 1]
            # Cells as squares: the nearest points of two cells are a cell nearer than their middles.
            near = np.hypot(np.maximum(np.abs(x) - 1, 0), np.maximum(np.abs(y) - 1, 0)) * floor.cell < gap - 1e-9
            grown = binary_dilation(grown, near) if made.cells.size < 40_000 else _spread(grown, near)
        self.wide = np.asarray(grown)
        self._fast = floor.fast

    @cached_property
    def spectrum(self) -> np.ndarray:
        return np.asarray(rfft2(self.cells.astype(np.float32), self._fast))


def _spread(cells: Bools, about: Bools) -> Bools:
    """Dilation of a large footprint, by its spectrum."""
    shape = tuple(next_fast_len(n + m - 1, real=True) for n, m in zip(cells.shape, about.shape, strict=True))
    full = irfft2(rfft2(cells.astype(np.float32), shape) * rfft2(about.astype(np.float32), shape), shape)
    reach = about.shape[0] // 2
    return np.asarray(full[reach : reach + cells.shape[0], reach : reach + cells.shape[1]] > 0.5)


def arrange(
    things: list[Thing], machine: Machine, limits: Limits, wishes: Wishes, fixed: list[Mesh], progress: Progress = silent
) -> Packed:
    """Places for things on as many beds as they need.

    fixed : what stays where it is on the first bed, such as fixture shapes. Notes: things go down one after another, the
    largest first, each where the box round all grows least; several orders are tried while there is time, and the best is kept:
    the one that leaves least over, then needs fewest beds, then covers least.
    """
    floor = Floor(machine, limits)
    # What no bed holds is not looked at: the footprint of a part that was read as metres has millions of cells.
    large = tuple(thing.id for thing in things if not _may_lie(thing.mesh, floor, turning=wishes.turning))
    things = [thing for thing in things if thing.id not in large]
    if not things:
        return Packed({}, {}, large, np.zeros(2))
    prints: dict[object, list[tuple[int, _Print]]] = {}
    for done, thing in enumerate(things):
        progress("taking footprints", done, len(things))
        key = thing.alike if thing.alike is not None else thing.id
        if key not in prints:
            prints[key] = _attitudes(thing.mesh, floor, wishes)
    begun = _Bed(floor)
    for mesh in fixed:
        _stand(begun, mesh, wishes.gap, floor)
    of = {thing.id: prints[thing.alike if thing.alike is not None else thing.id] for thing in things}
    start, best = time.monotonic(), None
    orders = _orders(things, of)
    for done, order in enumerate(orders):
        progress("trying orders", done, len(orders))
        found = _fill(order, of, floor, begun, machine)
        if best is None or _worth(found) < _worth(best):
            best = found
        if time.monotonic() - start > _PATIENCE * (done + 1) / (done + 2):
            break
    assert best is not None  # There is always a first order.
    return replace(best, left=(*best.left, *large))


def _may_lie(mesh: Mesh, floor: Floor, *, turning: bool) -> bool:
    """Whether the box round a thing goes onto an empty bed, turned by a quarter or not."""
    size = np.ptp(mesh.vertices, axis=0)
    cells = np.ceil(size[:2] / floor.cell - 1e-9)
    room = np.array(floor.shape)
    lies = bool((cells <= room).all()) or (turning and bool((cells[::-1] <= room).all()))
    return lies and float(size[2]) <= floor.height + 1e-6


def _worth(packed: Packed) -> tuple[float, ...]:
    return len(packed.left), packed.bed_count, float(np.prod(packed.covered))


def _attitudes(mesh: Mesh, floor: Floor, wishes: Wishes) -> list[tuple[int, _Print]]:
    """Footprints by quarter turns, (degrees, footprint)."""
    out: list[tuple[int, _Print]] = []
    for quarter in (0, 1, 2, 3) if wishes.turning else (0,):
        if wishes.outline == "rectangle" and quarter > 1:
            break
        turned = mesh if not quarter else mesh.placed(Transform.turned(np.array([0.0, 0, 1]), 90.0 * quarter))
        made = footprint(turned, floor.cell) if wishes.outline == "footprint" else rectangle(turned, floor.cell)
        if any(np.array_equal(made.cells, other.made.cells) for _, other in out):
            continue
        out.append((90 * quarter, _Print(made, wishes.gap, floor)))
    return out


def _orders(things: list[Thing], of: dict[int, list[tuple[int, _Print]]]) -> list[list[Thing]]:
    """Orders worth trying, none of which hangs on the order in which the things are given."""

    def sides(thing: Thing) -> Floats:
        return of[thing.id][0][1].made.size

    def area(thing: Thing) -> float:
        return float(of[thing.id][0][1].cells.sum())

    plain = sorted(things, key=lambda thing: (*np.round(sides(thing), 6).tolist(), area(thing), thing.id))
    keys = (
        lambda t: -area(t),
        lambda t: -float(sides(t).max()),
        lambda t: -float(sides(t).sum()),
        lambda t: -float(sides(t).prod()),
        lambda t: -float(sides(t).min()),
    )
    return [sorted(plain, key=key) for key in keys]


def _stand(bed: _Bed, mesh: Mesh, gap: float, floor: Floor) -> None:
    low, high = mesh.vertices[:, :2].min(axis=0), mesh.vertices[:, :2].max(axis=0)
    most = np.array(floor.shape) * floor.cell
    if (high - low > 4 * most).any():
        # Far larger than the bed: the box round it, as far as it matters.
        low, high = np.maximum(low, floor.low - most), np.minimum(high, floor.low + 2 * most)
        if (low >= high).any():
            return
        shape = np.maximum(np.ceil((high - low) / floor.cell - 1e-9).astype(int), 1)
        made = Footprint(np.ones(tuple(shape), dtype=bool), low, high - low)
    else:
        made = footprint(mesh, floor.cell)
    # Where it stands it need not meet the cells' edges: one cell more on each side covers that.
    cells = np.pad(made.cells, 1)
    cells[1:, :] |= cells[:-1, :].copy()
    cells[:, 1:] |= cells[:, :-1].copy()
    at = np.floor((made.low - floor.low) / floor.cell).astype(int) - 1
    bed.put((int(at[0]), int(at[1])), _Print(Footprint(cells, made.low, made.size + 2 * floor.cell), gap, floor))
    bed.used = None


def _fill(order: list[Thing], of: dict[int, list[tuple[int, _Print]]], floor: Floor, begun: _Bed, machine: Machine) -> Packed:
    places: dict[int, tuple[int, int, tuple[int, int], _Print]] = {}
    left: list[Thing] = []
    waiting, beds = list(order), list[_Bed]()
    while waiting and len(beds) < MOST_BEDS:
        bed = _Bed(floor)
        if not beds:
            bed.taken |= begun.taken
        later, refused = [], set()
        for thing in waiting:
            # A thing like one that found no room will find none either.
            found = None if id(of[thing.id]) in refused else _best_place(bed, thing, of[thing.id], floor, machine)
            if found is None:
                refused.add(id(of[thing.id]))
                later.append(thing)
                continue
            degrees, at, print_ = found
            bed.put(at, print_)
            places[thing.id] = (len(beds), degrees, at, print_)
        beds.append(bed)
        if len(later) == len(waiting) and (len(beds) > 1 or not begun.taken.any()):
            beds.pop()
            left = later
            break
        waiting = later
    else:
        left = waiting
    # Each bed is first filled from a corner, which packs closest, and then moved to the middle as far as that is free.
    shifts = [
        _to_middle(bed, [row for row in places.values() if row[0] == number], floor, begun if not number else None)
        for number, bed in enumerate(beds)
    ]
    moves, numbers = {}, {}
    for thing in order:
        if thing.id not in places:
            continue
        number, degrees, at, print_ = places[thing.id]
        target = floor.low + (np.array(at) + shifts[number]) * floor.cell
        turn = Transform.turned(np.array([0.0, 0, 1]), float(degrees)) if degrees else Transform.identity()
        # The footprint may be that of another thing like it, which stands elsewhere: the corner is this one's own.
        low = turn.apply(thing.mesh.vertices).min(axis=0)
        moves[thing.id] = turn.then(Transform.moved(np.array([*(target - low[:2]), -low[2]])))
        numbers[thing.id] = number
    used = beds[0].used if beds else None
    covered = used[1] - used[0] if used is not None else np.zeros(2)
    return Packed(moves, numbers, tuple(thing.id for thing in left), np.asarray(covered))


def _tall(thing: Thing) -> float:
    z = thing.mesh.vertices[:, 2]
    return float(z.max() - z.min())


def _best_place(
    bed: _Bed, thing: Thing, attitudes: list[tuple[int, _Print]], floor: Floor, machine: Machine
) -> tuple[int, tuple[int, int], _Print] | None:
    """Where the box round all grows least; on a round bed, where the thing stays nearest to the middle."""
    height = _tall(thing)
    if height > floor.height + 1e-6:
        return None
    level = _level(machine, height)
    best: tuple[float, int, tuple[int, int], _Print] | None = None
    for degrees, print_ in attitudes:
        free = bed.places(print_, level)
        at = np.argwhere(free)
        if not len(at):
            continue
        cost = _cost(
            bed,
            np.asarray(at * floor.cell, dtype=np.float64),
            print_.made.size,
            floor,
            round_=machine.envelope.shape == "cylinder",
        )
        least = int(np.argmin(cost))
        if best is None or cost[least] < best[0] - 1e-9:
            best = (float(cost[least]), degrees, (int(at[least, 0]), int(at[least, 1])), print_)
    return None if best is None else best[1:]


def _level(machine: Machine, height: float) -> float:
    """One height for all that meet the same keep-outs, so that what is free is worked out once."""
    return min((float(keep.box.low[2]) + 1e-9 for keep in machine.blocked if keep.box.low[2] >= height), default=np.inf)


def _cost(bed: _Bed, low: Floats, size: Floats, floor: Floor, *, round_: bool) -> Floats:
    high = low + size
    if round_:
        away = np.maximum(np.abs(low - floor.middle * floor.cell), np.abs(high - floor.middle * floor.cell))
        return np.asarray(np.hypot(away[:, 0], away[:, 1]) + 1e-4 * high.sum(axis=1))
    used_low, used_high = bed.used if bed.used is not None else (low, high)
    across = np.maximum(used_high, high) - np.minimum(used_low, low)
    return np.asarray(across[:, 0] * across[:, 1] + 0.05 * across.max(axis=1) ** 2 + 1e-3 * (high[:, 0] + high[:, 1] * 1.01))


def _to_middle(bed: _Bed, rows: list[tuple[int, int, tuple[int, int], _Print]], floor: Floor, begun: _Bed | None) -> Floats:
    """(2,) whole cells by which all of a bed can be moved towards its middle."""
    if bed.used is None or (begun is not None and begun.taken.any()):
        return np.zeros(2)
    group = np.zeros(floor.shape, dtype=bool)
    for _, _, at, print_ in rows:
        width, depth = print_.cells.shape
        group[at[0] : at[0] + width, at[1] : at[1] + depth] |= print_.cells
    free = floor.free(np.inf)
    wanted = np.round(floor.middle - (bed.used[0] + bed.used[1]) / 2 / floor.cell).astype(int)
    for share in (1.0, 0.75, 0.5, 0.25):
        step = np.round(wanted * share).astype(int)
        for tried in (step, np.array([step[0], 0]), np.array([0, step[1]])):
            if tried.any() and _stays_free(group, free, tried):
                return np.asarray(tried, dtype=np.float64)
    return np.zeros(2)


def _stays_free(group: Bools, free: Bools, by: np.ndarray) -> bool:
    at = np.argwhere(group) + by
    if (at < 0).any() or (at >= np.array(group.shape)).any():
        return False
    return bool(free[at[:, 0], at[:, 1]].all())


def free_place(mesh: Mesh, machine: Machine, limits: Limits, fixed: list[Mesh], gap: float = 0.0) -> Transform | None:
    """The move that brings a thing, as it is turned, to the free place nearest to the bed's middle; None where there is none."""
    floor = Floor(machine, limits)
    if not _may_lie(mesh, floor, turning=False):
        return None
    bed = _Bed(floor)
    for one in fixed:
        _stand(bed, one, gap, floor)
    print_ = _Print(footprint(mesh, floor.cell), 0.0, floor)
    height = float(np.ptp(mesh.vertices[:, 2]))
    at = np.argwhere(bed.places(print_, _level(machine, height)))
    if not len(at):
        return None
    middle = at + print_.made.size / 2 / floor.cell
    best = at[int(np.argmin(np.linalg.norm(middle - floor.middle, axis=1)))]
    target = floor.low + best * floor.cell
    return Transform.moved(np.array([*(target - print_.made.low), -float(mesh.vertices[:, 2].min())]))
