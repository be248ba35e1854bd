"""The fence that readers are in: one that tries to reach anything but its own file is refused, and real formats are still
read."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from gullyrise.core.progress import Progress
from gullyrise.core.reading import ReadOptions
from gullyrise.workers import forks
from gullyrise.workers.batch import run_all
from gullyrise.workers.fencing import lacking
from gullyrise.workers.process import Bounds, Worker
from gullyrise.workers.work import Read


def _outcome(attempt: Callable[[], Any]) -> str:
    try:
        return f"reached: {attempt()!r}"[:200]
    except (OSError, MemoryError, RuntimeError) as error:
        return type(error).__name__


def _vm_read(pid: int) -> Any:
    import ctypes

    libc = ctypes.CDLL(None, use_errno=True)
    found = libc.ptrace(16, pid, 0, 0)
    if found != 0:
        raise OSError(ctypes.get_errno(), "ptrace")
    return found


def _limit_of(pid: int) -> Any:
    import resource

    return resource.prlimit(pid, resource.RLIMIT_NOFILE, (16, 16))


class Hostile(Read):
    """A reader that somebody has taken over. `path` is its own file, everything else somebody else's."""

    __slots__ = ()

    def run(self, progress: Progress) -> dict[str, str]:  # type: ignore[override]
        home, parent = Path(self.path).parent, os.getppid()
        secret = home / "private" / "secret.txt"
        attempts: dict[str, Callable[[], Any]] = {
            "its own file": lambda: Path(self.path).read_bytes()[:4],
            "a TCP connection": lambda: socket.create_connection(("127.0.0.1", 9), 1),
            "a UDP socket": lambda: socket.socket(socket.AF_INET, socket.SOCK_DGRAM),
            "the screen": lambda: socket.socket(socket.AF_UNIX),
            "another file": secret.read_text,
            "a file beside it": (home / "beside.stl").read_bytes,
            "a list of files": lambda: os.listdir(home),  # noqa: PTH208
            "a link to another file": (home / "link.stl").read_bytes,
            "passwords": Path("/etc/passwd").read_text,
            "the window's memory": Path(f"/proc/{parent}/mem").read_bytes,
            "the window's words": Path(f"/proc/{parent}/environ").read_bytes,
            "a new file": lambda: (home / "new.txt").write_text("x"),
            "a new file for all": lambda: Path("/tmp/gullyrise-hostile.txt").write_text("x"),
            "its own file changed": lambda: Path(self.path).write_bytes(b"x"),
            "its own file away": lambda: os.unlink(self.path),  # noqa: PTH108
            "other rights": lambda: os.chmod(self.path, 0o777),  # noqa: PTH101
            "a link": lambda: os.symlink("/etc/passwd", home / "fresh link"),  # noqa: PTH211
            "a program": lambda: subprocess.run(["/bin/true"], check=True),
            "a program in its place": lambda: os.execv("/bin/true", ["true"]),
            "a second process": os.fork,
            "the window ended": lambda: os.kill(parent, signal.SIGTERM),
            "the window traced": lambda: _vm_read(parent),
            "the window's limits": lambda: _limit_of(parent),
            "all processes ended": lambda: os.kill(-1, 0),
            "100 GB": lambda: len(bytearray(100 << 30)),
            "1000 open files": lambda: [os.open(self.path, os.O_RDONLY) for _ in range(1000)],
        }
        return {name: _outcome(attempt) for name, attempt in attempts.items()}


@pytest.mark.skipif(bool(lacking()), reason=f"this kernel has not all that the fence asks for: {lacking()}")
def test_a_reader_that_was_taken_over_reaches_nothing_but_its_own_file(tmp_path: Path) -> None:
    trimesh.creation.box((1, 2, 3)).export(tmp_path / "part.stl")
    (tmp_path / "private").mkdir()
    (tmp_path / "private" / "secret.txt").write_text("secret")
    (tmp_path / "beside.stl").write_bytes(b"beside")
    (tmp_path / "link.stl").symlink_to("private/secret.txt")
    before = (tmp_path / "part.stl").read_bytes()
    (report,) = run_all([Hostile(str(tmp_path / "part.stl"), ReadOptions(), 300.0)])
    assert report.kind == "done", report.value
    reached = {name for name, what in report.value.items() if what.startswith("reached")}
    assert reached == {"its own file"}, report.value
    assert (tmp_path / "part.stl").read_bytes() == before and not Path("/tmp/gullyrise-hostile.txt").exists()
    assert sorted(one.name for one in tmp_path.iterdir()) == ["beside.stl", "link.stl", "part.stl", "private"]


class Bomb(Read):
    """Makes processes and threads as fast as it can."""

    __slots__ = ()

    def run(self, progress: Progress) -> dict[str, int]:  # type: ignore[override]
        made = {"processes": 0, "threads": 0}
        hold = threading.Event()
        for _ in range(2000):
            try:
                if os.fork() == 0:
                    os._exit(0)
                made["processes"] += 1
            except OSError:
                pass
            try:
                threading.Thread(target=hold.wait, daemon=True).start()
                made["threads"] += 1
            except (RuntimeError, MemoryError):
                break
        return made


def test_a_fork_bomb_is_one_process_and_bounded_threads(tmp_path: Path) -> None:
    (tmp_path / "part.stl").write_bytes(b"solid")
    (report,) = run_all([Bomb(str(tmp_path / "part.stl"), ReadOptions(), 300.0)], bounds=Bounds(1 << 30, 20))
    # It may also choke on what it made.
    assert report.kind == "error" or (report.value["processes"] == 0 and report.value["threads"] < 2000), report.value


class Busy(Read):
    """Works for ever, or waits for ever, whatever its path says."""

    __slots__ = ()

    def run(self, progress: Progress) -> object:  # type: ignore[override]
        signal.signal(signal.SIGXCPU, signal.SIG_IGN)
        while True:
            if Path(self.path).stem == "wait":
                time.sleep(60)


def test_time_is_bounded_by_the_process_itself_too(tmp_path: Path) -> None:
    (tmp_path / "busy.stl").write_bytes(b"solid")
    worker = Worker(Busy(str(tmp_path / "busy.stl"), ReadOptions(), 1.0), "fork", Bounds(1 << 30, 0.4))
    worker.start()
    worker._process.join(20)
    assert worker._process.exitcode == -signal.SIGKILL, "nobody looked at it all that while"
    report = worker.hear()
    assert report is not None and "damaged" not in str(report.value)


LIVES = """
import sys, time
from gullyrise.desktop import launch
import test_fence
application, window = launch([])
from gullyrise.core.reading import ReadOptions
for kind in ("busy", "wait"):
    window.tasks.send(test_fence.Busy(sys.argv[1] + "/" + kind + ".stl", ReadOptions(), 1.0), print, print)
while len([e for e in window.tasks.under_way if e.begun]) < 2:
    application.processEvents()
time.sleep(1.5)
import multiprocessing.forkserver as f
print(f._forkserver._forkserver_pid, flush=True)
while True:
    application.processEvents()
    time.sleep(0.01)
"""


def _of_session(session: int) -> list[int]:
    found = []
    for one in Path("/proc").iterdir():
        if one.name.isdigit():
            try:
                fields = (one / "stat").read_text().rpartition(")")[2].split()
            except OSError:
                continue
            if int(fields[3]) == session and fields[0] != "Z":
                found.append(int(one.name))
    return found


@pytest.mark.slow
def test_all_ends_with_the_window_and_the_next_start_sweeps(tmp_path: Path) -> None:
    for kind in ("busy", "wait"):
        (tmp_path / f"{kind}.stl").write_bytes(b"solid")
    # The path of a socket is short.
    room = Path(tempfile.mkdtemp(dir="/tmp"))
    here = dict(os.environ, PYTHONPATH=str(Path(__file__).parent), TMPDIR=str(room))
    words = [sys.executable, "-c", LIVES, str(tmp_path)]
    window = subprocess.Popen(words, stdout=subprocess.PIPE, text=True, env=here, start_new_session=True)
    assert window.stdout is not None
    fork_server = int(window.stdout.readline())
    assert len(_of_session(window.pid)) >= 4, "the window, its fork server and two workers at least"
    window.kill()
    window.wait()
    killed = time.monotonic()
    while _of_session(window.pid) and time.monotonic() - killed < 5:
        time.sleep(0.02)
    assert time.monotonic() - killed < 1.0 and fork_server not in _of_session(window.pid)
    window.stdout.close()
    assert list(room.glob("gullyrise-*")) and not list(room.glob("pymp-*"))
    sweep = "import gullyrise.workers.forks as forks; forks._sweep()"
    subprocess.run([sys.executable, "-c", sweep], env=here, check=True)
    assert not list(room.iterdir())
    room.rmdir()


def test_a_long_path_for_passing_files_stops_nobody(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    long = tmp_path / ("n" * 90)
    long.mkdir()
    monkeypatch.setattr(tempfile, "tempdir", str(long))
    assert str(long) not in forks._places() and "/tmp" in forks._places()


# --- what must still be read --------------------------------------------------------------------------------------------


def _neighbours(folder: Path, binary: bool) -> Path:
    """A glTF or GLB file whose buffer lies beside it."""
    files = trimesh.Scene(trimesh.creation.box((10, 20, 30))).export(file_type="gltf")
    tree = json.loads(files["model.gltf"])
    for number, one in enumerate(tree["buffers"]):
        data = files[one["uri"]]
        one["uri"] = f"sub/buffer%20{number}.bin"
        (folder / "sub").mkdir(exist_ok=True)
        (folder / "sub" / f"buffer {number}.bin").write_bytes(data)
    text = json.dumps(tree).encode()
    text += b" " * (-len(text) % 4)
    if not binary:
        (folder / "model.gltf").write_bytes(text)
        return folder / "model.gltf"
    head = b"glTF" + np.array([2, 20 + len(text), len(text), 0x4E4F534A], np.uint32).tobytes()
    (folder / "model.glb").write_bytes(head + text)
    return folder / "model.glb"


@pytest.mark.parametrize("binary", [False, True])
def test_buffers_beside_a_file_are_read_and_kept_with_the_job(binary: bool, tmp_path: Path) -> None:
    path = _neighbours(tmp_path, binary)
    (report,) = run_all([Read(str(path), ReadOptions(), 300.0, str(tmp_path / "store"))])
    assert report.kind == "done", report.value
    assert np.allclose(sorted(report.value.figures["size"]), [10, 20, 30], rtol=1e-6) or report.value.part.triangles == 12
    assert len(report.value.origin.belongs) == len(list((tmp_path / "sub").iterdir()))


def test_an_obj_with_materials_is_read(tmp_path: Path) -> None:
    text = trimesh.creation.box((1, 2, 3)).export(file_type="obj")
    (tmp_path / "part.obj").write_text("mtllib part.mtl\nusemtl clay\n" + text)
    (tmp_path / "part.mtl").write_text("newmtl clay\nKd 0.7 0.5 0.3\n")
    (report,) = run_all([Read(str(tmp_path / "part.obj"), ReadOptions(), 300.0)])
    assert report.kind == "done" and report.value.part.triangles == 12


def test_a_part_behind_a_link_is_read(tmp_path: Path) -> None:
    trimesh.creation.box((1, 2, 3)).export(tmp_path / "real.stl")
    (tmp_path / "link.stl").symlink_to("real.stl")
    (report,) = run_all([Read(str(tmp_path / "link.stl"), ReadOptions(), 300.0)])
    assert report.kind == "done" and report.value.part.triangles == 12
