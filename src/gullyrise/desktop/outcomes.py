"""The outcomes that stand, by the digest of what each depends on; digests are worked out once for what did not change."""

from __future__ import annotations

from gullyrise.core.checks.protocol import Outcome, Snapshot
from gullyrise.core.checks.registry import checks, outcome_digest
from gullyrise.core.job import Job, Standing
from gullyrise.core.job.near import near_each_other
from gullyrise.core.machines import Limits


class Outcomes:
    """last_seen : the outcomes that a part had before the present ones, shown while those are made."""

    def __init__(self) -> None:
        self._by_digest: dict[str, tuple[Outcome, ...]] = {}
        self._digests: dict[tuple[int, str], tuple[tuple[object, ...], str]] = {}
        self._near: tuple[tuple[Standing, ...], dict[int, tuple[Standing, ...]]] = ((), {})
        self._limits: tuple[tuple[object, ...], Limits] | None = None
        self.last_seen: dict[tuple[int, str], tuple[Outcome, ...]] = {}

    def limits(self, job: Job) -> Limits:
        """Every limit of a job, settled once a job."""
        made_of = (job.machine, job.given)
        if self._limits is None or any(one is not other for one, other in zip(self._limits[0], made_of, strict=True)):
            self._limits = (made_of, job.limits)
        return self._limits[1]

    def near(self, job: Job, standing: Standing, check: str) -> tuple[Standing, ...]:
        """The parts near one, for a check that asks of them."""
        if not checks()[check].ROW.near:
            return ()
        if self._near[0] is not job.standings:
            self._near = (job.standings, near_each_other(job.standings))
        return self._near[1].get(standing.id, ()) if job.bed_of(standing) is not None else ()

    def snapshot(self, job: Job, standing: Standing, check: str) -> Snapshot:
        """What a check looks at."""
        return job.snapshot(standing, self.near(job, standing, check))

    def digest(self, job: Job, standing: Standing, check: str) -> str:
        kept = self._digests.get((standing.id, check))
        made_of = (standing, job.machine, job.given, job.library, job.beds, *self.near(job, standing, check))
        # Asked thousands of times a second with hundreds of parts: the things themselves are compared, one by one.
        if kept is not None and len(kept[0]) == len(made_of) and all(a is b for a, b in zip(kept[0], made_of, strict=True)):
            return kept[1]
        found = outcome_digest(check, standing.digest, self.snapshot(job, standing, check), self.limits(job))
        self._digests[standing.id, check] = (made_of, found)
        return found

    def put(self, digest: str, found: tuple[Outcome, ...]) -> None:
        self._by_digest[digest] = found

    def has(self, digest: str) -> bool:
        return digest in self._by_digest

    def of(self, job: Job, standing: Standing, check: str) -> tuple[Outcome, ...] | None:
        """The outcomes for the present digest, or None while there are none."""
        found = self._by_digest.get(self.digest(job, standing, check))
        if found is not None:
            self.last_seen[standing.id, check] = found
        return found

    def forget_not_run(self) -> None:
        for digest in [digest for digest, found in self._by_digest.items() if found[0].verdict == "not-run"]:
            del self._by_digest[digest]
