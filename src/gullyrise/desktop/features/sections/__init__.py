"""Cuts through what stands on the bench, and the sections that they make."""
