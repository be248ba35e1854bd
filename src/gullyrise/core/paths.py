"""Paths and names as words: Linux takes any bytes for a name, and what people and files read takes only words."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import quote, unquote_to_bytes

_BYTES = "file://"


def told_path(path: Path) -> str:
    """A path as words. Where its bytes are no UTF-8 it is told as a URI, whose signs stand for bytes (RFC 3986)."""
    words = str(path)
    try:
        words.encode()
    except UnicodeEncodeError:
        return _BYTES + quote(os.fsencode(path))
    return words


def real_path(words: str) -> str:
    """The path that words tell."""
    return os.fsdecode(unquote_to_bytes(words.removeprefix(_BYTES))) if words.startswith(_BYTES) else words


def plain_name(name: str) -> str:
    """A file's name as words that can be written down: bytes that are no UTF-8 show as the sign for that."""
    return os.fsencode(name).decode(errors="replace")


def printable(words: str) -> str:
    """Words from a file as they can be shown in a sentence: without signs that end it, turn it round, cannot be seen or are
    none."""
    if words.isprintable():
        return words
    return "".join(sign if sign.isprintable() else "\ufffd" if "\ud800" <= sign <= "\udfff" else " " for sign in words)
