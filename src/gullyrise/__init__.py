"""Gullyrise judges part files for the machine that will make them."""

__version__ = "0.1.0"
