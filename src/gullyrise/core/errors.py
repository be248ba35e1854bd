"""One error tree: every error is built from fields and makes its own sentence.

A sentence says what happened, why, and what to do about it. Core raises; the command line and the
window show.

    GullyriseError
      ReadError          a file that cannot become a part
        NotAFile, NoPermission, EmptyFile, UnknownFormat, Truncated, Damaged, TooLarge, NothingInside,
        UnsafeContent, ReaderDied, ReaderEnded
      WriteError         a part that cannot become a file
      LimitsError        a limits file that cannot be used
      MachineError       a machine file that cannot be used
      PlaneError         a plane that cannot be understood
      MeasureError       a wanted size that cannot be understood
      SplitError         a part that cannot be cut in two
      PlacingError       a size or shape that cannot be made
      JobError           a job file that cannot be opened or saved
        NewerJob, JobChanged, NotKept
      WorkEnded          background work that ended without a result
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import ClassVar

from gullyrise.core.paths import printable

Field = str | int | float | bool


class GullyriseError(Exception):
    """The root of the tree; `str()` of any of them is one plain sentence.

    code : of its kind, by which a program decides
    fields : what the sentence was made of, by name
    """

    code: ClassVar[str] = "gullyrise-error"

    def __init_subclass__(cls) -> None:
        cls.code = re.sub(r"(?<=[a-z])(?=[A-Z])", "-", cls.__name__).lower()

    def __init__(self, sentence: str, **fields: Field) -> None:
        # Names from files stand in it.
        self.sentence = printable(sentence)
        self.fields = fields
        super().__init__(self.sentence)

    def __reduce__(self) -> tuple[object, ...]:
        # It is made from its sentence and fields: what made the sentence of them asks for others.
        return (rebuilt, (type(self), self.sentence, self.fields))


def rebuilt(kind: type[GullyriseError], sentence: str, fields: Mapping[str, Field]) -> GullyriseError:
    """An error of a kind as it crosses processes."""
    error = kind.__new__(kind)
    GullyriseError.__init__(error, sentence, **fields)
    return error


class ReadError(GullyriseError):
    """A file that cannot become a part."""


class NotAFile(ReadError):
    """The path names something else than a file."""

    def __init__(self, name: str, *, folder: bool) -> None:
        what = "is a folder, not a part file; open the files inside it" if folder else "does not exist; check the path"
        super().__init__(f"{name} {what}.", file=name, folder=folder)


class NoPermission(ReadError):
    """The file must not be read."""

    def __init__(self, name: str) -> None:
        super().__init__(f"{name} may not be read by you; change its permissions or copy it.", file=name)


class EmptyFile(ReadError):
    """The file holds no bytes."""

    def __init__(self, name: str) -> None:
        super().__init__(f"{name} is empty (0 bytes); ask for the file to be sent again.", file=name)


class UnknownFormat(ReadError):
    """No reader knows the file."""

    def __init__(self, name: str, known: str) -> None:
        super().__init__(f"{name} is not in a format that can be read, judged by its content; send one of {known}.", file=name)


class Truncated(ReadError):
    """The file ends before what it announces."""

    def __init__(self, name: str, needed: str, present: str) -> None:
        super().__init__(
            f"{name} ends too early: it announces {needed} but holds {present}; ask for the file to be sent again.",
            file=name, needed=needed, present=present,
        )  # fmt: skip


class Damaged(ReadError):
    """The file contradicts itself or its format."""

    def __init__(self, name: str, form: str, why: str) -> None:
        super().__init__(
            f"{name} cannot be read as {form}: {why.strip().rstrip('.')}; export it again from where it was drawn.",
            file=name, format=form, why=why,
        )  # fmt: skip


class TooLarge(ReadError):
    """The file, or what it announces, goes beyond what is read."""

    def __init__(self, name: str, what: str, bound: str) -> None:
        super().__init__(
            f"{name} is too large: {what}, more than the bound of {bound}; split it or make it coarser.",
            file=name, what=what, limit=bound,
        )  # fmt: skip


class NothingInside(ReadError):
    """The file holds no surface."""

    def __init__(self, name: str, what: str = "no triangles and no solids") -> None:
        super().__init__(f"{name} holds {what}; export the part itself, not only its frame or its points.", file=name)


class UnsafeContent(ReadError):
    """The file asks for what no part file should."""

    def __init__(self, name: str, what: str) -> None:
        super().__init__(f"{name} was refused because {what}; export it again with an ordinary program.", file=name)


class ReaderDied(ReadError):
    """The process that read the file ended before it was done."""

    def __init__(self, name: str, how: str) -> None:
        super().__init__(f"Reading {name} was ended: {how}; the file is probably damaged, export it again.", file=name, how=how)


class ReaderEnded(ReadError):
    """A reader that was ended from outside, which says nothing of the file."""

    def __init__(self, name: str, how: str) -> None:
        super().__init__(
            f"Reading {name} was ended: {how}; the file may be sound, try again, or send it coarser or in parts.",
            file=name,
            how=how,
        )


class WriteError(GullyriseError):
    """A part that cannot become a file."""


class LimitsError(GullyriseError):
    """A limits file that cannot be used."""


class MachineError(GullyriseError):
    """A machine file that cannot be used, or an id that is in no library."""


class PlaneError(GullyriseError):
    """A plane that cannot be understood."""


class MeasureError(GullyriseError):
    """A wanted size that cannot be understood, or picks that measure nothing."""


class SplitError(GullyriseError):
    """A part that cannot be cut in two."""


class PlacingError(GullyriseError):
    """A size or shape that cannot be made."""


class JobError(GullyriseError):
    """A job file that cannot be opened or saved."""


class NewerJob(JobError):
    """The job file is of a newer version."""

    def __init__(self, name: str, number: int, known: int) -> None:
        super().__init__(
            f"{name} was saved by a newer Gullyrise (job form {number}; this one reads up to {known}). "
            "Open it there, or bring this one up to date; nothing in it was changed.",
            file=name,
            form=number,
            known=known,
        )


class JobChanged(JobError):
    """The job file is not the one any more that was opened."""

    def __init__(self, name: str) -> None:
        super().__init__(f"{name} was changed by somebody else since it was opened here; it was not saved over.", file=name)


class NotKept(JobError):
    """The bytes of a part are not kept any more."""

    def __init__(self, name: str, why: str) -> None:
        super().__init__(
            f"{name} could not be kept beside the job ({why}). It can be judged, and saved as long as its file stays as it is; "
            "make room, then reload it.",
            file=name,
            why=why,
        )


class WorkEnded(GullyriseError):
    """Background work that ended without a result: cancelled, crashed, out of time or memory. detail : for who mends the program,
    never shown"""

    detail = ""

    def __init__(self, sentence: str, detail: str = "") -> None:
        super().__init__(sentence)
        self.detail = detail
