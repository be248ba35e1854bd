"""Bounds on memory, processor time and open files, silence, and an end with the parent."""

from __future__ import annotations

import ctypes
import faulthandler
import math
import os
import resource
import signal

_PR_SET_PDEATHSIG = 1
_MOST_FILES = 512


def end_with_parent(number: int = 0) -> None:
    """Lets the system kill this process as soon as its parent is gone, whatever it does at that moment. number : of that parent,
    where it is known; one that is gone already ends it here"""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if number and os.getppid() != number:
        os._exit(0)


def bound(memory: int, seconds: float, keep: int) -> None:
    """Bounds this process to `memory` more bytes of address space than it has now and to `seconds` of processor time of all its
    threads, silences its standard input and outputs, and closes every file that it was born with but those and the handle
    `keep`."""
    end_with_parent()
    with open("/proc/self/statm") as stream:
        pages = int(stream.read().split()[0])
    most = pages * os.sysconf("SC_PAGE_SIZE") + memory
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    used = resource.getrusage(resource.RUSAGE_SELF)
    spent = math.ceil(used.ru_utime + used.ru_stime + seconds) + 1
    # One second between the signal that can be told apart and the one that nothing survives.
    resource.setrlimit(resource.RLIMIT_CPU, (spent, spent + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_NOFILE, (_MOST_FILES, _MOST_FILES))
    faulthandler.disable()
    # The window comes first where there are fewer cores than work.
    os.nice(15)
    quiet = os.open(os.devnull, os.O_RDWR)
    for stream_number in range(3):
        os.dup2(quiet, stream_number)
    # What the fork server and its helpers are spoken to by is nobody's business here.
    os.closerange(3, keep)
    os.closerange(keep + 1, os.sysconf("SC_OPEN_MAX") if os.sysconf("SC_OPEN_MAX") > 0 else 65_536)
    # What the terminal or the tests installed is not for a worker.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGXCPU):
        signal.signal(number, signal.SIG_IGN if number == signal.SIGINT else signal.SIG_DFL)
