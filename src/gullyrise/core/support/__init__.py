"""What hangs over air where a mesh stands on a bed: what rests, what wants support, bridges and islands."""
