"""The machine, and the library of machines."""
