"""The log: what the program says to whoever mends it, in a file of the user's state folder, bounded in size."""

from __future__ import annotations

import logging
import threading
from contextlib import suppress
from logging.handlers import RotatingFileHandler

from platformdirs import user_log_path

from gullyrise import __version__
from gullyrise.workers.fencing import lacking

_MOST_BYTES = 1 << 20
_log = logging.getLogger("gullyrise")


def begin_log() -> None:
    """Writes what comes from now on, beginning with what the fence round readers lacks on this machine. Where there is no place
    for a log there is none."""
    if _log.handlers:
        return
    with suppress(OSError):
        path = user_log_path("gullyrise") / "gullyrise.log"
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(path, maxBytes=_MOST_BYTES, backupCount=1, encoding="utf-8", errors="replace")
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        _log.addHandler(handler)
        _log.setLevel(logging.INFO)
        _log.propagate = False
    _log.info("Gullyrise %s began", __version__)
    # Looking for the library of calls asks other programs, for which no window waits.
    threading.Thread(target=_tell_of_the_fence, name="gullyrise-log", daemon=True).start()


def _tell_of_the_fence() -> None:
    missing = lacking()
    for words in missing or ("Landlock and seccomp are both there",):
        _log.log(logging.WARNING if missing else logging.INFO, "The fence round readers: %s", words)


def end_log() -> None:
    for handler in list(_log.handlers):
        _log.removeHandler(handler)
        handler.close()


def log(words: str) -> None:
    """One thing that somebody may want to look up later."""
    _log.error(words)
