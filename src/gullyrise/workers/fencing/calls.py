"""Seccomp: the calls of the system that a worker has no business with, refused by the kernel."""

from __future__ import annotations

import errno
import os
from typing import Any

_NEVER = (
    # Networks, and the sockets of other programs on this machine.
    "socket", "socketpair", "socketcall", "connect", "bind", "listen", "accept", "accept4",
    # Other programs.
    "execve", "execveat", "fork", "vfork",
    # Other processes: their memory, signals, limits.
    "ptrace", "process_vm_readv", "process_vm_writev", "process_madvise", "kcmp", "pidfd_open", "pidfd_getfd",
    "pidfd_send_signal", "tkill", "rt_sigqueueinfo", "rt_tgsigqueueinfo", "setpriority", "ioprio_set",
    "sched_setaffinity", "sched_setscheduler", "sched_setparam", "sched_setattr", "migrate_pages", "move_pages",
    # Shared memory, queues and keys by which programs of one user reach each other.
    "shmget", "shmat", "shmctl", "semget", "semctl", "semop", "semtimedop", "msgget", "msgsnd", "msgrcv", "msgctl",
    "mq_open", "mq_unlink", "add_key", "request_key", "keyctl",
    # The system itself.
    "mount", "umount2", "move_mount", "open_tree", "fsopen", "fsmount", "fspick", "fsconfig", "mount_setattr", "pivot_root",
    "chroot", "setns", "unshare", "bpf", "perf_event_open", "userfaultfd", "open_by_handle_at", "name_to_handle_at",
    "fanotify_init", "init_module", "finit_module", "delete_module", "kexec_load", "kexec_file_load", "reboot", "swapon",
    "swapoff", "syslog", "acct", "quotactl", "settimeofday", "clock_settime", "clock_adjtime", "adjtimex", "sethostname",
    "setdomainname", "iopl", "ioperm", "personality", "vhangup", "nfsservctl", "lookup_dcookie", "seccomp",
    # A second way to all calls, past this list.
    "io_uring_setup", "io_uring_enter", "io_uring_register",
    # Devices and pipes with names.
    "mknod", "mknodat",
    # Another user.
    "setuid", "setgid", "setreuid", "setregid", "setresuid", "setresgid", "setgroups", "setfsuid", "setfsgid", "capset",
)  # fmt: skip
_ONLY_WRITERS = (
    # What the rules on files do not cover.
    "chmod", "fchmod", "fchmodat", "fchmodat2", "chown", "fchown", "lchown", "fchownat", "utime", "utimes", "utimensat",
    "futimesat", "setxattr", "lsetxattr", "fsetxattr", "setxattrat", "removexattr", "lremovexattr", "fremovexattr",
    "removexattrat", "link", "linkat", "symlink", "symlinkat",
)  # fmt: skip
_CLONE_THREAD = 0x0001_0000
_PR_SET_PDEATHSIG, _PR_SET_DUMPABLE = 1, 4


def _library() -> Any:
    """The binding of libseccomp, None where that is not on this machine."""
    try:
        import pyseccomp
    except (ImportError, RuntimeError, OSError):
        return None
    return pyseccomp


def there() -> bool:
    """Whether calls can be refused here."""
    return _library() is not None and os.path.exists("/proc/sys/kernel/seccomp")  # noqa: PTH110


def refuse(*, writes: bool) -> None:
    """From now on this thread, and every one that it starts, is refused what no worker needs. writes : whether it writes files,
    and may give them their owner and times. Raises OSError, RuntimeError."""
    lib = _library()
    filter_ = lib.SyscallFilter(lib.ALLOW)
    no = lib.ERRNO(errno.EPERM)
    for name in (*_NEVER, *(() if writes else _ONLY_WRITERS)):
        _rule(lib, filter_, no, name)
    own = os.getpid()
    for name in ("kill", "tgkill"):
        _rule(lib, filter_, no, name, lib.Arg(0, lib.NE, own))
    # Threads are its own; a process is not. The newer call hides what it is asked for in memory: as if it did not exist, threads
    # are made by the older one.
    _rule(lib, filter_, no, "clone", lib.Arg(0, lib.MASKED_EQ, _CLONE_THREAD, 0))
    _rule(lib, filter_, lib.ERRNO(errno.ENOSYS), "clone3")
    _rule(lib, filter_, no, "prlimit64", lib.Arg(0, lib.NE, 0))
    for option in (_PR_SET_PDEATHSIG, _PR_SET_DUMPABLE):
        _rule(lib, filter_, no, "prctl", lib.Arg(0, lib.EQ, option))
    filter_.load()


def _rule(lib: Any, filter_: Any, action: int, name: str, *words: Any) -> None:
    try:
        number = lib.resolve_syscall(lib.system_arch(), name)
    except ValueError:
        # A name that this library or processor does not know.
        return
    if number >= 0:
        filter_.add_rule(action, name, *words)
