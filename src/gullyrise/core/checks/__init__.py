"""A module per check, behind one protocol."""
