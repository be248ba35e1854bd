"""A camera, and what it sees of places, lines and triangles. Numbers only."""
