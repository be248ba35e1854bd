"""Numbers only: no interface, no drawing, no printing, no threads of its own."""
