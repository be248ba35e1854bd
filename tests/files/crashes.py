"""Killing what writes a job, at moments spread over the writing. `make crashes` does it with whole windows."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

import zoo
from gullyrise.core.geometry import Transform
from gullyrise.core.job.file import open_file, save
from gullyrise.core.job.form import JobForm, form_of
from gullyrise.core.job.job import Job
from gullyrise.core.job.journal import Journal, journal_home, left_behind
from gullyrise.core.job.placed_part import PlacedPart
from gullyrise.core.job.store import Store, digest_of
from gullyrise.core.machines.library import default_machine, library
from gullyrise.core.safe_files import write_safely
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
        job = job.with_parts([PlacedPart(number + 1, part, part.box, {}, f"{number}", Transform.identity(), origin=origin)])
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


def newest(job: Path, *, once: bool = True) -> float:
    """Seconds since work was last kept, in its file or in a journal; every journal that is offered can be made anew, and no
    work is offered twice.

    once : whether each session takes up what the one before it left
    """
    found = left_behind()
    for one in found:
        one.let_go()
        assert one.form is not None and not one.cost
        for part in one.form.parts:
            assert one.store.path_of(part.origin.file.digest).exists()  # type: ignore[union-attr]
    assert len(found) <= 1 or not once, [one.folder.name for one in found]
    written = [job.stat().st_mtime] if job.exists() else []
    return time.time() - max([*written, *(one.when for one in found)])


def family(session: int) -> dict[int, str]:
    """Processes of a session that still run, with the words that they were started by."""
    out = {}
    for one in Path("/proc").iterdir():
        if one.name.isdigit():
            try:
                fields = (one / "stat").read_text().rpartition(")")[2].split()
                words = (one / "cmdline").read_bytes().decode(errors="replace")
            except OSError:
                continue
            if int(fields[3]) == session and fields[0] != "Z":
                out[int(one.name)] = words
    return out


WINDOW = """
import random, sys, time
import numpy as np
from gullyrise.core.geometry import Transform
from gullyrise.core.job.journal import journal_home
from gullyrise.desktop import launch
def left_over():
    return any(journal_home().glob("*/job.json"))
application, window = launch([])
def live(seconds):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        application.processEvents()
        time.sleep(0.004)
print("ready", flush=True)
end = time.monotonic() + (60 if left_over() else 0.0)
while not window.autosave._offered and time.monotonic() < end:
    live(0.05)
for found in list(window.autosave._offered):
    if found.form is not None:
        window.autosave.take_up(found)
        while not window.model.job.parts:
            live(0.05)
if not window.model.job.parts:
    window.model.open_files(sys.argv[2:])
step = 0
while True:
    step += 1
    if window.model.job.parts:
        window.placement.move("Push", lambda _: Transform.moved(np.array([0.5, 0, 0])))
    if step % 7 == 1 and window.model.job.parts:
        window.job_file.save_to(sys.argv[1])
    if window.notifications.tells("saving over"):
        # Killed between its saving and its keeping, the session before left a file that this one does not know.
        window.notifications.settled("saving over")
        window.job_file._write(sys.argv[1], None)
    if step % 9 == 5 and len(window.model.job.parts) < 6:
        window.model.open_files(sys.argv[2:3])
    live(0.1)
"""


def one_crash(job: Path, files: list[str], folder: Path, chance: random.Random, wait: float) -> tuple[str, float]:
    """(what was killed, for how long the window lived). A window takes up what the one before it left, works, and is killed at
    some moment, perhaps after others of its family."""
    words = [sys.executable, "-c", WINDOW, str(job), *files]
    window = subprocess.Popen(words, stdout=subprocess.PIPE, text=True, start_new_session=True, env=dict(os.environ))
    told = f"window after {wait:.2f} s"
    try:
        assert window.stdout is not None and window.stdout.readline() == "ready\n"
        return _killed(window, job, folder, chance, wait, told), wait
    finally:
        window.kill()
        window.wait()


def _killed(window: subprocess.Popen[str], job: Path, folder: Path, chance: random.Random, wait: float, told: str) -> str:
    """What was killed, after a while in which the window lives."""
    if chance.random() < 0.4:
        time.sleep(wait / 2)
        others = {number: said for number, said in family(window.pid).items() if number != window.pid}
        servers = [number for number, said in others.items() if "forkserver" in said]
        for number in chance.sample(sorted(others), min(len(others), chance.randrange(1, 3))):
            with suppress(OSError):
                os.kill(number, 9)
            told = f"{'the fork server' if number in servers else 'a worker'}, then {told}"
        time.sleep(wait / 2)
        assert window.poll() is None, f"the window ended with {told}"
    else:
        time.sleep(wait)
    window.kill()
    window.wait()
    assert window.stdout is not None
    window.stdout.close()
    # A second, or longer where others have the machine: a fork server ends by itself from its first line of Python on.
    end = time.monotonic() + max(1.0, os.getloadavg()[0] / len(os.sched_getaffinity(0)))
    while family(window.pid) and time.monotonic() < end:
        time.sleep(0.01)
    assert not family(window.pid), f"left behind: {family(window.pid)}"
    whole = "no job yet"
    if job.exists():
        opened = open_file(job, Store(folder / "opened"))
        assert opened.form is not None and not opened.lost, opened.lost
        whole = f"job of {len(opened.form.stands)} parts whole"
    return f"{told}; {whole}"


def crashes(count: int, folder: Path, seed: int) -> None:
    """Windows, their workers and their fork server killed at random moments of receiving, saving, keeping and recovering."""
    chance = random.Random(seed)
    mesh = zoo.mesh_of(zoo.sphere_shell(20, 17, 40))
    files, job = [], folder / "j.gullyrise"
    for number in range(2):
        write(zoo.part(mesh, f"kept {number}"), folder / f"kept-{number}.stl")
        files.append(str(folder / f"kept-{number}.stl"))
    (folder / "tmp").mkdir()
    home = str(folder / "home")
    os.environ.update(
        XDG_DATA_HOME=home, XDG_CONFIG_HOME=home, XDG_STATE_HOME=home, TMPDIR=str(folder / "tmp"), QT_QPA_PLATFORM="offscreen"
    )
    latest, halved = 0.0, False
    for number in range(count):
        # Now and then one lives so long that it must have kept something of its own.
        told, lived = one_crash(job, files, folder, chance, 12.0 if number % 10 == 9 else chance.uniform(0.05, 6.0))
        # Of work whose parts could not all be made, as their workers were killed, the old state stays beside the new one.
        before, halved = halved, "then" in told
        age = newest(job, once=not (before or halved)) if job.exists() or left_over() else 0.0
        kept = time.time() - age
        print(f"{number + 1}: {told}; newest state {age:.1f} s old", flush=True)
        assert not latest or kept > latest - 0.1, "what was kept before is lost"
        assert lived < 12 or (age and age < 10), "nothing new was kept for ten seconds"
        latest = kept if age else latest
        folders = [one for one in (folder / "tmp").iterdir() if one.name.startswith(("gullyrise-", "pymp-"))]
        assert len(folders) <= 1, "the next start sweeps what the one before left"
    if job.exists():
        # What was left half written goes with the next saving.
        write_safely(job, job.read_bytes())
    assert not list(folder.glob("*.part"))


def left_over() -> bool:
    return any(journal_home().glob("*/job.json"))


if __name__ == "__main__":
    from tempfile import mkdtemp

    seed = int(os.environ.get("SEED", str(int(time.time()))))
    print(f"seed {seed}")
    crashes(int(sys.argv[1]) if len(sys.argv) > 1 else 50, Path(mkdtemp()), seed)
