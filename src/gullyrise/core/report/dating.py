"""The date that a report bears."""

from __future__ import annotations

import os
from datetime import UTC, datetime

_MOST = 253_402_300_799
"""Seconds since 1970 that a date has digits for."""


def now() -> datetime:
    """The moment, or the one that SOURCE_DATE_EPOCH says (reproducible-builds.org), so that one input gives the same bytes."""
    told = os.environ.get("SOURCE_DATE_EPOCH", "")
    if told.isdigit() and int(told) <= _MOST:
        return datetime.fromtimestamp(int(told), UTC)
    return datetime.now().astimezone()


def date_words() -> str:
    """As a report has it: ISO 8601's date, and the time of day."""
    return now().strftime("%Y-%m-%d %H:%M")
