"""The outcomes that stand, by the digest of what each depends on; digests are worked out once for what did not change."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import fields, is_dataclass, replace
from operator import is_

import numpy as np

from gullyrise.core.checks.protocol import Outcome, Snapshot
from gullyrise.core.checks.registry import base_digest, checks, placed_digest
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.near import near_each_other
from gullyrise.core.machines import Limits

_MOST_ALIKE = 20_000
_MOST_LATELY, _LEAST_OUTCOME = 8 << 20, 4096
_MOST_EVIDENCE = 800_000_000
"""Bytes of evidence that are kept; what was measured longest ago goes first, and is measured again when it is asked for."""


class ResultCache:
    """last_seen : the outcomes that a part had before the present ones, shown while those are made."""

    def __init__(self) -> None:
        self._by_digest: dict[str, tuple[Outcome, ...]] = {}
        self._evidence: OrderedDict[tuple[str, str, bytes], tuple[int, tuple[Outcome, ...]]] = OrderedDict()
        self._digests: dict[tuple[int, str], tuple[tuple[object, ...], str]] = {}
        self._bases: tuple[tuple[object, object, object], dict[str, str]] = ((None, None, None), {})
        self._of_job: tuple[Job | None, dict[tuple[int, str], tuple[PlacedPart, str]]] = (None, {})
        """Of one state of the job: asked thousands of times a second with hundreds of parts."""
        self._alike: dict[tuple[str, str, bytes], str] = {}
        """Of copies that differ in nothing that a check asks of: by base, shape and, where it counts, attitude."""
        self._near: tuple[tuple[PlacedPart, ...], dict[int, tuple[PlacedPart, ...]]] = ((), {})
        self._limits: tuple[tuple[object, ...], Limits] | None = None
        self.last_seen: dict[tuple[int, str], tuple[Outcome, ...]] = {}

    def limits(self, job: Job) -> Limits:
        """Every limit of a job, settled once a job."""
        made_of = (job.machine, job.given)
        if self._limits is None or any(one is not other for one, other in zip(self._limits[0], made_of, strict=True)):
            self._limits = (made_of, job.limits)
        return self._limits[1]

    def near(self, job: Job, placed: PlacedPart, check: str) -> tuple[PlacedPart, ...]:
        """The parts near one, for a check that asks of them: whatever bed either of them counts as on. A part that reaches over
        several beds runs into what stands on any."""
        if not checks()[check].ROW.near:
            return ()
        if self._near[0] is not job.parts:
            self._near = (job.parts, near_each_other(job.parts))
        return self._near[1].get(placed.id, ())

    def snapshot(self, job: Job, placed: PlacedPart, check: str) -> Snapshot:
        """What a check looks at."""
        return job.snapshot(placed, self.near(job, placed, check))

    def digest(self, job: Job, placed: PlacedPart, check: str) -> str:
        """Of all that a check of a part depends on."""
        if self._of_job[0] is not job:
            self._of_job = (job, {})
        found = self._of_job[1].get((placed.id, check))
        if found is None or found[0] is not placed:
            found = self._of_job[1][placed.id, check] = (placed, self._digest(job, placed, check))
        return found[1]

    def _digest(self, job: Job, placed: PlacedPart, check: str) -> str:
        row = checks()[check].ROW
        near = self.near(job, placed, check) if row.near else ()
        kept = self._digests.get((placed.id, check))
        made_of = (placed, job.machine, job.given, job.library, job.beds, *near)
        if kept is not None and len(kept[0]) == len(made_of) and all(map(is_, kept[0], made_of)):
            return kept[1]
        if row.placed and not row.attitude:
            snapshot = job.snapshot(placed, near)
            found = placed_digest(self._base(job, check), row, placed.digest, snapshot.placement, snapshot.neighbours)
        else:
            turned = placed.placement.matrix[:3, :3].tobytes() if row.placed else b""
            alike = (self._base(job, check), placed.digest, turned)
            known = self._alike.get(alike)
            if known is None:
                if len(self._alike) > _MOST_ALIKE:
                    self._alike.clear()
                known = self._alike[alike] = placed_digest(alike[0], row, placed.digest, placed.placement, ())
            found = known
        self._digests[placed.id, check] = (made_of, found)
        return found

    def _base(self, job: Job, check: str) -> str:
        made_of = (job.machine, job.given, job.library)
        if not all(map(is_, self._bases[0], made_of)):
            self._bases = (made_of, {})
            self._alike.clear()
        found = self._bases[1].get(check)
        if found is None:
            found = self._bases[1][check] = base_digest(check, job.machine, job.library, self.limits(job))
        return found

    def put(self, digest: str, found: tuple[Outcome, ...]) -> None:
        """Keeps what was found for a digest."""
        self._by_digest[digest] = tuple(replace(one, evidence=None) if one.evidence is not None else one for one in found)

    def has(self, digest: str) -> bool:
        """Whether the check has been done; a first look does not count."""
        found = self._by_digest.get(digest)
        return found is not None and not found[0].first_look

    def has_any(self, digest: str) -> bool:
        """Whether anything is kept for a digest, a first look too."""
        return digest in self._by_digest

    # --- evidence --------------------------------------------------------------------------------------------------

    @staticmethod
    def _measured_as(placed: PlacedPart, check: str) -> tuple[str, str, bytes]:
        """What evidence depends on: all that an outcome does but for the limits."""
        turned = placed.placement.matrix[:3, :3].tobytes() if checks()[check].ROW.placed else b""
        return check, placed.digest, turned

    def keep_evidence(self, placed: PlacedPart, check: str, found: tuple[Outcome, ...]) -> None:
        """Keeps what other limits can be judged from without measuring."""
        if found[0].evidence is None:
            return
        key = self._measured_as(placed, check)
        self._evidence.pop(key, None)
        self._evidence[key] = (_bytes_in(found[0].evidence), found)
        while len(self._evidence) > 1 and sum(size for size, _ in self._evidence.values()) > _MOST_EVIDENCE:
            self._evidence.popitem(last=False)

    def evidence(self, placed: PlacedPart, check: str) -> tuple[Outcome, ...] | None:
        """The outcomes, with their evidence, of the last measuring of a part as it is turned now; None where there is none."""
        found = self._evidence.get(self._measured_as(placed, check))
        return None if found is None else found[1]

    def of(self, job: Job, placed: PlacedPart, check: str) -> tuple[Outcome, ...] | None:
        """The outcomes for the present digest, or None while there are none."""
        found = self._by_digest.get(self.digest(job, placed, check))
        if found is not None and found[0].check:
            self.last_seen[placed.id, check] = found
        return found

    def let_go(self, parts: Iterable[PlacedPart]) -> None:
        """Keeps what is of these parts, and of what was said lately about others or under other limits a bounded lot."""
        kept, ids = {one.digest for one in parts}, {one.id for one in parts}
        self._evidence = OrderedDict((key, held) for key, held in self._evidence.items() if key[1] in kept)
        wanted = {found for (number, _), (_, found) in self._digests.items() if number in ids}
        room = _MOST_LATELY
        for digest in [digest for digest in reversed(self._by_digest) if digest not in wanted]:
            room -= _LEAST_OUTCOME + _bytes_in(self._by_digest[digest])
            if room < 0:
                del self._by_digest[digest]
        self._digests = {key: held for key, held in self._digests.items() if key[0] in ids}
        self._alike = {key: held for key, held in self._alike.items() if key[1] in kept}
        self.last_seen = {key: held for key, held in self.last_seen.items() if key[0] in ids}

    def forget_not_run(self) -> None:
        """Drops what was cancelled or died."""
        for digest in [digest for digest, found in self._by_digest.items() if found[0].verdict == "not-run"]:
            del self._by_digest[digest]


def _bytes_in(value: object) -> int:
    """About how much memory the arrays in some frozen values take."""
    if isinstance(value, np.ndarray):
        return value.nbytes
    if isinstance(value, tuple):
        return sum(_bytes_in(one) for one in value)
    if is_dataclass(value) and not isinstance(value, type):
        return sum(_bytes_in(getattr(value, field.name, None)) for field in fields(value))
    return 0
