"""Pointer schemes: which stroke does what."""
