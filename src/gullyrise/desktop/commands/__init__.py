"""Actions: the registry, their keys, running them."""
