"""Where parts stand on the bed."""
