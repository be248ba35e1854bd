"""Notes and pictures for the record."""
