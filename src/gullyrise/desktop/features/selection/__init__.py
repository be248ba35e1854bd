"""What is chosen, and what of it is seen."""
