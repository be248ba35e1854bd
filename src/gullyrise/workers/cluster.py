"""The same work per file on a cluster of machines; the only import of dask, which is an optional extra."""

from __future__ import annotations

from gullyrise.core.errors import GullyriseError
from gullyrise.workers.judging import JudgedFile, Question, judge_file, without_colours


class ClusterError(GullyriseError):
    """A cluster that cannot be used. Built with a sentence."""


def answer_for(path: str, question: Question) -> JudgedFile:
    """What a worker of the cluster does: a file that cannot be used is an answer there too."""
    try:
        return without_colours(judge_file(path, question)[0])
    except GullyriseError as error:
        return JudgedFile(path, None, (), str(error))


def judge_on_cluster(files: list[str], question: Question, address: str) -> list[JudgedFile]:
    """Every file on the workers of the Dask scheduler at an address; the files must be seen under the same paths there.

    Raises ClusterError where Dask is not installed or the scheduler does not answer.
    """
    try:
        from distributed import Client
    except ImportError:
        raise ClusterError("A cluster needs the extra: install gullyrise[cluster], or leave --cluster out.") from None
    try:
        client = Client(address, timeout=20)
    except (OSError, ValueError, TimeoutError) as error:
        raise ClusterError(f"The cluster at {address} does not answer ({error}); check its address.") from None
    with client:
        futures = client.map(answer_for, files, question=question, pure=False, retries=1)
        out = []
        for name, future in zip(files, futures, strict=True):
            trouble = future.exception()
            out.append(future.result() if trouble is None else JudgedFile(name, None, (), _sentence(name, trouble)))
        return out


def _sentence(name: str, error: BaseException) -> str:
    return (
        str(error) if isinstance(error, GullyriseError) else f"{name} could not be judged there ({error}); try it on one machine."
    )
