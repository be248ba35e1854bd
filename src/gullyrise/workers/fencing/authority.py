"""Taking away from this process all authority that its work does not need."""

from __future__ import annotations

import os
import sys
from functools import cache
from pathlib import Path

from gullyrise.workers.fencing import calls, landlock
from gullyrise.workers.fencing.grants import Grants

_SYSTEM = (
    "/usr/lib", "/usr/lib32", "/usr/lib64", "/usr/local/lib", "/usr/libexec", "/lib", "/lib32", "/lib64",
    "/usr/share/zoneinfo", "/usr/share/locale", "/etc/ld.so.cache", "/etc/ld.so.conf", "/etc/ld.so.conf.d", "/etc/localtime",
    "/dev/null", "/dev/zero", "/dev/urandom", "/dev/random",
    "/proc/meminfo", "/proc/cpuinfo", "/proc/stat", "/proc/sys/vm/overcommit_memory", "/sys/devices/system",
)  # fmt: skip


@cache
def lacking() -> tuple[str, ...]:
    """What the kernel of this machine cannot fence, in the words of the log; empty where it has all."""
    known = landlock.version()
    out = []
    if not known:
        out.append("Landlock: readers can reach the files that you can reach")
    elif known < 4:
        out.append(f"Landlock of version {known}, before networks and signals were in it: seccomp stands in")
    if not calls.there():
        out.append("seccomp or its library libseccomp: readers can use the network and start programs")
    return tuple(out)


def disarm(grants: Grants) -> None:
    """Leaves this process only what `grants` names and what Python is made of: no other file, no network, no other program and no
    other process. What the kernel lacks is left out, which `lacking` tells. Raises OSError where it should have worked: such a
    process must not go on."""
    if landlock.version():
        landlock.restrict((*_python(), f"/proc/{os.getpid()}", *grants.reads), grants.writes)
    else:
        landlock.no_new_privileges()
    if calls.there():
        calls.refuse(writes=bool(grants.writes))


def make_ready() -> None:
    """Finds once what every worker of this process would look for: the library of calls, and where Python lies."""
    lacking()
    _python()


@cache
def _python() -> tuple[str, ...]:
    """Where Python, the libraries and this program lie. Never a whole home folder, wherever somebody put them."""
    own = Path(__file__).parents[2]
    homes = {Path("/"), Path.home(), *Path.home().parents}
    found = {Path(sys.prefix), Path(sys.base_prefix), Path(sys.exec_prefix), own, *(Path(one) for one in _SYSTEM)}
    for name in sys.path:
        place = Path(name)
        # The folder of whoever started it stands in this list, too: only where packages are kept is meant.
        if place.name in ("site-packages", "dist-packages", "lib-dynload") or place.name.startswith("python3"):
            found.add(place)
    return tuple(str(one) for one in sorted(found) if one not in homes)
