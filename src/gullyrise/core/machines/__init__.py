"""Machines: what they hold, what they can make, and the library of them."""

from gullyrise.core.machines.limits import Limits
from gullyrise.core.machines.machine import Envelope, KeepOut, Machine, Margins, Tool

__all__ = ["Envelope", "KeepOut", "Limits", "Machine", "Margins", "Tool"]
