"""Settings: their rows, and the file that keeps them."""
