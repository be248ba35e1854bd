"""The job file: a zip of job.json, a thumbnail and the bytes of every part file. Written whole or not at all; one that is
damaged opens as far as it goes."""

from __future__ import annotations

import hashlib
import struct
import zipfile
import zlib
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from gullyrise.core.errors import Damaged, JobError, TooLarge, UnsafeContent
from gullyrise.core.job.form import JobForm, as_bytes, form_from
from gullyrise.core.job.origins import FileOrigin, KeptFile
from gullyrise.core.job.store import Store
from gullyrise.core.progress import Progress, silent
from gullyrise.core.reading.archives import checked_entries
from gullyrise.core.safe_files import fill_safely

ENDING = ".gullyrise"
_JOB, _PICTURE, _PARTS = "job.json", "thumbnail.png", "parts/"
_MOST_JOB, _MOST_PICTURE = 256 << 20, 8 << 20
_PORTION = 1 << 20
_LOCAL = struct.Struct("<4sHHHHHIIIHH")


@dataclass(frozen=True, slots=True)
class Opened:
    """What a job file gave. lost : sentences on what it did not;  form : None where only part files were saved from it
    files : of those, by the digest of each
    """

    form: JobForm | None
    lost: tuple[str, ...]
    files: tuple[str, ...] = ()


def is_job_file(path: str | Path) -> bool:
    return Path(path).suffix.lower() == ENDING


def kept_files(form: JobForm) -> list[KeptFile]:
    """Every file that a job is made of, each digest once."""
    found: dict[str, KeptFile] = {}
    for part in form.parts:
        if isinstance(part.origin, FileOrigin):
            for kept in (part.origin.file, *part.origin.belongs):
                found.setdefault(kept.digest, kept)
    return list(found.values())


def save(form: JobForm, store: Store, thumbnail: bytes, path: Path, progress: Progress = silent) -> None:
    """Writes a job file; the one before stands until the new one is whole. Raises JobError."""
    kept = kept_files(form)
    for one in kept:
        if not store.path_of(one.digest).exists():
            raise JobError(f"The bytes of {one.name} are not kept any more; read it anew, then save again.")

    def fill(stream: IO[bytes]) -> None:
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
            archive.writestr(_JOB, as_bytes(form))
            if thumbnail:
                archive.writestr(_PICTURE, thumbnail, zipfile.ZIP_STORED)
            for done, one in enumerate(kept):
                progress("saving", done, len(kept))
                # Little is gained by pressing hard, and waiting for it is felt.
                archive.write(store.path_of(one.digest), _PARTS + one.digest, zipfile.ZIP_DEFLATED, 1)

    try:
        fill_safely(path, fill)
    except OSError as error:
        raise JobError(f"{path.name} cannot be saved ({error.strerror}); choose another place.") from None


def open_file(path: Path, store: Store, progress: Progress = silent) -> Opened:
    """Takes a job file's parts into the store. Raises JobError for a file that gives nothing, or is of a newer form."""
    try:
        if path.stat().st_size == 0:
            raise JobError(f"{path.name} is empty (0 bytes); open an earlier copy of it.")
    except OSError as error:
        raise JobError(f"{path.name} cannot be opened ({error.strerror}); check its path.") from None
    try:
        names = {entry.filename: entry for entry in checked_entries(path, "a job file")}
    except (UnsafeContent, TooLarge) as error:
        raise JobError(str(error)) from error
    except Damaged as error:
        if not _begins_as_zip(path):
            raise JobError(f"{path.name} is no job file; open part files by “Open parts”.") from error
        return _salvaged(path, store, progress)
    lost: list[str] = []
    with zipfile.ZipFile(path) as archive:
        form = _form_in(archive, names, path, lost)
        wanted = kept_files(form) if form is not None else []
        digests = {one.digest for one in wanted} if form is not None else _digests(list(names))
        saved = set()
        for done, digest in enumerate(sorted(digests)):
            progress("opening", done, len(digests))
            entry = names.get(_PARTS + digest)
            if entry is not None and _take(archive, entry, digest, store):
                saved.add(digest)
    return _told(form, saved, lost, path)


def thumbnail_of(path: Path) -> bytes:
    """The PNG in a job file, empty where there is none to be had."""
    try:
        with zipfile.ZipFile(path) as archive:
            entry = archive.getinfo(_PICTURE)
            return archive.read(entry) if entry.file_size <= _MOST_PICTURE else b""
    except (OSError, KeyError, ValueError, zipfile.BadZipFile, zlib.error, NotImplementedError):
        return b""


def _told(form: JobForm | None, saved: set[str], lost: list[str], path: Path) -> Opened:
    if form is None:
        if not saved:
            raise JobError(f"{path.name} is damaged, and nothing in it can be saved; open an earlier copy of it.")
        return Opened(None, tuple(lost), tuple(sorted(saved)))
    for part in form.parts:
        if isinstance(part.origin, FileOrigin):
            missing = [one.name for one in (part.origin.file, *part.origin.belongs) if one.digest not in saved]
            if missing:
                lost.append(f"{part.name} is lost: the bytes of {missing[0]} are damaged.")
    return Opened(form, tuple(lost))


def _form_in(archive: zipfile.ZipFile, names: dict[str, zipfile.ZipInfo], path: Path, lost: list[str]) -> JobForm | None:
    entry = names.get(_JOB)
    try:
        if entry is None or entry.file_size > _MOST_JOB:
            raise zipfile.BadZipFile("no job.json")
        data = archive.read(entry)
    except (zipfile.BadZipFile, zlib.error, OSError, EOFError):
        lost.append("Where the parts stood, the machine, limits, views and notes are lost; the part files themselves are opened.")
        return None
    return _form_or_parts(data, path, lost)


def _form_or_parts(data: bytes, path: Path, lost: list[str]) -> JobForm | None:
    try:
        return form_from(data, path.name)
    except JobError as error:
        if "newer" in error.sentence:
            raise
        lost.append(f"{error.sentence.removesuffix('; open an earlier copy of it.')}; the part files themselves are opened.")
        return None


def _digests(names: list[str]) -> set[str]:
    found = {name.removeprefix(_PARTS) for name in names if name.startswith(_PARTS)}
    return {one for one in found if len(one) == 32 and set(one) <= set("0123456789abcdef")}


def _take(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, digest: str, store: Store) -> bool:
    """Takes one member into the store where its bytes are what their digest says."""
    try:
        with archive.open(entry) as source:
            return _keep(source, digest, store)
    except (zipfile.BadZipFile, zlib.error, OSError, EOFError, NotImplementedError, RuntimeError):
        return False


def _keep(source: IO[bytes], digest: str, store: Store) -> bool:
    place = store.path_of(digest)
    if place.exists():
        return True
    store.folder.mkdir(parents=True, exist_ok=True)
    found = hashlib.blake2b(digest_size=16)

    def fill(stream: IO[bytes]) -> None:
        while portion := source.read(_PORTION):
            found.update(portion)
            stream.write(portion)
        if found.hexdigest() != digest:
            raise zipfile.BadZipFile("another file")

    fill_safely(place, fill)
    return True


def _begins_as_zip(path: Path) -> bool:
    with path.open("rb") as stream:
        return stream.read(4) == b"PK\x03\x04"


def _salvaged(path: Path, store: Store, progress: Progress) -> Opened:
    """What stands in the file before its end was lost: members are found by their own heads, one after another."""
    lost = [f"{path.name} breaks off before its end; what follows was saved from it."]
    form: JobForm | None = None
    saved: set[str] = set()
    scratch = store.folder / f"{path.name}.salvage"
    size = path.stat().st_size
    store.folder.mkdir(parents=True, exist_ok=True)
    with path.open("rb") as stream:
        while len(head := stream.read(_LOCAL.size)) == _LOCAL.size:
            mark, _, flags, method, _, _, crc, packed, unpacked, name_length, more = _LOCAL.unpack(head)
            if mark != b"PK\x03\x04" or flags & 8 or unpacked > max(_MOST_JOB, 200 * size):
                break
            name = stream.read(name_length).decode("utf-8", errors="replace")
            stream.seek(more, 1)
            start = stream.tell()
            progress("saving what is left", start, size)
            digest = name.removeprefix(_PARTS)
            if start + packed <= size and (name == _JOB or digest in _digests([name])):
                try:
                    with scratch.open("wb") as out:
                        whole = _unpack(stream, out, method, packed, crc)
                    if whole and name == _JOB:
                        form = _form_or_parts(scratch.read_bytes(), path, lost)
                    elif whole:
                        with scratch.open("rb") as source:
                            if _keep(source, digest, store):
                                saved.add(digest)
                except (zipfile.BadZipFile, OSError):
                    pass
                finally:
                    scratch.unlink(missing_ok=True)
            stream.seek(start + packed)
    return _told(form, saved, lost, path)


def _unpack(stream: IO[bytes], out: IO[bytes], method: int, packed: int, crc: int) -> bool:
    """Whether a member came out whole."""
    inflate = zlib.decompressobj(-15) if method == zipfile.ZIP_DEFLATED else None
    sum_, left = 0, packed
    while left:
        portion = stream.read(min(_PORTION, left))
        if not portion:
            return False
        left -= len(portion)
        try:
            data = inflate.decompress(portion) if inflate is not None else portion
        except zlib.error:
            return False
        sum_ = zlib.crc32(data, sum_)
        out.write(data)
    return sum_ == crc
