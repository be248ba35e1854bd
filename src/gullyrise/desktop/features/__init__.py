"""One folder for each thing that can be done; none imports another."""
