"""Machine, limits and settings files with one odd thing in them, and files that are none."""

from __future__ import annotations

import json
import os
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import tomli_w

from attack.values import ODD, Gone, changed, ways
from gullyrise.core.errors import GullyriseError
from gullyrise.core.machines.limits import read_limits
from gullyrise.core.machines.machine import read_machine
from gullyrise.desktop.preferences.rows import ROWS
from gullyrise.desktop.preferences.store import Settings


def _toml(value: Any) -> bool:
    """Whether TOML can say it."""
    try:
        tomli_w.dumps({"a": value})
    except (TypeError, ValueError, RecursionError, AttributeError):
        return False
    return value is not Gone


def machine_files(tree: Any, limits: Any) -> Iterator[tuple[str, bytes]]:
    """(kind, bytes) of machine and limits files."""
    for kind, whole in (("machine", tree), ("limits", limits)):
        for way in ways(whole):
            for value in ODD:
                if value is Gone or _toml(value):
                    try:
                        yield kind, tomli_w.dumps(changed(whole, way, value)).encode()
                    except (TypeError, ValueError, RecursionError, UnicodeError):
                        continue
        text = tomli_w.dumps(whole).encode()
        yield kind, b"\xef\xbb\xbf" + text
        yield kind, text.decode().encode("utf-16")
        yield kind, b"a = " + b"[" * 3000 + b"]" * 3000
        yield kind, b"a = " + b"{b = " * 2000 + b"1" + b"}" * 2000
        yield kind, ".".join("a" * 3000).encode() + b" = 1"
        yield kind, b"n = " + b"9" * 20000
        yield kind, b"d = 0000-99-99"
        yield kind, b"#" * (2 << 20)
        yield kind, b"\x00" * 100
        yield kind, b""


def settings_files() -> Iterator[bytes]:
    """Bytes of settings files."""
    for row in ROWS:
        for value in ODD:
            if value is not Gone:
                yield json.dumps({row.id: value}).encode()
    yield b"[" * 100_000
    yield b"\xef\xbb\xbf{}"
    yield b"\xff\xfe{}"
    yield b"[]"
    yield b"nonsense"
    yield b""
    yield b" " * (2 << 20)


def table_fault(kind: str, data: bytes, folder: Path) -> str:
    """What is wrong with how a file is read; empty where nothing is."""
    path = folder / f"{kind}.toml"
    path.write_bytes(data)
    try:
        (read_machine if kind == "machine" else read_limits)(path)
    except GullyriseError as error:
        said = str(error)
        return "" if path.name in said and "\n" not in said and len(said) < 600 else f"no sentence: {said[:200]!r}"
    except Exception as error:
        return f"{type(error).__name__}: {error}"[:300]
    return ""


def settings_fault(data: bytes, folder: Path) -> str:
    path = folder / "settings.json"
    path.write_bytes(data)
    try:
        made = Settings(path)
        for row in ROWS:
            made[row.id]
    except Exception as error:
        return f"{type(error).__name__}: {error}"[:300]
    return "" if "\n" not in made.trouble and len(made.trouble) < 600 else f"no sentence: {made.trouble[:200]!r}"


def odd_places(folder: Path) -> Iterator[Path]:
    """What is no ordinary file: to be refused at once, whoever asks for it."""
    pipe = folder / "pipe.toml"
    os.mkfifo(pipe)
    yield pipe
    yield Path("/dev/zero")
    (folder / "folder.toml").mkdir()
    yield folder / "folder.toml"
    ring = folder / "ring.toml"
    ring.symlink_to(ring)
    yield ring
    yield folder / ("n" * 300 + ".toml")
    yield folder / "nul\x00.toml"
    yield Path(os.fsdecode(os.fsencode(folder) + b"/not-there-\xff\xfe.toml"))


def some_of(found: list[Any], count: int, seed: int) -> list[Any]:
    return random.Random(seed).sample(found, min(count, len(found)))
