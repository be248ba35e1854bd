"""Verdicts, findings and what shows them."""
