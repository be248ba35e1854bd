"""Every user action: one registry, one module a family."""
