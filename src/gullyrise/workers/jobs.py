"""Work on a job as a whole: parts made anew from their bytes, opening, comparing and saving it, taking up what was left."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from shutil import rmtree
from typing import TYPE_CHECKING
from uuid import uuid4

from gullyrise.core.errors import GullyriseError
from gullyrise.core.job.form import JobForm, PartForm
from gullyrise.core.job.origins import FileOrigin
from gullyrise.core.job.store import Store
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.progress import Progress, silent
from gullyrise.core.reading import ReadOptions
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task
from gullyrise.workers.work import Received, ready_to_read, received

if TYPE_CHECKING:
    from gullyrise.core.job.file import Opened


def make_store(folder: str) -> None:
    """What is not there cannot be granted; where it cannot be made, that is told of each part that is to be kept there."""
    with suppress(OSError):
        Path(folder).mkdir(parents=True, exist_ok=True)


@dataclass(frozen=True, slots=True)
class MakeAnew(Task):
    """A part of a job made anew from its own bytes and steps, as Read gives it. folder : below the store's, where its file is
    laid out under its own name while it is read"""

    form: PartForm
    store: str
    largest_machine: float
    folder: str = field(default_factory=lambda: uuid4().hex)

    @property
    def title(self) -> str:
        return self.form.name

    def beforehand(self, progress: Progress) -> MakeAnew:
        origin = self.form.origin
        if isinstance(origin, FixtureShape):
            return self
        # Beside the store a file can stand a second time without being copied.
        ready_to_read(Store(Path(self.store)).laid_out(origin, self._out))
        return self

    def tried(self, progress: Progress) -> MakeAnew:
        """The same; what could not be laid out is told when it is read."""
        with suppress(GullyriseError):
            return self.beforehand(progress)
        return self

    @property
    def _out(self) -> Path:
        return Path(self.store) / "out" / self.folder

    def grants(self) -> Grants:
        return Grants(reads=(str(self._out),))

    def weight(self) -> int | None:
        origin = self.form.origin
        # Steps take their own time.
        return None if isinstance(origin, FixtureShape) or self.form.steps else Store(Path(self.store)).size_of(origin)

    def afterwards(self) -> None:
        rmtree(self._out, ignore_errors=True)

    def run(self, progress: Progress) -> Received:
        from gullyrise.core.job.steps import done
        from gullyrise.core.placing.fixture_shapes import fixture_part

        origin = self.form.origin
        if isinstance(origin, FixtureShape):
            part = fixture_part(origin)
        else:
            from gullyrise.core.reading import read

            part = read(self._out / origin.file.name, ReadOptions(unit=origin.unit), progress)
            # It is known by the place it came from, by which it can be read anew.
            part = replace(part, file=origin.place or origin.file.name)
        for step in self.form.steps:
            part, _ = done(part, step, progress)
        return replace(received(part, self.largest_machine, progress), origin=origin)


@dataclass(frozen=True, slots=True)
class MakeLot(Task):
    """Many small parts of a job made anew in one process: of each what MakeAnew gives, or the error that it ended with."""

    parts: tuple[MakeAnew, ...]

    @property
    def title(self) -> str:
        return f"{len(self.parts)} parts of the job"

    def beforehand(self, progress: Progress) -> MakeLot:
        return MakeLot(tuple(one.tried(progress) for one in self.parts))

    def grants(self) -> Grants:
        return Grants(reads=tuple(path for one in self.parts for path in one.grants().reads))

    def run(self, progress: Progress) -> tuple[Received | GullyriseError, ...]:
        out: list[Received | GullyriseError] = []
        for number, one in enumerate(self.parts):
            progress("making parts", number, len(self.parts))
            try:
                out.append(one.run(silent))
            except GullyriseError as error:
                out.append(error)
        return tuple(out)

    def weight(self) -> int | None:
        return sum(one.weight() or 0 for one in self.parts)

    def afterwards(self) -> None:
        for one in self.parts:
            one.afterwards()


@dataclass(frozen=True, slots=True)
class TakeOver(Task):
    """Another store's files taken into a store. Nothing there is taken away."""

    other: str
    store: str
    title: str = "work that was left"

    def beforehand(self, progress: Progress) -> TakeOver:
        make_store(self.store)
        return self

    def grants(self) -> Grants:
        return Grants(writes=(self.other, self.store))

    def run(self, progress: Progress) -> None:
        store = Store(Path(self.store))
        with suppress(OSError):
            for source in sorted(Path(self.other).iterdir()):
                if source.is_file() and not source.is_symlink():
                    store.put(source.name, source)


@dataclass(frozen=True, slots=True, eq=False)
class CompareJob(Task):
    """Sentences on what a job file has otherwise than a job."""

    form: JobForm
    path: str
    store: str

    @property
    def title(self) -> str:
        return Path(self.path).name

    def beforehand(self, progress: Progress) -> CompareJob:
        make_store(self.store)
        return self

    def grants(self) -> Grants:
        return Grants((self.path,), (self.store,))

    def run(self, progress: Progress) -> tuple[str, ...]:
        from gullyrise.core.job.differences import differences
        from gullyrise.core.job.file import open_file

        opened = open_file(Path(self.path), Store(Path(self.store)), progress)
        return opened.lost if opened.form is None else (*opened.lost, *differences(self.form, opened.form))


@dataclass(frozen=True, slots=True)
class OpenJob(Task):
    """What a job file holds, its part files taken into a store."""

    path: str
    store: str

    @property
    def title(self) -> str:
        return Path(self.path).name

    def beforehand(self, progress: Progress) -> OpenJob:
        make_store(self.store)
        return self

    def grants(self) -> Grants:
        return Grants((self.path,), (self.store,))

    def run(self, progress: Progress) -> Opened:
        from gullyrise.core.job.file import open_file

        return open_file(Path(self.path), Store(Path(self.store)), progress)


@dataclass(frozen=True, slots=True, eq=False)
class SaveJob(Task):
    """Writes a job file, whole or not at all: the state that it then has."""

    form: JobForm
    store: str
    thumbnail: bytes
    path: str
    over: str | None = None
    """The state in which the file there has to be, None for any."""

    @property
    def title(self) -> str:
        return Path(self.path).name

    def grants(self) -> Grants:
        return Grants((self.store, *self._elsewhere), (str(Path(self.path).resolve().parent),))

    @property
    def _elsewhere(self) -> tuple[str, ...]:
        """Files whose bytes could not be kept, where they were read."""
        origins = (part.origin for part in self.form.parts)
        return tuple(one.place for one in origins if isinstance(one, FileOrigin) and one.place)

    def run(self, progress: Progress) -> str:
        from gullyrise.core.job.file import save

        return save(self.form, Store(Path(self.store)), self.thumbnail, Path(self.path), progress, self.over)
