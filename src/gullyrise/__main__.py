"""The entry point. Imports nothing heavy by itself: worker processes look at this module again."""

from __future__ import annotations

import io
import sys


def main() -> int:
    """Runs the command line and gives the exit status."""
    from gullyrise.command_line.app import run

    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            # A terminal that knows only ascii must not stop a verdict.
            stream.reconfigure(errors="replace")
    return run(sys.argv[1:])


if __name__ == "__main__":
    sys.exit(main())
