"""The job file: a zip of job.json, a thumbnail, the bytes of every part file, and beside those what each is. Written whole or not
at all; one that is damaged opens as far as it goes."""

from __future__ import annotations

import hashlib
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO

from pydantic import ValidationError

from gullyrise.core.errors import Damaged, JobChanged, JobError, NewerJob, NotKept, TooLarge, UnsafeContent
from gullyrise.core.job.form import JobForm, as_bytes
from gullyrise.core.job.origins import FileOrigin, KeptFile
from gullyrise.core.job.salvage import Member, members
from gullyrise.core.job.sound import sound_form
from gullyrise.core.job.store import ABOUT, Store
from gullyrise.core.progress import Progress, silent
from gullyrise.core.reading.archives import checked_entries
from gullyrise.core.safe_files import fill_safely, ordinary

ENDING = ".gullyrise"
_JOB, _PICTURE, _PARTS = "job.json", "thumbnail.png", "parts/"
_MOST_JOB, _MOST_PICTURE, _MOST_ABOUT = 256 << 20, 8 << 20, 1 << 20
_PORTION = 1 << 20
_TROUBLES = (zipfile.BadZipFile, zlib.error, OSError, EOFError, NotImplementedError, RuntimeError)


@dataclass(frozen=True, slots=True)
class Opened:
    """What a job file gave.

    lost : sentences on what it did not
    form : None where only part files were saved from it
    files : of those, what each is
    state : of the file when it was opened, as `state_of` gives it
    """

    form: JobForm | None
    lost: tuple[str, ...]
    files: tuple[FileOrigin, ...] = ()
    state: str = ""


def is_job_file(path: str | Path) -> bool:
    """Whether a path's name is that of a job file."""
    return Path(path).suffix.lower() == ENDING


def kept_files(form: JobForm) -> list[tuple[FileOrigin, KeptFile]]:
    """Every file that a job is made of, each digest once, with an origin that it is of."""
    found: dict[str, tuple[FileOrigin, KeptFile]] = {}
    for part in form.parts:
        if isinstance(part.origin, FileOrigin):
            for kept in (part.origin.file, *part.origin.belongs):
                found.setdefault(kept.digest, (part.origin, kept))
    return list(found.values())


def state_of(path: Path) -> str:
    """Words that another writing of a file changes; empty for one that is not there."""
    try:
        found = path.stat()
    except (OSError, ValueError):
        return ""
    return f"{found.st_ino}.{found.st_mtime_ns}.{found.st_size}"


def save(form: JobForm, store: Store, thumbnail: bytes, path: Path, progress: Progress = silent, over: str | None = None) -> str:
    """Writes a job file; the one before stands until the new one is whole. The state of the new one.

    over : the state in which the old one has to be. Raises JobError, JobChanged.
    """
    kept = []
    for origin, one in kept_files(form):
        place = store.found(origin, one)
        if place is None:
            raise JobError(f"The bytes of {one.name} are not kept any more; reload it, then save again.")
        kept.append((origin, one, place))

    def fill(stream: IO[bytes]) -> None:
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
            archive.writestr(_JOB, as_bytes(form))
            if thumbnail:
                archive.writestr(_PICTURE, thumbnail, zipfile.ZIP_STORED)
            for done, (origin, one, place) in enumerate(kept):
                progress("saving", done, len(kept))
                if one is origin.file:
                    # By which it can be opened where job.json is lost.
                    archive.writestr(_PARTS + one.digest + ABOUT, origin.model_dump_json())
                # Little is gained by pressing hard, and waiting for it is felt.
                _write(archive, one, place)
        if over is not None and state_of(path) not in (over, ""):
            raise JobChanged(path.name)

    try:
        fill_safely(path, fill)
    except OSError as error:
        raise JobError(f"{path.name} cannot be saved ({error.strerror or error}); choose another place.") from None
    return state_of(path)


def _write(archive: zipfile.ZipFile, one: KeptFile, place: Path) -> None:
    """The bytes of a kept file, of which each is looked at: a job never tells other bytes than were judged."""
    found = hashlib.blake2b(digest_size=16)
    entry = zipfile.ZipInfo(_PARTS + one.digest, date_time=(1980, 1, 1, 0, 0, 0))
    entry.compress_type = zipfile.ZIP_DEFLATED
    entry.file_size = place.stat().st_size
    entry._compresslevel = 1  # type: ignore[attr-defined]
    with place.open("rb") as source, archive.open(entry, "w") as target:
        while portion := source.read(_PORTION):
            found.update(portion)
            target.write(portion)
    if found.hexdigest() != one.digest:
        raise JobError(f"The bytes of {one.name} are not those that were read; reload it, then save again.")


def open_file(path: Path, store: Store, progress: Progress = silent) -> Opened:
    """Takes a job file's parts into the store. Raises JobError for a file that gives nothing, or is of a newer form."""
    try:
        with ordinary(path) as stream:
            empty = not stream.read(1)
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "its name cannot be a file's"
        raise JobError(f"{path.name[:100]} cannot be opened ({why}); check its path.") from None
    if empty:
        raise JobError(f"{path.name} is empty (0 bytes); open an earlier copy of it.")
    state = state_of(path)
    try:
        names = {entry.filename: entry for entry in checked_entries(path, "a job file")}
    except (UnsafeContent, TooLarge) as error:
        raise JobError(str(error)) from error
    except Damaged as error:
        if not _begins_as_zip(path):
            raise JobError(f"{path.name} is no job file; open part files by “Open parts”.") from error
        return _salvaged(path, store, progress, state)
    lost: list[str] = []
    with store.together(path.name), zipfile.ZipFile(path) as archive:
        form = _form_in(archive, names, path, lost)
        origins = [] if form is not None else _origins(archive, names)
        digests = {one.digest for _, one in kept_files(form)} if form is not None else _digests_of(origins)
        taken = _Taken()
        for done, digest in enumerate(sorted(digests)):
            progress("opening", done, len(digests))
            entry = names.get(_PARTS + digest)
            if entry is not None:
                taken.take(store, digest, _portions(archive, entry))
        return _told(form, taken, lost, path, origins, state, store)


def thumbnail_of(path: Path) -> bytes:
    """The PNG in a job file, empty where there is none to be had."""
    try:
        with zipfile.ZipFile(path) as archive:
            entry = archive.getinfo(_PICTURE)
            return archive.read(entry) if entry.file_size <= _MOST_PICTURE else b""
    except (*_TROUBLES, KeyError, ValueError):
        return b""


def _told(
    form: JobForm | None, taken: _Taken, lost: list[str], path: Path, origins: Iterable[FileOrigin], state: str, store: Store
) -> Opened:
    saved = taken.saved
    if form is None:
        if taken.no_room:
            raise NotKept(path.name, taken.no_room)
        whole = tuple(one for one in origins if all(kept.digest in saved for kept in (one.file, *one.belongs)))
        if not whole:
            raise JobError(f"{path.name} is damaged, and nothing in it can be saved; open an earlier copy of it.")
        return Opened(None, tuple(lost), whole, state)
    for part in form.parts:
        if isinstance(part.origin, FileOrigin):
            missing = [one.name for one in (part.origin.file, *part.origin.belongs) if one.digest not in saved]
            if missing and taken.no_room:
                lost.append(
                    f"{part.name} is not opened: its bytes could not be kept ({taken.no_room}); make room and open it again."
                )
            elif missing:
                lost.append(f"{part.name} is lost: the bytes of {missing[0]} are damaged.")
    store.note(part.origin for part in form.parts)
    return Opened(form, tuple(lost), state=state)


def _form_in(archive: zipfile.ZipFile, names: dict[str, zipfile.ZipInfo], path: Path, lost: list[str]) -> JobForm | None:
    entry = names.get(_JOB)
    try:
        if entry is None or entry.file_size > _MOST_JOB:
            raise zipfile.BadZipFile("no job.json")
        data = archive.read(entry)
    except _TROUBLES:
        lost.append(_ONLY_FILES)
        return None
    return _form_or_files(data, path, lost)


_ONLY_FILES = "Where the parts stood, the machine, limits, views and notes are lost; the part files themselves are opened."


def _form_or_files(data: bytes, path: Path, lost: list[str]) -> JobForm | None:
    try:
        form, cost = sound_form(data, path.name)
    except NewerJob:
        raise
    except JobError as error:
        lost += [str(error), _ONLY_FILES]
        return None
    lost += cost
    return form


def _origins(archive: zipfile.ZipFile, names: dict[str, zipfile.ZipInfo]) -> list[FileOrigin]:
    """What the part files in an archive are, from what stands beside their bytes."""
    out = []
    for name, entry in names.items():
        if name.startswith(_PARTS) and name.endswith(ABOUT) and entry.file_size <= _MOST_ABOUT:
            try:
                data = archive.read(entry)
            except _TROUBLES:
                continue
            out += _origin_in(data)
    return out


def _origin_in(data: bytes) -> list[FileOrigin]:
    try:
        return [FileOrigin.model_validate_json(data)]
    except ValidationError:
        return []


def _digests_of(origins: Iterable[FileOrigin]) -> set[str]:
    return {kept.digest for one in origins for kept in (one.file, *one.belongs)}


@dataclass(slots=True)
class _Taken:
    """saved : digests of what is in the store
    no_room : why others could not be put there
    """

    saved: set[str] = field(default_factory=set)
    no_room: str = ""

    def take(self, store: Store, digest: str, portions: Iterator[bytes]) -> None:
        """Takes one member in where its bytes are what their digest says."""
        try:
            if store.take(digest, portions):
                self.saved.add(digest)
        except _BrokenMember:
            return
        except OSError as error:
            self.no_room = error.strerror or "the disk refuses"


class _BrokenMember(Exception):
    """A member that does not come out whole."""


def _portions(archive: zipfile.ZipFile, entry: zipfile.ZipInfo) -> Iterator[bytes]:
    try:
        with archive.open(entry) as source:
            while portion := source.read(_PORTION):
                yield portion
    except _TROUBLES as error:
        raise _BrokenMember from error


def _begins_as_zip(path: Path) -> bool:
    with path.open("rb") as stream:
        return stream.read(4) == b"PK\x03\x04"


def _salvaged(path: Path, store: Store, progress: Progress, state: str) -> Opened:
    """What stands in the file before its end was lost."""
    lost = [f"{path.name} breaks off before its end; what follows was saved from it."]
    form: JobForm | None = None
    origins: list[FileOrigin] = []
    taken = _Taken()
    size = path.stat().st_size

    def small(member: Member, most: int) -> bytes | None:
        out = bytearray()
        for portion in member.portions(most):
            out += portion
        return bytes(out) if member.is_whole else None

    with store.together(path.name), path.open("rb") as stream:
        for member in members(stream, size):
            progress("saving what is left", member.start, size)
            name = member.name
            if name == _JOB:
                data = small(member, _MOST_JOB)
                form = _form_or_files(data, path, lost) if data is not None else None
            elif name.startswith(_PARTS) and name.endswith(ABOUT):
                origins += _origin_in(small(member, _MOST_ABOUT) or b"")
            elif _is_digest(digest := name.removeprefix(_PARTS)):
                taken.take(store, digest, member.portions(None))
        if form is None:
            lost.append(_ONLY_FILES)
        return _told(form, taken, list(dict.fromkeys(lost)), path, origins, state, store)


def _is_digest(words: str) -> bool:
    return len(words) == 32 and set(words) <= set("0123456789abcdef")
