"""Bytes of part files by their digest, in a folder: what a job is made of, kept from the moment it is read."""

from __future__ import annotations

import hashlib
import os
import shutil
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO

from pydantic import ValidationError

from gullyrise.core.errors import JobError, NotKept
from gullyrise.core.job.origins import FileOrigin, KeptFile
from gullyrise.core.paths import plain_name, told_path
from gullyrise.core.reading.belonging import belonging
from gullyrise.core.safe_files import Together, fill_safely, read_within, sweep_unfinished

ABOUT = ".json"
"""Ends the name of what says of a part file what it is."""
_PORTION, _MOST, _MOST_ABOUT = 1 << 20, 20_000, 1 << 20


def digest_of(path: Path) -> str:
    """BLAKE2b of a file's bytes. Raises OSError."""
    found = hashlib.blake2b(digest_size=16)
    with path.open("rb") as stream:
        while portion := stream.read(_PORTION):
            found.update(portion)
    return found.hexdigest()


class _Another(Exception):
    """Bytes that are not what their digest says."""


class Store:
    """A folder of files named by their digests; what is there is whole."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._together: Together | None = None

    @contextmanager
    def together(self, name: str) -> Iterator[None]:
        """What is taken in and noted meanwhile comes to stand here at the end, with one wait for the disk.

        name : of what it is taken from. Raises NotKept where the disk refuses it in the end.
        """
        self._together = files = Together(self.folder)
        try:
            yield
            try:
                files.settle()
            except OSError as error:
                raise NotKept(name, error.strerror or "the disk refuses") from None
        finally:
            self._together = None
            files.let_go()

    def _fill(self, place: Path, fill: Callable[[IO[bytes]], object]) -> None:
        if self._together is None:
            fill_safely(place, fill)
        else:
            self._together.fill(place.name, fill)

    def path_of(self, digest: str) -> Path:
        """Where bytes with this digest are kept, or would be."""
        return self.folder / digest

    def keep(self, path: Path) -> str:
        """Copies a file's bytes in; its digest. Raises NotKept where there is no room for them, JobError where they change."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            digest = digest_of(path)
            place = self.path_of(digest)
            if not self._asked_for(place):
                found = hashlib.blake2b(digest_size=16)

                def copy(stream: object) -> None:
                    with path.open("rb") as source:
                        while portion := source.read(_PORTION):
                            found.update(portion)
                            stream.write(portion)  # type: ignore[attr-defined]

                fill_safely(place, copy)
                if found.hexdigest() != digest:
                    # It was written to while it was copied: what has been copied is another file than was looked at.
                    place.unlink()
                    raise JobError(f"{path.name} was written to while it was read; open it again.")
        except OSError as error:
            raise NotKept(path.name, error.strerror or "the disk refuses") from None
        return digest

    def take(self, digest: str, portions: Iterable[bytes]) -> bool:
        """Takes in bytes from anywhere; whether they are what their digest says. Raises OSError, and what `portions` raises."""
        place = self.path_of(digest)
        if self._asked_for(place) or (self._together is not None and digest in self._together):
            for _ in portions:
                pass
            return True
        self.folder.mkdir(parents=True, exist_ok=True)
        found = hashlib.blake2b(digest_size=16)

        def fill(stream: IO[bytes]) -> None:
            for portion in portions:
                found.update(portion)
                stream.write(portion)
            if found.hexdigest() != digest:
                raise _Another

        try:
            self._fill(place, fill)
        except _Another:
            return False
        return True

    def note(self, origins: Iterable[object]) -> None:
        """Keeps beside the bytes what each part file is, so that it can be opened where the job itself is lost."""
        with suppress(OSError):
            for origin in origins:
                if isinstance(origin, FileOrigin):
                    place = self.path_of(origin.file.digest + ABOUT)
                    if not place.exists():
                        about = origin.model_dump_json().encode()
                        self._fill(place, lambda stream, about=about: stream.write(about))  # type: ignore[misc]

    def origins(self) -> tuple[FileOrigin, ...]:
        """What the part files are whose bytes are here whole."""
        out = []
        with suppress(OSError):
            for place in sorted(self.folder.glob(f"*{ABOUT}"))[:_MOST]:
                with suppress(OSError, ValidationError):
                    origin = FileOrigin.model_validate_json(read_within(place, _MOST_ABOUT))
                    if self.has(origin):
                        out.append(origin)
        return tuple(out)

    def sweep(self, wanted: set[str], older: float) -> int:
        """Takes away bytes that nobody wants, and that were not asked for in the last `older` seconds: how many files.

        wanted : digests
        """
        count = 0
        sweep_unfinished(self.folder)
        with suppress(OSError):
            for place in list(self.folder.iterdir()):
                if place.name.startswith(".") or place.name.removesuffix(ABOUT) in wanted:
                    continue
                with suppress(OSError):
                    if place.is_file() and time.time() - place.stat().st_mtime > older:
                        place.unlink()
                        count += 1
        return count

    @staticmethod
    def _asked_for(place: Path) -> bool:
        """Whether bytes are here already; if so, they are not swept for a while."""
        try:
            os.utime(place)
        except OSError:
            return place.exists()
        return True

    def has(self, origin: FileOrigin) -> bool:
        """Whether all that a part file cannot be read without is here."""
        return all(self.path_of(kept.digest).exists() for kept in (origin.file, *origin.belongs))

    def size_of(self, origin: FileOrigin) -> int:
        """Bytes of a part file with all that belongs to it; 0 for what is not here."""
        out = 0
        for kept in (origin.file, *origin.belongs):
            with suppress(OSError):
                out += self.path_of(kept.digest).stat().st_size
        return out

    def put(self, digest: str, source: Path) -> None:
        """Takes in a file that is known to be whole; by a link where the file system has them. Raises OSError."""
        place = self.path_of(digest)
        if self._asked_for(place):
            return
        self.folder.mkdir(parents=True, exist_ok=True)
        with suppress(OSError):
            os.link(source, place)
            os.utime(place)
            return
        fill_safely(place, lambda stream: stream.write(source.read_bytes()))

    def origin_of(self, path: Path, unit: str | None = None) -> tuple[FileOrigin, str]:
        """Keeps a part file with all that it cannot be read without: (its origin, why its bytes are not kept or empty). What is
        not kept is saved later from where it was read, as long as it is still the same. Raises JobError for what cannot be
        read."""
        trouble = ""
        kept = []
        for name in (path.name, *belonging(path)):
            place = path.parent / name
            try:
                digest = self.keep(place)
            except NotKept as error:
                trouble = str(error)
                digest = self._digest(place)
            kept.append(KeptFile(name=plain_name(name), digest=digest))
        origin = FileOrigin(file=kept[0], belongs=tuple(kept[1:]), path=told_path(path.absolute()), unit=unit)
        if not trouble:
            self.note([origin])
        return origin, trouble

    @staticmethod
    def _digest(path: Path) -> str:
        try:
            return digest_of(path)
        except OSError as error:
            raise JobError(f"{path.name} cannot be read ({error.strerror}); open it again.") from None

    def found(self, origin: FileOrigin, kept: KeptFile) -> Path | None:
        """Where the bytes of one of an origin's files are: in the store, or where they were read if they are the same still."""
        place = self.path_of(kept.digest)
        if place.exists():
            return place
        with suppress(OSError):
            if origin.place:
                there = Path(origin.place).parent / kept.name if kept is not origin.file else Path(origin.place)
                if there.is_file() and digest_of(there) == kept.digest:
                    return there
        return None

    def laid_out(self, origin: FileOrigin, folder: Path) -> Path:
        """The part file under its own name in a folder, with what belongs to it. Raises JobError for bytes that are not there."""
        home = folder.resolve()
        for kept in (origin.file, *origin.belongs):
            place = (home / kept.name).resolve()
            if not place.is_relative_to(home) or place == home:
                raise JobError(f"The job names a place outside itself ({kept.name[:60]}); it was not written by Gullyrise.")
            source = self.path_of(kept.digest)
            if not source.exists():
                raise JobError(f"The bytes of {kept.name} are not in the job any more; open the file itself.")
            place.parent.mkdir(parents=True, exist_ok=True)
            try:
                os.link(source, place)
            except OSError:
                # Another file system. A link by name would lead readers that mind their folder out of it.
                shutil.copyfile(source, place)
        return home / origin.file.name
