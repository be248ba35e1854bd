"""Killing what writes a job, at moments spread over the writing. `make crashes` does it with whole windows."""

from __future__ import annotations

import os
import random
import sys
import time
from pathlib import Path

import zoo
from gullyrise.core.geometry import Transform
from gullyrise.core.job.file import open_file, save
from gullyrise.core.job.form import JobForm, form_of
from gullyrise.core.job.job import Job
from gullyrise.core.job.journal import Journal, left_behind
from gullyrise.core.job.standing import Standing
from gullyrise.core.job.store import Store, digest_of
from gullyrise.core.machines.library import default_machine, library
from gullyrise.core.writing import write


def prepare(folder: Path) -> tuple[JobForm, Store]:
    """A job file, a journal and a store, whole, as they were before any crash."""
    mesh = zoo.mesh_of(zoo.sphere_shell(20, 17, 160))
    store = Store(folder / "store")
    job = Job(default_machine(), tuple(library()))
    for number in range(3):
        part = zoo.part(mesh, f"p{number}")
        write(part, folder / f"p{number}.stl")
        origin, _ = store.origin_of(folder / f"p{number}.stl")
        job = job.with_parts([Standing(number + 1, part, part.box, {}, f"{number}", Transform.identity(), origin=origin)])
    form = form_of(job, "job")
    save(form, store, b"\x89PNG", folder / "job.gullyrise")
    journal = Journal(folder / "journal")
    journal.write(form, "")
    journal.close()
    return form, store


def kill_while(what: str, folder: Path, form: JobForm, store: Store, share: float) -> None:
    """Forks a writer and kills it after a share of the time that its work takes."""
    noted = form.model_copy(update={"notes": tuple(f"note {n}" for n in range(int(share * 50)))})
    child = os.fork()
    if child == 0:
        while True:
            if what == "file":
                save(noted, store, b"\x89PNG", folder / "job.gullyrise")
            elif what == "journal":
                journal = Journal(folder / "journal")
                for _ in range(20):
                    journal.write(noted, "somewhere")
            else:
                for one in store.folder.iterdir():
                    one.unlink()
                for number in range(3):
                    store.keep(folder / f"p{number}.stl")
    time.sleep(0.002 + 0.05 * share + random.Random(share).random() * 0.01)
    os.kill(child, 9)
    os.waitpid(child, 0)


def check(folder: Path) -> None:
    """The job file is whole, every journal can be read, and every file in the store is what its name says."""
    opened = open_file(folder / "job.gullyrise", Store(folder / "other"))
    assert opened.form is not None and not opened.lost and len(opened.form.stands) == 3
    found = left_behind(folder / "journal")
    for one in found:
        one.let_go()
    assert found and all(one.form is not None and len(one.form.stands) == 3 for one in found)
    for one in (folder / "store").iterdir():
        assert one.name.startswith(".") or one.suffix == ".json" or digest_of(one) == one.name


def newest(job: Path) -> float:
    """Seconds since work was last kept, in its file or in a journal; every journal that is offered can be made anew."""
    found = left_behind()
    for one in found:
        one.let_go()
        assert one.form is not None and not one.cost
        for part in one.form.parts:
            assert one.store.path_of(part.origin.file.digest).exists()  # type: ignore[union-attr]
    return time.time() - max([job.stat().st_mtime, *(one.when for one in found)])


def windows(count: int, folder: Path) -> None:
    """Whole windows that save, keep their journal and receive, killed at random moments."""
    import signal
    import subprocess

    sys.path.insert(0, str(Path(__file__).parents[1] / "desktop"))
    from test_keeping import WINDOW, parts

    files, job = parts(folder, 2), folder / "j.gullyrise"
    os.environ.update(XDG_DATA_HOME=str(folder / "home"), XDG_CONFIG_HOME=str(folder / "home"), QT_QPA_PLATFORM="offscreen")
    for number in range(count):
        words = [sys.executable, "-c", WINDOW, str(job), *files[1:], files[0]]
        process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
        assert process.stdout is not None and process.stdout.readline() == "ready\n"
        wait = random.uniform(1.8, 4.0)
        time.sleep(wait)
        process.send_signal(signal.SIGKILL)
        process.wait()
        opened = open_file(job, Store(folder / f"s{number}"))
        assert opened.form is not None and not opened.lost, opened.lost
        age = newest(job)
        print(
            f"{number + 1}: killed after {wait:.2f} s; job of {len(opened.form.stands)} parts whole, newest state {age:.1f} s old"
        )
        assert age < 10


if __name__ == "__main__":
    from tempfile import mkdtemp

    windows(int(sys.argv[1]) if len(sys.argv) > 1 else 50, Path(mkdtemp()))
