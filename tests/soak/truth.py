"""What the window says, held against the oracle and against itself."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QPushButton

from gullyrise.core.checks.protocol import gravest
from gullyrise.core.job.form import as_bytes, form_of
from gullyrise.desktop.scene.scene_builder import SHARED
from soak.oracle import Oracle, beds_it_is_in, bodies_from, written

# Exact clearances of a solid at a thousandth of its size take minutes on a machine that is busy.
_PATIENCE_S = 300


class Truth:
    """Each question gives the sentences of what disagrees."""

    def __init__(self, window: Any) -> None:
        self.window, self.oracle = window, Oracle()

    @property
    def model(self) -> Any:
        return self.window.model

    def settle(self) -> bool:
        # A cut that is swept never rests.
        self.window.sections.sweep.stop()
        still = self.window.wait_until_idle(_PATIENCE_S)
        self.window.scene.bring_in_step()
        return bool(still)

    def all(self) -> list[str]:
        if not self.settle():
            window, model = self.window, self.window.model
            going = sorted({f"{one.work.title} ({one.stage})" for one in model._tasks.under_way})
            asked = {
                "checks": model.checks.idle, "pairs": model.between.idle, "job": model.idle, "cut": window.sections.idle,
                "measuring": window.measure.idle, "bodies": not window.scene.waits, "picture": window.bench.is_current,
                "kept picture": not window.bench.is_waited_for,
            }  # fmt: skip
            return [f"the window did not come to rest: {going[:5]} {[name for name, idle in asked.items() if not idle]}"]
        out = self.mishaps()
        # What an answer cancelled is not run: nothing is claimed of it.
        return [*out, *self.beds(), *self.meeting(), *self.rows(), *self.lists()]

    def mishaps(self) -> list[str]:
        out = [f"mishap: {one.details}" for one in self.window.mishaps.met.values()]
        self.window.mishaps.met.clear()
        said = [one for one in self.window.notifications.sentences if "could not be drawn" in one or "Traceback" in one]
        self.window.notifications.sentences.clear()
        return out + said

    def _fit_of(self, placed: Any) -> Any:
        found = self.model.results.outcomes_of(placed, "fit")
        return found[0] if found and found[0].method else None

    def beds(self) -> list[str]:
        job, out = self.model.job, []
        if self.window.bench.scene.beds != job.beds:
            out.append(f"{job.beds} beds are open and {self.window.bench.scene.beds} drawn")
        for placed in job.parts:
            fit = self._fit_of(placed)
            if placed.is_fixture or fit is None:
                continue
            within, loosely = beds_it_is_in(job, placed), beds_it_is_in(job, placed, 0.05)
            if not loosely and (fit.verdict == "pass" or fit.measured["inside"]):
                out.append(f"{placed.name} is on no bed and fit says {fit.verdict}: {fit.why}")
            if not loosely and job.bed_of(placed) is not None and fit.verdict != "fail":
                out.append(f"{placed.name} is inside no bed; bed {job.bed_of(placed)} is told and fit {fit.verdict}")
            if within and fit.verdict == "fail" and "on no bed" in fit.headline:
                out.append(f"{placed.name} is on bed {within} and fit says {fit.why}")
        return out

    def meeting(self) -> list[str]:
        """Fit and clearances of what meets, and of what does not."""
        job, out = self.model.job, []
        limits = self.model.checks.cache.limits(job)
        wanted = limits.min_gap or 0.0
        surely, never = set(), True
        for at, a in enumerate(job.parts):
            for b in job.parts[at + 1 :]:
                if a.is_fixture and b.is_fixture:
                    continue
                how, much = self.oracle.between(a, b)
                never &= how == "apart" and much > wanted
                for one, other in ((a, b), (b, a)):
                    fit = self._fit_of(one)
                    if one.is_fixture or fit is None or fit.headline == "on no bed":
                        continue
                    told = other.name in fit.measured["collisions"]
                    if how == "meet" and (fit.verdict != "fail" or not told):
                        out.append(f"{one.name} meets {other.name} by {much:.4g} mm3 and fit says {fit.verdict}: {fit.why}")
                    if how == "apart" and told and [x.name for x in job.parts].count(other.name) == 1:
                        out.append(f"{one.name} is {much:.4g} mm from {other.name} and fit says {fit.why}")
                if how == "meet" and self.oracle.is_more_than_facets(a, b):
                    surely.add((a.name, b.name))
        row = self.model.results.row("clearances", dict(self.model.document.active_checks())["clearances"], list(job.parts))
        if not row.running and not limits.pair_gaps:
            ran = not any("cancelled" in why for _, _, why in row.whys)
            if surely and row.verdict != "fail" and ran:
                out.append(f"{sorted(surely)[:3]} meet and the row of clearances says {row.verdict}: {row.whys[:3]}")
            own = [self.model.results.outcomes_of(one, "clearances") or () for one in job.parts]
            if never and row.verdict == "fail" and not any(one.verdict == "fail" for found in own for one in found):
                out.append(f"nothing comes nearer than {wanted} mm and the row of clearances fails: {row.whys[:3]}")
        return out

    def rows(self) -> list[str]:
        """Rows, stamps and the machine plate tell what the checks found."""
        job, out = self.model.job, []
        for name, check in self.model.document.active_checks():
            row = self.window.traveller.rows.get(name)
            view = self.model.results.row(name, check)
            if row is None or row.view is None or not job.parts:
                continue
            if row.view.verdict != view.verdict or row.view.worst != view.worst:
                out.append(f"the row of {name} shows {row.view.verdict} {row.view.worst}, and it is {view.verdict} {view.worst}")
            if name == "fit" and view.verdict == "fail" and "to spare" in view.worst:
                out.append(f"fit fails and has {view.worst}")
            verdicts = [o.verdict for _, found in self._outcomes(name) for o in found if not o.nothing]
            if name != "clearances" and verdicts and not view.stale and view.verdict != gravest(verdicts):
                out.append(f"the row of {name} says {view.verdict}, and its checks {sorted(set(verdicts))}")
        if job.parts:
            fits = [self._fit_of(one) for one in job.parts if not one.is_fixture]
            if fits and all(one is not None for one in fits):
                wanted = gravest([one.verdict for one in fits])
                if self.window.plate.stamp.verdict != wanted:
                    out.append(f"the machine's plate says {self.window.plate.stamp.verdict} and fit is {wanted}")
        return out

    def _outcomes(self, name: str) -> list[tuple[Any, tuple[Any, ...]]]:
        return [(one, self.model.results.outcomes_of(one, name) or ()) for one in self.model.selection.in_view()]

    def lists(self) -> list[str]:
        """Tree, bench and record are of the same parts."""
        job, out = self.model.job, []
        tree = self.window.parts_panel.tree
        if not tree.trail and sorted(row.text(0) for row in tree.tops()) != sorted(one.name for one in job.parts):
            out.append("the tree shows other parts than the job has")
        drawn = {item.key for item in self.window.bench.scene.items if item.key[0] != SHARED}
        seen = {key for key in self.model.copies() if self.model.shown.visibility.opacity(key) > 0}
        if drawn != seen:
            out.append(f"{sorted(drawn - seen)} are drawn and not to be seen, {sorted(seen - drawn)} the other way round")
        flagged, overlaps = self.model.flag.held, self.window.bench.scene.items[-1:]
        if flagged is not None and overlaps and overlaps[0].key[0] == SHARED:
            found = [
                one
                for name, check in self.model.document.active_checks()
                for _, one in self.model.results.row(name, check).findings
            ]
            if not any(one is flagged[1] for one in found) and not self.model.selection.parts:
                out.append(f"a solid is drawn as shared that no check finds: {flagged[1].what}")
        numbers = {one.id for one in job.parts}
        lost = [line for line in job.record if line.of and not set(line.of) & numbers]
        if lost:
            out.append(f"the record speaks of parts that are gone: {lost[:2]}")
        if any(not {pick.part for pick in one.picks} <= numbers for one in job.dimensions):
            out.append("a dimension is of a part that is gone")
        if len(numbers) != len(job.parts) or len({one.name for one in job.parts}) != len(job.parts):
            out.append(f"two parts have one name or number: {[one.name for one in job.parts]}")
        return out

    def there_and_back(self, count: int) -> list[str]:
        """Undone and redone a job is the same, byte for byte."""
        document = self.model.document.history
        count = min(count, document.can_undo)
        before = as_bytes(form_of(self.model.job))
        for _ in range(count):
            self.window.do("job.undo")
        for _ in range(count):
            self.window.do("job.redo")
        return [] if as_bytes(form_of(self.model.job)) == before else [f"{count} steps undone and redone give another job"]

    def saved(self, folder: Path) -> list[str]:
        """A job that is saved and opened is the same."""
        if not self.model.job.parts:
            return []
        path = folder / "soak.gullyrise"
        before = form_of(self.model.job)
        self.window.job_file.save_to(str(path))
        if not self.settle() or not path.exists():
            return [f"the job was not saved: {self.window.notifications.sentences[-2:]}"]
        self.window.job_file.open(str(path))
        if not self.settle():
            return ["the saved job did not open"]
        after = form_of(self.model.job)
        same = as_bytes(after.model_copy(update={"name": ""})) == as_bytes(before.model_copy(update={"name": ""}))
        return [] if same else ["a saved job opens as another one"]

    def beds_written(self, folder: Path) -> list[str]:
        """Whatever was not named as missing stands in a file, where it lies on its bed."""
        job = self.model.job
        path = Path(tempfile.mkdtemp(dir=folder)) / "bed.3mf"
        made = [one for one in job.parts if not one.is_fixture]
        self.window.notifications.sentences.clear()
        self.window.opening.write_beds(str(path))
        said = " ".join(self.window.notifications.sentences)
        for button in self.window.notifications.findChildren(QPushButton):
            if button.isVisible() and button.text() == "Write all the same":
                button.click()
                break
        if not self.settle():
            return ["the beds were not written in time"]
        names = {0: path} if job.beds == 1 else {bed: path.with_name(f"bed-{bed + 1}.3mf") for bed in range(job.beds)}
        found = {bed: written(name) for bed, name in names.items() if name.exists()}
        if not found:
            inside = [one.name for one in made if beds_it_is_in(job, one)]
            return [f"{inside} are on a bed and nothing was written: {said}"] if inside else []
        out = []
        for one in made:
            there = [bed for bed in found if all(_holds(found[bed], box) for box in bodies_from(job, one, bed))]
            within = beds_it_is_in(job, one)
            if not there and one.name not in said and " more" not in said:
                out.append(f"{one.name} is in none of {len(found)} files and was not named: {said}")
            if within and not set(within) & set(there):
                out.append(f"{one.name} lies on bed {within} and is in the files of {there}")
        return out


def _holds(boxes: list[np.ndarray], box: np.ndarray) -> bool:
    # 3MF is read and written in single precision.
    return any(np.abs(one - box).max() < 0.02 + 1e-6 * np.abs(box).max() for one in boxes)
