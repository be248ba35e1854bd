"""Measuring by hand, and the dimensions that are kept."""
