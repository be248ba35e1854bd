"""The sheets of settings and keys."""
