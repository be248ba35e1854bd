"""What a worker process does to itself before it works: bounds on memory, silence, and an end with its parent."""

from __future__ import annotations

import ctypes
import faulthandler
import os
import resource
import signal

_PR_SET_PDEATHSIG = 1


def fence(memory: int) -> None:
    """Bounds this process to `memory` more bytes of address space than it has now, silences its standard output and error,
    and lets it die with its parent."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    with open("/proc/self/statm") as stream:
        pages = int(stream.read().split()[0])
    bound = pages * os.sysconf("SC_PAGE_SIZE") + memory
    resource.setrlimit(resource.RLIMIT_AS, (bound, bound))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    faulthandler.disable()
    # The window comes first where there are fewer cores than work.
    os.nice(15)
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    os.dup2(quiet, 2)
    os.close(quiet)
    # What the terminal or the tests installed is not for a worker.
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, signal.SIG_IGN if number == signal.SIGINT else signal.SIG_DFL)
